package pantry

import (
	"testing"

	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
)

// kitchen is a small pantry: garlic, an oil that carries mustard by its list, and what steps make of them.
func kitchen() map[string]*Ingredient {
	return map[string]*Ingredient{
		"garlic": {ID: "garlic", Name: "Garlic", Flags: []string{"raw_allium"}, Role: "allium"},
		"oil": {ID: "oil", Name: "Mustard oil blend", Role: "oil", Composition: Composition{Fat: 100},
			Allergens: law.Each[[]string]{law.GB: {"mustard"}}},
		"confit":  {ID: "confit", Name: "Garlic confit"},
		"strain":  {ID: "strain", Name: "Garlic oil, strained"},
		"roasted": {ID: "roasted", Name: "Garlic, roasted", Flags: []string{"cooked_vegetable"}},
	}
}

var underOilSteps = []Preparation{
	{ID: "confit", Input: "garlic", Output: "confit", CoOutput: "strain", YieldPercent: 90, CoYield: 180,
		Extras: []ExtraInput{{Ingredient: "oil", PerHundred: 200, CoUptakePercent: 90}}},
	{ID: "roast", Input: "garlic", Output: "roasted", YieldPercent: 70},
}

func TestAllergensAndHazardsPassThroughEveryStep(t *testing.T) {
	all := kitchen()
	Inherit(all, underOilSteps)
	for _, id := range []string{"confit", "strain"} {
		g := all[id]
		assert.True(t, g.Inherited.Has("mustard"), "%s: of the oil it was made in", id)
		assert.True(t, g.Inherited.Has("raw_allium"), "%s: straining takes no hazard away", id)
		assert.True(t, g.Inherited.Has(FlagPlantsInOil), "%s: a plant was kept under oil", id)
		assert.Equal(t, []string{"Garlic", "Mustard oil blend"}, g.Inherited.From)
	}
	assert.Empty(t, all["roasted"].Inherited.Flags, "what it states itself answers for the others of its kind")
	assert.False(t, all["garlic"].Inherited.Has("mustard"), "nothing passes back to what went in")
	whole := all["strain"].Whole()
	assert.Contains(t, whole.Flags, FlagPlantsInOil, "a lock keeps what was inherited as its own")
	assert.Equal(t, []string{"mustard"}, whole.Allergens[law.GB])
}

func TestOnlyWhatAnOwnerLiftedIsNotInherited(t *testing.T) {
	all := kitchen()
	all["strain"].Lifted = []Lifted{{What: "raw_allium", Reason: "acidified before", By: "Ines"}}
	Inherit(all, underOilSteps)
	assert.False(t, all["strain"].Inherited.Has("raw_allium"))
	assert.True(t, all["strain"].Inherited.Has("mustard"), "the rest stays")
	assert.True(t, all["confit"].Inherited.Has("raw_allium"), "it is lifted off that one alone")
}

func TestWhatLeadsBackToItselfEnds(t *testing.T) {
	all := kitchen()
	round := append(underOilSteps, Preparation{ID: "back", Input: "confit", Output: "garlic", YieldPercent: 100})
	Inherit(all, round)
	assert.True(t, all["confit"].Inherited.Has(FlagPlantsInOil))
	assert.ElementsMatch(t, []string{"confit", "garlic", "oil"}, Ancestors([]string{"strain"}, round))
}

func TestHowMuchOilCoversAPlant(t *testing.T) {
	all := kitchen()
	step := func(input string, oil float64) Preparation {
		return Preparation{Input: input, Output: "x", Extras: []ExtraInput{{Ingredient: "oil", PerHundred: oil}}}
	}
	assert.False(t, step("garlic", 42).UnderOil(all), "42 g of oil on 100 g are under 30 %")
	assert.True(t, step("garlic", 43).UnderOil(all), "43 g are over")
	assert.False(t, step("oil", 100).UnderOil(all), "oil in oil keeps no plant")
	all["chilli"] = &Ingredient{ID: "chilli", Flags: []string{FlagDriedPlant}, Role: "spice"}
	assert.False(t, step("chilli", 300).UnderOil(all), "a dry spice brings no water")
}

func TestAnOutputOfSeveralListsWhatStaysInFallingOrder(t *testing.T) {
	all := kitchen()
	Inherit(all, underOilSteps)
	assert.Equal(t, "mustard oil blend, garlic", all["strain"].Inherited.Lists[law.GB],
		"180 g of oil stay in 180 of the strained")
	assert.Nil(t, all["confit"].Inherited.Lists, "nothing of the oil stays: it is garlic in another state")
	assert.Nil(t, all["roasted"].Inherited.Lists)
}

func TestALockedIngredientAsksTheOneOfToday(t *testing.T) {
	now := &Ingredient{ID: "garlic", Name: "Garlic"}
	then := &Ingredient{ID: "garlic", Name: "Garlic"}
	then.AsToday(now)
	assert.Equal(t, []string{"nobody has said yet what is in it"}, then.Open())
	now.Looked = &Looked{By: "Ines", Texts: now.Texts()}
	assert.Empty(t, then.Open(), "somebody looked since")
	now.Name = "Garlic paste"
	assert.Equal(t, []string{"its name or list changed since Ines looked"}, then.Open())
}
