package draft

import (
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/reader"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func weighed(words, ingredient string, grams float64) reader.Line {
	return reader.Line{Kind: reader.Weighed, As: reader.AsBowl, Words: words, Name: words, Ingredient: ingredient,
		Grams: &grams}
}

// TestALineComesWithWhatWasFound: grams to whole numbers, finer where there is little, and how they were found.
func TestALineComesWithWhatWasFound(t *testing.T) {
	oil := weighed("- a good glug of oil", "oil", 27.6)
	oil.Marks = []reader.Mark{{Role: reader.Layout, From: 0, To: 2}}
	oil.HoldBack, oil.Section, oil.Measure, oil.Times, oil.How = true, "dressing", "glug", 1, "1 glug of 27.6 g"
	salt := weighed("salt", "salt", 6.25)
	salt.Fixed, salt.Remark = true, "flaky"
	saffron := weighed("saffron", "saffron", 0.126)
	paste := weighed("ginger paste", reader.Made{Formula: "paste", Version: 3}.ID(), 80)
	either := weighed("honey or syrup", "honey", 40)
	either.AnyOf = []string{"honey", "syrup"}
	unweighed := reader.Line{Kind: reader.Weighed, As: reader.AsBowl, Words: "some dill", Ingredient: "dill"}
	left := weighed("bread", "bread", 100)
	left.As = reader.AsLeft
	v := From(reader.Reading{Lines: []reader.Line{oil, salt, saffron, paste, either, unweighed, left}}, "all of it",
		"dip")
	require.Len(t, v.Lines, 6, "what is left out is no line")
	assert.Equal(t, "all of it", v.Words)
	assert.Equal(t, "a good glug of oil", v.Lines[0].Words, "without the mark of the list")
	assert.Equal(t, amount.G(28), v.Lines[0].Grams)
	assert.Equal(t, 50.0, v.Lines[0].HoldBackPercent)
	assert.Equal(t, "dressing", v.Lines[0].Phase)
	require.NotNil(t, v.Lines[0].Said)
	assert.Equal(t, "1 glug of 27.6 g", v.Lines[0].Said.How)
	assert.Equal(t, 28.0, v.Lines[0].Said.Grams, "as it stands in the line")
	assert.Equal(t, amount.G(6.3), v.Lines[1].Grams)
	assert.Equal(t, "flaky; stays as it is when the rest is doubled", v.Lines[1].Note)
	assert.Equal(t, amount.G(0.13), v.Lines[2].Grams)
	assert.Equal(t, &formula.Ref{Formula: "paste", Version: 3}, v.Lines[3].Component)
	assert.Empty(t, v.Lines[3].Ingredient)
	assert.Equal(t, []string{"honey", "syrup"}, v.Lines[4].AnyOf)
	assert.True(t, v.Lines[5].Grams.IsZero(), "still to weigh")
	assert.Nil(t, v.Lines[5].Said)
	assert.Empty(t, v.Check())
}

func TestWhatGoesOnTopIsSpreadOverTheJars(t *testing.T) {
	seeds := weighed("seeds", "seeds", 45)
	seeds.As = reader.AsTopping
	days := 21
	r := reader.Reading{ClaimDays: &days, Lines: []reader.Line{weighed("oil", "oil", 900), seeds}}
	v := From(r, "", "dip")
	require.Len(t, v.Toppings, 1)
	jars := max(1, v.Jars())
	assert.InDelta(t, 45/float64(jars), v.Toppings[0].Grams.Float(), 0.051)
	assert.Equal(t, 21, v.ClaimDays)
}

func TestStepsBeginWithWhatThaws(t *testing.T) {
	frozen := weighed("ginger paste", reader.Made{Formula: "paste", Version: 3}.ID(), 80)
	frozen.Thaw = true
	step := reader.Line{Kind: reader.Step, Words: " Blend until smooth. "}
	v := From(reader.Reading{Lines: []reader.Line{step, frozen}}, "", "dip")
	require.Len(t, v.Steps, 2)
	assert.Contains(t, v.Steps[0].Text, "thaw the ginger paste at or below 5 °C")
	assert.Contains(t, v.Steps[0].Text, "never freeze it again")
	assert.Equal(t, "Blend until smooth.", v.Steps[1].Text)
}

// TestNothingIsDropped: a line that nobody has decided on, a notice that asks, and a reading of nothing stop the draft.
func TestNothingIsDropped(t *testing.T) {
	asks := weighed("cream", "cream", 100)
	asks.Questions = []reader.Question{{Code: "fat", Text: "how fat?"}, {Code: "ingredient",
		Text: "which cream is it?"}}
	onTop := weighed("ginger paste", reader.Made{Formula: "paste", Version: 3}.ID(), 80)
	onTop.As = reader.AsTopping
	left := asks
	left.As = reader.AsLeft
	errs := Undecided(reader.Reading{Lines: []reader.Line{asks, onTop, left},
		Notices: []reader.Notice{{Code: "gallons", Text: "whose gallon is it?", Options: []string{"a", "b"}},
			{Code: "told", Text: "two of three lines"}}})
	assert.Equal(t, []field.Error{{Field: "lines[0]", Message: "“cream”: which cream is it?"},
		{Field: "lines[1]", Message: "ginger paste is a product of yours: it goes into the mix, or is left out"},
		{Field: "notices.gallons", Message: "whose gallon is it?"}}, []field.Error(errs))
	assert.Equal(t, "words", Undecided(reader.Reading{Lines: []reader.Line{left}})[0].Field)
	assert.Empty(t, Undecided(reader.Reading{Lines: []reader.Line{weighed("oil", "oil", 900)}}))
}
