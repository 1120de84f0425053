package bench

import (
	"encoding/json"
	"testing"
	"time"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var filled = time.Date(2026, 11, 2, 12, 0, 0, 0, time.UTC)

// bowl is a record that is written act by act, with one line to weigh and one load.
type bowl struct {
	t     *testing.T
	f     *Fold
	turn  int64
	check int64
}

func newBowl(t *testing.T) *bowl {
	return &bowl{t: t, f: NewFold(Needs{
		Targets: []Target{{Line: "1", Name: "Leek", Grams: amount.G(100), Tolerance: 1}},
		Bounds: acidity.Bounds{Limit: 4.6, Target: 4.2, Loads: 1, Chilled: true, LargestPieceMM: 1,
			EarlyRelease: true}})}
}

func (b *bowl) entry(at time.Time, role people.Role, body any) Entry {
	return Entry{ID: b.turn + 1, At: at, By: string(role), Role: role, Body: body}
}

// refused is the code of why an act is not taken; empty where it may be.
func (b *bowl) refused(at time.Time, role people.Role, body any) string {
	b.t.Helper()
	var no entry.Refusal
	if err := b.f.Refuses(b.entry(at, role, body)); err != nil {
		require.ErrorAs(b.t, err, &no)
	}
	return no.Code
}

func (b *bowl) take(at time.Time, role people.Role, body any) int64 {
	b.t.Helper()
	require.Empty(b.t, b.refused(at, role, body))
	b.f.Add(b.entry(at, role, body))
	b.turn++
	return b.turn
}

func (b *bowl) made() *bowl {
	b.take(filled.Add(-time.Hour), people.Helper, &Weighing{Line: "1", Grams: amount.G(100), Lot: "L1"})
	b.take(filled, people.Helper, &Fill{Jars: 10, At: filled})
	return b
}

// read reads both jars twice with a meter that was checked just before.
func (b *bowl) read(at time.Time, sample int, ph float64) {
	b.t.Helper()
	b.check = b.take(at, people.Maker, &acidity.MeterEvent{Turn: b.turn + 1, Check: b.turn + 1, Meter: "m", Good: true,
		At: at})
	for _, jar := range []string{"first", "last"} {
		for range 2 {
			b.take(at, people.Maker, &acidity.Reading{Load: 1, Jar: jar, Sample: sample, Preparation: "semi_solid",
				Fraction: "paste", PH: ph, Celsius: 22, MeterCheck: b.check, At: at})
		}
	}
}

func (b *bowl) decide(at time.Time, role people.Role, state, reason string) string {
	b.t.Helper()
	d := &Decided{State: state, Reason: reason, Way: b.f.acidity().Way}
	no := b.refused(at, role, d)
	if no == "" {
		b.take(at, role, d)
	}
	return no
}

func TestAnEmptyRecordHasListsNotNothing(t *testing.T) {
	raw, err := json.Marshal(newBowl(t).f.Record(filled))
	require.NoError(t, err)
	assert.NotContains(t, string(raw), `"missing":null`)
	assert.NotContains(t, string(raw), `"hands":null`)
	assert.NotContains(t, string(raw), `"late":null`)
}

func TestATimeThatHasNotComeIsRefused(t *testing.T) {
	b := newBowl(t)
	assert.Empty(t, b.refused(filled, people.Maker, &Fill{Jars: 1, At: filled.Add(time.Minute)}),
		"a hand's clock runs ahead")
	for _, body := range []any{&Fill{Jars: 1, At: filled.Add(2 * time.Minute)},
		&acidity.Reading{At: filled.Add(2 * time.Minute)}, &acidity.MeterEvent{At: filled.Add(2 * time.Minute)}} {
		assert.Equal(t, entry.Wrong, b.refused(filled, people.Maker, body), "%T", body)
	}
}

func TestALineThatSomebodyWeighedMeanwhileIsBehind(t *testing.T) {
	b := newBowl(t)
	first := b.take(filled, people.Helper, &Weighing{Line: "1", Grams: amount.G(90)})
	assert.Equal(t, entry.Behind, b.refused(filled, people.Maker, &Weighing{Line: "1", Grams: amount.G(95)}))
	assert.Empty(t, b.refused(filled, people.Maker, &Weighing{Line: "1", Grams: amount.G(95), Over: first}))
	assert.Empty(t, b.refused(filled, people.Maker, &Weighing{Line: "2", Grams: amount.G(95)}), "another line")
}

func TestWhatIsWeighedIsAnAdditionOnlyAfterAFillingOrAReading(t *testing.T) {
	b := newBowl(t)
	b.take(filled, people.Helper, &Weighing{Line: "1", Grams: amount.G(100)})
	assert.Nil(t, b.f.Record(filled).From, "nothing is filled")
	b.take(filled, people.Helper, &Fill{Jars: 10, At: filled})
	assert.Equal(t, filled, *b.f.Record(filled).From)
	later := filled.Add(3 * time.Hour)
	b.take(later, people.Maker, &Weighing{Line: "more", Grams: amount.G(5)})
	assert.Equal(t, later, *b.f.Record(later).From, "the hours count from the addition")

	unfilled := newBowl(t)
	unfilled.read(filled, 1, 4.0)
	unfilled.take(later, people.Maker, &Weighing{Line: "1", Grams: amount.G(5)})
	for _, r := range unfilled.f.Record(later).Readings {
		assert.NotEmpty(t, r.Void, "read before something went in")
	}
}

func TestWhatIsEnteredLateIsMarkedBeyondTwelveHours(t *testing.T) {
	b := newBowl(t)
	b.take(filled.Add(LateAfter), people.Helper, &Fill{Jars: 10, At: filled})
	assert.Empty(t, b.f.Record(filled.Add(LateAfter)).Late, "at the mark")
	id := b.take(filled.Add(LateAfter+time.Minute), people.Helper, &Fill{Jars: 10, At: filled})
	assert.Equal(t, []int64{id}, b.f.Record(filled.Add(LateAfter+time.Minute)).Late)
}

func TestOnlyAnOwnerWithAReasonSetsAFillingBack(t *testing.T) {
	for _, c := range []struct {
		role   people.Role
		reason string
		want   time.Time
	}{
		{people.Owner, "the clock stood wrong", filled.Add(-5 * time.Hour)},
		{people.Owner, "", filled},
		{people.Maker, "the clock stood wrong", filled},
	} {
		b := newBowl(t).made()
		b.take(filled, c.role, &Fill{Jars: 10, At: filled.Add(-5 * time.Hour), Reason: c.reason})
		assert.Equal(t, c.want, *b.f.Record(filled).From, "%s %q", c.role, c.reason)
	}
}

func TestLabelsCountAsPrintedAndStickersDoNot(t *testing.T) {
	b := newBowl(t).made()
	b.take(filled, people.Maker, &Print{What: "label", Count: 7})
	b.take(filled, people.Maker, &Print{What: "hold", Count: 90})
	b.take(filled, people.Maker, &Print{What: "label", Count: 3})
	assert.Equal(t, 10, b.f.Record(filled).Printed)
}

// TestAnEarlyReleaseSaysUntilWhen follows a release on the first reading until it has run out.
func TestAnEarlyReleaseSaysUntilWhen(t *testing.T) {
	b := newBowl(t).made()
	b.read(filled.Add(time.Hour), 1, 3.9)
	require.Empty(t, b.decide(filled.Add(2*time.Hour), people.Maker, Released, ""))
	until := filled.Add((24 + 48) * time.Hour)
	r := b.f.Record(filled.Add(3 * time.Hour))
	require.NotNil(t, r.RunsOut)
	assert.Equal(t, until, *r.RunsOut)
	assert.Equal(t, Released, b.f.Record(until.Add(-time.Minute)).State)
	r = b.f.Record(until)
	assert.Equal(t, OnHold, r.State)
	assert.True(t, r.RanOut)
	assert.Nil(t, r.RunsOut)
	b.read(until.Add(time.Hour), 1, 4.58)
	assert.Equal(t, CalledBack, b.f.Record(until.Add(time.Hour)).State, "its jars are out all the same")

	kept := newBowl(t).made()
	kept.read(filled.Add(25*time.Hour), 1, 3.9)
	require.Empty(t, kept.decide(filled.Add(26*time.Hour), people.Maker, Released, ""))
	assert.Nil(t, kept.f.Record(filled.Add(27*time.Hour)).RunsOut, "an equilibrium release does not run out")
	assert.Equal(t, Released, kept.f.Record(until.Add(1000*time.Hour)).State)
}

func TestWhatWasReleasedOnTheEquilibriumIsNotCalledBackByARepeatUnderTheLimit(t *testing.T) {
	b := newBowl(t).made()
	b.read(filled.Add(25*time.Hour), 1, 3.9)
	require.Empty(t, b.decide(filled.Add(26*time.Hour), people.Maker, Released, ""))
	b.read(filled.Add(30*time.Hour), 1, 4.5)
	assert.Equal(t, Released, b.f.Record(filled.Add(31*time.Hour)).State)
	b.read(filled.Add(32*time.Hour), 1, 4.6)
	assert.Equal(t, CalledBack, b.f.Record(filled.Add(33*time.Hour)).State)
}

func TestAReleaseAboveTheTargetSaysWhatWasLookedAt(t *testing.T) {
	b := newBowl(t).made()
	b.read(filled.Add(25*time.Hour), 1, 4.3)
	at := filled.Add(26 * time.Hour)
	assert.Equal(t, []string{"above the target"}, b.f.Record(at).Asks.Reason)
	assert.Equal(t, entry.Wrong, b.decide(at, people.Maker, Released, " "))
	assert.Empty(t, b.decide(at, people.Maker, Released, "tasted, and read again"))
	below := newBowl(t).made()
	below.read(filled.Add(25*time.Hour), 1, 4.0)
	assert.Empty(t, below.f.Record(at).Asks.Reason)
}

// TestWhoCallsBackByHand tries it from every state.
func TestWhoCallsBackByHand(t *testing.T) {
	at := filled.Add(26 * time.Hour)
	back := func(b *bowl, role people.Role) string { return b.decide(at, role, CalledBack, "a jar bulged") }
	released := func() *bowl {
		b := newBowl(t).made()
		b.read(filled.Add(25*time.Hour), 1, 3.9)
		require.Empty(t, b.decide(at, people.Maker, Released, ""))
		return b
	}
	assert.Equal(t, entry.Closed, back(newBowl(t).made(), people.Owner), "no jar was ever out")
	assert.Equal(t, entry.NotYours, back(released(), people.Maker))
	assert.Equal(t, entry.NotYours, back(released(), people.Helper))
	b := released()
	assert.Empty(t, back(b, people.Owner))
	assert.Equal(t, CalledBack, b.f.Record(at).State)
	assert.Equal(t, entry.Closed, back(b, people.Owner), "it is called back already")
	held := released()
	require.Empty(t, held.decide(at, people.Maker, OnHold, "a jar leaked"))
	assert.Empty(t, back(held, people.Owner), "on hold, and its jars are out")
	rejected := released()
	require.Empty(t, rejected.decide(at, people.Maker, Rejected, "spoiled"))
	assert.Equal(t, entry.Closed, back(rejected, people.Owner))
}

// TestARetestIsWhatTheVerdictAskedFor tells a second sample that was asked for from one that somebody just took.
func TestARetestIsWhatTheVerdictAskedFor(t *testing.T) {
	marks := func(ph float64) (out []bool) {
		b := newBowl(t).made()
		b.read(filled.Add(25*time.Hour), 1, ph)
		b.read(filled.Add(27*time.Hour), 2, 4.0)
		for _, r := range b.f.Record(filled.Add(28 * time.Hour)).Readings {
			out = append(out, r.Retest)
		}
		return out
	}
	assert.Equal(t, []bool{false, false, false, false, true, true, true, true}, marks(4.57))
	assert.Equal(t, make([]bool, 8), marks(4.0), "nothing asked for it")
}

func TestEveryKindOfEntryIsReadBack(t *testing.T) {
	for _, body := range []any{&Weighing{Line: "1", Grams: amount.G(1)}, &Fill{Jars: 2}, &acidity.Reading{PH: 4},
		&Void{Entry: 3, Cause: "the jar broke"}, &Heat{ColdestC: 85}, &Laboratory{WaterActivity: 0.8, Report: "R 1"},
		&Decided{State: OnHold, Reason: "why"}, &JarsIn{Reason: "counted"}, &Recall{Cause: "withdrawn", Document: 4},
		&Print{What: "label", Count: 5}} {
		e := Entry{ID: 9, Seq: 2, At: filled, By: "Noor", Role: people.Maker, Body: body}
		raw, err := json.Marshal(e)
		require.NoError(t, err)
		var back Entry
		require.NoError(t, json.Unmarshal(raw, &back), "%T", body)
		assert.Equal(t, e, back)
	}
	var e Entry
	var kind entry.KindError
	require.ErrorAs(t, json.Unmarshal([]byte(`{"kind":"wish","wish":{}}`), &e), &kind)
	assert.Equal(t, "wish", kind.Kind)
	require.Error(t, json.Unmarshal([]byte(`{"kind":"fill","fill":3}`), &e))
}

// TestAnEarlyReleaseFallsWithAnEquilibriumThatAsksForARetest reads jars that are each under the limit with the least
// uncertainty, while the value is not. What was released on the equilibrium itself does not fall so.
func TestAnEarlyReleaseFallsWithAnEquilibriumThatAsksForARetest(t *testing.T) {
	for early, want := range map[bool]string{true: CalledBack, false: Released} {
		b := newBowl(t).made()
		at := filled.Add(time.Hour)
		if !early {
			at = filled.Add(25 * time.Hour)
		}
		b.read(at, 1, 3.9)
		require.Empty(t, b.decide(at.Add(time.Hour), people.Maker, Released, ""))
		then := filled.Add(28 * time.Hour)
		b.check = b.take(then, people.Maker, &acidity.MeterEvent{Turn: b.turn + 1, Check: b.turn + 1, Meter: "m",
			Good: true, At: then})
		for jar, phs := range map[string][]float64{"first": {4.525, 4.525}, "last": {4.475, 4.525}} {
			for _, ph := range phs {
				b.take(then, people.Maker, &acidity.Reading{Load: 1, Jar: jar, Sample: 1, Preparation: "semi_solid",
					Fraction: "paste", PH: ph, Celsius: 22, MeterCheck: b.check, At: then})
			}
		}
		assert.Equal(t, want, b.f.Record(then).State, "early %v: %s", early, b.f.acidity().Sentence)
	}
}
