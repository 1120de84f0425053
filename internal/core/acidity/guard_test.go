package acidity

import (
	"math"
	"testing"
	"time"

	"gallipot/internal/core/pantry"
	"gallipot/internal/reference"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestALoneIngredientShowsItsOwnRange: the tolerance of the solver widens no band.
func TestALoneIngredientShowsItsOwnRange(t *testing.T) {
	all, err := reference.Ingredients()
	require.NoError(t, err)
	seen := 0
	for i := range all {
		g := &all[i]
		if g.PH == nil || g.Dry() || g.Composition.Water == 0 || g.Chemistry != "" {
			continue
		}
		seen++
		low, high := EstimatePH([]Part{{g.Name, 100, g}}, 0).Shown()
		assert.InDelta(t, math.Floor(g.PH.Low*20+1e-6)/20, low, 1e-9, g.Name)
		assert.InDelta(t, math.Ceil(g.PH.High*20-1e-6)/20, high, 1e-9, g.Name)
	}
	assert.Greater(t, seen, 150)
}

func TestSodaBeyondTheAcidsStaysAsBicarbonate(t *testing.T) {
	soda := &pantry.Ingredient{ID: "s", Name: "Baking soda", Chemistry: pantry.ChemistryBakingSoda}
	water := &pantry.Ingredient{ID: "w", Name: "Water", Chemistry: pantry.ChemistryWater,
		Composition: pantry.Composition{Water: 100}}
	e := EstimatePH([]Part{{"Water", 990, water}, {"Baking soda", 10, soda}}, 0)
	assert.InDelta(t, 8.5, e.PH, 1e-9)
	assert.InDelta(t, 8.5, e.High, 1e-9)
	white := vinegarOf(pantry.Acids{}, 9.1)
	white.BufferMmol = 20
	e = EstimatePH([]Part{{"White", 990, white}, {"Baking soda", 10, soda}}, 0)
	assert.InDelta(t, 9.1, e.PH, 1e-9, "what lies above it by itself")
	sour := EstimatePH([]Part{{"Vinegar", 900, vinegarOf(pantry.Acids{Acetic: 5}, 2.5)}, {"Baking soda", 10, soda}}, 0)
	assert.Less(t, sour.PH, 4.6, "the acids take it")
}

func TestAnAcidOfUnknownStrengthMakesTheEstimateIncomplete(t *testing.T) {
	all, err := reference.Ingredients()
	require.NoError(t, err)
	water := &pantry.Ingredient{ID: "w", Name: "Water", Chemistry: pantry.ChemistryWater,
		Composition: pantry.Composition{Water: 100}}
	for i := range all {
		if g := &all[i]; g.ID == "ascorbic_acid" || g.ID == "citric_acid" {
			e := EstimatePH([]Part{{"Water", 990, water}, {g.Name, 10, g}}, 0)
			assert.Equal(t, g.ID == "ascorbic_acid", e.Incomplete(), g.ID)
		}
	}
	own := &pantry.Ingredient{ID: "x", Name: "Sour salt (phosphoric acid)", Composition: pantry.Composition{Water: 15}}
	assert.Equal(t, []string{own.Name}, EstimatePH([]Part{{"Water", 990, water}, {own.Name, 10, own}}, 0).Missing)
}

func TestDrivingTheWaterOffNeverTakesThePHAway(t *testing.T) {
	puree := vinegarOf(pantry.Acids{Citric: 0.4}, 4.3)
	puree.BufferMmol = 10
	for _, off := range []float64{0, 400, 950, 2000} {
		e := EstimatePH([]Part{{"Puree", 1000, puree}}, off)
		assert.False(t, e.NoWater, "%g g driven off", off)
		assert.InDelta(t, 4.3, e.PH, 0.05)
	}
}

func TestAFirstReadingOverTheLimitIsSaidAtOnce(t *testing.T) {
	filled := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	b := Bounds{Limit: 4.6, Target: 4.2, FilledAt: filled}
	at := filled.Add(time.Hour)
	d := Decide([]Reading{{PH: 5.2, Jar: FirstJar, Load: 1, At: at}}, b)
	assert.Equal(t, Waiting, d.Outcome)
	assert.Contains(t, d.Sentence, "first reading of 5.20 lies over the limit of 4.60")
	assert.NotContains(t, Decide([]Reading{{PH: 4.2, Jar: FirstJar, Load: 1, At: at}}, b).Sentence, "over the limit")
	struck := Reading{PH: 5.2, Jar: FirstJar, Load: 1, At: at, Void: "read the buffer"}
	assert.NotContains(t, Decide([]Reading{struck}, b).Sentence, "over the limit")
}
