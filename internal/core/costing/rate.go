package costing

import (
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
)

// Rate answers what a usable gram of an ingredient costs. way names the kitchen step it comes from; if it is empty, or
// that step lacks a price, the shop's usual way counts. Errors: pantry.ErrNoPrice, pantry.ErrNoPackGrams.
type Rate func(g *pantry.Ingredient, way string) (pantry.UnitCost, error)

// Bought is the way of what is bought as it is, whatever step could make it.
const Bought = "bought"

// Prices are what a Rate answers from: offers, and the kitchen steps that make one thing from another (handbook 02:
// cost follows the input). A step that the shop prefers takes precedence over a price. They belong to one reading of
// the pantry, whose ingredients must not change, and to one goroutine.
type Prices struct {
	own   func(*pantry.Ingredient) (pantry.UnitCost, error)
	steps []pantry.Preparation
	load  func(id string) (pantry.Ingredient, bool)
	known map[string]*pantry.Ingredient
}

// PricesBy are prices in a market, with the steps of a kitchen. load answers an ingredient that a step names; it may be
// nil where there are no steps.
func PricesBy(m pantry.Market, steps []pantry.Preparation, load func(id string) (pantry.Ingredient, bool)) *Prices {
	return &Prices{own: remember(func(g *pantry.Ingredient) (pantry.UnitCost, error) { return g.Cost(m) }),
		steps: steps, load: load, known: map[string]*pantry.Ingredient{}}
}

// Rate answers from the prices, each question once.
func (p *Prices) Rate() Rate { return p.bent(nil, nil) }

// bent is a Rate with the prices of what is bought, and the yields of ingredients and steps, by their ids, so many
// times what they are. The prices themselves stay.
func (p *Prices) bent(price, yield map[string]amount.Exact) Rate {
	f := &follower{Prices: p, price: price, yield: yield}
	type question struct {
		g   *pantry.Ingredient
		way string
	}
	type answer struct {
		cost pantry.UnitCost
		err  error
	}
	known := map[question]answer{}
	return func(g *pantry.Ingredient, way string) (pantry.UnitCost, error) {
		q := question{g, way}
		a, have := known[q]
		if !have {
			a.cost, a.err = f.cost(g, way, 0)
			known[q] = a
		}
		return a.cost, a.err
	}
}

// ingredient is one that a step names, read once.
func (p *Prices) ingredient(id string) *pantry.Ingredient {
	if g, seen := p.known[id]; seen {
		return g
	}
	p.known[id] = nil
	if g, ok := p.load(id); ok {
		p.known[id] = &g
	}
	return p.known[id]
}

// makers are the steps that make something, the best first.
func (p *Prices) makers(id string) []*pantry.Preparation {
	var list []*pantry.Preparation
	for i := range p.steps {
		if s := &p.steps[i]; s.Output == id || s.CoOutput != "" && s.CoOutput == id {
			list = append(list, s)
		}
	}
	slices.SortStableFunc(list, func(x, y *pantry.Preparation) int { return rank(y) - rank(x) })
	return list
}

// rank orders the steps that make one thing: preferred first, then the shop's own or recorded ones, then those without
// something on the side.
func rank(p *pantry.Preparation) int {
	r := 0
	if p.Preferred {
		r += 4
	}
	if !p.Typical || len(p.Records) > 0 {
		r += 2
	}
	if p.CoOutput == "" {
		r++
	}
	return r
}

// remember asks another once for each ingredient.
func remember(own func(*pantry.Ingredient) (pantry.UnitCost, error)) func(*pantry.Ingredient) (pantry.UnitCost,
	error) {
	type answer struct {
		cost pantry.UnitCost
		err  error
	}
	known := map[*pantry.Ingredient]answer{}
	return func(g *pantry.Ingredient) (pantry.UnitCost, error) {
		a, have := known[g]
		if !have {
			a.cost, a.err = own(g)
			known[g] = a
		}
		return a.cost, a.err
	}
}
