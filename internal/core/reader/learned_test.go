package reader_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"gallipot/internal/core/reader"
)

// told is the shipped book of a shop that has told the reader something.
func told(t *testing.T, list ...reader.Learned) *reader.Book {
	t.Helper()
	b := shippedBook(t)
	for i := range list {
		list[i].ID = int64(i + 1)
	}
	b.Teach(list, []reader.Made{{Formula: "ginger_paste", Version: 2, Name: "Ginger paste"}})
	return b
}

func TestWhatAShopHasToldIsMeantWheneverItIsSaid(t *testing.T) {
	for _, c := range []struct {
		learned reader.Learned
		text    string
		id      string
		grams   float64
	}{
		{reader.Learned{Kind: reader.LearnedName, Words: "the green stuff", Ingredient: "parsley"},
			"40 g of green stuff",
			"parsley", 40},
		{reader.Learned{Kind: reader.LearnedPack, Ingredient: "chickpeas_canned_drained", Unit: "can", Grams: 800},
			"a tin of chickpeas, drained", "chickpeas_canned_drained", 486},
		{reader.Learned{Kind: reader.LearnedFill, Ingredient: "rocket", Unit: "cup", Fill: "packed"},
			"2 cups of rocket",
			"rocket", 40},
		{reader.Learned{Kind: reader.LearnedVolume, Unit: "spoon", Size: "small", ML: 4}, "two small spoons of honey",
			"honey", 11.36},
		{reader.Learned{Kind: reader.LearnedVolume, Unit: "glass", ML: 180}, "half a glass of water", "water", 90},
	} {
		require.Empty(t, c.learned.Check(), c.text)
		before := shippedBook(t).Read(c.text, nil)
		r := told(t, c.learned).Read(c.text, nil)
		require.Len(t, r.Lines, 1, c.text)
		l := r.Lines[0]
		assert.Equal(t, c.id, l.Ingredient, c.text)
		require.NotNil(t, l.Grams, c.text)
		if c.id != "rocket" { // of which no packed cup was weighed: the loose one is taken, and asked about
			assert.InDelta(t, c.grams, *l.Grams, c.grams*0.03, c.text)
			assert.Zero(t, r.StillOpen, "%s: %v", c.text, asked(l))
		}
		assert.Equal(t, []int64{1}, l.Heard, c.text)
		assert.Positive(t, before.StillOpen, "without it %s is asked about", c.text)
	}
}

func TestAnAnswerTellsWhatItMeansForGood(t *testing.T) {
	b := shippedBook(t)
	tin, spoon, glass := 240.0, 9.0, 200.0
	for _, c := range []struct {
		text   string
		answer reader.Answer
		want   reader.Learned
	}{
		{"2 tbsp of the green stuff", reader.Answer{Ingredient: "parsley"},
			reader.Learned{Kind: reader.LearnedName, Words: "green stuff", Ingredient: "parsley"}},
		{"a tin of chickpeas, drained", reader.Answer{Pack: &tin},
			reader.Learned{Kind: reader.LearnedPack, Words: "tin", Ingredient: "chickpeas_canned_drained", Unit: "can",
				Grams: 240}},
		{"a spoon of honey", reader.Answer{ML: &spoon},
			reader.Learned{Kind: reader.LearnedVolume, Words: "spoon", Unit: "spoon", ML: 9}},
		{"a large glass of water", reader.Answer{ML: &glass},
			reader.Learned{Kind: reader.LearnedVolume, Words: "large glass", Unit: "glass", Size: "large", ML: 200}},
		{"2 egg yolks", reader.Answer{Ingredient: "egg_yolk_pasteurised"},
			reader.Learned{Kind: reader.LearnedName, Words: "egg yolks", Ingredient: "egg_yolk_pasteurised"}},
	} {
		l := b.Read(c.text, nil).Lines[0]
		x, ok := b.Learn(l, c.answer)
		require.True(t, ok, c.text)
		assert.Equal(t, c.want, x, c.text)
		after := b.Read(c.text, map[string]reader.Answer{l.Key: c.answer}).Lines[0]
		assert.Empty(t, asked(after), c.text)
	}
	eggs := b.Read("2 eggs", nil).Lines[0]
	_, ok := b.Learn(eggs, reader.Answer{Ingredient: "egg_yolk_raw"})
	assert.False(t, ok, "what is dangerous raw is asked about each time")
	known := b.Read("100 g walnuts", nil).Lines[0]
	_, ok = b.Learn(known, reader.Answer{Ingredient: "pecan"})
	assert.False(t, ok, "another ingredient for this line is no new meaning of the name")
}

