// Package formula holds weighed recipes: numbered versions made of lines in grams, components that are
// other formulas, percents, flattening down to ingredients, and what changed between two versions.
package formula

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
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

	Words       string `json:"words,omitempty"` // as the maker said it
	Said        *Said  `json:"said,omitempty"`
	Preparation string `json:"preparation,omitempty"` // id of the kitchen step that Ingredient comes from
	// ingredients that may make up this line, Ingredient among them
	AnyOf            []string `json:"any_of,omitempty"`
	ScaleExponent    float64  `json:"scale_exponent,omitempty"`
	HoldBackPercent  float64  `json:"hold_back_percent,omitempty"`
	TolerancePercent float64  `json:"tolerance_percent,omitempty"` // 0: the default of its kind
	Purpose          string   `json:"purpose,omitempty"`
	Optional         bool     `json:"optional,omitempty"` // may be left out at the bench
}

// Said is how the grams of a line were found from words. Spread is one standard deviation in percent.
type Said struct {
	Source  string  `json:"source"` // weighed, guessed, stated, house, reference, density or assumed
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

// PackagingItem is one part of the pack: jar, lid, seal, label, share of a case. Where Item names something of the
// pantry, its price is what that costs today, and Price was typed before.
type PackagingItem struct {
	Name        string         `json:"name"`
	Price       amount.Money   `json:"price"`
	LossPercent amount.Percent `json:"loss_percent"`
	Item        string         `json:"item,omitempty"`
	PerPiece    int            `json:"jars_a_piece,omitempty"` // jars that share a piece, as a case; 0 counts as 1
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
	// on the label of each law; the formula's own where there is none
	Names       law.Each[string] `json:"names,omitempty"`
	LegalName   string           `json:"legal_name,omitempty"`
	TailPercent float64          `json:"tail_percent,omitempty"`
	GroupSpices bool             `json:"group_spices,omitempty"`
	// the maker's word that the name stresses no ingredient, so that no quantity is asked for
	StressesNothing bool `json:"stresses_nothing,omitempty"`
	// set by a label: names of what it features beside the marked lines
	Named []string `json:"-"`
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
	DensityBy        string          `json:"density_by,omitempty"` // who measured it, and on which day
	DensityOn        day.Day         `json:"density_on,omitempty"`
	WaterDrivenOff   amount.Grams    `json:"water_driven_off_g"`
	LossPercent      amount.Percent  `json:"loss_percent"`
	FillGrams        amount.Grams    `json:"fill_g"`
	FillML           float64         `json:"fill_ml,omitempty"` // where it is filled by volume: FillGrams follow
	Jar              string          `json:"jar,omitempty"`     // id of a jar of the shop
	OverfillPercent  amount.Percent  `json:"overfill_percent"`
	CostingJars      int             `json:"costing_jars"`
	Packaging        []PackagingItem `json:"packaging"`
	MinutesPerBatch  amount.Minutes  `json:"minutes_per_batch"`
	MinutesPerJar    amount.Minutes  `json:"minutes_per_jar"`
	LabourPerHour    amount.Money    `json:"labour_per_hour"`
	OverheadPerBatch amount.Money    `json:"overhead_per_batch"`
	MinutesPerLoad   amount.Minutes  `json:"minutes_per_load,omitzero"`
	OvenMinutes      amount.Minutes  `json:"oven_minutes,omitzero"` // a load
	OverheadPerJar   amount.Money    `json:"overhead_per_jar,omitzero"`
	RejectPercent    amount.Percent  `json:"reject_percent,omitzero"` // of the filled jars
	PHLimit          float64         `json:"ph_limit"`
	PHTarget         float64         `json:"ph_target"`
	LargestPieceMM   float64         `json:"largest_piece_mm,omitempty"`
	Keeping          Keeping         `json:"keeping"`
	StyleByLines     bool            `json:"style_by_lines,omitempty"` // styles follow what is in it and its name
	Wording          Wording         `json:"wording"`
	Words            string          `json:"words,omitempty"`      // the whole text the version was read from
	ClaimDays        int             `json:"claim_days,omitempty"` // that the maker says it keeps: no storage life
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
		FillGrams: amount.G(190), CostingJars: 48, LossPercent: amount.Pct(2), OverfillPercent: amount.Pct(1),
		PHLimit: DefaultPHLimit, PHTarget: DefaultPHTarget, StyleByLines: true,
		Keeping: Keeping{Asked: "chilled", Styles: []string{}},
	}
}

