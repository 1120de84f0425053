// Package formula holds weighed recipes: numbered versions made of lines in grams, components that are
// other formulas, percents, flattening down to ingredients, and what changed between two versions.
package formula

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"

	"github.com/shopspring/decimal"
)

// Ref names a version of a formula.
type Ref struct {
	Formula string `json:"formula"`
	Version int    `json:"version"`
}

func (r Ref) String() string { return fmt.Sprintf("%s version %d", r.Formula, r.Version) }

// Line is one ingredient or one component with its grams in the reference batch.
// Exactly one of Ingredient (an id) and Component is set.
type Line struct {
	ID         string       `json:"id"`
	Ingredient string       `json:"ingredient,omitempty"`
	Component  *Ref         `json:"component,omitempty"`
	Grams      amount.Grams `json:"grams"`
	Phase      string       `json:"phase,omitempty"`
	Note       string       `json:"note,omitempty"`
	Quid       bool         `json:"quid,omitempty"`
	Disperse   bool         `json:"disperse,omitempty"`

	Words            string   `json:"words,omitempty"` // as the maker said it
	Said             *Said    `json:"said,omitempty"`
	Preparation      string   `json:"preparation,omitempty"` // id of the kitchen step that Ingredient comes from
	AnyOf            []string `json:"any_of,omitempty"`      // ingredients that may make up this line, Ingredient among them
	ScaleExponent    float64  `json:"scale_exponent,omitempty"`
	HoldBackPercent  float64  `json:"hold_back_percent,omitempty"`
	TolerancePercent float64  `json:"tolerance_percent,omitempty"` // 0: the default of its kind
	Purpose          string   `json:"purpose,omitempty"`
}

// Said is how the grams of a line were found from words. Spread is one standard deviation in percent.
type Said struct {
	Source  string  `json:"source"` // weighed, stated, house, reference, density or assumed
	Measure string  `json:"measure,omitempty"`
	Of      string  `json:"of,omitempty"` // the ingredient whose measure it is
	Times   float64 `json:"times,omitempty"`
	Grams   float64 `json:"grams"`
	Spread  float64 `json:"spread_percent"`
	How     string  `json:"how,omitempty"`
}

// Purposes a line may state (handbook 03), so that taking it out can say what is lost.
var Purposes = []string{"", "binds", "sours", "salts", "sweetens", "colours", "thins"}

// Step is something done in making.
type Step struct {
	Text    string  `json:"text"`
	Vessel  string  `json:"vessel,omitempty"`
	Minutes float64 `json:"minutes,omitempty"`
	Celsius float64 `json:"celsius,omitempty"`
	Check   string  `json:"check,omitempty"`
}

// PackagingItem is one part of the pack: jar, lid, seal, label, share of a case.
type PackagingItem struct {
	Name        string          `json:"name"`
	Price       amount.Money    `json:"price"`
	LossPercent decimal.Decimal `json:"loss_percent"`
}

// States of a version.
const (
	Draft  = "draft"
	Locked = "locked"
)

// Keeping is what the maker wishes for and knows about the pack; the rules decide (handbook 06).
type Keeping struct {
	Asked          string   `json:"asked"` // chilled, ambient or frozen
	Styles         []string `json:"styles"`
	ToppedWithOil  bool     `json:"topped_with_oil,omitempty"`
	HeatMinC       float64  `json:"heat_min_c,omitempty"`
	HeatMinMinutes float64  `json:"heat_min_minutes,omitempty"`
	AfterOpening   int      `json:"after_opening_days,omitempty"`
}

// Wording holds the maker's choices for the declaration and the label.
type Wording struct {
	NameUS      string  `json:"name_us,omitempty"`
	NameGB      string  `json:"name_gb,omitempty"`
	LegalName   string  `json:"legal_name,omitempty"`
	TailPercent float64 `json:"tail_percent,omitempty"`
	GroupSpices bool    `json:"group_spices,omitempty"`
}

