package recall

import (
	"strings"
	"testing"
	"time"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/people"
	"gallipot/internal/core/trace"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var nine = time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC)

// act is an act of Ines, so many minutes after nine.
func act(minutes int, body any) Entry {
	return Entry{Head: entry.Head{At: nine.Add(time.Duration(minutes) * time.Minute), By: "Ines", Role: people.Owner},
		Body: body}
}

// begun is a recall of two batches of dressing: 40 jars in the cold room, 4 kept, 2 broken, 12 with a grocer.
func begun(mock bool) *Started {
	row := func(batch int64, code, place string, party int64, name string, jars int) Row {
		return Row{Batch: batch, Code: code, Name: "Carrot & miso dressing", Ends: "2027-01-20", Place: place,
			Party: party, PartyName: name, Jars: jars, Since: "2026-11-20T10:00:00Z"}
	}
	return &Started{Mock: mock, Why: "The ginger smelled of diesel", Of: OfLots, IDs: []int64{3},
		Title: "Ginger, P1003",
		Rows: []Row{row(1, "26-317-A", bench.ColdRoom, 0, "", 40), row(1, "26-317-A", bench.Samples, 0, "", 4),
			row(2, "26-324-A", bench.Broken, 0, "", 2), row(2, "26-324-A", bench.With, 7, "Corner grocer", 12)}}
}

func refusal(t *testing.T, err error) entry.Refusal {
	t.Helper()
	var r entry.Refusal
	require.ErrorAs(t, err, &r)
	return r
}

func TestARecallAccountsForEveryJar(t *testing.T) {
	s := Read([]Entry{act(0, begun(true))})
	assert.Equal(t, Account{Made: 58, Gone: 2, Open: 56, Out: 12}, s.Account, "what the book says is not yet found")
	assert.Nil(t, s.ToldAll)
	entries := []Entry{act(0, begun(true)), act(4, &Counted{Batch: 1, Place: bench.ColdRoom, Jars: 37}),
		act(5, &Counted{Batch: 1, Place: bench.Samples, Jars: 5}), act(9, &Told{Party: 7, How: "by phone, Maud"}),
		act(11, &Answered{Party: 7, Batch: 2, Held: 5, Sold: 6})}
	s = Read(entries)
	assert.Equal(t, Account{Made: 58, Here: 42, Held: 5, Sold: 6, Gone: 2, Missing: 3 + 1, Over: 1, Out: 12}, s.Account)
	assert.Equal(t, nine.Add(9*time.Minute), *s.ToldAll)
	s = Read(append(entries, act(12, &Counted{Batch: 1, Place: bench.ColdRoom, Jars: 39})))
	assert.Equal(t, 2, s.Account.Missing, "the later count is right")
	s = Read(append(entries[:1:1], act(20, &Closed{Done: "Stopped, the phone rang"})))
	assert.Equal(t, 56, s.Account.Missing, "what nobody looked for when it was closed was not found")
	assert.Zero(t, s.Account.Open)
}

func TestMoreJarsOfItAreToldOfAgain(t *testing.T) {
	more := begun(true).Rows[3]
	more.Batch, more.Code, more.Jars = 5, "26-330-A", 6
	s := Read([]Entry{act(0, begun(true)), act(1, &Told{Party: 7, How: "by phone"}),
		act(2, &Widened{Rows: []Row{more, more}})})
	assert.Equal(t, 64, s.Account.Made, "each once")
	assert.Equal(t, []string{"Corner grocer"}, s.Untold(), "the phone call was of the others")
	assert.Equal(t, 18, s.Parties[0].Jars)
}

