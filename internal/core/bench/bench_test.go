package bench

import (
	"strings"
	"testing"
	"time"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func version() (formula.Version, []formula.Node) {
	lib := formula.Library{Ingredients: map[string]*pantry.Ingredient{
		"beet":   {ID: "beet", Name: "Beetroot"},
		"yogurt": {ID: "yogurt", Name: "Yogurt", Flags: []string{"fresh_dairy"}},
		"nut":    {ID: "nut", Name: "Hazelnuts", Flags: []string{"nut_or_seed"}},
		"salt":   {ID: "salt", Name: "Salt", Flags: []string{"salt"}}}}
	v := formula.Blank("dip")
	v.Lines = []formula.Line{{ID: "1", Ingredient: "beet", Grams: amount.G(600)},
		{ID: "2", Ingredient: "yogurt", Grams: amount.G(250)},
		{ID: "3", Ingredient: "nut", Grams: amount.G(140)}, {ID: "4", Ingredient: "salt", Grams: amount.G(10)}}
	nodes, err := lib.Expand(v)
	if err != nil {
		panic(err)
	}
	return v, nodes
}

// wholeGrams is what a version asks for, on a scale of whole grams.
func wholeGrams(v formula.Version, jars int) Need {
	n := NeedOf(v, jars)
	n.Scale = Scale{Name: "bench scale", Division: amount.G(1)}
	return n
}

func TestPlanCarriesGroupsToppingsAndHoldBack(t *testing.T) {
	oil := &pantry.Ingredient{ID: "oil", Name: "Oil", Role: "oil"}
	nut := &pantry.Ingredient{ID: "nut", Name: "Nut", Flags: []string{"nut_or_seed"}}
	yogurt := &pantry.Ingredient{ID: "yogurt", Name: "Yogurt", Flags: []string{"fresh_dairy"}}
	lib := formula.Library{Ingredients: map[string]*pantry.Ingredient{"oil": oil, "nut": nut, "yogurt": yogurt}}
	v := formula.Blank("x")
	v.Lines = []formula.Line{{ID: "a", Ingredient: "oil", Grams: amount.G(900), HoldBackPercent: 25,
		TolerancePercent: 0.5}, {ID: "b", Ingredient: "oil", AnyOf: []string{"oil", "nut", "yogurt"},
		Grams: amount.G(100)}}
	v.Toppings = []formula.Topping{{ID: "t", Ingredient: "nut", Grams: amount.G(3)}}
	nodes, err := lib.Expand(v)
	require.NoError(t, err)
	targets, _, _, err := Plan(v, nodes, wholeGrams(v, 10))
	require.NoError(t, err)
	WidenGroups(targets, v, lib)
	assert.InDelta(t, targets[0].Grams.Float()/4, targets[0].HoldBack.Float(), 0.06)
	assert.Equal(t, 0.5, targets[0].Tolerance, "its own tolerance")
	assert.True(t, targets[1].NeedsKill && targets[1].NeedsDate, "any of the group may go in")
	onTop, err := lib.OnTop(v)
	require.NoError(t, err)
	top := OnTop(onTop, 10)
	require.Len(t, top, 1)
	assert.Equal(t, "30", top[0].Grams.String())
	assert.True(t, top[0].NeedsKill)

	grams := amount.G(100)
	r := Read([]Entry{{ID: 1, Body: &Weighing{Line: "b", Grams: grams, KillStep: true, UseBy: "2027-01-01"}}},
		Needs{Targets: targets}, later)
	assert.Contains(t, strings.Join(r.Missing, "; "), "which of the group was used for Oil")
	r = Read([]Entry{{ID: 1, Body: &Weighing{Line: "b", Grams: grams, KillStep: true, UseBy: "2027-01-01",
		Used: []formula.Use{{Ingredient: "nut", Grams: grams}}}}}, Needs{Targets: targets}, later)
	assert.NotContains(t, strings.Join(r.Missing, "; "), "which of the group")
	assert.Equal(t, "nut", r.Uses()["b"][0].Ingredient)
}

func TestPlanCoversJarsLossesAndSamples(t *testing.T) {
	v, nodes := version()
	n := wholeGrams(v, 24)
	n.Samples, n.Vessel.Residue = amount.G(120), amount.G(60)
	targets, _, _, err := Plan(v, nodes, n)
	require.NoError(t, err)
	sum := amount.Grams{}
	for _, x := range targets {
		sum = sum.Plus(x.Grams)
	}
	// (24 x 190 x 1.01 + 120) / 0.98 + 60 = 4882.04, up to whole grams
	assert.Equal(t, "4883", sum.String())
	assert.Equal(t, "2929", targets[0].Grams.String())
	assert.True(t, targets[1].NeedsDate)
	assert.True(t, targets[2].NeedsKill)
	assert.Equal(t, 2.0, targets[3].Tolerance)
}

func TestPlanNamesWhatIsWrong(t *testing.T) {
	v, nodes := version()
	for _, jars := range []int{0, -3, 1_000_000} {
		_, _, _, err := Plan(v, nodes, wholeGrams(v, jars))
		var at pantry.FieldError
		require.ErrorAs(t, err, &at)
		assert.Equal(t, "jars", at.Field)
	}
	_, _, _, err := Plan(formula.Version{}, nil, Need{Jars: 3})
	assert.Error(t, err)
}

var at = time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)

