package costing

import (
	"fmt"
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// pepperDip has a line that is charred in the kitchen and could be bought in jars.
func pepperDip(t *testing.T) Product {
	jarred := kilo("charred", "5")
	jarred.Name = "charred pepper"
	v := versionOf(formula.Line{Ingredient: "charred", Grams: amount.G(800), Preparation: "char"},
		formula.Line{Ingredient: "oil", Grams: amount.G(200)})
	return productOf(t, v, shelfOf(kilo("fresh", "2"), jarred, kilo("oil", "8")),
		pantry.Preparation{ID: "char", Name: "char_and_peel", Input: "fresh", Output: "charred", YieldPercent: 50,
			MinutesPerKg: 20})
}

func TestAWayIsComparedWithItsHands(t *testing.T) {
	p := pepperDip(t)
	ways, err := p.Ways(10)
	require.NoError(t, err)
	require.Len(t, ways, 1)
	require.Len(t, ways[0].Options, 2)
	bought, charred := ways[0].Options[0], ways[0].Options[1]
	assert.Equal(t, "bought as it is", bought.Name)
	assert.Equal(t, "fresh: char and peel", charred.Name)
	assert.True(t, charred.Now)
	assert.False(t, bought.Now)
	// charred: 80 g x 2.00 / 50 % = 0.32 and 160 g at 20 min/kg = 3.2 min x 18/60 = 0.96; in a jar 80 g x 5.00 = 0.40
	assert.Zero(t, charred.More.Sign())
	assert.Equal(t, "-0.8800", bought.More.Fixed(4), "what looked dearer by 0.08 saves 0.96 of hands")
	assert.Equal(t, "3.0", bought.Minutes.Fixed(1))
	assert.Equal(t, "6.2", charred.Minutes.Fixed(1))
	assert.Zero(t, p.Jar(10).PerJar.Cmp(charred.PerJar))

	p.Library.Ingredients["tinned"] = kilo("tinned", "3")
	p.Kin = map[string][]string{p.Version.Lines[0].ID: {"tinned"}}
	ways, err = p.Ways(10)
	require.NoError(t, err)
	kin := ways[0].Options[2]
	assert.Equal(t, []string{"kin:tinned", "tinned in its place", "-1.0400"}, []string{kin.Way, kin.Name,
		kin.More.Fixed(4)}, "80 g at 3.00 in the place of 0.32 and 0.96 of hands")
}

func TestASwapToWhatHasNoPriceShowsNoSaving(t *testing.T) {
	p := pepperDip(t)
	p.Library.Ingredients["nut"] = &pantry.Ingredient{ID: "nut", Name: "nut"}
	swapped, err := p.With(Change{Kind: ChangeSwap, Of: "2", To: "nut"})
	require.NoError(t, err)
	s := swapped.Jar(10)
	assert.Equal(t, []string{"nut"}, s.Missing)
	_, comparable := Saves(p.Jar(10), s)
	assert.False(t, comparable)
	unsaid, err := p.With()
	require.NoError(t, err)
	unsaid.Version.Packaging = nil
	_, comparable = Saves(p.Jar(10), unsaid.Jar(10))
	assert.False(t, comparable, "nor does leaving the pack out")
	more, comparable := Saves(p.Jar(10), p.Jar(20))
	assert.True(t, comparable)
	assert.Equal(t, "-0.4500", more.Fixed(4), "30 min x 18 / 60 over 20 in the place of 10")
}

func TestWhatMovesAJarStandsFromTheGreatest(t *testing.T) {
	p := pepperDip(t)
	p.Terms.Kitchen = amount.MustMoney("6")
	moves, err := p.Moves(10)
	require.NoError(t, err)
	at := map[string]Move{}
	for i, m := range moves {
		at[m.Kind+" "+m.Of] = m
		if i > 0 {
			assert.GreaterOrEqual(t, moves[i-1].swing().Cmp(m.swing()), 0)
		}
	}
	// hands: 30 min set-up and 16 at 1.6 kg x 20 min: 62 min x 18 / 60 / 10 = 1.86
	assert.Equal(t, "0.1860", at["hands "].More.Fixed(4))
	assert.Equal(t, "-0.1860", at["hands "].Less.Fixed(4))
	assert.Equal(t, "0.0320", at["price fresh"].More.Fixed(4), "a tenth of 0.32: what is bought, not what comes of it")
	assert.Equal(t, "0.0160", at["price oil"].More.Fixed(4))
	assert.Equal(t, "0.0500", at["item jar"].More.Fixed(4))
	assert.Equal(t, "0.0620", at["rooms "].More.Fixed(4))
	assert.Negative(t, at["yield char"].More.Sign(), "a better yield is cheaper")
	assert.Positive(t, at["fill "].More.Sign())
	assert.NotContains(t, at, "price charred", "it is not bought")
	assert.Equal(t, "hands ", moves[0].Kind+" "+moves[0].Of)
}

func TestAYieldOfWhatIsUsableNeverPassesAll(t *testing.T) {
	beet := kilo("beet", "9.5")
	beet.UsablePercent = 95
	p := productOf(t, versionOf(formula.Line{Ingredient: "beet", Grams: amount.G(1000)}), shelfOf(beet))
	moves, err := p.Moves(10)
	require.NoError(t, err)
	for _, m := range moves {
		if m.Kind == ChangeYield {
			assert.Equal(t, "-0.0500", m.More.Fixed(4), "1.00 a jar at 95 %, 0.95 at all of it")
		}
	}
}

func TestAWhatIfChangesNothingThatIsKept(t *testing.T) {
	p := pepperDip(t)
	before := p.Jar(10).PerJar
	up, err := p.With(Change{Kind: ChangePrice, Of: "oil", Percent: amount.Pct(25)},
		Change{Kind: ChangeJar, To: "200"}, Change{Kind: ChangeWay, Of: "1", To: Bought})
	require.NoError(t, err)
	// 200 g: 160 g of jarred at 5.00 a kg, 40 g of oil at 10.00, the jar 0.50, hands 0.90
	assert.Equal(t, "2.6000", up.Jar(10).PerJar.Fixed(4))
	assert.Zero(t, p.Jar(10).PerJar.Cmp(before))
	assert.Equal(t, "100", p.Version.FillGrams.String())
	p.Library.Ingredients["tall"] = &pantry.Ingredient{ID: "tall", Name: "tall jar", Role: pantry.RolePackaging,
		Offers: []pantry.PriceOffer{{Supplier: "Kiln", PackAmount: amount.MustQuantity("100"), PackUnit: "piece",
			Price: amount.MustMoney("65"), Date: "2026-02-01"}}}
	tall, err := p.With(Change{Kind: ChangePack, Of: "jar", To: "tall"})
	require.NoError(t, err)
	assert.Equal(t, "0.1500", tall.Jar(10).PerJar.Minus(before).Fixed(4), "0.65 in the place of 0.50")
	for field, c := range map[string]Change{
		"changes[0].kind": {Kind: "luck"}, "changes[0].of": {Kind: ChangeItem, Of: "ribbon"},
		"changes[0].to":      {Kind: ChangeJar, To: "half"},
		"changes[0].percent": {Kind: ChangeHands, Percent: amount.Pct(-100)},
	} {
		_, err := p.With(c)
		var wrong pantry.FieldError
		require.ErrorAs(t, err, &wrong, field)
		assert.Equal(t, field, wrong.Field)
	}
}

func TestTheCurveShowsLoadsAndShifts(t *testing.T) {
	p := pepperDip(t)
	p.Version.MinutesPerLoad, p.Terms.Day = amount.Min(25), amount.Min(240)
	p.Terms.Made.Vessel = bench.Vessel{Greatest: amount.G(6000)}
	c := p.Curve(20, 100, 20)
	// 30 + 25 + 57 x 3.2 = 237.4 min, and 58 would be over 240; 60 jars of 100 g fill the bowl
	require.Len(t, c.Steps, 2)
	assert.Equal(t, []Step{{58, "shift", 2}, {61, "load", 2}}, c.Steps)
	require.NotNil(t, c.Day)
	assert.Equal(t, 57, c.Day.Jars, "the most that one day takes is where it is cheapest")
	assert.Zero(t, p.Jar(57).PerJar.Cmp(c.Day.PerJar))
}

func TestTheLadderSaysMarginAndMarkUpByTheirNames(t *testing.T) {
	p := Pricing{Market: Added{Margin, amount.Pct(50)}, Wholesale: Added{MarkUp, amount.Pct(50)},
		Trade: Added{MarkUp, amount.Pct(25)}, Distributor: Added{Margin, amount.Pct(20)},
		Shop:       Added{Margin, amount.Pct(40)},
		TaxPercent: amount.Pct(20), TaxName: "VAT", Step: amount.MustMoney("1"), Ending: amount.MustMoney("0.95"),
		FixedMonth: amount.MustMoney("500")}
	require.Empty(t, p.Check(""))
	l := p.Ladder(amount.Whole(2))
	require.Len(t, l, 3)
	market, shop, far := l[0], l[1], l[2]
	assert.Equal(t, []string{"4.00", "4.80", "4.95", "4.1250", "2.1250"}, []string{market.Net.Fixed(2),
		market.Gross.Fixed(2), market.Point.Fixed(2), market.Ours.Fixed(4), market.Left.Fixed(4)})
	assert.Equal(t, "51.52", market.Margin.Fixed(2), "what the price point adds is the maker's")
	assert.Equal(t, int64(236), *market.BreakEven)
	assert.Equal(t, []string{"3.00", "5.00", "6.00", "6.95", "1.00"}, []string{shop.Ours.Fixed(2), shop.Net.Fixed(2),
		shop.Gross.Fixed(2), shop.Point.Fixed(2), shop.Left.Fixed(2)})
	assert.Equal(t, "33.33", shop.Margin.Fixed(2))
	assert.Equal(t, "50.00", shop.MarkUp.Fixed(2))
	assert.Equal(t, int64(500), *shop.BreakEven)
	assert.Equal(t, []string{"2.50", "3.1250", "5.2083"}, []string{far.Ours.Fixed(2), far.Steps[1].Price.Fixed(4),
		far.Net.Fixed(4)})
	assert.Zero(t, market.Tax.Plus(market.Ours).Cmp(market.Point))

	p.Trade = Added{MarkUp, amount.Pct(0)}
	assert.Nil(t, p.Ladder(amount.Whole(2))[2].BreakEven, "what leaves nothing pays for nothing")
	p.Step = amount.Money{}
	assert.Equal(t, "4.80", p.Ladder(amount.Whole(2))[0].Point.Fixed(2))
	p.Market.Percent, p.Shop.Way, p.Step = amount.Pct(100), "luck", amount.MustMoney("0.50")
	assert.Len(t, p.Check("pricing."), 3)
}

func TestLawAPricePointIsTheNextOneUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := UsualPricing()
		x := amount.ExactFloat(float64(rapid.IntRange(1, 99_999).Draw(t, "price")) / 100)
		point := p.point(x)
		assert.GreaterOrEqual(t, point.Cmp(x), 0)
		if x.Cmp(p.Ending.Exact()) > 0 {
			assert.Negative(t, point.Minus(x).Cmp(p.Step.Exact()))
		}
		assert.Equal(t, "0.95", point.Minus(amount.Whole(point.Floor())).Fixed(2))
	})
}

