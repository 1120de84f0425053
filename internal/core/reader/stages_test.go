package reader

import (
	"strings"
	"testing"

	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
)

// smallPage reads with a pantry of a few things.
func smallPage() *page {
	stuff := map[string]*pantry.Ingredient{}
	for _, name := range []string{"tahini", "honey", "lime juice", "walnuts", "garlic", "salt", "lime"} {
		id := strings.ReplaceAll(name, " ", "_")
		stuff[id] = &pantry.Ingredient{ID: id, Name: name}
	}
	b := &Book{Index: NewIndex(stuff, nil), Ingredients: stuff, Measures: pantry.NewMeasures(nil)}
	return &page{book: b, seen: map[string]int{}, said: map[string]bool{}}
}

func toks(words string) cursor { return tokenise(words) }

func TestSentencesEndWhereTheyAreSpokenToAnEnd(t *testing.T) {
	for row, want := range map[string][]string{
		"a cup of tahini":                                     {"a cup of tahini"},
		"A cup of tahini. Two spoons of honey.":               {"A cup of tahini.", "Two spoons of honey."},
		"Two limes. No, three limes.":                         {"Two limes. No, three limes."},
		"Tahini, 50 g. Then honey, 20 g.":                     {"Tahini, 50 g.", "Then honey, 20 g."},
		"2 tbsp. tahini":                                      {"2 tbsp. tahini"},
		"Salt. A pinch.":                                      {"Salt. A pinch."},
		"honey sauce: 3 spoons of honey":                      {"honey sauce:", "3 spoons of honey"},
		"Honey, a hundred grams. Sorry, a hundred and twenty": {"Honey, a hundred grams. Sorry, a hundred and twenty"},
		"1. 200 g tahini":                                     {"1. 200 g tahini"},
	} {
		var got []string
		for _, s := range smallPage().sentences(row) {
			got = append(got, strings.TrimSpace(s.words))
		}
		assert.Equal(t, want, got, row)
	}
}

func TestASentenceIsCutWhereAnotherThingBegins(t *testing.T) {
	for words, want := range map[string][]string{
		"a cup of tahini and a spoon of honey":           {"a cup of tahini", "and a spoon of honey"},
		"50 g tahini 20 g honey 5 g salt":                {"50 g tahini", "20 g honey", "5 g salt"},
		"a cup and a half of tahini":                     {"a cup and a half of tahini"},
		"200 g tahini, no salt":                          {"200 g tahini,", "no salt"},
		"100 g walnuts, no, 120 g":                       {"100 g walnuts, no, 120 g"},
		"the tahini, 200 g, and then the honey, 50 g":    {"the tahini, 200 g,", "and then the honey, 50 g"},
		"50 g walnuts, you can use honey instead":        {"50 g walnuts, you can use honey instead"},
		"one half tablespoon of honey":                   {"one half tablespoon of honey"},
		"3 parts tahini to 1 part lime juice":            {"3 parts tahini to", "1 part lime juice"},
		"a clove of garlic, maybe two":                   {"a clove of garlic, maybe two"},
		"a spoon of honey keeps two weeks in the fridge": {"a spoon of honey", "keeps two weeks in the fridge"},
	} {
		p, c, from := smallPage(), toks(words), 0
		p.book.Index.know(c)
		var got []string
		for _, cut := range append(p.cuts(c, 0), len([]rune(words))) {
			got = append(got, strings.TrimSpace(string([]rune(words)[from:cut])))
			from = cut
		}
		assert.Equal(t, want, got, words)
	}
}

func TestNumbersOfEveryForm(t *testing.T) {
	for words, want := range map[string]float64{"half a": 0.5, "a half a": 0.5, "one fourth of a": 0.25,
		"three-quarters": 0.75, "an eighth of a": 0.125, "three eighths of a": 0.375, "one and three quarters": 1.75,
		"two and one half": 2.5, "a hundred and fifty": 150, "twenty-five": 25, "a couple of": 2, "1 1/2": 1.5,
		"2½":         2.5,
		"a thousand": 1000, "half a dozen": 6} {
		v, next, ok := toks(words).number(0)
		assert.True(t, ok, words)
		assert.InDelta(t, want, v, 1e-9, words)
		assert.Equal(t, len(toks(words)), next, words)
	}
	for words, at := range map[string]int{"the carrot one that we do": 2, "carrots": 0, "of": 0} {
		_, _, ok := toks(words).number(at)
		assert.False(t, ok, words)
	}
}

