package pack

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTheUsualJarsCanBe(t *testing.T) {
	require.Len(t, Usual(), 6)
	seen := map[string]bool{}
	for _, j := range Usual() {
		assert.Empty(t, j.Check(""), j.Name)
		assert.False(t, seen[j.ID], j.ID)
		seen[j.ID] = true
		inside := j.WidthMM * j.DepthMM * j.BodyMM() / 1000
		if j.Shape == Round {
			inside = math.Pi / 4 * j.DiameterMM * j.DiameterMM * j.BodyMM() / 1000
		}
		assert.Less(t, j.ML, inside, "%s holds more than it takes up", j.Name)
		assert.Greater(t, j.ML, inside*0.55, "%s holds too little for its size", j.Name)
	}
}

func TestWhatALabelTakesFromAJar(t *testing.T) {
	round := Jar{Name: "round", ML: 205, Shape: Round, HeightMM: 100, DiameterMM: 65, LidMM: 12, WallMM: 56}
	assert.InDelta(t, 204.2, round.AroundMM(), 0.05)
	assert.InDelta(t, 179.7, round.SurfaceCM2(), 0.05, "204.2 x 88 mm")
	assert.InDelta(t, 71.9, round.DisplayCM2(), 0.05, "40 % of it")
	around, half, high := round.RoomMM()
	assert.InDelta(t, 200.2, around, 0.05)
	assert.InDelta(t, 81.7, half, 0.05)
	assert.InDelta(t, 56, high, 0)
	square := Jar{Name: "square", ML: 268, Shape: Sided, HeightMM: 108, WidthMM: 60, DepthMM: 70, LidMM: 14, WallMM: 64}
	assert.InDelta(t, 65.8, square.SurfaceCM2(), 0.01, "the larger side")
	assert.InDelta(t, 56.4, square.DisplayCM2(), 0.01, "the front")
	assert.InDelta(t, 260, square.AroundMM(), 0)
	assert.InDelta(t, 60, square.FrontMM(), 0)
	assert.InDelta(t, 22, round.HeadspaceMM(205*0.75), 0.01)
	assert.Negative(t, round.HeadspaceMM(210))
	assert.Zero(t, Jar{}.HeadspaceMM(10))
}

// A jar tells how full it is, and what it does not hold; of nothing known it tells nothing.
func TestHowFullAJarIs(t *testing.T) {
	jar := Jar{ML: 200, Shape: Round, HeightMM: 100, LidMM: 12, DiameterMM: 65}
	assert.Equal(t, Fullness{Says: "190 of 200 mL to the brim, 4 mm of headspace"}, jar.Filled(190))
	assert.Equal(t, Fullness{"holds 200 mL to the brim; the fill is 210 mL", true}, jar.Filled(210))
	assert.Equal(t, Fullness{Says: "190 of 200 mL to the brim"}, Jar{ML: 200}.Filled(190))
	assert.Empty(t, jar.Filled(0))
	assert.Empty(t, Jar{}.Filled(190))
}

func TestAJarThatCannotBe(t *testing.T) {
	for field, j := range map[string]Jar{
		"jars[0].name":        {Name: " ", ML: 10},
		"jars[0].ml":          {Name: "a", ML: math.NaN()},
		"jars[0].shape":       {Name: "a", ML: 100, Shape: "oval", HeightMM: 90, WallMM: 40},
		"jars[0].diameter_mm": {Name: "a", ML: 100, Shape: Round, HeightMM: 90, WallMM: 40, LidMM: 10},
		"jars[0].depth_mm":    {Name: "a", ML: 100, Shape: Sided, WidthMM: 60, HeightMM: 90, WallMM: 40, LidMM: 10},
		"jars[0].height_mm":   {Name: "a", ML: 100, Shape: Round, DiameterMM: 60, HeightMM: 900, WallMM: 40, LidMM: 10},
		"jars[0].wall_mm":     {Name: "a", ML: 100, Shape: Round, DiameterMM: 60, HeightMM: 90, WallMM: 85, LidMM: 10},
		"jars[0].lid_mm":      {Name: "a", ML: 100, Shape: Round, DiameterMM: 60, HeightMM: 90, WallMM: 15, LidMM: 60},
	} {
		errs := j.Check("jars[0].")
		require.Len(t, errs, 1, field)
		assert.Equal(t, field, errs[0].Field)
		assert.NotEmpty(t, errs[0].Message)
	}
	assert.Empty(t, Jar{Name: "unmeasured", ML: 300}.Check(""))
}
