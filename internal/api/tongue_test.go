package api

import (
	"context"
	"fmt"
	"testing"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/reference"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// beginning sets a shop up in a locale.
func beginning(t *testing.T, locale string) *client {
	t.Helper()
	c := newClient(t, noon())
	typical, err := reference.Kitchen()
	require.NoError(t, err)
	c.app.Typical = typical
	s := get[office.ShopView](c, "/api/shop")
	for _, l := range s.Laws {
		if l.Locale == locale {
			s.Regime, s.Settings.Locale, s.Settings.Currency, s.TimeZone = l.Regime, l.Locale, l.Currency, l.TimeZone
			s.Beside = l.Beside
		}
	}
	s.Settings.Name, s.Address = "Tinglaze", "7 Quern Row, Eddlesham"
	c.send("PUT", "/api/shop?rev=0", s.Settings).ok()
	return c
}

func TestAShopCallsTheShippedIngredientsInItsOwnEnglish(t *testing.T) {
	t.Parallel()
	c := beginning(t, "en-US")
	assert.Equal(t, "Eggplant, raw", get[catalog.IngredientView](c, "/api/ingredients/aubergine_raw").Name)
	rocket := get[catalog.IngredientView](c, "/api/ingredients/rocket")
	assert.Equal(t, "Arugula, raw", rocket.Name)
	assert.False(t, get[catalog.IngredientView](c, "/api/ingredients/rapeseed_oil").Looked == nil)
	assert.Empty(t, rocket.Open, "the same food by its other name needs no second look")
	assert.NotContains(t, rocket.Known, "rocket leaves")
	mine := rocket.Ingredient
	mine.Name = "Wild leaves from the lane"
	c.send("PUT", "/api/ingredients/rocket?rev="+fmt.Sprint(rocket.Rev)+"&why=they+grow+there", mine).ok()

	s := get[office.ShopView](c, "/api/shop")
	assert.True(t, s.Beside)
	s.Settings.Locale = "en-GB"
	c.send("PUT", "/api/shop?rev="+fmt.Sprint(s.Rev), s.Settings).ok()
	assert.Equal(t, "Aubergine (eggplant), raw", get[catalog.IngredientView](c, "/api/ingredients/aubergine_raw").Name)
	assert.Equal(t, "Wild leaves from the lane", get[catalog.IngredientView](c, "/api/ingredients/rocket").Name,
		"a name that somebody gave stays")
}

func TestARecipeMayCallThingsEitherWay(t *testing.T) {
	t.Parallel()
	c := beginning(t, "en-US")
	r := into[catalog.RecipeView](c.send("POST", "/api/recipes",
		map[string]string{"words": "100 g rocket\n200 g aubergine\n30 g canola oil\n20 g rapeseed oil"}).ok())
	var read []string
	for _, l := range r.Reading.Lines {
		read = append(read, l.Ingredient)
	}
	assert.Equal(t, []string{"rocket", "aubergine_raw", "rapeseed_oil", "rapeseed_oil"}, read)
}

func TestACurrencyIsOneOfTheList(t *testing.T) {
	t.Parallel()
	c := beginning(t, "en-US")
	s := get[office.ShopView](c, "/api/shop")
	for _, wrong := range []string{"DOL", "usd", "dollars", ""} {
		s.Settings.Currency = wrong
		c.send("PUT", "/api/shop?rev="+fmt.Sprint(s.Rev), s.Settings).refused(422, "currency")
	}
	s.Settings.Currency = "CAD"
	c.send("PUT", "/api/shop?rev="+fmt.Sprint(s.Rev), s.Settings).ok()
}

func TestANewShopIsLedStepByStepAndMayLeave(t *testing.T) {
	t.Parallel()
	c := beginning(t, "en-GB")
	next := func() kernel.Lead {
		t.Helper()
		lead := get[kernel.TodayView](c, "/api/today").Lead
		require.NotNil(t, lead)
		return *lead
	}
	assert.Equal(t, kernel.Lead{Done: []string{}, Next: "recipe", Link: "/reader"}, next())
	sheet := into[catalog.SheetView](c.send("POST", "/api/formulas", map[string]string{"name": "Leek dip"}).ok())
	assert.Equal(t, "recipe", next().Next, "a sheet without lines is no recipe yet")
	sheet.Version.Lines = []formula.Line{{ID: "a", Ingredient: "salt_sea_fine", Grams: amount.MustGrams("10")},
		{ID: "b", Ingredient: "vinegar_cider", Grams: amount.MustGrams("500")}}
	sheet = into[catalog.SheetView](c.send("PUT", "/api/formulas/leek_dip/versions/1?rev="+fmt.Sprint(sheet.Rev),
		sheet.Version).ok())
	assert.Equal(t, kernel.Lead{Done: []string{"recipe"}, Next: "price", Link: "/pantry/" +
		string(sheet.Version.Lines[0].Ingredient), Name: "Leek dip"}, next())

	s := get[office.ShopView](c, "/api/shop")
	s.Settings.LeadLeft = true
	c.send("PUT", "/api/shop?rev="+fmt.Sprint(s.Rev), s.Settings).ok()
	assert.Nil(t, get[kernel.TodayView](c, "/api/today").Lead, "it can be left at once")
}

func TestALeadEndsWhereLabelsWerePrinted(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	assert.Nil(t, get[kernel.TodayView](c, "/api/today").Lead)
	begun, err := c.app.Store.With(context.Background()).Begun()
	require.NoError(t, err)
	assert.True(t, begun.Printed)
}

func TestWhatTheContractRefusesIsSaidInPlainWords(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	for _, wrong := range []struct {
		body        map[string]any
		field, says string
	}{
		{map[string]any{"formula": "carrot_miso_dressing", "version": 3, "jars": 2.5, "made_on": "2026-11-25"}, "jars",
			"a whole number is needed here"},
		{map[string]any{"formula": 7, "version": 3, "jars": 2, "made_on": "2026-11-25"}, "formula",
			"words are needed here"},
	} {
		r := c.send("POST", "/api/batches", wrong.body)
		r.refused(422, wrong.field)
		assert.Contains(t, string(r.body), wrong.says)
	}
}

// TestAGallonAndAPintAreTheShopsOwn: a delivery and a recipe mean the measures of the shop's own people.
func TestAGallonAndAPintAreTheShopsOwn(t *testing.T) {
	t.Parallel()
	for locale, want := range map[string]struct{ gallon, pint float64 }{
		"en-GB": {4546.09, 568.26125}, "en-US": {3785.411784, 473.176473},
	} {
		c := beginning(t, locale)
		density := get[catalog.IngredientView](c, "/api/ingredients/vinegar_cider").DensityGPerML
		lot := c.deliver("vinegar_cider", map[string]any{"pack": "1 gal"})
		assert.InDelta(t, want.gallon*density, lot.Left.Float(), 0.01, locale)
		r := into[catalog.RecipeView](c.send("POST", "/api/recipes",
			map[string]string{"words": "1 pint cider vinegar"}).ok())
		require.NotEmpty(t, r.Reading.Lines)
		require.NotNil(t, r.Reading.Lines[0].Grams)
		assert.InDelta(t, want.pint*density, *r.Reading.Lines[0].Grams, 0.5, locale)
	}
}