// Version is a numbered state of a formula. A locked version never changes.
type Version struct {
	Formula          string          `json:"formula"`
	Number           int             `json:"version"`
	From             int             `json:"from,omitempty"`
	State            string          `json:"state"`
	LockedAt         *time.Time      `json:"locked_at,omitempty"`
	Note             string          `json:"note,omitempty"`
	Lines            []Line          `json:"lines"`
	ProductStyle     string          `json:"product_style,omitempty"`
	EmulsionStyle    string          `json:"emulsion_style,omitempty"`
	DensityGPerML    float64         `json:"density_g_ml,omitempty"`
	WaterDrivenOff   amount.Grams    `json:"water_driven_off_g"`
	LossPercent      decimal.Decimal `json:"loss_percent"`
	FillGrams        amount.Grams    `json:"fill_g"`
	OverfillPercent  decimal.Decimal `json:"overfill_percent"`
	CostingJars      int             `json:"costing_jars"`
	Packaging        []PackagingItem `json:"packaging"`
	MinutesPerBatch  decimal.Decimal `json:"minutes_per_batch"`
	MinutesPerJar    decimal.Decimal `json:"minutes_per_jar"`
	LabourPerHour    amount.Money    `json:"labour_per_hour"`
	OverheadPerBatch amount.Money    `json:"overhead_per_batch"`
	PHLimit          float64         `json:"ph_limit"`
	PHTarget         float64         `json:"ph_target"`
	LargestPieceMM   float64         `json:"largest_piece_mm,omitempty"`
	Keeping          Keeping         `json:"keeping"`
	Wording          Wording         `json:"wording"`
	Words            string          `json:"words,omitempty"` // the whole text the version was read from
	Steps            []Step          `json:"steps,omitempty"`
	Consistency      string          `json:"consistency,omitempty"`
	Toppings         []Topping       `json:"toppings,omitempty"`
}

// Topping goes onto each jar after filling: a spoon of oil, seeds, pieces kept back. It counts in the net quantity, the
// cost, the declaration and the rules (handbook 03).
type Topping struct {
	ID         string       `json:"id"`
	Ingredient string       `json:"ingredient"`
	Grams      amount.Grams `json:"grams_per_jar"`
}

// Defaults of a new version (handbook 05: limit 4.6, target 4.2 where plants are in it).
const (
	DefaultPHLimit  = 4.6
	DefaultPHTarget = 4.2
)

// Formula is a product with its versions, oldest first.
type Formula struct {
	ID       string    `json:"id"`
	Name     string    `json:"name"`
	Retired  bool      `json:"retired,omitempty"`
	Parent   *Ref      `json:"parent,omitempty"` // the locked version that a variant is stated against
	Versions []Version `json:"versions"`
}

// Blank returns the first draft of a new formula.
func Blank(formulaID string) Version {
	return Version{
		Formula: formulaID, Number: 1, State: Draft, Lines: []Line{}, Packaging: []PackagingItem{},
		FillGrams: amount.G(190), CostingJars: 48, LossPercent: decimal.NewFromInt(2), OverfillPercent: decimal.NewFromInt(1),
		PHLimit: DefaultPHLimit, PHTarget: DefaultPHTarget, EmulsionStyle: "shaken", ProductStyle: "pourable dressing",
		Keeping: Keeping{Asked: "chilled", Styles: []string{}},
	}
}

// GramsIn is the mass of everything that goes into the bowl.
func (v Version) GramsIn() amount.Grams {
	total := decimal.Zero
	for _, l := range v.Lines {
		total = total.Add(l.Grams.Decimal)
	}
	return amount.Grams{Decimal: total}
}

// MixedGrams is GramsIn less the water driven off in making; residue and process loss are not taken off (handbook 08).
func (v Version) MixedGrams() amount.Grams {
	return amount.Grams{Decimal: v.GramsIn().Sub(v.WaterDrivenOff.Decimal)}
}

// FinishedGrams is what can be filled: MixedGrams less the process loss.
func (v Version) FinishedGrams() amount.Grams {
	keep := decimal.NewFromInt(100).Sub(v.LossPercent).Shift(-2)
	return amount.Grams{Decimal: v.MixedGrams().Mul(keep)}
}

// NetGrams is what a jar is sold with: the fill and what goes on top.
func (v Version) NetGrams() amount.Grams {
	sum := v.FillGrams
	for _, t := range v.Toppings {
		sum.Decimal = sum.Add(t.Grams.Decimal)
	}
	return sum
}

// JarGrams is what one jar takes: the fill with its overfill.
func (v Version) JarGrams() amount.Grams {
	over := decimal.NewFromInt(100).Add(v.OverfillPercent).Shift(-2)
	return amount.Grams{Decimal: v.FillGrams.Mul(over)}
}

// Jars is how many whole jars the reference batch fills.
func (v Version) Jars() int {
	if !v.JarGrams().IsPositive() || !v.FinishedGrams().IsPositive() {
		return 0
	}
	return int(v.FinishedGrams().DivRound(v.JarGrams().Decimal, 12).Floor().IntPart())
}

// Percents returns each line's percent by weight of everything that goes into the bowl, to 0.01, adding to 100.00.
func (v Version) Percents() []decimal.Decimal {
	grams := make([]amount.Grams, len(v.Lines))
	for i, l := range v.Lines {
		grams[i] = l.Grams
	}
	return amount.PercentShares(grams)
}

