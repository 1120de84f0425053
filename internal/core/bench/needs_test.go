package bench

import (
	"strings"
	"testing"
	"time"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
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
		"acidulant": {false, false, 2}, pantry.FlagSalt: {false, false, 2}, "raw_herb": {true, false, 5},
		"hard_cheese": {true, false, 1}, "cooked_vegetable": {true, false, 1},
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

func TestALineIsWithinItsToleranceAtItAndNotBeyond(t *testing.T) {
	n := Needs{Targets: []Target{{Line: "1", Name: "Leek", Grams: amount.G(1000), Tolerance: 1}}}
	for grams, within := range map[float64]bool{1000: true, 1010: true, 990: true, 1010.1: false, 989.9: false} {
		l := &log{}
		l.weigh("1", grams, "", false)
		r := Read(l.entries, n, later)
		assert.Equal(t, within, r.Lines[0].Within, "%g g", grams)
		assert.Equal(t, amount.Pct((grams-1000)/10), r.Lines[0].Deviation, "%g g", grams)
	}
}

func TestAHeatStepIsMetAtItsMarks(t *testing.T) {
	n := Needs{HeatC: 85, HeatMin: 5}
	for _, c := range []struct {
		celsius, minutes float64
		met              bool
	}{{85, 5, true}, {84.9, 5, false}, {85, 4.9, false}, {90, 60, true}} {
		r := Read([]Entry{{ID: 1, Body: &Heat{ColdestC: c.celsius, Minutes: c.minutes}}}, n, later)
		assert.Equal(t, c.met, r.HeatMet(n), "%v", c)
	}
	r := Read(nil, n, later)
	assert.False(t, r.HeatMet(n), "none was recorded")
	r = Read([]Entry{{ID: 1, Body: &Heat{ColdestC: 90, Minutes: 10}}}, Needs{}, later)
	assert.False(t, r.HeatMet(Needs{}), "a version without a heat step cannot have it met")
	asked := Read(nil, n, later)
	assert.Contains(t, strings.Join(asked.Missing, "; "), "heat step")
	one := Needs{HeatC: 1}
	low := Read(nil, one, later)
	assert.Contains(t, strings.Join(low.Missing, "; "), "heat step", "whatever it asks")
	none := Read(nil, Needs{}, later)
	assert.NotContains(t, strings.Join(none.Missing, "; "), "heat step")
}

func TestTheBoundsOfAPlan(t *testing.T) {
	v, nodes := version()
	for jars, taken := range map[int]bool{0: false, 1: true, 100_000: true, 100_001: false} {
		_, _, _, err := Plan(v, nodes, wholeGrams(v, jars))
		assert.Equal(t, taken, err == nil, "%d jars", jars)
	}
	empty := v
	empty.FillGrams = amount.G(0)
	_, _, _, err := Plan(empty, nodes, wholeGrams(empty, 1))
	assert.Error(t, err, "no fill")
	bare := v
	bare.Lines = nil
	_, _, _, err = Plan(bare, nil, wholeGrams(bare, 1))
	assert.Error(t, err, "no grams")
}

func TestWhatIsMissingIsNamedThreeByThree(t *testing.T) {
	n := Needs{}
	for _, name := range []string{"Leek", "Swede", "Kale"} {
		n.Targets = append(n.Targets, Target{Line: name, Name: name, Grams: amount.G(1)})
	}
	assert.Contains(t, Read(nil, n, later).Missing, "the weight of Leek, Swede, Kale")
	n.Targets = append(n.Targets, Target{Line: "Miso", Name: "Miso", Grams: amount.G(1)})
	assert.Contains(t, Read(nil, n, later).Missing, "the weight of Leek, Swede, Kale, 1 more")
}

// TestOnlyAFailedEquilibriumCallsBack reads an early release with each thing the equilibrium reading may say.
func TestOnlyAFailedEquilibriumCallsBack(t *testing.T) {
	for ph, back := range map[float64]bool{4.0: false, 4.3: false, 4.58: true, 4.8: true} {
		n, l := needs(t), &log{}
		l.weighAll(t, n)
		l.add(Entry{Body: &Fill{Jars: 5, At: at}})
		l.read(4.0, acidity.FirstDay, at)
		l.add(Entry{Body: &Decided{State: Released, Way: acidity.FirstDay}})
		l.read(ph, acidity.Equilibrium, at.Add(25*time.Hour))
		r := Read(l.entries, n, later)
		assert.Equal(t, back, r.State == CalledBack, "pH %g", ph)
		assert.Equal(t, !back, r.State == Released, "pH %g", ph)
	}
}

func TestTheEarliestUseByCounts(t *testing.T) {
	r := Record{Lines: []LineState{{Target: Target{Name: "Salt"}},
		{Target: Target{Name: "Yogurt"}, UseBy: "2026-03-20"},
		{Target: Target{Name: "Cream"}, UseBy: "2026-03-12"}, {Target: Target{Name: "Egg"}, UseBy: "2026-03-12"}}}
	days, line, ok := r.EarliestUseBy("2026-03-02")
	assert.True(t, ok)
	assert.Equal(t, 10, days)
	assert.Equal(t, "Cream", line)
	_, _, ok = (&Record{}).EarliestUseBy("2026-03-02")
	assert.False(t, ok)
}

// TestWhatTheReadingsSayStandsInTheWay fills a batch and reads it with each outcome.
func TestWhatTheReadingsSayStandsInTheWay(t *testing.T) {
	missing := func(jars int, noWater bool, ph ...float64) []string {
		n, l := needs(t), &log{}
		n.NoWater = noWater
		l.weighAll(t, n)
		l.add(Entry{Body: &Fill{Jars: jars, At: at}})
		for _, x := range ph {
			l.read(x, acidity.Equilibrium, at.Add(25*time.Hour))
		}
		return Read(l.entries, n, later).Missing
	}
	assert.Empty(t, missing(5, false, 4.0))
	assert.Empty(t, missing(1, false, 4.3), "a pass with note, one jar filled")
	assert.Equal(t, []string{"equilibrium reading"}, missing(5, false))
	for ph, word := range map[float64]string{4.58: "retest both jars once", 4.8: "on hold"} {
		got := missing(5, false, ph)
		require.Len(t, got, 1)
		assert.Contains(t, got[0], word)
	}
	assert.Empty(t, missing(5, true), "what has no water is not read")
	assert.Contains(t, missing(0, false, 4.0), "the count of jars filled")
}

func TestJarsAreFilledFromWhatWasWeighed(t *testing.T) {
	for _, c := range []struct {
		weighed, jar float64
		most         int
	}{{1000, 100, 10}, {980, 100, 9}, {980.4, 100, 10}, {5000, 0, 0}, {0, 100, 0}} {
		assert.Equal(t, c.most, MostJars(amount.G(c.weighed), amount.G(c.jar)), "%v: 2 %% more at most", c)
	}
}

func TestACorrectionOfALineIsLargeBeyondATenth(t *testing.T) {
	for after, large := range map[float64]bool{100: false, 110: false, 90: false, 110.1: true, 89.9: true, 1: true} {
		assert.Equal(t, large, LineMoves(amount.G(100), amount.G(after)), "%g g", after)
	}
}