func TestAmountsWithTheirMeasures(t *testing.T) {
	for words, want := range map[string]Amount{
		"a cup and a half of":        {Low: 1.5, High: 1.5, Unit: "cup"},
		"two heaping tablespoons of": {Low: 2, High: 2, Unit: "tbsp", Heap: "heaping"},
		"one of our small spoons of": {Low: 1, High: 1, Unit: "spoon", Size: "small"},
		"about 2 to 3 cups":          {Low: 2, High: 3, Unit: "cup"},
		"2 400 g tins":               {Low: 2, High: 2, Unit: "can", Pack: 400},
		"twice as much":              {Low: 2, High: 2, Unit: "part", asMuch: true},
		"the same weight of":         {Low: 1, High: 1, Unit: sameAs},
		"a cup of packed":            {Low: 1, High: 1, Unit: "cup", Fill: "packed"},
	} {
		f, ok := toks(words).amountAt(0, true)
		assert.True(t, ok, words)
		assert.Equal(t, want, f.Amount, words)
	}
	_, ok := toks("can use").amountAt(0, true)
	assert.False(t, ok, "a verb, and no tin")
}

func TestDenialsAndWhatIsNone(t *testing.T) {
	for words, want := range map[string]int{"no salt": 1, "skip the salt": 1, "don't put any salt": 3,
		"leave out the salt": 2,
		"no, half a cup":     0, "no more than two": 0, "not too much": 0, "salt": 0} {
		assert.Equal(t, want, toks(words).denies(0), words)
	}
	for words, denied := range map[string]bool{"I don't put any honey in": true, "salt isn't needed": true,
		"instead of honey use tahini": false, "no, two cups of tahini": false} {
		s := newSegment(words)
		s.deny()
		assert.Equal(t, denied, s.denied, words)
	}
}

func TestHowLongItIsSaidToKeep(t *testing.T) {
	for words, want := range map[string]int{"keeps two weeks": 14, "lasts about a fortnight": 14,
		"good for up to 5 days": 5,
		"use within three days": 3, "keeps a month": 30, "fine for ten days": 10} {
		days, _, ok := toks(words).keeps(0)
		assert.True(t, ok, words)
		assert.Equal(t, want, days, words)
	}
	_, _, ok := toks("keeps well").keeps(0)
	assert.False(t, ok)
}

func TestMarksAtTheStartOfARow(t *testing.T) {
	for words, want := range map[string]int{"[02:15] two": 5, "(1:02) two": 5, "10:01 so": 3, "- two": 1, "1. two": 2,
		"Speaker 1: two": 3, "[00:12] Cook: two": 7, "two": 0, "1.5 cups": 0} {
		assert.Equal(t, want, skipMarks(toks(words)), words)
	}
}

func TestTitlesAreAnnounced(t *testing.T) {
	for words, want := range map[string]string{"Okay so the lime and walnut dip.": "Lime and walnut dip",
		"Right, honey dressing, the everyday one.": "Honey dressing",
		"So today we're making the garlic sauce":   "Garlic sauce",
		"two spoons of honey sauce":                "", "Blend the sauce.": "", "I like it.": ""} {
		l, ok := smallPage().announced(words, toks(words), false)
		assert.Equal(t, want != "", ok, words)
		assert.Equal(t, want, l.Name, words)
	}
	p := smallPage()
	p.titled, p.weighed = true, 3
	_, ok := p.announced("the garlic sauce", toks("the garlic sauce"), false)
	assert.False(t, ok, "behind lines it needs a word for one more")
	_, ok = p.announced("Next the garlic sauce", toks("Next the garlic sauce"), false)
	assert.True(t, ok)
}

func TestTalkIsToldFromWhatGoesIn(t *testing.T) {
	for words, want := range map[string]bool{"My sister says it's too much but I like it": true,
		"they eat it with a spoon": true, "it takes about twenty minutes": true, "That's it": true,
		"Don't walk away from the pan": true, "you add the honey at the end": false, "two spoons of honey": false,
		"glimmerwort": false, "I never put salt in": false} {
		c := toks(words)
		p := smallPage()
		p.book.Index.know(c)
		_, ok := p.talk(words, c)
		assert.Equal(t, want, ok, words)
	}
}

func TestWhatIsDoneToAThingIsItsState(t *testing.T) {
	for words, want := range map[string]string{"I toast 100 g walnuts": "toasted",
		"soak and boil a cup of peas": "soaked boiled",
		"squeeze two limes":           "juice", "the roast is done": ""} {
		s := newSegment(words)
		s.doing()
		assert.Equal(t, want, strings.Join(append(s.done, s.fruit...), " "), words)
	}
}

func TestEveryWordOfTheTableIsInASection(t *testing.T) {
	assert.NotEmpty(t, sections["smallWords"])
	assert.Empty(t, sections[""], "words before the first section")
	for name, list := range sections {
		assert.True(t, name == "" || len(list) > 0, name)
	}
	assert.Panics(t, func() { words("no such words") })
}
