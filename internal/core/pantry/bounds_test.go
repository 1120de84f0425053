package pantry

import (
	"strings"
	"testing"

	"gallipot/internal/core/amount"

	"github.com/stretchr/testify/assert"
)

func wrongAt(errs []FieldError, field string) bool {
	for _, e := range errs {
		if e.Field == field {
			return true
		}
	}
	return false
}

func soundIngredient() Ingredient {
	return Ingredient{ID: "x", Name: "Leek", Composition: Composition{Water: 80, Carbohydrate: 10, Sugars: 4, Fat: 1}}
}

// TestEveryNumberOfAnIngredientHasItsBounds tries each field at both its ends and just beyond them.
func TestEveryNumberOfAnIngredientHasItsBounds(t *testing.T) {
	good := soundIngredient()
	assert.Empty(t, good.Check())
	for _, c := range []struct {
		field     string
		low, high float64
		set       func(g *Ingredient, x float64)
	}{
		{"density_g_ml", 0, 3, func(g *Ingredient, x float64) { g.DensityGPerML = x }},
		{"piece_grams", 0, 100_000, func(g *Ingredient, x float64) { g.PieceGrams = x }},
		{"usable_percent", 0, 1000, func(g *Ingredient, x float64) { g.UsablePercent = x }},
		{"sulphites_mg_kg", 0, 1_000_000, func(g *Ingredient, x float64) { g.SulphitesMgKg = &x }},
		{"composition.water", 0, 100, func(g *Ingredient, x float64) { g.Composition.Water = x }},
		{"composition.protein", 0, 100, func(g *Ingredient, x float64) { g.Composition.Protein = x }},
		{"composition.fat", 0, 100, func(g *Ingredient, x float64) { g.Composition.Fat = x }},
		{"composition.fibre", 0, 100, func(g *Ingredient, x float64) { g.Composition.Fibre = x }},
		{"composition.alcohol", 0, 100, func(g *Ingredient, x float64) { g.Composition.Alcohol = x }},
		{"composition.trans", 0, 100, func(g *Ingredient, x float64) { g.Composition.Trans = x }},
		{"composition.sodium_mg", 0, 100_000, func(g *Ingredient, x float64) { g.Composition.SodiumMg = x }},
		{"composition.calcium_mg", 0, 100_000, func(g *Ingredient, x float64) { g.Composition.CalciumMg = x }},
		{"composition.iron_mg", 0, 100_000, func(g *Ingredient, x float64) { g.Composition.IronMg = x }},
		{"composition.potassium_mg", 0, 100_000, func(g *Ingredient, x float64) { g.Composition.PotassiumMg = x }},
		{"composition.cholesterol_mg", 0, 100_000, func(g *Ingredient, x float64) { g.Composition.CholesterolMg = x }},
		{"composition.vitamin_d_ug", 0, 100_000, func(g *Ingredient, x float64) { g.Composition.VitaminDUg = x }},
		{"acids.acetic", 0, 100, func(g *Ingredient, x float64) { g.Acids.Acetic = x }},
		{"acids.citric", 0, 100, func(g *Ingredient, x float64) { g.Acids.Citric = x }},
		{"acids.malic", 0, 100, func(g *Ingredient, x float64) { g.Acids.Malic = x }},
		{"acids.lactic", 0, 100, func(g *Ingredient, x float64) { g.Acids.Lactic = x }},
		{"acids.tartaric", 0, 100, func(g *Ingredient, x float64) { g.Acids.Tartaric = x }},
		{"buffer_mmol_kg_ph", 0, 2000, func(g *Ingredient, x float64) { g.BufferMmol = x }},
		// parts of a whole: at most as much as the whole, with 0.05 g for rounding
		{"composition.saturates", 0, 1.05, func(g *Ingredient, x float64) { g.Composition.Saturates = x }},
		{"composition.sugars", 0, 10.05, func(g *Ingredient, x float64) { g.Composition.Sugars = x }},
		{"composition.hexose", 0, 4.05, func(g *Ingredient, x float64) { g.Composition.Hexose = x }},
		{"composition", 0, 94, func(g *Ingredient, x float64) { g.Composition.Water = x }},
	} {
		t.Run(c.field, func(t *testing.T) {
			for x, wrong := range map[float64]bool{c.high: false, c.high + 0.001: true, c.low: false} {
				g := soundIngredient()
				c.set(&g, x)
				assert.Equal(t, wrong, wrongAt(g.Check(), c.field), "%v", x)
			}
			if c.field != "composition" {
				g := soundIngredient()
				c.set(&g, c.low-0.001)
				assert.True(t, wrongAt(g.Check(), c.field), "below")
			}
		})
	}
}

