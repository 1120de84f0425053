package reader

import (
	"slices"
	"strings"
)

type nearName struct {
	Candidate
	grams int // how many trigrams it has
}

// resemble lets an ingredient be offered for what resembles a name.
func (x *Index) resemble(c Candidate, name string) {
	pieces := trigrams(name)
	for _, p := range pieces {
		x.grams[p] = append(x.grams[p], len(x.near))
	}
	x.near = append(x.near, nearName{c, len(pieces)})
}

// maxNear is how many near matches are offered.
const maxNear = 5

// Near offers ingredients whose names resemble a phrase, best first; what hardly resembles is left out.
func (x *Index) Near(phrase string) []Candidate {
	want := trigrams(phrase)
	type scored struct {
		Candidate
		score float64
	}
	shared := map[int]int{}
	for _, p := range want {
		for _, at := range x.grams[p] {
			shared[at]++
		}
	}
	best := map[string]scored{}
	for at, both := range shared {
		n := x.near[at]
		// the Dice coefficient of two sets of trigrams
		if like := 2 * float64(both) / float64(len(want)+n.grams); like > 0.3 && like > best[n.ID].score {
			best[n.ID] = scored{n.Candidate, like}
		}
	}
	list := make([]scored, 0, len(best))
	for _, s := range best {
		list = append(list, s)
	}
	slices.SortFunc(list, func(a, b scored) int {
		switch {
		case a.score > b.score:
			return -1
		case a.score < b.score:
			return 1
		}
		return strings.Compare(a.ID, b.ID)
	})
	out := []Candidate{}
	for _, s := range list[:min(maxNear, len(list))] {
		out = append(out, s.Candidate)
	}
	return out
}

// trigrams are the sorted three-letter pieces of a phrase's stems.
func trigrams(phrase string) []string {
	var out []string
	for _, t := range tokenise(withoutParentheses(phrase)) {
		if !t.isWord() || t.small() {
			continue
		}
		r := []rune(" " + stem(t.low) + " ")
		for i := 0; i+3 <= len(r) && i < 40; i++ {
			out = append(out, string(r[i:i+3]))
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}
