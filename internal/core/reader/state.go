package reader

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/pantry"
)

// stateBases are the words in an ingredient's name that show it is in a state, by the word for that state.
var stateBases = map[string][]string{"roasted": {"roast", "toast"}, "toasted": {"toast", "roast"}, "baked": {"roast",
	"bak"},
	"charred": {"char"}, "blackened": {"char"}, "grilled": {"grill", "char"}, "smoked": {"smok"},
	"cooked": {"cook", "boil", "steam", "roast"}, "boiled": {"boil", "cook"}, "steamed": {"steam", "cook", "boil"},
	"simmered": {"boil", "cook"}, "soaked": {"soak", "boil", "cook"}, "frozen": {"froz"}, "dried": {"dr"},
	"pasteurised": {"pasteur"}, "pasteurized": {"pasteur"}, "confit": {"confit", "oil"}, "pickled": {"pickl", "brin"},
	"caramelised": {"caramel"}, "caramelized": {"caramel"}, "fried": {"fri"}, "fermented": {"ferment"}}

// askState asks if the words name a state that the ingredient is not in and no step of the shop leads to, and if it is
// the dangerous raw kind of something also stocked pasteurised. Neither is assumed silently.
func (b *Book) askState(l *Line, s *segment, prep prepared) {
	g := b.Ingredients[l.Ingredient]
	if g == nil {
		return
	}
	for _, state := range s.done {
		if b.leadsNowhere(l, prep, state) {
			l.askStep(g, state)
			return
		}
	}
	for _, t := range s.cursor {
		if t.traits&tellsState != 0 && t.role != Note && t.role != Corrected && b.leadsNowhere(l, prep, t.low) {
			l.askStep(g, t.text)
			return
		}
	}
	if slices.Contains(g.Flags, "raw_vegetable") || slices.Contains(g.Flags, "raw_allium") {
		if at := slices.IndexFunc(s.cursor, func(t token) bool {
			return (t.low == "ground" || t.low == "powdered") && t.role != Note
		}); at >= 0 && at < s.first { // ground ginger is a spice, and not the root
			l.Questions = append(l.Questions, Question{Code: "state", Options: []string{"ok"},
				Text: fmt.Sprintf("“%s” may be the dried spice. It was taken as %s. Is that right?", s.cursor[at].text,
					strings.ToLower(g.Name))})
		}
	}
	b.askRaw(l, s, g)
	b.askBought(l, s, g)
}

// namedInState reports whether the name that was said has its state in it.
func (s *segment) namedInState() bool {
	return slices.ContainsFunc(s.cursor, func(t token) bool { return t.role == Ingredient && stateWords[t.low] })
}

// leadsNowhere reports whether an ingredient is not in a state that was named, and no step of the shop leads there.
func (b *Book) leadsNowhere(l *Line, prep prepared, state string) bool {
	bases := stateBases[state]
	if bases == nil || b.inState(l.Ingredient, bases) {
		return false
	}
	if prep.via == nil {
		return true
	}
	return !b.inState(prep.via.Input, append(slices.Clone(bases), "dry")) &&
		!slices.Contains(prepWords[state], prep.via.Name)
}

func (l *Line) askStep(g *pantry.Ingredient, state string) {
	l.Questions = append(l.Questions, Question{Code: "state", Options: []string{"ok"},
		Text: fmt.Sprintf("“%s” leads to no step of yours, and no %s is in the pantry so. Is it right as it is?", state,
			strings.ToLower(g.Name))})
}

// askRaw asks whether an egg is raw or pasteurised where the words do not say it: neither is taken in silence.
func (b *Book) askRaw(l *Line, s *segment, g *pantry.Ingredient) {
	raw := slices.Contains(g.Flags, "raw_egg") && !says(s.cursor, "raw")
	shell := slices.Contains(g.Flags, "pasteurised_egg") && s.amount != nil && s.amount.Unit == "" &&
		!slices.ContainsFunc(s.cursor, func(t token) bool {
			return strings.HasPrefix(t.low, "pasteur") || t.low == "liquid" || t.low == "carton" || t.low == "bottled"
		})
	if !raw && !shell {
		return
	}
	var safe []Candidate
	for _, n := range b.Index.Near(g.Name + " pasteurised") {
		if o := b.Ingredients[n.ID]; o != nil && slices.Contains(o.Flags, "pasteurised_egg") &&
			strings.HasPrefix(o.ID, strings.TrimSuffix(strings.TrimSuffix(g.ID, "_raw"), "_pasteurised")) {
			safe = append(safe, n)
		}
	}
	l.Questions = append(l.Questions, Question{Code: "state", Take: safe, Options: []string{"ok"},
		Text: "Raw from the shell, or pasteurised? Raw egg needs more care than any jar of it keeps."})
}

// askBought asks whether something is bought in acid or made here without it, if the words do not say: a jarred roasted
// pepper is sour, a home-charred one is not (handbook 02, preparations).
func (b *Book) askBought(l *Line, s *segment, g *pantry.Ingredient) {
	if !strings.Contains(strings.ToLower(g.Name), "jarred") || slices.ContainsFunc(s.cursor, func(t token) bool {
		return boughtWords[t.low]
	}) {
		return
	}
	var homely []Candidate
	for i := range b.Preparations {
		o := b.Ingredients[b.Preparations[i].Output]
		if o != nil && o.ID != g.ID && o.StateOf == "" && b.kind(o.ID) == b.kind(g.ID) {
			homely = append(homely, Candidate{o.ID, o.Name})
		}
	}
	if len(homely) > 0 {
		l.Questions = append(l.Questions, Question{Code: "state", Take: homely, Options: []string{"ok"},
			Text: "From a jar, or made here? It was taken as jarred, which is sour; one made here is not."})
	}
}

// boughtWords say that something comes out of a jar.
var boughtWords = words("boughtWords")

// inState reports whether an ingredient is in a state, by its name.
func (b *Book) inState(id string, bases []string) bool {
	name := plain(id + " " + b.name(id))
	return slices.ContainsFunc(bases, func(base string) bool { return strings.Contains(name, base) })
}