// later is when records are looked at: two days on.
var later = at.Add(48 * time.Hour)

type log struct {
	entries []Entry
}

func (l *log) add(e Entry) int64 {
	e.ID, e.By = int64(len(l.entries)+1), "Ines"
	if e.Role == "" {
		e.Role = people.Owner
	}
	if e.At.IsZero() {
		e.At = at
	}
	l.entries = append(l.entries, e)
	return e.ID
}

func (l *log) weigh(line string, g float64, useBy day.Day, kill bool) {
	l.add(Entry{Body: &Weighing{Line: line, Grams: amount.G(g), Lot: "N-1", UseBy: useBy, KillStep: kill}})
}

// check is a passed meter check just before a time.
func (l *log) check(when time.Time) int64 {
	id := int64(len(l.entries) + 1)
	return l.add(Entry{At: when, Body: &acidity.MeterEvent{Turn: id, Check: id, Meter: "m", Good: true,
		At: when.Add(-time.Minute)}})
}

// read checks the meter and takes a pair on the first and on the last jar; it returns the first reading.
func (l *log) read(ph float64, moment string, when time.Time) int64 {
	check := l.check(when)
	for _, jar := range []string{acidity.FirstJar, acidity.FirstJar, acidity.LastJar, acidity.LastJar} {
		l.add(Entry{Body: &acidity.Reading{Load: 1, Jar: jar, Moment: moment, Sample: 1, Preparation: "semi_solid",
			Fraction: "paste", PH: ph, Celsius: 22, At: when, MeterCheck: check}, At: when})
	}
	return check + 1
}

func needs(t *testing.T) Needs {
	v, nodes := version()
	targets, _, _, err := Plan(v, nodes, wholeGrams(v, 5))
	require.NoError(t, err)
	return Needs{Targets: targets, Bounds: acidity.Bounds{Limit: 4.6, Target: 4.2, Loads: 1, Chilled: true,
		EarlyRelease: true}}
}

func (l *log) weighAll(t *testing.T, n Needs) {
	for i, x := range n.Targets {
		l.weigh(x.Line, x.Grams.Float(), []day.Day{"", "2026-03-20", "", ""}[i], x.NeedsKill)
	}
}

func TestAFreshBatchIsOnHoldAndSaysWhatItNeeds(t *testing.T) {
	r := Read(nil, needs(t), later)
	assert.Equal(t, OnHold, r.State)
	assert.Equal(t, []string{"the weight of Beetroot, Yogurt, Hazelnuts, 1 more", "the count of jars filled"},
		r.Missing)
}

func TestARecordReadyForRelease(t *testing.T) {
	n, l := needs(t), &log{}
	l.weighAll(t, n)
	l.add(Entry{Body: &Fill{Jars: 5, At: at}})
	l.read(4.0, acidity.Equilibrium, at.Add(25*time.Hour))
	r := Read(l.entries, n, later)
	assert.True(t, r.Weighed)
	assert.Empty(t, r.Missing)
	assert.Equal(t, acidity.Pass, r.Acidity.Outcome)
	days, line, ok := r.EarliestUseBy("2026-03-02")
	assert.True(t, ok)
	assert.Equal(t, 18, days)
	assert.Equal(t, "Yogurt", line)
}

