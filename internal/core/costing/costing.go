// Package costing tells what a jar costs and what it is made of: ingredients, packaging, labour, overhead,
// and what losses carve out of them. Exact inside, never rounded between steps (handbook 07).
package costing

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

var (
	minutesInHour = amount.Whole(60)
	gramsInKilo   = amount.Whole(1000)
)

// Rate answers what one usable gram of an ingredient costs.
type Rate func(*pantry.Ingredient) (pantry.UnitCost, error)

// PriceBy returns a Rate by the shop's rule on a day.
func PriceBy(rule pantry.PriceRule, today time.Time, staleDays int) Rate {
	return func(g *pantry.Ingredient) (pantry.UnitCost, error) { return g.Cost(rule, today, staleDays) }
}

// Remember returns a Rate that asks another once for each ingredient. It belongs to one reading of the pantry, whose
// ingredients do not change, and to one goroutine.
func Remember(rate Rate) Rate {
	type answer struct {
		cost pantry.UnitCost
		err  error
	}
	known := map[*pantry.Ingredient]answer{}
	return func(g *pantry.Ingredient) (pantry.UnitCost, error) {
		a, have := known[g]
		if !have {
			a.cost, a.err = rate(g)
			known[g] = a
		}
		return a.cost, a.err
	}
}

// LineCost is one line's share of a jar's ingredient cost.
type LineCost struct {
	Line    string       `json:"line"`
	Name    string       `json:"name"`
	PerJar  amount.Exact `json:"per_jar"`
	Missing bool         `json:"missing"`
}

// Stack is the cost of one jar. Losses is the part of Ingredients and Packaging that process loss, overfill and broken
// packaging carve out; it is never added on top. AtLeast is set where a price is missing.
type Stack struct {
	PerKgIngredients amount.Exact `json:"per_kg_ingredients"`
	Ingredients      amount.Exact `json:"ingredients"`
	Packaging        amount.Exact `json:"packaging"`
	Labour           amount.Exact `json:"labour"`
	Overhead         amount.Exact `json:"overhead"`
	Losses           amount.Exact `json:"losses"`
	PerJar           amount.Exact `json:"per_jar"`
	AtLeast          bool         `json:"at_least"`
	Missing          []string     `json:"missing"`
	Stale            []string     `json:"stale"`
	Lines            []LineCost   `json:"lines"`
}

// Jar computes the cost of one jar of a version whose lines were expanded to nodes.
func Jar(v formula.Version, nodes []formula.Node, rate Rate) Stack {
	c := collector{rate: rate}
	s := Stack{Missing: []string{}, Stale: []string{}, Lines: make([]LineCost, 0, len(nodes))}
	share := amount.Exact{} // of the finished batch that one jar takes
	finished, jar := v.FinishedGrams(), v.JarGrams()
	if finished.IsPositive() {
		share = jar.Over(finished)
	}
	total := amount.Exact{}
	for i := range nodes {
		n := &nodes[i]
		cost, complete := c.node(n)
		total = total.Plus(cost)
		s.Lines = append(s.Lines, LineCost{Line: n.Line.ID, Name: n.Name, PerJar: cost.Times(share),
			Missing: !complete})
	}
	if finished.IsPositive() {
		s.PerKgIngredients = total.Times(gramsInKilo).Over(finished)
		s.Ingredients = total.Times(share)
	}
	bare := amount.Exact{}
	for _, p := range v.Packaging {
		bare = bare.Plus(p.Price.Exact())
		s.Packaging = s.Packaging.Plus(p.Price.Exact().Times(p.LossPercent.More()))
	}
	s.Labour, s.Overhead = handsAndKitchen(v)
	s.Losses = s.Packaging.Minus(bare).Plus(s.Ingredients.Minus(ingredientsWithoutLoss(v, total)))
	s.PerJar = s.Ingredients.Plus(s.Packaging).Plus(s.Labour).Plus(s.Overhead)
	s.Missing, s.Stale = append(s.Missing, c.missing...), append(s.Stale, c.stale...)
	s.AtLeast = len(s.Missing) > 0
	return s
}

// OnTop adds what goes onto each jar after filling, in grams a jar; nothing of it is lost on the way.
func (s *Stack) OnTop(toppings []formula.Node, rate Rate) {
	c := collector{rate: rate, missing: s.Missing, stale: s.Stale}
	for i := range toppings {
		cost, _ := c.node(&toppings[i])
		s.Ingredients = s.Ingredients.Plus(cost)
		s.PerJar = s.PerJar.Plus(cost)
	}
	s.Missing, s.Stale = c.missing, c.stale
	s.AtLeast = len(s.Missing) > 0
}

