package trace

import (
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A lot of ginger went into two pastes, those into three dressings, one of them into a second batch of itself.
var ginger = []Flow{{1, 10, amount.G(500)}, {1, 11, amount.G(400)}, {2, 10, amount.G(90)}, {10, 20, amount.G(80)},
	{10, 21, amount.G(80)}, {11, 22, amount.G(60)}, {3, 22, amount.G(900)}, {22, 23, amount.G(50)}}

func TestWhatIsMadeOfSomethingStandsBehindIt(t *testing.T) {
	assert.Equal(t, map[int64]int{1: 0, 2: 0, 3: 0, 10: 1, 11: 1, 20: 3, 21: 3, 22: 2, 23: 3}, Columns(ginger))
	assert.Empty(t, Columns(nil))
	round := Columns([]Flow{{From: 1, To: 2}, {From: 2, To: 1}})
	assert.Len(t, round, 2, "a circle ends")
}

func TestTraceLaws(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(2, 25).Draw(t, "lots")
		var flows []Flow
		for range rapid.IntRange(0, 60).Draw(t, "flows") {
			a, b := rapid.IntRange(1, n-1).Draw(t, "a"), 0
			b = rapid.IntRange(a+1, n).Draw(t, "b") // what is made later
			flows = append(flows, Flow{From: int64(a), To: int64(b)})
		}
		columns := Columns(flows)
		for _, f := range flows {
			require.Less(t, columns[f.From], columns[f.To])
		}
	})
}

func TestEveryJarIsAccountedForOnce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var at []bench.JarsAt
		all := 0
		for _, place := range bench.Places {
			jars := rapid.IntRange(0, 40).Draw(t, place)
			all += jars
			at = append(at, bench.JarsAt{Place: place, Jars: jars, Party: 3})
		}
		a := AccountOf(at, at)
		require.Equal(t, 2*all, a.Made)
		require.Equal(t, a.Made, a.With+a.Here+a.Samples+a.Gone+a.Unwritten)
		require.LessOrEqual(t, a.Parties, 1, "one customer, however often")
	})
}
