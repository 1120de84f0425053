package acidity

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// noon is the time of the reading that support is looked at for.
var noon = time.Date(2026, 3, 3, 12, 0, 0, 0, time.UTC)

// event is a check or a look so many minutes from noon, entered in its turn.
func event(turn int64, minutes int, look, good bool) MeterEvent {
	return MeterEvent{Turn: turn, Check: turn, Meter: "m", Look: look, Good: good,
		At: noon.Add(time.Duration(minutes) * time.Minute)}
}

func TestWhatSupportsAReading(t *testing.T) {
	const check, look = false, true
	for _, c := range []struct {
		name   string
		events []MeterEvent // the reading is entered in turn 10
		want   string
	}{
		{"a passed check before it", []MeterEvent{event(1, -60, check, true)}, ""},
		{"none", nil, "no meter check"},
		{"a check after it", []MeterEvent{event(1, 1, check, true)}, "no meter check"},
		{"a check entered after it", []MeterEvent{event(11, -60, check, true)}, "no meter check"},
		{"a failed check", []MeterEvent{event(1, -60, check, false)}, "not accepted"},
		{"a failed check after a passed one", []MeterEvent{event(1, -60, check, true), event(2, -30, check, false)},
			"not accepted"},
		{"a passed check after a failed one", []MeterEvent{event(1, -60, check, false), event(2, -30, check, true)},
			""},
		{"yesterday's check", []MeterEvent{event(1, -24*60, check, true)}, "another day"},
		{"the last minute of yesterday", []MeterEvent{event(1, -12*60-1, check, true)}, "another day"},
		{"the first minute of the day", []MeterEvent{event(1, -12*60, check, true)}, ""},
		{"a look in between", []MeterEvent{event(1, -60, check, true), event(2, -30, look, true)}, "new check"},
		{"a look and a new check", []MeterEvent{event(1, -60, check, true), event(2, -30, look, true),
			event(3, -20, check, true)}, ""},
		{"a look after it, passed", []MeterEvent{event(1, -60, check, true), event(11, 60, look, true)}, ""},
		{"a look after it, failed", []MeterEvent{event(1, -60, check, true), event(11, 60, look, false)},
			"closing look at buffer 4.01 failed"},
		{"failed, then repeated until it passes", []MeterEvent{event(1, -60, check, true), event(11, 60, look, false),
			event(12, 61, look, true)}, "closing look"},
		{"passed, then failed in the evening", []MeterEvent{event(1, -60, check, true), event(11, 60, look, true),
			event(12, 300, look, false)}, ""},
		{"the next day's check fails", []MeterEvent{event(1, -60, check, true), event(11, 21*60, check, false)},
			"next check of the meter failed"},
		{"a passed check put in between afterwards", []MeterEvent{event(1, -60, check, true),
			event(11, 60, look, false), event(12, 30, check, true)}, "closing look"},
		{"a failed check entered late, before it by the clock", []MeterEvent{event(1, -60, check, true),
			event(11, -30, check, false)}, "not accepted"},
	} {
		t.Run(c.name, func(t *testing.T) {
			got := Support(c.events, Reading{At: noon, Celsius: 25}, 10, time.UTC)
			if c.want == "" {
				assert.Empty(t, got)
			} else {
				assert.Contains(t, got, c.want)
			}
		})
	}
}

func TestASampleIsReadBetween20And30Degrees(t *testing.T) {
	good := []MeterEvent{event(1, -60, false, true)}
	for celsius, stands := range map[float64]bool{20: true, 19.9: false, 30: true, 30.1: false, 25: true, -5: false} {
		assert.Equal(t, stands, Support(good, Reading{At: noon, Celsius: celsius}, 10, nil) == "", "%g °C", celsius)
	}
}

func TestADayIsADayOfTheShop(t *testing.T) {
	auckland, err := time.LoadLocation("Pacific/Auckland")
	require.NoError(t, err)
	events := []MeterEvent{event(1, -60, false, true)} // 11:00 UTC: midnight in Auckland
	read := Reading{At: noon, Celsius: 25}
	assert.Empty(t, Support(events, read, 10, time.UTC))
	assert.Empty(t, Support(events, read, 10, auckland), "00:00 and 01:00 of one day there")
	events[0].At = noon.Add(-61 * time.Minute)
	assert.Contains(t, Support(events, read, 10, auckland), "another day", "23:59 there")
	assert.Empty(t, Support(events, read, 10, time.UTC))
}

func TestHowASampleIsPreparedFollowsFromTheVersion(t *testing.T) {
	for _, c := range []struct {
		style, emulsion string
		piece, oil      float64
		covered         bool
		want            []string
	}{
		{"pourable dressing", "shaken", 25, 0.7, false, []string{"pieces_in_oil"}},
		{"marinade", "shaken", 25, 0.05, true, []string{"pieces_in_oil"}},
		{"pourable dressing", "shaken", 0, 0.6, false, []string{"pourable"}},
		{"pourable dressing", "yolk", 0, 0.6, false, []string{"pourable", "semi_solid"}},
		{"marinade", "shaken", 8, 0.1, false, []string{"pieces_in_liquid"}},
		{"marinade", "shaken", 5, 0.1, false, []string{"pourable"}},
		{"dip", "", 0, 0.1, false, []string{"semi_solid"}},
		{"dip", "", 8, 0.1, false, []string{"semi_solid"}},
		{"pesto", "", 8, 0.30, false, []string{"pieces_in_oil"}},
		{"pesto", "", 8, 0.29, false, []string{"semi_solid"}},
		{"pesto", "", 5, 0.5, false, []string{"semi_solid"}},
	} {
		assert.Equal(t, c.want, SamplePreparations(c.style, c.emulsion, c.piece, c.oil, c.covered), "%v", c)
	}
}

