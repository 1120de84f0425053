package formula

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
)

// mistakenAt reports whether a version is told to be wrong at a field.
func mistakenAt(v Version, field string) bool {
	for _, e := range v.Check() {
		if e.Field == field {
			return true
		}
	}
	return false
}

// sound is a version in which nothing is wrong, to spoil one thing at a time.
func sound() Version {
	v := Blank("x")
	v.Lines = []Line{line("a", "oil", 600), line("b", "carrot", 400)}
	v.Steps = []Step{{Text: "blend", Minutes: 2, Celsius: 20}}
	v.Packaging = []PackagingItem{{Name: "jar", Price: amount.MustMoney("0.4")}}
	v.Toppings = []Topping{{ID: "t", Ingredient: "oil", Grams: amount.G(5)}}
	return v
}

// TestEveryNumberOfAVersionHasItsBounds tries each field at both its ends and just beyond them.
func TestEveryNumberOfAVersionHasItsBounds(t *testing.T) {
	assert.Empty(t, sound().Check())
	for _, c := range []struct {
		field     string
		low, high float64
		step      float64
		set       func(v *Version, x float64)
	}{
		{"lines[0].grams", 0, amount.MaxGrams, 0.001, func(v *Version, x float64) { v.Lines[0].Grams = amount.G(x) }},
		{"lines[0].hold_back_percent", 0, 100, 0.001, func(v *Version, x float64) { v.Lines[0].HoldBackPercent = x }},
		{"lines[0].tolerance_percent", 0, 50, 0.001, func(v *Version, x float64) { v.Lines[0].TolerancePercent = x }},
		{"lines[0].scale_exponent", 0.5, 1, 0.001, func(v *Version, x float64) { v.Lines[0].ScaleExponent = x }},
		{"loss_percent", 0, 95, 0.001, func(v *Version, x float64) { v.LossPercent = amount.Pct(x) }},
		{"overfill_percent", 0, 100, 0.001, func(v *Version, x float64) { v.OverfillPercent = amount.Pct(x) }},
		{"fill_g", 0, 100_000, 0.001, func(v *Version, x float64) { v.FillGrams = amount.G(x) }},
		{"costing_jars", 1, 100_000, 1, func(v *Version, x float64) { v.CostingJars = int(x) }},
		{"ph_limit", 1.5, 8, 0.001, func(v *Version, x float64) { v.PHLimit, v.PHTarget = x, 1.5 }},
		{"ph_target", 1.5, 4.6, 0.001, func(v *Version, x float64) { v.PHLimit, v.PHTarget = 4.6, x }},
		{"density_g_ml", 0, 3, 0.001, func(v *Version, x float64) { v.DensityGPerML = x }},
		{"largest_piece_mm", 0, 200, 0.001, func(v *Version, x float64) { v.LargestPieceMM = x }},
		{"keeping.heat_min_c", 0, 130, 0.001, func(v *Version, x float64) { v.Keeping.HeatMinC = x }},
		{"keeping.heat_min_minutes", 0, 1440, 0.001, func(v *Version, x float64) { v.Keeping.HeatMinMinutes = x }},
		{"keeping.after_opening_days", 0, 90, 1, func(v *Version, x float64) { v.Keeping.AfterOpening = int(x) }},
		{"steps[0].minutes", 0, 20_000, 0.001, func(v *Version, x float64) { v.Steps[0].Minutes = x }},
		{"steps[0].celsius", -40, 300, 0.001, func(v *Version, x float64) { v.Steps[0].Celsius = x }},
		{"packaging[0].loss_percent", 0, 500, 0.001,
			func(v *Version, x float64) { v.Packaging[0].LossPercent = amount.Pct(x) }},
		{"toppings[0].grams_per_jar", 0, 10_000, 0.001,
			func(v *Version, x float64) { v.Toppings[0].Grams = amount.G(x) }},
	} {
		t.Run(c.field, func(t *testing.T) {
			for x, wrong := range map[float64]bool{c.low: false, c.high: false, c.low - c.step: true,
				c.high + c.step: true} {
				v := sound()
				c.set(&v, x)
				assert.Equal(t, wrong, mistakenAt(v, c.field), "%v", x)
			}
		})
	}
}

// TestEveryTextAndListOfAVersionHasItsLength tries each at its greatest length and one over.
func TestEveryTextAndListOfAVersionHasItsLength(t *testing.T) {
	for _, c := range []struct {
		field string
		most  int
		set   func(v *Version, n int)
	}{
		{"lines", 200, func(v *Version, n int) {
			v.Lines = nil
			for i := range n {
				v.Lines = append(v.Lines, line(fmt.Sprint(i), "oil", 1))
			}
		}},
		{"steps", 60, func(v *Version, n int) { v.Steps = slices.Repeat([]Step{{Text: "stir"}}, n) }},
		{"packaging", 20, func(v *Version, n int) { v.Packaging = slices.Repeat([]PackagingItem{{Name: "jar"}}, n) }},
		{"toppings", 10, func(v *Version, n int) {
			v.Toppings = nil
			for i := range n {
				v.Toppings = append(v.Toppings, Topping{ID: fmt.Sprint("t", i), Ingredient: "oil"})
			}
		}},
		{"words", 25_000, func(v *Version, n int) { v.Words = strings.Repeat("é", n) }},
	} {
		t.Run(c.field, func(t *testing.T) {
			v := sound()
			c.set(&v, c.most)
			assert.False(t, mistakenAt(v, c.field), "%d", c.most)
			c.set(&v, c.most+1)
			assert.True(t, mistakenAt(v, c.field), "%d", c.most+1)
		})
	}
}

