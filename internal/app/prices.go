package app

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/costing"
	"gallipot/internal/core/pantry"
)

// PriceStore keeps the offers of ingredients.
type PriceStore interface {
	LockPrices() error
	ReplaceOffers(id string, offers []pantry.PriceOffer, by Stamp) error
}

// rate answers what a usable gram costs: by its own price, or through the step that makes it.
func (a *App) rate(st Store, s Settings) (costing.Rate, error) {
	steps, _, err := a.steps(st)
	if err != nil {
		return nil, err
	}
	return a.rateWith(st, s, steps), nil
}

func (a *App) rateWith(st Store, s Settings, steps []pantry.Preparation) costing.Rate {
	return a.rateOf(st, s, steps, map[string]pantry.Ingredient{})
}

// rateOf is rateWith that knows some ingredients behind steps, and remembers those that it meets.
func (a *App) rateOf(st Store, s Settings, steps []pantry.Preparation,
	behind map[string]pantry.Ingredient) costing.Rate {
	st = bare(st)
	return costing.Remember(costing.ThroughSteps(costing.PriceBy(s.PriceRule, a.today(s), s.StaleDays), steps,
		func(id string) (pantry.Ingredient, bool) {
			if g, known := behind[id]; known {
				return g, true
			}
			row, err := st.Ingredient(id)
			if err == nil {
				behind[id] = row.Data
			}
			return row.Data, err == nil
		}))
}

// PriceRow is one line of a price list.
type PriceRow struct {
	Line       int
	Ingredient string // id or name
	Offer      pantry.PriceOffer
}

// wrong names a mistake with the line of the list it stands on.
func (r PriceRow) wrong(column, message string) pantry.FieldError {
	return pantry.FieldError{Field: fmt.Sprintf("line %d: %s", r.Line, column), Message: message}
}

// PriceImport says what a price list would do or did.
type PriceImport struct {
	Added   int      `json:"added"`
	Same    int      `json:"same"`
	Changed []string `json:"changed"`
}

// ImportPrices adds the offers of a price list, all or nothing: a row that cannot be placed refuses the whole list,
// naming each.
func (a *App) ImportPrices(ctx context.Context, rows []PriceRow) (PriceImport, error) {
	if _, err := person(ctx); err != nil {
		return PriceImport{}, err
	}
	return once(ctx, a, func(st Store) (PriceImport, error) {
		out := PriceImport{Changed: []string{}}
		if err := st.LockPrices(); err != nil { // two lists at once must see each other's offers
			return out, err
		}
		have, err := st.Ingredients()
		if err != nil {
			return out, err
		}
		at := placesOf(have)
		var errs []pantry.FieldError
		touched := map[int]bool{}
		for _, r := range rows {
			i, ok := at[strings.ToLower(strings.TrimSpace(r.Ingredient))]
			if !ok {
				errs = append(errs, r.wrong("ingredient",
					fmt.Sprintf("no ingredient is called %q", clip(r.Ingredient))))
				continue
			}
			for _, e := range r.Offer.Check() {
				errs = append(errs, r.wrong(e.Field, e.Message))
			}
			if has(have[i].Data.Offers, r.Offer) {
				out.Same++
				continue
			}
			have[i].Data.Offers = append(have[i].Data.Offers, r.Offer)
			touched[i] = true
			out.Added++
		}
		if len(errs) > 0 {
			return out, invalid(errs...)
		}
		for i, g := range have {
			if !touched[i] {
				continue
			}
			if err := st.ReplaceOffers(g.ID, g.Data.Offers, a.stamp(ctx)); err != nil {
				return out, err
			}
			out.Changed = append(out.Changed, g.Name)
		}
		return out, nil
	})
}

// placesOf tells where each ingredient stands, by its id and, unless it is retired, by its name in small letters.
func placesOf(have []Ingredient) map[string]int {
	at := map[string]int{}
	for i, g := range have {
		if !g.Retired {
			at[strings.ToLower(g.Name)] = i
		}
		at[g.ID] = i
	}
	return at
}

func has(offers []pantry.PriceOffer, x pantry.PriceOffer) bool {
	return slices.ContainsFunc(offers, func(o pantry.PriceOffer) bool { return sameOffer(o, x) })
}

func sameOffer(a, b pantry.PriceOffer) bool {
	a.ID, b.ID = "", ""
	return a == b
}

// PriceList returns all offers for export.
func (a *App) PriceList(ctx context.Context) ([]PriceRow, error) {
	rows, err := a.on(ctx).Ingredients()
	if err != nil {
		return nil, err
	}
	var out []PriceRow
	for _, g := range rows {
		if g.Retired {
			continue
		}
		for _, o := range g.Data.Offers {
			out = append(out, PriceRow{Ingredient: g.Name, Offer: o})
		}
	}
	return out, nil
}
