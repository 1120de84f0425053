package acidity

import (
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

var filled = time.Date(2026, 3, 2, 15, 0, 0, 0, time.UTC)

// pair makes two readings on each of first and last jar at the given pH values.
func pair(moment string, at time.Time, first, last []float64) []Reading {
	return append(oneJar(FirstJar, moment, at, first...), oneJar(LastJar, moment, at, last...)...)
}

// oneJar pairs readings of a jar two by two.
func oneJar(jar, moment string, at time.Time, values ...float64) []Reading {
	var out []Reading
	for i, v := range values {
		pair := i/2 + 1
		if jar == LastJar {
			pair += 100
		}
		out = append(out, Reading{ID: int64(i), Load: 1, Jar: jar, Moment: moment, Sample: 1,
			Preparation: "semi_solid", Fraction: "paste", PH: v, Celsius: 25, At: at, Pair: pair})
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
		again[i].Sample, again[i].Retest, again[i].Pair = 2, true, again[i].Pair+1000
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

func TestARealScatterCountsInPlaceOfTheLeast(t *testing.T) {
	at := filled.Add(30 * time.Hour)
	d := Decide(pair(Equilibrium, at, []float64{4.00, 4.05}, []float64{4.00, 4.05}), bounds())
	assert.InDelta(t, 0.025*math.Sqrt2, d.Repeat, 1e-9, "four readings, each 0.025 from its mean, two of them free")
	assert.InDelta(t, 2*math.Sqrt(0.025*0.025*2+0.03*0.03), d.Uncertainty, 1e-9)
	assert.InDelta(t, 4.025, d.Highest, 1e-9)
	lone := Decide(pair(Equilibrium, at, []float64{4.0}, nil), bounds())
	assert.Equal(t, Waiting, lone.Outcome)
	assert.Equal(t, 0.02, lone.Repeat, "one reading has no scatter, and the least is claimed")
	assert.InDelta(t, 4.0721, lone.Value, 0.0001)
}

func TestADecisionSaysWhy(t *testing.T) {
	at := filled.Add(30 * time.Hour)
	for _, c := range []struct {
		first    []float64
		sentence string
	}{
		{[]float64{4.1, 4.1},
			"Highest jar 4.10 plus uncertainty 0.07 gives 4.17, at or below the target of 4.20."},
		{[]float64{4.3, 4.3},
			"Highest jar 4.30 plus uncertainty 0.07 gives 4.37, above the target of 4.20 but within the limit of 4.60: look for drift."},
		{[]float64{4.55, 4.55},
			"Highest jar 4.55 plus uncertainty 0.07 gives 4.62, above the limit of 4.60, though the jar itself is not: retest both jars once."},
		{[]float64{4.7, 4.7},
			"Highest jar 4.70 plus uncertainty 0.07 gives 4.77, above the limit of 4.60: on hold."},
		{[]float64{4.1},
			"On hold: another reading on the first jar of load 1 (paste)."},
		{[]float64{},
			"On hold: 2 readings on the first jar of load 1."},
		{[]float64{4.0, 4.06},
			"On hold: a new pair on the first jar of load 1 (paste): the two readings lie 0.06 apart, 0.05 is allowed."},
	} {
		d := Decide(pair(Equilibrium, at, c.first, []float64{4, 4}), bounds())
		assert.Equal(t, c.sentence, d.Sentence)
		assert.Equal(t, Equilibrium, d.Way)
		assert.Equal(t, "2026-03-03T15:00:00Z", d.DueAt)
	}
	early := Decide(pair(Equilibrium, filled.Add(time.Hour), []float64{4, 4}, []float64{4, 4}), bounds())
	assert.Equal(t, "On hold: the equilibrium reading is due from 3 Mar, 15:00.", early.Sentence,
		"what it is follows from its time")
	assert.Equal(t, "On hold: the equilibrium reading is due from 3 Mar, 15:00.", Decide(nil, bounds()).Sentence)
	b := bounds()
	b.EarlyRelease = true
	d := Decide(pair(FirstDay, filled, []float64{4, 4}, []float64{4, 4}), b)
	assert.Equal(t, []string{Pass, FirstDay, "2026-03-03T15:00:00Z"}, []string{d.Outcome, d.Way, d.DueAt})
	assert.Contains(t, d.Sentence, "Early release: the equilibrium reading stays due.")
	waits := Decide(pair(FirstDay, filled, []float64{4}, []float64{4, 4}), b)
	assert.Equal(t, []string{"another reading on the first jar of load 1 (paste)"}, waits.Missing)
	b.FilledAt = time.Time{}
	assert.Equal(t, Decision{Outcome: Waiting, Sentence: "On hold: the jars are not filled yet.",
		Missing: []string{"jars filled"}}, Decide(nil, b))
}
