package reader_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
)

const spoken = `Carrot and miso thing
Makes about two cups

For the base:
- 300 g carrots, peeled
- two heaping spoons of white miso
- 1 cup, no, half a cup of sunflower oil
- juice of half a lime
- 6 oz (200 g) silken tofu
- 1 tin butter beans, drained, keep the liquid
- a glug of quince cordial
- salt to taste

To serve:
- a spoon of sesame seeds

Method
Blend everything until it runs.
I am doubling this.`

func byIngredient(t *testing.T, r reader.Reading, id string) reader.Line {
	t.Helper()
	for _, l := range r.Lines {
		if l.Ingredient == id {
			return l
		}
	}
	t.Fatalf("no line of %s", id)
	return reader.Line{}
}

func asked(l reader.Line) []string {
	out := []string{}
	for _, q := range l.Questions {
		out = append(out, q.Code)
	}
	return out
}

func TestAWholeRecipe(t *testing.T) {
	b := shippedBook(t)
	r := b.Read(spoken, nil)
	nothingLost(t, spoken, r)

	require.NotNil(t, r.SaidML, "makes about two cups")
	assert.InDelta(t, 473.2, *r.SaidML, 0.1)
	assert.Equal(t, reader.Title, r.Lines[0].Kind)
	assert.Equal(t, reader.Section, r.Lines[2].Kind)
	carrot := byIngredient(t, r, "carrot")
	assert.Equal(t, "For the base", carrot.Section)
	assert.InDelta(t, 246, *carrot.Grams, 0.1, "peeling leaves 82 %%: %s", carrot.How)
	assert.Equal(t, "carrot_whole.peel", carrot.Preparation)

	miso := byIngredient(t, r, "miso_white")
	assert.Equal(t, []string{"measure"}, asked(miso), "which spoon?")
	assert.Greater(t, miso.Spread, 30.0)

	oil := byIngredient(t, r, "sunflower_oil")
	assert.InDelta(t, 108.5, *oil.Grams, 0.1)
	assert.Contains(t, oil.Words, "1 cup, no, half a cup", "what was taken back stays in the words")

	tofu := byIngredient(t, r, "tofu_silken")
	assert.Equal(t, []string{"units"}, asked(tofu), "6 oz and 200 g differ by more than 10 %%")

	beans := byIngredient(t, r, "butter_bean_drained")
	assert.InDelta(t, 238, *beans.Grams, 0.1)
	assert.Contains(t, asked(beans), "pack", "the size of the tin was not said")

	salt := byIngredient(t, r, "salt_sea_fine")
	assert.True(t, salt.ToWeigh)
	assert.Nil(t, salt.Grams)

	seeds := byIngredient(t, r, "sesame_seed")
	assert.Equal(t, "To serve", seeds.Section)
	assert.Contains(t, asked(seeds), "serving")

	var codes []string
	for _, n := range r.Notices {
		codes = append(codes, n.Code)
	}
	assert.Equal(t, []string{"doubling"}, codes)
	double := b.Read(spoken, map[string]reader.Answer{"doubling": {Units: "double"}})
	assert.Empty(t, double.Notices)
	assert.InDelta(t, 2**carrot.Grams, *byIngredient(t, double, "carrot").Grams, 1e-9)
	single := b.Read(spoken, map[string]reader.Answer{"doubling": {Units: "single"}})
	assert.Empty(t, single.Notices)
	assert.Equal(t, r.StillOpen-1, single.StillOpen)

	var quince reader.Line
	for _, l := range r.Lines {
		if strings.Contains(l.Words, "quince") {
			quince = l
		}
	}
	assert.Empty(t, quince.Ingredient)
	assert.Contains(t, asked(quince), "ingredient")
}

