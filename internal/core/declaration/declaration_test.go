package declaration

import (
	"testing"
	"time"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func declare(t *testing.T, regime string, items ...Item) Declaration {
	t.Helper()
	d, err := Declare(items, Options{Regime: regime})
	require.NoError(t, err)
	return d
}

func TestAllergensAreMadePlain(t *testing.T) {
	for _, c := range []struct {
		name, regime string
		item         Item
		list         string
		contains     string
	}{
		{"a plain word is emphasised whole, plural too", GB, Item{NameGB: "hazelnuts", Grams: 1, AllergensGB: []string{"nut:hazelnut"}}, "**Hazelnuts**.", ""},
		{"a word that hides it gets its source in brackets", GB, Item{NameGB: "tahini", Grams: 1, AllergensGB: []string{"sesame"}}, "Tahini (**sesame**).", ""},
		{"the source stands at the word that hides it", GB, Item{NameGB: "dark sauce", SupplierList: "vinegar; anchovies; salt", Grams: 1, AllergensGB: []string{"fish"}}, "Dark sauce (vinegar, anchovies (**fish**), salt).", ""},
		{"every occurrence is emphasised", GB, Item{NameGB: "milk powder", SupplierList: "skimmed milk; milk sugar", Grams: 1, AllergensGB: []string{"milk"}}, "**Milk** powder (skimmed **milk**, **milk** sugar).", ""},
		{"an E number counts as sulphites", GB, Item{NameGB: "dried apricots", SupplierList: "apricots; preservative: E220", Grams: 1, AllergensGB: []string{"sulphites"}}, "Dried apricots (apricots, preservative: **E220**).", ""},
		{"what the supplier's list betrays counts unticked", GB, Item{NameGB: "seasoning", SupplierList: "salt; wheat flour; celery seed", Grams: 1}, "Seasoning (salt, **wheat** flour, **celery** seed).", ""},
		{"coconut milk and butter beans are not milk", GB, Item{NameGB: "coconut milk", SupplierList: "coconut; butter beans", Grams: 1}, "Coconut milk (coconut, butter beans).", ""},
		{"wheat glucose syrup is exempt in GB", GB, Item{NameGB: "syrup", SupplierList: "wheat glucose syrup", Grams: 1}, "Syrup (wheat glucose syrup).", ""},
		{"and not in the US", US, Item{NameUS: "syrup", SupplierList: "wheat glucose syrup", Grams: 1}, "Syrup (wheat glucose syrup).", "Contains: Wheat."},
		{"a tree nut names the nut", US, Item{NameUS: "walnuts", Grams: 1, AllergensUS: []string{"tree_nut:walnut"}}, "Walnuts.", "Contains: Tree nuts (walnut)."},
		{"coconut is no tree nut", US, Item{NameUS: "coconut", Grams: 1}, "Coconut.", ""},
		{"fish names its species", US, Item{NameUS: "sauce", SupplierList: "anchovies; salt", Grams: 1}, "Sauce (anchovies, salt).", "Contains: Fish (anchovy)."},
		{"highly refined soya oil is exempt", US, Item{NameUS: "soybean oil", Grams: 1, Flags: []string{"refined_oil"}}, "Soybean oil.", ""},
		{"refined peanut oil is not, in GB", GB, Item{NameGB: "peanut oil", Grams: 1, Flags: []string{"refined_oil"}}, "**Peanut** oil.", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := declare(t, c.regime, c.item)
			assert.Equal(t, c.list, d.List)
			assert.Equal(t, c.contains, d.Contains)
		})
	}
}

func TestContainsLineIsInStatutoryOrder(t *testing.T) {
	d := declare(t, US, Item{NameUS: "sesame paste", Grams: 9, AllergensUS: []string{"sesame"}}, Item{NameUS: "almonds", Grams: 8, AllergensUS: []string{"tree_nut:almond"}},
		Item{NameUS: "walnuts", Grams: 7, AllergensUS: []string{"tree_nut:walnut"}}, Item{NameUS: "milk", Grams: 6, AllergensUS: []string{"milk"}})
	assert.Equal(t, "Contains: Milk, Tree nuts (almond, walnut), Sesame.", d.Contains)
}

