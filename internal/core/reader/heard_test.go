package reader_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gallipot/internal/core/reader"
)

// heard tells the lines of a reading shortly: ingredient and grams of what goes into the bowl.
func heard(r reader.Reading) string {
	var out []string
	for _, l := range r.Lines {
		if l.Kind != reader.Weighed || l.As != reader.AsBowl {
			continue
		}
		switch {
		case len(l.AnyOf) > 1:
			out = append(out, strings.Join(l.AnyOf, "/"))
		case l.Grams == nil:
			out = append(out, l.Ingredient)
		default:
			out = append(out, fmt.Sprintf("%s %.1f", l.Ingredient, *l.Grams))
		}
	}
	return strings.Join(out, ", ")
}

// TestSpokenTextsAreHeard: what people say in one breath, with slips, denials, ratios and asides.
func TestSpokenTextsAreHeard(t *testing.T) {
	b := shippedBook(t)
	for text, want := range map[string]string{
		"one, no, about half a cup of rice vinegar":                                "vinegar_rice 119.5",
		"one cup, no, one half cup of tahini":                                      "tahini 120.0",
		"three eighths of a cup of tahini":                                         "tahini 90.0",
		"one and three quarters cups of tahini":                                    "tahini 420.0",
		"three cloves of garlic. And then a half cup of vinegar":                   "garlic_raw 13.5, vinegar_cider 119.5",
		"one cup of rapeseed oil and one cup of rice vinegar":                      "rapeseed_oil 217.0, vinegar_rice 239.0",
		"two tablespoons tahini one lime juiced a pinch of salt":                   "tahini 30.0, lime_juice 29.4, salt_sea_fine 0.3",
		"and then, well, two lemons, juiced, no wait, three lemons":                "lemon_juice 132.0",
		"about a teaspoon of cumin, well, make that two":                           "cumin 4.4",
		"any of parsley, dill or basil, a handful":                                 "parsley/dill/basil_leaves",
		"200 g tahini, salt, pepper and cumin":                                     "tahini 200.0, salt_sea_fine, black_pepper, cumin",
		"no salt, it is salty enough":                                              "",
		"skip the mustard":                                                         "",
		"1 tsp paprika, not smoked":                                                "paprika_sweet 2.3",
		"a full cup of tahini":                                                     "tahini 240.0",
		"[10:01] so you take about a cup of tahini":                                "tahini 240.0",
		"a cup of tahini and the same of lime juice":                               "tahini 240.0, lime_juice 244.0",
		"2 parts rapeseed oil to 1 part rice vinegar\na cup of rapeseed oil":       "vinegar_rice 108.5, rapeseed_oil 217.0",
		"twice as much rapeseed oil as cider vinegar\n100 g cider vinegar":         "rapeseed_oil 200.0, vinegar_cider 100.0",
		"Then add 30 g of tahini and two limes, juiced":                            "tahini 30.0, lime_juice 58.0",
		"half a cup of walnuts, no, not walnuts, sorry, pistachios":                "pistachio 61.5",
		"two cloves of garlic the juice of one lemon":                              "garlic_raw 9.0, lemon_juice 44.0",
		"a good glug of olive oil, say a third of a cup":                           "olive_oil_extra_virgin 72.0",
		"six tablespoons of olive oil, minus one":                                  "olive_oil_extra_virgin 67.5",
		"about 20 grams of vinegar, no, make that 25. Salt, 8 grams. That's it.":   "vinegar_cider 25.0, salt_sea_fine 8.0",
		"two thirds of a cup of rapeseed oil, so roughly 145 grams":                "rapeseed_oil 145.0",
		"a lemon, zested and juiced":                                               "lemon_zest 6.0, lemon_juice 44.0",
		"a cup of tahini, oh, that was half a cup":                                 "tahini 120.0",
		"equal parts of tahini and lime juice\n100 g lime juice":                   "tahini 100.0, lime_juice 100.0",
		"100 g walnuts instead of almonds":                                         "walnut 100.0",
		"two hundred and fifty grams of tahini":                                    "tahini 250.0",
		"twenty-five grams of tahini":                                              "tahini 25.0",
		"when I double this the salt stays at one teaspoon":                        "salt_sea_fine 5.9",
		"200 g tahini, no salt":                                                    "tahini 200.0",
		"100 g peanuts, no salt, 2 tbsp lime juice":                                "peanut 100.0, lime_juice 30.4",
		"half a cup of walnuts, no, pistachios":                                    "pistachio 61.5",
		"2 tsp tahini, no wait, white miso":                                        "miso_white 11.3",
		"six tablespoons of olive oil, minus 1 tsp":                                "olive_oil_extra_virgin 81.0",
		"no glimmerwort in this one":                                               "",
		"two of those big spoons of tahini":                                        "tahini 39.0",
		"a good pinch of salt and one of our small spoons of the red paste":        "salt_sea_fine 0.4, ",
		"First the tahini, 200 g, and then the lime juice, 50 g.":                  "tahini 200.0, lime_juice 50.0",
		"two tablespoons each of tahini and honey":                                 "tahini 30.0, honey 42.0",
		"either cider vinegar or rice vinegar, two tablespoons":                    "vinegar_cider/vinegar_rice",
		"Two tablespoons of brown sugar, you can use honey instead.":               "sugar_brown/honey",
		"100 g tahini and half as much water":                                      "tahini 100.0, water 50.0",
		"a can of chickpeas, undrained":                                            "chickpeas_canned_undrained 400.0",
		"Then I squeeze two lemons, that's about 90 grams of lemon juice.":         "lemon_juice 90.0",
		"soak and boil a cup of dried chickpeas":                                   "chickpeas_cooked 460.0",
		"a hundred and fifty grams of walnuts, toasted in a dry pan":               "walnut_toasted 144.8",
		"not too much garlic, one small clove":                                     "garlic_raw 2.5",
		"Sugar, 150 grams. No, hang on, that's for the jam. A hundred and twenty.": "sugar 120.0",
		"a clove of garlic. If I double it I keep the garlic at one clove.":        "garlic_raw 4.5",
		"[00:42] Speaker 2: half a cup of walnuts":                                 "walnut 50.0",
		"one cup of tahini, I mean lime juice":                                     "lime_juice 244.0",
		"100 g hazelnuts, roasted with their skins on":                             "hazelnut_toasted 96.5",
		"80 g blanched almonds":                                                    "almond_blanched 80.0",
		"3 carrots, unpeeled":                                                      "carrot_whole 240.0",
		"So today we make the pea dip. Two cups of cooked peas.":                   "peas_cooked 320.0",
		"instead of honey use 2 tbsp date syrup":                                   "date_syrup 40.8",
		"don't use lemon juice, use lime juice, 2 tbsp":                            "lime_juice 30.4",
		"salt isn't needed":                                                        "",
		"100 g nuts (walnuts or pecans)":                                           "walnut/pecan",
		"dill and/or parsley, a bunch":                                             "dill/parsley",
		"a 2 cm piece of ginger":                                                   "ginger 12.0",
		"no salt no sugar":                                                         "",
		"I'd skip the cayenne":                                                     "",
		"100 g tahini\nyou get about two and a half cups":                          "tahini 100.0",
		"200 g tahini. It keeps four days in the fridge. Serve it with bread":      "tahini 200.0",
	} {
		r := b.Read(text, nil)
		nothingLost(t, text, r)
		assert.Equal(t, want, heard(r), text)
	}
}

