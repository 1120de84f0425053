package costing

import (
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestCostFollowsTheInputThroughSteps(t *testing.T) {
	today := time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC)
	perKilo := func(price string) []pantry.PriceOffer {
		return []pantry.PriceOffer{{Supplier: "M", PackAmount: amount.MustQuantity("1000"), PackUnit: "g",
			Price: amount.MustMoney(price), Date: "2026-11-01"}}
	}
	shelf := map[string]pantry.Ingredient{
		"head": {ID: "head", Name: "head", Offers: perKilo("8.00")}, "clove": {ID: "clove", Name: "clove"},
		"soft": {ID: "soft", Name: "soft"},
		"oil":  {ID: "oil", Name: "oil", Offers: perKilo("10.00")},
		"jar":  {ID: "jar", Name: "jar", Offers: perKilo("30.00")}, "nothing": {ID: "nothing", Name: "nothing"},
	}
	load := func(id string) (pantry.Ingredient, bool) { g, ok := shelf[id]; return g, ok }
	steps := []pantry.Preparation{
		{ID: "peel", Input: "head", Output: "clove", YieldPercent: 80},
		{ID: "confit", Input: "clove", Output: "soft", YieldPercent: 50, CoOutput: "oil_after", CoYield: 100,
			CoShare: 20, Extras: []pantry.ExtraInput{{Ingredient: "oil", PerHundred: 100, UptakePercent: 10}}},
		{ID: "circle", Input: "nothing", Output: "nothing2", YieldPercent: 50},
	}
	market := pantry.Market{Rule: pantry.NewestPrice, Today: today, StaleDays: 90}
	rate := PricesBy(market, steps, load).Rate()
	per := func(id string) float64 {
		c, err := rate(&pantry.Ingredient{ID: id, Name: id, Offers: shelf[id].Offers}, "")
		require.NoError(t, err, id)
		return c.PerGram.Float() * 1000
	}
	assert.InDelta(t, 10, per("clove"), 1e-9, "8.00 / 80 %")
	assert.InDelta(t, (0.8*10*100+10*10)/50.0, per("soft"), 1e-9,
		"cloves less what the oil carries, and the tenth of the oil that stays")
	assert.InDelta(t, 0.2*10, per("oil_after"), 1e-9)
	g := shelf["soft"]
	soft, err := rate(&g, "")
	require.NoError(t, err)
	assert.Equal(t, "confit", soft.Through, "the step that makes it, not those before")
	nothing := shelf["nothing"]
	_, err = rate(&nothing, "")
	assert.ErrorIs(t, err, pantry.ErrNoPrice)
	_, err = rate(&pantry.Ingredient{ID: "nothing2", Name: "nothing2"}, "")
	assert.ErrorIs(t, err, pantry.ErrNoPrice, "a step from something without a price has none either")

	assert.InDelta(t, 30, per("jar"), 1e-9, "its own price")
	preferred := append(steps, pantry.Preparation{ID: "home", Input: "head", Output: "jar", YieldPercent: 40,
		Preferred: true})
	rate = PricesBy(market, preferred, load).Rate()
	assert.InDelta(t, 20, per("jar"), 1e-9, "the shop makes it itself")
}

func TestStepsThatLeadInACircleEnd(t *testing.T) {
	steps := []pantry.Preparation{{Input: "a", Output: "b", YieldPercent: 50},
		{Input: "b", Output: "a", YieldPercent: 50}}
	rate := PricesBy(pantry.Market{Today: time.Now()}, steps,
		func(id string) (pantry.Ingredient, bool) { return pantry.Ingredient{ID: id, Name: id}, true }).Rate()
	_, err := rate(&pantry.Ingredient{ID: "a", Name: "a"}, "")
	assert.ErrorIs(t, err, pantry.ErrNoPrice)
}
