package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/costing"
	"gallipot/internal/core/declaration"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pack"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
)

// withJars are the shop's jars, each with an id; where nobody said, the usual ones.
func withJars(jars []pack.Jar) []pack.Jar {
	if jars == nil {
		return pack.Usual()
	}
	out := slices.Clone(jars)
	for i, j := range out {
		if j.ID == "" {
			out[i].ID = slug(j.Name)
		}
	}
	return out
}

func withStocks(stocks []labelart.Stock) []labelart.Stock {
	if stocks == nil {
		return labelart.UsualStocks()
	}
	out := slices.Clone(stocks)
	for i, k := range out {
		if k.ID == "" {
			out[i].ID = slug(k.Name)
		}
	}
	return out
}

// own leaves out jars and papers that are the usual ones: nobody said otherwise.
func (s Settings) own() Settings {
	if sameJSON(s.Jars, pack.Usual()) {
		s.Jars = nil
	}
	if sameJSON(s.Stocks, labelart.UsualStocks()) {
		s.Stocks = nil
	}
	if s.Pricing == costing.UsualPricing() {
		s.Pricing = costing.Pricing{}
	}
	return s
}

const mostStocks = 40

func (s Settings) checkStocks() []pantry.FieldError {
	if len(s.Stocks) > mostStocks {
		return []pantry.FieldError{{Field: "stocks", Message: fmt.Sprintf("at most %d kinds of paper", mostStocks)}}
	}
	var errs []pantry.FieldError
	ids := map[string]bool{}
	for i, k := range s.Stocks {
		at := fmt.Sprintf("stocks[%d].", i)
		errs = append(errs, k.Check(at)...)
		if ids[k.ID] {
			errs = append(errs, pantry.FieldError{Field: at + "name", Message: "two of one name"})
		}
		ids[k.ID] = true
	}
	return errs
}

// checkOnLabels checks what only labels bear.
func (s Settings) checkOnLabels() []pantry.FieldError {
	var errs []pantry.FieldError
	bad := func(field, msg string) { errs = append(errs, pantry.FieldError{Field: field, Message: msg}) }
	if len([]rune(s.Country)) > 60 {
		bad("country", "at most 60 characters")
	}
	for r, text := range s.LabelAddresses {
		if len([]rune(text)) > 300 {
			bad("label_addresses."+strings.ToLower(string(r)), "at most 300 characters")
		}
	}
	if err := (labelart.Design{Form: labelart.Plain, Colour: s.Colour}).Check(); err != nil {
		bad("colour", err.Error())
	}
	return errs
}

// jar is the jar of an id; one without sizes where the shop has none of it.
func (s Settings) jar(id string) pack.Jar {
	if i := slices.IndexFunc(s.Jars, func(j pack.Jar) bool { return j.ID == id }); i >= 0 && id != "" {
		return s.Jars[i]
	}
	return pack.Jar{}
}

// leastFull is the share of its brim to which a jar is filled that suits a fill.
const leastFull = 0.8

// suits is the jar that a fill suits, where one of the shop does and no other: it is filled well, and holds it.
func (s Settings) suits(v formula.Version) string {
	ml := v.FillVolume()
	if ml == 0 {
		ml = v.NetGrams().Float() // near enough to tell jars apart
	}
	var found []string
	for _, j := range s.Jars {
		if j.Sized() && ml <= j.ML && ml >= leastFull*j.ML {
			found = append(found, j.ID)
		}
	}
	if len(found) != 1 {
		return ""
	}
	return found[0]
}

// stock is the paper of an id.
func (s Settings) stock(id string) (labelart.Stock, bool) {
	if i := slices.IndexFunc(s.Stocks, func(k labelart.Stock) bool { return k.ID == id }); i >= 0 && id != "" {
		return s.Stocks[i], true
	}
	return labelart.Stock{}, false
}

// business is the name and address on labels under a law, and what is wrong with it.
func (s Settings) business(under *law.Law) (text, wrong string) {
	home, err := law.Of(s.Regime)
	if err != nil {
		home = under
	}
	country := s.Country
	if country == "" {
		country = home.Country
	}
	if own := strings.TrimSpace(s.LabelAddresses[under.Regime]); own != "" {
		return declaration.Business(under, s.Name, own, under.Country)
	}
	return declaration.Business(under, s.Name, s.Address, country)
}

// ShopMark is the shop's mark as it was cleaned.
type ShopMark struct {
	Kind string // svg or png
	Body []byte
}

// MarkStore keeps the shop's mark.
type MarkStore interface {
	Mark() (ShopMark, error)
	SaveMark(m ShopMark, by string) error
	DropMark() error
}

// SaveMark cleans and keeps the shop's mark, for all labels.
func (a *App) SaveMark(ctx context.Context, raw []byte) error {
	if err := may(ctx, people.Owner, "What the shop works by"); err != nil {
		return err
	}
	clean, kind, err := labelart.CleanMark(raw)
	if err != nil {
		return field("mark", "%s", sentence(err.Error()))
	}
	return a.in(ctx, func(st Store) error { return st.SaveMark(ShopMark{kind, clean}, actor(ctx).Name) })
}

// DropMark takes the shop's mark off its labels.
func (a *App) DropMark(ctx context.Context) error {
	if err := may(ctx, people.Owner, "What the shop works by"); err != nil {
		return err
	}
	return a.in(ctx, func(st Store) error { return st.DropMark() })
}

// Mark returns the shop's mark. Errors: ErrNotFound where it has none.
func (a *App) Mark(ctx context.Context) (ShopMark, error) { return a.on(ctx).Mark() }

// drawnMark is the mark as labels draw it; nil where there is none.
func drawnMark(st Store) (*labelart.Mark, error) {
	m, err := st.Mark()
	if errors.Is(err, ErrNotFound) {
		return nil, nil //nolint:nilnil // no mark is no error
	}
	if err != nil {
		return nil, err
	}
	return labelart.ReadMark(m.Body, m.Kind)
}
