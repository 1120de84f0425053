package bench

import (
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func madeOf(fill float64, lines ...formula.Line) formula.Version {
	return formula.Version{FillGrams: amount.G(fill), Lines: lines}
}

func lineOf(id, of string, grams float64) formula.Line {
	return formula.Line{ID: id, Ingredient: of, Grams: amount.G(grams)}
}

func TestOneBowlFillsWhatIsMadeTheSame(t *testing.T) {
	small := madeOf(190, lineOf("a", "oil", 600), lineOf("b", "vinegar", 390), lineOf("c", "salt", 10))
	into, same := SameBowl(small, madeOf(380, lineOf("x", "salt", 20), lineOf("y", "oil", 1200),
		lineOf("z", "vinegar", 780)))
	assert.True(t, same, "in another order, for more")
	assert.Equal(t, map[string]string{"a": "y", "b": "z", "c": "x"}, into)
	paste := lineOf("c", "", 10)
	paste.Component = &formula.Ref{Formula: "paste", Version: 1}
	other := paste
	other.Component = &formula.Ref{Formula: "paste", Version: 2}
	peeled := lineOf("b", "vinegar", 390)
	peeled.Preparation = "boiled"
	for name, v := range map[string]formula.Version{
		"a share":       madeOf(380, lineOf("a", "oil", 590), lineOf("b", "vinegar", 400), lineOf("c", "salt", 10)),
		"a line more":   madeOf(380, lineOf("a", "oil", 600), lineOf("b", "vinegar", 390)),
		"an ingredient": madeOf(380, lineOf("a", "oil", 600), lineOf("b", "lime", 390), lineOf("c", "salt", 10)),
		"a preparation": madeOf(380, lineOf("a", "oil", 600), peeled, lineOf("c", "salt", 10)),
		"a component":   madeOf(380, lineOf("a", "oil", 600), lineOf("b", "vinegar", 390), paste),
		"nothing":       {},
	} {
		_, same := SameBowl(small, v)
		assert.False(t, same, name)
	}
	_, same = SameBowl(madeOf(190, paste), madeOf(380, other))
	assert.False(t, same, "another version of a component is another thing")
	boiled := madeOf(380, small.Lines...)
	boiled.WaterDrivenOff = amount.G(100)
	_, same = SameBowl(small, boiled)
	assert.False(t, same, "what boiled off more is no longer the same")
}

// TestAPartOfABowlIsAPartOfEverything: for any share, what the other batch has and what the bowl keeps add up, lot by
// lot, additions and what was cooled with them.
func TestAPartOfABowlIsAPartOfEverything(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		share := amount.Whole(int64(rapid.IntRange(1, 99).Draw(t, "percent"))).Over(amount.Whole(100))
		f := NewFold(Needs{Targets: []Target{{Line: "oil", Grams: amount.G(600)}, {Line: "salt", Grams: amount.G(10)}}})
		at := time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC)
		entries := []Entry{}
		add := func(body any) {
			e := Entry{ID: int64(len(entries) + 1), Seq: len(entries) + 1, At: at, By: "Bram", Body: body}
			at = at.Add(time.Minute)
			entries = append(entries, e)
			f.Add(e)
		}
		first := amount.Milligrams(int64(rapid.IntRange(1, 599_999).Draw(t, "first")))
		rest := amount.G(600).Minus(first)
		add(&Weighing{Line: "oil", Grams: amount.G(600), Draws: []Draw{{Lot: 1, Code: "P1", Grams: first, Taken: first},
			{Lot: 2, Code: "P2", Grams: rest, Taken: rest}}})
		add(&Weighing{Line: "salt", Grams: amount.G(10), Draws: []Draw{{Lot: 3, Code: "P3", Grams: amount.G(10),
			Taken: amount.G(10)}}})
		add(&Added{Load: 1, Ingredient: "salt", Grams: amount.G(2), Purpose: "salt",
			Draws: []Draw{{Lot: 3, Code: "P3", Grams: amount.G(2), Taken: amount.G(2)}}})
		add(&Cooled{What: "oil", Celsius: 20, At: at})
		r := f.Record(at)
		whole := r.Draws()
		acts, given := r.Part(share, map[string]string{"oil": "o", "salt": "s"}, "26-328-A", entries)
		require.Len(t, acts, 4)
		taken := map[int64]amount.Grams{}
		for _, act := range acts {
			for _, d := range DrawsOf(act) {
				require.NotNil(t, d.At, "when it went into the bowl")
				taken[d.Lot] = taken[d.Lot].Plus(d.Taken)
			}
		}
		grams := amount.G(612).Exact().Times(share).Grams()
		f.Add(Entry{ID: 9, At: at, Body: &Split{Batch: 7, Grams: grams, Given: given}})
		r = f.Record(at)
		kept := map[int64]amount.Grams{}
		for _, d := range r.Draws() {
			kept[d.Lot] = kept[d.Lot].Plus(d.Grams)
			require.False(t, amount.Grams{}.Cmp(d.Grams) > 0)
		}
		for lot, g := range map[int64]amount.Grams{1: first, 2: rest, 3: amount.G(12)} {
			require.InDelta(t, g.Float(), taken[lot].Float()+kept[lot].Float(), 0.003, "lot %d", lot)
		}
		require.Len(t, whole, 4)
		require.Equal(t, r.Splits[0].Grams, r.Elsewhere())
	})
}
