package assess

import (
	"fmt"
	"slices"
	"testing"

	"gallipot/internal/core/allergen"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// basics are the single foods that random kitchens are made of, each with what it carries under each law.
var basics = []struct{ name, gb, us string }{
	{"Walnuts", "nut:walnut", "tree_nut:walnut"}, {"Peanuts", "peanut", "peanut"},
	{"Pine nuts", "", "tree_nut:pine nut"},
	{"Milk", "milk", "milk"}, {"Wheat", "gluten:wheat", "wheat"}, {"Barley", "gluten:barley", ""},
	{"Celery", "celery", ""},
	{"Sesame", "sesame", "sesame"}, {"Carrots", "", ""}, {"Water", "", ""}, {"Anchovies", "fish", "fish:anchovy"},
	{"Lupin", "lupin", ""}, {"Soya", "soy", "soy"},
}

// randomKitchen is single foods, then things that steps make of them with extras, in turn of each other.
func randomKitchen(t *rapid.T) (formula.Library, map[string]law.Each[[]string]) {
	lib := formula.Library{Ingredients: map[string]*pantry.Ingredient{}, Versions: map[formula.Ref]formula.Version{},
		Names: map[string]string{}}
	carries := map[string]law.Each[[]string]{}
	var ids []string
	for _, b := range basics {
		id := b.name
		lib.Ingredients[id] = &pantry.Ingredient{ID: id, Name: b.name, Composition: pantry.Composition{Water: 50}}
		each := law.Each[[]string]{}
		for r, code := range map[law.Regime]string{law.GB: b.gb, law.US: b.us} {
			if code != "" {
				each[r] = []string{code}
			}
		}
		carries[id] = each
		ids = append(ids, id)
	}
	var steps []pantry.Preparation
	for i := range rapid.IntRange(0, 6).Draw(t, "steps") {
		id := fmt.Sprintf("made %d", i)
		p := pantry.Preparation{ID: id, Output: id, YieldPercent: 90, Input: rapid.SampledFrom(ids).Draw(t, "input")}
		from := []string{p.Input}
		for range rapid.IntRange(0, 2).Draw(t, "extras") {
			e := rapid.SampledFrom(ids).Draw(t, "extra")
			p.Extras = append(p.Extras, pantry.ExtraInput{Ingredient: e, PerHundred: 10,
				UptakePercent: rapid.SampledFrom([]float64{0, 50}).Draw(t, "uptake")})
			from = append(from, e)
		}
		lib.Ingredients[id] = &pantry.Ingredient{ID: id, Name: id, Composition: pantry.Composition{Water: 50}}
		carries[id] = unionOf(carries, from)
		steps, ids = append(steps, p), append(ids, id)
	}
	pantry.Inherit(lib.Ingredients, steps)
	return lib, carries
}

func unionOf(carries map[string]law.Each[[]string], ids []string) law.Each[[]string] {
	out := law.Each[[]string]{}
	for _, id := range ids {
		for r, codes := range carries[id] {
			out[r] = allergen.Tidy(slices.Concat(out[r], codes))
		}
	}
	return out
}

// TestTheWholeCarriesTheUnionOfItsLeaves: random formulas with nested components, groups, preparations and toppings.
func TestTheWholeCarriesTheUnionOfItsLeaves(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		lib, carries := randomKitchen(t)
		ids := make([]string, 0, len(lib.Ingredients))
		for id := range lib.Ingredients {
			ids = append(ids, id)
		}
		slices.Sort(ids)
		depth := rapid.IntRange(0, 3).Draw(t, "depth")
		leaves := map[int][]string{} // by level, its own and what is below
		ways := 1
		for level := range depth + 1 {
			v := formula.Version{Formula: fmt.Sprint("f", level), Number: 1, FillGrams: amount.G(100), CostingJars: 1}
			for i := range rapid.IntRange(1, 4).Draw(t, "lines") {
				line := formula.Line{ID: fmt.Sprint(i),
					Grams:      amount.G(float64(rapid.IntRange(1, 500).Draw(t, "grams"))),
					Ingredient: rapid.SampledFrom(ids).Draw(t, "ingredient"),
					Disperse:   rapid.Bool().Draw(t, "disperse")}
				other := rapid.SampledFrom(ids).Draw(t, "other")
				if other != line.Ingredient && ways <= 8 && rapid.Bool().Draw(t, "group") {
					line.AnyOf, ways = []string{line.Ingredient, other}, ways*2
					leaves[level] = append(leaves[level], other)
				}
				leaves[level] = append(leaves[level], line.Ingredient)
				v.Lines = append(v.Lines, line)
			}
			if level > 0 {
				ref := formula.Ref{Formula: fmt.Sprint("f", level-1), Version: 1}
				v.Lines = append(v.Lines, formula.Line{ID: "c", Component: &ref, Grams: amount.G(20),
					Disperse: rapid.Bool().Draw(t, "merged")})
				leaves[level] = append(leaves[level], leaves[level-1]...)
			}
			if level == depth && rapid.Bool().Draw(t, "topped") {
				top := rapid.SampledFrom(ids).Draw(t, "topping")
				v.Toppings = []formula.Topping{{ID: "t", Ingredient: top, Grams: amount.G(1)}}
				leaves[level] = append(leaves[level], top)
			}
			lib.Versions[formula.Ref{Formula: v.Formula, Version: 1}] = v
		}
		top := lib.Versions[formula.Ref{Formula: fmt.Sprint("f", depth), Version: 1}]
		in := inputs()
		in.Library = lib
		p, err := Version(top, in)
		require.NoError(t, err)
		want := unionOf(carries, leaves[depth])
		for _, l := range law.All() {
			assert.ElementsMatch(t, want[l.Regime], p.Allergens[l.Regime], "%s of %v", l.Regime, leaves[depth])
		}
		frozen := Freeze(top, lib)
		assert.False(t, frozen.Since(lib).Any(), "locked as it is, nothing was gained")
		for _, g := range lib.Ingredients {
			g.Inherited = pantry.Inherited{} // the steps are gone
		}
		in.Library = frozen.Over(lib)
		after, err := Version(top, in)
		require.NoError(t, err)
		for _, l := range law.All() {
			assert.ElementsMatch(t, want[l.Regime], after.Allergens[l.Regime],
				"what was locked keeps what it was made of")
		}
	})
}
