package reader_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
)

// said are ingredients with the words that name them and a unit that the table knows for them.
var saidWith = []struct{ words, id, unit, measure string }{
	{"tahini", "tahini", "tbsp", "tbsp"}, {"white miso", "miso_white", "tsp", "tsp"},
	{"buttermilk", "buttermilk", "cup", "cup"},
	{"sunflower oil", "sunflower_oil", "tablespoons", "tbsp"}, {"ground cumin", "cumin", "teaspoons", "tsp"},
	{"smoked paprika", "paprika_smoked", "pinch", "pinch"},
	{"kale", "kale", "handfuls", "handful"}, {"dill", "dill", "sprigs", "sprig"}, {"honey", "honey", "Tbsp.", "tbsp"},
}

func only(t *rapid.T, b *reader.Book, words string) reader.Line {
	r := b.Read(words, nil)
	if len(r.Lines) != 1 || r.Lines[0].Grams == nil {
		t.Fatalf("%q was read as %d lines without grams", words, len(r.Lines))
	}
	return r.Lines[0]
}

func TestGramsGrowWithTheNumberHoweverItIsWritten(t *testing.T) {
	b := shippedBook(t)
	rapid.Check(t, func(t *rapid.T) {
		x := rapid.SampledFrom(saidWith).Draw(t, "what")
		halves := rapid.IntRange(1, 24).Draw(t, "halves")
		n := float64(halves) / 2
		m, ok := b.Measures.Reference(x.id, x.measure)
		require.True(t, ok)
		whole, rest := halves/2, halves%2
		forms := []string{strings.TrimSuffix(fmt.Sprintf("%.1f", n), ".0"),
			strings.ReplaceAll(fmt.Sprintf("%.1f", n), ".", ",")}
		if rest == 1 {
			lead := ""
			if whole > 0 {
				lead = fmt.Sprint(whole)
			}
			forms = append(forms, lead+"½", strings.TrimSpace(lead+" 1/2"))
		}
		for _, f := range forms {
			l := only(t, b, f+" "+x.unit+" "+x.words)
			assert.Equal(t, x.id, l.Ingredient, f)
			assert.InDelta(t, n*m.Grams, *l.Grams, 1e-6, "%s: %s", f, l.How)
		}
	})
}

func TestTheOrderOfAmountAndNameDoesNotMatter(t *testing.T) {
	b := shippedBook(t)
	rapid.Check(t, func(t *rapid.T) {
		x := rapid.SampledFrom(saidWith).Draw(t, "what")
		n := rapid.IntRange(1, 12).Draw(t, "n")
		first := only(t, b, fmt.Sprintf("%d %s %s", n, x.unit, x.words))
		for _, form := range []string{"%[3]s, %[1]d %[2]s", "%[3]s: %[1]d %[2]s", "- %[1]d %[2]s of %[3]s",
			"• %[1]d %[2]s %[3]s, please", "about %[1]d %[2]s %[3]s"} {
			l := only(t, b, fmt.Sprintf(form, n, x.unit, x.words))
			assert.InDelta(t, *first.Grams, *l.Grams, 1e-9, "%q: %s", l.Words, l.How)
		}
		loud := only(t, b, strings.ToUpper(fmt.Sprintf("%d %s %s", n, x.unit, x.words)))
		assert.InDelta(t, *first.Grams, *loud.Grams, 1e-9)
	})
}

func TestARangeTakesTheMiddleAndReachesBothEnds(t *testing.T) {
	b := shippedBook(t)
	rapid.Check(t, func(t *rapid.T) {
		low := rapid.IntRange(1, 9).Draw(t, "low")
		high := low + rapid.IntRange(1, 5).Draw(t, "more")
		one := only(t, b, "1 tbsp tahini")
		for _, form := range []string{"%d-%d tbsp tahini", "%d to %d tbsp tahini", "%d – %d tbsp tahini"} {
			words := fmt.Sprintf(form, low, high)
			l := only(t, b, words)
			middle := float64(low+high) / 2
			assert.InDelta(t, middle**one.Grams, *l.Grams, 1e-9, words)
			reach := 100 * float64(high-low) / 2 / middle
			assert.GreaterOrEqual(t, l.Spread, reach, words)
			assert.InDelta(t, math.Hypot(one.Spread, reach), l.Spread, 1e-9, "spreads add in quadrature")
		}
	})
}

