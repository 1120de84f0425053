package costing

import (
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
)

// deepestStep bounds how many steps a cost follows from what is bought to what goes into the bowl.
const deepestStep = 4

// ThroughSteps returns a Rate that answers by an ingredient's own price, or through the kitchen step that makes it from
// something with a price (handbook 02: cost follows the input). A step that the shop prefers goes before a price of its
// own. load answers an ingredient that a step names.
func ThroughSteps(own Rate, steps []pantry.Preparation, load func(id string) (pantry.Ingredient, bool)) Rate {
	f := follower{own: own, load: load, steps: steps, known: map[string]*pantry.Ingredient{}}
	return func(g *pantry.Ingredient) (pantry.UnitCost, error) { return f.cost(g, 0) }
}

type follower struct {
	own   Rate
	load  func(id string) (pantry.Ingredient, bool)
	steps []pantry.Preparation
	known map[string]*pantry.Ingredient
}

// makers are the steps that make something, the best first.
func (f *follower) makers(id string) []*pantry.Preparation {
	var list []*pantry.Preparation
	for i := range f.steps {
		if p := &f.steps[i]; p.Output == id || p.CoOutput != "" && p.CoOutput == id {
			list = append(list, p)
		}
	}
	slices.SortStableFunc(list, func(x, y *pantry.Preparation) int { return rank(y) - rank(x) })
	return list
}

func (f *follower) ingredient(id string) *pantry.Ingredient {
	if g, seen := f.known[id]; seen {
		return g
	}
	f.known[id] = nil
	if g, ok := f.load(id); ok {
		f.known[id] = &g
	}
	return f.known[id]
}

func (f *follower) cost(g *pantry.Ingredient, depth int) (pantry.UnitCost, error) {
	direct, err := f.own(g)
	list := f.makers(g.ID)
	if depth > deepestStep || err == nil && (len(list) == 0 || !list[0].Preferred) {
		return direct, err
	}
	for _, p := range list {
		if c, ok := f.through(p, g.ID, depth); ok {
			return c, nil
		}
	}
	return direct, err
}

// through is the cost of a gram of a step's output or co-output; ok is false where the step lacks a price.
func (f *follower) through(p *pantry.Preparation, id string, depth int) (pantry.UnitCost, bool) {
	input := f.ingredient(p.Input)
	if input == nil {
		return pantry.UnitCost{}, false
	}
	c, err := f.cost(input, depth+1)
	if err != nil {
		return pantry.UnitCost{}, false
	}
	extras := map[string]amount.Exact{}
	for _, e := range p.Extras {
		g := f.ingredient(e.Ingredient)
		if g == nil {
			return pantry.UnitCost{}, false
		}
		u, err := f.cost(g, depth+1)
		if err != nil && !g.Has(pantry.FlagWater) {
			return pantry.UnitCost{}, false
		}
		extras[e.Ingredient] = u.PerGram
	}
	extra := func(id string) amount.Exact { return extras[id] }
	per := p.OutCost(c.PerGram, extra)
	if p.CoOutput == id {
		per = p.CoCost(c.PerGram, extra)
	}
	c.PerGram = per
	c.Usable, c.Through = p.Expected().Percent, p.ID
	return c, true
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
