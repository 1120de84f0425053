package app

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
)

// PriceWay is how a supplier's file is to be read: what was asked about it once and is remembered with its header.
type PriceWay struct {
	Columns  map[string]int    `json:"columns,omitempty"`  // what stands in which column, from 0; -1: nowhere
	Decimal  string            `json:"decimal,omitempty"`  // "." or ","
	Days     string            `json:"days,omitempty"`     // day or month: which stands first in 03/04/2027
	Gallon   string            `json:"gallon,omitempty"`   // us or imperial
	Currency string            `json:"currency,omitempty"` // the sign that is taken for the shop's own
	Supplier string            `json:"supplier,omitempty"` // where no column names it
	Date     string            `json:"date,omitempty"`     // where no column says it; never remembered
	Names    map[string]string `json:"names,omitempty"`    // ingredient by the supplier's words; "-" is none of ours
}

// LeftOutName stands in PriceWay.Names for what is not taken in.
const LeftOutName = "-"

// PriceFields are what a column of a price file can hold, with what it is called.
var PriceFields = []struct{ Key, Name string }{{"ingredient", "what it is"}, {"price", "the price"},
	{"pack", "how much is in a pack"}, {"unit", "its unit"}, {"supplier", "the supplier"}, {"date", "from which day"},
	{"until", "until which day"}, {"delivery", "delivery a pack"}, {"tax", "tax in percent"}}

// PriceTable is a file as it was read by a way: its columns, what it leaves open, and its rows.
type PriceTable struct {
	Header    []string
	Columns   map[string]int
	Signature string
	Asks      []PriceAsk
	Rows      []PriceLine
	Samples   [][]string
}

// PriceAsk is something about the whole file that can be read in several ways.
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

// PriceFile is a file that is being taken in, with the answers so far. Rows are by line.
type PriceFile struct {
	Content []byte                 `json:"content"`
	Way     PriceWay               `json:"way"`
	Rows    map[string]PriceAnswer `json:"rows"`
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

// open reports whether the row still asks something.
func (f PriceFound) open(answer PriceAnswer) bool {
	return !f.Left && (f.Ingredient == "" || len(f.Wrong) > 0 || f.Held && !answer.Confirmed)
}

// PriceReading is a file matched to the pantry: everything that is still asked, at once.
type PriceReading struct {
	Header  []string       `json:"header"`
	Samples [][]string     `json:"samples"`
	Columns map[string]int `json:"columns"`
	Fields  []PriceOption  `json:"fields"`
	Way     PriceWay       `json:"way"`
	Known   bool           `json:"known"` // files of this shape were taken in before
	Asks    []PriceAsk     `json:"asks"`
	Rows    []PriceFound   `json:"rows"`
	Add     int            `json:"add"`
	Same    int            `json:"same"`
	Left    int            `json:"left"`
	Open    int            `json:"open"`
}

// ReadFile reads a price file by a way that is completed with what is remembered of its shape.
type ReadFile func(content []byte, way PriceWay, s Settings) (PriceTable, error)

// ReadPrices matches a price file to the pantry and stores nothing.
func (a *App) ReadPrices(ctx context.Context, f PriceFile, read ReadFile) (PriceReading, error) {
	out, _, err := a.readPrices(a.on(ctx), f, read)
	return out, err
}

func (a *App) readPrices(st Store, f PriceFile, read ReadFile) (PriceReading, PriceTable, error) {
	s, _, err := a.settings(st)
	if err != nil {
		return PriceReading{}, PriceTable{}, err
	}
	t, err := read(f.Content, f.Way, s)
	if err != nil {
		return PriceReading{}, t, err
	}
	kept, known, err := st.PriceWay(t.Signature)
	if err != nil {
		return PriceReading{}, t, err
	}
	way := f.Way.over(kept)
	if known {
		if t, err = read(f.Content, way, s); err != nil {
			return PriceReading{}, t, err
		}
	}
	out := PriceReading{Header: t.Header, Samples: t.Samples, Columns: t.Columns, Way: way, Known: known, Asks: t.Asks,
		Rows: []PriceFound{}, Fields: []PriceOption{}}
	for _, x := range PriceFields {
		out.Fields = append(out.Fields, PriceOption{x.Key, x.Name})
	}
	shelf, err := a.priceShelf(st, s)
	if err != nil {
		return out, t, err
	}
	for _, r := range t.Rows {
		answer := f.Rows[strconv.Itoa(r.Line)]
		x := shelf.find(r, way)
		x.Wrong = slices.DeleteFunc(x.Wrong, func(e pantry.FieldError) bool { // asked once for the file
			return slices.ContainsFunc(t.Asks, func(q PriceAsk) bool { return q.Key == e.Field })
		})
		x.Left = x.Left || answer.Leave
		switch {
		case x.Left:
			out.Left++
		case x.open(answer):
			out.Open++
		case x.Same:
			out.Same++
		default:
			out.Add++
		}
		out.Rows = append(out.Rows, x)
	}
	return out, t, nil
}

// over is a way with what is remembered where nothing was said.
func (w PriceWay) over(kept PriceWay) PriceWay {
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
		names[wordsIn(said)] = id
	}
	w.Names = names
	return w
}

