package costing

import (
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
)

// WayOption is one way to come to a line: bought as it is, or made by a step. PerJar is what the whole jar costs then,
// hands in it; More is that less what it costs today, nil where a missing price lets nothing be compared.
type WayOption struct {
	Way     string        `json:"way"`
	Name    string        `json:"name"`
	PerJar  amount.Exact  `json:"per_jar"`
	More    *amount.Exact `json:"more"`
	Hands   amount.Exact  `json:"hands"`   // of PerJar
	Minutes amount.Exact  `json:"minutes"` // of hands, a jar
	Missing []string      `json:"missing"`
	Now     bool          `json:"now"` // it is costed so
}

// Ways are the ways to come to one line, at as many grams in the bowl.
type Ways struct {
	Line    string      `json:"line"`
	Name    string      `json:"name"`
	Options []WayOption `json:"options"`
}

// Ways tells for each line that can be come to in several ways what a jar costs by each, at as many grams in the bowl
// (handbook 07). Errors are those of With.
func (p Product) Ways(jars int) ([]Ways, error) {
	out := []Ways{}
	today := p.Jar(jars)
	for i := range p.nodes {
		n := &p.nodes[i]
		w := Ways{Line: n.Line.ID, Name: n.Name}
		if n.Ingredient == nil {
			w.Options = append(w.Options, own(today, jars))
		}
		for _, way := range p.waysTo(n) {
			change := Change{Kind: ChangeWay, Of: n.Line.ID, To: way.Way}
			o, priced, err := p.by(change, i, way, today, jars)
			if err != nil {
				return nil, err
			}
			if priced {
				w.Options = append(w.Options, o)
			}
		}
		for _, id := range p.Kin[n.Line.ID] {
			change := Change{Kind: ChangeSwap, Of: n.Line.ID, To: id}
			o, _, err := p.by(change, i, WayOption{Way: KinWay + id, Name: p.name(id) + " in its place"}, today, jars)
			if err != nil {
				return nil, err
			}
			w.Options = append(w.Options, o)
		}
		if len(w.Options) > 1 {
			out = append(out, w)
		}
	}
	return out, nil
}

// KinWay stands before the id of an ingredient that is taken in a line's place.
const KinWay = "kin:"

// Own is the way of a component: its own batch.
const Own = "own"

// own is the way that a jar is made today, by a component's own batch.
func own(today Stack, jars int) WayOption {
	o := WayOption{Way: Own, Name: "made here, by its own batch", Now: true}
	o.take(today, today, jars)
	return o
}

// take tells what a jar costs by a way, against what it costs today.
func (o *WayOption) take(s, today Stack, jars int) {
	o.PerJar, o.Hands, o.Minutes, o.Missing = s.PerJar, s.Labour, s.Minutes, s.Missing
	if jars > 0 {
		o.Minutes = s.Minutes.Over(amount.Whole(int64(jars)))
	}
	if d, ok := Saves(today, s); ok {
		o.More = &d
	}
}

// waysTo are the ways to come to a line's ingredient: bought, and the steps that make it. A component has none of them.
func (p Product) waysTo(n *formula.Node) []WayOption {
	var out []WayOption
	if n.Ingredient == nil {
		return out
	}
	now, err := p.Terms.Rate(n.Ingredient, n.Line.Preparation)
	if len(n.Ingredient.Offers) > 0 {
		out = append(out, WayOption{Way: Bought, Name: "bought as it is", Now: err == nil && now.Through == ""})
	}
	for _, m := range p.Prices.makers(n.Ingredient.ID) {
		out = append(out, WayOption{Way: m.ID, Name: p.name(m.Input) + ": " + strings.ReplaceAll(m.Name, "_", " "),
			Now: err == nil && now.Through == m.ID})
	}
	return out
}

// by costs a jar with a line come to by one way. It is not priced where the step lacks a price: the shop's own way
// would be shown in its place.
func (p Product) by(change Change, at int, o WayOption, today Stack, jars int) (out WayOption, priced bool, err error) {
	changed, err := p.With(change)
	if err != nil {
		return o, false, err
	}
	if change.Kind == ChangeWay && o.Way != Bought {
		u, err := changed.Terms.Rate(changed.nodes[at].Ingredient, o.Way)
		if err != nil || u.Through != o.Way {
			return o, false, nil
		}
	}
	o.take(changed.Jar(jars), today, jars)
	return o, true, nil
}