// GramsIn is the mass of everything that goes into the bowl.
func (v Version) GramsIn() amount.Grams {
	total := amount.Grams{}
	for _, l := range v.Lines {
		total = total.Plus(l.Grams)
	}
	return total
}

// MixedGrams is GramsIn less the water driven off in making; residue and process loss are not taken off (handbook 08).
func (v Version) MixedGrams() amount.Grams {
	return v.GramsIn().Minus(v.WaterDrivenOff)
}

// FinishedGrams is what can be filled: MixedGrams less the process loss.
func (v Version) FinishedGrams() amount.Exact {
	return v.MixedGrams().Exact().Times(amount.Rest(v.LossPercent))
}

// NetGrams is the net weight of a jar: the fill and what goes on top.
func (v Version) NetGrams() amount.Grams {
	sum := v.FillGrams
	for _, t := range v.Toppings {
		sum = sum.Plus(t.Grams)
	}
	return sum
}

// Filled is the version with its fill converted to grams, if it is filled by volume.
func (v Version) Filled() Version {
	if v.FillML > 0 && v.DensityGPerML > 0 && v.DensityGPerML <= 3 && v.FillML <= 100_000 {
		v.FillGrams = amount.G(v.FillML * v.DensityGPerML)
	}
	return v
}

// FillVolume is what a jar takes in mL, with what goes on top; 0 where nobody measured the density.
func (v Version) FillVolume() float64 {
	if !(v.DensityGPerML > 0) {
		return 0
	}
	return v.NetGrams().Float() / v.DensityGPerML
}

// JarGrams is what one jar takes: the fill with its overfill.
func (v Version) JarGrams() amount.Exact {
	return v.FillGrams.Exact().Times(amount.More(v.OverfillPercent))
}

// Jars is how many whole jars the reference batch fills.
func (v Version) Jars() int {
	finished, jar := v.FinishedGrams(), v.JarGrams()
	if !jar.IsPositive() || !finished.IsPositive() {
		return 0
	}
	return int(finished.Over(jar).Floor())
}

// Percents returns each line's percent by weight of everything that goes into the bowl, to 0.01, adding to 100.00.
func (v Version) Percents() []amount.Percent {
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

	// Food lies between lime juice and fresh dairy; outside of that a limit is a slipped key.
	leastPHLimit = 1.5
	mostPHLimit  = 8.0
)

var (
	keepingAsked   = []string{"chilled", "ambient", "frozen"}
	productStyles  = []string{"", "pourable dressing", "spoonable dressing", "dip", "pesto", "spread", "marinade"}
	emulsionStyles = []string{"", "shaken", "bound", "yolk-bound", "purée"}
)

// Check lists everything wrong in a version by itself; what it refers to is checked by Flatten.
func (v Version) Check() []pantry.FieldError {
	c := checker{}
	c.lines(v)
	c.making(v)
	c.percent("loss_percent", v.LossPercent, 95)
	c.percent("overfill_percent", v.OverfillPercent, 100)
	c.grams("fill_g", v.FillGrams, 100_000)
	c.grams("water_driven_off_g", v.WaterDrivenOff, amount.MaxGrams)
	if v.WaterDrivenOff.IsPositive() && !v.MixedGrams().IsPositive() {
		c.bad("water_driven_off_g", "more water driven off than there is in the bowl")
	}
	c.checkCosts(v)
	c.acidity(v)
	c.oneOf("keeping.asked", v.Keeping.Asked, keepingAsked)
	c.oneOf("product_style", v.ProductStyle, productStyles)
	c.oneOf("emulsion_style", v.EmulsionStyle, emulsionStyles)
	c.text("note", v.Note, maxText)
	c.text("wording.legal_name", v.Wording.LegalName, maxName)
	for r, s := range v.Wording.Names {
		c.text("wording.names."+strings.ToLower(string(r)), s, maxName)
	}
	if !slices.Contains([]float64{0, 0.5, 1, 1.5, 2}, v.Wording.TailPercent) {
		c.bad("wording.tail_percent", "the small-amounts tail may be 2, 1.5, 1 or 0.5 percent, or off")
	}
	c.within("density_g_ml", v.DensityGPerML, 0, 3)
	c.within("fill_ml", v.FillML, 0, 100_000)
	if v.FillML > 0 && !(v.DensityGPerML > 0) {
		c.bad("fill_ml", "a fill by volume needs the finished density: weigh a known volume once")
	}
	c.text("jar", v.Jar, maxName)
	c.within("largest_piece_mm", v.LargestPieceMM, 0, 200)
	c.within("keeping.heat_min_c", v.Keeping.HeatMinC, 0, 130)
	c.within("keeping.heat_min_minutes", v.Keeping.HeatMinMinutes, 0, 1440)
	c.within("keeping.after_opening_days", float64(v.Keeping.AfterOpening), 0, 90)
	return c.errs
}