// priceShelf is the pantry as prices are matched to it.
type priceShelf struct {
	byID   map[string]*pantry.Ingredient
	called map[string][]string // ids by the words of a name, in order of the alphabet
	list   []*pantry.Ingredient
	market pantry.Market
	book   *reader.Book
}

func (a *App) priceShelf(st Store, s Settings) (*priceShelf, error) {
	rows, err := st.Ingredients()
	if err != nil {
		return nil, err
	}
	p := &priceShelf{byID: map[string]*pantry.Ingredient{}, called: map[string][]string{},
		market: a.market(st, s, a.today(s))}
	if p.market.Rule == pantry.LotsPrice {
		p.market.Rule = pantry.NewestPrice
	}
	for i := range rows {
		g := &rows[i].Data
		if rows[i].Retired {
			continue
		}
		p.byID[g.ID], p.list = g, append(p.list, g)
		for _, key := range a.calledBy(g) {
			if key != "" && !slices.Contains(p.called[key], g.ID) {
				p.called[key] = append(p.called[key], g.ID)
			}
		}
	}
	p.book, err = a.readerBook(st)
	return p, err
}

// calledBy are the words of each name that an ingredient goes by.
func (a *App) calledBy(g *pantry.Ingredient) []string {
	out := []string{wordsIn(g.Name), wordsIn(g.ID)}
	for _, names := range [][]string{g.Synonyms, a.Typical.Synonyms[g.ID]} {
		for _, n := range names {
			out = append(out, wordsIn(n))
		}
	}
	return out
}

