package api

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/shop"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// buys puts a price by the kilo, or by so many pieces, on an ingredient's page.
func (c *client) buys(id, price, pack, unit string) catalog.IngredientView {
	c.t.Helper()
	v := get[catalog.IngredientView](c, "/api/ingredients/"+id)
	g := v.Ingredient
	g.Offers = []pantry.PriceOffer{{Supplier: "Brackwater", PackAmount: amount.MustQuantity(pack), PackUnit: unit,
		Price: amount.MustMoney(price), Date: "2026-11-20"}}
	return into[catalog.IngredientView](c.send("PUT", fmt.Sprintf("/api/ingredients/%s?rev=%d", id, v.Rev), g).ok())
}

func (c *client) cost(formula string, version int, ask catalog.CostAsk) catalog.CostView {
	c.t.Helper()
	path := fmt.Sprintf("/api/formulas/%s/versions/%d/cost", formula, version)
	return into[catalog.CostView](c.send("POST", path, ask).ok())
}

func sumOf(parts []costing.Part) amount.Exact {
	out := amount.Exact{}
	for _, p := range parts {
		out = out.Plus(p.PerJar)
	}
	return out
}

// TestASwapIsComparedWithItsHandsAndNeverSavesOnAMissingPrice: a pepper charred in the kitchen costs the way there, and
// a nut without a price saves nothing.
func TestASwapIsComparedWithItsHandsAndNeverSavesOnAMissingPrice(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	c.buys("red_pepper_whole", "2.40", "1000", "g")
	c.buys("red_pepper_roasted_jar", "4.20", "1000", "g")
	c.buys("walnut", "11.00", "1000", "g")
	s := c.sheetOf("Pepper spread", "red_pepper_roasted_jar", 600, "walnut", 200, "rapeseed_oil", 200)
	swap := func(line, to string) catalog.SwapView {
		return into[catalog.SwapView](c.send("POST", "/api/swap", map[string]any{"version": s.Version, "line": line,
			"to": to, "keep": "grams"}).ok())
	}
	charred := swap("l0", "red_pepper_roasted")
	require.NotNil(t, charred.Effect.PerJar, "%v", charred.Effect.Unpriced)
	// 0.6 kg of 1: 2.40 / 65 % = 3.69 a kg is less than 4.20, and 25 min a kilo that goes in are 10.58 of hands
	assert.True(t, charred.Effect.PerJar.IsPositive(), "the way there costs more than twice: %s", charred.Effect.PerJar)

	ways := c.cost(s.Formula, 1, catalog.CostAsk{Jars: 48}).Ways
	require.Len(t, ways, 1, "what is bought in a jar could be charred here; walnuts are toasted ones in no place")
	assert.Contains(t, ways[0].Options[len(ways[0].Options)-1].Name, "in its place")

	nut := swap("l2", "pecan")
	assert.Nil(t, nut.Effect.PerJar, "a missing price shows no saving")
	assert.Equal(t, []string{nut.To}, nut.Effect.Unpriced)
	assert.True(t, nut.After.AtLeast)

	v := c.cost(s.Formula, 1, catalog.CostAsk{Jars: 48, Cases: []catalog.CostCase{{Name: "pecans",
		Changes: []costing.Change{{Kind: costing.ChangeSwap, Of: "l2", To: "pecan"}}}}})
	assert.Nil(t, v.Cases[0].More)
}

