package pantry

import (
	"strings"
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var fixedDay = time.Date(2026, 3, 2, 10, 0, 0, 0, time.UTC)

func TestParseSupplierListKeepsOrderAndNests(t *testing.T) {
	items,
		err := ParseSupplierList(
		"green olives; water; pimento paste (red pepper; water; thickener: sodium alginate); salt.")
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
		{Supplier: "Marl Mill", PackAmount: amount.MustQuantity("5000"), PackUnit: "g", Price: amount.MustMoney("7.25"),
			Date: "2026-02-20"},
		{Supplier: "Fallow", PackAmount: amount.MustQuantity("1000"), PackUnit: "g", Price: amount.MustMoney("1.20"),
			Date: "2026-01-05"},
		{Supplier: "Gone", PackAmount: amount.MustQuantity("1000"), PackUnit: "g", Price: amount.MustMoney("0.10"),
			Date: "2026-03-01", ValidUntil: "2026-03-01"},
	}
}

func TestCostFollowsTheShopsRule(t *testing.T) {
	g := Ingredient{Name: "Beetroot", UsablePercent: 81, Offers: offers()}
	newest, err := g.Cost(Market{Rule: NewestPrice, Today: fixedDay, StaleDays: 90})
	require.NoError(t, err)
	assert.Equal(t, "Marl Mill", newest.Offer.Supplier)
	assert.Equal(t, "0.00179", newest.PerGram.Fixed(5))
	assert.Contains(t, g.Arithmetic(newest), "7.25 / 5000 g / 81 % usable")
	assert.False(t, newest.Stale)
	cheapest, err := g.Cost(Market{Rule: CheapestPrice, Today: fixedDay, StaleDays: 30})
	require.NoError(t, err)
	assert.Equal(t, "Fallow", cheapest.Offer.Supplier, "an offer past its date does not count")
	assert.True(t, cheapest.Stale)
}

func TestCostByVolumeAndPieceNeedsTheGrams(t *testing.T) {
	oil := Ingredient{Name: "Oil", Offers: []PriceOffer{{Supplier: "P", PackAmount: amount.MustQuantity("10000"),
		PackUnit: "ml", Price: amount.MustMoney("31"), Date: "2026-02-01"}}}
	_, err := oil.Cost(Market{Rule: NewestPrice, Today: fixedDay, StaleDays: 90})
	assert.ErrorIs(t, err, ErrNoPackGrams)
	oil.DensityGPerML = 0.92
	c, err := oil.Cost(Market{Rule: NewestPrice, Today: fixedDay, StaleDays: 90})
	require.NoError(t, err)
	assert.Equal(t, "3.3696", c.PerGram.Times(amount.Whole(1000)).Fixed(4))
	lemon := Ingredient{Name: "Lemon", PieceGrams: 120,
		Offers: []PriceOffer{{Supplier: "F", PackAmount: amount.MustQuantity("20"), PackUnit: "piece",
			Price: amount.MustMoney("6"), Date: "2026-02-01"}}}
	c, err = lemon.Cost(Market{Rule: NewestPrice, Today: fixedDay, StaleDays: 90})
	require.NoError(t, err)
	assert.Equal(t, "2.5000", c.PerGram.Times(amount.Whole(1000)).Fixed(4))
	_, err = (&Ingredient{Name: "Miso"}).Cost(Market{Rule: NewestPrice, Today: fixedDay, StaleDays: 90})
	assert.ErrorIs(t, err, ErrNoPrice)
}

func TestAPriceStartsOnItsDay(t *testing.T) {
	offer := func(price string, date, until day.Day) PriceOffer {
		return PriceOffer{Supplier: "M", PackAmount: amount.MustQuantity("1000"), PackUnit: "g",
			Price: amount.MustMoney(price),
			Date:  date, ValidUntil: until}
	}
	g := Ingredient{Name: "Beetroot", Offers: []PriceOffer{offer("9", "2027-03-01", ""), offer("4", "2026-02-20", "")}}
	on := func(rule PriceRule, at time.Time) string {
		c, err := g.Cost(Market{Rule: rule, Today: at, StaleDays: 90})
		require.NoError(t, err)
		return c.Offer.Price.Fixed(0)
	}
	west := time.FixedZone("west", -8*3600)
	assert.Equal(t, "4", on(NewestPrice, fixedDay))
	assert.Equal(t, "4", on(NewestPrice, time.Date(2027, 2, 28, 23, 0, 0, 0, west)), "the shop's day, not that of UTC")
	assert.Equal(t, "9", on(NewestPrice, time.Date(2027, 3, 1, 0, 30, 0, 0, west)))
	g.Offers = []PriceOffer{offer("1", "2027-03-01", ""), offer("4", "2026-02-20", "")}
	assert.Equal(t, "4", on(CheapestPrice, fixedDay))
	g.Offers = []PriceOffer{offer("4", "2026-02-01", "2026-03-02")}
	assert.Equal(t, "4", on(NewestPrice, time.Date(2026, 3, 2, 23, 30, 0, 0, west)), "its last day is the shop's too")
	g.Offers = []PriceOffer{offer("9", "2027-03-01", "")}
	_, err := g.Cost(Market{Rule: NewestPrice, Today: fixedDay})
	require.ErrorIs(t, err, ErrNoPrice)
	assert.ErrorContains(t, err, "before 2027-03-01")
}

