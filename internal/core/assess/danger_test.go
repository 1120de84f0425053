package assess

import (
	"slices"
	"strings"
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/reference"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// whole is the reference kitchen with what its steps pass on.
func whole(t *testing.T) Inputs {
	t.Helper()
	in := inputs()
	list, err := reference.Ingredients()
	require.NoError(t, err)
	for i := range list {
		in.Library.Ingredients[list[i].ID] = &list[i]
	}
	steps, err := reference.Preparations()
	require.NoError(t, err)
	pantry.Inherit(in.Library.Ingredients, steps)
	return in
}

func assessed(t *testing.T, in Inputs, v formula.Version) Panel {
	t.Helper()
	p, err := Version(v, in)
	require.NoError(t, err)
	return p
}

func has(p Panel, level, title string) bool {
	return slices.ContainsFunc(p.Cautions, func(c Caution) bool { return c.Level == level && c.Title == title })
}

func TestAStyleIsBelievedOnlyWhereItFits(t *testing.T) {
	in := whole(t)
	for _, c := range []struct {
		name  string
		style string
		lines []any
		days  int
		why   string
	}{
		{"nothing fresh", "shaken_nothing_fresh", []any{"vinegar_cider", 300.0, "sunflower_oil", 600.0, "cumin", 5.0},
			180, ""},
		{"raw garlic", "shaken_nothing_fresh", []any{"vinegar_cider", 300.0, "sunflower_oil", 600.0, "garlic_raw", 9.0},
			7,
			"Garlic"},
		{"basil, dill, carrot", "shaken_nothing_fresh", []any{"vinegar_cider", 900.0, "basil_leaves", 9.0, "dill", 9.0,
			"carrot", 9.0}, 7, "Basil"},
		{"fresh juice", "shaken_nothing_fresh", []any{"lemon_juice", 500.0, "sunflower_oil", 400.0}, 7, "Lemon juice"},
		{"a nut", "shaken_nothing_fresh", []any{"vinegar_cider", 500.0, "sunflower_oil", 400.0, "walnut", 9.0}, 7,
			"Walnuts"},
		{"pulse liquid in the place of yolk", "yolk_bound", []any{"vinegar_cider", 300.0, "sunflower_oil", 500.0,
			"chickpea_cooking_liquid_tinned", 90.0}, 7, "yolk in them, and here are none"},
		{"yolk", "yolk_bound", []any{"vinegar_cider", 400.0, "sunflower_oil", 400.0, "egg_yolk_pasteurised", 90.0}, 60,
			""},
		{"yolk with raw herbs", "yolk_bound", []any{"vinegar_cider", 400.0, "sunflower_oil", 400.0,
			"egg_yolk_pasteurised", 90.0, "tarragon", 5.0}, 7, "Tarragon"},
		{"nuts with raw herbs", "nut_based", []any{"vinegar_cider", 500.0, "walnut", 300.0, "parsley", 90.0}, 7,
			"Parsley"},
		{"nuts", "nut_based", []any{"vinegar_cider", 500.0, "walnut", 300.0}, 60, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			v := sheet(c.lines...)
			v.Keeping.Styles = []string{c.style}
			p := assessed(t, in, v)
			require.NotNil(t, p.Keeping[law.GB].Days)
			assert.Equal(t, c.days, *p.Keeping[law.GB].Days, p.Keeping[law.GB].Reason)
			assert.Equal(t, c.why != "", has(p, NeedsYou, "The keeping style does not fit."))
			if c.why != "" {
				assert.Contains(t, p.Keeping[law.GB].Reason, c.why)
			}
		})
	}
}

// TestPlantsUnderOil goes through what rule 6 takes in, at a pH over 4.6 and half of it oil.
func TestPlantsUnderOil(t *testing.T) {
	in := whole(t)
	for id, want := range map[string]bool{"garlic_raw": true, "garlic_confit": true, "basil_leaves": true,
		"beetroot_cooked": true, "tomato_sun_dried_dry": true, "avocado_flesh": true, "lemon_zest": true,
		"butter_bean_drained": true, "olives_black": true, "red_pepper_roasted": true, "chilli_raw": true,
		"egg_yolk_pasteurised": false, "water": false} {
		p := assessed(t, in, sheet(id, 400.0, "sunflower_oil", 400.0, "water", 40.0))
		assert.Equal(t, want, p.facts.PlantsInOil, id)
		if want && *p.PH.High > 4.6 {
			assert.True(t, has(p, Danger, "Plants under oil."), id)
			assert.Equal(t, "Plants under oil.", p.Cautions[0].Title, "dangers stand first")
			assert.LessOrEqual(t, *p.Keeping[law.GB].Days, 4, id)
		}
	}
	thin := assessed(t, in, sheet("garlic_raw", 40.0, "sunflower_oil", 290.0, "water", 670.0))
	assert.False(t, thin.facts.PlantsInOil, "under 30 % of oil")
	dry := assessed(t, in, sheet("chilli_flakes", 40.0, "sunflower_oil", 400.0))
	assert.False(t, dry.facts.PlantsInOil, "a dry spice with nothing watery beside it is rule 11's")
	wetted := assessed(t, in, sheet("chilli_flakes", 40.0, "sunflower_oil", 400.0, "water", 90.0))
	assert.True(t, wetted.facts.PlantsInOil, "something watery wets it")
}

