package declaration

import (
	"strings"
	"testing"
	"time"

	"gallipot/internal/cases"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestDateLineReproducesWorkedCases(t *testing.T) {
	var file struct {
		Cases []struct{ Name, Made, Last, Kind, Want string }
	}
	cases.Load(t, "dates.json", &file)
	require.NotEmpty(t, file.Cases)
	for _, c := range file.Cases {
		t.Run(c.Name, func(t *testing.T) {
			made, err := time.Parse(time.DateOnly, c.Made)
			require.NoError(t, err)
			last, err := time.Parse(time.DateOnly, c.Last)
			require.NoError(t, err)
			assert.Equal(t, c.Want, of(t, GB).DateLine(c.Kind, made, last))
		})
	}
}

// What a component lost while it was made is gone from its grams already.
func TestWaterDrivenOffInAComponentCountsOnce(t *testing.T) {
	reduced := Item{Name: "reduced plums", Grams: 350, DrivenOff: 250,
		Parts: []Item{{Name: "plums", Grams: 500}, {Name: "water", Grams: 100, Flags: []string{"water"}}}, Quid: true}
	gb, err := Declare([]Item{{Name: "rapeseed oil", Grams: 650}, reduced}, Options{Law: of(t, GB), DrivenOff: 250})
	require.NoError(t, err)
	assert.Equal(t, "Rapeseed oil, reduced plums (35%) (plums).", gb.List)
	us, err := Declare([]Item{{Name: "rapeseed oil", Grams: 650}, reduced}, Options{Law: of(t, US), DrivenOff: 250})
	require.NoError(t, err)
	assert.Equal(t, "Rapeseed oil, reduced plums (plums).", us.List, "all its water was removed")

	reduced.Disperse = true
	reduced.Parts[0].Quid = true
	d, err := Declare([]Item{{Name: "rapeseed oil", Grams: 650}, reduced}, Options{Law: of(t, GB), DrivenOff: 250})
	require.NoError(t, err)
	assert.Equal(t, "Rapeseed oil, plums (50%).", d.List, "500 g in 1000 g finished")
}

// The sub-list of a component and the list it would have by itself tell the same water.
func TestASubListShowsTheWaterThatItsOwnListShows(t *testing.T) {
	for _, water := range []float64{20, 40, 60, 300} {
		parts := []Item{{Name: "ginger", Grams: 700}, {Name: "water", Grams: water, Flags: []string{"water"}},
			{Name: "oil", Grams: 250}}
		own := declare(t, GB, parts...)
		d := declare(t, GB, Item{Name: "carrots", Grams: 5000}, Item{Name: "paste", Grams: 950 + water, Parts: parts})
		assert.Equal(t, strings.ToLower(strings.TrimSuffix(own.List, ".")),
			strings.TrimSuffix(strings.TrimPrefix(d.List, "Carrots, paste ("), ")."), "%g g of water", water)
	}
}

func TestQuantitiesUnderFivePercentAreToldToAHalf(t *testing.T) {
	for grams, want := range map[float64]string{47: "4.5%", 48: "5%", 44: "4.5%", 26: "2.5%", 52: "5%", 55: "6%",
		54: "5%", 2: "<0.5%", 3: "0.5%", 146: "15%"} {
		d := declare(t, GB, Item{Name: "miso", Grams: grams, Quid: true}, Item{Name: "carrots", Grams: 1000 - grams})
		assert.Contains(t, d.List, "miso ("+want+")", "%g g", grams)
	}
}

// US: added water stands where its weight puts it.
func TestAddedWaterInAUSList(t *testing.T) {
	for grams, want := range map[float64]string{300: "Water, carrots, oil.", 150: "Carrots, water, oil.",
		20: "Carrots, oil, water."} {
		assert.Equal(t, want, declare(t, US, Item{Name: "carrots", Grams: 200},
			Item{Name: "water", Grams: grams, Flags: []string{"water"}}, Item{Name: "oil", Grams: 100}).List)
	}
}

func TestAnAdditiveHasItsClassInGBAndItsFunctionInTheUS(t *testing.T) {
	soda := Item{Name: "sodium bicarbonate", Grams: 1, Flags: []string{"additive:acidity regulator"}}
	assert.Equal(t, "Acidity regulator: sodium bicarbonate.", declare(t, GB, soda).List)
	assert.Equal(t, "Sodium bicarbonate.", declare(t, US, soda).List,
		"the US asks for a function of preservatives only")
	sorbate := Item{Name: "potassium sorbate", Grams: 1, Flags: []string{"additive:preservative"}}
	assert.Equal(t, "Preservative: potassium sorbate.", declare(t, GB, sorbate).List)
	assert.Equal(t, "Potassium sorbate (preservative).", declare(t, US, sorbate).List)
	said := Item{Name: "thickener: xanthan gum", Grams: 1, Flags: []string{"additive:thickener"}}
	assert.Equal(t, "Thickener: xanthan gum.", declare(t, GB, said).List, "said once")
	said.Name = "stabiliser (xanthan gum)"
	assert.Equal(t, "Stabiliser (xanthan gum).", declare(t, GB, said).List, "another class that the maker wrote stays")
}

// GB: herbs are no spices; each goes up to 2 %.
func TestHerbsAndSpicesAreGroupedApart(t *testing.T) {
	herb := func(name string, grams float64) Item {
		return Item{Name: name, Grams: grams, ingredient: &pantry.Ingredient{Role: "herb",
			Name: name, Flags: []string{"spice_group"}}, Flags: []string{"spice_group"}}
	}
	items := func(oregano float64) []Item {
		return []Item{{Name: "carrots", Grams: 940}, herb("oregano", oregano), herb("thyme", 3),
			{Name: "cumin", Grams: 9, Flags: []string{"spice_group"}},
			{Name: "pepper", Grams: 8, Flags: []string{"spice_group"}}}
	}
	list := func(regime string, oregano float64) string {
		under := of(t, GB)
		if regime == "US" {
			under = of(t, US)
		}
		grouped, err := Declare(items(oregano), Options{Law: under, GroupSpices: true})
		require.NoError(t, err)
		return grouped.List
	}
	assert.Equal(t, "Carrots, spices, herbs.", list("GB", 10))
	assert.Equal(t, "Carrots, oregano, spices, thyme.", list("GB", 40), "herbs over 2 % are named, spices not")
	assert.Equal(t, "Carrots, spices.", list("US", 10))
}

func TestSaltIsSaltWhateverItIsCalledInTheKitchen(t *testing.T) {
	salts := []Item{{Name: "carrots", Grams: 900}, {Name: "sea salt", Grams: 5, Flags: []string{"salt"}},
		{Name: "kosher salt", Grams: 3, Flags: []string{"salt"}}, {Name: "oil", Grams: 7},
		{Name: "salt", Grams: 1, Flags: []string{"salt"}}}
	assert.Equal(t, "Carrots, salt, oil.", declare(t, US, salts...).List, "9 g of one thing")
	assert.Equal(t, "Carrots, oil, sea salt.", declare(t, GB, salts[0], salts[3], salts[1]).List, "one keeps its name")
}

func TestAListThatMakesItPlainNeedsNoSecondBracket(t *testing.T) {
	anchovy := Item{Name: "anchovies", SupplierList: "anchovies 62%; sunflower oil; salt", Grams: 60, Quid: true,
		Allergens: []string{"fish"}}
	assert.Equal(t, "Carrots, anchovies (6%) (anchovies 62% (**fish**), sunflower oil, salt).",
		declare(t, GB, Item{Name: "carrots", Grams: 940}, anchovy).List)
}

func TestAVolumeOfOuncesComesFromTheWeightItself(t *testing.T) {
	us := of(t, US)
	text, err := NetVolume(us, 227/0.96)
	require.NoError(t, err)
	assert.Equal(t, "8 fl oz (236 mL)", text)
	gb, err := NetVolume(of(t, GB), 227/0.96)
	require.NoError(t, err)
	assert.Equal(t, "236 ml", gb)
	_, err = NetVolume(us, 0)
	assert.Error(t, err)
}

// What the salt figure of a panel is must be the salt in the jar.
func TestSaltOnThePanel(t *testing.T) {
	n := NutritionOf([]formula.Leaf{{Ingredient: &pantry.Ingredient{Composition: pantry.Composition{SodiumMg: 38_758}},
		Grams: 12}, {Ingredient: &pantry.Ingredient{Composition: pantry.Composition{Water: 100}}, Grams: 988}}, 0)
	figures := map[string]string{}
	for _, f := range append(n.Figures(of(t, GB)), n.Figures(of(t, US))...) {
		figures[f.Name] = f.Printed
	}
	assert.Equal(t, "1.2 g", figures["Salt"])
	assert.Equal(t, "470 mg", figures["Sodium"])
}

func TestStorageSentencesOfEveryCondition(t *testing.T) {
	gb, us := of(t, GB), of(t, US)
	assert.Equal(t, "Keep frozen at or below -18 °C. Thaw in the fridge; do not refreeze.", gb.Storage("frozen", 7))
	assert.Equal(t, "Keep frozen at or below 0 °F. Thaw in the refrigerator; do not refreeze.", us.Storage("frozen", 7))
	ambient := "Store in a cool, dry place. Refrigerate after opening. Once opened, use within 1 day."
	assert.Equal(t, ambient, gb.Storage("ambient", 1))
	assert.Equal(t, ambient, us.Storage("ambient", 1))
	assert.Equal(t, "Keep refrigerated at or below 5 °C. Once opened, use within 7 days.", gb.Storage("chilled", 7))
}

// The steps of the least height of US figures (21 CFR 101.7(h)), by panel area in square inches.
func TestEveryStepOfTheLeastUSType(t *testing.T) {
	for _, c := range [][2]float64{{5, 1. / 16}, {5.1, 1. / 8}, {25, 1. / 8}, {25.1, 3. / 16}, {100, 3. / 16},
		{100.1, 1. / 4}, {400, 1. / 4}, {400.1, 1. / 2}} {
		assert.InDelta(t, c[1]*25.4, of(t, US).FigureMM(200, c[0]*6.4516), 1e-9, "%g in²", c[0])
	}
}

// Words in a product's name that an ingredient goes by.
func TestWhatANameStresses(t *testing.T) {
	items := []Item{{Name: "carrots", Grams: 300}, {Name: "white miso", Grams: 70, SupplierList: "soybeans; salt"},
		{Name: "ginger paste", Grams: 20, Parts: []Item{{Name: "ginger", Grams: 20}}},
		{Name: "black pepper", Grams: 1}, {Name: "rapeseed oil", Grams: 200}}
	for name, want := range map[string][]string{
		"Carrot & miso dressing":      {"carrots", "white miso"},
		"Ginger dressing":             {"ginger paste"},
		"House dressing":              {},
		"Carrots with pepper":         {"carrots", "black pepper"},
		"Oil-free spread":             {},
		"Rapeseed oil and white miso": {"rapeseed oil", "white miso"},
	} {
		assert.ElementsMatch(t, want, Stressed(name, items, of(t, GB)), name)
	}
}
