package pantry

import (
	"fmt"
	"testing"

	"gallipot/internal/core/amount"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestHouseMeasureIsMeanAndDeviation(t *testing.T) {
	m, err := HouseMeasure("tahini", "tbsp_heaping", "the bent spoon", []float64{23.8, 26.1, 24.4})
	require.NoError(t, err)
	assert.InDelta(t, 24.7667, m.Grams, 0.0001)
	assert.InDelta(t, 4.8171, m.Spread, 0.001, "sample standard deviation 1.1930 g of 24.7667 g")
	assert.Equal(t, HouseSource, m.Source)

	all := NewMeasures([]Measure{{Ingredient: "tahini", Name: "tbsp_heaping", Grams: 20, Source: ReferenceSource}},
		[]Measure{m})
	own, ok := all.House("tahini", "tbsp_heaping")
	require.True(t, ok)
	assert.InDelta(t, 24.77, own.Grams, 0.01)
	assert.Len(t, all.Of("tahini"), 2, "both are shown")
	assert.Equal(t, HouseSource, all.Of("tahini")[0].Source)
}

func TestHouseMeasureRefusesWhatCannotBe(t *testing.T) {
	for field, try := range map[string]struct {
		name string
		list []float64
	}{
		"weighings":    {"tbsp", []float64{20, 21}},
		"weighings[1]": {"tbsp", []float64{20, -1, 21}},
		"measure":      {"my spoon!", []float64{20, 21, 22}},
	} {
		_, err := HouseMeasure("tahini", try.name, "", try.list)
		var wrong FieldError
		require.ErrorAs(t, err, &wrong)
		assert.Equal(t, field, wrong.Field)
	}
}

var lemon = Preparation{ID: "lemon_whole.zest_then_juice", Name: "zest_then_juice", Input: "lemon_whole",
	Output: "lemon_juice", YieldPercent: 37, SpreadPercent: 14,
	MinutesPerKg: 38, CoOutput: "lemon_zest", CoYield: 5}

func TestExpectedYieldTakesTheLastFiveAndTheReferenceAsOne(t *testing.T) {
	p := lemon
	assert.InDelta(t, 37, p.Expected().Percent, 1e-9)
	for _, out := range []float64{900, 330, 340, 350, 360, 370} { // the first is too long ago to count
		p.Records = append(p.Records, YieldTrial{Day: "2026-10-01", In: 1000, Out: out, Co: 40})
	}
	y := p.Expected()
	assert.InDelta(t, (33.0+34+35+36+37+37)/6, y.Percent, 1e-9)
	assert.InDelta(t, 35, *y.Recorded, 1e-9, "shown beside it")
	assert.InDelta(t, 37, y.Typical, 1e-9)
	assert.InDelta(t, (5*4.0+5)/6, y.Co, 1e-9)
	assert.Equal(t, 5, y.Trials)
}

func TestJointNeedIsTheGreaterNotTheSum(t *testing.T) {
	b, err := lemon.Buy(370, 25)
	require.NoError(t, err)
	assert.InDelta(t, 1000, b.In, 1e-9, "370 g of juice need 1000 g, 25 g of zest only 500 g")
	assert.InDelta(t, 25, b.SurplusCo, 1e-9)
	assert.Zero(t, b.SurplusOut)
	assert.InDelta(t, 38, b.Minutes, 1e-9)

	b, err = lemon.Buy(37, 50)
	require.NoError(t, err)
	assert.InDelta(t, 1000, b.In, 1e-9)
	assert.InDelta(t, 333, b.SurplusOut, 1e-9)

	plain := Preparation{Name: "peel", Input: "a", Output: "b", YieldPercent: 80}
	_, err = plain.Buy(10, 5)
	assert.ErrorContains(t, err, "no co-output")
	_, err = Preparation{Input: "a", Output: "b", YieldPercent: 80, CoOutput: "c"}.Buy(10, 5)
	assert.ErrorContains(t, err, "no co-output", "one that yields nothing")
	_, err = Preparation{Input: "a", Output: "b", YieldPercent: 80, CoYield: 4}.Buy(10, 5)
	assert.ErrorContains(t, err, "no co-output", "one that is not named")
	_, err = plain.Buy(-1, 0)
	assert.ErrorContains(t, err, "negative")
}

func TestCostFollowsTheInput(t *testing.T) {
	p := lemon
	in := amount.MustMoney("0.004").Exact()
	assert.InDelta(t, 0.004/0.37, p.OutCost(in, nil).Float(), 1e-12, "by default the co-output carries nothing")
	assert.Zero(t, p.CoCost(in, nil).Sign())
	p.CoShare = 25
	assert.InDelta(t, 0.003/0.37, p.OutCost(in, nil).Float(), 1e-12)
	assert.InDelta(t, 0.001/0.05, p.CoCost(in, nil).Float(), 1e-12)

	roast := Preparation{Input: "pepper", Output: "roasted", YieldPercent: 50, Extras: []ExtraInput{{"oil", 4, 50, 0}}}
	assert.InDelta(t, (100*0.002+2*0.01)/50,
		roast.OutCost(amount.MustMoney("0.002").Exact(),
			func(string) amount.Exact { return amount.MustMoney("0.01").Exact() }).Float(),
		1e-12, "half of the oil stays and counts")
}

func TestJointPurchaseNeverLacksEither(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := Preparation{YieldPercent: rapid.Float64Range(1, 300).Draw(t, "yield"), CoOutput: "co",
			CoYield: rapid.Float64Range(1, 300).Draw(t, "co yield")}
		out, co := rapid.Float64Range(0, 1e5).Draw(t, "out"), rapid.Float64Range(0, 1e5).Draw(t, "co")
		b, err := p.Buy(out, co)
		require.NoError(t, err)
		assert.GreaterOrEqual(t, b.In*p.YieldPercent/100, out*(1-1e-9))
		assert.GreaterOrEqual(t, b.In*p.CoYield/100, co*(1-1e-9))
		sum := 100*out/p.YieldPercent + 100*co/p.CoYield
		assert.LessOrEqual(t, b.In, sum*(1+1e-9))
		assert.InDelta(t, 0, min(b.SurplusOut, b.SurplusCo), 1e-6*b.In, "one of the two is used up")
	})
}

