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

// kilo is an ingredient at a price for a kilogram.
func kilo(id, price string) *pantry.Ingredient {
	return &pantry.Ingredient{ID: id, Name: id, Offers: offer("1000", price)}
}

func shelfOf(list ...*pantry.Ingredient) formula.Library {
	lib := formula.Library{Ingredients: map[string]*pantry.Ingredient{}, Versions: map[formula.Ref]formula.Version{},
		Names: map[string]string{}}
	for _, g := range list {
		lib.Ingredients[g.ID] = g
	}
	return lib
}

// versionOf is a version at 100 g a jar, nothing lost, 10 jars a batch, hands at 18.00 an hour.
func versionOf(lines ...formula.Line) formula.Version {
	for i := range lines {
		lines[i].ID = fmt.Sprint(i + 1)
	}
	return formula.Version{Formula: "x", Number: 1, FillGrams: amount.G(100), CostingJars: 10,
		LabourPerHour: amount.MustMoney("18"), MinutesPerBatch: amount.Min(30),
		Packaging: []formula.PackagingItem{{Name: "jar", Price: amount.MustMoney("0.50")}}, Lines: lines}
}

func productOf(t require.TestingT, v formula.Version, lib formula.Library, steps ...pantry.Preparation) Product {
	market := pantry.Market{Rule: pantry.NewestPrice, Today: today, StaleDays: 90, TaxBack: true}
	prices := PricesBy(market, steps, func(id string) (pantry.Ingredient, bool) {
		if g := lib.Ingredients[id]; g != nil {
			return *g, true
		}
		return pantry.Ingredient{}, false
	})
	p, err := Product{Version: v, Library: lib, Prices: prices, Terms: Terms{Told: true}}.Expanded()
	require.NoError(t, err)
	return p
}

func TestToppingsCostAndHaveARow(t *testing.T) {
	v := versionOf(formula.Line{Ingredient: "beet", Grams: amount.G(1000)})
	v.Toppings = []formula.Topping{{ID: "t", Ingredient: "oil", Grams: amount.G(5)}}
	lib := shelfOf(kilo("beet", "2"), kilo("oil", "20"))
	s := productOf(t, v, lib).Jar(10)
	require.Len(t, s.Toppings, 1)
	assert.Equal(t, "0.1000", s.Toppings[0].PerJar.Fixed(4), "5 g at 20.00 a kg")
	assert.Equal(t, "0.3000", s.Ingredients.Fixed(4), "and 100 g of beet at 2.00")
	assert.Contains(t, s.Toppings[0].How, "20.00 / 1000 g")
	bare := v
	bare.Toppings = nil
	assert.Equal(t, "0.1000", s.PerJar.Minus(productOf(t, bare, lib).Jar(10).PerJar).Fixed(4))
	toasted := v
	toasted.Toppings = []formula.Topping{{ID: "t", Ingredient: "seeds", Grams: amount.G(4)}}
	lib.Ingredients["seeds"] = &pantry.Ingredient{ID: "seeds", Name: "seeds"}
	steps := pantry.Preparation{ID: "toast", Name: "toast", Input: "oil", Output: "seeds", YieldPercent: 80,
		MinutesPerKg: 30}
	s = productOf(t, toasted, lib, steps).Jar(10)
	require.Len(t, s.Hands, 2)
	assert.Equal(t, "0.1500", s.Hands[1].Minutes.Fixed(4), "4 g of 5 g at 30 min a kilo: hands go onto jars, too")
	lib.Ingredients["oil"].Offers = nil
	s = productOf(t, v, lib).Jar(10)
	assert.True(t, s.Toppings[0].Missing)
	assert.Equal(t, []string{"oil"}, s.Missing)
}

