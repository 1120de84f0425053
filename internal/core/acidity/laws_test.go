package acidity

import (
	"testing"

	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// anyIngredient draws an ingredient with a water phase and a known pH.
func anyIngredient(t *rapid.T, label string) *pantry.Ingredient {
	f := func(name string, lo, hi float64) float64 { return rapid.Float64Range(lo, hi).Draw(t, label+name) }
	p := f("ph", 2.2, 7.5)
	return &pantry.Ingredient{
		ID: label, Name: label, Composition: pantry.Composition{Water: f("water", 20, 95)},
		Acids: pantry.Acids{Acetic: f("acetic", 0, 6), Citric: f("citric", 0, 6), Malic: f("malic", 0, 1),
			Lactic: f("lactic", 0, 1.5), Tartaric: f("tartaric", 0, 3)},
		PH:         &pantry.PHRange{Typical: p, Low: p - f("down", 0, 0.4), High: p + f("up", 0, 0.4)},
		BufferMmol: f("buffer", 1, 120),
	}
}

func anyMix(t *rapid.T) []Part {
	n := rapid.IntRange(2, 6).Draw(t, "parts")
	parts := make([]Part, n)
	for i := range parts {
		g := anyIngredient(t, string(rune('a'+i)))
		parts[i] = Part{g.Name, rapid.Float64Range(5, 500).Draw(t, "grams"), g}
	}
	return parts
}

const close = 1e-6

func TestAnIngredientAloneReturnsItsOwnPH(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		g := anyIngredient(t, "a")
		e := EstimatePH([]Part{{g.Name, rapid.Float64Range(1, 5000).Draw(t, "g"), g}}, 0)
		assert.InDelta(t, g.PH.Typical, e.PH, close)
	})
}

func TestAnIngredientWithItselfChangesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		g := anyIngredient(t, "a")
		twin := *g
		twin.ID = "twin"
		e := EstimatePH([]Part{{"a", 120, g}, {"twin", rapid.Float64Range(1, 900).Draw(t, "g"), &twin}}, 0)
		assert.InDelta(t, g.PH.Typical, e.PH, close)
	})
}

func TestOrderAndScaleDoNotMatter(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		parts := anyMix(t)
		k := rapid.Float64Range(0.1, 20).Draw(t, "scale")
		turned := make([]Part, len(parts))
		for i, p := range parts {
			turned[len(parts)-1-i] = Part{p.Name, p.Grams * k, p.Ingredient}
		}
		a, b := EstimatePH(parts, 0), EstimatePH(turned, 0)
		assert.InDelta(t, a.PH, b.PH, close)
		assert.InDelta(t, a.High, b.High, close)
		assert.InDelta(t, a.Low, b.Low, close)
	})
}

func TestAnAdditionMovesTowardsItsOwnPHAndNeverPast(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		parts := anyMix(t)
		before := EstimatePH(parts, 0).PH
		g := anyIngredient(t, "added")
		after := EstimatePH(append(parts, Part{"added", rapid.Float64Range(1, 300).Draw(t, "g"), g}), 0).PH
		lo, hi := min(before, g.PH.Typical), max(before, g.PH.Typical)
		assert.GreaterOrEqual(t, after, lo-close)
		assert.LessOrEqual(t, after, hi+close)
	})
}

func TestOilSaltAndSugarNeverChangeIt(t *testing.T) {
	dry := []*pantry.Ingredient{
		{ID: "oil", Name: "oil", Role: "oil", Composition: pantry.Composition{Fat: 100}},
		{ID: "salt", Name: "salt", Flags: []string{"salt"},
			Composition: pantry.Composition{Water: 0.5, SodiumMg: 38000}},
		{ID: "sugar", Name: "sugar", Flags: []string{"sugar"},
			Composition: pantry.Composition{Water: 1.3, Sugars: 97, Carbohydrate: 97}},
	}
	rapid.Check(t, func(t *rapid.T) {
		parts := anyMix(t)
		before := EstimatePH(parts, 0)
		for _, g := range dry {
			parts = append(parts, Part{g.Name, rapid.Float64Range(1, 800).Draw(t, g.Name), g})
		}
		after := EstimatePH(parts, 0)
		assert.InDelta(t, before.PH, after.PH, close)
		assert.InDelta(t, before.High, after.High, close)
		assert.False(t, after.Incomplete())
	})
}