// TestTheCostOfAJarAddsUpAndOpensToItsSources looks at one product of the demo shop as an accountant would.
func TestTheCostOfAJarAddsUpAndOpensToItsSources(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	sheet := get[catalog.SheetView](c, "/api/formulas/pea_pistachio_spread/versions/2")
	v := c.cost("pea_pistachio_spread", 2, catalog.CostAsk{})
	assert.Equal(t, sheet.Panel.Cost.PerJar, v.Stack.PerJar, "the sheet tells the same")
	for name, pair := range map[string][2]amount.Exact{
		"ingredients": {sumOf(v.Stack.Lines).Plus(sumOf(v.Stack.Toppings)), v.Stack.Ingredients},
		"packaging":   {sumOf(v.Stack.Items), v.Stack.Packaging}, "hands": {sumOf(v.Stack.Hands), v.Stack.Labour},
		"kitchen": {sumOf(v.Stack.Rooms), v.Stack.Overhead}} {
		assert.InDelta(t, pair[1].Float(), pair[0].Float(), 1e-9, name)
	}
	require.Len(t, v.Stack.Toppings, 1)
	for _, p := range append(v.Stack.Lines, v.Stack.Hands...) {
		assert.NotEmpty(t, p.How, p.Name)
	}
	at := -1
	for i, p := range v.Curve.Points {
		if p.Jars == v.Jars {
			at = i
		}
	}
	if at >= 0 {
		assert.InDelta(t, v.Stack.PerJar.Float(), v.Curve.Points[at].PerJar.Float(), 1e-9)
	}
	require.NotNil(t, v.Curve.Day)
	require.NotEmpty(t, v.Moves)
	require.Len(t, v.Ladder, 3)
	require.Len(t, v.Ways, 1)
	assert.Equal(t, "Lime juice", v.Ways[0].Name)
	assert.Len(t, v.Ways[0].Options, 3, "it is bought, or pressed in two ways")

	up := c.cost("pea_pistachio_spread", 2, catalog.CostAsk{Jars: 240, Vessel: new(int64)})
	assert.Negative(t, up.Stack.PerJar.Minus(v.Stack.PerJar).Float(), "a larger batch is cheaper")
	path := "/api/formulas/pea_pistachio_spread/versions/2/cost"
	c.send("POST", path, catalog.CostAsk{Jars: -1, Cases: []catalog.CostCase{}}).refused(422, "jars")
	none := int64(999)
	c.send("POST", path, catalog.CostAsk{Vessel: &none, Cases: []catalog.CostCase{}}).refused(422, "vessel")
	c.send("POST", path,
		catalog.CostAsk{Cases: []catalog.CostCase{{Changes: []costing.Change{{Kind: "luck"}}}}}).refused(422,
		"cases[0].changes[0].kind")
	c.send("POST", "/api/formulas/nothing/versions/1/cost", catalog.CostAsk{Cases: []catalog.CostCase{}}).refused(404,
		"")
}

func TestAComponentCostsWhatItsOwnBatchCosts(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	paste := get[catalog.SheetView](c, "/api/formulas/ginger_paste/versions/2")
	v := c.cost("carrot_miso_dressing", 3, catalog.CostAsk{})
	per := amount.Exact{}
	grams := paste.Version.FinishedGrams()
	p := paste.Panel.Cost
	// its own batch as written: what it costs a kilo, and its 50 minutes over that
	per = p.PerKgIngredients.Over(amount.Whole(1000)).Plus(paste.Version.MinutesPerBatch.Exact().
		Times(paste.Version.LabourPerHour.Exact()).Over(amount.Whole(60)).Plus(paste.Version.OverheadPerBatch.Exact()).
		Over(grams))
	for _, l := range v.Stack.Lines {
		if l.Component != nil {
			assert.Contains(t, l.How, per.Fixed(5)+" a gram")
			return
		}
	}
	t.Fatal("the dressing has a component")
}

func TestAComponentIsSetAgainstWhatIsBoughtByItsName(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	waysOf := func() []costing.Ways { return c.cost("carrot_miso_dressing", 3, catalog.CostAsk{}).Ways }
	before := len(waysOf())
	bought := c.add("Paste, ginger", func(*pantry.Ingredient) {})
	assert.Len(t, waysOf(), before, "nothing is bought without a price")
	c.buys(bought.ID, "3.00", "1000", "g")
	v := c.cost("carrot_miso_dressing", 3, catalog.CostAsk{})
	at := slices.IndexFunc(v.Ways, func(w costing.Ways) bool { return w.Name == "Ginger paste" })
	require.GreaterOrEqual(t, at, 0)
	require.Len(t, v.Ways[at].Options, 2)
	made, in := v.Ways[at].Options[0], v.Ways[at].Options[1]
	assert.True(t, made.Now)
	assert.Equal(t, v.Stack.PerJar, made.PerJar)
	require.NotNil(t, in.More)
	assert.Equal(t, "Paste, ginger in its place", in.Name)
	assert.Negative(t, in.More.Sign(), "3.00 a kilo is less than its own batch with 50 minutes")
}

func TestPartsOfThePackAreBoughtLikeIngredients(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	jar := c.add("Squat jar, 190 mL", func(g *pantry.Ingredient) {
		g.Role, g.Composition = pantry.RolePackaging, pantry.Composition{}
	})
	c.buys(jar.ID, "96.00", "240", "piece")
	s := c.sheetOf("Leek dip", "rapeseed_oil", 500)
	s = into[catalog.SheetView](c.put(s, func(v map[string]any) {
		v["packaging"] = []map[string]any{{"name": "jar", "price": 0, "loss_percent": 2, "item": jar.ID},
			{"name": "case", "price": 1.2, "loss_percent": 0, "jars_a_piece": 12}}
	}).ok())
	items := s.Panel.Cost.Items
	require.Len(t, items, 2)
	assert.Equal(t, []string{"0.4080", "0.1000"}, []string{items[0].PerJar.Fixed(4), items[1].PerJar.Fixed(4)})
	c.put(s, func(v map[string]any) {
		v["lines"] = []map[string]any{{"id": "l0", "ingredient": jar.ID, "grams": 100}}
	}).refused(422, "lines[0]")
	c.put(s, func(v map[string]any) {
		v["packaging"] = []map[string]any{{"name": "jar", "price": 0, "loss_percent": 2, "item": "rapeseed_oil"}}
	}).refused(422, "packaging[0].item")
	nut := get[catalog.IngredientView](c, "/api/ingredients/walnut")
	g := nut.Ingredient
	g.Role = pantry.RolePackaging
	c.send("PUT", fmt.Sprintf("/api/ingredients/walnut?rev=%d", nut.Rev), g).refused(422, "role")
	assert.Equal(t, "Leek dip", get[catalog.IngredientView](c, "/api/ingredients/"+jar.ID).UsedIn[0].Name)
}

