package bench

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// anybody does anything: a random act of a random person at a random later time.
type anybody struct {
	*rand.Rand
	t       *testing.T
	n       Needs
	fold    *Fold
	entries []Entry
	now     time.Time
	check   int64
}

func (a *anybody) pick(list ...string) string { return list[a.IntN(len(list))] }

func (a *anybody) pH() float64 {
	if a.IntN(4) == 0 {
		return 4.3 + a.Float64()
	}
	return 3.9 + a.Float64()*0.3
}

// act makes up something that somebody may try.
func (a *anybody) act() Entry {
	a.now = a.now.Add(time.Duration(a.IntN(9*60)) * time.Minute)
	id := int64(len(a.entries) + 1)
	e := Entry{ID: id, At: a.now, By: a.pick("Ines", "Bram", "Ola")}
	e.Role = map[string]people.Role{"Ines": people.Owner, "Bram": people.Maker, "Ola": people.Helper}[e.By]
	claimed := a.now.Add(-time.Duration(a.IntN(20*60)) * time.Minute * time.Duration(a.IntN(2)))
	reason := a.pick("", "because of the weather", "x")
	switch a.IntN(12) {
	case 0:
		e.Body = &Fill{Jars: 5, At: claimed, Reason: reason}
	case 1, 2:
		e.Body = &acidity.MeterEvent{Turn: id, Check: id, Meter: "m", Good: a.IntN(6) > 0, At: claimed}
	case 3:
		e.Body = &acidity.MeterEvent{Turn: id, Check: a.check, Meter: "m", Look: true, Good: a.IntN(3) > 0, At: a.now}
	case 4, 5, 6:
		e.Body = &acidity.Reading{Load: 1, Jar: a.pick("first", "last"), Sample: 1 + a.IntN(2),
			Preparation: "semi_solid", Fraction: "paste", PH: a.pH(), Celsius: 22, MeterCheck: a.check, At: claimed}
	case 7:
		e.Body = &Void{Entry: 1 + a.Int64N(id), Cause: a.pick("bad", "the probe stood in the rinse cup")}
	case 8:
		e.Body = &Weighing{Line: fmt.Sprint("more", id), Grams: amount.G(3), Correction: a.IntN(3) == 0}
	case 9:
		e.Body = &JarsIn{Reason: reason}
	default:
		d := &Decided{State: a.pick(Released, Released, OnHold, Rejected, CalledBack), Reason: reason,
			Way: a.fold.acidity().Way}
		if a.IntN(5) == 0 {
			d.Seen = max(1, id-1-a.Int64N(3))
		}
		e.Body = d
	}
	return e
}

// good goes the right way up to a release, so that there is something to lose.
func (a *anybody) good() []Entry {
	at := a.now
	id := int64(0)
	add := func(after time.Duration, by string, role people.Role, body any) Entry {
		id++
		return Entry{ID: id, At: at.Add(after), By: by, Role: role, Body: body}
	}
	out := []Entry{add(0, "Ola", people.Helper, &Fill{Jars: 5, At: at}),
		add(25*time.Hour, "Bram", people.Maker, &acidity.MeterEvent{Turn: 2, Check: 2, Meter: "m", Good: true,
			At: at.Add(25 * time.Hour)})}
	for _, jar := range []string{"first", "first", "last", "last"} {
		out = append(out, add(26*time.Hour, "Ola", people.Helper, &acidity.Reading{Load: 1, Jar: jar, Sample: 1,
			Preparation: "semi_solid", Fraction: "paste", PH: 4, Celsius: 22, MeterCheck: 2,
			At: at.Add(26 * time.Hour)}))
	}
	return append(out, add(27*time.Hour, "Bram", people.Maker, &Decided{State: Released, Way: acidity.Equilibrium}))
}

// take writes an act down where it is not refused, and looks at what it did.
func (a *anybody) take(e Entry) {
	before := a.fold.Record(e.At)
	refusal := a.fold.Refuses(e)
	if refusal != nil {
		after := a.fold.Record(e.At)
		require.Equal(a.t, before.State, after.State, "a refused act changes nothing")
		return
	}
	a.fold.Add(e)
	a.entries = append(a.entries, e)
	if m, ok := e.Body.(*acidity.MeterEvent); ok && !m.Look {
		a.check = m.Check
	}
	a.look(before, e, a.fold.Record(e.At))
}