// wordsIn are the words of a name in the order of the alphabet: miso, white and White Miso are one.
func wordsIn(name string) string {
	words := strings.FieldsFunc(strings.ToLower(name),
		func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	slices.Sort(words)
	return strings.Join(words, " ")
}

// mostMove is by how many times a price may move a usable gram before it is held until somebody confirms it
// (handbook 07).
const mostMove = 3

// find places a row in the pantry and says what it would move.
func (p *priceShelf) find(r PriceLine, way PriceWay) PriceFound {
	x := PriceFound{Line: r.Line, Text: r.Name, Offer: r.Offer, Wrong: r.Wrong, Suggested: []PriceOption{}}
	if x.Wrong == nil {
		x.Wrong = []pantry.FieldError{}
	}
	said := way.Names[wordsIn(r.Name)]
	if said == LeftOutName {
		x.Left = true
		return x
	}
	g := p.byID[said]
	if g == nil {
		if ids := p.called[wordsIn(r.Name)]; len(ids) == 1 {
			g = p.byID[ids[0]]
		}
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
		x.Same = has(g.Offers, x.Offer)
		p.moves(&x, g)
	}
	return x
}

// moves says what a usable kilo costs today and would cost by the offer.
func (p *priceShelf) moves(x *PriceFound, g *pantry.Ingredient) {
	kilo := gramsInKilo
	if g.IsPackaging() {
		kilo = amount.Whole(1)
	}
	var was amount.Exact
	if c, err := g.Cost(p.market); err == nil {
		was = c.PerGram.Times(kilo)
		x.Was = &was
	}
	one := *g
	one.Offers = []pantry.PriceOffer{x.Offer}
	at := p.market
	if one.Offers[0].Date == "" {
		one.Offers[0].Date = at.Today.Format(pantry.DateLayout) // nobody said yet
	}
	if day, err := pantry.ParseDay(x.Offer.Date); err == nil {
		at.Today = day // what it will cost from its day on
	}
	c, err := one.Cost(at)
	if err != nil {
		x.Wrong = append(x.Wrong, pantry.FieldError{Field: "pack_unit", Message: fmt.Sprintf("%s: put it on its page first",
			sentence(strings.TrimPrefix(err.Error(), g.Name+": ")))})
		return
	}
	becomes := c.PerGram.Times(kilo)
	x.Becomes = &becomes
	if x.Was != nil && !x.Same && was.IsPositive() {
		times := becomes.Over(was)
		x.Held = times.Cmp(amount.Whole(mostMove)) > 0 || times.Cmp(amount.Ratio(1, mostMove)) < 0
	}
}

// leaps asks for a reason where a new price, typed on a page, moves a usable gram by more than three times. That reason
// is for the price alone: what else changes, as an allergen that is lost, is asked about by itself.
func (a *App) leaps(ctx context.Context, st Store, old, now pantry.Ingredient) error {
	apart := !judgedBy(old, now)
	if apart && a.stamp(ctx).Why != "" || len(old.Offers) == 0 {
		return nil
	}
	s, _, err := a.settings(st)
	if err != nil {
		return err
	}
	shelf := priceShelf{market: a.market(st, s, a.today(s))}
	for i, o := range now.Offers {
		if slices.ContainsFunc(old.Offers, func(x pantry.PriceOffer) bool { return sameOffer(x, o) }) {
			continue
		}
		x := PriceFound{Offer: o}
		was := now
		was.Offers = old.Offers
		shelf.moves(&x, &was)
		if x.Held && !apart {
			return field(fmt.Sprintf("offers[%d].price", i),
				"this moves a gram by more than three times: save what else you changed first, then this by itself")
		}
		if x.Held {
			return Problem{Kind: Refused, Code: "leaps", Message: fmt.Sprintf(
				"%s for %s %s: a usable %s would cost %s in the place of %s. Say why that is right, or put the price right.",
				o.Price.Fixed(2), o.PackAmount, o.PackUnit, unitOfCost(now), x.Becomes.Fixed(2), x.Was.Fixed(2))}
		}
	}
	return nil
}

// unitOfCost is what a cost is told of.
func unitOfCost(g pantry.Ingredient) string {
	if g.IsPackaging() {
		return "piece"
	}
	return "kg"
}

// mostSuggested is how many ingredients are offered for words that name none.
const mostSuggested = 4

// near are the ingredients that a supplier's words could mean, the likeliest first: what a reader of recipes hears in
// them, then those that share the most words.
func (p *priceShelf) near(name string) []PriceOption {
	out := []PriceOption{}
	add := func(id string) {
		if g := p.byID[id]; g != nil && len(out) < mostSuggested &&
			!slices.ContainsFunc(out, func(o PriceOption) bool { return o.Value == id }) {
			out = append(out, PriceOption{id, g.Name})
		}
	}
	for _, id := range p.called[wordsIn(name)] {
		add(id)
	}
	for _, l := range p.book.Read("100 g "+name, nil).Lines {
		add(l.Ingredient)
	}
	words := strings.Fields(wordsIn(name))
	type hit struct {
		id    string
		share float64
	}
	var hits []hit
	for _, g := range p.list {
		own := strings.Fields(wordsIn(g.Name))
		same := 0
		for _, w := range words {
			if len(w) > 2 && slices.Contains(own, w) {
				same++
			}
		}
		if same > 0 {
			hits = append(hits, hit{g.ID, float64(same) / float64(max(len(own), len(words)))})
		}
	}
	slices.SortStableFunc(hits, func(a, b hit) int {
		if a.share > b.share {
			return -1
		}
		if a.share < b.share {
			return 1
		}
		return strings.Compare(a.id, b.id)
	})
	for _, h := range hits {
		add(h.id)
	}
	return out
}

// ImportPrices takes a price file in, all or nothing, and remembers how it was read. A file that still asks something
// is refused, naming each line that does.
func (a *App) ImportPrices(ctx context.Context, f PriceFile, read ReadFile) (PriceImport, error) {
	by, err := person(ctx)
	if err != nil {
		return PriceImport{}, err
	}
	return once(ctx, a, func(st Store) (PriceImport, error) {
		out := PriceImport{Changed: []string{}}
		if err := st.LockPrices(); err != nil { // two lists at once must see each other's offers
			return out, err
		}
		r, t, err := a.readPrices(st, f, read)
		if err != nil {
			return out, err
		}
		if err := r.settled(f); err != nil {
			return out, err
		}
		add := map[string][]pantry.PriceOffer{}
		for _, x := range r.Rows {
			switch {
			case x.Left:
			case x.Same || has(add[x.Ingredient], x.Offer):
				out.Same++
			default:
				add[x.Ingredient] = append(add[x.Ingredient], x.Offer)
				out.Added++
			}
		}
		have, err := st.Ingredients()
		if err != nil {
			return out, err
		}
		for _, g := range have {
			if len(add[g.ID]) == 0 {
				continue
			}
			if err := st.ReplaceOffers(g.ID, append(g.Data.Offers, add[g.ID]...), a.stamp(ctx)); err != nil {
				return out, err
			}
			if err := st.TouchIngredient(g.ID, by); err != nil { // a page that is open must not put the old list back
				return out, err
			}
			out.Changed = append(out.Changed, g.Name)
		}
		way := r.Way
		way.Columns, way.Date = t.Columns, ""
		return out, st.PutPriceWay(t.Signature, way, by)
	})
}

// settled refuses a file that still asks something.
func (r PriceReading) settled(f PriceFile) error {
	var errs []pantry.FieldError
	bad := func(field, message string) {
		errs = append(errs, pantry.FieldError{Field: field, Message: message})
	}
	for _, q := range r.Asks {
		bad(q.Key, q.Text)
	}
	for _, x := range r.Rows {
		at := fmt.Sprintf("line %d", x.Line)
		switch answer := f.Rows[strconv.Itoa(x.Line)]; {
		case x.Left || !x.open(answer):
		case x.Ingredient == "":
			bad(at, fmt.Sprintf("which ingredient is %q?", clip(x.Text)))
		case len(x.Wrong) > 0:
			for _, e := range x.Wrong {
				bad(at+": "+e.Field, e.Message)
			}
		default:
			bad(at, "it moves a gram by more than three times: confirm it")
		}
	}
	if len(errs) == 0 {
		return nil
	}
	return Problem{Kind: Invalid, Code: "price_list", Message: "Nothing was taken in; this is still open.",
		Fields: errs}
}