func TestABundleKeepsThePricesThatAreNewerHere(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	out := c.send("GET", "/api/bundle", nil).ok().body
	v := get[catalog.IngredientView](c, "/api/ingredients/miso_white")
	g := v.Ingredient
	g.Note = "the small tub"
	g.Offers = append(g.Offers, pantry.PriceOffer{Supplier: "Brackwater", PackAmount: amount.MustQuantity("1000"),
		PackUnit: "g", Price: amount.MustMoney("12.40"), Date: "2026-11-24"})
	c.send("PUT", fmt.Sprintf("/api/ingredients/miso_white?rev=%d", v.Rev), g).ok()
	c.raw("POST", "/api/bundle?apply=true", "application/json", out).ok()
	now := get[catalog.IngredientView](c, "/api/ingredients/miso_white")
	assert.Len(t, now.Offers, len(v.Offers)+1)
	assert.Equal(t, "12.40", now.Cost.Offer.Price.Fixed(2), "the bundle is from before")

	g = now.Ingredient
	g.Offers = g.Offers[:1] // what the bundle has is taken out
	g.Note = "the large tub"
	c.send("PUT", fmt.Sprintf("/api/ingredients/miso_white?rev=%d", now.Rev), g).ok()
	c.raw("POST", "/api/bundle?apply=true", "application/json", out).ok()
	now = get[catalog.IngredientView](c, "/api/ingredients/miso_white")
	assert.Len(t, now.Offers, 1, "what was taken out here does not come back with it")
}

func TestABatchAgainstItsStandardAddsUp(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	list := get[production.FormulaVariances](c, "/api/formulas/carrot_miso_dressing/variances").Batches
	require.NotEmpty(t, list)
	for i, b := range list {
		assert.InDelta(t, b.Difference.Float(), b.Usage.Plus(b.Price).Plus(b.Yield).Float(), 1e-9, b.Code)
		assert.InDelta(t, b.Actual.Minus(b.Standard).Float(), b.Difference.Float(), 1e-9, b.Code)
		if i > 0 {
			assert.LessOrEqual(t, list[i-1].MadeOn, b.MadeOn)
		}
	}
	last := list[len(list)-1]
	one := get[production.BatchVariance](c, fmt.Sprintf("/api/batches/%d/variance", last.Batch))
	assert.Equal(t, last.Difference, one.Difference)
	assert.Nil(t, one.Hands, "nobody wrote down how long it took")
	path := fmt.Sprintf("/api/batches/%d/entries?key=hands", last.Batch)
	worked := func(minutes float64) reply {
		return c.send("POST", path, map[string]any{"kind": "worked", "worked": map[string]any{"minutes": minutes}})
	}
	worked(0).refused(422, "worked.minutes")
	worked(600).ok()
	one = get[production.BatchVariance](c, fmt.Sprintf("/api/batches/%d/variance", last.Batch))
	require.NotNil(t, one.Hands)
	assert.InDelta(t, 600*16.5/60, one.Hands.Actual.Float(), 1e-9)
	assert.InDelta(t, one.Hands.Actual.Minus(one.Hands.Standard).Float(), one.Hands.Usage.Plus(one.Hands.Rate).Float(),
		1e-9)
	assert.Equal(t, "hands", one.Cause.Kind, "ten hours are the one cause")
	b := bake(t, c, clock())
	b.send("GET", fmt.Sprintf("/api/batches/%d/variance", b.id), nil).refused(422, "")
}