// Limits on a version, so that a slipped key is noticed.
const (
	maxLines     = 200
	maxPackaging = 20
	maxText      = 2000
	maxName      = 120
	maxWords     = 25_000
	maxSteps     = 60
	maxToppings  = 10
	maxAnyOf     = 8
	maxOptions   = 32 // resolutions of a version's groups together
)

var (
	keepingAsked   = []string{"chilled", "ambient", "frozen"}
	productStyles  = []string{"", "pourable dressing", "spoonable dressing", "dip", "pesto", "spread", "marinade"}
	emulsionStyles = []string{"", "shaken", "bound", "yolk-bound", "purée"}
)

// Check lists everything wrong in a version by itself; what it refers to is checked by Flatten.
func (v Version) Check() []pantry.FieldError {
	c := checker{}
	if len(v.Lines) > maxLines {
		c.bad("lines", "at most %d lines", maxLines)
	}
	seen := map[string]bool{}
	for i, l := range v.Lines {
		at := fmt.Sprintf("lines[%d]", i)
		if (l.Ingredient == "") == (l.Component == nil) {
			c.bad(at, "name either an ingredient or a component")
		}
		if l.ID == "" || seen[l.ID] {
			c.bad(at+".id", "every line needs an id of its own")
		}
		seen[l.ID] = true
		if l.Grams.IsNegative() {
			c.bad(at+".grams", "grams cannot be negative")
		}
		c.atMost(at+".grams", l.Grams.Decimal, amount.MaxGrams)
		c.text(at+".phase", l.Phase, maxName)
		c.text(at+".note", l.Note, maxText)
		c.line(at, l)
	}
	if n := len(v.Groups()); n > 0 && v.Resolutions() > maxOptions {
		c.bad("lines", "the “any of” groups can be made up in %d ways; at most %d can be judged", v.Resolutions(), maxOptions)
	}
	c.making(v)
	c.percent("loss_percent", v.LossPercent, 95)
	c.percent("overfill_percent", v.OverfillPercent, 100)
	c.notNegative("fill_g", v.FillGrams.Decimal)
	c.atMost("fill_g", v.FillGrams.Decimal, 100_000)
	c.notNegative("water_driven_off_g", v.WaterDrivenOff.Decimal)
	if v.WaterDrivenOff.IsPositive() && !v.MixedGrams().IsPositive() {
		c.bad("water_driven_off_g", "more water driven off than there is in the bowl")
	}
	c.checkCosts(v)
	if v.PHLimit <= 0 || v.PHLimit > 14 {
		c.bad("ph_limit", "a limit lies between 0 and 14")
	}
	if v.PHTarget <= 0 || v.PHTarget > v.PHLimit {
		c.bad("ph_target", "the target may not lie above the limit of %g", v.PHLimit)
	}
	if v.PHLimit > DefaultPHLimit && v.Keeping.Asked == "ambient" {
		c.bad("ph_limit", "a limit above 4.6 is only for chilled or frozen products")
	}
	c.oneOf("keeping.asked", v.Keeping.Asked, keepingAsked)
	c.oneOf("product_style", v.ProductStyle, productStyles)
	c.oneOf("emulsion_style", v.EmulsionStyle, emulsionStyles)
	c.text("note", v.Note, maxText)
	for field, s := range map[string]string{"wording.name_us": v.Wording.NameUS, "wording.name_gb": v.Wording.NameGB, "wording.legal_name": v.Wording.LegalName} {
		c.text(field, s, maxName)
	}
	if !slices.Contains([]float64{0, 0.5, 1, 1.5, 2}, v.Wording.TailPercent) {
		c.bad("wording.tail_percent", "the small-amounts tail may be 2, 1.5, 1 or 0.5 percent, or off")
	}
	if v.DensityGPerML < 0 || v.DensityGPerML > 3 || v.LargestPieceMM < 0 || v.LargestPieceMM > 200 {
		c.bad("density_g_ml", "density up to 3 g/mL, largest piece up to 200 mm")
	}
	return c.errs
}

// line checks what a line says beyond its grams.
func (c *checker) line(at string, l Line) {
	c.text(at+".words", l.Words, maxText)
	if len(l.AnyOf) > 0 {
		switch {
		case l.Ingredient == "" || !slices.Contains(l.AnyOf, l.Ingredient):
			c.bad(at+".any_of", "the line's own ingredient is one of the group")
		case len(l.AnyOf) < 2 || len(l.AnyOf) > maxAnyOf || len(slices.Compact(slices.Sorted(slices.Values(l.AnyOf)))) != len(l.AnyOf):
			c.bad(at+".any_of", "a group holds 2 to %d different ingredients", maxAnyOf)
		}
	}
	if l.ScaleExponent != 0 && !(l.ScaleExponent >= 0.5 && l.ScaleExponent <= 1) {
		c.bad(at+".scale_exponent", "“scales less” has an exponent from 0.5 to 1")
	}
	if !(l.HoldBackPercent >= 0 && l.HoldBackPercent <= 100) {
		c.bad(at+".hold_back_percent", "between 0 and 100 %%")
	}
	if !(l.TolerancePercent >= 0 && l.TolerancePercent <= 50) {
		c.bad(at+".tolerance_percent", "a tolerance lies between 0 and 50 %%")
	}
	c.oneOf(at+".purpose", l.Purpose, Purposes)
}

