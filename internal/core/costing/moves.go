package costing

import (
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
)

// Move is what a jar costs more where one thing is a tenth less, and a tenth more, than it is.
type Move struct {
	Kind string       `json:"kind"` // as in Change
	Of   string       `json:"of"`
	Name string       `json:"name"`
	Less amount.Exact `json:"less"` // at 10 % less
	More amount.Exact `json:"more"` // at 10 % more
}

// swing is how far it moves a jar.
func (m Move) swing() amount.Exact {
	a, b := size(m.Less), size(m.More)
	if a.Cmp(b) > 0 {
		return a
	}
	return b
}

// tenth is by how much things are moved, in percent (handbook 07).
const tenth = 10

// Moves tells what moves the cost of a jar in a batch of so many: each price, yield and rate, and the fill, one at a
// time by a tenth, the greatest first. What moves nothing is left out.
func (p Product) Moves(jars int) ([]Move, error) {
	w := p.bowl()
	p.base = &w
	base := p.at(w, jars).PerJar
	out := []Move{}
	for _, m := range p.movable() {
		for _, side := range []int{-tenth, tenth} {
			bent, err := p.With(Change{Kind: m.Kind, Of: m.Of, Percent: amount.Pct(float64(side))})
			if err != nil {
				return nil, err
			}
			d := bent.at(bent.bowl(), jars).PerJar.Minus(base)
			if side < 0 {
				m.Less = d
			} else {
				m.More = d
			}
		}
		if m.swing().IsPositive() {
			out = append(out, m)
		}
	}
	slices.SortStableFunc(out, func(a, b Move) int { return b.swing().Cmp(a.swing()) })
	return out, nil
}

// movable is everything that could move the cost, each once.
func (p Product) movable() []Move {
	list := []Move{}
	seen := map[string]bool{}
	add := func(kind, of, name string) {
		if !seen[kind+of] {
			seen[kind+of] = true
			list = append(list, Move{Kind: kind, Of: of, Name: name})
		}
	}
	walked := map[*formula.Component]bool{}
	var walk func(nodes []formula.Node)
	walk = func(nodes []formula.Node) {
		for i := range nodes {
			n := &nodes[i]
			if c := n.Component; c != nil {
				if !walked[c] {
					walked[c] = true
					walk(c.Parts)
				}
				continue
			}
			u, err := p.Terms.Rate(n.Ingredient, n.Line.Preparation)
			if err != nil {
				continue
			}
			for _, id := range u.Buys {
				add(ChangePrice, id, p.name(id))
			}
			if len(u.Steps) == 0 && n.Ingredient.Usable() != 100 {
				add(ChangeYield, n.Ingredient.ID, n.Name)
			}
			for i, id := range u.Steps {
				add(ChangeYield, id, n.Name+": "+u.Way[i])
			}
		}
	}
	walk(p.nodes)
	walk(p.onTop)
	for _, item := range p.Version.Packaging {
		if item.Item != "" {
			add(ChangePrice, item.Item, p.name(item.Item))
		} else {
			add(ChangeItem, item.Name, item.Name)
		}
	}
	add(ChangeHands, "", "an hour of hands")
	add(ChangeRooms, "", "kitchen and overhead")
	add(ChangeFill, "", "the fill of a jar")
	return list
}

// name is what an ingredient is called.
func (p Product) name(id string) string {
	if g := p.Library.Ingredients[id]; g != nil {
		return g.Name
	}
	if g := p.Prices.ingredient(id); g != nil {
		return g.Name
	}
	return id
}
