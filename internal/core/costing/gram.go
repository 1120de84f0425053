package costing

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// collector gathers costs. What a component's batch costs is worked out once, however often it is used.
type collector struct {
	terms                  Terms
	version                formula.Version
	missing, stale, unsaid []string
	known                  map[*formula.Component]gram
	brief                  bool // only what a jar costs is asked, not where it is lost
}

// gram is what a gram of something costs, and the minutes of hands that the steps before the bowl ask for it. Those of
// a component are in its cost already. complete: no price is missing.
type gram struct {
	perGram  amount.Exact
	minutes  amount.Exact
	cost     unit
	complete bool
}

// unit is the cost of an ingredient's gram.
type unit struct{ pantry.UnitCost }

// via names the steps on the way.
func (u unit) via() string {
	if len(u.Way) == 0 {
		return u.Through
	}
	return strings.Join(u.Way, ", ")
}

// node returns what a line's gram costs: of an ingredient, or of a component all the way down.
func (c *collector) node(n *formula.Node) gram {
	if n.Ingredient != nil {
		return c.ingredient(n)
	}
	return c.component(n.Component)
}

// component is the cost of a component's gram as mixed, made and lost: of the batch that its version writes down, in
// one load, with its hands. It is filled into no jar.
func (c *collector) component(p *formula.Component) gram {
	if g, have := c.known[p]; have {
		return g
	}
	out := gram{complete: true}
	v := p.Version
	total, minutes := amount.Exact{}, v.MinutesPerBatch.Exact().Plus(v.MinutesPerLoad.Exact())
	for i := range p.Parts {
		x, grams := c.node(&p.Parts[i]), p.Parts[i].Line.Grams.Exact()
		total = total.Plus(x.perGram.Times(grams))
		minutes = minutes.Plus(x.minutes.Times(grams))
		out.complete = out.complete && x.complete
	}
	if !minutes.IsPositive() || !v.LabourPerHour.IsPositive() {
		c.unsaid = note(c.unsaid, "hands of "+p.Name)
	}
	if finished := v.FinishedGrams(); finished.IsPositive() {
		out.perGram = total.Plus(c.workOf(v, minutes)).Over(finished)
	}
	if c.known == nil {
		c.known = map[*formula.Component]gram{}
	}
	c.known[p] = out
	return out
}

// workOf is what hands, kitchen and oven cost a component's batch.
func (c *collector) workOf(v formula.Version, minutes amount.Exact) amount.Exact {
	rooms := minutes.Times(c.terms.Kitchen.Exact()).Plus(v.OvenMinutes.Exact().Times(c.terms.Oven.Exact())).
		Over(minutesInHour).Plus(v.OverheadPerBatch.Exact())
	return minutes.Times(c.terms.labour(v)).Over(minutesInHour).Plus(rooms.Times(once(c.terms.room)))
}

// HandsPerGram is what hands, kitchen and overhead cost a gram of a component's own batch, whose lines were expanded.
func HandsPerGram(v formula.Version, nodes []formula.Node, t Terms) amount.Exact {
	finished := v.FinishedGrams()
	if !finished.IsPositive() {
		return amount.Exact{}
	}
	c := collector{terms: t, version: v}
	minutes := v.MinutesPerBatch.Exact().Plus(v.MinutesPerLoad.Exact())
	for i := range nodes {
		minutes = minutes.Plus(c.node(&nodes[i]).minutes.Times(nodes[i].Line.Grams.Exact()))
	}
	return c.workOf(v, minutes).Over(finished)
}

func (c *collector) ingredient(n *formula.Node) gram {
	g := n.Ingredient
	if g.Has(pantry.FlagWater) && len(g.Offers) == 0 {
		return gram{complete: true} // tap water without an offer costs nothing worth a line
	}
	u, err := c.terms.Rate(g, n.Line.Preparation)
	if err != nil {
		c.missing = note(c.missing, missingNote(g, err))
		return gram{}
	}
	c.old(g, u)
	return gram{perGram: u.PerGram, minutes: u.Minutes, cost: unit{u}, complete: true}
}

// old notes a price that is.
func (c *collector) old(g *pantry.Ingredient, u pantry.UnitCost) {
	if u.Stale {
		c.stale = note(c.stale, fmt.Sprintf("%s (%d days old)", g.Name, u.AgeDays))
	}
}

func missingNote(g *pantry.Ingredient, err error) string {
	if errors.Is(err, pantry.ErrNoPackGrams) {
		return g.Name + " (pack cannot be turned into grams)"
	}
	return g.Name
}

func note(list []string, s string) []string {
	if slices.Contains(list, s) {
		return list
	}
	return append(list, s)
}