func TestANameMayNotComeToHideAnAllergen(t *testing.T) {
	b := shippedBook(t)
	assert.Equal(t, []string{"peanut"}, b.Hides(reader.Learned{Kind: reader.LearnedName, Words: "peanuts",
		Ingredient: "sunflower_seed"}))
	assert.Empty(t, b.Hides(reader.Learned{Kind: reader.LearnedName, Words: "ground nuts", Ingredient: "peanut"}))
}

func TestWhatIsLearnedIsChecked(t *testing.T) {
	for field, x := range map[string]reader.Learned{
		"kind":       {Kind: "wish"},
		"words":      {Kind: reader.LearnedName, Ingredient: "x"},
		"ingredient": {Kind: reader.LearnedName, Words: "green stuff"},
		"unit":       {Kind: reader.LearnedPack, Unit: "cup", Grams: 4},
		"grams":      {Kind: reader.LearnedPack, Unit: "can", Grams: -1},
		"fill":       {Kind: reader.LearnedFill, Ingredient: "x", Fill: "odd"},
		"ml":         {Kind: reader.LearnedVolume, Unit: "glass"},
		"size":       {Kind: reader.LearnedVolume, Unit: "glass", ML: 4, Size: "odd"},
	} {
		errs := x.Check()
		require.NotEmpty(t, errs, field)
		assert.Equal(t, field, errs[0].Field)
	}
	tin := reader.Learned{Kind: reader.LearnedPack, Ingredient: "x", Unit: "can", Grams: 400}
	assert.True(t, tin.Same(reader.Learned{Kind: reader.LearnedPack, Ingredient: "x", Unit: "can", Grams: 240}))
	assert.False(t, tin.Same(reader.Learned{Kind: reader.LearnedPack, Ingredient: "y", Unit: "can", Grams: 400}))
}

func TestAProductOfTheShopOutOfTheFreezerIsThawedAndFinished(t *testing.T) {
	b := told(t)
	for text, thaw := range map[string]bool{"200 g ginger paste": false, "200 g of frozen ginger paste, thawed": true,
		"the ginger paste from the freezer, 200 g": true} {
		r := b.Read(text, nil)
		require.Len(t, r.Lines, 1, text)
		assert.Equal(t, "made:ginger_paste@2", r.Lines[0].Ingredient, text)
		assert.Equal(t, thaw, r.Lines[0].Thaw, text)
		assert.Zero(t, r.StillOpen, "%s: %v", text, asked(r.Lines[0]))
	}
	formula, version, ok := reader.MadeOf("made:ginger_paste@2")
	assert.True(t, ok && formula == "ginger_paste" && version == 2)
	_, _, ok = reader.MadeOf("ginger")
	assert.False(t, ok)
}

// TestWhatWasLearnedHidesNoAllergenThatCameLater: the pantry got an ingredient of the name since it was told.
func TestWhatWasLearnedHidesNoAllergenThatCameLater(t *testing.T) {
	green := reader.Learned{Kind: reader.LearnedName, Words: "green stuff", Ingredient: "parsley"}
	assert.Equal(t, "parsley", told(t, green).Read("40 g green stuff", nil).Lines[0].Ingredient)
	b := shippedBook(t)
	nutty := *b.Ingredients["pistachio"]
	nutty.ID, nutty.Name = "green_stuff", "Green stuff"
	b.Ingredients["green_stuff"] = &nutty
	b.Index = reader.NewIndex(b.Ingredients, nil)
	b.Teach([]reader.Learned{green}, nil)
	assert.Equal(t, "green_stuff", b.Read("40 g green stuff", nil).Lines[0].Ingredient)
}
