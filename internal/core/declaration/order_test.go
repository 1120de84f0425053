package declaration

import (
	"fmt"
	"sort"
	"strings"
	"testing"

	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// madeOf draws something to mix: single ingredients, and components of up to three levels that lost some of their
// water.
func madeOf(t *rapid.T, name string, depth int) Item {
	it := Item{Name: name, Grams: float64(rapid.IntRange(1, 900).Draw(t, "grams"))}
	if depth == 0 || rapid.IntRange(0, 2).Draw(t, "kind") > 0 {
		return it
	}
	it.Grams = 0
	inner := 0.0
	for i := range rapid.IntRange(1, 4).Draw(t, "parts") {
		p := madeOf(t, fmt.Sprintf("%s%c", name, 'a'+i), depth-1)
		it.Parts = append(it.Parts, p)
		it.Grams += p.Grams
		inner += p.DrivenOff
	}
	water := Item{Name: "water", Grams: float64(rapid.IntRange(0, 400).Draw(t, "water")), Flags: []string{"water"}}
	if water.Grams > 0 {
		it.Parts = append(it.Parts, water)
		it.Grams += water.Grams
	}
	off := water.Grams * float64(rapid.IntRange(0, 10).Draw(t, "off")) / 10
	it.Grams -= off
	it.DrivenOff = inner + off
	it.Disperse = rapid.Bool().Draw(t, "disperse")
	return it
}

// slow finds the grams of every name that a list shows, by hand: dispersed things are taken apart, one step at a time,
// until nothing is left to take apart.
func slow(items []Item) (grams map[string]float64, off float64) {
	grams = map[string]float64{}
	open := append([]Item{}, items...)
	for len(open) > 0 {
		it := open[0]
		open = open[1:]
		if it.Disperse && len(it.Parts) > 0 {
			open = append(open, it.Parts...)
			lost := 0.0
			for _, p := range it.Parts {
				lost += p.Grams
			}
			off += lost - it.Grams
			continue
		}
		grams[it.Name] += it.Grams
	}
	return grams, off
}

// The order of the list is never wrong, with nested components and water driven off: held against slow.
func TestTheOrderOfTheListIsNeverWrong(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var items []Item
		total := 0.0
		for i := range rapid.IntRange(1, 7).Draw(t, "lines") {
			it := madeOf(t, fmt.Sprintf("x%c", 'a'+i), 3)
			items = append(items, it)
			total += it.DrivenOff
		}
		regime := rapid.SampledFrom([]law.Regime{law.GB, law.US}).Draw(t, "law")
		under, err := law.Of(regime)
		require.NoError(t, err)
		d, err := Declare(items, Options{Law: under, DrivenOff: total})
		require.NoError(t, err)

		grams, off := slow(items)
		water, others := grams["water"], 0.0
		delete(grams, "water")
		for _, g := range grams {
			others += g
		}
		finished := others + water - off
		switch {
		case regime == law.US && water > 0 && off < water-1e-9: // by the weight added, unless all of it left
			grams["water"] = water
		case regime == law.GB && water > 0 && finished-others > 0.05*finished+1e-6:
			grams["water"] = finished - others
		}
		var names []string
		for name := range grams {
			names = append(names, name)
		}
		sort.Slice(names, func(i, j int) bool { return grams[names[i]] > grams[names[j]] })
		listed := topLevel(strings.TrimSuffix(d.List, "."))
		require.Len(t, listed, len(names), "%s against %v", d.List, grams)
		for i, name := range listed {
			name = strings.ToLower(name)
			require.Contains(t, grams, name, d.List)
			assert.InDelta(t, grams[names[i]], grams[name], 1e-6, "%s: place %d", d.List, i+1)
		}
	})
}

// topLevel are the names of a list without what stands in brackets.
func topLevel(list string) []string {
	var out []string
	depth, at := 0, 0
	name := strings.Builder{}
	for at < len(list) {
		switch c := list[at]; {
		case c == '(':
			depth++
		case c == ')':
			depth--
		case c == ',' && depth == 0:
			out = append(out, strings.TrimSpace(name.String()))
			name.Reset()
		case depth == 0:
			name.WriteByte(c)
		}
		at++
	}
	return append(out, strings.TrimSpace(name.String()))
}
