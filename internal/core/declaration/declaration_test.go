package declaration

import (
	"testing"
	"time"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const (
	US = law.US
	GB = law.GB
)

func of(t testing.TB, r law.Regime) *law.Law {
	t.Helper()
	l, err := law.Of(r)
	require.NoError(t, err)
	return l
}

func declare(t *testing.T, regime law.Regime, items ...Item) Declaration {
	t.Helper()
	d, err := Declare(items, Options{Law: of(t, regime)})
	require.NoError(t, err)
	return d
}

func TestAllergensAreMadePlain(t *testing.T) {
	for _, c := range []struct {
		name     string
		regime   law.Regime
		item     Item
		list     string
		contains string
	}{
		{"a plain word is emphasised whole, plural too", GB,
			Item{Name: "hazelnuts", Grams: 1, Allergens: []string{"nut:hazelnut"}}, "**Hazelnuts**.", ""},
		{"a word that hides it gets its source in brackets", GB,
			Item{Name: "tahini", Grams: 1, Allergens: []string{"sesame"}}, "Tahini (**sesame**).", ""},
		{"the source stands at the word that hides it", GB,
			Item{Name: "dark sauce", SupplierList: "vinegar; anchovies; salt", Grams: 1, Allergens: []string{"fish"}},
			"Dark sauce (vinegar, anchovies (**fish**), salt).", ""},
		{"every occurrence is emphasised", GB,
			Item{Name: "milk powder", SupplierList: "skimmed milk; milk sugar", Grams: 1, Allergens: []string{"milk"}},
			"**Milk** powder (skimmed **milk**, **milk** sugar).", ""},
		{"an E number counts as sulphites", GB,
			Item{Name: "dried apricots", SupplierList: "apricots; preservative: E220", Grams: 1,
				Allergens: []string{"sulphites"}}, "Dried apricots (apricots, preservative: E220 (**sulphites**)).",
			""},
		{"what the supplier's list betrays counts unticked", GB,
			Item{Name: "seasoning", SupplierList: "salt; wheat flour; celery seed", Grams: 1},
			"Seasoning (salt, **wheat** flour, **celery** seed).", ""},
		{"coconut milk and butter beans are not milk", GB,
			Item{Name: "coconut milk", SupplierList: "coconut; butter beans", Grams: 1},
			"Coconut milk (coconut, butter beans).", ""},
		{"wheat glucose syrup is exempt in GB", GB, Item{Name: "syrup", SupplierList: "wheat glucose syrup", Grams: 1},
			"Syrup (wheat glucose syrup).", ""},
		{"and not in the US", US, Item{Name: "syrup", SupplierList: "wheat glucose syrup", Grams: 1},
			"Syrup (wheat glucose syrup).", "Contains: Wheat."},
		{"a tree nut names the nut", US, Item{Name: "walnuts", Grams: 1, Allergens: []string{"tree_nut:walnut"}},
			"Walnuts.", "Contains: Tree nuts (walnut)."},
		{"coconut is no tree nut", US, Item{Name: "coconut", Grams: 1}, "Coconut.", ""},
		{"fish names its species", US, Item{Name: "sauce", SupplierList: "anchovies; salt", Grams: 1},
			"Sauce (anchovies, salt).", "Contains: Fish (anchovy)."},
		{"highly refined soya oil is exempt", US, Item{Name: "soybean oil", Grams: 1, Flags: []string{"refined_oil"}},
			"Soybean oil.", ""},
		{"each unclear word has its bracket, each plain one its emphasis", GB,
			Item{Name: "powder", SupplierList: "whey powder; milk; casein", Grams: 1},
			"Powder (whey powder (**milk**), **milk**, casein (**milk**)).", ""},
		{"a cereal beside an exempt syrup of it", GB,
			Item{Name: "crumb", SupplierList: "wheat glucose syrup; semolina", Grams: 1},
			"Crumb (wheat glucose syrup, semolina (**wheat**)).", ""},
		{"a bracket of its own makes it plain", GB,
			Item{Name: "parmesan", SupplierList: "milk; salt", Grams: 1}, "Parmesan (**milk**, salt).", ""},
		{"an own bracket without it does not", GB,
			Item{Name: "parmesan 12%", SupplierList: "salt; rennet", Grams: 1},
			"Parmesan 12% (**milk**) (salt, rennet).", ""},
		{"every fish is named", US, Item{Name: "paste", SupplierList: "anchovies; tuna; salt", Grams: 1},
			"Paste (anchovies, tuna, salt).", "Contains: Fish (anchovy, tuna)."},
		{"nuts of a spread are nuts and no milk", GB, Item{Name: "almond butter", Grams: 1}, "**Almond** butter.", ""},
		{"the animal is named where it is not the usual one", US,
			Item{Name: "goat cheese", SupplierList: "milk; salt", Grams: 1}, "Goat cheese (milk, salt).",
			"Contains: Goat milk."},
		{"and beside the usual one", US,
			Item{Name: "sauce", SupplierList: "duck egg; hen's egg; goat's milk; butter from cow's milk", Grams: 1},
			"Sauce (duck egg, hen's egg, goat's milk, butter from cow's milk).",
			"Contains: Milk, Goat milk, Egg, Duck egg."},
		{"refining takes off what the law says and no more", GB,
			Item{Name: "refined soya and groundnut oil", Grams: 1, Flags: []string{"refined_oil"}},
			"Refined soya and groundnut oil (**peanuts**).", ""},
		{"a cold-pressed oil is not refined, whatever is ticked", US,
			Item{Name: "cold-pressed peanut oil", Grams: 1, Flags: []string{"refined_oil"}}, "Cold-pressed peanut oil.",
			"Contains: Peanut."},
		{"refined peanut oil is not, in GB", GB, Item{Name: "peanut oil", Grams: 1, Flags: []string{"refined_oil"}},
			"**Peanut** oil.", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := declare(t, c.regime, c.item)
			assert.Equal(t, c.list, d.List)
			assert.Equal(t, c.contains, d.Contains)
		})
	}
}

