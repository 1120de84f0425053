package match

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/field"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
)

// GramsInKilo turns a rate per gram into one per kilogram.
var GramsInKilo = amount.Whole(1000)

// Has reports whether an offer is there already.
func Has(offers []pantry.PriceOffer, x pantry.PriceOffer) bool {
	return slices.ContainsFunc(offers, func(o pantry.PriceOffer) bool { return SameOffer(o, x) })
}

// SameOffer reports whether two offers are one.
func SameOffer(a, b pantry.PriceOffer) bool {
	a.ID, b.ID = "", ""
	return a == b
}

// PriceWay is how a supplier's file is to be read: what was asked about it once and is remembered with its header.
type PriceWay struct {
	Columns  map[string]int    `json:"columns,omitempty"`  // what stands in which column, from 0; -1: nowhere
	Decimal  string            `json:"decimal,omitempty"`  // "." or ","
	Days     string            `json:"days,omitempty"`     // day or month: which stands first in 03/04/2027
	Gallon   string            `json:"gallon,omitempty"`   // us or imperial
	Currency string            `json:"currency,omitempty"` // the sign that is taken for the shop's own
	Supplier string            `json:"supplier,omitempty"` // where no column names it
	Date     day.Day           `json:"date,omitempty"`     // where no column says it; never remembered
	Names    map[string]string `json:"names,omitempty"`    // ingredient by the supplier's words; "-" is none of ours
}

// LeftOutName stands in PriceWay.Names for what is not taken in.
const LeftOutName = "-"

// PriceFields are what a column of a price file can hold, with what it is called.
var PriceFields = []struct{ Key, Name string }{{"ingredient", "what it is"}, {"price", "the price"},
	{"pack", "how much is in a pack"}, {"unit", "its unit"}, {"supplier", "the supplier"}, {"date", "from which day"},
	{"until", "until which day"}, {"delivery", "delivery a pack"}, {"tax", "tax in percent"}}

// PriceTable is a file as read in one way: its columns, its open questions and its rows.
type PriceTable struct {
	Header    []string
	Columns   map[string]int
	Signature string
	Asks      []PriceAsk
	Rows      []PriceLine
	Samples   [][]string
}

// PriceAsk is something about the whole file that can be read in more than one way.
type PriceAsk struct {
	Key       string        `json:"key"` // a field of PriceWay, or column: and a field
	Text      string        `json:"text"`
	Options   []PriceOption `json:"options"` // none: it is typed
	Suggested string        `json:"suggested"`
}

// PriceOption is an answer.
type PriceOption struct {
	Value string `json:"value"`
	Text  string `json:"text"`
}

// PriceLine is a row of a price file, with what is wrong in its cells.
type PriceLine struct {
	Line  int
	Name  string
	Offer pantry.PriceOffer
	Wrong []pantry.FieldError
}

// PriceAnswer is what was decided about one row.
type PriceAnswer struct {
	Leave     bool `json:"leave"`
	Confirmed bool `json:"confirmed"` // that its price moves so far
}

// PriceFound is a row as it would be taken in.
type PriceFound struct {
	Line       int                 `json:"line"`
	Text       string              `json:"text"`
	Ingredient string              `json:"ingredient"` // empty: nobody said which it is
	Name       string              `json:"name"`
	Suggested  []PriceOption       `json:"suggested"`
	Offer      pantry.PriceOffer   `json:"offer"`
	Was        *amount.Exact       `json:"was_per_kg"` // usable; of a part of the pack a piece
	Becomes    *amount.Exact       `json:"becomes_per_kg"`
	Held       bool                `json:"held"` // it moves a gram by more than three times
	Same       bool                `json:"same"` // it is there already
	Left       bool                `json:"left"`
	Wrong      []pantry.FieldError `json:"wrong"`
}

// Open reports whether the row still asks something.
func (f PriceFound) Open(answer PriceAnswer) bool {
	return !f.Left && (f.Ingredient == "" || len(f.Wrong) > 0 || f.Held && !answer.Confirmed)
}

