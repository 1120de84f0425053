package reader

import (
	"slices"
	"sort"
	"strings"

	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// smallWords carry no meaning of their own beside an ingredient.
var smallWords = words("smallWords")

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

	learned map[string]int64 // what the shop has told of names, by their stems
	near    []nearName
	grams   map[string][]int // trigram -> places in near
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
	for _, names := range []func(pantry.Ingredient) []string{
		func(g pantry.Ingredient) []string { return g.Synonyms },
		func(g pantry.Ingredient) []string { return synonyms[g.ID] },
		func(g pantry.Ingredient) []string { return []string{withoutParentheses(g.Name)} },
		func(g pantry.Ingredient) []string { return []string{strings.ReplaceAll(g.ID, "_", " ")} },
		labelNames,
	} {
		for _, id := range ids {
			for _, n := range names(*ingredients[id]) {
				x.claim(id, n)
			}
		}
	}
	for _, id := range ids {
		g := ingredients[id]
		if words, _ := exactWords(tokenise(g.Name)); words != "" {
			x.exact[words] = id
		}
		for _, n := range append([]string{g.Name}, append(slices.Clone(g.Synonyms), synonyms[id]...)...) {
			x.resemble(Candidate{id, g.Name}, n)
		}
	}
	return x
}

// labelNames are what an ingredient is called on labels, and its name up to a comma.
func labelNames(g pantry.Ingredient) []string {
	if g.StateOf != "" {
		return nil
	}
	head, _, _ := strings.Cut(withoutParentheses(g.Name), ",")
	names := []string{}
	for _, l := range law.All() {
		names = append(names, g.Labels[l.Regime])
	}
	return append(names, head)
}

// claim lets a phrase name an ingredient, unless it names another one already.
func (x *Index) claim(id, phrase string) {
	k := keyOf(phrase)
	if k == "" || x.keys[k] != "" {
		return
	}
	x.keys[k] = id
	for _, w := range strings.Fields(k) {
		x.words[w] = true
	}
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
var neverAlone = words("neverAlone")

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
		if other, ok := x.keys[joinKey(stems)]; ok {
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