// TestTheWordsAVersionMayChooseFrom reads each dictionary from the outside.
func TestTheWordsAVersionMayChooseFrom(t *testing.T) {
	for _, c := range []struct {
		field string
		known []string
		set   func(v *Version, s string)
	}{
		{"keeping.asked", []string{"chilled", "ambient", "frozen"}, func(v *Version, s string) { v.Keeping.Asked = s }},
		{"product_style", []string{"", "pourable dressing", "spoonable dressing", "dip", "pesto", "spread", "marinade"},
			func(v *Version, s string) { v.ProductStyle = s }},
		{"emulsion_style", []string{"", "shaken", "bound", "yolk-bound", "purée"},
			func(v *Version, s string) { v.EmulsionStyle = s }},
		{"lines[0].purpose", []string{"", "binds", "sours", "salts", "sweetens", "colours", "thins"},
			func(v *Version, s string) { v.Lines[0].Purpose = s }},
	} {
		for _, s := range append(slices.Clone(c.known), "something else") {
			v := sound()
			c.set(&v, s)
			assert.Equal(t, !slices.Contains(c.known, s), mistakenAt(v, c.field), "%s: %q", c.field, s)
		}
	}
	for percent, wrong := range map[float64]bool{0: false, 0.5: false, 1: false, 1.5: false, 2: false, 0.7: true,
		2.5: true} {
		v := sound()
		v.Wording.TailPercent = percent
		assert.Equal(t, wrong, mistakenAt(v, "wording.tail_percent"), "%v", percent)
	}
}

func TestAnAmbientVersionsLimit(t *testing.T) {
	v := sound()
	v.Keeping.Asked, v.PHLimit, v.PHTarget = "ambient", 4.6, 4.2
	assert.False(t, mistakenAt(v, "ph_limit"))
	v.PHLimit = 4.61
	assert.True(t, mistakenAt(v, "ph_limit"))
	v.Keeping.Asked = "chilled"
	assert.False(t, mistakenAt(v, "ph_limit"))
	v.Wording.Names = law.Each[string]{law.GB: strings.Repeat("n", 1000)}
	assert.True(t, mistakenAt(v, "wording.names.gb"))
}

func TestWhatMakesALineALine(t *testing.T) {
	for name, c := range map[string]struct {
		field string
		spoil func(v *Version)
	}{
		"nothing named":    {"lines[0]", func(v *Version) { v.Lines[0].Ingredient = "" }},
		"two things named": {"lines[0]", func(v *Version) { v.Lines[0].Component = &Ref{"base", 1} }},
		"no id":            {"lines[0].id", func(v *Version) { v.Lines[0].ID = "" }},
		"the same id":      {"lines[1].id", func(v *Version) { v.Lines[1].ID = "a" }},
		"a group without it": {"lines[0].any_of",
			func(v *Version) { v.Lines[0].AnyOf = []string{"carrot", "water"} }},
		"a group of one":       {"lines[0].any_of", func(v *Version) { v.Lines[0].AnyOf = []string{"oil"} }},
		"a group with doubles": {"lines[0].any_of", func(v *Version) { v.Lines[0].AnyOf = []string{"oil", "oil"} }},
		"a group too large": {"lines[0].any_of",
			func(v *Version) { v.Lines[0].AnyOf = strings.Fields("oil a b c d e f g h") }},
		"too much driven off":   {"water_driven_off_g", func(v *Version) { v.WaterDrivenOff = amount.G(1000) }},
		"a topping with a line": {"toppings[0].id", func(v *Version) { v.Toppings[0].ID = "a" }},
		"a topping of nothing":  {"toppings[0].ingredient", func(v *Version) { v.Toppings[0].Ingredient = "" }},
		"a step without words":  {"steps[0].text", func(v *Version) { v.Steps[0].Text = "  " }},
	} {
		v := sound()
		c.spoil(&v)
		assert.True(t, mistakenAt(v, c.field), name)
	}
	v := sound()
	v.WaterDrivenOff = amount.G(999.999)
	assert.False(t, mistakenAt(v, "water_driven_off_g"))
	v.Lines[0].AnyOf = strings.Fields("oil a b c d e f g")
	assert.False(t, mistakenAt(v, "lines[0].any_of"), "eight are taken")
}