func TestAnswersCloseTheOpenPoints(t *testing.T) {
	b := shippedBook(t)
	text := "a glug of quince cordial\n6 oz (200 g) silken tofu\nsalt to taste\nTo serve:\n1 tbsp sesame seeds\nblorp the wug"
	open := b.Read(text, nil)
	assert.Equal(t, 5, open.StillOpen)
	grams := 4.2
	answers := map[string]reader.Answer{}
	for _, l := range open.Lines {
		switch {
		case strings.Contains(l.Words, "quince"):
			answers[l.Key] = reader.Answer{Ingredient: "vinegar_cider"}
		case l.Ingredient == "tofu_silken":
			answers[l.Key] = reader.Answer{Units: "second"}
		case l.Ingredient == "salt_sea_fine":
			answers[l.Key] = reader.Answer{Grams: &grams}
		case l.Ingredient == "sesame_seed":
			answers[l.Key] = reader.Answer{As: reader.AsTopping}
		case strings.Contains(l.Words, "blorp"):
			answers[l.Key] = reader.Answer{OK: true}
		}
	}
	r := b.Read(text, answers)
	assert.Zero(t, r.StillOpen)
	assert.InDelta(t, 200, *byIngredient(t, r, "tofu_silken").Grams, 0.01)
	assert.InDelta(t, 20*b.Ingredients["vinegar_cider"].DensityGPerML, *byIngredient(t, r, "vinegar_cider").Grams, 0.1,
		"the glug counts once the vinegar is known")
	salt := byIngredient(t, r, "salt_sea_fine")
	assert.Equal(t, reader.FromScale, salt.Source)
	assert.False(t, salt.ToWeigh)
	assert.Equal(t, reader.AsTopping, byIngredient(t, r, "sesame_seed").As)
	nothingLost(t, text, r)

	// Another line in front changes no answer.
	longer := b.Read("1 cup buttermilk\n"+text, answers)
	assert.Zero(t, longer.StillOpen)
}

func TestTheMakersOwnMeasureWins(t *testing.T) {
	b := shippedBook(t)
	before := byIngredient(t, b.Read("2 heaping tbsp tahini", nil), "tahini")
	assert.Equal(t, reader.FromReference, before.Source)
	reference, err := pantry.HouseMeasure("tahini", "tbsp_heaping", "", []float64{23.8, 26.1, 24.4})
	require.NoError(t, err)
	b.Measures = pantry.NewMeasures([]pantry.Measure{reference,
		{Ingredient: "tahini", Name: "tbsp", Grams: 15, Spread: 10, Source: pantry.ReferenceSource}})
	after := byIngredient(t, b.Read("2 heaping tbsp tahini", nil), "tahini")
	assert.Equal(t, reader.FromHouse, after.Source)
	assert.InDelta(t, 49.53, *after.Grams, 0.01, "its heap was weighed: no factor on top")
	assert.Less(t, after.Spread, before.Spread)
}

func TestAssumedWaterLikeCountsAsStillToWeigh(t *testing.T) {
	odd := map[string]*pantry.Ingredient{"quince_syrup": {ID: "quince_syrup", Name: "Quince syrup"}}
	b := reader.Book{Index: reader.NewIndex(odd, nil), Ingredients: odd, Spoons: amount.USSpoons}
	l := b.Read("1 cup quince syrup", nil).Lines[0]
	assert.Equal(t, reader.FromAssumed, l.Source)
	assert.True(t, l.ToWeigh)
	assert.Contains(t, l.How, "assumed water-like")
	_, known := b.Weigh("1 cup quince syrup", "quince_syrup")
	assert.False(t, known)
	b.Spoons.Cup = amount.Cups["metric"]
	assert.InDelta(t, 250, *b.Read("1 cup quince syrup", nil).Lines[0].Grams, 0.01, "the shop's own cup")
}

