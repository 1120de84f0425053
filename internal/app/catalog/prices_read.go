package catalog

import (
	"context"
	"fmt"
	"slices"
	"strconv"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/field"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/shop"
)

// PriceFile is a file being taken in, with the answers so far. Rows are keyed by line.
type PriceFile struct {
	Content []byte                       `json:"content"`
	Way     match.PriceWay               `json:"way"`
	Rows    map[string]match.PriceAnswer `json:"rows"`
}

// PriceReading is a file matched to the pantry, with all remaining questions at once.
type PriceReading struct {
	Header  []string            `json:"header"`
	Samples [][]string          `json:"samples"`
	Columns map[string]int      `json:"columns"`
	Fields  []match.PriceOption `json:"fields"`
	Way     match.PriceWay      `json:"way"`
	Known   bool                `json:"known"` // files of this shape were taken in before
	Asks    []match.PriceAsk    `json:"asks"`
	Rows    []match.PriceFound  `json:"rows"`
	Add     int                 `json:"add"`
	Same    int                 `json:"same"`
	Left    int                 `json:"left"`
	Open    int                 `json:"open"`
}

// ReadFile reads a price file. What is not said about its layout is taken from what is remembered of files of that
// shape.
type ReadFile func(content []byte, way match.PriceWay, s shop.Settings) (match.PriceTable, error)

// ReadPrices matches a price file to the pantry and stores nothing.
func (a *Room) ReadPrices(ctx context.Context, f PriceFile, read ReadFile) (PriceReading, error) {
	out, _, err := a.readPrices(a.On(ctx), f, read)
	return out, err
}

func (a *Room) readPrices(st kernel.Store, f PriceFile, read ReadFile) (PriceReading, match.PriceTable, error) {
	s, _, err := a.Settings(st)
	if err != nil {
		return PriceReading{}, match.PriceTable{}, err
	}
	t, err := read(f.Content, f.Way, s)
	if err != nil {
		return PriceReading{}, t, err
	}
	kept, known, err := st.PriceWay(t.Signature)
	if err != nil {
		return PriceReading{}, t, err
	}
	way := f.Way.Over(kept)
	if known {
		if t, err = read(f.Content, way, s); err != nil {
			return PriceReading{}, t, err
		}
	}
	out := PriceReading{Header: t.Header, Samples: t.Samples, Columns: t.Columns, Way: way, Known: known, Asks: t.Asks,
		Rows: []match.PriceFound{}, Fields: []match.PriceOption{}}
	for _, x := range match.PriceFields {
		out.Fields = append(out.Fields, match.PriceOption{Value: x.Key, Text: x.Name})
	}
	shelf, err := a.priceShelf(st, s)
	if err != nil {
		return out, t, err
	}
	for _, r := range t.Rows {
		answer := f.Rows[strconv.Itoa(r.Line)]
		x := shelf.Find(r, way)
		x.Wrong = slices.DeleteFunc(x.Wrong, func(e pantry.FieldError) bool { // asked once for the file
			return slices.ContainsFunc(t.Asks, func(q match.PriceAsk) bool { return q.Key == e.Field })
		})
		x.Left = x.Left || answer.Leave
		switch {
		case x.Left:
			out.Left++
		case x.Open(answer):
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

func (a *Room) priceShelf(st kernel.Store, s shop.Settings) (*match.PriceShelf, error) {
	rows, err := st.Ingredients()
	if err != nil {
		return nil, err
	}
	p := &match.PriceShelf{ByID: map[string]*pantry.Ingredient{}, Names: a.NamesOf(rows),
		Market: a.Market(st, s, a.TodayIn(s))}
	if p.Market.Rule == pantry.LotsPrice {
		p.Market.Rule = pantry.NewestPrice
	}
	for i := range rows {
		if !rows[i].Retired {
			p.ByID[rows[i].ID] = &rows[i].Data
		}
	}
	p.Book, err = a.ReaderBook(st)
	return p, err
}

// NamesOf are the names that the rows of the pantry go by.
func (a *Room) NamesOf(rows []kernel.Ingredient) *match.Names {
	n := match.NewNames()
	for i := range rows {
		n.Add(&rows[i].Data, a.Typical.Synonyms[rows[i].ID], rows[i].Retired)
	}
	return n
}

// leaps asks for a reason where a price typed on a page changes the cost of a usable gram more than threefold. The
// reason covers the price alone: anything else, such as an allergen that is lost, is asked about separately.
func (a *Room) leaps(ctx context.Context, st kernel.Store, old, now pantry.Ingredient) error {
	apart := !judgedBy(old, now)
	if apart && a.Stamp(ctx).Why != "" || len(old.Offers) == 0 {
		return nil
	}
	s, _, err := a.Settings(st)
	if err != nil {
		return err
	}
	shelf := match.PriceShelf{Market: a.Market(st, s, a.TodayIn(s))}
	for i, o := range now.Offers {
		if slices.ContainsFunc(old.Offers, func(x pantry.PriceOffer) bool { return match.SameOffer(x, o) }) {
			continue
		}
		x := match.PriceFound{Offer: o}
		was := now
		was.Offers = old.Offers
		shelf.Moves(&x, &was)
		if x.Held && !apart {
			return kernel.Mistake(fmt.Sprintf("offers[%d].price", i),
				"this moves a gram by more than three times: save what else you changed first, then this by itself")
		}
		if x.Held {
			return kernel.Problem{Kind: kernel.Refused, Code: "leaps", Message: fmt.Sprintf(
				"%s for %s %s: a usable %s would cost %s in the place of %s. Say why that is right, or put the price right.",
				o.Price.Fixed(2), o.PackAmount, o.PackUnit, match.UnitOfCost(now), x.Becomes.Fixed(2), x.Was.Fixed(2))}
		}
	}
	return nil
}

// ImportPrices takes in a price file, all of it or nothing, and remembers how it was read. A file with open questions
// is refused, and each such line is named.
func (a *Room) ImportPrices(ctx context.Context, f PriceFile, read ReadFile) (PriceImport, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return PriceImport{}, err
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (PriceImport, error) {
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
			case x.Same || match.Has(add[x.Ingredient], x.Offer):
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
			if err := st.ReplaceOffers(g.ID, append(g.Data.Offers, add[g.ID]...), a.Stamp(ctx)); err != nil {
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

// settled refuses a file with open questions.
func (r PriceReading) settled(f PriceFile) error {
	var errs field.Errors
	bad := errs.Bad
	for _, q := range r.Asks {
		bad(q.Key, q.Text)
	}
	for _, x := range r.Rows {
		at := fmt.Sprintf("line %d", x.Line)
		switch answer := f.Rows[strconv.Itoa(x.Line)]; {
		case x.Left || !x.Open(answer):
		case x.Ingredient == "":
			bad(at, fmt.Sprintf("which ingredient is %q?", field.Clip(x.Text)))
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
	return kernel.Problem{Kind: kernel.Invalid, Code: "price_list",
		Message: "Nothing was taken in; this is still open.",
		Fields:  errs}
}