func TestEachPartOfThePackAndEachHandHasARow(t *testing.T) {
	v := versionOf(formula.Line{Ingredient: "soft", Grams: amount.G(1000)})
	v.MinutesPerLoad, v.MinutesPerJar, v.OvenMinutes = amount.Min(12), amount.Min(1.5), amount.Min(40)
	v.OverheadPerBatch, v.OverheadPerJar = amount.MustMoney("20"), amount.MustMoney("0.05")
	v.Packaging = []formula.PackagingItem{{Name: "jar", Item: "jar", LossPercent: amount.Pct(2)},
		{Name: "case", Price: amount.MustMoney("1.20"), PerPiece: 12}}
	jar := &pantry.Ingredient{ID: "jar", Name: "190 ml jar", Role: pantry.RolePackaging,
		Offers: []pantry.PriceOffer{{Supplier: "Kiln", PackAmount: amount.MustQuantity("48"), PackUnit: "piece",
			Price: amount.MustMoney("21.60"), Delivery: amount.MustMoney("2.40"), Date: "2026-02-01"}}}
	p := productOf(t, v, shelfOf(kilo("whole", "4"), &pantry.Ingredient{ID: "soft", Name: "soft"}, jar),
		pantry.Preparation{ID: "peel", Name: "peel", Input: "whole", Output: "soft", YieldPercent: 80,
			MinutesPerKg: 24})
	p.Terms.Kitchen, p.Terms.Oven = amount.MustMoney("12"), amount.MustMoney("3")
	s := p.Jar(10)
	assert.Equal(t, "0.5000", s.Ingredients.Fixed(4), "4.00 / 80 %")
	got := map[string]string{}
	for _, list := range [][]Part{s.Items, s.Hands, s.Rooms} {
		for _, x := range list {
			got[x.Key] = x.PerJar.Fixed(4)
			assert.NotEmpty(t, x.How, x.Key)
		}
	}
	// hands: 30 + 12 + 1000 g/0.8 at 24 min/kg = 30 + 10 x 1.5 = 87 min in a kitchen at 12.00 an hour
	assert.Equal(t, map[string]string{"item:0": "0.5100", "item:1": "0.1000", "hands:batch": "0.9000",
		"hands:load": "0.3600", "step:1": "0.9000", "hands:jar": "0.4500", "room:batch": "2.0000", "room:jar": "0.0500",
		"room:kitchen": "1.7400", "room:oven": "0.2000"}, got)
	assert.Equal(t, "87.0", s.Minutes.Fixed(1))
	assert.False(t, s.AtLeast)
}

func TestWhatIsLeftAtNothingSaysAtLeast(t *testing.T) {
	lib := shelfOf(kilo("beet", "2"))
	for name, x := range map[string]struct {
		change func(*formula.Version)
		want   string
	}{
		"packaging":  {func(v *formula.Version) { v.Packaging = nil }, "packaging"},
		"a lid at 0": {func(v *formula.Version) { v.Packaging[0] = formula.PackagingItem{Name: "lid"} }, "lid"},
		"hands":      {func(v *formula.Version) { v.MinutesPerBatch = amount.Minutes{} }, "hands"},
		"an hour of work": {func(v *formula.Version) { v.LabourPerHour = amount.Money{} },
			"what an hour of work costs"},
		"jars a batch": {func(v *formula.Version) { v.CostingJars = 0 }, "how many jars a batch makes"},
	} {
		v := versionOf(formula.Line{Ingredient: "beet", Grams: amount.G(1000)})
		v.OverheadPerBatch = amount.MustMoney("10")
		assert.False(t, productOf(t, v, lib).Jar(v.CostingJars).AtLeast, name)
		x.change(&v)
		s := productOf(t, v, lib).Jar(v.CostingJars)
		assert.True(t, s.AtLeast, name)
		assert.Equal(t, []string{x.want}, s.Unsaid, name)
	}
}

