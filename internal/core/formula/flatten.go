package formula

import (
	"fmt"
	"slices"
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

// Node is a line and what it refers to: an ingredient, or a component of which the line takes Scale batches.
type Node struct {
	Line       *Line
	Name       string
	Grams      float64
	Ingredient *pantry.Ingredient
	Component  *Component
	Scale      float64
}

// Component is another formula's version resolved once, in the grams of its own reference batch, however often it is
// used.
type Component struct {
	Name    string
	Version Version
	Parts   []Node

	drivenOff float64 // grams of water driven off in making it, components of its own included
	leaves    int
	deepest   []Ref // the longest way down from here, itself first
	within    []Ref // all components below it
}

// DrivenOff is the water, in grams, driven off while making what the line takes of its component.
func (n Node) DrivenOff() float64 {
	if n.Component == nil {
		return 0
	}
	return n.Component.drivenOff * n.Scale
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

// MaxLeaves is how many ingredients a version may come to when all its components are written out.
const MaxLeaves = 5000

// TooManyError says that a version written out to its ingredients is longer than anything that is cooked.
type TooManyError struct{ Leaves int }

func (e TooManyError) Error() string {
	return fmt.Sprintf(
		"with all its components written out this comes to more than %d ingredients; make the components simpler",
		MaxLeaves)
}

// Expand resolves every line of a version down to ingredients, keeping the tree, because the declaration may show
// a component as a compound. Errors: LineError around MissingError, CycleError, DepthError or TooManyError.
func (l Library) Expand(v Version) ([]Node, error) {
	nodes := make([]Node, 0, len(v.Lines))
	x := expander{l, nil}
	path := []Ref{{v.Formula, v.Number}}
	leaves := 0
	for i := range v.Lines {
		n, err := x.line(&v.Lines[i], path)
		if err == nil {
			if leaves += n.leaves(); leaves > MaxLeaves {
				err = TooManyError{leaves}
			}
		}
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

func (n Node) leaves() int {
	if n.Component == nil {
		return 1
	}
	return n.Component.leaves
}

// OnTop resolves the toppings, with the grams that go onto one jar. Errors: MissingError.
func (l Library) OnTop(v Version) ([]Node, error) {
	nodes := make([]Node, 0, len(v.Toppings))
	for _, t := range v.Toppings {
		g, ok := l.Ingredients[t.Ingredient]
		if !ok {
			return nil, MissingError{What: fmt.Sprintf("ingredient %q on top", t.Ingredient)}
		}
		nodes = append(nodes, Node{Line: &Line{ID: t.ID, Ingredient: t.Ingredient, Grams: t.Grams}, Name: g.Name,
			Grams: t.Grams.Float(), Ingredient: g})
	}
	return nodes, nil
}

// expander resolves each component once.
type expander struct {
	Library
	known map[Ref]*Component
}

func (x *expander) line(line *Line, path []Ref) (Node, error) {
	grams := line.Grams.Float()
	if line.Component == nil {
		g, ok := x.Ingredients[line.Ingredient]
		if !ok {
			return Node{}, MissingError{What: fmt.Sprintf("ingredient %q", line.Ingredient)}
		}
		return Node{Line: line, Name: g.Name, Grams: grams, Ingredient: g}, nil
	}
	ref := *line.Component
	c, err := x.component(ref, path)
	if err != nil {
		return Node{}, err
	}
	n := Node{Line: line, Name: c.Name, Grams: grams, Component: c}
	if mixed := c.Version.MixedGrams().Float(); mixed > 0 {
		n.Scale = grams / mixed
	}
	return n, nil
}

func (x *expander) component(ref Ref, path []Ref) (*Component, error) {
	for _, p := range path {
		if p.Formula == ref.Formula {
			return nil, CycleError{x.pathNames(append(path, ref))}
		}
	}
	deeper := append(append(make([]Ref, 0, len(path)+1), path...), ref)
	if len(path) > MaxDepth {
		return nil, DepthError{x.pathNames(deeper)}
	}
	if c, have := x.known[ref]; have {
		for _, below := range c.within {
			if slices.ContainsFunc(path, func(p Ref) bool { return p.Formula == below.Formula }) {
				return nil, CycleError{x.pathNames(append(deeper, below))}
			}
		}
		if len(path)+len(c.deepest)-1 > MaxDepth {
			return nil, DepthError{x.pathNames(append(append([]Ref{}, path...), c.deepest...))}
		}
		return c, nil
	}
	v, ok := x.Versions[ref]
	if !ok {
		return nil, MissingError{What: "component " + ref.String()}
	}
	c := &Component{Name: x.Name(ref.Formula), Version: v, Parts: make([]Node, 0, len(v.Lines)),
		drivenOff: v.WaterDrivenOff.Float(), deepest: []Ref{ref}}
	for i := range v.Lines {
		sub := &v.Lines[i]
		n, err := x.line(sub, deeper)
		if err != nil {
			return nil, err
		}
		c.Parts = append(c.Parts, n)
		c.leaves = min(c.leaves+n.leaves(), MaxLeaves+1)
		c.drivenOff += n.DrivenOff()
		if n.Component == nil {
			continue
		}
		c.within = append(append(c.within, *sub.Component), n.Component.within...)
		if len(n.Component.deepest) >= len(c.deepest) {
			c.deepest = append([]Ref{ref}, n.Component.deepest...)
		}
	}
	if x.known == nil {
		x.known = map[Ref]*Component{}
	}
	x.known[ref] = c
	return c, nil
}

// Uses reports whether an ingredient may be in a version: in a line, a group or on top, at whatever depth. What the
// library lacks counts as not used.
func (l Library) Uses(v Version, ingredient string) bool { return l.uses(v, ingredient, 0) }

func (l Library) uses(v Version, ingredient string, depth int) bool {
	if depth > MaxDepth {
		return false
	}
	for _, t := range v.Toppings {
		if t.Ingredient == ingredient {
			return true
		}
	}
	for _, line := range v.Lines {
		if line.Ingredient == ingredient || slices.Contains(line.AnyOf, ingredient) {
			return true
		}
		if line.Component == nil {
			continue
		}
		if c, have := l.Versions[*line.Component]; have && l.uses(c, ingredient, depth+1) {
			return true
		}
	}
	return false
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
	count := 0
	for i := range nodes {
		count += nodes[i].leaves()
		drivenOff += nodes[i].DrivenOff()
	}
	return appendLeaves(make([]Leaf, 0, count), nodes, 1), drivenOff
}

func appendLeaves(out []Leaf, nodes []Node, scale float64) []Leaf {
	for i := range nodes {
		n := &nodes[i]
		if n.Ingredient != nil {
			out = append(out, Leaf{n.Ingredient, n.Grams * scale})
		} else {
			out = appendLeaves(out, n.Component.Parts, scale*n.Scale)
		}
	}
	return out
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
		m.add(l.Ingredient, l.Grams)
	}
	m.Water = max(0, m.Water-drivenOff)
	return m
}

// MakeUp is what the node's grams are made of.
func (n *Node) MakeUp() MakeUp {
	var m MakeUp
	m.addNode(n, 1)
	m.Water = max(0, m.Water-n.DrivenOff())
	return m
}

func (m *MakeUp) addNode(n *Node, scale float64) {
	if n.Ingredient != nil {
		m.add(n.Ingredient, n.Grams*scale)
		return
	}
	for i := range n.Component.Parts {
		m.addNode(&n.Component.Parts[i], scale*n.Scale)
	}
}

func (m *MakeUp) add(g *pantry.Ingredient, grams float64) {
	c, k := &g.Composition, grams/100
	fat, water, acid, salt, sugar := c.Fat, c.Water, g.Acids.Total(), c.Salt(), c.Sugars
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