func TestSulphitesAreSummedWhereKnown(t *testing.T) {
	level := func(x float64) *float64 { return &x }
	vinegar := Item{NameGB: "wine vinegar", SupplierList: "wine vinegar; preservative: sulphites", AllergensGB: []string{"sulphites"}, Grams: 50, SulphitesMgKg: level(100)}
	beet := Item{NameGB: "beetroot", Grams: 950}
	low := declare(t, GB, beet, vinegar) // 5 mg/kg in the product
	assert.Empty(t, low.Allergens)
	assert.NotContains(t, low.List, "**")
	assert.NotEmpty(t, low.Notes)
	vinegar.SulphitesMgKg = level(400)
	assert.Equal(t, []string{"sulphites"}, declare(t, GB, beet, vinegar).Allergens)
	vinegar.SulphitesMgKg = nil
	assert.Equal(t, []string{"sulphites"}, declare(t, GB, beet, vinegar).Allergens, "an unknown level counts as above")
}

func TestAProcessingAidIsLeftOutButNeverAnAllergen(t *testing.T) {
	assert.Equal(t, "Oil.", declare(t, GB, Item{NameGB: "oil", Grams: 9}, Item{NameGB: "release agent", Grams: 1, Flags: []string{"processing_aid"}}).List)
	assert.Contains(t, declare(t, GB, Item{NameGB: "oil", Grams: 9}, Item{NameGB: "soya lecithin", Grams: 1, Flags: []string{"processing_aid"}}).List, "**soya**")
}

func TestAComponentShowsItsOwnListInFallingOrder(t *testing.T) {
	paste := Item{NameGB: "ginger paste", Grams: 30, Parts: []Item{{NameGB: "oil", Grams: 5}, {NameGB: "ginger", Grams: 20}, {NameGB: "white miso", SupplierList: "soybeans; rice", AllergensGB: []string{"soy"}, Grams: 5}}}
	d := declare(t, GB, Item{NameGB: "carrots", Grams: 100}, paste)
	assert.Equal(t, "Carrots, ginger paste (ginger, oil, white miso (**soybeans**, rice)).", d.List)
	paste.Disperse = true
	d = declare(t, GB, Item{NameGB: "carrots", Grams: 100}, Item{NameGB: "oil", Grams: 16}, paste)
	assert.Equal(t, "Carrots, oil, ginger, white miso (**soybeans**, rice).", d.List, "oil of both is one entry, 21 g")
}

func TestQuidCountsWaterDrivenOff(t *testing.T) {
	items := []Item{{NameGB: "tomatoes", Grams: 1500, Quid: true}, {NameGB: "garlic", Grams: 30, Quid: true}}
	d, err := Declare(items, Options{Regime: GB, DrivenOff: 600})
	require.NoError(t, err)
	assert.Equal(t, "Tomatoes (prepared with 161 g per 100 g), garlic (3%).", d.List)
}

func TestGBSpicesGroupOnlyToTwoPercent(t *testing.T) {
	spices := []Item{{NameGB: "carrots", Grams: 960}, {NameGB: "cumin", Grams: 15, Flags: []string{"spice_group"}}, {NameGB: "pepper", Grams: 4, Flags: []string{"spice_group"}},
		{NameGB: "celery seed", Grams: 2, Flags: []string{"spice_group"}, AllergensGB: []string{"celery"}}}
	d, err := Declare(spices, Options{Regime: GB, GroupSpices: true})
	require.NoError(t, err)
	assert.Equal(t, "Carrots, spices, **celery** seed.", d.List)
	spices[1].Grams = 40
	d, err = Declare(spices, Options{Regime: GB, GroupSpices: true})
	require.NoError(t, err)
	assert.Equal(t, "Carrots, cumin, pepper, **celery** seed.", d.List)
}

func TestABrokenSupplierListIsAnError(t *testing.T) {
	_, err := Declare([]Item{{NameGB: "paste", Grams: 1, SupplierList: "a (b"}}, Options{Regime: GB})
	assert.ErrorContains(t, err, "never closed")
}

