package reader

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
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
	said := make([]token, 0, len(s.cursor)+len(s.done))
	for _, word := range s.done {
		said = append(said, token{text: word, low: word})
	}
	for _, t := range append(said, s.cursor...) {
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
	b.askRaw(l, s, g)
	b.askBought(l, s, g)
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

// askBought asks whether something is bought in acid or made here without it, where the words do not say it: a jarred
// roasted pepper is sour and a home-charred one is not (handbook 02, preparations).
func (b *Book) askBought(l *Line, s *segment, g *pantry.Ingredient) {
	if !strings.Contains(strings.ToLower(g.Name), "jarred") || slices.ContainsFunc(s.cursor, func(t token) bool {
		return boughtWords[t.low]
	}) {
		return
	}
	var homely []Candidate
	for i := range b.Preparations {
		o := b.Ingredients[b.Preparations[i].Output]
		if o != nil && o.ID != g.ID && o.StateOf == "" && o.Labels[law.GB] == g.Labels[law.GB] {
			homely = append(homely, Candidate{o.ID, o.Name})
		}
	}
	if len(homely) > 0 {
		l.Questions = append(l.Questions, Question{Code: "state", Take: homely, Options: []string{"ok"},
			Text: "From a jar, or made here? It was taken as jarred, which is sour; one made here is not."})
	}
}

// boughtWords say that something comes out of a jar.
var boughtWords = wordSet("jar jars jarred tin tins tinned can canned bought shop-bought shop bottled marinated")

// inState reports whether an ingredient is in a state, by its name.
func (b *Book) inState(id string, bases []string) bool {
	name := plain(id + " " + b.name(id))
	return slices.ContainsFunc(bases, func(base string) bool { return strings.Contains(name, base) })
}
