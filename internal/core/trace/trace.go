// Package trace lays out what went into what: lots, batches and where their jars are, and accounts for every jar.
package trace

import (
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
)

// Flow is what went from one lot into another: grams that a batch took, or a part that was taken off.
type Flow struct {
	From  int64        `json:"from"`
	To    int64        `json:"to"`
	Grams amount.Grams `json:"grams"`
}

// Columns places lots: what came from nowhere in the first column, anything else one after the last of what it is made
// of, and what nothing was made of together in the last. A lot that no flow names is not placed. Flows that run in a
// circle, which no kitchen can make, end where they close.
func Columns(flows []Flow) map[int64]int {
	sources := map[int64][]int64{}
	at := map[int64]int{}
	used := map[int64]bool{}
	for _, f := range flows {
		used[f.From] = true
		sources[f.To] = append(sources[f.To], f.From)
		at[f.From], at[f.To] = -1, -1
	}
	going := map[int64]bool{}
	var place func(id int64) int
	place = func(id int64) int {
		if at[id] >= 0 || going[id] {
			return max(at[id], 0)
		}
		going[id] = true
		column := 0
		for _, s := range sources[id] {
			column = max(column, place(s)+1)
		}
		going[id] = false
		at[id] = column
		return column
	}
	ids := make([]int64, 0, len(at))
	for id := range at {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	last := 0
	for _, id := range ids {
		last = max(last, place(id))
	}
	for _, id := range ids {
		if !used[id] {
			at[id] = last
		}
	}
	return at
}

// Account is where the jars of batches are, each in one place. Made is the sum of all others.
type Account struct {
	Made      int `json:"made"`
	With      int `json:"with"`      // customers and market days
	Parties   int `json:"parties"`   // that have any
	Here      int `json:"here"`      // bench, cold room, come back
	Samples   int `json:"samples"`   // kept back for studies
	Gone      int `json:"gone"`      // withdrawn, broken, opened here
	Unwritten int `json:"unwritten"` // filled before anybody wrote down where jars are
}

// AccountOf adds up where jars are.
func AccountOf(places ...[]bench.JarsAt) Account {
	var a Account
	parties := map[int64]bool{}
	for _, p := range slices.Concat(places...) {
		a.Made += p.Jars
		switch p.Place {
		case bench.With:
			a.With += p.Jars
			parties[p.Party] = parties[p.Party] || p.Jars > 0
		case bench.Filled, bench.ColdRoom, bench.Returned:
			a.Here += p.Jars
		case bench.Samples:
			a.Samples += p.Jars
		case bench.Untold:
			a.Unwritten += p.Jars
		default:
			a.Gone += p.Jars
		}
	}
	for _, has := range parties {
		if has {
			a.Parties++
		}
	}
	return a
}