// making checks steps and words.
func (c *checker) making(v Version) {
	c.text("words", v.Words, maxWords)
	c.text("consistency", v.Consistency, maxName)
	if len(v.Steps) > maxSteps {
		c.bad("steps", "at most %d steps", maxSteps)
	}
	if len(v.Toppings) > maxToppings {
		c.bad("toppings", "at most %d things on top", maxToppings)
	}
	ids := map[string]bool{}
	for i, t := range v.Toppings {
		at := fmt.Sprintf("toppings[%d]", i)
		if t.ID == "" || ids[t.ID] || slices.ContainsFunc(v.Lines, func(l Line) bool { return l.ID == t.ID }) {
			c.bad(at+".id", "every topping needs an id of its own")
		}
		ids[t.ID] = true
		if t.Ingredient == "" {
			c.bad(at+".ingredient", "choose an ingredient")
		}
		c.notNegative(at+".grams_per_jar", t.Grams.Decimal)
		c.atMost(at+".grams_per_jar", t.Grams.Decimal, 10_000)
	}
	for i, s := range v.Steps {
		at := fmt.Sprintf("steps[%d]", i)
		if strings.TrimSpace(s.Text) == "" {
			c.bad(at+".text", "say what is done")
		}
		c.text(at+".text", s.Text, maxText)
		c.text(at+".vessel", s.Vessel, maxName)
		c.text(at+".check", s.Check, maxText)
		if !(s.Minutes >= 0 && s.Minutes <= 20_000) {
			c.bad(at+".minutes", "between 0 and 20 000 minutes")
		}
		if !(s.Celsius >= -40 && s.Celsius <= 300) {
			c.bad(at+".celsius", "between −40 and 300 °C")
		}
	}
}

func (c *checker) checkCosts(v Version) {
	if len(v.Packaging) > maxPackaging {
		c.bad("packaging", "at most %d items", maxPackaging)
	}
	for i, p := range v.Packaging {
		at := fmt.Sprintf("packaging[%d]", i)
		if strings.TrimSpace(p.Name) == "" {
			c.bad(at+".name", "name the item")
		}
		c.text(at+".name", p.Name, maxName)
		c.notNegative(at+".price", p.Price.Decimal)
		c.atMost(at+".price", p.Price.Decimal, amount.MaxMoney)
		c.percent(at+".loss_percent", p.LossPercent, 500)
	}
	if v.CostingJars < 0 || v.CostingJars > 100_000 {
		c.bad("costing_jars", "between 0 and 100 000 jars")
	}
	for field, d := range map[string]decimal.Decimal{"minutes_per_batch": v.MinutesPerBatch, "minutes_per_jar": v.MinutesPerJar,
		"labour_per_hour": v.LabourPerHour.Decimal, "overhead_per_batch": v.OverheadPerBatch.Decimal} {
		c.notNegative(field, d)
		c.atMost(field, d, amount.MaxMoney)
	}
}

type checker struct{ errs []pantry.FieldError }

func (c *checker) bad(field, format string, args ...any) {
	c.errs = append(c.errs, pantry.FieldError{Field: field, Message: fmt.Sprintf(format, args...)})
}

func (c *checker) text(field, s string, max int) {
	if n := len([]rune(s)); n > max {
		c.bad(field, "at most %d characters; this has %d", max, n)
	}
}

func (c *checker) notNegative(field string, d decimal.Decimal) {
	if d.IsNegative() {
		c.bad(field, "cannot be negative")
	}
}

func (c *checker) atMost(field string, d decimal.Decimal, max int64) {
	if d.GreaterThan(decimal.NewFromInt(max)) {
		c.bad(field, "more than %d is a slipped key", max)
	}
}

func (c *checker) percent(field string, d decimal.Decimal, max int64) {
	if d.IsNegative() || d.GreaterThan(decimal.NewFromInt(max)) {
		c.bad(field, "between 0 and %d %%", max)
	}
}

func (c *checker) oneOf(field, s string, list []string) {
	if !slices.Contains(list, s) {
		c.bad(field, "%q is none of %s", s, strings.Join(list, ", "))
	}
}
