package pantry

import (
	"strings"
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
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
	sound := PriceOffer{Supplier: "Fallowfield Veg", PackAmount: amount.MustQuantity("1000"), PackUnit: "g",
		Price: amount.MustMoney("2.5"),
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
		"nobody":          {"supplier", func(o *PriceOffer) { o.Supplier = "" }},
		"a long supplier": {"supplier", func(o *PriceOffer) { o.Supplier = strings.Repeat("s", 201) }},
		"an empty pack":   {"pack_amount", func(o *PriceOffer) { o.PackAmount = amount.MustQuantity("0") }},
		"a lorry too large": {"pack_amount",
			func(o *PriceOffer) { o.PackAmount = amount.MustQuantity("10000000.001") }},
		"a box":             {"pack_unit", func(o *PriceOffer) { o.PackUnit = "box" }},
		"less than nothing": {"price", func(o *PriceOffer) { o.Price = amount.MustMoney("-0.01") }},
		"for nothing":       {"price", func(o *PriceOffer) { o.Price = amount.MustMoney("0") }},
		"paid for delivery": {"delivery", func(o *PriceOffer) { o.Delivery = amount.MustMoney("-1") }},
		"all tax":           {"tax_percent", func(o *PriceOffer) { o.TaxPercent = amount.Pct(100.1) }},
		"over before":       {"valid_until", func(o *PriceOffer) { o.ValidUntil = "2000-01-02" }},
		"no day":            {"date", func(o *PriceOffer) { o.Date = "2026-02-30" }},
		"the year 1999":     {"date", func(o *PriceOffer) { o.Date = "1999-12-31" }},
		"the year 2201":     {"valid_until", func(o *PriceOffer) { o.ValidUntil = "2201-01-01" }},
	} {
		o := sound
		c.spoil(&o)
		assert.True(t, wrongAt(o.Check(), c.field), name)
	}
	o := sound
	o.Price, o.PackAmount, o.Date, o.ValidUntil = amount.MustMoney("0.000001"), amount.MustQuantity("10000000"),
		"2000-01-01",
		"2200-12-31"
	assert.Empty(t, o.Check())
}

// soundStep is a kitchen step in which nothing is wrong.
func soundStep() Preparation {
	return Preparation{ID: "x.y", Name: "Zest", Input: "lime", Output: "zest", YieldPercent: 5, CoOutput: "juice",
		CoYield: 40,
		Extras:  []ExtraInput{{Ingredient: "water"}},
		Records: []YieldTrial{{Day: "2026-11-20", In: 1000, Out: 50, Co: 400}}}
}

func TestEveryNumberOfAStepHasItsBounds(t *testing.T) {
	assert.Empty(t, soundStep().Check())
	for _, c := range []struct {
		field     string
		low, high float64
		set       func(p *Preparation, x float64)
	}{
		{"yield_percent", 0.001, 1000, func(p *Preparation, x float64) { p.YieldPercent = x }},
		{"co_yield_percent", 0.001, 100, func(p *Preparation, x float64) { p.CoYield = x }},
		{"spread_percent", 0, 100, func(p *Preparation, x float64) { p.SpreadPercent = x }},
		{"labour_min_per_kg", 0, 1000, func(p *Preparation, x float64) { p.MinutesPerKg = x }},
		{"wait_min", 0, 20_000, func(p *Preparation, x float64) { p.WaitMinutes = x }},
		{"co_cost_share_percent", 0, 100, func(p *Preparation, x float64) { p.CoShare = x }},
		{"extras[0].grams_per_100g", 0, 2000, func(p *Preparation, x float64) { p.Extras[0].PerHundred = x }},
		{"extras[0].uptake_percent", 0, 100, func(p *Preparation, x float64) { p.Extras[0].UptakePercent = x }},
		{"records[0].in_g", 0.001, 10_000_000,
			func(p *Preparation, x float64) { p.Records[0] = YieldTrial{In: x, Out: x} }},
		{"records[0].co_out_g", 0, 10_000_000, func(p *Preparation, x float64) { p.Records[0].Co = x }},
	} {
		for x, wrong := range map[float64]bool{c.low: false, c.high: false, c.low - 0.001: true, c.high + 0.001: true} {
			p := soundStep()
			c.set(&p, x)
			assert.Equal(t, wrong, wrongAt(p.Check(), c.field), "%s: %v", c.field, x)
		}
	}
	fried := soundStep()
	fried.Extras[0].PerHundred, fried.CoYield = 900, 1000
	assert.False(t, wrongAt(fried.Check(), "co_yield_percent"), "as much comes out beside it as went in")
	fried.Extras[0].UptakePercent, fried.Extras[0].CoUptakePercent = 60, 40.1
	assert.True(t, wrongAt(fried.Check(), "extras[0].co_uptake_percent"), "more stays in both than went in")
	swapped := soundStep()
	swapped.Records[0] = YieldTrial{In: 10, Out: 100}
	assert.Empty(t, swapped.Check())
	swapped.Records[0].Out = 100.1
	assert.True(t, wrongAt(swapped.Check(), "records[0].out_g"), "over tenfold is swapped")
}