func TestContainsLineIsInStatutoryOrder(t *testing.T) {
	d := declare(t, US, Item{Name: "sesame paste", Grams: 9, Allergens: []string{"sesame"}},
		Item{Name: "almonds", Grams: 8, Allergens: []string{"tree_nut:almond"}},
		Item{Name: "walnuts", Grams: 7, Allergens: []string{"tree_nut:walnut"}},
		Item{Name: "milk", Grams: 6, Allergens: []string{"milk"}})
	assert.Equal(t, "Contains: Milk, Tree nuts (almond, walnut), Sesame.", d.Contains)
}

func TestSulphitesAreSummedWhereKnown(t *testing.T) {
	level := func(x float64) *float64 { return &x }
	vinegar := Item{Name: "wine vinegar", SupplierList: "wine vinegar; preservative: sulphites",
		Allergens: []string{"sulphites"}, Grams: 50, SulphitesMgKg: level(100)}
	beet := Item{Name: "beetroot", Grams: 950}
	low := declare(t, GB, beet, vinegar) // 5 mg/kg in the product
	assert.Empty(t, low.Allergens)
	assert.NotContains(t, low.List, "**")
	assert.NotEmpty(t, low.Notes)
	vinegar.SulphitesMgKg = level(400)
	assert.Equal(t, []string{"sulphites"}, declare(t, GB, beet, vinegar).Allergens)
	vinegar.SulphitesMgKg = nil
	assert.Equal(t, []string{"sulphites"}, declare(t, GB, beet, vinegar).Allergens, "an unknown level counts as above")

	wine := Item{Name: "verjus", Grams: 100, SulphitesMgKg: level(150)} // entered, not ticked
	d := declare(t, GB, beet, wine)
	assert.Equal(t, []string{"sulphites"}, d.Allergens)
	assert.Contains(t, d.List, "verjus (**sulphites**)")
	us := declare(t, US, beet, wine)
	assert.Equal(t, []string{"sulfites"}, us.Disclosed)
	assert.Contains(t, us.List, "verjus (sulfites)")
	assert.Empty(t, us.Allergens)
	assert.Empty(t, us.Contains, "disclosed, and no allergen of that law")
}