func TestTheNewestPairTakesASecondReadingAndNoThird(t *testing.T) {
	var all []Reading
	add := func(r Reading) int {
		r.Pair = Joins(all, r)
		all = append(all, r)
		return r.Pair
	}
	first := Reading{Load: 1, Jar: FirstJar, Fraction: "paste", Moment: Equilibrium}
	last := Reading{Load: 1, Jar: LastJar, Fraction: "paste", Moment: Equilibrium}
	assert.Equal(t, 1, add(first))
	assert.Equal(t, 2, add(last), "another jar")
	assert.Equal(t, 1, add(first))
	assert.Equal(t, 3, add(first), "a pair is whole with two")
	all[3].Void = "struck"
	assert.Equal(t, 4, add(first), "what was struck is joined by none")
	warm := first
	warm.Unsupported = "31 °C"
	assert.Equal(t, 5, add(warm), "without support it is a pair of its own")
	early := last
	early.Moment = FirstDay
	assert.Equal(t, 6, add(early), "of another moment")
	retest := last
	retest.Retest = true
	assert.Equal(t, 7, add(retest))
}

// TestMoreReadingsNeverLowerAValue adds pairs to a sample and looks that its value only rises.
func TestMoreReadingsNeverLowerAValue(t *testing.T) {
	at := filled.Add(25 * time.Hour)
	value := 0.0
	first := []float64{}
	for _, v := range [][]float64{{4.10, 4.12}, {4.00, 4.01}, {4.11, 4.19}, {3.5, 3.5}, {4.18, 4.18}} {
		first = append(first, v...)
		d := Decide(pair(Equilibrium, at, first, []float64{4, 4}), bounds())
		assert.GreaterOrEqual(t, d.Highest, value, "%v", first)
		value = d.Highest
	}
	assert.InDelta(t, 4.19, value, 1e-9, "the higher reading of the pair that disagrees")
}

func TestARetestOfBothJarsCountsWithTheFirst(t *testing.T) {
	at := filled.Add(25 * time.Hour)
	base := pair(Equilibrium, at, []float64{4.55, 4.55}, []float64{4.5, 4.5})
	again := func(jar string, values ...float64) []Reading {
		out := oneJar(jar, Equilibrium, at.Add(time.Hour), values...)
		for i := range out {
			out[i].Sample, out[i].Retest, out[i].Pair = 2, true, out[i].Pair+1000
		}
		return out
	}
	with := func(more ...[]Reading) Decision {
		all := append([]Reading{}, base...)
		for _, m := range more {
			all = append(all, m...)
		}
		return Decide(all, bounds())
	}
	assert.Equal(t, Retest, with().Outcome)
	half := with(again(FirstJar, 4.46, 4.46))
	assert.Equal(t, Retest, half.Outcome, "one jar is no retest")
	assert.Contains(t, half.Missing[0], "retest of the last jar")
	whole := with(again(FirstJar, 4.46, 4.46), again(LastJar, 4.4, 4.4))
	assert.Equal(t, PassWithNote, whole.Outcome)
	assert.InDelta(t, (4.55+4.46)/2, whole.Highest, 1e-9)
	apart := with(again(FirstJar, 4.44, 4.44), again(LastJar, 4.4, 4.4))
	assert.Equal(t, HoldIt, apart.Outcome, "0.11 apart: the higher counts")
	assert.InDelta(t, 4.55, apart.Highest, 1e-9)
	at10 := with(again(FirstJar, 4.45, 4.45), again(LastJar, 4.4, 4.4))
	assert.InDelta(t, 4.50, at10.Highest, 1e-9, "0.10 apart agrees")
}

func TestOverIsBeyondTheLimitByTheLeastUncertainty(t *testing.T) {
	b := bounds()
	assert.False(t, b.Over(b.Limit-guard))
	assert.True(t, b.Over(b.Limit-guard+0.001))
}

func TestTheMomentOfAReadingFollowsFromItsTime(t *testing.T) {
	b := bounds()
	for after, want := range map[time.Duration]string{-time.Second: "", 0: FirstDay,
		24*time.Hour - time.Second: FirstDay,
		24 * time.Hour:             Equilibrium} {
		assert.Equal(t, want, b.Moment(filled.Add(after)), "%v", after)
	}
	assert.Empty(t, Bounds{}.Moment(noon), "nothing is filled")
}

// TestPiecesInLiquidAreReadThreeTimes reads the liquid, the pieces and the blend of each jar: the highest counts.
func TestPiecesInLiquidAreReadThreeTimes(t *testing.T) {
	at := filled.Add(49 * time.Hour)
	b := bounds()
	b.LargestPieceMM = 8
	var all []Reading
	pair := 0
	for _, jar := range []string{FirstJar, LastJar} {
		for fraction, ph := range map[string]float64{"liquid": 3.6, "pieces": 4.05, "blend": 3.9} {
			pair++
			for range 2 {
				all = append(all, Reading{Load: 1, Jar: jar, Fraction: fraction, PH: ph, Celsius: 25, At: at,
					Pair: pair})
			}
		}
	}
	d := Decide(all, b)
	assert.Equal(t, Pass, d.Outcome, d.Sentence)
	assert.InDelta(t, 4.05, d.Highest, 1e-9, "the pieces, not the mean of all")
	for _, left := range []string{"liquid", "pieces", "blend"} {
		part := slices.DeleteFunc(slices.Clone(all),
			func(r Reading) bool { return r.Jar == LastJar && r.Fraction == left })
		got := Decide(part, b)
		assert.Equal(t, Waiting, got.Outcome)
		assert.Equal(t, []string{"2 readings on the last jar of load 1 (" + left + ")"}, got.Missing)
	}
}