func TestMissingDatesAndKillStepsStandInTheWay(t *testing.T) {
	n, l := needs(t), &log{}
	for _, x := range n.Targets {
		l.weigh(x.Line, x.Grams.Float(), "", false)
	}
	r := Read(l.entries, n, later)
	assert.Contains(t, r.Missing, "the use-by date of the lot of Yogurt")
	assert.Contains(t, r.Missing, "the kill-step statement or recorded roast for Hazelnuts")
}

func TestDeviationAndTolerance(t *testing.T) {
	n, l := needs(t), &log{}
	l.weigh("1", n.Targets[0].Grams.Float()*1.02, "", false)
	r := Read(l.entries, n, later)
	assert.False(t, r.Lines[0].Within)
	assert.InDelta(t, 2.0, r.Lines[0].Deviation.Float(), 0.01)
}

func TestAnAdditionVoidsEarlierReadingsButACorrectionDoesNot(t *testing.T) {
	n, l := needs(t), &log{}
	l.weighAll(t, n)
	l.add(Entry{Body: &Fill{Jars: 5, At: at}})
	l.read(4.0, acidity.Equilibrium, at.Add(25*time.Hour))
	corrected := append([]Entry{}, l.entries...)
	corrected = append(corrected, Entry{ID: 99, At: later,
		Body: &Weighing{Line: "4", Grams: amount.G(11), Correction: true}})
	assert.Equal(t, acidity.Pass, Read(corrected, n, later).Acidity.Outcome)
	l.weigh("4", 30, "", false)
	r := Read(l.entries, n, later)
	assert.Equal(t, acidity.Waiting, r.Acidity.Outcome)
	assert.NotEmpty(t, r.Readings[0].Void)
}

func TestAnEarlyReleaseIsCalledBackWhenTheEquilibriumFails(t *testing.T) {
	n, l := needs(t), &log{}
	l.weighAll(t, n)
	l.add(Entry{Body: &Fill{Jars: 5, At: at}})
	l.read(4.0, acidity.FirstDay, at)
	assert.Equal(t, acidity.FirstDay, Read(l.entries, n, at).Acidity.Way)
	l.add(Entry{Body: &Decided{State: Released, Way: acidity.FirstDay}})
	r := Read(l.entries, n, at)
	assert.Equal(t, Released, r.State)
	assert.Equal(t, at.Add(72*time.Hour), *r.RunsOut)
	l.read(4.8, acidity.Equilibrium, at.Add(26*time.Hour))
	r = Read(l.entries, n, later)
	assert.Equal(t, CalledBack, r.State)
	assert.True(t, r.Out)
	assert.Contains(t, r.Recalled[0].Why, "4.80")
}

func TestAHeatStepMustBeMetOnTheColdestJar(t *testing.T) {
	n := needs(t)
	n.HeatC, n.HeatMin = 85, 5
	l := &log{}
	l.add(Entry{Body: &Heat{ColdestC: 83, Minutes: 10}})
	r := Read(l.entries, n, later)
	assert.False(t, r.HeatMet(n))
	l.add(Entry{Body: &Heat{ColdestC: 86, Minutes: 6}})
	r = Read(l.entries, n, later)
	assert.True(t, r.HeatMet(n))
}

func TestVoidedReadingsKeepTheirCause(t *testing.T) {
	n, l := needs(t), &log{}
	l.add(Entry{Body: &Fill{Jars: 5, At: at}})
	first := l.read(4.0, acidity.FirstDay, at)
	l.add(Entry{Body: &Void{Entry: first, Cause: "probe not settled"}})
	r := Read(l.entries, n, later)
	assert.Equal(t, "probe not settled", r.Readings[0].Void)
	assert.Equal(t, "probe not settled", r.Readings[1].Void, "the pair goes together")
	assert.Empty(t, r.Readings[2].Void)
	assert.Equal(t, 1, r.Struck)
	assert.Contains(t, r.Acidity.Sentence, "1 pair of readings was struck.")
}