func TestNetQuantityNeverClaimsTooMuch(t *testing.T) {
	for g := 20.0; g < 3000; g += 7 {
		text, err := NetQuantity(US, g, "g")
		require.NoError(t, err)
		assert.LessOrEqual(t, float64(ounces(g, gramsPerOunce))/10*gramsPerOunce, g+mostOverclaim+1e-9, text)
	}
	for _, c := range [][2]any{{591.0, "20 fl oz (1 pt 4 fl oz) 591 mL"}, {946.0, "32 fl oz (1 qt) 946 mL"}, {3785.0, "1 gal (3.79 L)"}} {
		text, err := NetQuantity(US, c[0].(float64), "ml")
		require.NoError(t, err)
		assert.Equal(t, c[1], text)
	}
	_, err := NetQuantity(GB, -1, "g")
	assert.Error(t, err)
}

func TestDateAndStorageWords(t *testing.T) {
	made := time.Date(2026, 3, 2, 0, 0, 0, 0, time.UTC)
	assert.Equal(t, "Use by 12 March", DateLine(GB, keeping.UseBy, made, made.AddDate(0, 0, 10)))
	assert.Equal(t, "Best before 30 May", DateLine(GB, keeping.BestBefore, made, time.Date(2026, 5, 30, 0, 0, 0, 0, time.UTC)))
	assert.Equal(t, "Best before end August 2026", DateLine(GB, keeping.BestBefore, made, made.AddDate(0, 0, 180)))
	assert.Equal(t, "Best if used by Mar 12, 2026", DateLine(US, keeping.BestBefore, made, made.AddDate(0, 0, 10)))
	assert.Equal(t, "Keep refrigerated at or below 41 °F. Once opened, use within 5 days.", StorageSentence(US, keeping.Chilled, 5))
	high, days := 4.5, 4
	assert.Equal(t, 4, OpenedDays(14, keeping.Chilled, &high, &days), "never past the unopened life")
	assert.Equal(t, 7, OpenedDays(14, keeping.Chilled, &high, nil))
	assert.Equal(t, "L26-061-A", LotText(GB, "26-061-A"))
	assert.Contains(t, Directions("shaken", true), "Shake well.")
}

func TestWordDiffTellsWhatChanged(t *testing.T) {
	assert.Equal(t, []Piece{{"same", "salt,"}, {"gone", "water"}, {"new", "rapeseed oil"}, {"same", "end"}}, WordDiff("salt, water end", "salt, rapeseed oil end"))
}

func TestNutritionUsesEachRegimesFactors(t *testing.T) {
	oil := &pantry.Ingredient{Composition: pantry.Composition{Fat: 100, Saturates: 8}}
	beet := &pantry.Ingredient{Composition: pantry.Composition{Water: 87, Carbohydrate: 10, Sugars: 8, Fibre: 2, Protein: 1.5, SodiumMg: 80}, Acids: pantry.Acids{Citric: 0.5}}
	n := NutritionOf([]formula.Leaf{{Ingredient: oil, Grams: 50}, {Ingredient: beet, Grams: 150}}, 0)
	assert.InDelta(t, 25, n.Fat, 1e-9)
	assert.InDelta(t, 5.625, n.AvailableCarbohydrate, 1e-9) // (10 - 2 - 0.5) x 0.75
	assert.InDelta(t, 37*25+17*5.625+17*1.125+8*1.5+13*0.375, n.EnergyKJ, 1e-9)
	assert.InDelta(t, 9*25+4*7.5+4*1.125, n.CaloriesUS, 1e-9)
	assert.Equal(t, Figure{"Fat", "25 g"}, n.Figures(GB)[2])
	assert.Equal(t, Figure{"Calories", "260"}, n.Figures(US)[0])
	assert.Equal(t, Nutrition{}, NutritionOf(nil, 0))
}

func TestRoundRefusesWhatIsNoAmount(t *testing.T) {
	_, err := Round(US, "fat_g", -1)
	assert.Error(t, err)
	_, err = Round(GB, "joy_g", 1)
	assert.Error(t, err)
}
