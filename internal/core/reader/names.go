package reader

import (
	"slices"
)

// identify finds the ingredient, its preparation and what is left over.
func (s *segment) identify(x *Index) (id string) {
	if id, taken := x.exactly(s.cursor); id != "" {
		s.exact = true
		s.take(taken)
		return id
	}
	if s.cursor.any(opensSkin) {
		s.skins()
	}
	if s.amount != nil && s.amount.Unit == "" && len(s.fruit) == 0 {
		for i := range s.cursor {
			u := unitWords[s.cursor[i].low]
			if s.cursor[i].role != Unread || s.cursor[i].aside || !counted[u] {
				continue
			}
			s.cursor[i].role = UnitWord
			if id, taken := x.find(s.cursor, false); id != "" {
				s.amount.Unit = u
				s.take(taken)
				return id
			}
			s.cursor[i].role = Unread
		}
	}
	id, taken := x.find(s.cursor, false)
	if id == "" && !s.namesUnknown() {
		id, taken = x.find(s.cursor, true)
	}
	if len(taken) == 1 && s.unheardOf(taken[0]) || len(taken) > 0 && s.ofAnotherKind(taken[len(taken)-1]) {
		return ""
	}
	id, taken = s.inItsState(x, id, taken)
	if id != "" && s.amount != nil && isContainer(s.amount.Unit) {
		stems := []string{map[string]string{"can": "canned", "jar": "jarred", "packet": "packed"}[s.amount.Unit]}
		for _, i := range taken {
			stems = append(stems, stem(s.cursor[i].low))
		}
		if tinned, ok := x.keys[joinKey(slices.Clone(stems))]; ok { // a tin of tomatoes holds tinned ones
			id = tinned
		}
		if s.withLiquid() {
			if whole, ok := x.keys[joinKey(append(stems, "undrained"))]; ok {
				id = whole
			}
		}
	}
	s.take(taken)
	return id
}

// kindWords are names of many things, which the word before them tells apart.
var kindWords = words("kindWords")

// unheardOf reports whether a name is only the kind of something that nobody knows: jalapeño pepper, black beans.
func (s *segment) unheardOf(at int) bool {
	if !kindWords[stem(s.cursor[at].low)] || !s.free(at-1) || s.cursor[at-1].aside != s.cursor[at].aside {
		return false
	}
	return s.content(at-1, at) && !stateWords[s.cursor[at-1].low] && fills[s.cursor[at-1].low] == ""
}

// ofAnotherKind reports whether a name goes on to a kind of thing that it is not: chilli oil is no chilli, nor is
// chilli garlic sauce.
func (s *segment) ofAnotherKind(last int) bool {
	for i := last + 1; i <= last+3 && s.free(i) && s.cursor[i].aside == s.cursor[last].aside && s.content(i, i+1); i++ {
		if kindWords[stem(s.cursor[i].low)] {
			return !s.content(i+1, i+2)
		}
	}
	return false
}

// longestUnknown is how many words the name of something unknown has at most.
const longestUnknown = 3

// namesUnknown reports whether what stands before the first comma is the name of something that nobody knows, so that
// what is named behind it is not it: coconut milk, just the cream.
func (s *segment) namesUnknown() bool {
	n := 0
	for i, t := range s.cursor {
		if t.aside {
			break
		}
		if t.role != Unread || !t.isWord() {
			continue
		}
		if talkWords[t.low] || doers[t.low] || beforeName[t.low] || cookingVerbs[t.low] || chatWords[t.low] ||
			within[t.low] {
			return false
		}
		n += btoi(s.content(i, i+1) && !kindWords[stem(t.low)])
	}
	return n > 0 && n <= longestUnknown
}

// inItsState is the ingredient in the state that a word elsewhere names: egg yolks, pasteurised; a head of garlic,
// roasted. A word that is a preparation as well stays one.
func (s *segment) inItsState(x *Index, id string, taken []int) (string, []int) {
	if id == "" {
		return id, taken
	}
	var stems []string
	for _, i := range taken {
		if s.cursor[i].low == "dried" || s.cursor[i].low == "dry" { // what comes then is done with it
			return id, taken
		}
		stems = append(stems, stem(s.cursor[i].low))
	}
	for _, state := range s.done { // roast a head of garlic
		if other, ok := x.keys[joinKey(append(slices.Clone(stems), stem(state)))]; ok && other != id {
			s.bare = id
			return other, taken
		}
	}
	for i, t := range s.cursor {
		if t.role != Unread || !t.isWord() || slices.Contains(taken, i) || !stateWords[t.low] {
			continue
		}
		other, ok := x.keys[joinKey(append(slices.Clone(stems), stem(t.low)))]
		if !ok || other == id {
			continue
		}
		if prepWords[t.low] == nil {
			s.cursor[i].role = Ingredient
		} else if t.aside {
			s.bare = id
		}
		return other, taken
	}
	return id, taken
}

// withLiquid reports whether a tin goes in with what it stands in.
func (s *segment) withLiquid() bool {
	for i := range s.cursor {
		if s.is(i, "undrained") {
			s.mark(i, i+1, Preparation)
			return true
		}
		if s.is(i, "with") && s.is(i+1, "its", "their", "the") && s.is(i+2, "liquid", "liquor", "juice", "water",
			"brine") {
			s.mark(i, i+3, Preparation)
			return true
		}
		if s.is(i, "not", "don't") && s.is(i+1, "drained", "drain") {
			s.mark(i, i+2, Preparation)
			return true
		}
	}
	return false
}

func (s *segment) take(tokens []int) {
	if len(tokens) == 0 {
		return
	}
	s.first, s.last = tokens[0], tokens[len(tokens)-1]
	for _, i := range tokens {
		s.cursor[i].role = Ingredient
	}
	for i := s.first; i < s.last; i++ {
		if s.cursor[i].role == Unread {
			s.cursor[i].role = Small
		}
	}
}