func TestSpreadsOfLinesAddInQuadrature(t *testing.T) {
	b := shippedBook(t)
	r := b.Read("2 tbsp tahini\n1 cup buttermilk\na handful of kale\n100 g cooked beetroot", nil)
	sum, total := 0.0, 0.0
	for _, l := range r.Lines {
		sum += math.Pow(*l.Grams*l.Spread/100, 2)
		total += *l.Grams
	}
	assert.InDelta(t, math.Sqrt(sum), r.Deviation, 1e-9)
	assert.InDelta(t, total, r.Total, 1e-9)
	shares := 0.0
	for _, w := range r.WeighFirst {
		shares += w.Mass
	}
	assert.InDelta(t, 100, shares, 1e-6, "three uncertain lines make up all of it")
}

func TestHeapsMultiplyWhatTheyHeap(t *testing.T) {
	b := shippedBook(t)
	level := only2(t, b, "1 tbsp tahini")
	for words, times := range map[string]float64{"1 heaping tbsp tahini": 1.35, "1 heaped tbsp tahini": 1.35,
		"1 rounded tbsp tahini": 1.2, "1 scant tbsp tahini": 0.9,
		"1 generous tbsp tahini": 1.15, "a good tbsp of tahini": 1.15, "1 level tbsp tahini": 1} {
		assert.InDelta(t, times*level, only2(t, b, words), 1e-9, words)
	}
}

func only2(t *testing.T, b *reader.Book, words string) float64 {
	t.Helper()
	r := b.Read(words, nil)
	require.Len(t, r.Lines, 1, words)
	require.NotNil(t, r.Lines[0].Grams, words)
	return *r.Lines[0].Grams
}

func TestSizesTakeTheirOwnMeasureOrTheHandbooksFactor(t *testing.T) {
	b := shippedBook(t)
	assert.InDelta(t, 50, only2(t, b, "1 small carrot"), 1e-9, "the table has small carrots")
	assert.InDelta(t, 0.75*66, only2(t, b, "1 small plum"), 1e-9, "and no small plums")
	assert.InDelta(t, 1.3*66, only2(t, b, "1 large plum"), 1e-9)
	assert.InDelta(t, 66, only2(t, b, "1 medium plum"), 1e-9)
}

func TestTheShopsSpoonsCountWhereOnlyTheVolumeIsKnown(t *testing.T) {
	odd := map[string]*pantry.Ingredient{"syrup": {ID: "syrup", Name: "Quince syrup", DensityGPerML: 1.3}}
	for name, x := range map[string]struct {
		spoons amount.Spoons
		tbsp   float64
		cup    float64
	}{"US": {amount.USSpoons, 14.79, 236.6},
		"AU": {amount.Spoons{Teaspoon: 4.93, Tablespoon: amount.Tablespoons["AU"], Cup: amount.Cups["metric"]}, 20,
			250}} {
		b := &reader.Book{Index: reader.NewIndex(odd, nil), Ingredients: odd, Spoons: x.spoons}
		assert.InDelta(t, 1.3*x.tbsp, only2(t, b, "1 tbsp quince syrup"), 1e-9, name)
		assert.InDelta(t, 1.3*x.cup, only2(t, b, "1 cup quince syrup"), 1e-9, name)
	}
}

func TestACookThatChangesHerMindIsBelievedTheLastTime(t *testing.T) {
	b := shippedBook(t)
	want := only2(t, b, "3 tbsp tahini")
	for _, words := range []string{"2 tbsp, no, 3 tbsp tahini", "2 tbsp tahini, sorry, 3 tbsp",
		"1, actually 3 tbsp tahini", "4 tbsp tahini - wait, 3 tbsp"} {
		assert.InDelta(t, want, only2(t, b, words), 1e-9, words)
	}
}

func TestTwoUnitsThatAgreeAskNothing(t *testing.T) {
	b := shippedBook(t)
	agree := b.Read("7 oz (200 g) silken tofu", nil).Lines[0]
	assert.Empty(t, agree.Questions)
	apart := b.Read("6 oz (200 g) silken tofu", nil).Lines[0]
	require.Len(t, apart.Questions, 1)
	assert.Equal(t, "units", apart.Questions[0].Code)
	spoon := b.Read("2 tbsp (30 g) tahini", nil).Lines[0]
	assert.Equal(t, reader.FromWords, spoon.Source, "said grams beat a spoon")
	assert.InDelta(t, 30, *spoon.Grams, 1e-9)
}

func TestDividedIsHeldBack(t *testing.T) {
	b := shippedBook(t)
	l := b.Read("1/2 cup sunflower oil, divided", nil).Lines[0]
	assert.True(t, l.HoldBack)
	assert.Contains(t, l.Remark, "divided")
}