func TestAComponentsHandsAreThoseOfItsOwnBatch(t *testing.T) {
	paste := versionOf(formula.Line{Ingredient: "ginger", Grams: amount.G(500)})
	paste.Formula, paste.MinutesPerBatch, paste.MinutesPerJar = "paste", amount.Min(35), amount.Min(2)
	paste.CostingJars, paste.FillGrams = 48, amount.G(190) // it is filled into none of them
	lib := shelfOf(kilo("ginger", "10"))
	lib.Versions[formula.Ref{Formula: "paste", Version: 1}] = paste
	lib.Names["paste"] = "Ginger paste"
	v := versionOf(formula.Line{Component: &formula.Ref{Formula: "paste", Version: 1}, Grams: amount.G(1000)})
	s := productOf(t, v, lib).Jar(10)
	// 100 g a jar: 1.00 of ginger, and 35 min at 18.00 an hour over 500 g: 10.50 / 500 x 100
	assert.Equal(t, "3.1000", s.Ingredients.Fixed(4))
	nodes, err := lib.Expand(paste)
	require.NoError(t, err)
	per := HandsPerGram(paste, nodes, terms()).Plus(amount.MustMoney("0.01").Exact())
	assert.Zero(t, per.Times(amount.Whole(100)).Cmp(s.Lines[0].PerJar),
		"what is used is what a gram of its batch costs")

	lib.Ingredients["bought"] = kilo("bought", "12")
	p := productOf(t, v, lib)
	p.Kin = map[string][]string{"1": {"bought"}}
	ways, err := p.Ways(10)
	require.NoError(t, err)
	require.Len(t, ways, 1)
	made, bought := ways[0].Options[0], ways[0].Options[1]
	assert.Equal(t, []string{Own, "kin:bought"}, []string{made.Way, bought.Way})
	assert.True(t, made.Now)
	assert.Zero(t, made.More.Sign())
	assert.Equal(t, "-1.9000", bought.More.Fixed(4), "100 g at 12.00 a kilo in the place of 1.00 and 2.10 of hands")

	half := paste
	half.Lines = append(half.Lines, formula.Line{ID: "2", Ingredient: "yuzu", Grams: amount.G(10)})
	lib.Ingredients["yuzu"] = &pantry.Ingredient{ID: "yuzu", Name: "yuzu"}
	lib.Versions[formula.Ref{Formula: "paste", Version: 1}] = half
	s = productOf(t, v, lib).Jar(10)
	assert.True(t, s.Lines[0].Missing, "a component that is priced by half is not complete")
	assert.Equal(t, []string{"yuzu"}, s.Missing)

	paste.MinutesPerBatch = amount.Minutes{}
	lib.Versions[formula.Ref{Formula: "paste", Version: 1}] = paste
	assert.Equal(t, []string{"hands of Ginger paste"}, productOf(t, v, lib).Jar(10).Unsaid)
}

func TestResidueSamplesAndRejectedJarsAreLosses(t *testing.T) {
	v := versionOf(formula.Line{Ingredient: "beet", Grams: amount.G(1000)})
	v.RejectPercent = amount.Pct(20)
	p := productOf(t, v, shelfOf(kilo("beet", "2")))
	p.Terms.Made = Made{Vessel: bench.Vessel{Greatest: amount.G(700), Residue: amount.G(50)}, Samples: amount.G(100)}
	s := p.Jar(10)
	assert.Equal(t, 2, s.Loads)
	// 1000 + 100 g, and 50 g twice: 1200 g at 2.00 a kg over 8 good jars; the pack 0.50 / 0.8
	assert.Equal(t, "0.3000", s.Ingredients.Fixed(4))
	assert.Equal(t, "0.6250", s.Packaging.Fixed(4))
	assert.Equal(t, "0.2250", s.Losses.Fixed(4), "0.10 and 0.125 more than 100 g and one jar")
	got := map[string]string{}
	for _, x := range s.Lost {
		got[x.Key] = x.PerJar.Fixed(4)
		assert.NotEmpty(t, x.How, x.Key)
	}
	assert.Equal(t, map[string]string{"lost:samples": "0.0250", "lost:vessel": "0.0250", "lost:rejects": "0.1750"}, got,
		"100 g, 2 x 50 g and two jars of 0.20 and 0.50, over 8 good ones")
	sum := s.Ingredients.Plus(s.Packaging).Plus(s.Labour).Plus(s.Overhead)
	assert.Zero(t, sum.Cmp(s.PerJar))
}