// TestInfusedOilKeepsItsFourDays: of a step of one's own, strained into an oil that states nothing.
func TestInfusedOilKeepsItsFourDays(t *testing.T) {
	in := whole(t)
	mine := &pantry.Ingredient{ID: "mine", Name: "My oil", Role: "oil", Composition: pantry.Composition{Fat: 100}}
	in.Library.Ingredients["mine"] = mine
	assert.False(t, assessed(t, in, sheet("mine", 500.0)).Infused(), "an oil by itself")
	steps := []pantry.Preparation{{ID: "s", Name: "strain", Input: "garlic_confit", Output: "mine", YieldPercent: 50}}
	all, err := reference.Preparations()
	require.NoError(t, err)
	pantry.Inherit(in.Library.Ingredients, append(all, steps...))
	assert.True(t, mine.Has(pantry.FlagPlantsInOil), "through straining, through any number of steps")
	v := sheet("mine", 500.0)
	p := assessed(t, in, v)
	require.True(t, p.Infused())
	for _, l := range law.All() {
		assert.Equal(t, 4, *p.Keeping[l.Regime].Days)
		assert.Equal(t, keeping.UseBy, *p.Keeping[l.Regime].DateKind)
		m := Measured{}
		assert.Nil(t, p.Keep(l, v, m, in.Rules).Days, "nobody has said that it is clear")
		m.StrainedClear = true
		assert.Equal(t, 4, *p.Keep(l, v, m, in.Rules).Days)
	}
	v.Keeping.Asked = keeping.Ambient
	v.Keeping.HeatMinC, v.Keeping.HeatMinMinutes = 90, 10
	in.Documents = []keeping.Document{{ID: 1, Kind: keeping.Authority, Law: law.GB, Versions: []int{1}, MaxPH: 7,
		Storage: keeping.Ambient, NoHeat: true}}
	p = assessed(t, in, v)
	shelf := p.Keep(lawOf(t, law.GB), v, Measured{StrainedClear: true, HeatStepMet: true, HeatC: 95, HeatMin: 20},
		in.Rules)
	assert.Equal(t, keeping.Chilled, shelf.Condition, "no document lifts it")
	assert.Contains(t, shelf.AmbientLacks, "plants in oil")
	assert.Contains(t, p.Declaration[law.GB].List, "My oil")

	infused := assessed(t, in, sheet("garlic_infused_oil", 500.0))
	assert.Equal(t, "Garlic-infused olive oil (extra virgin olive oil, garlic).", infused.Declaration[law.GB].List)
}

func lawOf(t *testing.T, r law.Regime) *law.Law {
	t.Helper()
	l, err := law.Of(r)
	require.NoError(t, err)
	return l
}

func TestDrivingAllWaterOffNeedsAReadingStill(t *testing.T) {
	in := whole(t)
	v := sheet("tomato", 1000.0, "salt_sea_fine", 9.0)
	v.WaterDrivenOff = amount.G(940)
	p := assessed(t, in, v)
	assert.False(t, p.PH.NoWater)
	assert.Nil(t, p.Keep(lawOf(t, law.GB), v, Measured{}, in.Rules).Days, "no reading, no life")
	require.NoError(t, DrivenOff(v, in))
	v.WaterDrivenOff = amount.G(1000)
	assert.ErrorContains(t, DrivenOff(v, in), "g of water in the bowl")
}

func TestRawEggKeepsTwoDaysFrozenToo(t *testing.T) {
	in := whole(t)
	v := sheet("egg_yolk_raw", 90.0, "vinegar_cider", 400.0, "sunflower_oil", 400.0)
	v.Keeping.Asked = keeping.Frozen
	p := assessed(t, in, v)
	assert.Equal(t, 2, *p.Keeping[law.GB].Days)
	assert.Equal(t, keeping.UseBy, *p.Keeping[law.GB].DateKind)
	assert.True(t, p.Keeping[law.US].Refused)
}