func TestWeighTheseThreeFirst(t *testing.T) {
	b := shippedBook(t)
	r := b.Read("500 g cooked beetroot\na big handful of kale\n3 tbsp lime juice\n2 pinches flaky salt\n10 grinds black pepper", nil)
	require.Len(t, r.WeighFirst, 3)
	first := map[string]reader.Rank{}
	for _, w := range r.WeighFirst {
		first[w.Name] = w
	}
	assert.Greater(t, first["Kale, raw"].Mass, 50.0, "the leaves make the mass uncertain")
	assert.Greater(t, first["Lime juice"].Acid, 90.0, "the juice the acid")
	assert.Greater(t, first["Flake kosher-style salt"].Salt, 50.0, "the salt the salt; what was weighed is not named")
	assert.Greater(t, r.Deviation, 5.0)
}

func TestBadInputIsKeptAndSaid(t *testing.T) {
	b := shippedBook(t)
	t.Run("longer than is read at once", func(t *testing.T) {
		text := strings.Repeat("1 cup buttermilk\n", 1500)
		r := b.Read(text, nil)
		assert.Equal(t, "too_long", r.Notices[0].Code)
		nothingLost(t, text, r)
	})
	t.Run("characters that cannot be printed", func(t *testing.T) {
		r := b.Read("1 cup \x07buttermilk", nil)
		assert.Equal(t, "control", r.Notices[0].Code)
		assert.Equal(t, "buttermilk", r.Lines[0].Ingredient)
	})
	t.Run("right to left", func(t *testing.T) {
		text := "\u202bكوب واحد من الطحينة\u202c\n2 tbsp tahini"
		r := b.Read(text, nil)
		nothingLost(t, text, r)
		assert.Contains(t, asked(r.Lines[0]), "unread")
		assert.Equal(t, "tahini", r.Lines[1].Ingredient)
	})
	t.Run("a pasted page", func(t *testing.T) {
		text := "<div class=\"x\"><h2>Ingredients</h2><ul><li>2&nbsp;tbsp tahini</li><li>&frac12; cup buttermilk</li></ul><p>Method</p><p>Blend until smooth &amp; cool.</p></div>"
		r := b.Read(text, nil)
		nothingLost(t, text, r)
		assert.InDelta(t, 30, *byIngredient(t, r, "tahini").Grams, 0.1)
		assert.InDelta(t, 122.5, *byIngredient(t, r, "buttermilk").Grams, 0.1)
		assert.True(t, slices.ContainsFunc(r.Lines,
			func(l reader.Line) bool { return l.Kind == reader.Step && strings.Contains(l.Words, "Blend") }))
	})
	t.Run("amounts that cannot be", func(t *testing.T) {
		r := b.Read("0 g tahini\n99999999999 kg buttermilk\n20000 kg kale\n-5 g sumac\n0/0 cup water", nil)
		for _, l := range r.Lines {
			assert.True(t, l.Open(), l.Words)
		}
		assert.Contains(t, byIngredient(t, r, "kale").How, "10 000 kg")
		assert.Contains(t, asked(byIngredient(t, r, "sumac")), "minus")
	})
	t.Run("nothing at all", func(t *testing.T) {
		assert.Empty(t, b.Read(" \n\t\n", nil).Lines)
	})
}

func TestWhatIsNamedAsideIsAskedAboutAndNotLost(t *testing.T) {
	b := shippedBook(t)
	text := "1 heaped tbsp tahini (with honey and white miso)\n1 cup buttermilk"
	r := b.Read(text, nil)
	first := r.Lines[0]
	require.Len(t, first.Also, 2)
	assert.ElementsMatch(t, []string{"honey", "miso_white"}, []string{first.Also[0].ID, first.Also[1].ID})
	assert.Contains(t, asked(first), "also")
	yes := b.Read(text, map[string]reader.Answer{first.Key: {Also: "yes"}})
	require.Len(t, yes.Lines, 4)
	assert.True(t, yes.Lines[1].ToWeigh && yes.Lines[1].Shares && yes.Lines[2].ToWeigh)
	assert.NotContains(t, asked(yes.Lines[0]), "also")
	nothingLost(t, text, yes)
	no := b.Read(text, map[string]reader.Answer{first.Key: {Also: "no"}})
	assert.Zero(t, no.StillOpen)
	assert.Len(t, no.Lines, 2)
	for _, words := range []string{"30 g tahini (sesame paste, no salt)", "1 tsp salt, plus more for the water",
		"100 g peanuts, without honey"} {
		assert.Empty(t, b.Read(words, nil).Lines[0].Also, words)
	}
}

