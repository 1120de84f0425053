package catalog

import (
	"context"
	"sync"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/shop"
)

// rate is what a usable gram costs: from its own price, or through the step that makes it.
func (a *Room) rate(st kernel.Store, s shop.Settings) (costing.Rate, error) {
	steps, _, err := a.Steps(st)
	if err != nil {
		return nil, err
	}
	terms, _ := a.TermsOf(st, s, steps, map[string]pantry.Ingredient{})
	return terms.Rate, nil
}

// TermsOf are the terms on which things are costed today, with the prices they come from. behind holds the ingredients
// known to stand behind steps; those found on the way are added.
func (a *Room) TermsOf(st kernel.Store, s shop.Settings, steps []pantry.Preparation,
	behind map[string]pantry.Ingredient) (costing.Terms, *costing.Prices) {
	return a.TermsOn(st, s, steps, behind, a.TodayIn(s))
}

// TermsOn are the terms of a day.
func (a *Room) TermsOn(st kernel.Store, s shop.Settings, steps []pantry.Preparation,
	behind map[string]pantry.Ingredient,
	day time.Time) (costing.Terms, *costing.Prices) {
	st = kernel.Bare(st)
	prices := costing.PricesBy(a.Market(st, s, day), steps, func(id string) (pantry.Ingredient, bool) {
		if g, known := behind[id]; known {
			return g, true
		}
		row, err := st.Ingredient(id)
		if err == nil {
			behind[id] = row.Data
		}
		return row.Data, err == nil
	})
	return s.Terms(prices), prices
}

// Market is what prices are read with on a day. What a piece weighs and what lots cost are read only if a price asks
// for them.
func (a *Room) Market(st kernel.Store, s shop.Settings, day time.Time) pantry.Market {
	measures := sync.OnceValue(func() pantry.Measures {
		all, err := a.Measures(st, "")
		if err != nil {
			return pantry.NewMeasures(a.Typical.Measures, nil)
		}
		return all
	})
	lots := sync.OnceValue(func() map[string]kernel.LotCost {
		costs, err := st.LotCosts()
		if err != nil {
			return nil
		}
		return costs
	})
	return pantry.Market{Rule: s.PriceRule, Today: day, StaleDays: s.StaleDays, TaxBack: !s.TaxKept,
		Piece: func(id string) float64 { return kernel.PieceOf(measures(), id) },
		Lots: func(id string) (amount.Grams, amount.Exact, bool) {
			c, known := lots()[id]
			return c.Grams, c.PerGram, known
		}}
}

// PriceRow is one line of the price list that is written out.
type PriceRow struct {
	Ingredient string // its name
	Offer      pantry.PriceOffer
}

// PriceImport says what taking in a price list would do, or did.
type PriceImport struct {
	Added   int      `json:"added"`
	Same    int      `json:"same"`
	Changed []string `json:"changed"`
}

// PriceList returns all offers for export.
func (a *Room) PriceList(ctx context.Context) ([]PriceRow, error) {
	rows, err := a.On(ctx).Ingredients()
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