func TestWhoMayDoWhatInARecall(t *testing.T) {
	maker := func(body any) Entry {
		e := act(1, body)
		e.Role = people.Maker
		return e
	}
	helper := func(body any) Entry {
		e := act(1, body)
		e.Role = people.Helper
		return e
	}
	fresh := State{}
	require.NoError(t, fresh.Refuses(maker(begun(true))))
	assert.Equal(t, entry.NotYours, refusal(t, fresh.Refuses(maker(begun(false)))).Code)
	assert.Equal(t, entry.NotYours, refusal(t, fresh.Refuses(helper(begun(true)))).Code)
	short := begun(true)
	short.Why = "a test"
	assert.Equal(t, "why", refusal(t, fresh.Refuses(act(0, short))).Field)
	short = begun(true)
	short.Rows = nil
	assert.Equal(t, entry.Closed, refusal(t, fresh.Refuses(act(0, short))).Code)
	s := Read([]Entry{act(0, begun(false))})
	require.NoError(t, s.Refuses(helper(&Counted{Batch: 1, Place: bench.ColdRoom, Jars: 0})), "everybody counts")
	for field, wrong := range map[string]any{
		"counted.place":  &Counted{Batch: 2, Place: bench.Broken, Jars: 2},
		"counted.jars":   &Counted{Batch: 1, Place: bench.ColdRoom, Jars: -1},
		"told.party":     &Told{Party: 8, How: "by phone"},
		"told.how":       &Told{Party: 7, How: "1"},
		"answered.party": &Answered{Party: 7, Batch: 2, Held: 1},
		"closed.done":    &Closed{Done: "done"},
	} {
		assert.Equal(t, field, refusal(t, s.Refuses(act(1, wrong))).Field, field)
	}
}

func TestARealRecallIsClosedWhenAllIsDone(t *testing.T) {
	done := &Closed{Done: "All jars are back and were thrown away"}
	entries := []Entry{act(0, begun(false))}
	assert.Contains(t, refusal(t, Read(entries).Refuses(act(1, done))).Message, "Corner grocer")
	entries = append(entries, act(2, &Told{Party: 7, How: "by phone"}), act(3, &Answered{Party: 7, Batch: 2, Held: 12}))
	assert.Contains(t, refusal(t, Read(entries).Refuses(act(4, done))).Message, "44 jars")
	entries = append(entries, act(5, &Counted{Batch: 1, Place: bench.ColdRoom, Jars: 40}),
		act(6, &Counted{Batch: 1, Place: bench.Samples, Jars: 4}))
	maker := act(7, done)
	maker.Role = people.Maker
	assert.Equal(t, entry.NotYours, refusal(t, Read(entries).Refuses(maker)).Code)
	require.NoError(t, Read(entries).Refuses(act(7, done)))
	closed := Read(append(entries, act(7, done)))
	assert.Equal(t, entry.Closed, refusal(t, closed.Refuses(act(8, &Told{Party: 7, How: "again"}))).Code)
	require.NoError(t, Read([]Entry{act(0, begun(true))}).Refuses(act(1, done)), "a drill may end early")
}

func TestADrillIsDueYearly(t *testing.T) {
	for _, c := range []struct {
		last      day.Day
		out       bool
		due, next string
	}{
		{"", false, "", ""}, {"", true, "2026-11-24", ""}, {"2026-06-02", true, "", "2027-06-02"},
		{"2025-11-24", true, "2026-11-24", "2026-11-24"}, {"2025-11-25", true, "", "2026-11-25"},
	} {
		due, next := DrillDue(c.last, c.out, "2026-11-24")
		assert.Equal(t, day.Day(c.due), due, "%v", c)
		assert.Equal(t, day.Day(c.next), next, "%v", c)
	}
}