func TestRowsAboutTheRecipeAreKeptAndAskNothing(t *testing.T) {
	b := shippedBook(t)
	text := "Mum's best roasted beetroot and horseradish dip, with a very long title\nPrep time: 15 minutes\nhttps://example.invalid/recipe?id=3\n200 g cooked beetroot"
	r := b.Read(text, nil)
	nothingLost(t, text, r)
	assert.Equal(t, reader.Title, r.Lines[0].Kind)
	assert.Equal(t, reader.Remark, r.Lines[1].Kind)
	assert.Equal(t, reader.Remark, r.Lines[2].Kind)
	assert.Zero(t, r.StillOpen)
}

func TestAnyOfNamesStandInOneLine(t *testing.T) {
	b := shippedBook(t)
	l := b.Read("60 g rocket or watercress", nil).Lines[0]
	assert.Equal(t, []string{"rocket", "watercress"}, l.AnyOf)
	assert.InDelta(t, 60, *l.Grams, 0.01)
}

func TestNearMatchesByNameAndSynonym(t *testing.T) {
	b := shippedBook(t)
	for typed, want := range map[string]string{"tahinni": "tahini", "pommegranate molases": "pomegranate_molasses",
		"arugla": "rocket"} {
		near := b.Index.Near(typed)
		require.NotEmpty(t, near, typed)
		assert.Equal(t, want, near[0].ID, typed)
	}
	assert.Empty(t, b.Index.Near("qqqq"))
	own := b.Ingredients["tahini"]
	own.Synonyms = []string{"house paste"}
	synonyms := reader.NewIndex(b.Ingredients, nil)
	b.Index = synonyms
	assert.Equal(t, "tahini", b.Read("2 tbsp house paste", nil).Lines[0].Ingredient, "what the pantry calls it")
}

func FuzzReadNeverPanicsNorLosesAWord(f *testing.F) {
	b := shippedBook(f)
	f.Add(spoken)
	for _, e := range corpus(f, b) {
		f.Add(e.words)
	}
	for _, s := range []string{"", "½½½", "1/0 cup", "(((", "juice of", "a couple of", "2-", "<li>", "&;&#;",
		"1 lb 1 lb 1 lb", "zest and", "no no no", "1 1/2 1/2", "\u202e2 tbsp", "T", "1 x 2 x 3", "a a a", "2 or"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		text = strings.ToValidUTF8(text, "?")
		r := b.Read(text, nil)
		nothingLost(t, text, r)
		answers := map[string]reader.Answer{}
		for _, l := range r.Lines {
			answers[l.Key] = reader.Answer{Ingredient: "tahini", OK: true, Units: "second"}
		}
		nothingLost(t, text, b.Read(text, answers))
	})
}

func BenchmarkRead50Lines(b *testing.B) {
	book := shippedBook(b)
	var rows []string
	for i, e := range corpus(b, book) {
		if i%4 == 0 && len(rows) < 50 {
			rows = append(rows, e.words)
		}
	}
	text := strings.Join(rows, "\n")
	require.Len(b, rows, 50)
	for b.Loop() {
		book.Read(text, nil)
	}
}

// BenchmarkRead3000Words reads a talk of 3000 words with asides, slips and time stamps.
func BenchmarkRead3000Words(b *testing.B) {
	book := shippedBook(b)
	var words []string
	for len(words) < 3000 {
		words = append(words, strings.SplitAfter(fridays+"\n", " ")...)
	}
	text := strings.Join(words[:3000], "")
	require.LessOrEqual(b, len(text), reader.MaxText)
	for b.Loop() {
		book.Read(text, nil)
	}
}
