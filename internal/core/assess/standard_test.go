package assess

import (
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestALineWhoseSpreadMattersGetsItsTolerance: salt that varies is held closer than water that does not.
func TestALineWhoseSpreadMattersGetsItsTolerance(t *testing.T) {
	rate := costing.PricesBy(pantry.Market{Rule: pantry.NewestPrice, StaleDays: 90}, nil, nil).Rate()
	in := Inputs{Terms: costing.Terms{Rate: rate}}
	in.Library = formula.Library{Ingredients: map[string]*pantry.Ingredient{
		"water": {ID: "water", Name: "Water", Flags: []string{pantry.FlagWater},
			Composition: pantry.Composition{Water: 100}},
		"salt": {ID: "salt", Name: "Salt", Role: "salt", Composition: pantry.Composition{SodiumMg: 39300}}}}
	newest := formula.Blank("brine")
	newest.Lines = []formula.Line{{ID: "w", Ingredient: "water", Grams: amount.G(1900)},
		{ID: "s", Ingredient: "salt", Grams: amount.G(100)}}
	s := Standard{Newest: newest, Reference: amount.G(1000), Division: amount.G(1),
		Names: map[string]string{"water": "Water", "salt": "Salt"},
		Lines: []formula.StandardLine{{Key: "water", Grams: amount.G(950), Mean: 95},
			{Key: "salt", Grams: amount.G(50), Mean: 5, Deviation: 1.5, Varies: true}}}
	v, lines, err := s.Propose(in)
	require.NoError(t, err)
	require.Len(t, lines, 2)
	assert.Equal(t, "Salt", lines[1].Name)
	require.NotNil(t, lines[1].Now)
	assert.Equal(t, amount.G(50), *lines[1].Now, "of 2 kg, at the reference size")
	assert.Positive(t, lines[1].Wander.Salt)
	assert.Zero(t, v.Lines[0].TolerancePercent, "nothing is asked of the water")
	assert.Equal(t, lines[1].Wander.Tolerance, v.Lines[1].TolerancePercent)
	assert.Positive(t, v.Lines[1].TolerancePercent)
	s.Lines[0].Key = "brandy"
	_, _, err = s.Propose(in)
	assert.Error(t, err, "what is not in the library")
}
