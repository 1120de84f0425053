package allergen

import (
	"strings"
	"testing"

	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func says(code string, plainly bool) law.Each[[]Saying] {
	return law.Each[[]Saying]{law.GB: {{code, plainly}}}
}

func TestWordsAreReadAsPeopleWriteThem(t *testing.T) {
	for _, c := range []struct {
		text    string
		gb, ask string
	}{
		{"WHEAT¹ flour", "gluten:wheat", "gluten"},
		{"ﬂour", "gluten:wheat", "gluten"},
		{"pea\u00adnut butter", "peanut", ""},
		{"pin\u0303on, pine\u00a0nuts", "", ""},
		{"crème fraîche", "milk", ""},
		{"goat’s milk", "milk", ""},
		{"E-220, E 150 d, e150d", "sulphites", "sulphites"},
		{"SO₂", "sulphites", ""},
		{"garlic\u2011butter", "milk", ""},
		{"oat- and almond milk", "gluten:oats nut:almond", ""},
		{"malted wheat flour", "gluten:barley gluten:wheat", ""},
		{"cashewnut, brazilnuts", "nut:brazil nut nut:cashew", ""},
		{"butterscotch, milkshake, oatcake", "", ""},
		{"anchovies and fish", "fish", ""},

		{"milk-free, egg free", "", ""},
		{"free from milk", "milk", ""},
		{"egg free of shell", "egg", ""},
		{"free range eggs; egg free range", "egg", ""},
		{"egg-free, range of tomatoes", "", ""},
		{"peanut-butter-free", "peanut", ""},
		{"gluten free oats", "gluten:oats", ""},
		{"gluten-free flour", "", "wheat starch"},
		{"dairy-free butter", "milk", ""},

		{"almonds. Made in a facility that also handles milk and wheat.", "nut:almond", "may contain"},
		{"chocolate (sugar, may contain milk), hazelnuts", "nut:hazelnut", "may contain; milk or soy"},
		{"May  contain: milk 0.5%, nuts. Ingredients: wheat flour", "gluten:wheat", "may contain"},
		{"may contain milk\nand nuts; cream", "milk", "may contain"},
		{"may also contain milk\n\nIngredients: egg", "egg", "may contain"},
		{"salt (packed in the same factory as milk) celery", "celery", "may contain"},
	} {
		t.Run(c.text, func(t *testing.T) {
			got := Shipped().Read(c.text)
			assert.Equal(t, c.gb, strings.Join(got.Codes(under(t, law.GB)), " "))
			asks := got.Asks()
			assert.Equal(t, c.ask, strings.Join(asks, "; "))
		})
	}
}

func TestAStatementNamesWhatItMayContain(t *testing.T) {
	const text = "sugar. May contain milk and walnuts. Salt"
	got := Shipped().Read(text)
	require.Len(t, got.Statements, 1)
	assert.Equal(t, []string{"milk", "nut:walnut"}, got.Statements[0].Codes[law.GB])
	assert.Equal(t, "May contain milk and walnuts", text[got.Statements[0].Start:got.Statements[0].End])
}

func TestMarksStandAtThePlainWord(t *testing.T) {
	for _, c := range [][2]string{
		{"soya milk", "soya"}, {"peanut butter", "peanut"}, {"oatmilk", "oatmilk"}, {"Brazil nuts", "Brazil nuts"},
		{"durum wheat semolina", "wheat"}, {"fish stock cube", "fish"}, {"sodium metabisulphite",
			"sodium metabisulphite"},
		{"skimmed MILK powder", "MILK"}, {"é, buttermilks", "buttermilks"},
	} {
		got := Shipped().Read(c[0]).Marks(under(t, law.GB))
		require.Len(t, got, 1, c[0])
		assert.True(t, got[0].Plainly, c[0])
		assert.Equal(t, c[1], c[0][got[0].Start:got[0].End])
	}
	got := Shipped().Read("soy sauce").Marks(under(t, law.GB))
	require.Len(t, got, 2)
	assert.Equal(t, Mark{0, 3, "soy", true}, got[0])
	assert.Equal(t, Mark{0, 9, "gluten:wheat", false}, got[1])
}

func TestAShopAddsItsOwnWords(t *testing.T) {
	own := With([]Term{{Words: "Dukka", Says: says("nut:hazelnut", false), Asks: "sesame"},
		{Words: "milk", Says: law.Each[[]Saying]{}}, // says nothing of a word that is there: hides nothing
		{Words: "milk cap", Says: law.Each[[]Saying]{}}})
	assert.Equal(t, []string{"nut:hazelnut"}, own.Read("dukkas").Codes(under(t, law.GB)))
	assert.Equal(t, []string{"sesame"}, own.Read("DUKKA").Asks())
	assert.Equal(t, []string{"milk"}, own.Read("milk").Codes(under(t, law.GB)))
	assert.Empty(t, own.Read("saffron milk caps").Codes(under(t, law.GB)))
	assert.Empty(t, Shipped().Read("dukka").Codes(under(t, law.GB)), "the shipped words stay as they are")
	assert.Same(t, Shipped(), With(nil))

	assert.Empty(t, Term{Words: "dukka", Says: says("nut:hazelnut", true)}.Check())
	assert.Contains(t, Term{Words: "x"}.Check(), "characters")
	assert.Contains(t, Term{Words: strings.Repeat("x", 61)}.Check(), "characters")
	assert.Contains(t, Term{Words: "dukka", Says: says("joy", true)}.Check(), "no GB allergen")
	assert.Contains(t, Term{Words: "dukka", Asks: strings.Repeat("x", 61)}.Check(), "question")
	assert.Contains(t, Term{Words: "dukka", Says: law.Each[[]Saying]{"FR": nil}}.Check(), "FR")
	assert.True(t, Term{Words: "milk cap"}.Hides())
	assert.False(t, Term{Words: "dukka", Asks: "sesame"}.Hides())
	assert.False(t, Term{Words: "dukka", Says: says("sesame", true)}.Hides())
}

// TestALongerTextHasNoFewerAllergens puts harmless words around every term: what it says stays.
func TestALongerTextHasNoFewerAllergens(t *testing.T) {
	for _, term := range Shipped().terms {
		for _, l := range law.All() {
			alone := Shipped().Read(term.Words).Codes(l)
			for _, text := range []string{"water, " + term.Words + ", salt", strings.ToUpper(term.Words) + " 12%",
				"blend [" + strings.ReplaceAll(term.Words, " ", "\n") + "]", "organic\t" + term.Words} {
				assert.Equal(t, alone, Shipped().Read(text).Codes(l), "%q", text)
			}
			for _, s := range term.Says[l.Regime] {
				assert.Contains(t, alone, s.Code, term.Words)
			}
		}
	}
}

func TestMentionsAWordInAnyForm(t *testing.T) {
	for text, want := range map[string]bool{"goats’ milk": true, "Goat cheese": true, "scapegoat": false,
		"goatee": false, "": false, "ewe, goat": true} {
		assert.Equal(t, want, Mentions(text, "goat"), text)
	}
}

func FuzzReadKeepsItsPlacesInTheText(f *testing.F) {
	for _, s := range []string{"skimmed milk", "é ﬂour\u00ad", "may contain (", "\xff egg", "E220-free"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		got := Shipped().Read(text)
		for _, l := range law.All() {
			for _, m := range got.Marks(l) {
				if m.Start < 0 || m.End <= m.Start || m.End > len(text) {
					t.Fatalf("%q: %+v", text, m)
				}
			}
		}
	})
}
