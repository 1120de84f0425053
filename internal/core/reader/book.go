package reader

import (
	"slices"
	"strings"
	"sync"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// Book is what a reading rests on: the pantry, its measures and preparations, and what the shop means by a spoon.
type Book struct {
	Index        *Index
	Ingredients  map[string]*pantry.Ingredient
	Measures     pantry.Measures
	Preparations []pantry.Preparation
	Spoons       amount.Spoons
	Learned      []Learned // what the shop has told once and for all; the index knows its names
	Made         []Made    // the shop's own products, that may go into others
	once         sync.Once
	outputs      map[string][]*pantry.Preparation // the steps by what comes out of them
	kinds        map[string]string                // what ingredients are called on labels
}

func (b *Book) name(id string) string {
	if g := b.Ingredients[id]; g != nil {
		return g.Name
	}
	for _, m := range b.Made {
		if m.ID() == id {
			return m.Name
		}
	}
	return id
}

// makers are the preparations whose output an ingredient is, the shop's preferred one first.
func (b *Book) makers(id string) []*pantry.Preparation {
	b.once.Do(b.prepare)
	return b.outputs[id]
}

// prepare finds once what every reading asks: which step makes what, and what states of one thing have in common.
func (b *Book) prepare() {
	b.outputs = map[string][]*pantry.Preparation{}
	for i := range b.Preparations {
		p := &b.Preparations[i]
		b.outputs[p.Output] = append(b.outputs[p.Output], p)
	}
	for _, list := range b.outputs {
		slices.SortStableFunc(list, func(x, y *pantry.Preparation) int {
			return btoi(y.Preferred) - btoi(x.Preferred)
		})
	}
	b.kinds = map[string]string{}
	for id, g := range b.Ingredients {
		names := make([]string, 0, 2)
		for _, l := range law.All() {
			names = append(names, g.Labels[l.Regime])
		}
		if b.kinds[id] = id; strings.Trim(strings.Join(names, "/"), "/") != "" {
			b.kinds[id] = strings.Join(names, "/")
		}
	}
	for _, m := range b.Made {
		b.kinds[m.ID()] = m.ID()
	}
}

// prepWords name the preparations that a word of the kitchen may mean.
var prepWords = map[string][]string{
	"toasted": {"toast", "roast_and_peel"}, "roasted": {"roast", "roast_and_peel", "char_and_peel", "toast"},
	"baked":   {"roast", "roast_and_peel"},
	"charred": {"char_and_peel"}, "blackened": {"char_and_peel"}, "peeled": {"peel"},
	"skinned": {"peel", "roast_and_peel", "blanch_and_skin"},
	"pitted":  {"pit"}, "stoned": {"pit"}, "drained": {"drain", "drain_and_rinse"}, "rinsed": {"drain_and_rinse"},
	"strained": {"strain_overnight"}, "hung": {"strain_overnight"}, "destemmed": {"destem"}, "stemmed": {"destem"},
	"picked": {"destem"}, "hulled": {"destem"}, "stripped": {"destem"},
	"juiced": {"juice", "zest_then_juice"}, "zested": {"zest"}, "grated": {"grate"}, "soaked": {"soak"},
	"cooked": {"soak_and_cook", "steam", "roast_and_peel"}, "boiled": {"soak_and_cook", "roast_and_peel"},
	"simmered": {"soak_and_cook"}, "steamed": {"steam"},
	"blanched": {"blanch_and_squeeze", "blanch_and_skin"}, "squeezed": {"blanch_and_squeeze", "press"},
	"pressed":  {"press"},
	"deseeded": {"deseed"}, "seeded": {"deseed"}, "cored": {"peel"}, "trimmed": {"trim"}, "confit": {"confit"},
}

// cutWords change no weight (handbook 02).
var cutWords = words("cutWords")

// shortens the weight between what was measured and what goes into the bowl.
var takesAway = map[string]bool{"peel": true, "pit": true, "trim": true, "destem": true, "deseed": true, "toast": true,
	"roast": true, "roast_and_peel": true, "char_and_peel": true,
	"toast_skins_on": true, "blanch_and_skin": true,
	"soak_and_cook": true, "steam": true, "strain_overnight": true, "press": true, "blanch_and_squeeze": true,
	"soak": true, "confit": true}

// prepared is what the preparation words of a line mean for an ingredient.
type prepared struct {
	id     string              // what goes into the bowl
	via    *pantry.Preparation // the step, where there is one
	before bool                // the amount was said of the input
	of     string              // what was said
}

// stateWords say in what state an ingredient is; it is another ingredient by them, or comes out of a step.
var stateWords = words("stateWords")

// attach finds the preparation that the words mean for the ingredient; later says that they stood behind the comma, so
// that the amount was measured before. Of several the one that most of the words name counts, as soaked and boiled.
func (b *Book) attach(id string, words []string, later bool) prepared {
	best, score := prepared{id: id}, 0
	for _, w := range words {
		for _, step := range prepWords[w] {
			for i := range b.Preparations {
				p := &b.Preparations[i]
				if p.Name != step {
					continue
				}
				var as prepared
				switch {
				case p.Input == id, b.stateOf(p.Input) == id && p.Output != id:
					as = prepared{id: p.Output, via: p, before: later}
				case p.Output == id:
					as = prepared{id: id, via: p, before: later && takesAway[step] && w != "drained"}
				default:
					continue
				}
				if n := named(step, words); n > score {
					best, score = as, n
				}
			}
		}
	}
	return best
}

// named counts the words that a step's name has in it, one at least.
func named(step string, words []string) int {
	n := 0
	for _, w := range words {
		for _, s := range prepWords[w] {
			if s == step || len(w) > 4 && strings.Contains(step, strings.TrimSuffix(w, "ed")) {
				n++
				break
			}
		}
	}
	return max(n, 1)
}

func (b *Book) stateOf(id string) string {
	if g := b.Ingredients[id]; g != nil {
		return g.StateOf
	}
	return ""
}

// fruitSteps finds the steps that take juice or zest from a fruit. If both are wanted, a step that gives both is
// preferred.
func (b *Book) fruitStep(fruit, want string) (out string, p *pantry.Preparation, co bool) {
	for i := range b.Preparations {
		q := &b.Preparations[i]
		if q.Input != fruit {
			continue
		}
		switch {
		case q.Name == "zest_then_juice" && want == "juice":
			return q.Output, q, false
		case q.Name == "zest_then_juice" && want == "zest" && q.CoOutput != "":
			return q.CoOutput, q, true
		}
	}
	for i := range b.Preparations {
		if q := &b.Preparations[i]; q.Input == fruit && q.Name == want {
			return q.Output, q, false
		}
	}
	return fruit, nil, false
}
