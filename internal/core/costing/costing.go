// Package costing tells what a jar costs and what it is made of: ingredients, packaging, labour, overhead,
// and what losses carve out of them. Exact decimals inside, never rounded between steps (handbook 07).
package costing

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"

	"github.com/shopspring/decimal"
)

var (
	hundred       = decimal.NewFromInt(100)
	minutesInHour = decimal.NewFromInt(60)
	gramsInKilo   = decimal.NewFromInt(1000)
)

const exactPlaces = 24

// Rate answers what one usable gram of an ingredient costs.
type Rate func(pantry.Ingredient) (pantry.UnitCost, error)

// PriceBy returns a Rate by the shop's rule on a day.
func PriceBy(rule pantry.PriceRule, today time.Time, staleDays int) Rate {
	return func(g pantry.Ingredient) (pantry.UnitCost, error) { return g.Cost(rule, today, staleDays) }
}

// LineCost is one line's share of a jar's ingredient cost.
type LineCost struct {
	Line    string       `json:"line"`
	Name    string       `json:"name"`
	PerJar  amount.Money `json:"per_jar"`
	Missing bool         `json:"missing"`
}

// Stack is the cost of one jar. Losses is the part of Ingredients and Packaging that process loss, overfill and broken
// packaging carve out; it is never added on top. AtLeast is set where a price is missing.
type Stack struct {
	PerKgIngredients amount.Money `json:"per_kg_ingredients"`
	Ingredients      amount.Money `json:"ingredients"`
	Packaging        amount.Money `json:"packaging"`
	Labour           amount.Money `json:"labour"`
	Overhead         amount.Money `json:"overhead"`
	Losses           amount.Money `json:"losses"`
	PerJar           amount.Money `json:"per_jar"`
	AtLeast          bool         `json:"at_least"`
	Missing          []string     `json:"missing"`
	Stale            []string     `json:"stale"`
	Lines            []LineCost   `json:"lines"`
}

// Jar computes the cost of one jar of a version whose lines were expanded to nodes.
func Jar(v formula.Version, nodes []formula.Node, rate Rate) Stack {
	c := collector{rate: rate}
	s := Stack{Missing: []string{}, Stale: []string{}, Lines: []LineCost{}}
	share := decimal.Zero // of the finished batch that one jar takes
	finished, jar := v.FinishedGrams().Decimal, v.JarGrams().Decimal
	if finished.IsPositive() {
		share = jar.DivRound(finished, exactPlaces)
	}
	total := decimal.Zero
	for _, n := range nodes {
		cost, complete := c.node(n)
		total = total.Add(cost)
		line := LineCost{Line: n.Line.ID, Name: n.Name, Missing: !complete}
		line.PerJar.Decimal = cost.Mul(share)
		s.Lines = append(s.Lines, line)
	}
	if finished.IsPositive() {
		s.PerKgIngredients.Decimal = total.Mul(gramsInKilo).DivRound(finished, exactPlaces)
		s.Ingredients.Decimal = total.Mul(jar).DivRound(finished, exactPlaces)
	}
	bare := decimal.Zero
	for _, p := range v.Packaging {
		bare = bare.Add(p.Price.Decimal)
		s.Packaging.Decimal = s.Packaging.Add(p.Price.Mul(hundred.Add(p.LossPercent)).Div(hundred))
	}
	s.Labour.Decimal, s.Overhead.Decimal = handsAndKitchen(v)
	s.Losses.Decimal = s.Packaging.Sub(bare).Add(s.Ingredients.Sub(ingredientsWithoutLoss(v, total)))
	s.PerJar.Decimal = s.Ingredients.Add(s.Packaging.Decimal).Add(s.Labour.Decimal).Add(s.Overhead.Decimal)
	s.Missing, s.Stale = append(s.Missing, c.missing...), append(s.Stale, c.stale...)
	s.AtLeast = len(s.Missing) > 0
	return s
}

// OnTop adds what goes onto each jar after filling, in grams a jar; nothing of it is lost on the way.
func (s *Stack) OnTop(toppings []formula.Node, rate Rate) {
	c := collector{rate: rate, missing: s.Missing, stale: s.Stale}
	for _, n := range toppings {
		cost, _ := c.node(n)
		s.Ingredients.Decimal = s.Ingredients.Add(cost)
		s.PerJar.Decimal = s.PerJar.Add(cost)
	}
	s.Missing, s.Stale = c.missing, c.stale
	s.AtLeast = len(s.Missing) > 0
}