// TestWarningsThatNobodyWouldMissAreThere: each is lost in silence by a slip, and no other test would notice.
func TestWarningsThatNobodyWouldMissAreThere(t *testing.T) {
	in := whole(t)
	p := assessed(t, in, sheet("carrot", 900.0, "vinegar_cider", 20.0))
	assert.True(t, has(p, NeedsYou, "Above the limit."))
	in.Library.Ingredients["mystery"] = &pantry.Ingredient{ID: "mystery", Name: "Mystery",
		Composition: pantry.Composition{Water: 80}}
	p = assessed(t, in, sheet("mystery", 100.0, "vinegar_cider", 900.0))
	assert.True(t, has(p, NeedsYou, "Estimate incomplete."))
	assert.True(t, has(assessed(t, in, sheet("egg_yolk_raw", 90.0, "vinegar_cider", 900.0)), Danger,
		"Raw egg."))
	v := sheet("vinegar_cider", 900.0)
	v.Keeping.HeatMinC = 85
	assert.True(t, has(assessed(t, in, v), NeedsYou, "Hot filling."))
	for id, codes := range map[string]string{"fish_sauce": "fish", "sesame_seed": "sesame", "almond": "nut:almond",
		"pecan": "nut:pecan", "celery_seed": "celery", "soy_sauce": "gluten:wheat", "vinegar_malt": "gluten:barley"} {
		assert.Contains(t, assessed(t, in, sheet(id, 100.0)).Allergens[law.GB], codes, id)
	}
	sorbate, benzoate := sheet("water", 900.0, "vinegar_cider", 100.0, "potassium_sorbate", 2.0),
		sheet("water", 900.0, "vinegar_cider", 100.0, "sodium_benzoate", 2.0)
	plain := assessed(t, in, sheet("water", 900.0, "vinegar_cider", 100.0))
	assert.Greater(t, *assessed(t, in, sorbate).PH.Estimate, *plain.PH.Estimate, "the salts of weak acids buffer")
	assert.Greater(t, *assessed(t, in, benzoate).PH.Estimate, *plain.PH.Estimate)
}

func TestWaterActivityCountsSaltAndItsMarginAndWhatIsDrivenOff(t *testing.T) {
	in := whole(t)
	plain := assessed(t, in, sheet("carrot", 900.0, "vinegar_cider", 100.0))
	salted := assessed(t, in, sheet("carrot", 900.0, "vinegar_cider", 100.0, "salt_sea_fine", 60.0))
	assert.Less(t, *salted.WaterActivity, *plain.WaterActivity-0.02)
	assert.InDelta(t, *salted.WaterActivity+0.02, *salted.facts.AW, 0.006, "an estimate carries 0.02 towards wet")
	v := sheet("carrot", 900.0, "vinegar_cider", 100.0, "salt_sea_fine", 60.0)
	v.WaterDrivenOff = amount.G(400)
	driven := assessed(t, in, v)
	assert.Less(t, *driven.WaterActivity, *salted.WaterActivity, "less water, more of everything in it")
	assert.Greater(t, driven.SaltInWater, salted.SaltInWater)
}

func TestTheWorstOfAGroupBindsTheLife(t *testing.T) {
	in := whole(t)
	v := sheet("vinegar_cider", 400.0, "sunflower_oil", 500.0, "cumin", 20.0)
	v.Keeping.Styles = []string{"shaken_nothing_fresh"}
	assert.Equal(t, 180, *assessed(t, in, v).Keeping[law.GB].Days)
	v.Lines[2].AnyOf = []string{"cumin", "garlic_raw"}
	assert.Equal(t, 7, *assessed(t, in, v).Keeping[law.GB].Days, "garlic may be in the jar")
	deep := in
	deep.Library.Versions = map[formula.Ref]formula.Version{{Formula: "base", Version: 1}: v}
	top := sheet("vinegar_cider", 100.0)
	top.Keeping.Styles = v.Keeping.Styles
	top.Lines = append(top.Lines, formula.Line{ID: "c", Component: &formula.Ref{Formula: "base", Version: 1},
		Grams: amount.G(400)})
	assert.Equal(t, 7, *assessed(t, deep, top).Keeping[law.GB].Days, "inside a component too")
}