func TestSulphitesCountAgainstTheFinishedWeight(t *testing.T) {
	level := 9.5
	juice := []Item{{Name: "apple juice", Grams: 1000, SulphitesMgKg: &level}}
	for _, c := range []struct {
		off  float64
		mg   float64
		want bool
		us   bool
	}{{0, 9.5, false, false}, {500, 9.5, true, true}, {0, 10, false, true}, {0, 10.1, true, true}} {
		level = c.mg
		gb, err := Declare(juice, Options{Law: of(t, GB), DrivenOff: c.off})
		require.NoError(t, err)
		assert.Equal(t, c.want, len(gb.Allergens) == 1, "%+v", c)
		us, err := Declare(juice, Options{Law: of(t, US), DrivenOff: c.off})
		require.NoError(t, err)
		assert.Equal(t, c.us, len(us.Disclosed) == 1, "%+v", c)
	}
}

func TestAProcessingAidIsLeftOutButNeverAnAllergen(t *testing.T) {
	assert.Equal(t, "Oil.", declare(t, GB, Item{Name: "oil", Grams: 9},
		Item{Name: "release agent", Grams: 1, Flags: []string{"processing_aid"}}).List)
	assert.Contains(t, declare(t, GB, Item{Name: "oil", Grams: 9},
		Item{Name: "soya lecithin", Grams: 1, Flags: []string{"processing_aid"}}).List, "**soya**")
}

func TestAComponentShowsItsOwnListInFallingOrder(t *testing.T) {
	paste := Item{Name: "ginger paste", Grams: 30,
		Parts: []Item{{Name: "oil", Grams: 5}, {Name: "ginger", Grams: 20},
			{Name: "white miso", SupplierList: "soybeans; rice", Allergens: []string{"soy"}, Grams: 5}}}
	d := declare(t, GB, Item{Name: "carrots", Grams: 100}, paste)
	assert.Equal(t, "Carrots, ginger paste (ginger, oil, white miso (**soybeans**, rice)).", d.List)
	paste.Disperse = true
	d = declare(t, GB, Item{Name: "carrots", Grams: 100}, Item{Name: "oil", Grams: 16}, paste)
	assert.Equal(t, "Carrots, oil, ginger, white miso (**soybeans**, rice).", d.List, "oil of both is one entry, 21 g")
}

func TestQuidCountsWaterDrivenOff(t *testing.T) {
	items := []Item{{Name: "tomatoes", Grams: 1500, Quid: true}, {Name: "garlic", Grams: 30, Quid: true}}
	d, err := Declare(items, Options{Law: of(t, GB), DrivenOff: 600})
	require.NoError(t, err)
	assert.Equal(t, "Tomatoes (prepared with 161 g per 100 g), garlic (3%).", d.List)
}

func TestGBSpicesGroupOnlyToTwoPercent(t *testing.T) {
	spices := []Item{{Name: "carrots", Grams: 960}, {Name: "cumin", Grams: 15, Flags: []string{"spice_group"}},
		{Name: "pepper", Grams: 4, Flags: []string{"spice_group"}},
		{Name: "celery seed", Grams: 2, Flags: []string{"spice_group"}, Allergens: []string{"celery"}}}
	d, err := Declare(spices, Options{Law: of(t, GB), GroupSpices: true})
	require.NoError(t, err)
	assert.Equal(t, "Carrots, spices, **celery** seed.", d.List)
	spices[1].Grams = 40
	d, err = Declare(spices, Options{Law: of(t, GB), GroupSpices: true})
	require.NoError(t, err)
	assert.Equal(t, "Carrots, cumin, pepper, **celery** seed.", d.List)
}

func TestABrokenSupplierListIsAnError(t *testing.T) {
	_, err := Declare([]Item{{Name: "paste", Grams: 1, SupplierList: "a (b"}}, Options{Law: of(t, GB)})
	assert.ErrorContains(t, err, "never closed")
}