// someProduct draws a product with components, steps, toppings and a pack.
func someProduct(t *rapid.T) Product {
	grams := func(name string) amount.Grams { return amount.G(float64(rapid.IntRange(1, 5000).Draw(t, name))) }
	money := func(name string) string { return fmt.Sprintf("%.2f", rapid.Float64Range(0.05, 90).Draw(t, name)) }
	var list []*pantry.Ingredient
	for i := range rapid.IntRange(1, 6).Draw(t, "ingredients") {
		g := kilo(fmt.Sprintf("g%d", i), money("price"))
		g.UsablePercent = float64(rapid.IntRange(40, 100).Draw(t, "usable"))
		list = append(list, g)
	}
	list = append(list, &pantry.Ingredient{ID: "made", Name: "made"})
	lib := shelfOf(list...)
	lines := func(n int) []formula.Line {
		var out []formula.Line
		for range n {
			out = append(out, formula.Line{Ingredient: rapid.SampledFrom(list).Draw(t, "of").ID, Grams: grams("grams")})
		}
		return out
	}
	base := versionOf(lines(rapid.IntRange(1, 4).Draw(t, "parts"))...)
	base.Formula, base.LossPercent = "base", amount.Pct(float64(rapid.IntRange(0, 30).Draw(t, "lost")))
	lib.Versions[formula.Ref{Formula: "base", Version: 1}] = base
	of := lines(rapid.IntRange(1, 6).Draw(t, "lines"))
	if rapid.Bool().Draw(t, "component") {
		of = append(of, formula.Line{Component: &formula.Ref{Formula: "base", Version: 1}, Grams: grams("base")})
	}
	v := versionOf(of...)
	v.LossPercent, v.OverfillPercent = amount.Pct(float64(rapid.IntRange(0, 20).Draw(t, "loss"))), amount.Pct(1)
	v.MinutesPerJar, v.MinutesPerLoad = amount.Min(1), amount.Min(float64(rapid.IntRange(0, 30).Draw(t, "load")))
	v.RejectPercent = amount.Pct(float64(rapid.IntRange(0, 10).Draw(t, "rejects")))
	v.OverheadPerBatch = amount.MustMoney(money("overhead"))
	v.Toppings = []formula.Topping{{ID: "t", Ingredient: list[0].ID, Grams: grams("topping")}}
	v.Packaging[0].LossPercent = amount.Pct(3)
	p := productOf(t, v, lib, pantry.Preparation{ID: "step", Name: "peel", Input: list[0].ID, Output: "made",
		YieldPercent: float64(rapid.IntRange(20, 120).Draw(t, "yield")), MinutesPerKg: 6})
	p.Terms.Kitchen, p.Terms.Day = amount.MustMoney("9"), amount.Min(480)
	p.Terms.Made = Made{Samples: amount.G(120), Vessel: bench.Vessel{Residue: amount.G(80),
		Greatest: amount.G(float64(rapid.IntRange(3000, 20_000).Draw(t, "vessel")))}}
	return p
}

func sum(parts []Part) amount.Exact {
	out := amount.Exact{}
	for _, p := range parts {
		out = out.Plus(p.PerJar)
	}
	return out
}