func TestABatchAgainstItsStandard(t *testing.T) {
	per := func(s string) *amount.Exact { x := amount.MustMoney(s).Exact(); return &x }
	v := Against([]Met{
		{Line: "1", Name: "beet", Planned: amount.G(1000), Actual: amount.G(1100), PerGram: per("0.002"),
			Paid: per("2.75")},
		{Line: "2", Name: "oil", Planned: amount.G(200), Actual: amount.G(200), PerGram: per("0.01")},
		{Line: "3", Name: "yuzu", Planned: amount.G(10), Actual: amount.G(10)},
		{Line: "4", Name: "salt", Actual: amount.G(5), Paid: per("0.01")},
		{Line: "5", Name: "mint", Planned: amount.G(50), PerGram: per("0.03")},
	}, 10, 9)
	assert.Equal(t, []string{"4.9500", "4.7600", "-1.2900", "0.5500", "0.5500"}, []string{v.Standard.Fixed(4),
		v.Actual.Fixed(4), v.Usage.Fixed(4), v.Price.Fixed(4), v.Yield.Fixed(4)})
	assert.Equal(t, []string{"yuzu"}, v.Missing)
	assert.Equal(t, "no lot tells its cost: the standard price", v.Lines[1].Said)
	assert.Equal(t, "no standard price that day: what its lots cost", v.Lines[2].Said)
	hands := Between(amount.Whole(60), amount.Whole(90), amount.Ratio(3, 10), amount.Ratio(4, 10))
	v.Hands = &hands
	assert.Equal(t, []string{"9.0", "9.0"}, []string{hands.Usage.Fixed(1), hands.Rate.Fixed(1)})
	assert.Equal(t, Cause{Kind: "hands", Money: hands.Actual.Minus(hands.Standard)}, v.Named().Cause)
	v.Hands = nil
	assert.Equal(t, "mint", v.Named().Cause.Name)
	assert.Equal(t, "nothing", Against(nil, 1, 1).Named().Cause.Kind)
}

