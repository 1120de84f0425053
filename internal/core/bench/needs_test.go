package bench

import (
	"testing"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
)

// TestWhatEachFlagAsksOfALot reads the kinds of ingredients from the outside: whose date is asked for, whose kill step,
// and how closely it is weighed.
func TestWhatEachFlagAsksOfALot(t *testing.T) {
	for flag, want := range map[string]struct {
		date, kill bool
		tolerance  float64
	}{
		"fresh_dairy": {true, false, 1}, "soft_cheese": {true, false, 1}, "pasteurised_egg": {true, false, 1},
		"raw_egg": {true, false, 1}, "canned_low_acid": {true, false, 1}, "cooked_legume": {true, false, 1},
		"nut_or_seed": {false, true, 1}, "dried_spice": {false, true, 5}, pantry.FlagSpice: {false, true, 5},
		"acidulant": {false, false, 2}, pantry.FlagSalt: {false, false, 2}, "raw_herb": {false, false, 5},
		"raw_allium": {false, false, 5}, "raw_vegetable": {false, false, 1}, "": {false, false, 1},
	} {
		n := formula.Node{Ingredient: &pantry.Ingredient{ID: "x", Flags: []string{flag}}}
		assert.Equal(t, want.date, needsDate(n), "date of %q", flag)
		assert.Equal(t, want.kill, needsKillStep(n), "kill step of %q", flag)
		assert.InDelta(t, want.tolerance, DefaultTolerance(n), 0, "tolerance of %q", flag)
	}
	component := formula.Node{}
	assert.True(t, needsDate(component), "a component is a lot with a last day of its own")
	assert.False(t, needsKillStep(component))
	assert.InDelta(t, 1, DefaultTolerance(component), 0)
}
