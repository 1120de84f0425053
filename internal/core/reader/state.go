package reader

import (
	"fmt"
	"slices"
	"strings"
)

// stateBases are what an ingredient's name has in it where it is in a state, by the word for the state.
var stateBases = map[string][]string{"roasted": {"roast"}, "toasted": {"toast", "roast"}, "baked": {"roast", "bak"},
	"charred": {"char"}, "blackened": {"char"}, "grilled": {"grill", "char"}, "smoked": {"smok"},
	"cooked": {"cook", "boil", "steam", "roast"}, "boiled": {"boil", "cook"}, "steamed": {"steam", "cook", "boil"},
	"simmered": {"boil", "cook"}, "soaked": {"soak", "boil", "cook"}, "frozen": {"froz"}, "dried": {"dr"},
	"pasteurised": {"pasteur"}, "pasteurized": {"pasteur"}, "confit": {"confit", "oil"}, "pickled": {"pickl", "brin"},
	"caramelised": {"caramel"}, "caramelized": {"caramel"}, "fried": {"fri"}, "fermented": {"ferment"}}

// askState asks where the words name a state that the ingredient is not in and that no step of the shop leads to, and
// where it is the raw and dangerous kind of something that is there pasteurised as well: neither is taken in silence.
func (b *Book) askState(l *Line, s *segment, prep prepared) {
	g := b.Ingredients[l.Ingredient]
	if g == nil {
		return
	}
	for _, t := range s.cursor {
		bases := stateBases[t.low]
		if bases == nil || t.role == Note || t.role == Corrected || b.inState(l.Ingredient, bases) {
			continue
		}
		if prep.via != nil && b.inState(prep.via.Input, append(slices.Clone(bases), "dry")) {
			continue
		}
		if prep.via != nil && slices.ContainsFunc(prepWords[t.low], func(w string) bool { return w == prep.via.Name }) {
			continue
		}
		l.Questions = append(l.Questions, Question{Code: "state", Options: []string{"ok"},
			Text: fmt.Sprintf("“%s” leads to no step of yours, and no %s is in the pantry so. Is it right as it is?",
				t.text, strings.ToLower(g.Name))})
		return
	}
	if !slices.Contains(g.Flags, "raw_egg") || says(s.cursor, "raw") {
		return
	}
	var safe []Candidate
	for _, n := range b.Index.Near(g.Name + " pasteurised") {
		if o := b.Ingredients[n.ID]; o != nil && slices.Contains(o.Flags, "pasteurised_egg") &&
			strings.HasPrefix(o.ID, strings.TrimSuffix(g.ID, "_raw")) {
			safe = append(safe, n)
		}
	}
	l.Questions = append(l.Questions, Question{Code: "state", Take: safe, Options: []string{"ok"},
		Text: "Raw from the shell, or pasteurised? Raw egg needs more care than any jar of it keeps."})
}

// inState reports whether an ingredient is in a state, by its name.
func (b *Book) inState(id string, bases []string) bool {
	name := plain(id + " " + b.name(id))
	return slices.ContainsFunc(bases, func(base string) bool { return strings.Contains(name, base) })
}
