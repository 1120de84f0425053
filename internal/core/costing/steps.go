package costing

import (
	"slices"
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
)

// deepestStep bounds how many steps a cost follows from what is bought to what goes into the bowl.
const deepestStep = 4

// follower follows costs from what is bought through steps, with some prices and yields bent.
type follower struct {
	*Prices
	price, yield map[string]amount.Exact
}

func (f *follower) cost(g *pantry.Ingredient, way string, depth int) (pantry.UnitCost, error) {
	direct, err := f.bought(g)
	if depth > deepestStep || way == Bought {
		return direct, err
	}
	list := f.makers(g.ID)
	for _, p := range list {
		if p.ID != way {
			continue
		}
		if c, ok := f.through(p, g.ID, depth); ok {
			return c, nil
		}
	}
	if err == nil && (len(list) == 0 || !list[0].Preferred) {
		return direct, err
	}
	for _, p := range list {
		if c, ok := f.through(p, g.ID, depth); ok {
			return c, nil
		}
	}
	return direct, err
}

// bought is the cost of a gram by its own price.
func (f *follower) bought(g *pantry.Ingredient) (pantry.UnitCost, error) {
	c, err := f.own(g)
	c.Buys = []string{g.ID}
	if k, bent := f.price[g.ID]; bent {
		c.PerGram = c.PerGram.Times(k)
	}
	if k, bent := f.yield[g.ID]; bent {
		if most := amount.Whole(100).Over(amount.ExactFloat(g.Usable())); g.Usable() <= 100 && k.Cmp(most) > 0 {
			k = most // no more than all of it reaches the bowl
		}
		c.PerGram = c.PerGram.Over(k)
	}
	return c, err
}

// through is the cost of a gram of a step's output or co-output, with the minutes of hands on the way; ok is false
// where the step lacks a price.
func (f *follower) through(p *pantry.Preparation, id string, depth int) (pantry.UnitCost, bool) {
	input := f.ingredient(p.Input)
	if input == nil {
		return pantry.UnitCost{}, false
	}
	c, err := f.cost(input, "", depth+1)
	if err != nil {
		return pantry.UnitCost{}, false
	}
	extras := map[string]pantry.UnitCost{}
	for _, e := range p.Extras {
		g := f.ingredient(e.Ingredient)
		if g == nil {
			return pantry.UnitCost{}, false
		}
		u, err := f.cost(g, "", depth+1)
		if err != nil && !g.Has(pantry.FlagWater) {
			return pantry.UnitCost{}, false
		}
		extras[e.Ingredient] = u
	}
	out := p.OutCost
	if p.CoOutput == id {
		out = p.CoCost
	}
	minutes := c.Minutes.Plus(amount.ExactFloat(p.MinutesPerKg).Over(gramsInKilo))
	c.PerGram = out(c.PerGram, func(id string) amount.Exact { return extras[id].PerGram })
	c.Minutes = out(minutes, func(id string) amount.Exact { return extras[id].Minutes })
	if k, bent := f.yield[p.ID]; bent {
		c.PerGram, c.Minutes = c.PerGram.Over(k), c.Minutes.Over(k)
	}
	c.Usable, c.Through = p.Expected().Percent, p.ID
	c.Way = slices.Concat(c.Way, []string{strings.ReplaceAll(p.Name, "_", " ")})
	c.Steps = slices.Concat(c.Steps, []string{p.ID})
	for _, e := range p.Extras {
		c.Buys = slices.Concat(c.Buys, extras[e.Ingredient].Buys)
	}
	return c, true
}