func TestWhatAPackCostsHoldsDeliveryAndTax(t *testing.T) {
	o := PriceOffer{Supplier: "M", PackAmount: amount.MustQuantity("1000"), PackUnit: "g",
		Price:    amount.MustMoney("20"),
		Delivery: amount.MustMoney("4"), Date: "2026-02-20"}
	assert.Equal(t, "24.00", o.PackCost(true).Fixed(2))
	o.TaxPercent = amount.Pct(20)
	assert.Equal(t, "24.00", o.PackCost(true).Fixed(2), "the tax is got back")
	assert.Equal(t, "28.80", o.PackCost(false).Fixed(2), "it is not")
	o.WithTax = true
	assert.Equal(t, "20.00", o.PackCost(true).Fixed(2))
	assert.Equal(t, "24.00", o.PackCost(false).Fixed(2))
	g := Ingredient{Name: "Oil", Offers: []PriceOffer{o}}
	c, err := g.Cost(Market{Today: fixedDay, TaxBack: true})
	require.NoError(t, err)
	assert.Equal(t, "(20.00 + 4.00 delivery) / 1.2 with tax / 1000 g", g.Arithmetic(c))
}

func TestAPriceByThePieceTakesTheMeasuredPiece(t *testing.T) {
	lime := Ingredient{ID: "lime", Name: "Lime", Offers: []PriceOffer{{Supplier: "F",
		PackAmount: amount.MustQuantity("50"), PackUnit: "piece", Price: amount.MustMoney("14"), Date: "2026-02-01"}}}
	m := Market{Today: fixedDay, Piece: func(id string) float64 { return map[string]float64{"lime": 70}[id] }}
	c, err := lime.Cost(m)
	require.NoError(t, err)
	assert.Equal(t, "4.0000", c.PerGram.Times(amount.Whole(1000)).Fixed(4), "14.00 / (50 x 70 g)")
	assert.Equal(t, "14.00 / (50 pieces x 70 g)", lime.Arithmetic(c))
	lid := Ingredient{ID: "lid", Role: RolePackaging, Offers: lime.Offers}
	c, err = lid.Cost(m)
	require.NoError(t, err)
	assert.Equal(t, "14.00 / 50 pieces", lid.Arithmetic(c), "what goes around a jar has no grams")
	lime.PieceGrams = 56
	c, err = lime.Cost(m)
	require.NoError(t, err)
	assert.Equal(t, "5.0000", c.PerGram.Times(amount.Whole(1000)).Fixed(4), "its own page goes first")
}

func TestTheLotsOnHandTellThePriceWhereTheShopWantsIt(t *testing.T) {
	g := Ingredient{ID: "beet", Name: "Beetroot", UsablePercent: 80, Offers: offers()}
	m := Market{Rule: LotsPrice, Today: fixedDay, StaleDays: 90,
		Lots: func(id string) (amount.Grams, amount.Exact, bool) {
			return amount.G(2400), amount.Ratio(2, 1000), id == "beet"
		}}
	c, err := g.Cost(m)
	require.NoError(t, err)
	assert.Equal(t, "2.5000", c.PerGram.Times(amount.Whole(1000)).Fixed(4),
		"2.00 a kg as bought, of which 80 % is used")
	assert.Equal(t, "what the 2400 g on hand cost, lot by lot", g.Arithmetic(c))
	other := Ingredient{ID: "other", Name: "Other", Offers: offers()}
	c, err = other.Cost(m)
	require.NoError(t, err)
	assert.Equal(t, "Marl Mill", c.Offer.Supplier, "where no lot tells, the newest")
}

func TestCheckNamesEachMistakeAtItsField(t *testing.T) {
	g := Ingredient{Name: " ", Labels: law.Each[string]{law.US: strings.Repeat("x", 300)}, UsablePercent: -1,
		Composition:   Composition{Water: 80, Fat: 40, Saturates: 50, Sugars: 5},
		PH:            &PHRange{Typical: 5, Low: 6, High: 7},
		Allergens:     law.Each[[]string]{law.US: {"tree_nut"}, law.GB: {"glitter"}},
		SupplierLists: law.Each[string]{law.GB: "a (b"},
		Offers: []PriceOffer{{Supplier: "", PackAmount: amount.MustQuantity("0"), PackUnit: "box",
			Price: amount.MustMoney("-1"),
			Date:  "soon"}}}
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