func TestLawTheStackAddsUpToTheLastDigit(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := someProduct(t).Jar(rapid.IntRange(1, 500).Draw(t, "jars"))
		assert.Zero(t, sum(s.Lines).Plus(sum(s.Toppings)).Cmp(s.Ingredients))
		assert.Zero(t, sum(s.Items).Cmp(s.Packaging))
		assert.Zero(t, sum(s.Hands).Cmp(s.Labour))
		assert.Zero(t, sum(s.Rooms).Cmp(s.Overhead))
		assert.Zero(t, s.Ingredients.Plus(s.Packaging).Plus(s.Labour).Plus(s.Overhead).Cmp(s.PerJar))
		assert.LessOrEqual(t, s.Losses.Cmp(s.Ingredients.Plus(s.Packaging)), 0)
		assert.Zero(t, sum(s.Lost).Cmp(s.Losses))
	})
}

// TestLawLossesAreWhatAJarWithoutAnyWouldNotCost holds the losses against the same product made with none.
func TestLawLossesAreWhatAJarWithoutAnyWouldNotCost(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := someProduct(t)
		jars := rapid.IntRange(1, 500).Draw(t, "jars")
		s := p.Jar(jars)
		none, err := p.With()
		require.NoError(t, err)
		none.Version.LossPercent, none.Version.OverfillPercent = amount.Percent{}, amount.Percent{}
		none.Version.RejectPercent, none.Version.Packaging[0].LossPercent = amount.Percent{}, amount.Percent{}
		none.Terms.Made = Made{}
		bare := none.Jar(jars)
		assert.Zero(t, bare.Ingredients.Plus(bare.Packaging).Plus(s.Losses).Cmp(s.Ingredients.Plus(s.Packaging)))
	})
}

func TestLawADearerPriceNeverMakesAJarCheaper(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := someProduct(t)
		up := amount.Pct(float64(rapid.IntRange(0, 300).Draw(t, "up")))
		dearer, err := p.With(Change{Kind: ChangePrice, Of: "g0", Percent: up})
		require.NoError(t, err)
		assert.GreaterOrEqual(t, dearer.Jar(40).PerJar.Cmp(p.Jar(40).PerJar), 0)
		worse, err := p.With(Change{Kind: ChangeYield, Of: "g0", Percent: amount.Pct(-30)})
		require.NoError(t, err)
		assert.GreaterOrEqual(t, worse.Jar(40).PerJar.Cmp(p.Jar(40).PerJar), 0)
	})
}

func TestLawScalingAllPricesScalesTheTotal(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := someProduct(t)
		k := rapid.SampledFrom([]float64{-50, 10, 100, 150}).Draw(t, "by")
		changes := []Change{{Kind: ChangeHands, Percent: amount.Pct(k)}, {Kind: ChangeRooms, Percent: amount.Pct(k)},
			{Kind: ChangeItem, Of: "jar", Percent: amount.Pct(k)}}
		for id := range p.Library.Ingredients {
			changes = append(changes, Change{Kind: ChangePrice, Of: id, Percent: amount.Pct(k)})
		}
		scaled, err := p.With(changes...)
		require.NoError(t, err)
		want := p.Jar(30).PerJar.Times(amount.More(amount.Pct(k)))
		assert.Zero(t, scaled.Jar(30).PerJar.Cmp(want))
	})
}

func TestLawAJarGetsCheaperWithTheBatchButAtSteps(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := someProduct(t).Curve(20, 400, 60)
		steps := map[int]bool{}
		for _, s := range c.Steps {
			steps[s.Jars] = true
		}
		for i := 1; i < len(c.Points); i++ {
			a, b := c.Points[i-1], c.Points[i]
			if steps[b.Jars] {
				assert.Equal(t, a.Jars+1, b.Jars, "a step is shown where it is")
				continue
			}
			assert.Equal(t, [2]int{a.Loads, a.Shifts}, [2]int{b.Loads, b.Shifts})
			assert.LessOrEqual(t, b.PerJar.Cmp(a.PerJar), 0, "%d to %d jars", a.Jars, b.Jars)
		}
		if c.Day != nil {
			for _, x := range c.Points {
				assert.False(t, x.Shifts == 1 && x.PerJar.Cmp(c.Day.PerJar) < 0)
			}
		}
	})
}