func TestTheTextsAndPartsOfAStep(t *testing.T) {
	for name, c := range map[string]struct {
		field string
		spoil func(p *Preparation)
	}{
		"no name":               {"name", func(p *Preparation) { p.Name = " " }},
		"a long name":           {"name", func(p *Preparation) { p.Name = strings.Repeat("é", 81) }},
		"nothing goes in":       {"input", func(p *Preparation) { p.Input = "" }},
		"nothing comes out":     {"output", func(p *Preparation) { p.Output = "" }},
		"out is in":             {"output", func(p *Preparation) { p.Output = "lime" }},
		"beside it is out":      {"co_output", func(p *Preparation) { p.CoOutput = "zest" }},
		"beside it is in":       {"co_output", func(p *Preparation) { p.CoOutput = "lime" }},
		"beside it has no name": {"co_output", func(p *Preparation) { p.CoOutput = "" }},
		"too much to look for":  {"look_for", func(p *Preparation) { p.LookFor = strings.Repeat("é", 501) }},
		"eleven extras":         {"extras", func(p *Preparation) { p.Extras = make([]ExtraInput, 11) }},
		"an extra of nothing":   {"extras[0].ingredient", func(p *Preparation) { p.Extras[0].Ingredient = "" }},
		"a note that is too long": {"records[0].note",
			func(p *Preparation) { p.Records[0].Note = strings.Repeat("é", 201) }},
		"nothing came out":           {"records[0].out_g", func(p *Preparation) { p.Records[0].Out = 0 }},
		"less than nothing beside":   {"records[0].co_out_g", func(p *Preparation) { p.Records[0].Co = -1 }},
		"nothing comes out at all":   {"yield_percent", func(p *Preparation) { p.YieldPercent = 0 }},
		"less comes out than naught": {"yield_percent", func(p *Preparation) { p.YieldPercent = -1 }},
	} {
		p := soundStep()
		c.spoil(&p)
		assert.True(t, wrongAt(p.Check(), c.field), name)
	}
	p := soundStep()
	p.Name, p.LookFor, p.Records[0].Note = strings.Repeat("é", 80), strings.Repeat("é", 500), strings.Repeat("é", 200)
	assert.Empty(t, p.Check())
}

func TestTheAgeOfAPriceCountsCalendarDays(t *testing.T) {
	g := soundIngredient()
	rapid.Check(t, func(t *rapid.T) {
		today := time.Date(2000, 1, 1+rapid.IntRange(0, 73_000).Draw(t, "day"), 0, 0, 0, 0, time.UTC)
		age := rapid.IntRange(0, 800).Draw(t, "age")
		g.Offers = []PriceOffer{{Supplier: "A", PackAmount: amount.MustQuantity("1"), PackUnit: "g",
			Price: amount.MustMoney("1"),
			Date:  day.Of(today.AddDate(0, 0, -age))}}
		c, err := g.Cost(Market{Rule: NewestPrice, Today: today, StaleDays: 30, TaxBack: true})
		require.NoError(t, err)
		assert.Equal(t, age, c.AgeDays, g.Offers[0].Date)
	})
}

// TestWhichOfferIsTakenAndWhenItIsOld tries days at and beside the marks.
func TestWhichOfferIsTakenAndWhenItIsOld(t *testing.T) {
	today := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	offer := func(supplier, price string, date, until day.Day) PriceOffer {
		return PriceOffer{Supplier: supplier, PackAmount: amount.MustQuantity("1000"), PackUnit: "g",
			Price: amount.MustMoney(price), Date: date,
			ValidUntil: until}
	}
	g := soundIngredient()
	g.Offers = []PriceOffer{offer("A", "5", "2026-11-01", ""), offer("B", "4", "2026-10-01", ""),
		offer("C", "1", "2026-11-20", "2026-11-24")}
	newest, err := g.Cost(Market{Rule: NewestPrice, Today: today, StaleDays: 180, TaxBack: true})
	require.NoError(t, err)
	assert.Equal(t, "A", newest.Offer.Supplier, "one that has run out is not taken, however new and cheap")
	assert.Equal(t, 24, newest.AgeDays)
	assert.InDelta(t, 0.005, newest.PerGram.Float(), 1e-12)
	cheapest, err := g.Cost(Market{Rule: CheapestPrice, Today: today, StaleDays: 180, TaxBack: true})
	require.NoError(t, err)
	assert.Equal(t, "B", cheapest.Offer.Supplier)
	g.Offers[2].ValidUntil = "2026-11-25"
	lasts, err := g.Cost(Market{Rule: NewestPrice, Today: today, StaleDays: 180, TaxBack: true})
	require.NoError(t, err)
	assert.Equal(t, "C", lasts.Offer.Supplier, "its last day still counts")
	for age, stale := range map[int]bool{0: false, 29: false, 30: false, 31: true} {
		g.Offers = []PriceOffer{offer("A", "5", day.Of(today.AddDate(0, 0, -age)), "")}
		c, err := g.Cost(Market{Rule: NewestPrice, Today: today, StaleDays: 30, TaxBack: true})
		require.NoError(t, err)
		assert.Equal(t, stale, c.Stale, "%d days", age)
	}
	g.Offers = nil
	_, err = g.Cost(Market{Rule: NewestPrice, Today: today, StaleDays: 30, TaxBack: true})
	require.ErrorIs(t, err, ErrNoPrice)
	g.Offers = []PriceOffer{{Supplier: "A", PackAmount: amount.MustQuantity("10"), PackUnit: "piece",
		Price: amount.MustMoney("2"), Date: "2026-11-01"}}
	_, err = g.Cost(Market{Rule: NewestPrice, Today: today, StaleDays: 30, TaxBack: true})
	require.ErrorIs(t, err, ErrNoPackGrams)
	g.PieceGrams, g.UsablePercent = 50, 80
	c, err := g.Cost(Market{Rule: NewestPrice, Today: today, StaleDays: 30, TaxBack: true})
	require.NoError(t, err)
	assert.InDelta(t, 2/(10*50*0.8), c.PerGram.Float(), 1e-12)
}