func TestAnIngredientsPHIsARange(t *testing.T) {
	for p, wrong := range map[PHRange]bool{
		{Typical: 4, Low: 3.5, High: 4.5}: false, {Typical: 3.5, Low: 3.5, High: 3.5}: false,
		{Typical: 0, Low: 0, High: 14}:      false,
		{Typical: 3.4, Low: 3.5, High: 4.5}: true, {Typical: 4.6, Low: 3.5, High: 4.5}: true,
		{Typical: 4, Low: -0.1, High: 4.5}: true, {Typical: 4, Low: 3.5, High: 14.1}: true,
	} {
		g := soundIngredient()
		g.PH = &p
		assert.Equal(t, wrong, wrongAt(g.Check(), "ph"), "%v", p)
	}
}

func TestTheTextsAndWordsOfAnIngredient(t *testing.T) {
	for name, c := range map[string]struct {
		field string
		spoil func(g *Ingredient)
	}{
		"no name":         {"name", func(g *Ingredient) { g.Name = "" }},
		"a long name":     {"name", func(g *Ingredient) { g.Name = strings.Repeat("é", 201) }},
		"an unknown kind": {"chemistry", func(g *Ingredient) { g.Chemistry = "alchemy" }},
		"too many synonyms": {"synonyms", func(g *Ingredient) {
			g.Synonyms = strings.Fields(strings.Repeat("word ",
				31))
		}},
		"an empty synonym":    {"synonyms", func(g *Ingredient) { g.Synonyms = []string{""} }},
		"a long flag":         {"flags", func(g *Ingredient) { g.Flags = []string{strings.Repeat("f", 65)} }},
		"a price of nobody's": {"offers[0].supplier", func(g *Ingredient) { g.Offers = []PriceOffer{{}} }},
	} {
		g := soundIngredient()
		c.spoil(&g)
		assert.True(t, wrongAt(g.Check(), c.field), name)
	}
	g := soundIngredient()
	g.Name, g.Synonyms, g.Flags = strings.Repeat("é", 200), strings.Fields(strings.Repeat("word ", 30)),
		[]string{strings.Repeat("f", 64)}
	assert.Empty(t, g.Check())
	for _, kind := range Chemistries {
		g.Chemistry = kind
		assert.False(t, wrongAt(g.Check(), "chemistry"), kind)
	}
	assert.Len(t, Chemistries, 7)
}

func TestTheBoundsOfAnOffer(t *testing.T) {
	sound := PriceOffer{Supplier: "Fallowfield Veg", PackAmount: amount.QuantityOf("1000"), PackUnit: "g",
		Price: amount.M("2.5"),
		Date:  "2026-11-25"}
	assert.Empty(t, sound.Check())
	for _, unit := range []string{"g", "ml", "piece"} {
		o := sound
		o.PackUnit = unit
		assert.Empty(t, o.Check(), unit)
	}
	for name, c := range map[string]struct {
		field string
		spoil func(o *PriceOffer)
	}{
		"nobody":            {"supplier", func(o *PriceOffer) { o.Supplier = "" }},
		"a long supplier":   {"supplier", func(o *PriceOffer) { o.Supplier = strings.Repeat("s", 201) }},
		"an empty pack":     {"pack_amount", func(o *PriceOffer) { o.PackAmount = amount.QuantityOf("0") }},
		"a lorry too large": {"pack_amount", func(o *PriceOffer) { o.PackAmount = amount.QuantityOf("10000000.001") }},
		"a box":             {"pack_unit", func(o *PriceOffer) { o.PackUnit = "box" }},
		"less than nothing": {"price", func(o *PriceOffer) { o.Price = amount.M("-0.01") }},
		"no day":            {"date", func(o *PriceOffer) { o.Date = "2026-02-30" }},
		"the year 1999":     {"date", func(o *PriceOffer) { o.Date = "1999-12-31" }},
		"the year 2201":     {"valid_until", func(o *PriceOffer) { o.ValidUntil = "2201-01-01" }},
	} {
		o := sound
		c.spoil(&o)
		assert.True(t, wrongAt(o.Check(), c.field), name)
	}
	o := sound
	o.Price, o.PackAmount, o.Date, o.ValidUntil = amount.M("0"), amount.QuantityOf("10000000"), "2000-01-01",
		"2200-12-31"
	assert.Empty(t, o.Check())
}
