package reader

import (
	"cmp"
	"slices"
)

// verbStates are what somebody does to something before it goes in, and the state it is in then: I toast the peanuts.
var verbStates = map[string]string{
	"toast": "toasted", "roast": "roasted", "char": "charred", "peel": "peeled", "pit": "pitted", "stone": "pitted",
	"drain": "drained", "rinse": "rinsed", "strain": "strained", "soak": "soaked", "boil": "boiled",
	"steam": "steamed", "blanch": "blanched", "zest": "zested", "deseed": "deseeded", "core": "cored",
	"trim": "trimmed",
	"hull": "hulled", "skin": "skinned", "squeeze": "squeezed", "juice": "juiced", "cook": "cooked",
}

// doing reads what is done to something, said before its amount or name: then I squeeze two lemons. What was measured
// is the raw thing.
func (s *segment) doing() {
	for i := range s.cursor {
		state := verbStates[s.cursor[i].low]
		if state == "" || !s.free(i) || s.is(i-1, "a", "the", "of", "to") {
			continue
		}
		states := []string{state}
		next := i + 1
		for s.is(next, "and", "&", ",") && next+1 < len(s.cursor) && (verbStates[s.cursor[next+1].low] != "" ||
			cookingVerbs[s.cursor[next+1].low]) { // peel and chop
			states = append(states, verbStates[s.cursor[next+1].low])
			next += 2
		}
		for s.is(next, "the", "your", "about", "those", "my", "up", "some", "all", "in") {
			next++
		}
		_, _, number := s.number(next)
		if !number && !s.is(next, "a", "an") && !s.is(next-1, "the", "your", "those", "my", "some") {
			continue
		}
		for _, state := range states {
			switch state {
			case "":
			case "squeezed", "juiced", "zested":
				if fruit := map[string]string{"zested": "zest"}[state]; !slices.Contains(s.fruit, cmp.Or(fruit,
					"juice")) {
					s.fruit = append(s.fruit, cmp.Or(fruit, "juice"))
				}
			default:
				s.prep, s.done, s.prepLate = append(s.prep, state), append(s.done, state), true
			}
		}
		s.mark(i, next, Preparation)
		return
	}
}
