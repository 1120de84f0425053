package pantry

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/field"
)

// Preparation is a kitchen step that turns one ingredient into another with a yield, perhaps with a co-output.
// Yields are grams out per 100 g in, spreads one standard deviation in percent of the yield.
type Preparation struct {
	ID            string  `json:"id"`
	Name          string  `json:"name"` // what is done: peel, char and peel, drain
	Input         string  `json:"input"`
	Output        string  `json:"output"`
	YieldPercent  float64 `json:"yield_percent"`
	SpreadPercent float64 `json:"spread_percent"`
	MinutesPerKg  float64 `json:"labour_min_per_kg"` // hands on, per kg of input
	WaitMinutes   float64 `json:"wait_min"`          // oven, soaking, draining
	CoOutput      string  `json:"co_output,omitempty"`
	CoYield       float64 `json:"co_yield_percent,omitempty"`
	// of the input's cost that the co-output carries
	CoShare   float64      `json:"co_cost_share_percent,omitempty"`
	Extras    []ExtraInput `json:"extras,omitempty"`
	LookFor   string       `json:"look_for,omitempty"`
	Typical   bool         `json:"typical"`
	Preferred bool         `json:"preferred,omitempty"` // the way this shop makes the output
	Records   []YieldTrial `json:"records,omitempty"`
}

// ExtraInput is what else goes into the pan: grams per 100 g of input, and the percent that stays in the output and the
// co-output. Only what stays counts in cost, composition and declaration (handbook 02); allergens and hazards of all of
// it pass on.
type ExtraInput struct {
	Ingredient      string  `json:"ingredient"`
	PerHundred      float64 `json:"grams_per_100g"`
	UptakePercent   float64 `json:"uptake_percent"`
	CoUptakePercent float64 `json:"co_uptake_percent,omitempty"`
}

// Names returns the ids of the ingredients that a preparation names: what goes in, the extras, and what comes out.
func (p Preparation) Names() []string {
	ids := []string{p.Input, p.Output}
	if p.CoOutput != "" {
		ids = append(ids, p.CoOutput)
	}
	for _, e := range p.Extras {
		ids = append(ids, e.Ingredient)
	}
	return ids
}

// Stays are the grams of an extra, per 100 g of input, that are in the output, or in what comes out beside it.
func (e ExtraInput) Stays(beside bool) float64 {
	if beside {
		return e.PerHundred * e.CoUptakePercent / 100
	}
	return e.PerHundred * e.UptakePercent / 100
}

// YieldTrial is one real making: grams in, grams out, and grams of the co-output where there is one.
type YieldTrial struct {
	Day  day.Day `json:"day"`
	In   float64 `json:"in_g"`
	Out  float64 `json:"out_g"`
	Co   float64 `json:"co_out_g,omitempty"`
	Who  string  `json:"who,omitempty"`
	Note string  `json:"note,omitempty"`
}

// LastTrials is how many recorded makings count towards the expected yield (handbook 02).
const LastTrials = 5

// Yield is what to expect of a preparation, with where it comes from.
type Yield struct {
	Percent  float64  `json:"percent"`
	Spread   float64  `json:"spread_percent"`
	Co       float64  `json:"co_percent"`
	Trials   int      `json:"trials"`   // recorded makings that count
	Recorded *float64 `json:"recorded"` // their plain mean, shown beside the reference
	Typical  float64  `json:"typical"`  // the reference or the stated yield
}

