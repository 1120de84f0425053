package bench

import (
	"fmt"
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

const dayFilled = "2026-11-02"

// shelved is a bowl whose line is weighed from lots.
func shelved(t *testing.T, list ...lots.Facts) *bowl {
	b := newBowl(t)
	b.f.n.Targets[0].NeedsLot = true
	b.f.n.Lots = map[int64]lots.Facts{}
	for _, f := range list {
		b.f.n.Lots[f.ID] = f
	}
	return b
}

func lot(id int64, ends day.Day) lots.Facts {
	return lots.Facts{ID: id, Code: fmt.Sprintf("P%d", id), Name: "Leek", State: lots.Open, Ends: ends,
		EndKind: lots.UseBy}
}

// weighed is a weighing of the line from lots, completed as the use case does.
func (b *bowl) weighed(at time.Time, draws ...Draw) *Weighing {
	w := &Weighing{Line: "1", Draws: draws, Over: b.f.Before("1").ID}
	for i := range draws {
		w.Grams = w.Grams.Plus(draws[i].Grams)
		w.Draws[i].Code = b.f.n.Lots[draws[i].Lot].Code
	}
	w.Complete(b.f.n.Lots, at, time.UTC, b.f.Before("1"))
	return w
}

func (b *bowl) field(role people.Role, body any) string {
	b.t.Helper()
	var no entry.Refusal
	require.ErrorAs(b.t, b.f.Refuses(b.entry(filled, role, body)), &no)
	return no.Field
}

func TestALineWithoutALotStandsInTheWay(t *testing.T) {
	b := shelved(t, lot(1, ""))
	b.take(filled, people.Helper, &Weighing{Line: "1", Grams: amount.G(100)})
	assert.Contains(t, b.f.Record(filled).Missing, "the lot of Leek")
	b.take(filled, people.Helper, b.weighed(filled, Draw{Lot: 1, Grams: amount.G(100)}))
	r := b.f.Record(filled)
	assert.NotContains(t, r.Missing, "the lot of Leek")
	assert.Equal(t, "P1", r.Lines[0].Lot)
	old := newBowl(t)
	old.take(filled, people.Helper, &Weighing{Line: "1", Grams: amount.G(100)})
	assert.NotContains(t, old.f.Record(filled).Missing, "the lot of Leek", "planned before lots were kept: not asked")
}

func TestTheEarliestEndThatBindsCounts(t *testing.T) {
	keeps := lot(3, "2026-11-03")
	keeps.EndKind = lots.BestBefore
	b := shelved(t, lot(1, "2026-11-20"), lot(2, "2026-11-12"), keeps)
	b.take(filled, people.Helper, b.weighed(filled, Draw{Lot: 1, Grams: amount.G(50)},
		Draw{Lot: 2, Grams: amount.G(30)},
		Draw{Lot: 3, Grams: amount.G(20)}))
	r := b.f.Record(filled)
	assert.Equal(t, day.Day("2026-11-12"), r.Lines[0].UseBy)
	days, line, ok := r.EarliestUseBy(dayFilled)
	assert.True(t, ok)
	assert.Equal(t, 10, days)
	assert.Equal(t, "Leek", line)
	none := lot(1, "")
	none.NeedsEnd = true
	u := shelved(t, none)
	u.take(filled, people.Helper, u.weighed(filled, Draw{Lot: 1, Grams: amount.G(100)}))
	assert.Contains(t, u.f.Record(filled).Missing, "the use-by date of the lot of Leek")
}

func TestALotThatMayNotBeUsedTakesAnOwnersReason(t *testing.T) {
	held := lot(2, "")
	held.Bar = "it is on hold: mould"
	frozen := lot(3, "")
	frozen.Frozen = true
	for name, id := range map[string]int64{"past its end": 1, "on hold": 2, "frozen": 3} {
		t.Run(name, func(t *testing.T) {
			b := shelved(t, lot(1, "2026-11-01"), held, frozen)
			draw := func(reason string) *Weighing {
				return b.weighed(filled, Draw{Lot: id, Grams: amount.G(100), Reason: reason})
			}
			assert.Equal(t, "weighing.draws[0].code", b.field(people.Helper, draw("it looks fine to me")))
			assert.Equal(t, "weighing.draws[0].code", b.field(people.Maker, draw("it looks fine to me")))
			assert.Equal(t, "weighing.draws[0].reason", b.field(people.Owner, draw("fine")), "too short a reason")
			b.take(filled, people.Owner, draw("tasted it with two others"))
			r := b.f.Record(filled)
			assert.Empty(t, r.Lines[0].Barred)
			assert.NotEmpty(t, r.Lines[0].Draws[0].Over)
		})
	}
	b := shelved(t, lot(1, "2026-11-02"))
	w := b.weighed(filled, Draw{Lot: 1, Grams: amount.G(100), Reason: "a reason nobody asked for"})
	assert.Empty(t, w.Draws[0].Reason, "on its last day it needs none")
	b.take(filled, people.Helper, w)
}

func TestWhatHappensToALotAfterItWasUsedStandsInTheWay(t *testing.T) {
	b := shelved(t, lot(1, "2026-11-20"))
	b.take(filled, people.Helper, b.weighed(filled, Draw{Lot: 1, Grams: amount.G(100)}))
	f := b.f.n.Lots[1]
	f.Bar = "it is on hold: the supplier called"
	b.f.n.Lots[1] = f
	assert.Contains(t, b.f.Record(filled).Missing, "a decision on lot P1 of Leek: it is on hold: the supplier called")
	f.Bar, f.Ends = "", "2026-11-01"
	b.f.n.Lots[1] = f
	r := b.f.Record(filled)
	assert.Contains(t, r.Missing, "a decision on lot P1 of Leek: it is past its use-by")
	days, _, _ := r.EarliestUseBy(dayFilled)
	assert.Equal(t, -1, days, "a corrected end counts")
	over := shelved(t, lot(1, "2026-11-01"))
	over.take(filled, people.Owner, over.weighed(filled,
		Draw{Lot: 1, Grams: amount.G(100), Reason: "tasted it with two others"}))
	f.Bar = "it was refused: glass in it"
	over.f.n.Lots[1] = f
	assert.NotEmpty(t, over.f.Record(filled).Lines[0].Barred, "a reason for one thing is none for another")
}

func TestDrawsAddUpAndAreNamedOnce(t *testing.T) {
	b := shelved(t, lot(1, ""), lot(2, ""))
	w := b.weighed(filled, Draw{Lot: 1, Grams: amount.G(40)}, Draw{Lot: 2, Grams: amount.G(60)})
	w.Grams = amount.G(101)
	assert.Equal(t, "weighing.draws", b.field(people.Helper, w))
	assert.Equal(t, "weighing.draws[1].code",
		b.field(people.Helper, b.weighed(filled, Draw{Lot: 1, Grams: amount.G(40)}, Draw{Lot: 1, Grams: amount.G(60)})))
	assert.Equal(t, "weighing.draws[0].grams", b.field(people.Helper, b.weighed(filled, Draw{Lot: 1})))
	assert.Equal(t, "weighing.draws[0].code",
		b.field(people.Helper, b.weighed(filled, Draw{Lot: 9, Grams: amount.G(1)})))
}

func TestACorrectionLeavesWhatWasTakenAsItWas(t *testing.T) {
	b := shelved(t, lot(1, dayFilled))
	b.take(filled, people.Helper, b.weighed(filled, Draw{Lot: 1, Grams: amount.G(98)}))
	next := filled.AddDate(0, 0, 1)
	fix := &Weighing{Line: "1", Grams: amount.G(99), Correction: true, Over: b.f.Before("1").ID,
		Draws: []Draw{{Lot: 1, Code: "P1", Grams: amount.G(99)}}}
	fix.Complete(b.f.n.Lots, next, time.UTC, b.f.Before("1"))
	b.take(next, people.Helper, fix)
	assert.Empty(t, b.f.Record(next).Lines[0].Barred, "the lot ended yesterday, after it went in")
	anew := b.weighed(next, Draw{Lot: 1, Grams: amount.G(100)})
	assert.Equal(t, entry.Wrong, b.refused(next, people.Helper, anew), "weighed anew today it is past its end")
}

func TestARoastCountsForWhatIsTakenAfterIt(t *testing.T) {
	nuts := lot(1, "")
	nuts.NeedsProof, nuts.Proof = true, "roasted at 150 °C for 12 min"
	nuts.ProofFrom = filled.Format(time.RFC3339Nano)
	b := shelved(t, nuts)
	before := filled.Add(-time.Minute)
	b.take(before, people.Helper, b.weighed(before, Draw{Lot: 1, Grams: amount.G(100)}))
	assert.Contains(t, b.f.Record(filled).Missing, "the kill-step statement or recorded roast for Leek")
	b.take(filled, people.Helper, b.weighed(filled, Draw{Lot: 1, Grams: amount.G(100)}))
	assert.NotContains(t, b.f.Record(filled).Missing, "the kill-step statement or recorded roast for Leek")
	off := shelved(t, nuts)
	off.f.n.NoKillStep = true
	off.take(before, people.Helper, off.weighed(before, Draw{Lot: 1, Grams: amount.G(100)}))
	assert.NotContains(t, off.f.Record(filled).Missing, "the kill-step statement or recorded roast for Leek",
		"where the rule is not in force")
}

func TestJointOutputsTakeTheGreaterNeed(t *testing.T) {
	draw := func(out string, taken float64) LineState {
		return LineState{Target: Target{Line: out},
			Draws: []Draw{{Lot: 1, Taken: amount.G(taken), Step: "whole.zest", Out: out}}}
	}
	r := Record{Lines: []LineState{draw("juice", 250), draw("zest", 300), draw("juice", 100),
		{Target: Target{Line: "x"}, Draws: []Draw{{Lot: 1, Taken: amount.G(7)}}}}}
	sum := amount.Grams{}
	for _, d := range r.Draws() {
		sum = sum.Plus(d.Grams)
	}
	assert.Equal(t, amount.G(357), sum, "juice takes 350 of the same pieces, zest 300; 7 are taken beside")
	assert.Len(t, r.Draws(), 4)
}

// TestNoLotIsUsedAfterItsEndWithoutAnOwnersReason tries random lots, hands and days, and looks at what was written
// down.
func TestNoLotIsUsedAfterItsEndWithoutAnOwnersReason(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		b := shelved(t)
		at := filled
		for i := range rapid.IntRange(1, 12).Draw(rt, "acts") {
			id := rapid.Int64Range(1, 4).Draw(rt, "lot")
			f := lot(id, day.Of(filled.AddDate(0, 0, rapid.IntRange(-3, 3).Draw(rt, "end"))))
			f.Bar = rapid.SampledFrom([]string{"", "", "it is on hold: mould"}).Draw(rt, "bar")
			b.f.n.Lots[id] = f
			at = at.Add(time.Duration(rapid.IntRange(0, 40).Draw(rt, "hours")) * time.Hour)
			w := b.weighed(at, Draw{Lot: id, Grams: amount.G(float64(i + 1)),
				Reason: rapid.SampledFrom([]string{"", "because I say so"}).Draw(rt, "reason")})
			role := rapid.SampledFrom(people.Roles).Draw(rt, "role")
			e := Entry{ID: int64(i + 1), At: at, By: string(role), Role: role, Body: w}
			why := f.WhyNot(day.Of(at))
			err := b.f.Refuses(e)
			if why != "" && (role != people.Owner || w.Draws[0].Reason == "") {
				require.Error(rt, err, "%s by %s: %s", f.Code, role, why)
				continue
			}
			require.NoError(rt, err)
			b.f.Add(e)
			require.Equal(rt, why, b.f.Record(at).Lines[0].Draws[0].Over)
		}
	})
}
