package pantry

import (
	"strings"
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var day = time.Date(2026, 3, 2, 10, 0, 0, 0, time.UTC)

func TestParseSupplierListKeepsOrderAndNests(t *testing.T) {
	items,
		err := ParseSupplierList("green olives; water; pimento paste (red pepper; water; thickener: sodium alginate); salt.")
	require.NoError(t, err)
	require.Len(t, items, 4)
	assert.Equal(t, "pimento paste", items[2].Name)
	require.Len(t, items[2].Parts, 3)
	assert.Equal(t, "thickener: sodium alginate", items[2].Parts[2].Name)
	assert.Equal(t, "salt", items[3].Name)
	assert.Equal(t, "green olives, water, pimento paste (red pepper, water, thickener: sodium alginate), salt",
		PrintList(items))
}

func TestParseSupplierListTakesCommasAndSquareBrackets(t *testing.T) {
	items, err := ParseSupplierList("rapeseed oil 75%, water, vegetables [onion, carrot (carrot, water)], salt")
	require.NoError(t, err)
	require.Len(t, items, 4)
	assert.Equal(t, "carrot", items[2].Parts[1].Name)
	assert.Len(t, items[2].Parts[1].Parts, 2)
	none, err := ParseSupplierList("  ")
	require.NoError(t, err)
	assert.Empty(t, none)
}

func TestParseSupplierListSaysWhereItFails(t *testing.T) {
	for text, want := range map[string]string{
		"oil (a; b":              "character 5: this bracket is never closed",
		"oil a; b)":              "character 9: this bracket closes nothing",
		"oil (a; b]":             "character 10: this bracket closes nothing",
		"a;; b":                  "character 3: an entry is empty here",
		".":                      "an entry is empty here",
		"(a; b)":                 "character 1: a bracket opens before any name",
		"a (b (c (d (e (f (g (h": "lists nest deeper than 6",
	} {
		_, err := ParseSupplierList(text)
		require.Error(t, err, text)
		assert.Contains(t, err.Error(), want, text)
	}
}

func FuzzParseSupplierListNeverPanics(f *testing.F) {
	for _, s := range []string{"a; b (c, d)", "((((", "))", "a(b", "é; ü [ñ]", ";;;", "a,b;c(d,e;f)"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		items, err := ParseSupplierList(s)
		if err == nil {
			_ = PrintList(items)
		}
	})
}

func offers() []PriceOffer {
	return []PriceOffer{
		{Supplier: "Marl Mill", PackAmount: amount.QuantityOf("5000"), PackUnit: "g", Price: amount.M("7.25"),
			Date: "2026-02-20"},
		{Supplier: "Fallow", PackAmount: amount.QuantityOf("1000"), PackUnit: "g", Price: amount.M("1.20"),
			Date: "2026-01-05"},
		{Supplier: "Gone", PackAmount: amount.QuantityOf("1000"), PackUnit: "g", Price: amount.M("0.10"),
			Date: "2026-03-01", ValidUntil: "2026-03-01"},
	}
}

func TestCostFollowsTheShopsRule(t *testing.T) {
	g := Ingredient{Name: "Beetroot", UsablePercent: 81, Offers: offers()}
	newest, err := g.Cost(NewestPrice, day, 90)
	require.NoError(t, err)
	assert.Equal(t, "Marl Mill", newest.Offer.Supplier)
	assert.Equal(t, "0.00179", newest.PerGram.Fixed(5))
	assert.Contains(t, g.Arithmetic(newest.Offer), "7.25 / 5000 g / 81 % usable")
	assert.False(t, newest.Stale)
	cheapest, err := g.Cost(CheapestPrice, day, 30)
	require.NoError(t, err)
	assert.Equal(t, "Fallow", cheapest.Offer.Supplier, "an offer past its date does not count")
	assert.True(t, cheapest.Stale)
}

func TestCostByVolumeAndPieceNeedsTheGrams(t *testing.T) {
	oil := Ingredient{Name: "Oil", Offers: []PriceOffer{{Supplier: "P", PackAmount: amount.QuantityOf("10000"),
		PackUnit: "ml", Price: amount.M("31"), Date: "2026-02-01"}}}
	_, err := oil.Cost(NewestPrice, day, 90)
	assert.ErrorIs(t, err, ErrNoPackGrams)
	oil.DensityGPerML = 0.92
	c, err := oil.Cost(NewestPrice, day, 90)
	require.NoError(t, err)
	assert.Equal(t, "3.3696", c.PerGram.Times(amount.Whole(1000)).Fixed(4))
	lemon := Ingredient{Name: "Lemon", PieceGrams: 120,
		Offers: []PriceOffer{{Supplier: "F", PackAmount: amount.QuantityOf("20"), PackUnit: "piece",
			Price: amount.M("6"), Date: "2026-02-01"}}}
	c, err = lemon.Cost(NewestPrice, day, 90)
	require.NoError(t, err)
	assert.Equal(t, "2.5000", c.PerGram.Times(amount.Whole(1000)).Fixed(4))
	_, err = (&Ingredient{Name: "Miso"}).Cost(NewestPrice, day, 90)
	assert.ErrorIs(t, err, ErrNoPrice)
}

func TestCheckNamesEachMistakeAtItsField(t *testing.T) {
	g := Ingredient{Name: " ", Labels: law.Each[string]{law.US: strings.Repeat("x", 300)}, UsablePercent: -1,
		Composition:   Composition{Water: 80, Fat: 40, Saturates: 50, Sugars: 5},
		PH:            &PHRange{Typical: 5, Low: 6, High: 7},
		Allergens:     law.Each[[]string]{law.US: {"tree_nut"}, law.GB: {"glitter"}},
		SupplierLists: law.Each[string]{law.GB: "a (b"},
		Offers: []PriceOffer{{Supplier: "", PackAmount: amount.QuantityOf("0"), PackUnit: "box", Price: amount.M("-1"),
			Date: "soon"}}}
	at := map[string]bool{}
	for _, e := range g.Check() {
		at[e.Field] = true
		assert.NotEmpty(t, e.Message)
	}
	for _, want := range []string{"name", "label_names.us", "usable_percent", "composition", "composition.saturates",
		"composition.sugars", "ph", "allergens.us", "allergens.gb",
		"supplier_lists.gb", "offers[0].supplier", "offers[0].pack_amount", "offers[0].pack_unit", "offers[0].price",
		"offers[0].date"} {
		assert.True(t, at[want], want)
	}
}

func TestDryIngredientsHaveNoWaterPhase(t *testing.T) {
	assert.True(t, (&Ingredient{Role: "oil"}).Dry())
	assert.True(t, (&Ingredient{Flags: []string{"salt"}, Composition: Composition{Water: 0.5}}).Dry())
	assert.True(t, (&Ingredient{Flags: []string{"additive:thickener"}, Composition: Composition{Water: 11}}).Dry())
	assert.False(t, (&Ingredient{Flags: []string{"sugar"}, Composition: Composition{Water: 32},
		PH: &PHRange{Typical: 6}}).Dry(), "a syrup has a water phase")
	assert.False(t, (&Ingredient{Composition: Composition{Water: 8}}).Dry(), "a dry pulse of unknown pH counts")
}
