package lots

import (
	"fmt"
	"strings"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/pantry"
)

// ThawedDays is how long thawed goods keep, if less was not left when they were frozen (handbook 06 rule 10).
const ThawedDays = 4

// Lot is the state of a lot by its own acts, without what batches took from it.
type Lot struct {
	Kind     string     `json:"kind"`
	CameIn   CameIn     `json:"came_in"`
	Froze    *Froze     `json:"froze"`
	State    string     `json:"state"`
	Why      string     `json:"why"` // it is on hold or refused
	By       string     `json:"by"`  // who accepted, refused or held it last
	At       *time.Time `json:"at"`
	Differs  bool       `json:"list_differs"` // printed differently from the last, and nobody has compared it yet
	Proof    string     `json:"proof"`
	From     string     `json:"proof_from"`
	Thawed   day.Day    `json:"thawed"`
	Last     int64      `json:"last"` // entry
	Received Book       `json:"-"`
}

// Book is a lot's grams by its own acts: received, corrected by counts, and split off as other lots.
type Book struct {
	In        amount.Grams `json:"received_g"`
	Corrected amount.Grams `json:"corrected_g"` // more (or less, below 0) than the book said; what was thrown is in it
	Thrown    amount.Grams `json:"thrown_g"`
	Parted    amount.Grams `json:"parted_g"`
}

// OnHand returns what is left: received + corrected - parted - used. It may be negative.
func (b Book) OnHand(used amount.Grams) amount.Grams {
	return b.In.Plus(b.Corrected).Minus(b.Parted).Minus(used)
}

// Fold replays a lot act by act.
type Fold struct {
	l Lot
	g *pantry.Ingredient // that it is of; nil for a batch of ours
}

// IngredientIn returns the ingredient that a lot's acts name last; empty if they name none.
func IngredientIn(entries []Entry) string {
	of := ""
	for _, e := range entries {
		switch x := e.Body.(type) {
		case *CameIn:
			of = x.Ingredient
		case *Corrected:
			of = x.Ingredient
		}
	}
	return of
}

// NewFold begins the record of a lot of a kind. g is its ingredient; nil for a batch of our own.
func NewFold(kind string, g *pantry.Ingredient) *Fold {
	f := &Fold{l: Lot{Kind: kind, State: Open}, g: g}
	if kind == Incoming {
		f.l.State = Waiting
	}
	return f
}

// Read folds a lot's acts in their order.
func Read(kind string, g *pantry.Ingredient, entries []Entry) Lot {
	f := NewFold(kind, g)
	for _, e := range entries {
		f.Add(e)
	}
	return f.Lot()
}

// Lot returns the state of the lot by the acts so far.
func (f *Fold) Lot() Lot { return f.l }

// Add applies one more act without checking it; a writer calls Refuses first.
func (f *Fold) Add(e Entry) {
	f.l.Last = max(f.l.Last, e.ID)
	kinds.Fold(f, Act{Entry: e}, e.Body)
}

func (f *Fold) cameIn(_ Act, x *CameIn) { f.know(*x) }

func (f *Fold) corrected(_ Act, x *Corrected) { f.know(x.CameIn) }

func (f *Fold) accepted(e Act, x *Accepted) { f.decide(e, Open, x.Reason) }

func (f *Fold) turnedAway(e Act, x *TurnedAway) { f.decide(e, Refused, x.Reason) }

func (f *Fold) held(e Act, x *Held) { f.decide(e, OnHold, x.Reason) }

func (f *Fold) freed(e Act, _ *Freed) { f.decide(e, Open, "") }

func (f *Fold) compared(Act, *Compared) { f.l.Differs = false }

func (f *Fold) counted(_ Act, x *Counted) {
	f.l.Received.Corrected = f.l.Received.Corrected.Plus(x.Change)
	if x.Thrown {
		f.l.Received.Thrown = f.l.Received.Thrown.Minus(x.Change)
	}
}

func (f *Fold) stated(_ Act, x *Stated) { f.l.Proof, f.l.From = x.Statement, "" }

func (f *Fold) roasted(e Act, x *Roasted) {
	if f.l.Proof == "" || f.l.From != "" {
		f.l.Proof = fmt.Sprintf("roasted at %g °C for %g min", x.C, x.Minutes)
		f.l.From = e.At.UTC().Format(time.RFC3339Nano)
	}
}