func TestNetQuantityNamesLargeUnits(t *testing.T) {
	for _, c := range [][2]any{{591.0, "20 fl oz (1 pt 4 fl oz) 591 mL"}, {946.0, "32 fl oz (1 qt) 946 mL"},
		{3785.0, "1 gal (3.79 L)"}} {
		text, err := NetQuantity(of(t, US), c[0].(float64), "ml")
		require.NoError(t, err)
		assert.Equal(t, c[1], text)
	}
	_, err := NetQuantity(of(t, GB), -1, "g")
	assert.Error(t, err)
}

func TestDateAndStorageWords(t *testing.T) {
	made := time.Date(2026, 3, 2, 0, 0, 0, 0, time.UTC)
	assert.Equal(t, "Use by 12 March", of(t, GB).DateLine(keeping.UseBy, made, made.AddDate(0, 0, 10)))
	assert.Equal(t, "Best before 30 May",
		of(t, GB).DateLine(keeping.BestBefore, made, time.Date(2026, 5, 30, 0, 0, 0, 0, time.UTC)))
	assert.Equal(t, "Best before end July 2026",
		of(t, GB).DateLine(keeping.BestBefore, made, made.AddDate(0, 0, 180)))
	assert.Equal(t, "Best if used by Mar 12, 2026",
		of(t, US).DateLine(keeping.BestBefore, made, made.AddDate(0, 0, 10)))
	assert.Equal(t, "Keep refrigerated at or below 41 °F. Once opened, use within 5 days.",
		of(t, US).Storage(keeping.Chilled, 5))
	high, days := 4.5, 4
	assert.Equal(t, 4, OpenedDays(14, keeping.Chilled, &high, &days), "never past the unopened life")
	assert.Equal(t, 7, OpenedDays(14, keeping.Chilled, &high, nil))
	assert.Equal(t, "L26-061-A", LotText(of(t, GB), "26-061-A"))
	assert.Contains(t, Directions(true, true), "Shake well.")
}

func TestWordDiffTellsWhatChanged(t *testing.T) {
	assert.Equal(t, []Piece{{"same", "salt,"}, {"gone", "water"}, {"new", "rapeseed oil"}, {"same", "end"}},
		WordDiff("salt, water end", "salt, rapeseed oil end"))
}

func TestNutritionUsesEachRegimesFactors(t *testing.T) {
	oil := &pantry.Ingredient{Composition: pantry.Composition{Fat: 100, Saturates: 8}}
	beet := &pantry.Ingredient{Composition: pantry.Composition{Water: 87, Carbohydrate: 10, Sugars: 8, Fibre: 2,
		Protein: 1.5, SodiumMg: 80}, Acids: pantry.Acids{Citric: 0.5}}
	n := NutritionOf([]formula.Leaf{{Ingredient: oil, Grams: 50}, {Ingredient: beet, Grams: 150}}, 0)
	assert.InDelta(t, 25, n.Fat, 1e-9)
	assert.InDelta(t, 5.625, n.AvailableCarbohydrate, 1e-9) // (10 - 2 - 0.5) x 0.75
	assert.InDelta(t, 37*25+17*5.625+17*1.125+8*1.5+13*0.375, n.EnergyKJ, 1e-9)
	assert.InDelta(t, 9*25+4*7.5+4*1.125, n.CaloriesUS, 1e-9)
	assert.Equal(t, Figure{"Fat", "25 g"}, n.Figures(of(t, GB))[2])
	assert.Equal(t, Figure{"Calories", "260"}, n.Figures(of(t, US))[0])
	assert.Equal(t, Nutrition{}, NutritionOf(nil, 0))
}

func TestRoundRefusesWhatIsNoAmount(t *testing.T) {
	_, err := Round(of(t, US), "fat_g", -1)
	assert.Error(t, err)
	_, err = Round(of(t, GB), "joy_g", 1)
	assert.Error(t, err)
}