func TestLettersSayWhatToDo(t *testing.T) {
	shop := Shop{Name: "Hollin Lane Larder", Address: "3 Hollin Lane", LotPrefix: "L", Tongue: "en-GB", Zone: time.UTC}
	start := begun(false)
	start.Allergen = "mustard"
	s := Read([]Entry{act(0, start)})
	letters := s.Letters(shop, map[int64]Reached{7: {Contact: "grocer@corner.example"}})
	require.Len(t, letters, 2)
	text := letters[0].Text
	for _, said := range []string{"L26-324-A", "12 jars", "20 Jan 2027", "diesel.", "does not name mustard",
		"Stop selling", "Hollin Lane Larder\n3 Hollin Lane"} {
		assert.Contains(t, text, said)
	}
	assert.NotContains(t, text, "26-317-A", "what the grocer never had")
	assert.NotContains(t, text, "EXERCISE")
	assert.Equal(t, "The authority", letters[1].To)
	assert.Contains(t, letters[1].Text, "Corner grocer: 12 jars, not told yet")
	assert.Contains(t, letters[1].Text, "L26-317-A, with the date 20 Jan 2027: 44 jars")

	drill := Read([]Entry{act(0, begun(true))}).Letters(shop, map[int64]Reached{7: {Market: true}})
	require.Len(t, drill, 1, "no drill goes to the authority")
	assert.True(t, strings.HasPrefix(drill[0].Text, "EXERCISE ONLY"), "before anything else")
	assert.True(t, strings.HasPrefix(drill[0].Subject, "EXERCISE"))
	assert.Contains(t, drill[0].Text, "everybody who bought")
	assert.NotContains(t, drill[0].Text, "12 jars")
}

func TestEveryJarHasOneFate(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		start := begun(rapid.Bool().Draw(t, "mock"))
		start.Rows = nil
		for i := range rapid.IntRange(0, 8).Draw(t, "rows") {
			r := Row{Batch: int64(i % 3), Place: rapid.SampledFrom(bench.Places).Draw(t, "place"),
				Jars: rapid.IntRange(0, 50).Draw(t, "jars")}
			if r.Place == bench.With {
				r.Party = rapid.Int64Range(1, 3).Draw(t, "party")
			}
			start.Rows = append(start.Rows, r)
		}
		entries := []Entry{act(0, start)}
		for i := range rapid.IntRange(0, 20).Draw(t, "acts") {
			n := rapid.IntRange(-2, 60)
			e := act(i, rapid.SampledFrom([]any{
				&Counted{Batch: 1, Place: rapid.SampledFrom(bench.Places).Draw(t, "at"), Jars: n.Draw(t, "counted")},
				&Told{Party: rapid.Int64Range(1, 4).Draw(t, "who"), How: "by phone"},
				&Answered{Party: 2, Batch: 1, Held: n.Draw(t, "held"), Sold: n.Draw(t, "sold")},
				&Closed{Done: "all that could be done"}}).Draw(t, "act"))
			if Read(entries).Refuses(e) == nil {
				entries = append(entries, e)
			}
		}
		s := Read(entries)
		a := s.Account
		require.Equal(t, a.Made+a.Over, a.Here+a.Held+a.Sold+a.Gone+a.Open+a.Missing)
		if s.ClosedAt != nil {
			require.Zero(t, a.Open)
			if !s.Mock {
				require.Empty(t, s.Untold())
			}
		}
		for _, n := range []int{a.Made, a.Here, a.Held, a.Sold, a.Gone, a.Open, a.Missing, a.Over} {
			require.GreaterOrEqual(t, n, 0)
		}
	})
}

func TestARecallLooksWhereTheTraceFoundJars(t *testing.T) {
	f := trace.Found{Lots: map[int64]trace.Lot{
		7: {ID: 7, Kind: lots.OfBatch, Batch: 2, Code: "26-331-A", Name: "Carrot dip", Ends: "2026-12-20"},
		8: {ID: 8, Kind: lots.OfBatch, Batch: 3, Code: "26-332-A"}, 9: {ID: 9, Kind: lots.Incoming}},
		Ahead: map[int64]bool{7: true, 9: true},
		Jars: map[int64][]bench.JarsAt{2: {{Place: bench.ColdRoom, Jars: 4, Since: "2026-11-26"},
			{Place: bench.Samples}},
			3: {{Place: bench.ColdRoom, Jars: 9}}}}
	assert.Equal(t, []Row{{Batch: 2, Code: "26-331-A", Name: "Carrot dip", Ends: "2026-12-20", Place: bench.ColdRoom,
		Jars: 4, Since: "2026-11-26"}}, RowsOf(f), "neither empty places nor batches that it did not go into")
	assert.Empty(t, RowsOf(trace.Found{}))
}