// Expected returns the yield to plan with: the mean of the last five recorded makings, the stated yield counting as
// one more (handbook 02). Without records it is the stated yield.
func (p Preparation) Expected() Yield {
	y := Yield{Percent: p.YieldPercent, Spread: p.SpreadPercent, Co: p.CoYield, Typical: p.YieldPercent}
	recent := p.Records
	if len(recent) > LastTrials {
		recent = recent[len(recent)-LastTrials:]
	}
	if len(recent) == 0 {
		return y
	}
	yields, sum, co := []float64{}, 0.0, 0.0
	for _, r := range recent {
		yields = append(yields, 100*r.Out/r.In)
		sum += 100 * r.Out / r.In
		co += 100 * r.Co / r.In
	}
	n := float64(len(recent))
	mean := sum / n
	y.Trials, y.Recorded = len(recent), &mean
	y.Percent = (sum + p.YieldPercent) / (n + 1)
	if p.CoOutput != "" {
		y.Co = (co + p.CoYield) / (n + 1)
	}
	if len(recent) >= LeastWeighings {
		y.Spread = 100 * SampleDeviation(yields) / mean
	}
	return y
}

// Purchase is what to buy for a need of a preparation's outputs, and what is left over of the other.
type Purchase struct {
	In         float64 `json:"in_g"`
	SurplusOut float64 `json:"surplus_out_g"`
	SurplusCo  float64 `json:"surplus_co_g"`
	Minutes    float64 `json:"minutes"`
}

// Buy returns the grams of input for the grams needed of output and co-output. Joint outputs come from the same
// pieces, so the need is the greater of the two, never their sum (handbook 02). Errors: FieldError.
func (p Preparation) Buy(out, co float64) (Purchase, error) {
	y := p.Expected()
	if out < 0 || co < 0 || math.IsNaN(out) || math.IsNaN(co) {
		return Purchase{}, FieldError{Field: "out_g", Message: "a need cannot be negative"}
	}
	if co > 0 && (p.CoOutput == "" || y.Co <= 0) {
		return Purchase{}, FieldError{Field: "co_out_g", Message: "this preparation has no co-output"}
	}
	forOut, forCo := 100*out/y.Percent, 0.0
	if co > 0 {
		forCo = 100 * co / y.Co
	}
	b := Purchase{In: max(forOut, forCo)}
	b.SurplusOut = max(0, b.In*y.Percent/100-out)
	if p.CoOutput != "" {
		b.SurplusCo = max(0, b.In*y.Co/100-co)
	}
	b.Minutes = p.MinutesPerKg * b.In / 1000
	return b, nil
}

// OutCost is the cost of a gram of output from the cost of a gram of input and of the extras that stay in it; the
// co-output carries the share that the maker gave it (handbook 02). extra answers the cost per gram of an extra.
func (p Preparation) OutCost(input amount.Exact, extra func(ingredient string) amount.Exact) amount.Exact {
	cost := input.Times(amount.Whole(100).Minus(amount.ExactFloat(p.CoShare)))
	return cost.Plus(p.extrasCost(false, extra)).Over(amount.ExactFloat(p.Expected().Percent))
}

// extrasCost is what the extras cost that stay in the output of 100 g of input, or in what comes out beside it.
func (p Preparation) extrasCost(beside bool, extra func(ingredient string) amount.Exact) amount.Exact {
	cost := amount.Exact{}
	for _, e := range p.Extras {
		uptake := e.UptakePercent
		if beside {
			uptake = e.CoUptakePercent
		}
		stays := amount.ExactFloat(e.PerHundred).Times(amount.ExactFloat(uptake)).Over(amount.Whole(100))
		cost = cost.Plus(stays.Times(extra(e.Ingredient)))
	}
	return cost
}

// CoCost is the cost of a gram of co-output: the extras that stay in it, and of the input the share that the maker gave
// it.
func (p Preparation) CoCost(input amount.Exact, extra func(ingredient string) amount.Exact) amount.Exact {
	y := p.Expected()
	if p.CoOutput == "" || y.Co <= 0 {
		return amount.Exact{}
	}
	return input.Times(amount.ExactFloat(p.CoShare)).Plus(p.extrasCost(true, extra)).Over(amount.ExactFloat(y.Co))
}