// TestAGroupIsOneLineOfAVariance: the lots of an "any of" line are told with its first part, whichever part was dear.
func TestAGroupIsOneLineOfAVariance(t *testing.T) {
	per := func(s string) *amount.Exact { x := amount.MustMoney(s).Exact(); return &x }
	v := Against([]Met{
		{Line: "h", Name: "parsley", Planned: amount.G(100), Actual: amount.G(60), PerGram: per("0.02"),
			Paid: per("2.40")},
		{Line: "h", Name: "dill", Actual: amount.G(40), PerGram: per("0.03"), Paid: per("0")},
	}, 10, 10)
	require.Len(t, v.Lines, 1)
	l := v.Lines[0]
	assert.Equal(t, "parsley and dill", l.Name)
	assert.Equal(t, []string{"100", "100", "0.0000", "0.0000"}, []string{l.Planned.String(), l.Actual.String(),
		l.Usage.Fixed(4), l.Price.Fixed(4)}, "60 g at 0.02 and 40 g at 0.03 are what was paid")
	assert.Equal(t, "2.4000", v.Standard.Fixed(4))
	open := Against([]Met{{Line: "h", Name: "parsley", Actual: amount.G(60), PerGram: per("0.02")},
		{Line: "h", Name: "dill", Actual: amount.G(40)}}, 1, 1)
	assert.Equal(t, []string{"parsley and dill"}, open.Missing, "a part without a price leaves the group without one")
}