const fridays = `Smoky carrot and walnut spread
[00:03] Okay, so this is the carrot one that we do on Fridays. Right. So you start with, let me see, six large carrots, peeled, no wait, five, five large carrots, and you roast them until they're soft.
[00:21] While that's going on you take about a cup of walnuts, toasted, and let them cool down. My mother always used almonds but I like walnuts better.
[00:34] Then a can of chickpeas, drained, well, make that two cans because it's a big batch.
[00:41] Two tablespoons of tahini and, um, three tablespoons of lime juice, so that's about two limes. And a clove of garlic, maybe two, I always do two.
[00:58] Smoked paprika, a teaspoon and a half. Half a teaspoon of ground cumin, a quarter of a teaspoon of chilli flakes if you like it hot.
[01:10] Then the oil, a third of a cup of rapeseed oil, and a good pinch of salt. No sugar, the carrots are sweet enough.
[01:22] Blend it until it's smooth, then taste it, and if it's too thick put a splash of water in.
[01:31] It makes about, oh, eight jars, no, nine jars. It keeps five days in the fridge, easily.
[01:40] Serve it on toast with a bit of dill on top.`

// TestAWholeTalkIsHeard: of ten spoken rows with asides, slips and time stamps few points stay open.
func TestAWholeTalkIsHeard(t *testing.T) {
	b := shippedBook(t)
	r := b.Read(fridays, nil)
	nothingLost(t, fridays, r)
	assert.Equal(t, "carrot 500.0, walnut_toasted 96.5, chickpeas_canned_drained 486.0, tahini 30.0, lime_juice 45.6, "+
		"garlic_raw 9.0, paprika_smoked 3.4, cumin 1.1, chilli_flakes 0.4, rapeseed_oil 72.3, salt_sea_fine 0.4, water 5.0",
		heard(r))
	assert.Equal(t, reader.Title, r.Lines[0].Kind)
	require.NotNil(t, r.ClaimDays)
	assert.Equal(t, 5, *r.ClaimDays)
	assert.LessOrEqual(t, r.StillOpen, 4)
}

