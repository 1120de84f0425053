// Package lots follows what came in: each delivery of an ingredient is a lot with its supplier's words, its end and
// what is left of it; a finished component batch and a part that was frozen are lots too. A lot is a record of acts
// that is read into what may be believed of it. What a batch took is told by the batch's own record.
package lots

import (
	"cmp"
	"fmt"
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/field"
	"gallipot/internal/core/pantry"
)

// Kinds of lots.
const (
	Incoming = "incoming" // came from a supplier
	OfBatch  = "batch"    // a batch of ours, by the jar or for the bowl
	Part     = "part"     // part of another lot, frozen
)

// States of a lot.
const (
	Waiting = "waiting" // came in, and nobody has accepted it
	Open    = "open"    // may be used
	OnHold  = "hold"
	Refused = "refused"
)

// Kinds of ends. A use-by ends what it goes into (handbook 06 rule 8); a best-before is a matter of quality.
const (
	UseBy      = "use_by"
	BestBefore = "best_before"
)

// perishables are ingredients whose own end limits the product: dairy, egg, opened tins, cooked pulses and vegetables,
// cut leaves (handbook 06 rule 8 and "What a rule may believe").
var perishables = []string{"fresh_dairy", "soft_cheese", "hard_cheese", "pasteurised_egg", "raw_egg",
	"canned_low_acid", "cooked_legume", "cooked_vegetable", "raw_herb", pantry.FlagPlantsInOil}

// chilled are ingredients that arrive cold.
var chilled = []string{"fresh_dairy", "soft_cheese", "pasteurised_egg"}

// lowAcidDry are nuts, seeds, spices and dried herbs (handbook 06 rule 11).
var lowAcidDry = []string{"nut_or_seed", "dried_spice", pantry.FlagSpice}

// NeedsEnd reports whether an ingredient's lots must carry a use-by: those flagged so, and what spoils once it is
// opened, as coconut cream.
func NeedsEnd(g *pantry.Ingredient) bool {
	return g != nil && (g.HasAny(perishables...) || spoilsOpened(g))
}

// Marks of what keeps by itself once it is opened, or is bought whole and fresh.
const (
	sourEnough  = 4.6  // pH
	wetEnough   = 30.0 // grams of water in 100 g
	saltyEnough = 10.0 // salt in water, percent
	sweetEnough = 50.0 // grams of sugars in 100 g
)

func spoilsOpened(g *pantry.Ingredient) bool {
	c := g.Composition
	return g.PH != nil && g.PH.High > sourEnough && c.Water >= wetEnough && c.Sugars < sweetEnough &&
		100*c.Salt() < saltyEnough*(c.Salt()+c.Water) && g.Chemistry == "" && !g.Dry() &&
		!g.HasAny("raw_vegetable", "raw_allium", "raw_fruit", "acidulant", pantry.FlagWater)
}

// NeedsProof reports whether each of an ingredient's lots needs a kill step: the supplier's statement or a recorded
// roast, whatever the pH (handbook 06 rule 11).
func NeedsProof(g *pantry.Ingredient) bool { return g != nil && g.HasAny(lowAcidDry...) }

// ArrivesCold reports whether an ingredient's temperature is taken on arrival.
func ArrivesCold(g *pantry.Ingredient) bool { return g != nil && g.HasAny(chilled...) }

// Received is what is known of a lot from its delivery. Grams are of the ingredient as bought.
type Received struct {
	Ingredient string        `json:"ingredient"`
	Supplier   string        `json:"supplier"`
	Text       string        `json:"text"`               // the supplier's own words for the lot
	Day        day.Day       `json:"day"`                // received
	Pack       string        `json:"pack"`               // as it was typed: 6 x 750 ml
	Grams      amount.Grams  `json:"grams"`              // of all of it
	Ends       day.Day       `json:"ends,omitempty"`     // last day
	EndKind    string        `json:"end_kind,omitempty"` // use_by or best_before; empty without an end
	Cost       *amount.Money `json:"cost"`               // of all of it, without tax; nil: not told
	ArrivalC   *float64      `json:"arrival_c"`          // taken on arrival; nil: not taken
	LimitC     *float64      `json:"limit_c"`            // that it may arrive at, at most
	Statement  string        `json:"statement"`          // the supplier's, of the kill step: where it stands
	Strength   *float64      `json:"strength"`           // grams of acid in 100 mL, as the packet states it
	PH         *float64      `json:"ph"`                 // as the packet states it
	List       string        `json:"list"`               // of ingredients, as printed on the packet
	Note       string        `json:"note,omitempty"`
}

