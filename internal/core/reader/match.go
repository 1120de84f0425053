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
	near  []nearName
}

type nearName struct {
	Candidate
	grams []string
}

// NewIndex reads the pantry. synonyms are the typical ones by ingredient id; an ingredient's own come first.
func NewIndex(ingredients map[string]*pantry.Ingredient, synonyms map[string][]string) *Index {
	x := &Index{keys: map[string]string{}, exact: map[string]string{}}
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
	for _, id := range ids {
		g := ingredients[id]
		if words, _ := exactWords(tokenise(g.Name)); words != "" {
			x.exact[words] = id
		}
		for _, n := range append([]string{g.Name}, append(slices.Clone(g.Synonyms), synonyms[id]...)...) {
			x.near = append(x.near, nearName{Candidate{id, g.Name}, trigrams(n)})
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
		if t.isWord() && !smallWords[t.low] {
			stems = append(stems, stem(t.low))
		}
	}
	return joinKey(stems)
}

func joinKey(stems []string) string {
	slices.Sort(stems)
	return strings.Join(slices.Compact(stems), " ")
}

// neverAlone are plurals that mean another thing than their singular: peppers are no ground pepper.
var neverAlone = wordSet("peppers")

// maxPhrase is the longest name looked for, in words.
const maxPhrase = 6

// find looks for the longest name among the free words; small words may stand inside it. It returns the tokens it took.
func (x *Index) find(c cursor, aside bool) (id string, taken []int) {
	var words []int
	for i, t := range c {
		if t.role == Unread && t.isWord() && t.aside == aside && !smallWords[t.low] {
			words = append(words, i)
		}
	}
	stems := make([]string, 0, maxPhrase)
	for length := min(maxPhrase, len(words)); length > 0; length-- {
		for at := 0; at+length <= len(words); at++ {
			if c.parted(words[at], words[at+length-1]) {
				continue
			}
			if length == 1 && neverAlone[c[words[at]].low] {
				continue
			}
			stems = stems[:0]
			for _, w := range words[at : at+length] {
				stems = append(stems, stem(c[w].low))
			}
			if id, ok := x.keys[joinKey(stems)]; ok {
				if later, taken := x.overlapping(c, words, at, length); later != "" {
					return later, taken
				}
				return id, words[at : at+length]
			}
		}
	}
	return "", nil
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
	best := map[string]scored{}
	for _, n := range x.near {
		if s := likeness(want, n.grams); s > 0.3 && s > best[n.ID].score {
			best[n.ID] = scored{n.Candidate, s}
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
		if !t.isWord() || smallWords[t.low] {
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

// likeness is the Dice coefficient of two sorted lists.
func likeness(a, b []string) float64 {
	if len(a) == 0 || len(b) == 0 {
		return 0
	}
	both := 0
	for i, j := 0, 0; i < len(a) && j < len(b); {
		switch strings.Compare(a[i], b[j]) {
		case 0:
			both++
			i++
			j++
		case -1:
			i++
		default:
			j++
		}
	}
	return 2 * float64(both) / float64(len(a)+len(b))
}