// handsAndKitchen spreads minutes and overhead over the jars of the batch that is costed.
func handsAndKitchen(v formula.Version) (labour, overhead amount.Exact) {
	minutes := v.MinutesPerJar.Exact()
	if v.CostingJars > 0 {
		jars := amount.Whole(int64(v.CostingJars))
		minutes = minutes.Plus(v.MinutesPerBatch.Exact().Over(jars))
		overhead = v.OverheadPerBatch.Exact().Over(jars)
	}
	return minutes.Times(v.LabourPerHour.Exact()).Over(minutesInHour), overhead
}

// ingredientsWithoutLoss is what the ingredients of a jar would cost with nothing lost and nothing given away.
func ingredientsWithoutLoss(v formula.Version, total amount.Exact) amount.Exact {
	mixed := v.MixedGrams()
	if !mixed.IsPositive() {
		return amount.Exact{}
	}
	return total.Times(v.FillGrams.Exact().Over(mixed.Exact()))
}

// collector gathers costs. What a component's batch costs is worked out once, however often it is used.
type collector struct {
	rate           Rate
	missing, stale []string
	known          map[*formula.Component]batchCost
}

// batchCost is the cost of a component's gram as mixed, made and lost; complete where no price is missing.
type batchCost struct {
	perGram  amount.Exact
	complete bool
}

// node returns the cost of a line's grams: of an ingredient, or of a component all the way down.
func (c *collector) node(n *formula.Node) (cost amount.Exact, complete bool) {
	if n.Ingredient != nil {
		return c.ingredient(n)
	}
	b := c.component(n.Component)
	return b.perGram.Times(n.Line.Grams.Exact()), b.complete
}

func (c *collector) component(p *formula.Component) batchCost {
	if b, have := c.known[p]; have {
		return b
	}
	b := batchCost{complete: true}
	total := amount.Exact{}
	for i := range p.Parts {
		part, ok := c.node(&p.Parts[i])
		total = total.Plus(part)
		b.complete = b.complete && ok
	}
	if finished := p.Version.FinishedGrams(); finished.IsPositive() {
		b.perGram = total.Over(finished)
	}
	b.perGram = b.perGram.Plus(HandsPerGram(p.Version))
	if c.known == nil {
		c.known = map[*formula.Component]batchCost{}
	}
	c.known[p] = b
	return b
}

// HandsPerGram is labour and overhead per finished gram of a component's own batch.
func HandsPerGram(v formula.Version) amount.Exact {
	batch, minutes := v.FinishedGrams(), v.MinutesPerBatch.Exact()
	if v.CostingJars > 0 && v.FillGrams.IsPositive() {
		batch = v.FillGrams.Times(v.CostingJars).Exact()
		minutes = minutes.Plus(v.MinutesPerJar.Exact().Times(amount.Whole(int64(v.CostingJars))))
	}
	if !batch.IsPositive() {
		return amount.Exact{}
	}
	return minutes.Times(v.LabourPerHour.Exact()).Over(minutesInHour).Plus(v.OverheadPerBatch.Exact()).Over(batch)
}

func (c *collector) ingredient(n *formula.Node) (amount.Exact, bool) {
	g := n.Ingredient
	if g.Has(pantry.FlagWater) && len(g.Offers) == 0 {
		return amount.Exact{}, true // tap water without an offer costs nothing worth a line
	}
	u, err := c.rate(g)
	if err != nil {
		c.missing = note(c.missing, missingNote(g, err))
		return amount.Exact{}, false
	}
	if u.Stale {
		c.stale = note(c.stale, fmt.Sprintf("%s (%d days old)", g.Name, u.AgeDays))
	}
	return u.PerGram.Times(n.Line.Grams.Exact()), true
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

// PriceAtMargin is the price of which the margin is the given percent: cost / (1 - margin). Margin must be below 100.
func PriceAtMargin(cost amount.Exact, percent amount.Percent) (amount.Exact, error) {
	rest := percent.Rest()
	if !rest.IsPositive() || percent.IsNegative() {
		return amount.Exact{}, fmt.Errorf("a margin lies between 0 and 100 %%, not %s", percent)
	}
	return cost.Over(rest), nil
}

// PriceAtMarkUp is cost x (1 + mark-up).
func PriceAtMarkUp(cost amount.Exact, percent amount.Percent) amount.Exact {
	return cost.Times(percent.More())
}
