package assess

import (
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhatIsStricterCountsAtOnceAndWhatIsLooserWaits(t *testing.T) {
	was := pantry.Ingredient{ID: "egg", Name: "Yolk", Flags: []string{pantry.FlagRawEgg, pantry.FlagRefinedOil, "salt"},
		Allergens:     law.Each[[]string]{law.GB: {"egg"}, law.US: {"egg"}},
		SupplierLists: law.Each[string]{law.GB: "yolk"}}
	now := was
	now.Name, now.Flags = "Pasteurised yolk", []string{"fresh_dairy", pantry.FlagSugar}
	now.Allergens = law.Each[[]string]{law.GB: {"mustard"}, law.US: {}}
	now.SupplierLists = law.Each[string]{law.GB: "yolk; milk powder"}
	got := Stricter(was, now)
	assert.Equal(t, []string{pantry.FlagRawEgg, "salt", "fresh_dairy"}, got.Flags,
		"the raw egg stays, dairy counts, the excuse of a refined oil is gone, sugar is no hazard")
	for _, l := range law.All() {
		want := []string{"egg", "milk"}
		if l.Regime == law.GB {
			want = append(want, "mustard")
		}
		assert.Equal(t, want, got.AllergensUnder(l), "unticking hides nothing; the one list betrays under every law")
	}
	assert.Equal(t, "Yolk", got.Name)
	assert.Equal(t, "yolk", got.SupplierLists[law.GB])
	assert.Equal(t, []string{"egg"}, was.Allergens[law.GB], "what was is not touched")
	assert.Equal(t, was.Flags, Stricter(was, was).Flags, "nothing changes where nothing changed")
}

func TestAVersionIsFrozenWithAllItRefersTo(t *testing.T) {
	salt := &pantry.Ingredient{ID: "salt", Name: "Salt", Offers: []pantry.PriceOffer{{Supplier: "x"}}}
	oil := &pantry.Ingredient{ID: "oil", Name: "Oil"}
	nut := &pantry.Ingredient{ID: "nut", Name: "Nut"}
	seed := &pantry.Ingredient{ID: "seed", Name: "Seed"}
	other := &pantry.Ingredient{ID: "other", Name: "Other"}
	paste := formula.Ref{Formula: "paste", Version: 1}
	lib := formula.Library{Names: map[string]string{"paste": "Paste", "dip": "Dip", "else": "Else"},
		Versions: map[formula.Ref]formula.Version{paste: {Formula: "paste", Number: 1, State: formula.Locked,
			Lines: []formula.Line{{ID: "1", Ingredient: "salt", Grams: amount.G(1)}}}},
		Ingredients: map[string]*pantry.Ingredient{"salt": salt, "oil": oil, "nut": nut, "seed": seed, "other": other}}
	v := formula.Version{Formula: "dip", Number: 1, State: formula.Locked, Lines: []formula.Line{
		{ID: "1", Component: &paste, Grams: amount.G(5)},
		{ID: "2", Ingredient: "oil", AnyOf: []string{"oil", "nut"}, Grams: amount.G(5)}},
		Toppings: []formula.Topping{{ID: "t", Ingredient: "seed", Grams: amount.G(1)}}}
	f := Freeze(v, lib)
	var ids []string
	for _, g := range f.Ingredients {
		ids = append(ids, g.ID)
		assert.Nil(t, g.Offers, "prices are no facts of a version")
	}
	assert.ElementsMatch(t, []string{"salt", "oil", "nut", "seed"}, ids)
	assert.Equal(t, map[string]string{"dip": "Dip", "paste": "Paste"}, f.Names)

	salt.Name, nut.Flags = "Sea salt", []string{pantry.FlagRawEgg}
	lib.Names["paste"] = "Another paste"
	over := f.Over(lib)
	assert.Equal(t, "Salt", over.Ingredients["salt"].Name)
	assert.Len(t, over.Ingredients["salt"].Offers, 1, "what it costs is today's")
	assert.Equal(t, "Paste", over.Name("paste"))
	assert.True(t, over.Ingredients["nut"].Has(pantry.FlagRawEgg))
	assert.Equal(t, "Sea salt", lib.Ingredients["salt"].Name, "the pantry is not touched")
	since := f.Since(lib)
	require.True(t, since.Any())
	assert.Equal(t, []string{pantry.FlagRawEgg}, since.Flags)
	assert.Empty(t, since.Allergens[law.GB])
	delete(lib.Ingredients, "oil")
	assert.Equal(t, "Oil", f.Over(lib).Ingredients["oil"].Name, "what the pantry lost is still what it was made of")
	assert.False(t, Freeze(v, lib).Since(lib).Any())
}

// TestTheStricterLevelOfSulphitesCounts holds two levels against each other: unknown, where they are told of, is most.
func TestTheStricterLevelOfSulphitesCounts(t *testing.T) {
	level := func(mg float64) *float64 { return &mg }
	told := law.Each[[]string]{law.GB: {"sulphites"}}
	for _, c := range []struct {
		name         string
		was, now     *float64
		wasIn, nowIn law.Each[[]string]
		want         *float64
		stricter     bool
	}{
		{"more", level(5), level(240), told, told, level(240), true},
		{"less waits", level(240), level(5), told, told, level(240), false},
		{"first told, with a level", nil, level(5), nil, told, level(5), true},
		{"first told, without one", level(5), nil, told, told, nil, true},
		{"unknown stays so", nil, level(5), told, told, nil, false},
		{"untold stays", level(5), nil, told, nil, level(5), false},
		{"none", nil, nil, nil, nil, nil, false},
	} {
		was := pantry.Ingredient{ID: "x", Name: "Horseradish", Allergens: c.wasIn, SulphitesMgKg: c.was}
		now := pantry.Ingredient{ID: "x", Name: "Horseradish", Allergens: c.nowIn, SulphitesMgKg: c.now}
		assert.Equal(t, c.want, Stricter(was, now).SulphitesMgKg, c.name)
		f := Frozen{Ingredients: []pantry.Ingredient{was}}
		since := f.Since(formula.Library{Ingredients: map[string]*pantry.Ingredient{"x": &now}})
		assert.Equal(t, c.stricter, since.Any(), c.name)
		if c.stricter {
			assert.Equal(t, []string{"sulphites"}, since.Allergens[law.GB], c.name)
			assert.Equal(t, []string{"sulfites"}, since.Allergens[law.US], "%s: disclosed under that law", c.name)
		}
	}
}