func TestLessWaterConcentratesTheRest(t *testing.T) {
	in := Ingredient{Composition: Composition{Water: 90, Sugars: 4, Fibre: 2, SodiumMg: 10}, Acids: Acids{Citric: 0.5}}
	p := Preparation{YieldPercent: 50}
	c, a, err := p.LessWater(in, nil)
	require.NoError(t, err)
	assert.InDelta(t, 80, c.Water, 1e-9)
	assert.InDelta(t, 8, c.Sugars, 1e-9)
	assert.InDelta(t, 20, c.SodiumMg, 1e-9)
	assert.InDelta(t, 1, a.Citric, 1e-9)

	_, _, err = Preparation{YieldPercent: 5}.LessWater(in, nil)
	assert.ErrorContains(t, err, "more is lost than there is water")
	_, _, err = Preparation{YieldPercent: 50, Extras: []ExtraInput{{"oil", 10, 100, 0}}}.LessWater(in,
		func(string) (Ingredient, bool) { return Ingredient{}, false })
	assert.ErrorContains(t, err, "no ingredient")
}

func TestPreparationCheckNamesTheField(t *testing.T) {
	assert.Empty(t, lemon.Check())
	for field, change := range map[string]func(*Preparation){
		"name":                     func(p *Preparation) { p.Name = " " },
		"output":                   func(p *Preparation) { p.Output = p.Input },
		"yield_percent":            func(p *Preparation) { p.YieldPercent = 1001 },
		"labour_min_per_kg":        func(p *Preparation) { p.MinutesPerKg = -1 },
		"co_yield_percent":         func(p *Preparation) { p.CoYield = 0 },
		"co_output":                func(p *Preparation) { p.CoOutput = "" },
		"extras[0].ingredient":     func(p *Preparation) { p.Extras = []ExtraInput{{}} },
		"records[0].out_g":         func(p *Preparation) { p.Records = []YieldTrial{{In: 10, Out: 500}} },
		"co_cost_share_percent":    func(p *Preparation) { p.CoShare = 101 },
		"records[0].in_g":          func(p *Preparation) { p.Records = []YieldTrial{{In: 0, Out: 5}} },
		"extras[0].uptake_percent": func(p *Preparation) { p.Extras = []ExtraInput{{"oil", 5, 120, 0}} },
	} {
		p := lemon
		change(&p)
		var fields []string
		for _, e := range p.Check() {
			fields = append(fields, e.Field)
		}
		assert.Contains(t, fields, field, fmt.Sprintf("%+v", p))
	}
}

func TestAPreparationNamesAllThatItIsAbout(t *testing.T) {
	p := Preparation{Input: "lime_whole", Output: "lime_zest", CoOutput: "lime_juice",
		Extras: []ExtraInput{{Ingredient: "water"}, {Ingredient: "salt_sea_fine"}}}
	assert.Equal(t, []string{"lime_whole", "lime_zest", "lime_juice", "water", "salt_sea_fine"}, p.Names())
	assert.Equal(t, []string{"kale", "kale_destemmed"},
		Preparation{Input: "kale", Output: "kale_destemmed"}.Names())
}
