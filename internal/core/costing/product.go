package costing

import (
	"fmt"
	"maps"
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// Product is a version with everything that its cost is worked out of. Nothing that is asked of it changes a price that
// is kept.
type Product struct {
	Version formula.Version
	Library formula.Library
	Terms   Terms
	Prices  *Prices
	// ingredients that are the same food come to in another way, as one in a jar for one charred here or for a
	// component of that name, by the id of the line; they are in the library
	Kin map[string][]string

	nodes, onTop []formula.Node
	price, yield map[string]amount.Exact
	base         *bowl    // what the lines come to before a change that leaves their grams
	touched      []string // ids of the prices and yields that are changed since
}

// bowl is what the lines of the version's own grams come to.
type bowl struct {
	grams         []gram
	cost, minutes amount.Exact
}

// Expanded is the product with its lines expanded. Errors are those of formula.Library.Expand.
func (p Product) Expanded() (Product, error) {
	var err error
	if p.nodes, err = p.Library.Expand(p.Version); err != nil {
		return p, err
	}
	p.onTop, err = p.Library.OnTop(p.Version)
	if p.price == nil {
		p.price, p.yield = map[string]amount.Exact{}, map[string]amount.Exact{}
	}
	return p.rated(), err
}

// rated is the product with its terms answering from its own prices and library.
func (p Product) rated() Product {
	shelf := p.Library.Ingredients
	p.Terms.Item = func(id string) *pantry.Ingredient { return shelf[id] }
	p.Terms.Rate = p.Prices.bent(p.price, p.yield)
	return p
}

// bowl adds the lines up: where only a price or a yield was changed, by what differs.
func (p Product) bowl() bowl {
	c := collector{terms: p.Terms, version: p.Version}
	out := bowl{grams: make([]gram, len(p.nodes))}
	if p.base != nil {
		out.cost, out.minutes = p.base.cost, p.base.minutes
	}
	for i := range p.nodes {
		n := &p.nodes[i]
		was := gram{}
		if p.base != nil {
			if was = p.base.grams[i]; n.Ingredient != nil && !was.cost.rests(p.touched) {
				out.grams[i] = was
				continue
			}
		}
		x, grams := c.node(n), n.Line.Grams.Exact()
		out.grams[i] = x
		if x.perGram.Cmp(was.perGram) != 0 {
			out.cost = out.cost.Plus(x.perGram.Minus(was.perGram).Times(grams))
		}
		if x.minutes.Cmp(was.minutes) != 0 {
			out.minutes = out.minutes.Plus(x.minutes.Minus(was.minutes).Times(grams))
		}
	}
	return out
}

// rests reports whether the cost of a gram comes of one of the prices or yields with these ids.
func (u unit) rests(ids []string) bool {
	return slices.ContainsFunc(ids, func(id string) bool {
		return slices.Contains(u.Buys, id) || slices.Contains(u.Steps, id)
	})
}

// at is the cost of a jar in a batch of so many, without a row for each line: in a batch whose lines all grow with it
// they cost what the bowl does, so many times.
func (p Product) at(w bowl, jars int) Stack {
	if p.Version.ScalesLess() {
		return p.Jar(jars)
	}
	c := collector{terms: p.Terms, version: p.Version, brief: true}
	b := batchOf(p.Version, p.Terms.Made, jars)
	in := inBowl{}
	if total := p.Version.GramsIn(); total.IsPositive() {
		grow := b.in.Over(total.Exact())
		in.cost = w.cost.Times(grow)
		if minutes := w.minutes.Times(grow); minutes.IsPositive() {
			in.steps = []Part{{Key: "steps", Minutes: &minutes}}
		}
	}
	return c.stack(b, in, p.onTop)
}

// Jar is the cost of a jar in a batch of so many.
func (p Product) Jar(jars int) Stack { return jarOf(p.Version, p.nodes, p.onTop, p.Terms, jars) }

// Kinds of a change.
const (
	ChangePrice = "price" // of an ingredient or a part of the pack, by percent
	ChangeYield = "yield" // of an ingredient or a step, by percent
	ChangeHands = "hands" // what an hour of hands costs, by percent
	ChangeRooms = "rooms" // kitchen, oven and overhead, by percent
	ChangeFill  = "fill"  // of a jar, by percent
	ChangeItem  = "item"  // what a part of the pack costs that was typed, by percent; Of is its name
	ChangeJar   = "jar"   // another fill, To grams
	ChangePack  = "pack"  // another part of the pack from the pantry; Of is the name of the one that goes
	ChangeWay   = "way"   // a line made by another step, or bought
	ChangeSwap  = "swap"  // another ingredient in the place of a line's, at as many grams
)

// Change is one difference of a what-if. Percent is what is added: 25 makes it a quarter dearer, -10 a tenth cheaper.
type Change struct {
	Kind    string         `json:"kind"`
	Of      string         `json:"of"`
	Percent amount.Percent `json:"percent"`
	To      string         `json:"to"`
}

// What a change takes off a figure, and adds to it, at most, in percent.
const (
	mostTaken = -95
	mostAdded = 1000
)

// With is the product with changes. Errors: pantry.FieldError, and those of formula.Library.Expand.
func (p Product) With(changes ...Change) (Product, error) {
	p.price, p.yield = maps.Clone(p.price), maps.Clone(p.yield)
	p.Version.Packaging = slices.Clone(p.Version.Packaging)
	p.Version.Lines = slices.Clone(p.Version.Lines)
	for i, c := range changes {
		if c.Percent.Float() < mostTaken || c.Percent.Float() > mostAdded {
			return p, pantry.FieldError{Field: fmt.Sprintf("changes[%d].percent", i),
				Message: "between 95 % less and 1000 % more"}
		}
		if err := p.change(c, amount.More(c.Percent)); err != nil {
			return p, pantry.FieldError{Field: fmt.Sprintf("changes[%d].%s", i, err.Field), Message: err.Message}
		}
	}
	if slices.ContainsFunc(changes, func(c Change) bool { return c.Kind == ChangeWay || c.Kind == ChangeSwap }) {
		p.base = nil
		return p.Expanded()
	}
	return p.rated(), nil // the lines stay as they are
}

func (p *Product) change(c Change, k amount.Exact) *pantry.FieldError {
	bend := func(of map[string]amount.Exact) {
		of[c.Of] = once(of[c.Of]).Times(k)
		p.touched = append(slices.Clip(p.touched), c.Of)
	}
	switch c.Kind {
	case ChangePrice:
		bend(p.price)
	case ChangeYield:
		bend(p.yield)
	case ChangeHands:
		p.Terms.hands = once(p.Terms.hands).Times(k)
	case ChangeRooms:
		p.Terms.room = once(p.Terms.room).Times(k)
	case ChangeFill:
		p.Version.FillGrams = p.Version.FillGrams.Exact().Times(k).Grams()
	case ChangeJar:
		fill, err := amount.ParseNumber(c.To)
		if err != nil || !fill.IsPositive() || fill.Float() > 100_000 {
			return &pantry.FieldError{Field: "to", Message: "grams above 0 and up to 100 kg"}
		}
		p.Version.FillGrams, p.Version.FillML = fill.Grams(), 0
	case ChangeItem, ChangePack:
		return p.changePack(c, k)
	case ChangeWay, ChangeSwap:
		return p.changeLine(c)
	default:
		return &pantry.FieldError{Field: "kind", Message: fmt.Sprintf("%q is no change", c.Kind)}
	}
	return nil
}

func (p *Product) changePack(c Change, k amount.Exact) *pantry.FieldError {
	at := slices.IndexFunc(p.Version.Packaging, func(x formula.PackagingItem) bool { return x.Name == c.Of })
	if at < 0 {
		return &pantry.FieldError{Field: "of", Message: "this is no part of the pack"}
	}
	item := &p.Version.Packaging[at]
	if c.Kind == ChangeItem {
		item.Price = item.Price.Exact().Times(k).Money()
		return nil
	}
	if g := p.Library.Ingredients[c.To]; g == nil || !g.IsPackaging() {
		return &pantry.FieldError{Field: "to", Message: "choose a part of the pack from the pantry"}
	}
	item.Item = c.To
	return nil
}

func (p *Product) changeLine(c Change) *pantry.FieldError {
	at := slices.IndexFunc(p.Version.Lines, func(l formula.Line) bool { return l.ID == c.Of })
	if at < 0 {
		return &pantry.FieldError{Field: "of", Message: "this line is not there"}
	}
	line := &p.Version.Lines[at]
	if c.Kind == ChangeWay {
		line.Preparation = c.To
		return nil
	}
	if g := p.Library.Ingredients[c.To]; g == nil || g.IsPackaging() {
		return &pantry.FieldError{Field: "to", Message: "choose an ingredient"}
	}
	line.Ingredient, line.Component, line.AnyOf, line.Preparation = c.To, nil, nil, ""
	return nil
}

// Saves says how much more one jar costs than another, if the two can be compared. A cost that lacks a price, or leaves
// another part out, never shows a saving (handbook 07).
func Saves(before, after Stack) (more amount.Exact, comparable bool) {
	if len(before.Missing) > 0 || len(after.Missing) > 0 {
		return more, false
	}
	for _, s := range after.Unsaid {
		if !slices.Contains(before.Unsaid, s) {
			return more, false
		}
	}
	for _, s := range before.Unsaid {
		if !slices.Contains(after.Unsaid, s) {
			return more, false
		}
	}
	return after.PerJar.Minus(before.PerJar), true
}
