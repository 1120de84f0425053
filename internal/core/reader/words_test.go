package reader

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
)

// plainBook knows one thing, as heavy as water, of which a clove, a leaf and so on weigh what each test says.
func plainBook(pieces map[string]float64) *Book {
	stuff := map[string]*pantry.Ingredient{"stuff": {ID: "stuff", Name: "stuff", DensityGPerML: 1}}
	var measures []pantry.Measure
	for name, grams := range pieces {
		measures = append(measures, pantry.Measure{Ingredient: "stuff", Name: name, Grams: grams, Spread: 10,
			Source: pantry.ReferenceSource})
	}
	return &Book{Index: NewIndex(stuff, nil), Ingredients: stuff, Measures: pantry.NewMeasures(measures),
		Spoons: amount.USSpoons}
}

func weigh(t *testing.T, b *Book, text string) Weight {
	t.Helper()
	w, ok := b.Weigh(text, "stuff")
	require.True(t, ok, text)
	return w
}

// TestEveryWordForANumber reads the numbers people say and the fractions they type.
func TestEveryWordForANumber(t *testing.T) {
	b := plainBook(nil)
	for n, word := range strings.Fields(
		"one two three four five six seven eight nine ten eleven twelve thirteen fourteen " +
			"fifteen sixteen seventeen eighteen nineteen twenty") {
		assert.InDelta(t, float64(n+1), weigh(t, b, word+" grams stuff").Grams, 1e-9, word)
	}
	for text, want := range map[string]float64{
		"½": 0.5, "⅓": 1. / 3, "⅔": 2. / 3, "¼": 0.25, "¾": 0.75, "⅕": 0.2, "⅖": 0.4, "⅗": 0.6, "⅘": 0.8, "⅙": 1. / 6,
		"⅚": 5. / 6, "⅛": 0.125, "⅜": 0.375, "⅝": 0.625, "⅞": 0.875, "2½": 2.5, "1 ¾": 1.75, "1/2": 0.5, "3/4": 0.75,
	} {
		assert.InDelta(t, want*amount.USSpoons.Cup, weigh(t, b, text+" cup stuff").Grams, 0.01, text)
	}
	for text, want := range map[string]float64{"half a cup stuff": 0.5, "a quarter cup stuff": 0.25,
		"a third of a cup stuff": 1. / 3} {
		assert.InDelta(t, want*amount.USSpoons.Cup, weigh(t, b, text).Grams, 0.01, text)
	}
}

// TestEveryWordForAUnit reads each unit in each of its spellings.
func TestEveryWordForAUnit(t *testing.T) {
	fluid := 29.5735
	pieces := map[string]float64{}
	for i, name := range []string{"handful", "bunch", "sprig", "stalk", "leaf", "clove", "head", "bulb", "slice",
		"stick", "piece",
		"fillet"} {
		pieces[name] = float64(3 + 2*i)
	}
	b := plainBook(pieces)
	for spellings, want := range map[string]float64{
		"g gr gm gms gram grams gramme grammes":                   1,
		"kg kgs kilo kilos kilogram kilograms kilogramme":         1000,
		"mg milligram milligrams":                                 0.001,
		"oz ounce ounces ozs":                                     28.349523,
		"lb lbs pound pounds":                                     453.59237,
		"ml mls millilitre millilitres milliliter milliliters cc": 1,
		"cl":                          10,
		"dl":                          100,
		"l litre litres liter liters": 1000,
		"tsp tsps teaspoon teaspoons teaspoonful teaspoonfuls":                           4.93,
		"tbsp tbsps tbs tbl tblsp tablespoon tablespoons tablespoonful tablespoonfuls T": 14.79,
		"dessertspoon dessertspoons dsp":                                                 9.86,
		"cup cups cupful cupfuls":                                                        236.6,
		"pint pints pt pts":                                                              16 * fluid,
		"quart quarts qt qts":                                                            32 * fluid,
		"splash splashes":                                                                5,
		"glug glugs":                                                                     20,
		"shot shots":                                                                     30,
		"dash dashes":                                                                    0.6,
		"pinch pinches":                                                                  0.3,
		"drop drops":                                                                     0.05,
		"handful handfuls":                                                               pieces["handful"],
		"bunch bunches":                                                                  pieces["bunch"],
		"sprig sprigs":                                                                   pieces["sprig"],
		"stalk stalks rib ribs":                                                          pieces["stalk"],
		"leaf leaves":                                                                    pieces["leaf"],
		"clove cloves":                                                                   pieces["clove"],
		"head heads":                                                                     pieces["head"],
		"bulb bulbs":                                                                     pieces["bulb"],
		"slice slices":                                                                   pieces["slice"],
		"stick sticks":                                                                   pieces["stick"],
		"fillet fillets":                                                                 pieces["fillet"],
	} {
		for _, word := range strings.Fields(spellings) {
			assert.InDelta(t, 3*want, weigh(t, b, "3 "+word+" stuff").Grams, 3*want*1e-6+1e-6, word)
		}
	}
}

// TestHeapsAndSizes multiplies and widens a measure as the words beside it say.
func TestHeapsAndSizes(t *testing.T) {
	b := plainBook(map[string]float64{"piece": 100})
	level := weigh(t, b, "2 tbsp stuff")
	for word, want := range map[string]struct{ times, spread float64 }{"heaping": {1.35, 20}, "heaped": {1.35, 20},
		"rounded": {1.2, 12}, "scant": {0.9, 6}, "generous": {1.15, 10}, "good": {1.15, 10}, "level": {1, 0}} {
		w := weigh(t, b, "2 "+word+" tbsp stuff")
		assert.InDelta(t, level.Grams*want.times, w.Grams, 1e-6, word)
		assert.InDelta(t, math.Hypot(level.Spread, want.spread), w.Spread, 1e-6, word)
	}
	one := weigh(t, b, "1 stuff").Grams
	assert.InDelta(t, 100, one, 1e-9)
	for words, times := range map[string]float64{"small smallish little baby": 0.75, "medium average": 1,
		"large big fat jumbo": 1.3} {
		for _, word := range strings.Fields(words) {
			assert.InDelta(t, one*times, weigh(t, b, "1 "+word+" stuff").Grams, 1e-6, word)
		}
	}
}