const (
	maxText      = 200
	maxLot       = 80
	maxList      = 4000
	coldest      = -60.0 // °C on arrival
	warmest      = 60.0
	maxStrength  = 100.0
	leastReason  = 3 // letters
	maxAheadDays = 366 * 20
)

// Check lists what is wrong with a delivery of an ingredient. Today is the shop's day.
func (r Received) Check(g *pantry.Ingredient, today day.Day) []pantry.FieldError {
	var errs field.Errors
	bad := errs.Bad
	length := func(field, text string, most int) {
		if n := len([]rune(text)); n > most {
			bad(field, "at most %d characters; this has %d", most, n)
		}
	}
	if g == nil {
		bad("ingredient", "nothing in the pantry is called “%s”", short(r.Ingredient))
	}
	if strings.TrimSpace(r.Supplier) == "" {
		bad("supplier", "who brought it?")
	}
	length("supplier", r.Supplier, maxText)
	length("text", r.Text, maxLot)
	length("statement", r.Statement, maxText)
	length("list", r.List, maxList)
	length("note", r.Note, maxText)
	if !r.Grams.IsPositive() || r.Grams.Float() > amount.MaxGrams {
		bad("pack", "say how much came in: 2 kg, 6 x 750 ml, 12 pieces; above zero and at most 10 000 kg")
	}
	if r.Cost != nil && (r.Cost.IsNegative() || r.Cost.Float() > amount.MaxMoney) {
		bad("cost", "a cost is zero or more, and below ten million")
	}
	r.checkDays(g, today, bad)
	within := func(field string, v *float64, low, high float64, what string) {
		if v != nil && !(*v >= low && *v <= high) {
			bad(field, "%s lies between %g and %g", what, low, high)
		}
	}
	within("arrival_c", r.ArrivalC, coldest, warmest, "a temperature on arrival in °C")
	within("limit_c", r.LimitC, coldest, warmest, "a limit in °C")
	within("strength", r.Strength, 0, maxStrength, "grams of acid in 100 mL")
	within("ph", r.PH, 0, 14, "a pH")
	if _, err := pantry.ParseSupplierList(r.List); err != nil {
		bad("list", "%s", err.Error())
	}
	return errs
}

func (r Received) checkDays(g *pantry.Ingredient, today day.Day, bad func(field, format string, args ...any)) {
	day, err := pantry.ParseDay(r.Day)
	switch {
	case err != nil:
		bad("day", "the day it came in, as in 2026-11-25")
	case r.Day > today:
		bad("day", "this day has not come yet")
	}
	if r.Ends == "" {
		if NeedsEnd(g) {
			bad("ends", "%s is perishable: its use-by ends what it goes into", g.Name)
		}
		return
	}
	ends, wrong := pantry.ParseDay(r.Ends)
	switch {
	case wrong != nil:
		bad("ends", "a day as in 2026-11-25, or empty")
	case err == nil && ends.Sub(day).Hours() > 24*maxAheadDays:
		bad("ends", "that is more than twenty years ahead")
	}
	if r.EndKind != UseBy && r.EndKind != BestBefore {
		bad("end_kind", "is it a use-by day or one of best quality?")
	}
	if r.EndKind == BestBefore && NeedsEnd(g) {
		bad("end_kind", "%s is perishable: its end is a use-by", g.Name)
	}
}

func short(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}

// Warm says why a lot may not have been cold on its way; empty where it was, or where that is not asked.
func (r Received) Warm(g *pantry.Ingredient) string {
	switch {
	case r.ArrivalC == nil && ArrivesCold(g):
		return "its temperature on arrival was not taken"
	case r.ArrivalC != nil && r.LimitC != nil && *r.ArrivalC > *r.LimitC:
		return fmt.Sprintf("it arrived at %g °C, over %g °C", *r.ArrivalC, *r.LimitC)
	}
	return ""
}

// Looser names the fields that a correction makes less strict, which takes an owner.
func (r Received) Looser(is Received) []string {
	var out []string
	add := func(what string, looser bool) {
		if looser {
			out = append(out, what)
		}
	}
	add("another ingredient", r.Ingredient != is.Ingredient)
	add("a later end", r.Ends != "" && (is.Ends == "" || is.Ends > r.Ends))
	add("a best-before in the place of a use-by", r.EndKind == UseBy && is.EndKind == BestBefore)
	add("a lower temperature on arrival", lowered(r.ArrivalC, is.ArrivalC))
	add("a higher limit on arrival", lowered(is.LimitC, r.LimitC))
	add("a kill-step statement", strings.TrimSpace(r.Statement) == "" && strings.TrimSpace(is.Statement) != "")
	add("a stronger acid", lowered(is.Strength, r.Strength))
	add("a lower pH", lowered(r.PH, is.PH))
	add("another list of ingredients", !SameList(r.List, is.List))
	return out
}