// handsAndKitchen spreads minutes and overhead over the jars of the batch that is costed.
func handsAndKitchen(v formula.Version) (labour, overhead decimal.Decimal) {
	minutes := v.MinutesPerJar
	if v.CostingJars > 0 {
		jars := decimal.NewFromInt(int64(v.CostingJars))
		minutes = minutes.Add(v.MinutesPerBatch.DivRound(jars, exactPlaces))
		overhead = v.OverheadPerBatch.DivRound(jars, exactPlaces)
	}
	return minutes.Mul(v.LabourPerHour.Decimal).DivRound(minutesInHour, exactPlaces), overhead
}

// ingredientsWithoutLoss is what the ingredients of a jar would cost with nothing lost and nothing given away.
func ingredientsWithoutLoss(v formula.Version, total decimal.Decimal) decimal.Decimal {
	if !v.MixedGrams().IsPositive() {
		return decimal.Zero
	}
	return total.Mul(v.FillGrams.Decimal).DivRound(v.MixedGrams().Decimal, exactPlaces)
}

type collector struct {
	rate           Rate
	missing, stale []string
}

// node returns the cost of a node's grams: an ingredient's own, or a component's batch cost per finished gram all the way down.
func (c *collector) node(n formula.Node) (cost decimal.Decimal, complete bool) {
	if n.Ingredient != nil {
		return c.ingredient(*n.Ingredient, decimal.NewFromFloat(n.Grams), n)
	}
	complete = true
	for _, p := range n.Parts {
		part, ok := c.node(p)
		cost = cost.Add(part)
		complete = complete && ok
	}
	v := n.Version
	keep := hundred.Sub(v.LossPercent)
	cost = cost.Mul(hundred).DivRound(keep, exactPlaces)
	return cost.Add(componentHands(*v).Mul(decimal.NewFromFloat(n.Grams))), complete
}

// componentHands is labour and overhead per finished gram of a component's own batch.
func componentHands(v formula.Version) decimal.Decimal {
	batch := v.FinishedGrams().Decimal
	minutes := v.MinutesPerBatch
	if v.CostingJars > 0 && v.FillGrams.IsPositive() {
		jars := decimal.NewFromInt(int64(v.CostingJars))
		batch = v.FillGrams.Mul(jars)
		minutes = minutes.Add(v.MinutesPerJar.Mul(jars))
	}
	if !batch.IsPositive() {
		return decimal.Zero
	}
	money := minutes.Mul(v.LabourPerHour.Decimal).DivRound(minutesInHour, exactPlaces).Add(v.OverheadPerBatch.Decimal)
	return money.DivRound(batch, exactPlaces)
}

func (c *collector) ingredient(g pantry.Ingredient, grams decimal.Decimal, n formula.Node) (decimal.Decimal, bool) {
	if len(n.Line.ID) > 0 && n.Line.Grams.Float() == n.Grams {
		grams = n.Line.Grams.Decimal // the typed grams, exact
	}
	if g.Has(pantry.FlagWater) && len(g.Offers) == 0 {
		return decimal.Zero, true // tap water without an offer costs nothing worth a line
	}
	u, err := c.rate(g)
	if err != nil {
		c.missing = note(c.missing, missingNote(g, err))
		return decimal.Zero, false
	}
	if u.Stale {
		c.stale = note(c.stale, fmt.Sprintf("%s (%d days old)", g.Name, u.AgeDays))
	}
	return u.PerGram.Mul(grams), true
}

func missingNote(g pantry.Ingredient, err error) string {
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
func PriceAtMargin(cost amount.Money, percent decimal.Decimal) (amount.Money, error) {
	if percent.GreaterThanOrEqual(hundred) || percent.IsNegative() {
		return amount.Money{}, fmt.Errorf("a margin lies between 0 and 100 %%, not %s", percent)
	}
	return amount.Money{Decimal: cost.Mul(hundred).DivRound(hundred.Sub(percent), exactPlaces)}, nil
}

// PriceAtMarkUp is cost x (1 + mark-up).
func PriceAtMarkUp(cost amount.Money, percent decimal.Decimal) amount.Money {
	return amount.Money{Decimal: cost.Mul(hundred.Add(percent)).Div(hundred)}
}
