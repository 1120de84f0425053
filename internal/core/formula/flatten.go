package formula

import (
	"fmt"
	"strings"

	"gallipot/internal/core/pantry"
)

// MaxDepth is how deep components may nest (handbook 03).
const MaxDepth = 6

// Library answers for what a version refers to.
type Library struct {
	Ingredients map[string]*pantry.Ingredient
	Versions    map[Ref]Version
	Names       map[string]string // formula id -> name
}

// Name returns the formula's name, or its id where the library has none.
func (l Library) Name(formula string) string {
	if n := l.Names[formula]; n != "" {
		return n
	}
	return formula
}

// Node is a line with what stands behind it: an ingredient, or a component's own nodes scaled to the line's grams.
type Node struct {
	Line       Line
	Name       string
	Grams      float64
	Ingredient *pantry.Ingredient
	Version    *Version // the component's version
	Parts      []Node   // the component's lines, scaled so that mixed grams equal Grams
	DrivenOff  float64  // grams of water driven off while the component was made
}

// Leaf is an ingredient with the grams that end up in the product.
type Leaf struct {
	Ingredient *pantry.Ingredient
	Grams      float64
}

// CycleError names the path on which a component leads back to itself.
type CycleError struct{ Path []string }

func (e CycleError) Error() string {
	return "a component leads back to itself: " + strings.Join(e.Path, " → ")
}

// DepthError names the path that nests too deep.
type DepthError struct{ Path []string }

func (e DepthError) Error() string {
	return fmt.Sprintf("components nest deeper than %d: %s", MaxDepth, strings.Join(e.Path, " → "))
}

// MissingError names an ingredient or a version that the library lacks. Line is the index in the top version.
type MissingError struct {
	Line int
	What string
}

func (e MissingError) Error() string {
	return fmt.Sprintf("line %d: %s is not there", e.Line+1, e.What)
}

// LineError carries the index of the top version's line at which expansion failed.
type LineError struct {
	Line int
	Err  error
}

func (e LineError) Error() string { return fmt.Sprintf("line %d: %v", e.Line+1, e.Err) }
func (e LineError) Unwrap() error { return e.Err }

// Expand resolves every line of a version down to ingredients, keeping the tree, because the declaration may show
// a component as a compound. Errors: LineError around MissingError, CycleError or DepthError.
func (l Library) Expand(v Version) ([]Node, error) {
	nodes := make([]Node, 0, len(v.Lines))
	path := []Ref{{v.Formula, v.Number}}
	for i, line := range v.Lines {
		n, err := l.expandLine(line, line.Grams.Float(), path)
		if err != nil {
			if m, ok := err.(MissingError); ok {
				m.Line = i
				err = m
			}
			return nil, LineError{i, err}
		}
		nodes = append(nodes, n)
	}
	return nodes, nil
}

// OnTop resolves the toppings, with the grams that go onto one jar. Errors: MissingError.
func (l Library) OnTop(v Version) ([]Node, error) {
	nodes := make([]Node, 0, len(v.Toppings))
	for _, t := range v.Toppings {
		g, ok := l.Ingredients[t.Ingredient]
		if !ok {
			return nil, MissingError{What: fmt.Sprintf("ingredient %q on top", t.Ingredient)}
		}
		nodes = append(nodes, Node{Line: Line{ID: t.ID, Ingredient: t.Ingredient, Grams: t.Grams}, Name: g.Name, Grams: t.Grams.Float(), Ingredient: g})
	}
	return nodes, nil
}

func (l Library) expandLine(line Line, grams float64, path []Ref) (Node, error) {
	if line.Component == nil {
		g, ok := l.Ingredients[line.Ingredient]
		if !ok {
			return Node{}, MissingError{What: fmt.Sprintf("ingredient %q", line.Ingredient)}
		}
		return Node{Line: line, Name: g.Name, Grams: grams, Ingredient: g}, nil
	}
	ref := *line.Component
	for _, p := range path {
		if p.Formula == ref.Formula {
			return Node{}, CycleError{l.pathNames(append(path, ref))}
		}
	}
	if len(path) > MaxDepth {
		return Node{}, DepthError{l.pathNames(append(path, ref))}
	}
	v, ok := l.Versions[ref]
	if !ok {
		return Node{}, MissingError{What: "component " + ref.String()}
	}
	mixed := v.MixedGrams().Float()
	node := Node{Line: line, Name: l.Name(ref.Formula), Grams: grams, Version: &v}
	if mixed <= 0 {
		return node, nil
	}
	scale := grams / mixed
	node.DrivenOff = v.WaterDrivenOff.Float() * scale
	deeper := append(append(make([]Ref, 0, len(path)+1), path...), ref)
	for _, sub := range v.Lines {
		n, err := l.expandLine(sub, sub.Grams.Float()*scale, deeper)
		if err != nil {
			return Node{}, err
		}
		node.Parts = append(node.Parts, n)
	}
	return node, nil
}

func (l Library) pathNames(path []Ref) []string {
	names := make([]string, len(path))
	for i, r := range path {
		names[i] = l.Name(r.Formula)
	}
	return names
}

// Leaves returns all ingredients of the nodes with their grams, and the grams of water driven off inside components.
func Leaves(nodes []Node) (leaves []Leaf, drivenOff float64) {
	for _, n := range nodes {
		if n.Ingredient != nil {
			leaves = append(leaves, Leaf{n.Ingredient, n.Grams})
			continue
		}
		below, off := Leaves(n.Parts)
		leaves = append(leaves, below...)
		drivenOff += off + n.DrivenOff
	}
	return leaves, drivenOff
}

// MakeUp is what a mass is made of, in grams: the fixed order of the make-up bar (handbook 09).
type MakeUp struct {
	Fat   float64 `json:"fat"`
	Water float64 `json:"water"`
	Acid  float64 `json:"acid"`
	Salt  float64 `json:"salt"`
	Sugar float64 `json:"sugar"`
	Other float64 `json:"other"`
}

// Total is the mass the make-up adds to.
func (m MakeUp) Total() float64 { return m.Fat + m.Water + m.Acid + m.Salt + m.Sugar + m.Other }

// Scale returns the make-up of k times the mass.
func (m MakeUp) Scale(k float64) MakeUp {
	return MakeUp{m.Fat * k, m.Water * k, m.Acid * k, m.Salt * k, m.Sugar * k, m.Other * k}
}

// MakeUpOf sums the make-up of leaves less water driven off. What the composition does not name counts as other solids.
func MakeUpOf(leaves []Leaf, drivenOff float64) MakeUp {
	var m MakeUp
	for _, l := range leaves {
		c, k := l.Ingredient.Composition, l.Grams/100
		fat, water, acid, salt, sugar := c.Fat, c.Water, l.Ingredient.Acids.Total(), c.Salt(), c.Sugars
		named := fat + water + acid + salt + sugar
		shrink := 1.0
		if named > 100 { // tables round each figure on its own; the parts must not exceed the whole
			shrink = 100 / named
		}
		m.Fat += fat * k * shrink
		m.Water += water * k * shrink
		m.Acid += acid * k * shrink
		m.Salt += salt * k * shrink
		m.Sugar += sugar * k * shrink
		m.Other += max(0, 100-named) * k
	}
	m.Water = max(0, m.Water-drivenOff)
	return m
}