func TestTheLiquidThatIsKeptIsALineBesideTheBowl(t *testing.T) {
	b := shippedBook(t)
	r := b.Read("1 400 g tin chickpeas, drained, keep the liquid", nil)
	require.Len(t, r.Lines, 2)
	assert.Equal(t, "chickpeas_canned_drained", r.Lines[0].Ingredient)
	kept := r.Lines[1]
	assert.Equal(t, "chickpea_cooking_liquid_tinned", kept.Ingredient)
	assert.Equal(t, reader.AsLeft, kept.As, "not in the bowl until the maker says so")
	assert.InDelta(t, 243*37/61.0, *kept.Grams, 0.1, "what the tin gives besides, by the joint yield")
	assert.InDelta(t, 243, r.Total, 1e-9)
	in := b.Read("1 400 g tin chickpeas, drained, keep the liquid",
		map[string]reader.Answer{kept.Key: {As: reader.AsBowl}})
	assert.InDelta(t, 243+*kept.Grams, in.Total, 1e-6)
}

func TestSpokenFractions(t *testing.T) {
	b := shippedBook(t)
	cup := only2(t, b, "1 cup buttermilk")
	for words, times := range map[string]float64{"two thirds of a cup of buttermilk": 2. / 3,
		"three quarters of a cup buttermilk": 0.75, "a third of a cup buttermilk": 1. / 3,
		"a quarter cup buttermilk":          0.25,
		"one and a quarter cups buttermilk": 1.25, "2 1/3 cups buttermilk": 7. / 3, "⅝ cup buttermilk": 0.625,
		"half cup buttermilk": 0.5, "twenty cups buttermilk": 20, "1.5 cups buttermilk": 1.5} {
		assert.InDelta(t, times*cup, only2(t, b, words), 1e-6, words)
	}
}

func TestSentencesOfTheMethodAreNoIngredients(t *testing.T) {
	b := shippedBook(t)
	for _, words := range []string{"Blend the tahini with the kale until smooth.", "Then stir in the honey.",
		"Roast 3 carrots with the oil at 200 C until they give.", "Meanwhile, toast the walnuts in a dry pan."} {
		r := b.Read(words, nil)
		require.Len(t, r.Lines, 1, words)
		assert.Equal(t, reader.Step, r.Lines[0].Kind, words)
	}
	assert.Equal(t, reader.Weighed, b.Read("Mix 2 tbsp tahini", nil).Lines[0].Kind,
		"short, with an amount: an ingredient")
}

func TestAFruitWithoutAMeasureOfItsJuiceUsesTheYieldOfTheStep(t *testing.T) {
	fruits := map[string]*pantry.Ingredient{"quince": {ID: "quince", Name: "Quince"},
		"quince_juice": {ID: "quince_juice", Name: "Quince juice"},
		"quince_zest":  {ID: "quince_zest", Name: "Quince zest"}}
	b := &reader.Book{Index: reader.NewIndex(fruits, nil), Ingredients: fruits, Spoons: amount.USSpoons,
		Measures: pantry.NewMeasures([]pantry.Measure{{Ingredient: "quince", Name: "piece", Grams: 200, Spread: 10,
			Source: pantry.ReferenceSource}}),
		Preparations: []pantry.Preparation{{ID: "q", Name: "zest_then_juice", Input: "quince", Output: "quince_juice",
			YieldPercent: 40, SpreadPercent: 10, CoOutput: "quince_zest", CoYield: 5}}}
	r := b.Read("zest and juice of 2 quince", nil)
	require.Len(t, r.Lines, 2)
	assert.InDelta(t, 20, *r.Lines[0].Grams, 1e-9, r.Lines[0].How)
	assert.InDelta(t, 160, *r.Lines[1].Grams, 1e-9, r.Lines[1].How)
	assert.InDelta(t, math.Hypot(10, 10), r.Lines[1].Spread, 1e-9)
}

func TestTheSameWordsTwiceAreTwoLinesWithAnswersOfTheirOwn(t *testing.T) {
	b := shippedBook(t)
	r := b.Read("salt to taste\nsalt to taste", nil)
	require.NotEqual(t, r.Lines[0].Key, r.Lines[1].Key)
	five := 5.0
	r = b.Read("salt to taste\nsalt to taste", map[string]reader.Answer{r.Lines[1].Key: {Grams: &five}})
	assert.Nil(t, r.Lines[0].Grams)
	assert.Equal(t, 5.0, *r.Lines[1].Grams)
}
