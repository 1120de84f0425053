package acidity

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

var filled = time.Date(2026, 3, 2, 15, 0, 0, 0, time.UTC)

// pair makes two readings on each of first and last jar at the given pH values.
func pair(moment string, at time.Time, first, last []float64) []Reading {
	var out []Reading
	id := int64(0)
	for jar, values := range map[string][]float64{FirstJar: first, LastJar: last} {
		for _, v := range values {
			id++
			out = append(out, Reading{ID: id, Load: 1, Jar: jar, Moment: moment, Sample: 1, Preparation: "semi_solid",
				Fraction: "paste", PH: v, Celsius: 25, At: at})
		}
	}
	return out
}

func bounds() Bounds {
	return Bounds{Limit: 4.6, Target: 4.2, Loads: 1, FilledAt: filled, Chilled: true}
}

func TestDecisionByTheRule(t *testing.T) {
	dayAfter := filled.Add(25 * time.Hour)
	for _, c := range []struct {
		name     string
		readings []Reading
		change   func(*Bounds)
		want     string
	}{
		{"nothing read waits", nil, nil, Waiting},
		{"clearly below the target passes", pair(Equilibrium, dayAfter, []float64{4.05, 4.06}, []float64{4.04, 4.05}),
			nil, Pass},
		{"between target and limit passes with a note",
			pair(Equilibrium, dayAfter, []float64{4.35, 4.36}, []float64{4.3, 4.31}), nil, PassWithNote},
		{"jar under the limit but value over it asks for a retest",
			pair(Equilibrium, dayAfter, []float64{4.57, 4.58}, []float64{4.5, 4.5}), nil, Retest},
		{"a jar over the limit holds", pair(Equilibrium, dayAfter, []float64{4.7, 4.71}, []float64{4.2, 4.2}), nil,
			HoldIt},
		{"one reading a jar is not enough", pair(Equilibrium, dayAfter, []float64{4.0}, []float64{4.0, 4.0}), nil,
			Waiting},
		{"readings that disagree by more than 0.05 wait",
			pair(Equilibrium, dayAfter, []float64{4.00, 4.07}, []float64{4.0, 4.0}), nil, Waiting},
		{"too early does not count", pair(Equilibrium, filled.Add(3*time.Hour), []float64{4.0, 4.0},
			[]float64{4.0, 4.0}), nil, Waiting},
		{"pieces over 5 mm wait 48 h", pair(Equilibrium, dayAfter, []float64{4.0, 4.0}, []float64{4.0, 4.0}),
			func(b *Bounds) { b.LargestPieceMM = 8 }, Waiting},
		{"the first day's reading waits where the shop does not allow early release",
			pair(FirstDay, filled, []float64{4.0, 4.0}, []float64{4.0, 4.0}), nil, Waiting},
		{"early release passes at the target", pair(FirstDay, filled, []float64{4.0, 4.0}, []float64{4.0, 4.0}),
			func(b *Bounds) { b.EarlyRelease = true }, Pass},
		{"early release needs the target, not the limit",
			pair(FirstDay, filled, []float64{4.3, 4.3}, []float64{4.3, 4.3}), func(b *Bounds) { b.EarlyRelease = true },
			Waiting},
		{"every load needs its jars", pair(Equilibrium, dayAfter, []float64{4.0, 4.0}, []float64{4.0, 4.0}),
			func(b *Bounds) { b.Loads = 2 }, Waiting},
	} {
		t.Run(c.name, func(t *testing.T) {
			b := bounds()
			if c.change != nil {
				c.change(&b)
			}
			d := Decide(c.readings, b)
			assert.Equal(t, c.want, d.Outcome, d.Sentence)
			assert.NotEmpty(t, d.Sentence)
		})
	}
}

func TestDecisionValueIsHighestJarPlusUncertainty(t *testing.T) {
	d := Decide(pair(Equilibrium, filled.Add(30*time.Hour), []float64{4.10, 4.10}, []float64{4.02, 4.02}), bounds())
	assert.InDelta(t, 4.10, d.Highest, 1e-9)
	assert.InDelta(t, 0.0721, d.Uncertainty, 0.0001) // 2 x sqrt(0.02² + 0.03²)
	assert.InDelta(t, 4.1721, d.Value, 0.0001)
}

func TestARetestThatStaysOverTheLimitHolds(t *testing.T) {
	r := pair(Equilibrium, filled.Add(30*time.Hour), []float64{4.57, 4.58}, []float64{4.5, 4.5})
	again := pair(Equilibrium, filled.Add(31*time.Hour), []float64{4.58, 4.58}, []float64{4.5, 4.5})
	for i := range again {
		again[i].Sample = 2
	}
	assert.Equal(t, HoldIt, Decide(append(r, again...), bounds()).Outcome)
}

func TestAVoidOrUnsupportedReadingDoesNotCount(t *testing.T) {
	r := pair(Equilibrium, filled.Add(30*time.Hour), []float64{4.0, 4.0}, []float64{4.0, 4.0})
	r[0].Unsupported = "no meter check"
	assert.Equal(t, Waiting, Decide(r, bounds()).Outcome)
	r[0].Unsupported, r[1].Void = "", "jar was open"
	assert.Equal(t, Waiting, Decide(r, bounds()).Outcome)
}

func TestWhatSupportsARelease(t *testing.T) {
	good := Check{174.5, -1.2, 25}.Judge()
	bad := Check{160, 4, 25}.Judge()
	failed := false
	assert.Empty(t, Supports(&good, filled, filled.Add(time.Hour), nil, 25))
	assert.Contains(t, Supports(nil, filled, filled, nil, 25), "no meter check")
	assert.Contains(t, Supports(&bad, filled, filled, nil, 25), "not accepted")
	assert.Contains(t, Supports(&good, filled, filled.AddDate(0, 0, 1), nil, 25), "another day")
	assert.Contains(t, Supports(&good, filled, filled, &failed, 25), "closing look")
	assert.Contains(t, Supports(&good, filled, filled, nil, 8), "20 to 30")
}
