package api

import (
	"context"
	"encoding/json"
	"fmt"
	"testing"

	"gallipot/internal/app"
	"gallipot/internal/app/catalog"
	"gallipot/internal/app/office"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
	"gallipot/internal/reference"
	"gallipot/internal/testdb"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// answered stores an answer to the line of an ingredient; without one, to the line of what is unknown.
func answered(c *client, r catalog.RecipeView, id string, a reader.Answer) catalog.RecipeView {
	c.t.Helper()
	r.Answers[lineOf(c.t.(*testing.T), r, id).Key] = a
	return into[catalog.RecipeView](keep(c, r).ok())
}

func TestAnAnswerIsRememberedForTheShopAndTakenBack(t *testing.T) {
	t.Parallel()
	c := setUp(t)
	tin := 240.0
	first := said(c, "a tin of chickpeas, drained\n2 tbsp of the green stuff")
	require.Equal(t, 2, first.Reading.StillOpen)
	first = answered(c, first, "chickpeas_canned_drained", reader.Answer{Pack: &tin})
	first = answered(c, first, "", reader.Answer{Ingredient: "parsley"})
	assert.InDelta(t, 145.8, *lineOf(t, first, "chickpeas_canned_drained").Grams, 0.1)

	second := said(c, "two tins of chickpeas, drained\n30 g of green stuff")
	assert.Zero(t, second.Reading.StillOpen, "it is asked once for all")
	chickpeas := lineOf(t, second, "chickpeas_canned_drained")
	assert.InDelta(t, 291.6, *chickpeas.Grams, 0.1)
	require.Len(t, chickpeas.Heard, 1)
	assert.Equal(t, "parsley", second.Reading.Lines[1].Ingredient)

	words := get[[]catalog.ShopWordView](c, "/api/words")
	require.Len(t, words, 2)
	assert.Equal(t, "green stuff", words[0].Words)
	assert.Equal(t, "Ines", words[0].By)
	assert.Equal(t, "Parsley, raw", words[0].Name)

	keep(c, first).ok() // the same answers again tell nothing new
	assert.Len(t, get[[]catalog.ShopWordView](c, "/api/words"), 2)

	c.send("DELETE", fmt.Sprintf("/api/words/%d?why=our+tins+changed", chickpeas.Heard[0]), nil).ok()
	assert.Positive(t, get[catalog.RecipeView](c, fmt.Sprintf("/api/recipes/%d", second.ID)).Reading.StillOpen)
	c.send("DELETE", fmt.Sprintf("/api/words/%d?why=again", chickpeas.Heard[0]), nil).refused(404, "")
	told := ""
	for _, row := range get[office.RecordsView](c, "/api/records").Rows {
		told += row.Said + "\n"
	}
	assert.Contains(t, told, "told the reader what “green stuff” means")
	assert.Contains(t, told, "took back what “tin” means: our tins changed")
}

func TestAShopAddsWordsOfItsOwn(t *testing.T) {
	t.Parallel()
	c := setUp(t)
	add := func(body map[string]any) reply { return c.send("POST", "/api/words", body) }
	add(map[string]any{"kind": "volume", "unit": "spoon", "size": "small", "ml": 4}).ok()
	add(map[string]any{"kind": "volume", "unit": "spoon", "size": "small", "ml": 5}).ok()
	words := get[[]catalog.ShopWordView](c, "/api/words")
	require.Len(t, words, 1, "the later takes the place of the earlier")
	assert.InDelta(t, 5, words[0].ML, 1e-9)
	assert.InDelta(t, 14.2, *said(c, "two small spoons of honey").Reading.Lines[0].Grams, 0.1)

	add(map[string]any{"kind": "name", "words": "our nuts", "ingredient": "walnut"}).ok()
	assert.Equal(t, "walnut", said(c, "100 g of our nuts").Reading.Lines[0].Ingredient)
	add(map[string]any{"kind": "name", "words": "peanuts", "ingredient": "sunflower_seed"}).refused(422, "words")
	add(map[string]any{"kind": "name", "words": "dust", "ingredient": "nothing"}).refused(422, "ingredient")
	add(map[string]any{"kind": "pack", "unit": "can", "grams": 0}).refused(422, "grams")
	add(map[string]any{"kind": "wish"}).refused(422, "kind")
}

func TestTwoRecipesInOnePasteAreReadApart(t *testing.T) {
	t.Parallel()
	c := setUp(t)
	r := said(c, "Peanut lime sauce\n200 g peanuts\n60 ml lime juice\n\nWalnut date spread\n100 g walnuts\n80 g dates, pitted")
	require.Len(t, r.Reading.Recipes, 2)
	assert.Equal(t, 1, r.Reading.StillOpen, "whether they are two")
	c.send("POST", fmt.Sprintf("/api/recipes/%d/apart?rev=%d", r.ID, r.Rev+1), nil).refused(409, "")
	both := into[[]catalog.RecipeView](c.send("POST", fmt.Sprintf("/api/recipes/%d/apart?rev=%d", r.ID, r.Rev),
		nil).ok())
	require.Len(t, both, 2)
	assert.Equal(t, r.ID, both[0].ID)
	assert.Equal(t, "Peanut lime sauce", both[0].Name)
	assert.Equal(t, "Walnut date spread", both[1].Name)
	assert.Equal(t, "Walnut date spread\n100 g walnuts\n80 g dates, pitted", both[1].Words)
	assert.Zero(t, both[0].Reading.StillOpen+both[1].Reading.StillOpen)
	c.send("POST", fmt.Sprintf("/api/recipes/%d/apart?rev=%d", both[1].ID, both[1].Rev), nil).refused(422, "")

	one := said(c, "Peanut lime sauce\n200 g peanuts\n\nWalnut date spread\n100 g walnuts")
	one.Answers["recipes"] = reader.Answer{Units: "one"}
	one = into[catalog.RecipeView](keep(c, one).ok())
	assert.Empty(t, one.Reading.Recipes)
	assert.Zero(t, one.Reading.StillOpen)
}

func TestAFrozenBaseAndWhatItIsSaidToKeepComeIntoTheDraft(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	r := said(c, "Ginger and walnut spread\n120 g of frozen ginger paste, thawed\n300 g walnuts\n"+
		"hold the walnuts when the rest doubles\nkeeps three weeks in the fridge")
	require.Zero(t, r.Reading.StillOpen)
	v := into[catalog.SheetView](c.send("POST", fmt.Sprintf("/api/recipes/%d/draft", r.ID),
		map[string]any{"name": "Gingered"}).ok())
	require.Len(t, v.Version.Lines, 2)
	assert.Equal(t, &formula.Ref{Formula: "ginger_paste", Version: 2}, v.Version.Lines[0].Component)
	require.NotEmpty(t, v.Version.Steps)
	assert.Contains(t, v.Version.Steps[0].Text, "Thaw and finish: thaw the Ginger paste at or below 5 °C")
	assert.Equal(t, 21, v.Version.ClaimDays)
	assert.Equal(t, "stays as it is when the rest is doubled", v.Version.Lines[1].Note)
}

// TestAPantryFromBeforeGetsWhatNewStepsLeadTo: a step whose outcome the pantry lacks would lead nowhere.
func TestAPantryFromBeforeGetsWhatNewStepsLeadTo(t *testing.T) {
	t.Parallel()
	s := testdb.New(t)
	a := app.New(s, noon, kitchen(t))
	all, err := reference.Ingredients()
	require.NoError(t, err)
	var before []pantry.Ingredient
	for _, g := range all {
		if g.ID != "cashew_toasted" && g.ID != "pecan_toasted" && g.ID != "pecan" {
			before = append(before, g)
		}
	}
	ctx := context.Background()
	require.NoError(t, a.Catalog.Seed(ctx, before))
	require.NoError(t, a.Catalog.Seed(ctx, all))
	rows, err := s.Ingredients()
	require.NoError(t, err)
	have := map[string]bool{}
	for _, g := range rows {
		have[g.ID] = true
	}
	assert.True(t, have["cashew_toasted"], "of what it has")
	assert.False(t, have["pecan_toasted"] || have["pecan"], "and nothing of what it lacks")
}

// TestWhatWasHeardTravelsInABundle: words, guesses, logs and claims come along, and a bundle hides no allergen.
func TestWhatWasHeardTravelsInABundle(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	tin := 240.0
	r := said(c, "Walnut thing\na tin of chickpeas, drained\n100 g walnuts\nsalt\nkeeps two weeks")
	r = answered(c, r, "chickpeas_canned_drained", reader.Answer{Pack: &tin})
	nine := 9.0
	r = answered(c, r, "salt_sea_fine", reader.Answer{Grams: &nine, Guessed: true})
	v := into[catalog.SheetView](c.send("POST", fmt.Sprintf("/api/recipes/%d/draft", r.ID),
		map[string]any{"name": "Walnuts"}).ok())
	c.send("POST", fmt.Sprintf("/api/formulas/%s/trials", v.Formula), map[string]any{"id": 0, "version": 1,
		"made_on": "2026-11-25", "by": "", "vessel": "", "lines": []any{}, "finished_g": 0, "score": 0, "note": "",
		"log": []any{map[string]any{"kind": "in", "ingredient": "walnut", "grams": 90}}, "open": true}).ok()
	bundle := c.send("GET", "/api/bundle", nil).ok().body

	other := setUp(t)
	plan := into[office.ImportPlan](other.send("POST", "/api/bundle?apply=true", json.RawMessage(bundle)).ok())
	assert.Contains(t, plan.New, "word tin")
	words := get[[]catalog.ShopWordView](other, "/api/words")
	require.Len(t, words, 1)
	assert.InDelta(t, 240, words[0].Grams, 1e-9)
	sheet := get[catalog.SheetView](other, "/api/formulas/"+v.Formula+"/versions/1")
	assert.Equal(t, 14, sheet.Version.ClaimDays)
	trials := get[catalog.TrialsView](other, "/api/formulas/"+v.Formula+"/trials").Trials
	require.Len(t, trials, 1)
	assert.True(t, trials[0].Open)
	assert.Len(t, trials[0].Log, 1)
	again := into[office.ImportPlan](other.send("POST", "/api/bundle?apply=true", json.RawMessage(bundle)).ok())
	assert.NotContains(t, again.New, "word tin")
}
