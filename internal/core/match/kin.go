package match

import (
	"math"
	"slices"

	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// Shelf is what a shop has in use, to find what is the same food in another way.
type Shelf struct {
	Items []*pantry.Ingredient
	Names *Names
	Steps []pantry.Preparation
	Law   law.Regime // whose words on a label tell foods apart
}

// rawFlags are of what was not cooked.
var rawFlags = []string{"raw_vegetable", "raw_herb", "raw_allium"}

// mostWetter is by how many grams of water in 100 g the same food may differ.
const mostWetter = 10

// Kin are what is the same food as g in another way: it has the same name on a label, is as raw or as cooked, about as
// wet, and neither is made of the other.
func (s Shelf) Kin(g *pantry.Ingredient) []*pantry.Ingredient {
	var out []*pantry.Ingredient
	for _, o := range s.Items {
		if s.sameFood(g, o) && !s.madeOf(g.ID, o.ID) {
			out = append(out, o)
		}
	}
	return out
}

// Called are what is eaten and goes by a name, as what is bought goes by that of a component.
func (s Shelf) Called(name string) []*pantry.Ingredient {
	var out []*pantry.Ingredient
	ids := s.Names.All(name)
	for _, o := range s.Items {
		if !o.IsPackaging() && slices.Contains(ids, o.ID) {
			out = append(out, o)
		}
	}
	return out
}

func (s Shelf) sameFood(g, o *pantry.Ingredient) bool {
	return o.ID != g.ID && o.LabelFor(s.Law) == g.LabelFor(s.Law) && !o.IsPackaging() &&
		o.HasAny(rawFlags...) == g.HasAny(rawFlags...) &&
		math.Abs(o.Composition.Water-g.Composition.Water) <= mostWetter
}

// madeOf reports whether one of two is made of the other: then they are one food in two states.
func (s Shelf) madeOf(a, b string) bool {
	return slices.ContainsFunc(s.Steps, func(p pantry.Preparation) bool {
		return p.Input == a && (p.Output == b || p.CoOutput == b) || p.Input == b && (p.Output == a || p.CoOutput == a)
	})
}
