package reader

import (
	"slices"
	"sort"
	"strings"

	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// smallWords carry no meaning of their own beside an ingredient.
var smallWords = wordSet(`of the a an and or in with for from to at into on plus fresh freshly good quality best ripe organic your favourite favorite some more any nice
	really very quite either both it its them each also other another then than so if you we i my have use using which that this these those is are was will can like want need take e g sized size optional optionally bit maybe okay ok um uh er erm hmm yeah yep alright anyway basically probably actually goes go going that's it's i'm i've there's let's just`)

func wordSet(s string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(s) {
		m[w] = true
	}
	return m
}

// Candidate is an ingredient that a word might mean.
type Candidate struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// Index finds ingredients by what people call them: names, label names and synonyms.
type Index struct {
	keys  map[string]string // sorted stems -> id
	exact map[string]string // the pantry's own names, word for word -> id
	words map[string]bool   // every stem that is in a name
	near  []nearName
	grams map[string][]int // trigram -> places in near
}

type nearName struct {
	Candidate
	grams int // how many trigrams it has
}

// NewIndex reads the pantry. synonyms are the typical ones by ingredient id; an ingredient's own come first.
func NewIndex(ingredients map[string]*pantry.Ingredient, synonyms map[string][]string) *Index {
	x := &Index{keys: map[string]string{}, exact: map[string]string{}, grams: map[string][]int{},
		words: map[string]bool{}}
	ids := make([]string, 0, len(ingredients))
	for id := range ingredients {
		ids = append(ids, id)
	}
	sort.Strings(ids)
	claim := func(id, phrase string) {
		if k := keyOf(phrase); k != "" {
			if _, has := x.keys[k]; !has {
				x.keys[k] = id
			}
		}
	}
	for _, names := range []func(pantry.Ingredient) []string{
		func(g pantry.Ingredient) []string { return g.Synonyms },
		func(g pantry.Ingredient) []string { return synonyms[g.ID] },
		func(g pantry.Ingredient) []string { return []string{withoutParentheses(g.Name)} },
		func(g pantry.Ingredient) []string { return []string{strings.ReplaceAll(g.ID, "_", " ")} },
		func(g pantry.Ingredient) []string {
			if g.StateOf != "" {
				return nil
			}
			head, _, _ := strings.Cut(withoutParentheses(g.Name), ",")
			names := []string{}
			for _, l := range law.All() {
				names = append(names, g.Labels[l.Regime])
			}
			return append(names, head)
		},
	} {
		for _, id := range ids {
			for _, n := range names(*ingredients[id]) {
				claim(id, n)
			}
		}
	}
	for k := range x.keys {
		for _, w := range strings.Fields(k) {
			x.words[w] = true
		}
	}
	for _, id := range ids {
		g := ingredients[id]
		if words, _ := exactWords(tokenise(g.Name)); words != "" {
			x.exact[words] = id
		}
		for _, n := range append([]string{g.Name}, append(slices.Clone(g.Synonyms), synonyms[id]...)...) {
			pieces := trigrams(n)
			for _, p := range pieces {
				x.grams[p] = append(x.grams[p], len(x.near))
			}
			x.near = append(x.near, nearName{Candidate{id, g.Name}, len(pieces)})
		}
	}
	return x
}

func withoutParentheses(s string) string {
	if i := strings.IndexByte(s, '('); i >= 0 {
		if j := strings.IndexByte(s[i:], ')'); j >= 0 {
			return s[:i] + s[i+j+1:]
		}
	}
	return s
}

// keyOf is the sorted stems of a phrase without small words and figures.
func keyOf(phrase string) string {
	var stems []string
	for _, t := range tokenise(phrase) {
		if t.isWord() && !t.small() {
			stems = append(stems, stem(t.low))
		}
	}
	return joinKey(stems)
}

func joinKey(stems []string) string {
	if len(stems) == 1 {
		return stems[0]
	}
	slices.Sort(stems)
	return strings.Join(slices.Compact(stems), " ")
}

// neverAlone are plurals that mean another thing than their singular: peppers are no ground pepper.
var neverAlone = wordSet("peppers")

// maxPhrase is the longest name looked for, in words.
const maxPhrase = 6

// noName stands for the stem of a word that is in no name.
const noName = "-"

// know looks up the words that are in names, once.
func (x *Index) know(c cursor) {
	for i := range c {
		t := &c[i]
		if t.stem != "" {
			continue
		}
		t.stem = noName
		if t.isWord() && !t.small() {
			if st := stem(t.low); x.words[st] {
				t.stem = st
			}
		}
	}
}

// find looks for the longest name among the free words; small words may stand inside it. It returns the tokens it took.
func (x *Index) find(c cursor, aside bool) (id string, taken []int) {
	x.know(c)
	var room [24]int
	words := room[:0]
	longest, run := 0, 0
	for i := range c {
		t := &c[i]
		if t.role != Unread || t.aside != aside || !t.isWord() || t.small() {
			continue
		}
		words = append(words, i)
		if run++; t.stem == noName {
			run = 0
		}
		longest = max(longest, run)
	}
	var stems [maxPhrase]string
	for length := min(maxPhrase, longest); length > 0; length-- {
		for at := 0; at+length <= len(words); at++ {
			if length == 1 && neverAlone[c[words[at]].low] || !c.inNames(words[at:at+length]) {
				continue
			}
			for k, w := range words[at : at+length] {
				stems[k] = c[w].stem
			}
			if id, ok := x.keys[joinKey(stems[:length])]; ok {
				if later, taken := x.overlapping(c, words, at, length); later != "" {
					return later, slices.Clone(taken)
				}
				return id, slices.Clone(words[at : at+length])
			}
		}
	}
	return "", nil
}

// inNames reports whether all of some words are in names, and no joining word parts them.
func (c cursor) inNames(words []int) bool {
	for _, w := range words {
		if c[w].stem == noName {
			return false
		}
	}
	return !c.parted(words[0], words[len(words)-1])
}

// parted reports whether a joining word stands between two words, so that they belong to two names.
func (c cursor) parted(from, to int) bool {
	for i := from + 1; i < to; i++ {
		if c[i].low == "or" || c[i].low == "and" {
			return true
		}
	}
	return false
}

// overlapping finds a name as long as the one at a place that begins inside it: of roasted garlic oil, garlic oil,
// because the last word says what it is.
func (x *Index) overlapping(c cursor, words []int, at, length int) (id string, taken []int) {
	for from := at + 1; from < at+length && from+length <= len(words); from++ {
		if words[from+length-1]-words[from-1] != length {
			return id, taken // other words stand between
		}
		var stems []string
		for _, w := range words[from : from+length] {
			stems = append(stems, stem(c[w].low))
		}
		if other, is := x.keys[joinKey(stems)]; is {
			id, taken = other, words[from:from+length]
		}
	}
	return id, taken
}

// exactWords are the free words and numbers of a stretch, word for word, without an "of" in front.
func exactWords(c cursor) (words string, taken []int) {
	var parts []string
	for i, t := range c {
		if t.role != Unread || !t.isWord() && !t.isNumber() || len(parts) == 0 && t.low == "of" {
			continue
		}
		parts, taken = append(parts, t.low), append(taken, i)
	}
	return strings.Join(parts, " "), taken
}

// exactly finds the ingredient whose full name the free words are: egg yolk, liquid pasteurised is no raw egg yolk.
func (x *Index) exactly(c cursor) (id string, taken []int) {
	words, taken := exactWords(c)
	return x.exact[words], taken
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
