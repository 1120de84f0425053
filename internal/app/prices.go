package app

import (
	"context"
	"slices"
	"strings"
	"sync"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/pantry"
)

// PriceStore keeps the offers of ingredients.
type PriceStore interface {
	LockPrices() error
	LotCosts() (map[string]LotCost, error)
	TouchIngredient(id, by string) error
	PriceWay(signature string) (way PriceWay, known bool, err error)
	PutPriceWay(signature string, way PriceWay, by string) error
	RetiredOffers() (map[string][]pantry.PriceOffer, error)
	ReplaceOffers(id string, offers []pantry.PriceOffer, by Stamp) error
}

// rate answers what a usable gram costs: by its own price, or through the step that makes it.
func (a *App) rate(st Store, s Settings) (costing.Rate, error) {
	steps, _, err := a.steps(st)
	if err != nil {
		return nil, err
	}
	terms, _ := a.termsOf(st, s, steps, map[string]pantry.Ingredient{})
	return terms.Rate, nil
}

// termsOf are the terms under which things are costed today, with the prices behind them. behind are ingredients behind
// steps that are known, and those that are met are remembered in it.
func (a *App) termsOf(st Store, s Settings, steps []pantry.Preparation,
	behind map[string]pantry.Ingredient) (costing.Terms, *costing.Prices) {
	return a.termsOn(st, s, steps, behind, a.today(s))
}

// termsOn are the terms of a day.
func (a *App) termsOn(st Store, s Settings, steps []pantry.Preparation, behind map[string]pantry.Ingredient,
	day time.Time) (costing.Terms, *costing.Prices) {
	st = bare(st)
	prices := costing.PricesBy(a.market(st, s, day), steps, func(id string) (pantry.Ingredient, bool) {
		if g, known := behind[id]; known {
			return g, true
		}
		row, err := st.Ingredient(id)
		if err == nil {
			behind[id] = row.Data
		}
		return row.Data, err == nil
	})
	return s.terms(prices), prices
}

// terms are what the shop's own figures say of costs.
func (s Settings) terms(prices *costing.Prices) costing.Terms {
	day := s.DayMinutes
	if day.IsZero() {
		day = amount.Min(usualDay)
	}
	return costing.Terms{Rate: prices.Rate(), Kitchen: s.KitchenPerHour, Oven: s.OvenPerHour, Day: day,
		Made: s.made(bench.Vessel{Residue: s.Residue})}
}

// made is how a batch is made in a vessel.
func (s Settings) made(in bench.Vessel) costing.Made {
	return costing.Made{Vessel: in, Samples: s.SampleGrams}
}

// madeIn tells of each formula how it is made: in the vessel that is known of it, or in none that is named.
func (s Settings) madeIn(vessels map[string]bench.Vessel) func(string) costing.Made {
	return func(formula string) costing.Made {
		if v, known := vessels[formula]; known {
			return s.made(v)
		}
		return s.made(bench.Vessel{Residue: s.Residue})
	}
}

// market is what prices are read by on a day. What a piece weighs, and what lots cost, is read where a price asks.
func (a *App) market(st Store, s Settings, day time.Time) pantry.Market {
	measures := sync.OnceValue(func() pantry.Measures {
		all, err := a.measures(st, "")
		if err != nil {
			return pantry.NewMeasures(a.Typical.Measures, nil)
		}
		return all
	})
	lots := sync.OnceValue(func() map[string]LotCost {
		costs, err := st.LotCosts()
		if err != nil {
			return nil
		}
		return costs
	})
	return pantry.Market{Rule: s.PriceRule, Today: day, StaleDays: s.StaleDays, TaxBack: !s.TaxKept,
		Piece: func(id string) float64 { return pieceOf(measures(), id) },
		Lots: func(id string) (amount.Grams, amount.Exact, bool) {
			c, known := lots()[id]
			return c.Grams, c.PerGram, known
		}}
}

// LotCost is what the lots of an ingredient that are on hand cost a gram as bought, where they tell.
type LotCost struct {
	Grams   amount.Grams
	PerGram amount.Exact
}

// PriceRow is one line of the price list that is written out.
type PriceRow struct {
	Ingredient string // its name
	Offer      pantry.PriceOffer
}

// PriceImport says what a price list would do or did.
type PriceImport struct {
	Added   int      `json:"added"`
	Same    int      `json:"same"`
	Changed []string `json:"changed"`
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