func TestTheEstimateLiesInItsBand(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		e := EstimatePH(anyMix(t), 0)
		assert.LessOrEqual(t, e.Low, e.PH+close)
		assert.GreaterOrEqual(t, e.High, e.PH-close)
		low, high := e.Shown()
		assert.LessOrEqual(t, low, e.Low+close)
		assert.GreaterOrEqual(t, high, e.High-close)
	})
}

func TestTheBandIsAnEnvelopeOfTheStatedRanges(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		parts := anyMix(t)
		band := EstimatePH(parts, 0)
		moved := make([]Part, len(parts))
		for i, p := range parts {
			g := *p.Ingredient
			pick := rapid.Float64Range(g.PH.Low, g.PH.High).Draw(t, "p")
			g.PH = &pantry.PHRange{Typical: pick, Low: pick, High: pick}
			k := rapid.Float64Range(acidsLess, acidsMore).Draw(t, "acids")
			g.Acids = pantry.Acids{Acetic: g.Acids.Acetic * k, Citric: g.Acids.Citric * k, Malic: g.Acids.Malic * k,
				Lactic: g.Acids.Lactic * k, Tartaric: g.Acids.Tartaric * k}
			g.BufferMmol *= rapid.Float64Range(bufferLess, bufferMore).Draw(t, "buffer")
			moved[i] = Part{p.Name, p.Grams, &g}
		}
		inside := EstimatePH(moved, 0).PH
		assert.GreaterOrEqual(t, inside, band.Low-close)
		assert.LessOrEqual(t, inside, band.High+close)
	})
}

func TestBakingSodaRaisesAndPureAcidLowers(t *testing.T) {
	dip := &pantry.Ingredient{ID: "d", Name: "dip", Composition: pantry.Composition{Water: 80},
		PH: &pantry.PHRange{Typical: 5, Low: 4.8, High: 5.2}, BufferMmol: 20}
	soda := &pantry.Ingredient{ID: "s", Name: "soda", Chemistry: pantry.ChemistryBakingSoda}
	citric := &pantry.Ingredient{ID: "c", Name: "citric", Chemistry: pantry.ChemistryPureAcid,
		Acids: pantry.Acids{Citric: 99.5}}
	assert.Greater(t, EstimatePH([]Part{{"dip", 1000, dip}, {"soda", 2, soda}}, 0).PH, 5.0)
	assert.Less(t, EstimatePH([]Part{{"dip", 1000, dip}, {"citric", 2, citric}}, 0).PH, 5.0)
}

func TestAnUnknownPHMakesTheEstimateIncompleteAndWide(t *testing.T) {
	g := &pantry.Ingredient{ID: "x", Name: "mystery paste", Composition: pantry.Composition{Water: 60}}
	e := EstimatePH([]Part{{g.Name, 100, g}}, 0)
	assert.Equal(t, []string{"mystery paste"}, e.Missing)
	assert.InDelta(t, 5.5, e.PH, close)
	assert.InDelta(t, 4.0, e.Low, close)
	assert.InDelta(t, 7.0, e.High, close)
}

func TestOnlyOilHasNoPH(t *testing.T) {
	oil := &pantry.Ingredient{ID: "oil", Name: "oil", Role: "oil", Composition: pantry.Composition{Fat: 100}}
	assert.True(t, EstimatePH([]Part{{"oil", 100, oil}}, 0).NoWater)
}

func TestBrineOverSixMolalCannotBeEstimated(t *testing.T) {
	_, err := Solutes{Water: 1000, Salt: 400}.WaterActivity()
	assert.ErrorIs(t, err, ErrNoWaterActivity)
	_, err = Solutes{}.WaterActivity()
	assert.ErrorIs(t, err, ErrNoWaterActivity)
}

func TestWaterActivityIsShownRoundedUp(t *testing.T) {
	assert.Equal(t, 0.97, ShownWaterActivity(0.9674))
	assert.Equal(t, 0.965, ShownWaterActivity(0.965))
	assert.Equal(t, 1.0, ShownWaterActivity(0.9999))
}