// Check lists everything wrong with a preparation by itself.
func (p Preparation) Check() []FieldError {
	var errs field.Errors
	bad := errs.Bad
	if n := len([]rune(strings.TrimSpace(p.Name))); n == 0 || n > 80 {
		bad("name", "say in 1 to 80 characters what is done")
	}
	if p.Input == "" {
		bad("input", "choose what goes in")
	}
	if p.Output == "" {
		bad("output", "choose what comes out")
	}
	if p.Input != "" && p.Input == p.Output {
		bad("output", "what comes out is an ingredient of its own, not the one that went in")
	}
	within := func(field string, v, low, high float64, what string) {
		if math.IsNaN(v) || v < low || v > high {
			bad(field, "%s lies between %g and %g", what, low, high)
		}
	}
	if !(p.YieldPercent > 0) || p.YieldPercent > maxUsablePercent {
		bad("yield_percent", "a yield lies above 0 and up to 1000 %%")
	}
	within("spread_percent", p.SpreadPercent, 0, 100, "a spread in percent")
	within("labour_min_per_kg", p.MinutesPerKg, 0, 1000, "minutes a kilogram")
	within("wait_min", p.WaitMinutes, 0, 20_000, "waiting in minutes")
	within("co_cost_share_percent", p.CoShare, 0, 100, "a share of the cost")
	if field, message := p.checkBeside(); field != "" {
		bad(field, "%s", message)
	}
	if len([]rune(p.LookFor)) > 500 {
		bad("look_for", "at most 500 characters")
	}
	p.checkExtras(bad, within)
	for i, r := range p.Records {
		for _, e := range r.Check() {
			bad(fmt.Sprintf("records[%d].%s", i, e.Field), "%s", e.Message)
		}
	}
	return errs
}

func (p Preparation) checkExtras(bad func(field, format string, args ...any),
	within func(field string, v, low, high float64, what string)) {
	if len(p.Extras) > 10 {
		bad("extras", "at most 10")
	}
	for i, e := range p.Extras {
		at := fmt.Sprintf("extras[%d]", i)
		if e.Ingredient == "" {
			bad(at+".ingredient", "choose an ingredient")
		}
		within(at+".grams_per_100g", e.PerHundred, 0, 2000, "grams per 100 g of input")
		within(at+".uptake_percent", e.UptakePercent, 0, 100, "what stays in")
		within(at+".co_uptake_percent", e.CoUptakePercent, 0, 100, "what stays in what comes out beside it")
		if e.UptakePercent+e.CoUptakePercent > 100 {
			bad(at+".co_uptake_percent", "more stays in both than went in")
		}
		if e.CoUptakePercent > 0 && p.CoOutput == "" {
			bad(at+".co_uptake_percent", "nothing comes out beside it")
		}
	}
}

// mostBeside is how many grams can come out beside the output from 100 g of input and the extras.
func (p Preparation) mostBeside() float64 {
	most := 100.0
	for _, e := range p.Extras {
		most += e.PerHundred
	}
	return most
}

// checkBeside says what is wrong with what comes out beside it, if anything.
func (p Preparation) checkBeside() (field, message string) {
	switch {
	case p.CoOutput == "" && p.CoYield != 0:
		return "co_output", "name what comes out beside it, or take its yield out"
	case p.CoOutput != "" && (!(p.CoYield > 0) || p.CoYield > maxUsablePercent):
		return "co_yield_percent", "a yield lies above 0 and up to 1000 %"
	case p.CoOutput != "" && (p.CoOutput == p.Output || p.CoOutput == p.Input):
		return "co_output", "the co-output is an ingredient of its own"
	case p.CoOutput != "" && p.CoYield > p.mostBeside():
		return "co_yield_percent",
			fmt.Sprintf("%.4g g come out beside it, and only %.4g g went in: say what else goes into "+
				"the pan", p.CoYield, p.mostBeside())
	}
	return "", ""
}

