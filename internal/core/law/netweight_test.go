package law

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestHowMuchAJarMayBeShort(t *testing.T) {
	for nominal, want := range map[float64]float64{33: 3.0, 40: 3.6, 50: 4.5, 75: 4.5, 100: 4.5, 190: 8.6, 200: 9,
		227: 9, 300: 9, 340: 10.2, 500: 15, 750: 15, 1000: 15, 2000: 30} {
		got, ok := Allowed(gb.Shortage.Steps, nominal)
		assert.True(t, ok)
		assert.InDelta(t, want, got, 1e-9, "of %g", nominal)
	}
	_, ok := Allowed(gb.Shortage.Steps, 10_001)
	assert.False(t, ok)
	_, ok = Allowed(us.Shortage.Steps, 227)
	assert.False(t, ok, "the shop enters it, with its source")
}

func TestAllowedShortageGrowsWithTheJar(t *testing.T) {
	before := 0.0
	for nominal := 5.0; nominal <= 10_000; nominal++ {
		got, ok := Allowed(tolerable, nominal)
		assert.True(t, ok)
		assert.GreaterOrEqual(t, got, before, "at %g", nominal)
		before = got
	}
}