func (f *Fold) parted(_ Act, x *Parted) { f.l.Received.Parted = f.l.Received.Parted.Plus(x.Grams) }

func (f *Fold) froze(_ Act, x *Froze) { f.l.Froze, f.l.Received.In = x, x.Grams }

func (f *Fold) thawed(_ Act, x *Thawed) { f.l.Thawed = x.Day }

func (f *Fold) know(x CameIn) {
	f.l.Differs = x.List != "" && !SameList(x.List, x.Was) && (f.l.Differs || !SameList(x.List, f.l.CameIn.List))
	f.l.CameIn, f.l.Received.In = x, x.Grams
	if s := strings.TrimSpace(x.Statement); s != "" {
		f.l.Proof, f.l.From = s, ""
	} else if f.l.From == "" {
		f.l.Proof = ""
	}
}

func (f *Fold) decide(e Act, state, why string) {
	at := e.At
	f.l.State, f.l.Why, f.l.By, f.l.At = state, why, e.By, &at
}

// endsOf is a frozen part's last day: by its freezing, or by its thawing and what its whole had left when it was frozen
// (handbook 06 rule 10: freezing stops the clock). What is known of the whole's end today counts.
func (l Lot) endsOf(whole Facts) day.Day {
	from, days := l.Froze.Day, l.Froze.Days
	if l.Thawed != "" {
		from, days = l.Thawed, ThawedDays
		if left := l.left(whole); left != nil {
			days = min(days, *left)
		}
	}
	on, err := pantry.ParseDay(from)
	if err != nil {
		return ""
	}
	return day.Of(on.AddDate(0, 0, days))
}

// left returns how many days the whole lot had left on the day of freezing; nil if it has no end.
func (l Lot) left(whole Facts) *int {
	ends, err1 := pantry.ParseDay(whole.Ends)
	froze, err2 := pantry.ParseDay(l.Froze.Day)
	if err1 != nil || err2 != nil {
		return l.Froze.Left
	}
	n := max(0, int(ends.Sub(froze).Hours()/24))
	return &n
}

// Bar returns why the lot may not be used, by its own acts.
func (l Lot) Bar() string {
	switch l.State {
	case Waiting:
		return "nobody has accepted it yet"
	case OnHold:
		return "it is on hold: " + l.Why
	case Refused:
		return "it was refused: " + l.Why
	}
	if l.Differs {
		return "its list of ingredients is printed differently, and nobody has looked at the allergens again"
	}
	return ""
}

// FactsOf returns the facts of an incoming lot.
func (l Lot) FactsOf(id int64, code string, g *pantry.Ingredient) Facts {
	x := l.CameIn
	f := Facts{ID: id, Code: code, Kind: l.Kind, Ingredient: x.Ingredient, Supplier: x.Supplier, Text: x.Text,
		State: l.State, Bar: l.Bar(), Ends: x.Ends, EndKind: x.EndKind, NeedsEnd: NeedsEnd(g),
		NeedsProof: NeedsProof(g),
		Proof:      l.Proof, ProofFrom: l.From, Strength: x.Strength, PH: x.PH}
	if g != nil {
		f.Name = g.Name
	}
	if f.NeedsEnd && f.Ends != "" {
		f.EndKind = UseBy
	}
	if x.Cost != nil && x.Grams.IsPositive() {
		per := x.Cost.Exact().Over(x.Grams.Exact()).Round(CostPlaces)
		f.PerGram = &per
	}
	return f
}

// Of returns the facts of a frozen part: its lot's, with its own end and what bars either.
func (l Lot) Of(id int64, code string, parent Facts) Facts {
	f := parent
	f.ID, f.Code, f.Kind, f.Parent = id, code, Part, parent.ID
	f.State, f.Bar = l.State, l.Bar()
	if f.Bar == "" && parent.Bar != "" {
		f.State, f.Bar = OnHold, fmt.Sprintf("it is part of %s: %s", parent.Code, parent.Bar)
	}
	f.Ends, f.EndKind, f.Frozen = l.endsOf(parent), UseBy, l.Thawed == ""
	return f
}