// lowered reports whether a value went down, appeared or disappeared.
func lowered(was, is *float64) bool {
	if was == nil || is == nil {
		return was != is
	}
	return *is < *was
}

// SameList reports whether two lists of ingredients say the same, whatever their case and spacing.
func SameList(a, b string) bool { return plainList(a) == plainList(b) }

func plainList(s string) string {
	s = strings.ToLower(strings.Join(strings.Fields(s), " "))
	for _, mark := range []string{",", ";", "(", ")", "[", "]", ":"} {
		s = strings.ReplaceAll(s, " "+mark, mark)
		s = strings.ReplaceAll(s, mark+" ", mark)
	}
	return strings.TrimRight(strings.ReplaceAll(s, ";", ","), ". ,")
}

// Facts is what the rest of the program needs to know of a lot. Bar is why it may not be used on any day, in words;
// empty if it may. An end that is a use-by limits what the lot goes into.
type Facts struct {
	ID         int64   `json:"id"`
	Code       string  `json:"code"`
	Kind       string  `json:"kind"`
	Name       string  `json:"name"`
	Ingredient string  `json:"ingredient,omitempty"`
	Formula    string  `json:"formula,omitempty"`
	Version    int     `json:"version,omitempty"`
	Batch      int64   `json:"batch,omitempty"`
	Parent     int64   `json:"parent,omitempty"`
	Supplier   string  `json:"supplier,omitempty"`
	Text       string  `json:"text,omitempty"`
	State      string  `json:"state"`
	Bar        string  `json:"bar,omitempty"`
	Ends       day.Day `json:"ends,omitempty"`
	EndKind    string  `json:"end_kind,omitempty"`
	NeedsEnd   bool    `json:"needs_end,omitempty"`
	NeedsProof bool    `json:"needs_proof,omitempty"`
	Proof      string  `json:"proof,omitempty"` // of the kill step; empty: none
	// it counts for what was taken from this time on; empty: for all
	ProofFrom string        `json:"proof_from,omitempty"`
	Strength  *float64      `json:"strength,omitempty"`
	PH        *float64      `json:"ph,omitempty"`
	PerGram   *amount.Exact `json:"per_gram,omitempty"` // what a gram of it costs; nil: not known
	Frozen    bool          `json:"frozen,omitempty"`   // and not thawed
}

// CostPlaces is the number of decimals to which the cost of a gram of a lot is stored, far finer than anything shown or
// billed.
const CostPlaces = 12

// Same reports whether two facts are equal.
func (f Facts) Same(g Facts) bool {
	a, b := f, g
	a.PerGram, b.PerGram, a.Strength, b.Strength, a.PH, b.PH = nil, nil, nil, nil, nil, nil
	cost := f.PerGram == g.PerGram || f.PerGram != nil && g.PerGram != nil && f.PerGram.Cmp(*g.PerGram) == 0
	return a == b && cost && equal(f.Strength, g.Strength) && equal(f.PH, g.PH)
}

func equal(a, b *float64) bool { return a == b || a != nil && b != nil && *a == *b }

// Binds returns the day by which a lot limits what it goes into; empty if it does not.
func (f Facts) Binds() day.Day {
	if f.EndKind == UseBy {
		return f.Ends
	}
	return ""
}

// WhyNot returns why a lot may not go into the bowl on a day; empty if it may.
func (f Facts) WhyNot(day day.Day) string {
	switch {
	case f.Bar != "":
		return f.Bar
	case f.Frozen:
		return "it is frozen; thaw it first, on the day it is taken out"
	case f.Ends != "" && f.Ends < day:
		return "it is past its " + endWords[f.EndKind]
	}
	return ""
}

var endWords = map[string]string{UseBy: "use-by", BestBefore: "best"}

// FirstExpired sorts lots in the order of use: the earliest end first, then the earliest delivery; lots without an end
// come last.
func FirstExpired(a, b Facts) int {
	switch {
	case (a.Ends == "") != (b.Ends == ""):
		if a.Ends == "" {
			return 1
		}
		return -1
	case a.Ends != b.Ends:
		return cmp.Compare(a.Ends, b.Ends)
	}
	return int(a.ID - b.ID)
}
