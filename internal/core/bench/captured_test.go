package bench

import (
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// twoLoads is a record of a batch that is weighed at the bench in two loads.
func twoLoads(t *testing.T) *bowl {
	p, targets := bowlOf(2)
	return &bowl{t: t, f: NewFold(Needs{Planned: p, Targets: targets,
		Lots: map[int64]lots.Facts{1: lot(1, ""), 2: lot(2, "")}})}
}

func (b *bowl) captures(load int, line string, g float64, at time.Time, draws ...Draw) int64 {
	b.t.Helper()
	for i := range draws {
		draws[i].Taken = draws[i].Grams
	}
	return b.take(at, people.Helper, &Capture{Load: load, Line: line, Grams: amount.G(g), Draws: draws})
}

// drawn is what the whole record took of lots.
func (b *bowl) drawn(at time.Time) (sum amount.Grams) {
	r := b.f.Record(at)
	for _, d := range r.Draws() {
		sum = sum.Plus(d.Grams)
	}
	return sum
}

func (b *bowl) lineAt(line string, at time.Time) LineState {
	b.t.Helper()
	return theOne(b.t, b.f.Record(at).Lines, line, func(l LineState) string { return l.Line })
}

func TestCapturesOfTwoLoadsAreOneWeighingInTheRecord(t *testing.T) {
	b := twoLoads(t)
	of := func(lot int64, g float64) Draw { return Draw{Lot: lot, Code: "P", Grams: amount.G(g)} }
	b.captures(1, "oil", 1200, filled, of(1, 1000), of(2, 200))
	second := b.captures(2, "oil", 1198, filled.Add(time.Hour), of(2, 1198))
	l := b.lineAt("oil", filled.Add(2*time.Hour))
	require.NotNil(t, l.Actual)
	assert.Equal(t, "2398", l.Actual.String())
	assert.Equal(t, second, l.Entry, "the latest is who weighed it")
	require.Len(t, l.Draws, 2, "a lot that went into both loads is named once")
	assert.Equal(t, "1000", l.Draws[0].Grams.String())
	assert.Equal(t, "1398", l.Draws[1].Grams.String())
	assert.Equal(t, "1398", l.Draws[1].Taken.String())
	require.NotNil(t, l.Draws[1].At)
	assert.Equal(t, filled, *l.Draws[1].At, "from when its first gram went in")
	assert.Equal(t, "2398", b.drawn(filled.Add(2*time.Hour)).String())
}

func TestWhatWentWithALoadThatWasGivenUpStaysTaken(t *testing.T) {
	b := twoLoads(t)
	of := func(g float64) Draw { return Draw{Lot: 1, Code: "P1", Grams: amount.G(g)} }
	b.captures(1, "oil", 1500, filled, of(1500))
	gives := &Choice{Load: 1, How: Discards, Reason: "the bowl fell"}
	assert.Equal(t, entry.NotYours, b.refused(filled.Add(time.Minute), people.Helper, gives), "a helper asks a maker")
	b.take(filled.Add(time.Minute), people.Maker, gives)
	l := b.lineAt("oil", filled.Add(2*time.Minute))
	assert.Nil(t, l.Actual, "the line is to be weighed again")
	require.Len(t, l.Wasted, 1)
	assert.Equal(t, "1500", l.Wasted[0].Grams.String(), "but its lot was used")
	b.captures(2, "oil", 1200, filled.Add(time.Hour), of(1200))
	assert.Equal(t, "2700", b.drawn(filled.Add(2*time.Hour)).String())
}

func TestARehearsalIsPlayedFromItsBeginning(t *testing.T) {
	p, targets := bowlOf(1)
	act := func(id int64, body any) Entry { return Entry{ID: id, By: "Ola", Role: people.Helper, Body: body} }
	acts := []Entry{act(1, &Capture{Load: 1, Line: "oil", Grams: amount.G(1296)}),
		act(2, &Choice{Load: 1, How: Rebalances})}
	got := Rehearse(p, targets, acts)
	require.NoError(t, got.Refused)
	assert.Equal(t, "691.2", got.Loads[0].Lines[1].Now.String(), "vinegar follows an over-pour of 8 %")
	before := Rehearse(p, targets, nil)
	assert.Equal(t, 10, got.Expected)
	assert.Equal(t, before, Rehearse(p, targets, []Entry{}), "nothing of it is kept")

	wrong := append(acts, act(3, &Capture{Load: 2, Line: "oil", Grams: amount.G(1)}),
		act(4, &Capture{Load: 1, Line: "vinegar", Grams: amount.MustGrams("691.2")}))
	stopped := Rehearse(p, targets, wrong)
	var no entry.Refusal
	require.ErrorAs(t, stopped.Refused, &no)
	assert.Equal(t, got.Loads, stopped.Loads, "what comes after a refusal is not looked at")
}

func TestARehearsalHasSomethingToLearnOn(t *testing.T) {
	p, targets := bowlOf(1)
	targets[0].Hot, targets[1].NeedsLot = "roast", true
	got := ForRehearsal(p, targets)
	assert.Empty(t, got[0].Hot)
	assert.False(t, got[1].NeedsLot, "everything is there")
	assert.InDelta(t, 50, float64(got[2].Hold), 0, "garlic is held back as it is")
	assert.Zero(t, got[3].Hold)

	for i := range targets {
		targets[i].Hold, targets[i].Class = 0, PoursPaste
	}
	targets[3].Class = PoursThin
	got = ForRehearsal(p, targets)
	assert.Zero(t, got[3].Hold, "what sours is never held back, though it is the least")
	assert.Positive(t, float64(got[2].Hold), "the next is")
	assert.Equal(t, "roast", targets[0].Hot, "the plan itself stays as it is")
}