// Over is a way with what is remembered where nothing was said.
func (w PriceWay) Over(kept PriceWay) PriceWay {
	if w.Columns == nil {
		w.Columns = kept.Columns
	}
	for _, x := range []struct {
		mine *string
		old  string
	}{{&w.Decimal, kept.Decimal}, {&w.Days, kept.Days}, {&w.Gallon, kept.Gallon}, {&w.Currency, kept.Currency},
		{&w.Supplier, kept.Supplier}} {
		if *x.mine == "" {
			*x.mine = x.old
		}
	}
	names := map[string]string{}
	for said, id := range kept.Names {
		names[said] = id
	}
	for said, id := range w.Names {
		names[WordsIn(said)] = id
	}
	w.Names = names
	return w
}

// PriceShelf is the pantry as prices are matched to it.
type PriceShelf struct {
	ByID   map[string]*pantry.Ingredient
	Names  *Names
	Market pantry.Market
	Book   *reader.Book
}

// mostMove is by how many times a price may move a usable gram before it is held until somebody confirms it
// (handbook 07).
const mostMove = 3

// Find places a row in the pantry and says what it would move.
func (p *PriceShelf) Find(r PriceLine, way PriceWay) PriceFound {
	x := PriceFound{Line: r.Line, Text: r.Name, Offer: r.Offer, Wrong: r.Wrong, Suggested: []PriceOption{}}
	if x.Wrong == nil {
		x.Wrong = []pantry.FieldError{}
	}
	said := way.Names[WordsIn(r.Name)]
	if said == LeftOutName {
		x.Left = true
		return x
	}
	g := p.ByID[said]
	if g == nil {
		g = p.ByID[p.Names.Typically(r.Name)]
	}
	if g == nil {
		x.Suggested = p.near(r.Name)
		return x
	}
	x.Ingredient, x.Name = g.ID, g.Name
	if len(x.Wrong) > 0 {
		return x
	}
	x.Wrong = append(x.Wrong, x.Offer.Check()...)
	if g.IsPackaging() && x.Offer.PackUnit != "piece" {
		x.Wrong = append(x.Wrong, pantry.FieldError{Field: "pack_unit",
			Message: "parts of the pack are bought by the piece"})
	}
	beside := func(e pantry.FieldError) bool { return e.Field == "supplier" || e.Field == "date" }
	if !slices.ContainsFunc(x.Wrong, func(e pantry.FieldError) bool { return !beside(e) }) {
		x.Same = Has(g.Offers, x.Offer)
		p.Moves(&x, g)
	}
	return x
}

// Moves says what a usable kilo costs today and would cost by the offer.
func (p *PriceShelf) Moves(x *PriceFound, g *pantry.Ingredient) {
	kilo := GramsInKilo
	if g.IsPackaging() {
		kilo = amount.Whole(1)
	}
	var was amount.Exact
	if c, err := g.Cost(p.Market); err == nil {
		was = c.PerGram.Times(kilo)
		x.Was = &was
	}
	one := *g
	one.Offers = []pantry.PriceOffer{x.Offer}
	at := p.Market
	if one.Offers[0].Date == "" {
		one.Offers[0].Date = day.Of(at.Today) // nobody said yet
	}
	if day, err := pantry.ParseDay(x.Offer.Date); err == nil {
		at.Today = day // what it will cost from its day on
	}
	c, err := one.Cost(at)
	if err != nil {
		x.Wrong = append(x.Wrong, pantry.FieldError{Field: "pack_unit",
			Message: fmt.Sprintf("%s: put it on its page first",
				field.Sentence(strings.TrimPrefix(err.Error(), g.Name+": ")))})
		return
	}
	becomes := c.PerGram.Times(kilo)
	x.Becomes = &becomes
	if x.Was != nil && !x.Same && was.IsPositive() {
		times := becomes.Over(was)
		x.Held = times.Cmp(amount.Whole(mostMove)) > 0 || times.Cmp(amount.Ratio(1, mostMove)) < 0
	}
}

// UnitOfCost is what a cost is told of.
func UnitOfCost(g pantry.Ingredient) string {
	if g.IsPackaging() {
		return "piece"
	}
	return "kg"
}

// mostSuggested is how many ingredients are offered for words that name none.
const mostSuggested = 4

// near are the ingredients that a supplier's words could mean, the likeliest first.
func (p *PriceShelf) near(name string) []PriceOption {
	out := []PriceOption{}
	for _, id := range p.Names.Near(name, p.Book) {
		if g := p.ByID[id]; g != nil && len(out) < mostSuggested {
			out = append(out, PriceOption{id, g.Name})
		}
	}
	return out
}