func TestTheShopSaysHowItCountsAndPrices(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	was := get[office.ShopView](c, "/api/shop")
	put := func(change func(s *shop.Settings)) reply {
		next := get[office.ShopView](c, "/api/shop")
		change(&next.Settings)
		return c.send("PUT", fmt.Sprintf("/api/shop?rev=%d", next.Rev), next.Settings)
	}
	before := get[catalog.IngredientView](c, "/api/ingredients/miso_white").Cost
	put(func(s *shop.Settings) { s.PriceRule = pantry.LotsPrice }).ok()
	v := get[catalog.IngredientView](c, "/api/ingredients/miso_white")
	require.NotNil(t, v.Cost)
	assert.Contains(t, v.Arithmetic, "g on hand cost, lot by lot")
	assert.Empty(t, v.Cost.Offer.Supplier)
	assert.InDelta(t, before.PerGram.Float(), v.Cost.PerGram.Float(), 0.01, "a lot cost about what it costs")
	put(func(s *shop.Settings) { s.PriceRule = "luck" }).refused(422, "price_rule")

	ladder := func() costing.Rung { return c.cost("carrot_miso_dressing", 3, catalog.CostAsk{Jars: 48}).Ladder[0] }
	dear := ladder()
	put(func(s *shop.Settings) {
		s.Pricing.Market = costing.Added{Way: costing.MarkUp, Percent: amount.Pct(20)}
	}).ok()
	assert.Negative(t, ladder().Point.Minus(dear.Point).Float(), "a mark-up of 20 % is less than a margin of 55 %")
	put(func(s *shop.Settings) {
		s.Pricing.Market.Way, s.Pricing.Market.Percent = costing.Margin, amount.Pct(100)
	}).
		refused(422, "pricing.market.percent")
	put(func(s *shop.Settings) { s.Pricing = costing.Pricing{} }).ok()
	assert.Equal(t, costing.MarkUp, get[office.ShopView](c, "/api/shop").Pricing.Market.Way,
		"a page from before there were prices changes none")
	put(func(s *shop.Settings) { s.DayMinutes = amount.Min(-1) }).refused(422, "day_minutes")
	put(func(s *shop.Settings) { s.KitchenPerHour = amount.MustMoney("12") }).ok()
	dearer := c.cost("carrot_miso_dressing", 3, catalog.CostAsk{Jars: 48}).Stack
	assert.Equal(t, "room:kitchen", dearer.Rooms[len(dearer.Rooms)-1].Key)
	assert.Equal(t, was.Name, get[office.ShopView](c, "/api/shop").Name)
}

// TestTheStandardIsThatOfTheDay: what lots cost that are on hand now is no standard of a batch from before, and parts
// of the pack that are bought count in it.
func TestTheStandardIsThatOfTheDay(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	c.app.Now = func() time.Time { return *now }
	c.as("Ines")
	s := into[catalog.SheetView](c.send("POST", "/api/formulas/beetroot_horseradish_dip/versions",
		map[string]any{"from": 2}).ok())
	at := fmt.Sprintf("/api/formulas/beetroot_horseradish_dip/versions/%d", s.Version.Number)
	v := s.Version
	v.Packaging = []formula.PackagingItem{{Name: "jar", Item: "jar_round_190"}}
	s = into[catalog.SheetView](c.send("PUT", fmt.Sprintf("%s?rev=%d", at, s.Rev), v).ok())
	c.lock(at, s.Rev).ok()
	b := bakeOf(t, c, now, s.Version.Number)
	b.weighAndFill()
	variance := func() production.BatchVariance {
		return get[production.BatchVariance](c, fmt.Sprintf("/api/batches/%d/variance", b.id))
	}
	before := variance()
	assert.InDelta(t, 12*(96+4.8)/240, before.Packaging.Standard.Float(), 1e-9, "12 jars at what they cost")

	c.as("Ines")
	shop := get[office.ShopView](c, "/api/shop")
	shop.PriceRule = pantry.LotsPrice
	c.send("PUT", fmt.Sprintf("/api/shop?rev=%d", shop.Rev), shop.Settings).ok()
	assert.Equal(t, before.Standard, variance().Standard)
}

func TestABowlThatWasSplitIsNotToldAgainstItsStandard(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	c.app.Now = func() time.Time { return *now }
	c.as("Ines")
	large := c.largerJars()
	b := bake(t, c, now)
	for _, l := range b.view().Record.Lines {
		b.write(map[string]any{"kind": "weighing", "weighing": b.weighing(b.id, l, l.Grams)}).ok()
	}
	c.send("POST", fmt.Sprintf("/api/batches/%d/splits", b.id),
		map[string]any{"formula": "beetroot_horseradish_dip", "version": large, "jars": 3}).ok()
	b.write(map[string]any{"kind": "fill", "fill": map[string]any{"jars": 6, "at": *now}}).ok()
	said := c.send("GET", fmt.Sprintf("/api/batches/%d/variance", b.id), nil).refused(422, "")
	assert.Contains(t, said, "other jars", "six jars too few would be nobody's fault")
	for _, x := range get[production.FormulaVariances](c, "/api/formulas/beetroot_horseradish_dip/variances").Batches {
		assert.NotEqual(t, b.id, x.Batch)
	}
}