// acidity checks limit and target.
func (c *checker) acidity(v Version) {
	if !(v.PHLimit >= leastPHLimit && v.PHLimit <= mostPHLimit) {
		c.bad("ph_limit", "a limit lies between %g and %g", leastPHLimit, mostPHLimit)
	}
	if !(v.PHTarget >= leastPHLimit && v.PHTarget <= v.PHLimit) {
		c.bad("ph_target", "the target lies between %g and the limit of %g", leastPHLimit, v.PHLimit)
	}
	if v.PHLimit > DefaultPHLimit && v.Keeping.Asked == "ambient" {
		c.bad("ph_limit", "a limit above 4.6 is only for chilled or frozen products")
	}
}

// lines checks what lines are of, and how many ways their groups can be made up.
func (c *checker) lines(v Version) {
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
		c.grams(at+".grams", l.Grams, amount.MaxGrams)
		c.text(at+".phase", l.Phase, maxName)
		c.text(at+".note", l.Note, maxText)
		c.line(at, l)
	}
	if n := len(v.Groups()); n > 0 && v.Resolutions() > maxOptions {
		c.bad("lines", "the “any of” groups can be made up in %d ways; at most %d can be judged", v.Resolutions(),
			maxOptions)
	}
}

// line checks what a line says beyond its grams.
func (c *checker) line(at string, l Line) {
	c.text(at+".words", l.Words, maxText)
	if len(l.AnyOf) > 0 {
		switch {
		case l.Ingredient == "" || !slices.Contains(l.AnyOf, l.Ingredient):
			c.bad(at+".any_of", "the line's own ingredient is one of the group")
		case len(l.AnyOf) < 2 || len(l.AnyOf) > maxAnyOf ||
			len(slices.Compact(slices.Sorted(slices.Values(l.AnyOf)))) != len(l.AnyOf):
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
		c.grams(at+".grams_per_jar", t.Grams, 10_000)
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
		c.within(at+".price", p.Price.Float(), 0, amount.MaxMoney)
		c.percent(at+".loss_percent", p.LossPercent, 500)
		c.within(at+".jars_a_piece", float64(p.PerPiece), 0, 1000)
	}
	if v.CostingJars < 1 || v.CostingJars > 100_000 {
		c.bad("costing_jars", "between 1 and 100 000 jars")
	}
	c.within("minutes_per_batch", v.MinutesPerBatch.Float(), 0, 100_000)
	c.within("minutes_per_jar", v.MinutesPerJar.Float(), 0, 10_000)
	c.within("labour_per_hour", v.LabourPerHour.Float(), 0, 1_000_000)
	c.within("overhead_per_batch", v.OverheadPerBatch.Float(), 0, amount.MaxMoney)
	c.within("overhead_per_jar", v.OverheadPerJar.Float(), 0, amount.MaxMoney)
	c.within("minutes_per_load", v.MinutesPerLoad.Float(), 0, 100_000)
	c.within("oven_minutes", v.OvenMinutes.Float(), 0, 100_000)
	c.percent("reject_percent", v.RejectPercent, 95)
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

func (c *checker) grams(field string, g amount.Grams, most float64) {
	switch {
	case g.IsNegative():
		c.bad(field, "grams cannot be negative")
	case g.Float() > most:
		c.bad(field, "more than %g g is a slipped key", most)
	}
}

// within refuses what is no number, too.
func (c *checker) within(field string, x, least, most float64) {
	if !(x >= least && x <= most) {
		c.bad(field, "between %s and %s", amount.Shown(least, 0), amount.Shown(most, 0))
	}
}

func (c *checker) percent(field string, p amount.Percent, most float64) {
	if !(p.Float() >= 0 && p.Float() <= most) {
		c.bad(field, "between 0 and %g %%", most)
	}
}

func (c *checker) oneOf(field, s string, list []string) {
	if !slices.Contains(list, s) {
		c.bad(field, "%q is none of %s", s, strings.Join(list, ", "))
	}
}