func TestStylesFollowFromLinesAndName(t *testing.T) {
	in := whole(t)
	for _, c := range []struct {
		name, product, emulsion string
		styles                  []string
		lines                   []any
	}{
		{"Lime shake", "pourable dressing", "shaken", []string{"shaken_nothing_fresh"},
			[]any{"vinegar_cider", 300.0, "sunflower_oil", 600.0}},
		{"Lentil thing", "dip", "purée", []string{"pulse_or_root_dip"},
			[]any{"lentils_cooked", 600.0, "vinegar_cider", 90.0}},
		{"Lentil spread", "spread", "purée", []string{"pulse_or_root_dip"}, []any{"lentils_cooked", 600.0}},
		{"House sauce", "spoonable dressing", "yolk-bound", []string{"yolk_bound"},
			[]any{"sunflower_oil", 700.0, "egg_yolk_pasteurised", 90.0, "vinegar_cider", 90.0}},
		{"Green thing", "pesto", "purée", []string{"leafy_puree"}, []any{"parsley", 300.0, "sunflower_oil", 300.0,
			"salt_sea_fine", 9.0}},
		{"Yogurt dressing", "spoonable dressing", "bound", []string{"dairy_based"}, []any{"yogurt_whole", 800.0,
			"vinegar_cider", 90.0}},
	} {
		v := sheet(c.lines...)
		nodes, err := in.Library.Expand(v)
		require.NoError(t, err)
		leaves, _ := formula.Leaves(nodes)
		got := Styled(v, c.name, leaves)
		assert.Equal(t, c.product, got.ProductStyle, c.name)
		assert.Equal(t, c.emulsion, got.EmulsionStyle, c.name)
		assert.Equal(t, c.styles, got.Keeping.Styles, c.name)
	}
	shaken := formula.Version{ProductStyle: "pourable dressing", EmulsionStyle: "shaken"}
	assert.True(t, Separates(shaken, 0.4))
	assert.False(t, Separates(shaken, 0), "nothing to part from")
	shaken.ProductStyle = "dip"
	assert.False(t, Separates(shaken, 0.4), "nobody shakes a dip")
}

func TestTheListBeforeALock(t *testing.T) {
	in := whole(t)
	keys := func(v formula.Version, r law.Regime) string {
		p := assessed(t, in, v)
		var out []string
		for _, x := range BeforeLock(v, "Dip", p, lawOf(t, r)) {
			mark := ""
			if x.Blocks {
				mark = "!"
			}
			out = append(out, mark+x.Key)
		}
		return strings.Join(out, " ")
	}
	v := sheet("vinegar_cider", 900.0, "sunflower_oil", 300.0)
	assert.Equal(t, "prices quid", keys(v, law.GB))
	assert.Equal(t, "prices", keys(v, law.US))
	v.Wording.StressesNothing = true
	assert.Equal(t, "prices", keys(v, law.GB))
	v.Keeping.Asked = keeping.Ambient
	assert.Equal(t, "!ambient prices", keys(v, law.GB), "without a heat step no document helps")
	v.Keeping.HeatMinC, v.Keeping.HeatMinMinutes = 85, 5
	assert.Equal(t, "ambient prices", keys(v, law.GB), "the document may come later")
	v.Keeping.HeatMinC = 70
	assert.Equal(t, "!ambient prices", keys(v, law.GB))
	v = sheet("mayonnaise", 900.0, "egg_yolk_raw", 9.0, "fish_sauce", 9.0)
	v.Wording.StressesNothing = true
	v.Keeping.Styles = []string{"shaken_nothing_fresh"}
	assert.Equal(t, "!open:mayonnaise !open:fish_sauce refused style band prices", keys(v, law.GB))
	assert.Equal(t, "!open:mayonnaise !open:fish_sauce !refused style band prices", keys(v, law.US))
	in.Library.Ingredients["stock"] = &pantry.Ingredient{ID: "stock", Name: "Fish stock", Flags: []string{"compound"}}
	assert.Contains(t, keys(sheet("stock", 90.0), law.US), "!species:fish", "a US list names the kind")
	assert.NotContains(t, keys(sheet("stock", 90.0), law.GB), "species")
}

func TestMayContainLeavesOutWhatIsInIt(t *testing.T) {
	in := whole(t)
	g := *in.Library.Ingredients["walnut"]
	g.MayContain = &pantry.Stated{Allergens: law.Each[[]string]{law.GB: {"nut:walnut", "nut:pecan"}}}
	in.Library.Ingredients["walnut"] = &g
	p := assessed(t, in, sheet("walnut", 90.0, "vinegar_cider", 90.0))
	assert.Equal(t, []string{"nut:pecan"}, p.MayContain[law.GB])
	assert.Empty(t, p.MayContain[law.US])
}