func TestWhatIsUnknownIsAskedAndNotTakenForItsKind(t *testing.T) {
	b := shippedBook(t)
	for _, words := range []string{"one jalapeno pepper", "a can of black beans, drained", "a cup of oil",
		"chilli oil, 1 tbsp"} {
		r := b.Read(words, nil)
		require.Len(t, r.Lines, 1, words)
		assert.Empty(t, r.Lines[0].Ingredient, words)
		assert.Contains(t, asked(r.Lines[0]), "ingredient", words)
	}
}

func TestAStateLeadsToItsStepOrAsks(t *testing.T) {
	b := shippedBook(t)
	l := b.Read("100 g walnuts, toasted", nil).Lines[0]
	assert.Equal(t, "walnut_toasted", l.Ingredient)
	assert.NotContains(t, asked(l), "state")
	l = b.Read("100 g of fried onion", nil).Lines[0]
	assert.Contains(t, asked(l), "state", "nobody has a step for it")
	l = b.Read("100 g of fried onion", map[string]reader.Answer{l.Key: {OK: true}}).Lines[0]
	assert.NotContains(t, asked(l), "state")
	l = b.Read("2 egg yolks", nil).Lines[0]
	require.Contains(t, asked(l), "state", "raw egg is no silent choice")
	at := slices.IndexFunc(l.Questions, func(q reader.Question) bool { return q.Code == "state" })
	require.NotEmpty(t, l.Questions[at].Take)
	assert.Equal(t, "egg_yolk_pasteurised", l.Questions[at].Take[0].ID)
	l = b.Read("2 egg yolks", map[string]reader.Answer{l.Key: {Ingredient: "egg_yolk_pasteurised"}}).Lines[0]
	assert.NotContains(t, asked(l), "state")
	assert.NotContains(t, asked(b.Read("2 raw egg yolks", nil).Lines[0]), "state", "it was said")
}

