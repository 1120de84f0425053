package app

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"
)

// Lot is what came in, a batch of ours, or a frozen part, as it is kept.
type Lot struct {
	ID         int64
	Code       string
	Kind       string
	Ingredient string // of an incoming one, and of its parts
	Batch      int64  // of ours, and of its parts
	Parent     int64  // of a part
	Delivery   int64
	CreatedAt  time.Time
	CreatedBy  string
}

// Delivery is what a supplier brought at once, under one note.
type Delivery struct {
	ID       int64     `json:"id"`
	Supplier string    `json:"supplier"`
	Note     string    `json:"note"`
	Day      string    `json:"day"`
	At       time.Time `json:"at"`
	By       string    `json:"by"`
}

// LotStanding is what is known of a lot, and what is left of it.
type LotStanding struct {
	lots.Facts
	lots.Book
	Used    amount.Grams `json:"used_g"`
	Left    amount.Grams `json:"on_hand_g"`
	Differs bool         `json:"list_differs"`
}

// DrawnIn is what a batch took of a lot.
type DrawnIn struct {
	Batch int64
	Grams amount.Grams
}

// StockQuery says which lots a list shows. Show: there (what is left, or waits), ends (past their end by a day), hold,
// waiting.
type StockQuery struct {
	Show       string
	Ingredient string
	Find       string
	Until      string // of Show ends: the last day that counts
}

// StockSum is what is there of one ingredient, or of one component's version.
type StockSum struct {
	Ingredient string        `json:"ingredient"`
	Formula    string        `json:"formula"`
	Name       string        `json:"name"`
	Lots       int           `json:"lots"`
	Held       int           `json:"held"` // of them on hold, refused or waiting
	Usable     amount.Grams  `json:"usable_g"`
	There      amount.Grams  `json:"there_g"` // held and past ones too
	Past       amount.Grams  `json:"past_g"`  // past its end
	Ends       string        `json:"ends"`    // the first usable one
	Worth      *amount.Exact `json:"worth"`   // of what is there, where the cost of all of it is known
}

// LotStore keeps lots, their records and where they stand.
type LotStore interface {
	AddDelivery(d *Delivery) error
	Delivery(id int64) (*Delivery, error)
	DeliveriesUnder(supplier, note string) ([]Delivery, error)
	AddLot(l *Lot) error
	NextLotCode() (string, error)
	Lots(ids ...int64) ([]Lot, error)
	LotIDs(ofBatches bool) ([]int64, error)
	LotsOfBatches(batches ...int64) ([]Lot, error)
	LotsCalled(texts ...string) ([]LotStanding, error)
	PartsOf(parents ...int64) ([]int64, error)
	LotEntries(ids ...int64) (map[int64][]lots.Entry, error)
	AddLotEntry(lot int64, e lots.Entry, key string, digest []byte) error
	LotEntryKey(lot int64, key string) (digest []byte, err error)
	LastList(ingredient string) (list string, known bool, err error)

	PutLotStandings(list ...LotStanding) error
	LotStandings(ids ...int64) ([]LotStanding, error)
	LotsThere(ingredients []string, components []formula.Ref) ([]LotStanding, error)
	ListLots(q StockQuery, most int) ([]LotStanding, int, error)
	Stock(today string) ([]StockSum, error)
	KeptInLots(ingredients []string) ([]string, error)

	PutDraws(batch int64, was, took []bench.Took) error
	Recount(ids ...int64) error
	DrawsOf(batches ...int64) (map[int64][]bench.Took, error)
	UsedOf(ids ...int64) (map[int64]amount.Grams, error)
	DrawnBy(ids ...int64) (map[int64][]DrawnIn, error)
}

// LotView is a lot as a page.
type LotView struct {
	LotStanding
	Record    lots.Lot      `json:"record"`
	Entries   []lots.Entry  `json:"entries"`
	Delivery  *Delivery     `json:"delivery"`
	Into      []LotInto     `json:"into"` // batches that took of it, the newest first
	IntoAll   int           `json:"into_all"`
	Parts     []LotStanding `json:"parts"`
	Twins     []lots.Facts  `json:"twins"` // other lots with the same words of the same supplier
	WhyNot    string        `json:"why_not"`
	Asks      string        `json:"asks"` // what stands against accepting it
	CanFreeze bool          `json:"can_freeze"`
}

// LotInto is a batch that took of a lot.
type LotInto struct {
	BatchRow
	Grams amount.Grams `json:"taken_g"`
}

// mostInto is how many batches the page of a lot names.
const mostInto = 100

// Lot returns a lot as a page.
func (a *App) Lot(ctx context.Context, id int64) (LotView, error) {
	return a.lotView(a.on(ctx), id)
}

func (a *App) lotView(st Store, id int64) (LotView, error) {
	l, err := a.lot(st, id)
	if err != nil {
		return LotView{}, err
	}
	v := LotView{LotStanding: l.standing, Record: l.record, Entries: l.entries, Into: []LotInto{},
		Parts: []LotStanding{}, Twins: []lots.Facts{}, WhyNot: l.standing.WhyNot(l.today)}
	if v.Entries == nil {
		v.Entries = []lots.Entry{}
	}
	if l.record.Kind == lots.Incoming {
		v.Asks = l.record.CameIn.Warm(l.g)
		if v.Delivery, err = st.Delivery(l.row.Delivery); err != nil {
			return v, err
		}
		if v.Twins, err = twins(st, l.standing.Facts); err != nil {
			return v, err
		}
	}
	v.CanFreeze = l.fold.CanFreeze(l.standing.Facts, v.Left, l.today, l.moment()) == nil
	if err := a.into(st, &v); err != nil {
		return v, err
	}
	parts, err := st.PartsOf(id)
	if err != nil || len(parts) == 0 {
		return v, err
	}
	v.Parts, err = st.LotStandings(parts...)
	return v, err
}

