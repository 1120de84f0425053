package bench

import (
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// jarred is a bowl of ten jars that are followed, released where that is asked.
func jarred(t *testing.T, release bool) *bowl {
	t.Helper()
	b := newBowl(t)
	b.take(filled.Add(-time.Hour), people.Helper, &Weighing{Line: "1", Grams: amount.G(100), Lot: "L1"})
	b.take(filled, people.Helper, &Fill{Jars: 10, At: filled, Followed: true})
	if release {
		b.read(filled.Add(25*time.Hour), 1, 4.0)
		require.Empty(t, b.decide(filled.Add(26*time.Hour), people.Maker, Released, ""))
	}
	return b
}

var sold = filled.Add(27 * time.Hour)

func moved(from, to string, jars int) *Moved {
	return &Moved{From: from, To: to, Jars: jars, Party: 3, PartyName: "Corner shop"}
}

func (b *bowl) moves(role people.Role, m *Moved) {
	b.t.Helper()
	b.take(sold, role, m)
}

func (b *bowl) at(place string) int {
	r := b.f.Record(sold)
	return r.JarsIn(place)
}

func TestAJarsWay(t *testing.T) {
	b := jarred(t, true)
	b.moves(people.Helper, moved(Filled, Samples, 2))
	b.moves(people.Helper, moved(Filled, ColdRoom, 8))
	b.moves(people.Helper, moved(ColdRoom, With, 5))
	b.moves(people.Helper, moved(With, Returned, 1))
	b.moves(people.Helper, moved(Returned, Withdrawn, 1))
	b.moves(people.Helper, moved(ColdRoom, Broken, 1))
	r := b.f.Record(sold)
	got := map[string]int{}
	for _, x := range r.Jars {
		got[x.Place] = x.Jars
	}
	assert.Equal(t, map[string]int{ColdRoom: 2, Samples: 2, With: 4, Withdrawn: 1, Broken: 1}, got)
	assert.Equal(t, 2, r.Here())
	assert.Equal(t, "Corner shop", r.Jars[2].PartyName)
	assert.Equal(t, []string{ColdRoom, Samples, With, Withdrawn, Broken},
		[]string{r.Jars[0].Place, r.Jars[1].Place, r.Jars[2].Place, r.Jars[3].Place, r.Jars[4].Place})
}

func TestNoJarIsMovedThatIsNotThere(t *testing.T) {
	b := jarred(t, true)
	b.moves(people.Helper, moved(Filled, With, 8))
	err := b.f.Refuses(b.entry(sold, people.Helper, moved(Filled, With, 8)))
	require.ErrorContains(t, err, "only 2 jars are filled, on the bench; helper moved 8 to Corner shop before",
		"the second tablet sees who was before it")
	other := moved(With, Returned, 1)
	other.Party = 4
	require.ErrorContains(t, b.f.Refuses(b.entry(sold, people.Helper, other)), "only 0 jars")
	for name, m := range map[string]*Moved{"no place": moved("moon", With, 1), "nowhere": moved(Filled, Filled, 1),
		"unfollowed": moved(Filled, Untold, 1), "none": moved(Filled, ColdRoom, 0), "less": moved(Filled, ColdRoom, -1),
		"with nobody": {From: Filled, To: With, Jars: 1}} {
		assert.Equal(t, entry.Wrong, b.refused(sold, people.Owner, m), name)
	}
}

func TestNoJarLeavesButFromAReleasedBatchInDate(t *testing.T) {
	held := jarred(t, false)
	assert.Equal(t, entry.Closed, held.refused(sold, people.Owner, moved(Filled, With, 1)))
	back := jarred(t, true)
	back.moves(people.Helper, moved(Filled, With, 4))
	back.take(sold, people.Owner, &Decided{State: CalledBack, Reason: "glass in one", Seen: back.turn})
	assert.Equal(t, entry.Closed, back.refused(sold, people.Owner, moved(Filled, With, 1)))
	back.moves(people.Helper, moved(With, Returned, 4))
	assert.Equal(t, entry.Closed, back.refused(sold, people.Owner,
		&Moved{From: Returned, To: ColdRoom, Jars: 1, Reason: "this one was never opened"}), "not even by an owner")
	back.moves(people.Helper, moved(Returned, Withdrawn, 4))

	require.NoError(t, MayLeave(Released, "2026-11-25", "2026-11-25", ""), "on its last day it may")
	for name, err := range map[string]error{"past": MayLeave(Released, "2026-11-24", "2026-11-25", ""),
		"no date": MayLeave(Released, "", "2026-11-25", ""), "hold": MayLeave(OnHold, "2026-11-30", "2026-11-25", ""),
		"called back": MayLeave(CalledBack, "2026-11-30", "2026-11-25", ""),
		"in doubt":    MayLeave(Released, "2026-11-30", "2026-11-25", "a lot was refused")} {
		require.Error(t, err, name)
	}
}

func TestWhatCameBackIsSoldAgainByAnOwnersReasonOnly(t *testing.T) {
	b := jarred(t, true)
	b.moves(people.Helper, moved(Filled, With, 4))
	b.moves(people.Helper, moved(With, Returned, 2))
	b.moves(people.Helper, moved(Filled, Withdrawn, 1))
	for _, from := range []string{Returned, Withdrawn} {
		back := &Moved{From: from, To: ColdRoom, Jars: 1}
		assert.Equal(t, entry.NotYours, b.refused(sold, people.Maker, back), from)
		assert.Equal(t, entry.Wrong, b.refused(sold, people.Owner, back), from)
	}
	assert.Equal(t, entry.NotYours, b.refused(sold, people.Maker, moved(With, ColdRoom, 1)))
	assert.Equal(t, entry.NotYours, b.refused(sold, people.Maker, moved(Returned, With, 1)))
	b.moves(people.Owner, &Moved{From: Returned, To: ColdRoom, Jars: 1, Reason: "the box was never opened, 4 °C"})
	b.moves(people.Helper, moved(Filled, Samples, 1))
	b.moves(people.Helper, moved(Samples, ColdRoom, 1))
	assert.Equal(t, 2, b.at(ColdRoom))
}

func TestACountOfJarsThatChangesKeepsThoseElsewhere(t *testing.T) {
	b := jarred(t, false)
	b.moves(people.Helper, moved(Filled, Samples, 3))
	assert.Equal(t, entry.Wrong, b.refused(sold, people.Helper, &Fill{Jars: 2, At: filled, Followed: true}))
	b.take(sold, people.Helper, &Fill{Jars: 9, At: filled, Followed: true})
	assert.Equal(t, 6, b.at(Filled))
	b.take(sold, people.Helper, &Fill{Jars: 12, At: filled, Followed: true})
	assert.Equal(t, 9, b.at(Filled))
	old := newBowl(t).made()
	assert.Equal(t, 10, old.at(Untold), "filled before jars were followed")
}

func TestNobodySaysThatNoJarIsOutWhileSomebodyHasOne(t *testing.T) {
	b := jarred(t, true)
	b.moves(people.Helper, moved(Filled, With, 4))
	b.take(sold, people.Maker, &Decided{State: OnHold, Reason: "a lid was loose", Seen: b.turn})
	in := &JarsIn{Reason: "all ten stand in the cold room"}
	require.ErrorContains(t, b.f.Refuses(b.entry(sold, people.Owner, in)), "4 jars are with Corner shop")
	b.moves(people.Helper, moved(With, Returned, 4))
	b.take(sold, people.Owner, in)
}

func TestJarsAreOpenedWhole(t *testing.T) {
	for name, x := range map[string]struct {
		here  int
		taken float64
		want  int
	}{"none": {4, 0, 0}, "a spoon": {4, 1, 1}, "one jar": {4, 500, 1}, "a little more": {4, 500.1, 2},
		"all":           {4, 2000, 4},
		"more than all": {4, 2600, 4}, "nothing here": {0, 500, 0}} {
		assert.Equal(t, x.want, JarsOpened(x.here, amount.G(500).Times(x.here), amount.G(x.taken)), name)
	}
}

func TestWhatEndsFirstGoesFirst(t *testing.T) {
	list := []Ready{{1, "A", "2026-12-20", 10}, {2, "B", "2026-12-01", 4}, {3, "C", "2026-12-01", 3},
		{4, "D", "2026-11-30", 0}}
	parts, missing := FirstExpired(list, 9)
	assert.Equal(t, []Ready{{2, "B", "2026-12-01", 4}, {3, "C", "2026-12-01", 3}, {1, "A", "2026-12-20", 2}}, parts)
	assert.Zero(t, missing)
	parts, missing = FirstExpired(list, 20)
	assert.Len(t, parts, 3)
	assert.Equal(t, 3, missing)
	assert.Equal(t, 10, list[0].Jars, "the list stays as it was")
}

// TestEveryJarIsInExactlyOnePlace moves jars at random, by all hands, and counts them after each act.
func TestEveryJarIsInExactlyOnePlace(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		b := jarred(t, rapid.Bool().Draw(rt, "released"))
		jars := 10
		for range rapid.IntRange(1, 40).Draw(rt, "acts") {
			role := rapid.SampledFrom(people.Roles).Draw(rt, "role")
			var body any = &Moved{From: rapid.SampledFrom(Places).Draw(rt, "from"),
				To: rapid.SampledFrom(Places).Draw(rt, "to"), Jars: rapid.IntRange(0, 6).Draw(rt, "jars"),
				Party:  rapid.Int64Range(0, 2).Draw(rt, "party"),
				Reason: rapid.SampledFrom([]string{"", "never left its box"}).Draw(rt, "reason")}
			if rapid.IntRange(0, 9).Draw(rt, "count anew") == 0 {
				body = &Fill{Jars: rapid.IntRange(0, 14).Draw(rt, "filled"), At: filled, Followed: true}
			}
			e := b.entry(sold, role, body)
			before := b.f.Record(sold)
			if b.f.Refuses(e) != nil {
				continue
			}
			b.f.Add(e)
			b.turn++
			r := b.f.Record(sold)
			if f, ok := body.(*Fill); ok {
				jars = f.Jars
			}
			sum := 0
			for _, x := range r.Jars {
				require.Positive(rt, x.Jars, "%s", x.Place)
				sum += x.Jars
			}
			require.Equal(rt, jars, sum)
			if r.State != Released {
				require.LessOrEqual(rt, r.JarsIn(With), before.JarsIn(With),
					"no jar leaves a batch that is not released")
			}
		}
	})
}
