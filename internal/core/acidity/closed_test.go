package acidity

import (
	"math"
	"testing"

	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// vinegarOf is water with this many grams of an acid in 100 g and nothing else in it, of that pH.
func vinegarOf(acids pantry.Acids, ph float64) *pantry.Ingredient {
	return &pantry.Ingredient{ID: "v", Name: "V", Composition: pantry.Composition{Water: 95}, Acids: acids,
		PH: &pantry.PHRange{Typical: ph, Low: ph, High: ph}}
}

// TestOneSolutionKeepsItsPH: whatever an ingredient is, alone it has the pH it is said to have.
func TestOneSolutionKeepsItsPH(t *testing.T) {
	for name, g := range map[string]*pantry.Ingredient{
		"acetic": vinegarOf(pantry.Acids{Acetic: 5}, 2.5), "citric": vinegarOf(pantry.Acids{Citric: 6}, 2.2),
		"malic": vinegarOf(pantry.Acids{Malic: 1}, 3.3), "tartaric": vinegarOf(pantry.Acids{Tartaric: 1}, 3.1),
		"lactic": vinegarOf(pantry.Acids{Lactic: 1}, 4.1), "water": vinegarOf(pantry.Acids{}, 7),
	} {
		e := EstimatePH([]Part{{name, 300, g}}, 0)
		assert.InDelta(t, g.PH.Typical, e.PH, 1e-6, name)
		assert.False(t, e.NoWater)
		assert.Empty(t, e.Missing)
	}
}

// TestTitratableAcidityOfAPlainVinegar compares with what a burette would take: all of the acid's charge from its own
// pH to 8.1, and the water's.
func TestTitratableAcidityOfAPlainVinegar(t *testing.T) {
	g := vinegarOf(pantry.Acids{Acetic: 5}, 2.4)
	moles := 10 * 5 / 60.052 // in a kilogram
	charged := func(ph float64) float64 { return 1 / (1 + math.Pow(10, 4.756-ph)) }
	water := func(ph float64) float64 { return 0.95 * (math.Pow(10, ph-14) - math.Pow(10, -ph)) }
	base := moles*(charged(8.1)-charged(2.4)) + water(8.1) - water(2.4)
	assert.InDelta(t, base*60.052, TitratableAcidity([]Part{{"v", 1000, g}}, 0), 1e-3)
}

func TestWhatIsUnknownIsAsWideAsIsSaid(t *testing.T) {
	g := &pantry.Ingredient{ID: "u", Name: "Unknown", Composition: pantry.Composition{Water: 80}}
	e := EstimatePH([]Part{{"Unknown", 100, g}}, 0)
	assert.InDelta(t, 5.5, e.PH, 1e-6)
	assert.InDelta(t, 4.0, e.Low, 1e-6)
	assert.InDelta(t, 7.0, e.High, 1e-6)
	assert.Equal(t, []string{"Unknown"}, e.Missing)
	assert.True(t, e.Incomplete())
	// 15 mmol per kg and pH against a buffer that is known: the balance stands in proportion
	known := vinegarOf(pantry.Acids{}, 4.5)
	known.BufferMmol = 45
	mix := EstimatePH([]Part{{"Unknown", 500, g}, {"V", 500, known}}, 0)
	assert.InDelta(t, (15*5.5+45*4.5)/60, mix.PH, 0.002)
}

func TestWithoutWaterThereIsNoPH(t *testing.T) {
	oil := &pantry.Ingredient{ID: "o", Name: "Oil", Composition: pantry.Composition{Fat: 100}}
	assert.True(t, EstimatePH([]Part{{"Oil", 100, oil}}, 0).NoWater)
	assert.Zero(t, TitratableAcidity([]Part{{"Oil", 100, oil}}, 0))
	salt := &pantry.Ingredient{ID: "s", Name: "Salt", Composition: pantry.Composition{SodiumMg: 39000}}
	both := EstimatePH([]Part{{"Salt", 10, salt}, {"V", 90, vinegarOf(pantry.Acids{Acetic: 5}, 2.5)}}, 0)
	assert.Empty(t, both.Missing, "what brings no water has no pH to be missing")
	none := EstimatePH([]Part{{"V", 0, &pantry.Ingredient{ID: "u", Composition: pantry.Composition{Water: 80}}},
		{"W", 100, vinegarOf(pantry.Acids{}, 7)}}, 0)
	assert.Empty(t, none.Missing, "of nothing nothing is missing")
}

// TestWaterActivityOfPlainSolutions computes one solute at a time from the formulas of the handbook.
func TestWaterActivityOfPlainSolutions(t *testing.T) {
	of := func(s Solutes) float64 {
		aw, err := s.WaterActivity()
		require.NoError(t, err)
		return aw
	}
	assert.InDelta(t, 1, of(Solutes{Water: 100}), 1e-12)
	molal := 10 / 58.44 / 0.1
	assert.InDelta(t, 1-0.03112*molal-0.001482*molal*molal, of(Solutes{Water: 100, Salt: 10}), 1e-5)
	ideal := func(grams, molar float64) float64 {
		x := grams / molar / (grams/molar + 100/18.015)
		return 1 - x
	}
	for name, c := range map[string]struct {
		s     Solutes
		molar float64
	}{
		"acetic":  {Solutes{Water: 100, Acetic: 5}, 60.052},
		"lactic":  {Solutes{Water: 100, Lactic: 5}, 90.078},
		"malic":   {Solutes{Water: 100, Malic: 5}, 134.087},
		"citric":  {Solutes{Water: 100, Citric: 5}, 192.124},
		"tart":    {Solutes{Water: 100, Tartaric: 5}, 150.087},
		"alcohol": {Solutes{Water: 100, Alcohol: 5}, 46.069},
	} {
		assert.InDelta(t, ideal(5, c.molar), of(c.s), 1e-5, name)
	}
	assert.Less(t, of(Solutes{Water: 100, Hexose: 50}), ideal(50, 180.156), "sugars hold more than their share")
	_, err := Solutes{}.WaterActivity()
	require.ErrorIs(t, err, ErrNoWaterActivity)
	_, err = Solutes{Water: 100, Salt: 0.58442 * 60 * 0.999}.WaterActivity()
	require.NoError(t, err)
	_, err = Solutes{Water: 100, Salt: 0.58442 * 60 * 1.01}.WaterActivity()
	require.ErrorIs(t, err, ErrNoWaterActivity, "over 6 mol/kg of salt nothing is said")
	for aw, shown := range map[float64]float64{0.9001: 0.905, 0.905: 0.905, 0.9051: 0.91, 0.999: 1, 1: 1} {
		assert.InDelta(t, shown, ShownWaterActivity(aw), 1e-12, "%g", aw)
	}
	assert.InDelta(t, 0.94, RuleWaterActivity(0.92), 1e-12)
	assert.InDelta(t, 1, RuleWaterActivity(0.985), 1e-12)
}