func twins(st Store, f lots.Facts) ([]lots.Facts, error) {
	out := []lots.Facts{}
	if f.Text == "" {
		return out, nil
	}
	list, err := st.LotsCalled(f.Text)
	if err != nil {
		return out, err
	}
	return append(out, lots.Twins(factsIn(list), f)...), nil
}

func factsIn(list []LotStanding) []lots.Facts {
	out := make([]lots.Facts, len(list))
	for i, x := range list {
		out[i] = x.Facts
	}
	return out
}

// into names the batches that took of a lot.
func (a *App) into(st Store, v *LotView) error {
	drawn, err := st.DrawnBy(v.ID)
	if err != nil {
		return err
	}
	took := map[int64]amount.Grams{}
	var ids []int64
	for _, d := range drawn[v.ID] {
		if _, seen := took[d.Batch]; !seen {
			ids = append(ids, d.Batch)
		}
		took[d.Batch] = took[d.Batch].Plus(d.Grams)
	}
	v.IntoAll = len(ids)
	slices.SortFunc(ids, func(x, y int64) int { return int(y - x) })
	rows, err := st.ListedBatches(ids[:min(len(ids), mostInto)])
	for _, r := range rows {
		v.Into = append(v.Into, LotInto{batchRow(r), took[r.Batch]})
	}
	return err
}

// aLot is a lot with everything its page and its acts rest on.
type aLot struct {
	row      Lot
	g        *pantry.Ingredient
	record   lots.Lot
	entries  []lots.Entry
	fold     *lots.Fold
	standing LotStanding
	today    string
}

func (l aLot) moment() lots.Moment {
	return lots.Moment{Today: l.today, There: l.standing.Left,
		Drawn: l.standing.Used.IsPositive() || l.standing.Parted.IsPositive()}
}

// lot reads a lot with its record.
func (a *App) lot(st Store, id int64) (aLot, error) {
	list, err := st.Lots(id)
	if err != nil {
		return aLot{}, err
	}
	if len(list) == 0 {
		return aLot{}, fmt.Errorf("lot %d: %w", id, ErrNotFound)
	}
	s, _, err := a.settings(st)
	if err != nil {
		return aLot{}, err
	}
	l := aLot{row: list[0], today: a.today(s).Format(pantry.DateLayout)}
	entries, err := st.LotEntries(id)
	if err != nil {
		return l, err
	}
	if l.g, err = ingredientOf(st, isOf(l.row, entries[id])); err != nil {
		return l, err
	}
	l.read(entries[id])
	standings, err := st.LotStandings(id)
	if err != nil {
		return l, err
	}
	if len(standings) > 0 {
		l.standing = standings[0]
	}
	return l, nil
}

func (l *aLot) read(entries []lots.Entry) {
	l.entries = entries
	l.fold = lots.NewFold(l.row.Kind, l.g)
	for _, e := range entries {
		l.fold.Add(e)
	}
	l.record = l.fold.Lot()
}

// isOf is the ingredient that a lot is of, as its record says; a part is of what its whole was.
func isOf(row Lot, entries []lots.Entry) string {
	if of := lots.IngredientIn(entries); of != "" {
		return of
	}
	return row.Ingredient
}

func ingredientOf(st Store, id string) (*pantry.Ingredient, error) {
	if id == "" {
		return nil, nil
	}
	row, err := st.Ingredient(id)
	return &row.Data, err
}

// stand works out where a lot stands by its record and what is kept of what it rests on. One of a batch of ours is
// judged with its batch.
func (a *App) stand(st Store, l *aLot) (LotStanding, error) {
	used, err := st.UsedOf(l.row.ID)
	if err != nil {
		return LotStanding{}, err
	}
	s := LotStanding{Book: l.record.Received, Used: used[l.row.ID], Differs: l.record.Differs}
	switch l.row.Kind {
	case lots.Incoming:
		s.Facts = l.record.FactsOf(l.row.ID, l.row.Code, l.g)
	case lots.Part:
		parent, err := st.LotStandings(l.row.Parent)
		if err != nil || len(parent) == 0 {
			return s, errors.Join(err, fmt.Errorf("lot %d: its whole is not there", l.row.ID))
		}
		s.Facts = l.record.Of(l.row.ID, l.row.Code, parent[0].Facts)
	default:
		return l.standing, nil
	}
	s.Left = s.OnHand(s.Used)
	return s, nil
}

var lotCode = regexp.MustCompile(`^(?:[pP]?([0-9]{4,})|[lL]?([0-9]{2}-[0-9]{3}-[a-zA-Z]{1,2}))$`)

// LotCode is a code as it stands on a sticker or a jar, of what was typed or scanned; empty for what is none.
func LotCode(typed string) string {
	m := lotCode.FindStringSubmatch(strings.TrimSpace(typed))
	switch {
	case m == nil:
		return ""
	case m[1] != "":
		return "P" + m[1]
	}
	return strings.ToUpper(m[2])
}

// refusal puts what a record refuses into the shape of a problem. now is the record as it stands, for whoever is
// behind.
func refusalOf(err error, now any) error {
	var r entry.Refusal
	if !errors.As(err, &r) {
		return err
	}
	switch {
	case r.Code == entry.Behind:
		return Problem{Kind: Clash, Code: r.Code, Message: r.Message, Current: now}
	case r.Code == entry.NotYours:
		return Problem{Kind: Forbidden, Code: r.Code, Message: r.Message}
	case r.Field != "":
		return field(r.Field, "%s", r.Message)
	}
	return refused(r.Code, "%s", r.Message)
}