func TestLawVariancesAddUpToTheDifference(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var met []Met
		for i := range rapid.IntRange(0, 12).Draw(t, "lines") {
			m := Met{Line: fmt.Sprint(i), Name: fmt.Sprint(i),
				Planned: amount.Milligrams(rapid.Int64Range(0, 9_000_000).Draw(t, "planned")),
				Actual:  amount.Milligrams(rapid.Int64Range(0, 9_000_000).Draw(t, "actual"))}
			if rapid.Bool().Draw(t, "standard") {
				x := amount.Ratio(rapid.Int64Range(1, 9999).Draw(t, "per"), 777_777)
				m.PerGram = &x
			}
			if rapid.Bool().Draw(t, "lots") {
				x := amount.Ratio(rapid.Int64Range(0, 99_999).Draw(t, "paid"), 991)
				m.Paid = &x
			}
			met = append(met, m)
		}
		v := Against(met, rapid.IntRange(1, 400).Draw(t, "planned"), rapid.IntRange(0, 400).Draw(t, "good"))
		assert.Zero(t, v.Usage.Plus(v.Price).Plus(v.Yield).Cmp(v.Difference()))
		a := amount.Ratio(rapid.Int64Range(0, 999).Draw(t, "a"), 7)
		b := amount.Ratio(rapid.Int64Range(0, 999).Draw(t, "b"), 11)
		w := Between(a, b, b, a)
		assert.Zero(t, w.Usage.Plus(w.Rate).Cmp(w.Actual.Minus(w.Standard)))
	})
}

// BenchmarkCost works out the curve over 60 sizes and the tornado of a sheet of 40 lines: at most 20 ms.
func BenchmarkCost(b *testing.B) {
	var list []*pantry.Ingredient
	var lines []formula.Line
	for i := range 40 {
		g := kilo(fmt.Sprintf("g%d", i), fmt.Sprintf("%d.%02d", 1+i%17, 3*i%100))
		g.UsablePercent = float64(60 + i)
		list = append(list, g)
		lines = append(lines, formula.Line{Ingredient: g.ID, Grams: amount.G(13.7 + 31.9*float64(i))})
	}
	v := versionOf(lines...)
	v.LossPercent, v.OverfillPercent, v.MinutesPerJar = amount.Pct(2.5), amount.Pct(1), amount.Min(1.1)
	p := productOf(b, v, shelfOf(list...))
	p.Terms.Told, p.Terms.Day = false, amount.Min(480)
	p.Terms.Made = Made{Samples: amount.G(120), Vessel: bench.Vessel{Greatest: amount.G(9000), Residue: amount.G(60)}}
	for b.Loop() {
		p.Curve(CurveFrom, CurveTo, CurvePoints)
		if _, err := p.Moves(48); err != nil {
			b.Fatal(err)
		}
	}
}