// Check lists what is wrong with a recorded making.
func (r YieldTrial) Check() []FieldError {
	var errs []FieldError
	grams := func(field string, g float64, least bool) {
		if math.IsNaN(g) || g < 0 || least && g == 0 || g > 10_000_000 {
			errs = append(errs, FieldError{Field: field, Message: "grams above 0 and up to 10 000 kg"})
		}
	}
	grams("in_g", r.In, true)
	grams("out_g", r.Out, true)
	grams("co_out_g", r.Co, false)
	if r.In > 0 && 100*r.Out/r.In > maxUsablePercent {
		errs = append(errs, FieldError{Field: "out_g",
			Message: "that is over 1000 % of what went in; are the two swapped?"})
	}
	if len([]rune(r.Note)) > maxTextRunes {
		errs = append(errs, FieldError{Field: "note", Message: "at most 200 characters"})
	}
	return errs
}

// LessWater works out what an ingredient is made of after a preparation that only drives off or drains water: every
// other part of 100 g stays and is concentrated by the yield; extras that stay are added. Errors: FieldError where
// more mass is lost than there is water, because then something else left too.
func (p Preparation) LessWater(in Ingredient, extra func(ingredient string) (Ingredient, bool)) (Composition, Acids,
	error) {
	out := p.Expected().Percent // grams from 100 g of input
	type part struct {
		g    Ingredient
		mass float64
	}
	parts := []part{{in, 100}}
	mass := 100.0
	for _, e := range p.Extras {
		g, ok := extra(e.Ingredient)
		if !ok {
			return Composition{}, Acids{}, FieldError{Field: "extras",
				Message: fmt.Sprintf("there is no ingredient %q", e.Ingredient)}
		}
		stays := e.PerHundred * e.UptakePercent / 100
		parts = append(parts, part{g, stays})
		mass += stays
	}
	var c Composition
	var a Acids
	for _, x := range parts {
		c = c.plus(x.g.Composition, x.mass/out)
		a = a.plus(x.g.Acids, x.mass/out)
	}
	water := c.Water*out/100 - (mass - out) // grams left in the output of 100 g of input
	if water < 0 {
		return Composition{}, Acids{}, FieldError{Field: "yield_percent",
			Message: "more is lost than there is water; give the output its own figures"}
	}
	c.Water = 100 * water / out
	return c, a, nil
}

func (c Composition) plus(x Composition, k float64) Composition {
	c.Water += x.Water * k
	c.Protein += x.Protein * k
	c.Fat += x.Fat * k
	c.Saturates += x.Saturates * k
	c.Trans += x.Trans * k
	c.Carbohydrate += x.Carbohydrate * k
	c.Sugars += x.Sugars * k
	c.Hexose += x.Hexose * k
	c.Fibre += x.Fibre * k
	c.Alcohol += x.Alcohol * k
	c.SodiumMg += x.SodiumMg * k
	c.CholesterolMg += x.CholesterolMg * k
	c.CalciumMg += x.CalciumMg * k
	c.IronMg += x.IronMg * k
	c.PotassiumMg += x.PotassiumMg * k
	c.VitaminDUg += x.VitaminDUg * k
	return c
}

func (a Acids) plus(x Acids, k float64) Acids {
	a.Acetic += x.Acetic * k
	a.Citric += x.Citric * k
	a.Malic += x.Malic * k
	a.Lactic += x.Lactic * k
	a.Tartaric += x.Tartaric * k
	return a
}

// heatWords are the kitchen's words for steps that something comes hot from.
var heatWords = []string{"roast", "boil", "cook", "simmer", "steam", "blanch", "char", "toast", "fry", "confit", "bake",
	"grill", "caramelise", "caramelize", "scald", "sweat"}

// Heats reports whether what the step makes comes out hot, by the words for what is done.
func (p Preparation) Heats() bool {
	words := strings.FieldsFunc(strings.ToLower(p.Name), func(r rune) bool { return !unicode.IsLetter(r) })
	return slices.ContainsFunc(words, func(w string) bool {
		return slices.ContainsFunc(heatWords, func(h string) bool { return strings.HasPrefix(w, h) })
	})
}