// look holds what must be true after any act.
func (a *anybody) look(before Record, e Entry, after Record) {
	d, decided := e.Body.(*Decided)
	story := fmt.Sprintf("entry %d: %s by %s: %s, then %s", e.ID, e.Kind(), e.By, before.State, after.State)
	if decided {
		require.True(a.t, e.Role.May(people.Maker), story)
		require.NotEqual(a.t, "", d.Reason+map[bool]string{true: "may be empty"}[d.State == Released], story)
	}
	if latched := before.State == Rejected || before.State == CalledBack; latched && after.State != before.State {
		require.True(a.t, decided && e.Role == people.Owner && d.Reason != "", "only an owner, with a reason: %s",
			story)
	}
	if after.State == Released && before.State != Released {
		require.True(a.t, decided && d.State == Released, "only a decision releases: %s", story)
		require.Empty(a.t, before.Missing, story)
		require.Contains(a.t, []string{acidity.Pass, acidity.PassWithNote}, before.Acidity.Outcome, story)
		if len(before.Asks.Owner) > 0 {
			require.True(a.t, e.Role == people.Owner && d.Reason != "", story)
		}
	}
	if after.State == Released {
		a.stillGood(after, story)
	}
	if _, added := e.Body.(*Weighing); added && before.Out {
		require.True(a.t, e.Body.(*Weighing).Correction, "nothing is added while jars may be out: %s", story)
	}
	if before.Out && !after.Out {
		_, said := e.Body.(*JarsIn)
		require.True(a.t, said && e.Role == people.Owner, story)
	}
}

// stillGood holds that what is released is supported: by what passes, or by the readings that it rests on.
func (a *anybody) stillGood(r Record, story string) {
	for _, x := range r.Readings {
		if x.ID > a.released() {
			require.False(a.t, a.n.Bounds.Over(x.PH), "a reading over the limit came after the release: %s", story)
		}
	}
	lost := slices.ContainsFunc(r.Readings, func(x acidity.Reading) bool {
		return slices.Contains(a.fold.rests, x.Pair) && (x.Void != "" || x.Unsupported != "")
	})
	if lost {
		require.Contains(a.t, []string{acidity.Pass, acidity.PassWithNote}, r.Acidity.Outcome,
			"what it rests on is gone, and nothing else passes: %s", story)
	}
}

// released is the newest release.
func (a *anybody) released() int64 {
	for _, e := range slices.Backward(a.entries) {
		if d, ok := e.Body.(*Decided); ok && d.State == Released {
			return e.ID
		}
	}
	return 0
}

// TestNoSequenceOfActsLeavesABatchReleasedWithoutSupport plays random people against the latch.
func TestNoSequenceOfActsLeavesABatchReleasedWithoutSupport(t *testing.T) {
	states := map[string]int{}
	for seed := range uint64(400) {
		n := Needs{Bounds: acidity.Bounds{Limit: 4.6, Target: 4.2, Loads: 1, Chilled: true, EarlyRelease: seed%2 == 0}}
		a := &anybody{Rand: rand.New(rand.NewPCG(seed, 9)), t: t, n: n, fold: NewFold(n), now: at}
		if seed%4 > 0 {
			for _, e := range a.good() {
				a.take(e)
			}
			require.Equal(t, Released, a.fold.Record(a.entries[len(a.entries)-1].At).State)
			a.now = a.entries[len(a.entries)-1].At
		}
		for range 60 {
			a.take(a.act())
			states[a.fold.r.State]++
		}
		again := Read(a.entries, n, a.now)
		assert.Equal(t, a.fold.Record(a.now), again, "seed %d: read anew it is the same record", seed)
		for cut := range a.entries { // what happened stays, whatever came later
			then := Read(a.entries[:cut], n, a.now)
			for i, r := range then.Recalled {
				require.Equal(t, r, again.Recalled[i], "seed %d", seed)
			}
		}
	}
	for _, s := range []string{OnHold, Released, CalledBack, Rejected} {
		assert.Greater(t, states[s], 300, "the acts reach %s: %v", s, states)
	}
}
