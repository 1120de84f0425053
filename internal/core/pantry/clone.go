package pantry

import (
	"maps"
	"slices"

	"gallipot/internal/core/law"
)

// Clone is a copy that shares nothing which can be written to, words and today's record aside.
func (g *Ingredient) Clone() Ingredient {
	out := *g
	out.Labels, out.SupplierLists = maps.Clone(g.Labels), maps.Clone(g.SupplierLists)
	out.Allergens = eachCloned(g.Allergens)
	out.Flags, out.Synonyms = slices.Clone(g.Flags), slices.Clone(g.Synonyms)
	out.Offers, out.Lifted = slices.Clone(g.Offers), slices.Clone(g.Lifted)
	out.PH, out.SulphitesMgKg = pointed(g.PH), pointed(g.SulphitesMgKg)
	if out.Looked = pointed(g.Looked); out.Looked != nil {
		out.Looked.Answers = slices.Clone(g.Looked.Answers)
	}
	if out.MayContain = pointed(g.MayContain); out.MayContain != nil {
		out.MayContain.Allergens = eachCloned(g.MayContain.Allergens)
	}
	out.Inherited = Inherited{eachCloned(g.Inherited.Allergens), slices.Clone(g.Inherited.Flags),
		slices.Clone(g.Inherited.From), maps.Clone(g.Inherited.Lists)}
	return out
}

func eachCloned(each law.Each[[]string]) law.Each[[]string] {
	out := maps.Clone(each)
	for r := range out {
		out[r] = slices.Clone(out[r])
	}
	return out
}

func pointed[T any](p *T) *T {
	if p == nil {
		return nil
	}
	out := *p
	return &out
}