func TestOfTwoAmountsTheChosenOneIsTold(t *testing.T) {
	b := shippedBook(t)
	text := "6 oz (200 g) silken tofu"
	first := b.Read(text, nil).Lines[0]
	assert.InDelta(t, 170.1, *first.Grams, 0.1)
	second := b.Read(text, map[string]reader.Answer{first.Key: {Units: "second"}}).Lines[0]
	assert.InDelta(t, 200, *second.Grams, 0.1)
	assert.Contains(t, second.How, "200 g")
	assert.NotContains(t, second.How, "6 oz")
	doubled := b.Read("double the recipe\n"+text, map[string]reader.Answer{"doubling": {Units: "double"},
		first.Key: {Units: "second"}})
	assert.InDelta(t, 400, *byIngredient(t, doubled, "tofu_silken").Grams, 0.1, "both are doubled")
}

func TestACupOfTheDryIsNoCupOfTheCooked(t *testing.T) {
	l := shippedBook(t).Read("1 cup dried lentils, boiled", nil).Lines[0]
	assert.Equal(t, "lentils_cooked", l.Ingredient)
	assert.True(t, l.ToWeigh, "nobody has weighed a cup of dry ones: %s", l.How)
	assert.NotContains(t, asked(l), "state")
}

func TestAGuessIsNoWeighing(t *testing.T) {
	b := shippedBook(t)
	l := b.Read("salt", nil).Lines[0]
	nine := 9.0
	weighed := b.Read("salt", map[string]reader.Answer{l.Key: {Grams: &nine}}).Lines[0]
	guessed := b.Read("salt", map[string]reader.Answer{l.Key: {Grams: &nine, Guessed: true}}).Lines[0]
	assert.InDelta(t, 1, weighed.Spread, 1e-9)
	assert.InDelta(t, 20, guessed.Spread, 1e-9)
	assert.Equal(t, reader.FromGuess, guessed.Source)
}

// TestNoIngredientIsLost: of whatever is said, in whatever way it is joined, every name stands in a line, is left out
// because the maker said so, or is asked about.
func TestNoIngredientIsLost(t *testing.T) {
	b := shippedBook(t)
	names := map[string]string{"tahini": "tahini", "lime juice": "lime_juice", "cumin": "cumin", "honey": "honey",
		"rapeseed oil": "rapeseed_oil", "rice vinegar": "vinegar_rice", "white miso": "miso_white",
		"maple syrup": "maple_syrup", "cooked lentils": "lentils_cooked", "buttermilk": "buttermilk",
		"walnuts": "walnut", "smoked paprika": "paprika_smoked", "fine sea salt": "salt_sea_fine"}
	amounts := []string{"a cup of", "two tablespoons of", "half a cup of", "about 200 g of",
		"an eighth of a teaspoon of",
		"a cup and a half of", "three quarters of a cup of", "a pinch of", "one, no, two tablespoons of",
		"maybe 30 grams"}
	joins := []string{", ", " and ", ". Then ", ", and then I add ", "; ", "\n", ". Now ", " plus ", ", then maybe "}
	before := []string{"", "Okay, so ", "Start with ", "[00:12] ", "First ", "You take "}
	rapid.Check(t, func(t *rapid.T) {
		var said []string
		text := rapid.SampledFrom(before).Draw(t, "begin")
		n := rapid.IntRange(1, 8).Draw(t, "lines")
		all := slices.Sorted(func(yield func(string) bool) {
			for k := range names {
				if !yield(k) {
					return
				}
			}
		})
		for i := range n {
			name := rapid.SampledFrom(all).Draw(t, "name")
			if i > 0 {
				text += rapid.SampledFrom(joins).Draw(t, "join")
			}
			text += rapid.SampledFrom(amounts).Draw(t, "amount") + " " + name
			said = append(said, names[name])
		}
		r := b.Read(text, nil)
		open := map[string]bool{}
		for _, l := range r.Lines {
			open[l.Ingredient] = true
			for _, also := range l.Also {
				open[also.ID] = true
			}
		}
		for _, id := range said {
			require.True(t, open[id], "%s of %q is in no line: %s", id, text, heard(r))
		}
	})
}
