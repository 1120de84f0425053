package api

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/app/release"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
	"gallipot/internal/core/shop"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// setUp is a shop with a name, so that people may write.
func setUp(t *testing.T) *client {
	t.Helper()
	return newClient(t, noon())
}

func said(c *client, words string) catalog.RecipeView {
	return into[catalog.RecipeView](c.send("POST", "/api/recipes", map[string]any{"words": words}).ok())
}

func keep(c *client, r catalog.RecipeView) reply {
	return c.send("PUT", fmt.Sprintf("/api/recipes/%d?rev=%d", r.ID, r.Rev),
		map[string]any{"name": r.Name, "words": r.Words, "answers": r.Answers})
}

func lineOf(t *testing.T, r catalog.RecipeView, id string) reader.Line {
	t.Helper()
	for _, l := range r.Reading.Lines {
		if l.Ingredient == id {
			return l
		}
	}
	t.Fatalf("no line of %s", id)
	return reader.Line{}
}

func TestFromWordsToALockedFormula(t *testing.T) {
	t.Parallel()
	c := setUp(t)
	r := said(c,
		"Carrot thing\n\n300 g carrots, peeled\n2 heaping spoons of tahini\na splash of quince cordial\nsalt to taste\n\nMethod\nBlend it all.")
	assert.Equal(t, "Carrot thing", r.Name, "named after its first words")
	assert.Equal(t, 3, r.Reading.StillOpen)

	draft := fmt.Sprintf("/api/recipes/%d/draft", r.ID)
	c.send("POST", draft, map[string]any{"name": "Carrot thing"}).refused(422, "lines[3]")

	two := 2.0
	for _, l := range r.Reading.Lines {
		if strings.Contains(l.Words, "quince") {
			r.Answers[l.Key] = reader.Answer{Ingredient: "lime_juice"}
		}
	}
	r = into[catalog.RecipeView](keep(c, r).ok())
	assert.Equal(t, 2, r.Reading.StillOpen, "the spoon and the salt are still to be weighed")

	view := into[catalog.SheetView](c.send("POST", draft, map[string]any{"name": "Carrot thing"}).ok())
	require.Len(t, view.Version.Lines, 4)
	assert.Equal(t, "2 heaping spoons of tahini", view.Version.Lines[1].Words)
	assert.Equal(t, "reference", view.Version.Lines[1].Said.Source)
	assert.Equal(t, "carrot_whole.peel", view.Version.Lines[0].Preparation)
	assert.Contains(t, view.Version.Words, "Blend it all.")
	assert.Equal(t, "Blend it all.", view.Version.Steps[0].Text)
	made := get[catalog.RecipeView](c, fmt.Sprintf("/api/recipes/%d", r.ID)).Made
	require.NotNil(t, made)
	assert.Equal(t, view.Formula, made.Formula)

	sheet := fmt.Sprintf("/api/formulas/%s/versions/1", view.Formula)
	c.send("POST", sheet+"/lock?rev=1", nil).refused(422, "lines[3].grams")

	// Weighing the maker's own spoon offers the line anew, and it wins in the reading.
	weighed := into[catalog.IngredientView](c.send("PUT", "/api/ingredients/tahini/measures/tbsp_heaping",
		map[string]any{"weighings": []float64{24, 26, 25}}).ok())
	assert.True(t, slices.ContainsFunc(weighed.Measures, func(m pantry.Measure) bool {
		return m.Name == "tbsp_heaping" && m.Source == pantry.HouseSource && m.Grams == 25
	}))
	own := into[catalog.IngredientView](c.send("PUT", "/api/ingredients/tahini/measures/tbsp",
		map[string]any{"weighings": []float64{18, 17, 19}}).ok())
	assert.Greater(t, len(own.Measures), 3)
	again := get[catalog.SheetView](c, sheet)
	require.Len(t, again.Recompute, 1)
	assert.InDelta(t, 41*18/15.0, again.Recompute[0].Then, 1, "in proportion to the spoon")
	assert.Equal(t, reader.FromHouse, lineOf(t, get[catalog.RecipeView](c, fmt.Sprintf("/api/recipes/%d", r.ID)),
		"tahini").Source)
	c.send("DELETE", "/api/ingredients/tahini/measures/tbsp"+why, nil).ok()
	assert.Empty(t, get[catalog.SheetView](c, sheet).Recompute, "the reference counts again")
	c.send("DELETE", "/api/ingredients/tahini/measures/tbsp"+why, nil).refused(404, "")
	c.send("PUT", "/api/ingredients/tahini/measures/tbsp", map[string]any{"weighings": []float64{18, 17}}).refused(422,
		"weighings")

	v := view.Version
	v.Lines[3].Grams = amount.G(two)
	view = into[catalog.SheetView](c.send("PUT", sheet+"?rev=1", v).ok())
	locked := into[catalog.SheetView](c.lock(sheet, view.Rev).ok())
	assert.Equal(t, "2 heaping spoons of tahini", locked.Version.Lines[1].Words, "every gram keeps its words")

	file := c.send("GET", sheet+"/recipe", nil).ok()
	assert.Contains(t, string(file.body), `"@type": "Recipe"`)
	back := into[catalog.RecipeView](c.raw("POST", "/api/recipe-files", "application/json", file.body).ok())
	assert.Zero(t, back.Reading.StillOpen)
	assert.InDelta(t, locked.Panel.Grams.Float(), back.Reading.Total, 0.5, "what goes out comes in again")
	csv := string(c.send("GET", sheet+"/sheet.csv", nil).ok().body)
	assert.Contains(t, csv, "2 heaping spoons of tahini")
	assert.Contains(t, csv, "100.00")
	assert.Equal(t, "PK", string(c.send("GET", sheet+"/cost.xlsx", nil).ok().body[:2]))
	c.send("GET", "/api/formulas/nothing/versions/1/cost.xlsx", nil).refused(404, "")
}

func TestGramsThatAssumeWaterCannotBeLocked(t *testing.T) {
	t.Parallel()
	c := setUp(t)
	c.send("POST", "/api/ingredients", pantry.Ingredient{Name: "Quince cordial", Labels: law.Each[string]{},
		Allergens: law.Each[[]string]{}, Flags: []string{}, Offers: []pantry.PriceOffer{}}).ok()
	r := said(c, "1 cup quince cordial\n300 g carrots")
	assert.Equal(t, reader.FromAssumed, lineOf(t, r, "quince_cordial").Source)
	view := into[catalog.SheetView](c.send("POST", fmt.Sprintf("/api/recipes/%d/draft", r.ID),
		map[string]any{"name": "Q"}).ok())
	c.send("POST", "/api/formulas/q/versions/1/lock?rev=1", nil).refused(422, "lines[0].grams")
	view.Version.Lines[0].Grams = amount.G(250)
	c.send("PUT", "/api/formulas/q/versions/1?rev=1", view.Version).ok()
	c.lock("/api/formulas/q/versions/1", 2).ok()
}

func TestRecipesKeepWordsThroughMistakesAndClashes(t *testing.T) {
	t.Parallel()
	c := setUp(t)
	r := said(c, "2 tbsp tahini")
	r.Words = "3 tbsp tahini"
	keep(c, r).ok()
	r.Words = "4 tbsp tahini"
	reply := keep(c, r)
	assert.Equal(t, 409, reply.status)
	assert.Contains(t, string(reply.body), "3 tbsp tahini", "the other side comes along")
	c.send("POST", "/api/recipes", map[string]any{"words": strings.Repeat("x", 26_000)}).refused(422, "words")
	c.send("POST", "/api/recipes", map[string]any{"words": "a\u0000b"}).refused(422, "words")
	long := said(c, strings.Repeat("1 cup buttermilk\n", 1300))
	assert.Equal(t, "too_long", long.Reading.Notices[0].Code)
	bad := -1.0
	r = get[catalog.RecipeView](c, fmt.Sprintf("/api/recipes/%d", r.ID))
	r.Answers = map[string]reader.Answer{"k": {Grams: &bad}}
	keep(c, r).refused(422, "answers.k")
	c.send("DELETE", fmt.Sprintf("/api/recipes/%d", r.ID)+why, nil).ok()
	c.send("GET", fmt.Sprintf("/api/recipes/%d", r.ID), nil).refused(404, "")
	assert.Len(t, get[catalog.RecipePage](c, "/api/recipes").Recipes, 1)
	empty := said(c, "")
	c.send("POST", fmt.Sprintf("/api/recipes/%d/draft", empty.ID), map[string]any{"name": "E"}).refused(422, "words")
	for _, file := range []string{"no json", `{"@type":"Person"}`, `{"@type":"Recipe","name":"x"}`, `[]`} {
		c.raw("POST", "/api/recipe-files", "application/json", []byte(file)).refused(422, "")
	}
}

func TestPreparationsRefineCompareAndCost(t *testing.T) {
	t.Parallel()
	c := setUp(t)
	lemon := get[catalog.PreparationView](c, "/api/preparations/lime_whole.zest_then_juice")
	assert.Equal(t, 0, lemon.Rev, "typical, untouched")
	assert.Nil(t, lemon.OutPerKg, "limes have no price")

	limes := get[catalog.IngredientView](c, "/api/ingredients/lime_whole")
	limes.Ingredient.Offers = []pantry.PriceOffer{{Supplier: "Quay Fruit", PackAmount: amount.MustQuantity("1000"),
		PackUnit: "g", Price: amount.MustMoney("4.10"), Date: day.Of(noon())}}
	c.send("PUT", "/api/ingredients/lime_whole?rev=1", limes.Ingredient).ok()
	lemon = get[catalog.PreparationView](c, "/api/preparations/lime_whole.zest_then_juice")
	assert.InDelta(t, 10, lemon.OutPerKg.Float(), 0.001, "4.10 / 41 %%")
	juice := get[catalog.IngredientView](c, "/api/ingredients/lime_juice")
	require.NotNil(t, juice.Cost, "cost follows the input")
	assert.Contains(t, juice.Arithmetic, "through juice")

	path := "/api/preparations/lime_whole.zest_then_juice"
	trial := pantry.YieldTrial{Day: "2026-11-01", In: 1000, Out: 350, Co: 40}
	got := into[catalog.PreparationView](c.send("POST", path+"/yields?rev=0", trial).ok())
	assert.InDelta(t, (35.0+41)/2, got.Expected.Percent, 1e-9)
	assert.Equal(t, 1, got.Rev)
	assert.Equal(t, 409, c.send("POST", path+"/yields?rev=0", trial).status, "somebody recorded meanwhile")
	c.send("POST", path+"/yields?rev=1", pantry.YieldTrial{In: 0, Out: 3}).refused(422, "in_g")
	c.send("DELETE", path+"/yields/7?rev=1", nil).refused(422, "index")
	back := into[catalog.PreparationView](c.send("DELETE", path+"/yields/0?rev=1", nil).ok())
	assert.InDelta(t, 41, back.Expected.Percent, 1e-9)

	own := pantry.Preparation{Name: "smoke", Input: "beetroot_raw", Output: "beetroot_cooked", YieldPercent: 60,
		SpreadPercent: 5, MinutesPerKg: 20, WaitMinutes: 90}
	made := into[catalog.PreparationView](c.send("POST", "/api/preparations", own).ok())
	assert.Equal(t, "beetroot_raw_smoke", made.ID)
	own.YieldPercent = 0
	c.send("POST", "/api/preparations", own).refused(422, "yield_percent")
	own.YieldPercent, own.Output = 50, "nothing"
	c.send("POST", "/api/preparations", own).refused(422, "output")

	routes := map[string]any{"routes": []catalog.Route{{Preparation: "lentils_dry.soak_and_cook"},
		{Ingredient: "lentils_cooked"}}, "out_g": 1000}
	sides := into[[]catalog.RouteView](c.send("POST", "/api/routes", routes).ok())
	require.Len(t, sides, 2)
	assert.InDelta(t, 100000.0/245, sides[0].BuyGrams, 1e-9)
	assert.InDelta(t, 1000, sides[1].BuyGrams, 1e-9)
	assert.Positive(t, sides[0].Labour.Float(), "labour is on the bill")
	assert.Equal(t, 60.0, sides[0].WaitMinutes)
	both := into[[]catalog.RouteView](c.send("POST", "/api/routes",
		map[string]any{"routes": []catalog.Route{{Preparation: "lime_whole.zest_then_juice"}}, "out_g": 41,
			"co_out_g": 9}).ok())
	assert.InDelta(t, 200, both[0].BuyGrams, 1e-9, "the greater of 100 g and 200 g")
	assert.InDelta(t, 41, both[0].OutSurplus, 1e-9)
	c.send("POST", "/api/routes", map[string]any{"routes": []catalog.Route{{Preparation: "nothing"}},
		"out_g": 1}).refused(422, "routes[0]")
	c.send("POST", "/api/routes", map[string]any{"routes": []catalog.Route{{Ingredient: "kale"}},
		"out_g": 0}).refused(422,
		"out_g")

	dry := get[pantry.Ingredient](c, "/api/preparations/beetroot_raw.roast_and_peel/less-water")
	raw := get[catalog.IngredientView](c, "/api/ingredients/beetroot_raw")
	assert.InDelta(t, raw.Composition.Sugars/0.75, dry.Composition.Sugars, 1e-6)
}

// product makes a formula with a locked first version.
func product(t *testing.T, c *client, name string, lines ...any) catalog.SheetView {
	t.Helper()
	view := into[catalog.SheetView](c.send("POST", "/api/formulas", map[string]any{"name": name}).ok())
	for i := 0; i < len(lines); i += 2 {
		view.Version.Lines = append(view.Version.Lines,
			formula.Line{ID: string(rune('a' + i/2)), Ingredient: lines[i].(string),
				Grams: amount.G(lines[i+1].(float64))})
	}
	path := fmt.Sprintf("/api/formulas/%s/versions/1", view.Formula)
	view = into[catalog.SheetView](c.send("PUT", fmt.Sprintf("%s?rev=%d", path, view.Rev), view.Version).ok())
	return into[catalog.SheetView](c.lock(path, view.Rev).ok())
}

func TestTrialsBecomeAStandard(t *testing.T) {
	t.Parallel()
	c := setUp(t)
	v := product(t, c, "Beet", "beetroot_cooked", 600.0, "sunflower_oil", 150.0, "vinegar_cider", 90.0, "salt_sea_fine",
		9.0)
	path := "/api/formulas/" + v.Formula
	trial := func(vinegar, oil float64, more ...formula.TrialLine) formula.Trial {
		return formula.Trial{Version: 1, MadeOn: "2026-11-02", Score: 7,
			Lines: append([]formula.TrialLine{{Ingredient: "beetroot_cooked", Grams: amount.G(600)},
				{Ingredient: "sunflower_oil", Grams: amount.G(oil)},
				{Ingredient: "vinegar_cider", Grams: amount.G(vinegar), Added: amount.G(10), Reason: "too flat"},
				{Ingredient: "salt_sea_fine", Grams: amount.G(9)}}, more...)}
	}
	for _, x := range []formula.Trial{trial(60, 150), trial(120, 160),
		trial(100, 140, formula.TrialLine{Ingredient: "dill", Grams: amount.G(6)})} {
		c.send("POST", path+"/trials", x).ok()
	}
	all := get[catalog.TrialsView](c, path+"/trials")
	require.Len(t, all.Trials, 3)
	assert.Equal(t, "too flat", all.Trials[0].Lines[2].Reason)
	assert.Equal(t, "Cider vinegar 5%", all.Names["vinegar_cider"])

	choice := catalog.Choice{Trials: []int64{all.Trials[0].ID, all.Trials[1].ID, all.Trials[2].ID},
		Reference: amount.G(1000), Division: amount.G(1)}
	s := into[catalog.StandardView](c.send("POST", path+"/standard", choice).ok())
	require.Len(t, s.Lines, 5)
	assert.Equal(t, "Dill, raw", s.Lines[4].Name)
	assert.Equal(t, 2, s.Lines[4].AbsentIn)
	assert.True(t, s.Lines[2].Varies)
	assert.Contains(t, s.Lines[2].Wander.Care, "pH")
	assert.Positive(t, *s.Lines[2].Wander.PH)

	draft := into[catalog.SheetView](c.send("POST", path+"/standard/draft", choice).ok())
	assert.Equal(t, 2, draft.Version.Number)
	assert.Equal(t, "1000", draft.Version.GramsIn().String())
	assert.Positive(t, draft.Version.Lines[2].TolerancePercent, "what varies gets a tolerance")
	assert.Zero(t, draft.Version.Lines[0].TolerancePercent, "what does not keeps the default")
	again := into[catalog.SheetView](c.send("POST", path+"/standard/draft", choice).ok())
	assert.Equal(t, 2, again.Version.Number, "into the draft that is there")

	choice.Trials = choice.Trials[:1]
	c.send("POST", path+"/standard", choice).refused(422, "trials")
	bad := trial(60, 150)
	bad.Lines[0].Ingredient = "nothing"
	c.send("POST", path+"/trials", bad).refused(422, "lines[0]")
	bad = trial(60, 150)
	bad.MadeOn = "2200-01-01"
	c.send("POST", path+"/trials", bad).refused(422, "made_on")
	first := all.Trials[0]
	first.Note = "the first"
	c.send("POST", path+"/trials?rev=1", first.Trial).ok()
	assert.Equal(t, 409, c.send("POST", path+"/trials?rev=1", first.Trial).status)
	left := into[catalog.TrialsView](c.send("DELETE", fmt.Sprintf("%s/trials/%d", path, first.ID)+why, nil).ok())
	assert.Len(t, left.Trials, 2)
	c.send("DELETE", fmt.Sprintf("%s/trials/%d", path, first.ID)+why, nil).refused(404, "")
}

func TestABundleChecksItsKitchen(t *testing.T) {
	t.Parallel()
	c := setUp(t)
	var b map[string]any
	require.NoError(t, json.Unmarshal(c.send("GET", "/api/bundle", nil).ok().body, &b))
	b["shop"].(map[string]any)["name"] = "S"
	for at, part := range map[string][2]any{
		"measures[0].weighings": {"measures",
			[]any{map[string]any{"ingredient": "kale", "measure": "leaf", "weighings": []float64{1}}}},
		"measures[0].ingredient": {"measures",
			[]any{map[string]any{"ingredient": "nothing", "measure": "leaf", "weighings": []float64{1, 2, 3}}}},
		"preparations[0].yield_percent": {"preparations",
			[]any{map[string]any{"id": "a", "name": "a", "input": "kale", "output": "carrot", "yield_percent": 0,
				"spread_percent": 0, "labour_min_per_kg": 0, "wait_min": 0}}},
		"trials[0].formula": {"trials",
			[]any{map[string]any{"formula": "x", "made_on": "2026-11-01",
				"lines": []any{map[string]any{"ingredient": "kale", "grams": 1, "added_g": 0}}}}},
		"recipes[0].made": {"recipes",
			[]any{map[string]any{"name": "r", "words": "w", "made": map[string]any{"formula": "x", "version": 1}}}},
	} {
		bad := map[string]any{}
		for k, v := range b {
			bad[k] = v
		}
		bad[part[0].(string)] = part[1]
		c.send("POST", "/api/bundle?apply=true", bad).refused(422, at)
	}
}

func TestABatchOfAGroupSaysWhatWasUsed(t *testing.T) {
	t.Parallel()
	c := setUp(t)
	c.send("PUT", "/api/shop?rev=0", shop.Settings{Name: "S", Currency: "GBP", Locale: "en-GB", Regime: "GB",
		PriceRule: "newest", StaleDays: 90, OpenedDays: 7, ScaleDivision: amount.G(1),
		TighterDays: map[string]int{}}).ok()
	v := into[catalog.SheetView](c.send("POST", "/api/formulas", map[string]any{"name": "Green"}).ok())
	v.Version.Lines = []formula.Line{{ID: "a", Ingredient: "sunflower_oil", Grams: amount.G(200)},
		{ID: "b", Ingredient: "vinegar_cider", Grams: amount.G(200)},
		{ID: "c", Ingredient: "walnut", AnyOf: []string{"walnut", "sunflower_seed"}, Grams: amount.G(60)}}
	v = into[catalog.SheetView](c.send("PUT", "/api/formulas/green/versions/1?rev=1", v.Version).ok())
	require.Len(t, v.Panel.Resolutions, 2)
	assert.Contains(t, v.Panel.Allergens[law.GB], "nut:walnut")
	bad := v.Version
	bad.Lines = append([]formula.Line{}, v.Version.Lines...)
	bad.Lines[2].AnyOf = []string{"walnut", "nothing"}
	c.send("PUT", fmt.Sprintf("/api/formulas/green/versions/1?rev=%d", v.Rev), bad).refused(422, "lines[2]")
	c.lock("/api/formulas/green/versions/1", v.Rev).ok()
	batch := into[production.BatchView](c.send("POST", "/api/batches",
		map[string]any{"formula": "green", "version": 1, "jars": 3, "made_on": noon().Format(time.DateOnly)}).ok())
	entry := func(key string, w bench.Weighing) reply {
		return c.send("POST", fmt.Sprintf("/api/batches/%d/entries?key=%s", batch.ID, key),
			map[string]any{"kind": "weighing", "weighing": w})
	}
	target := func(i int) amount.Grams { return batch.Record.Lines[i].Grams }
	entry("1", bench.Weighing{Line: "c", Grams: target(2), Lot: "x"}).refused(422, "weighing.used")
	entry("2", bench.Weighing{Line: "c", Grams: target(2),
		Used: []formula.Use{{Ingredient: "kale", Grams: target(2)}}}).refused(422, "weighing.used[0].ingredient")
	entry("3", bench.Weighing{Line: "c", Grams: target(2),
		Used: []formula.Use{{Ingredient: "walnut", Grams: amount.G(1)}}}).refused(422, "weighing.used")
	entry("4", bench.Weighing{Line: "a", Grams: target(0),
		Used: []formula.Use{{Ingredient: "walnut", Grams: target(0)}}}).refused(422, "weighing.used")
	entry("5", bench.Weighing{Line: "a", Grams: target(0)}).ok()
	entry("6", bench.Weighing{Line: "b", Grams: target(1)}).ok()
	seeds := c.deliver("sunflower_seed", nil)
	got := into[production.BatchView](entry("7",
		bench.Weighing{Line: "c", Grams: target(2), Draws: []bench.Draw{{Code: seeds.Code, Grams: target(2)}}}).ok())
	assert.Equal(t, "sunflower_seed", got.Record.Lines[2].Used[0].Ingredient)

	label := into[release.LabelView](c.send("POST", "/api/labels",
		map[string]any{"formula": "green", "regime": "GB", "width_mm": 90, "height_mm": 60}).ok())
	assert.Contains(t, art(label), "walnuts")
	set := get[release.LabelView](c, fmt.Sprintf("/api/labels/%d?batch=%d", label.ID, batch.ID))
	assert.Equal(t, kernel.LabelCurrent, set.State, "another resolution is no change of the label")
	assert.NotContains(t, art(set), "walnuts", "the batch has sunflower seeds in it")
}

func TestThePreferredStepGoesBeforeAPrice(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	own := get[catalog.IngredientView](c, "/api/ingredients/beetroot_cooked")
	require.NotNil(t, own.Cost)
	assert.Contains(t, own.Arithmetic, "7.25 / 5000 g", "its own price")
	step := get[catalog.PreparationView](c, "/api/preparations/beetroot_raw.roast_and_peel")
	step.Preferred = true
	step.Extras = []pantry.ExtraInput{{Ingredient: "rapeseed_oil", PerHundred: 4, UptakePercent: 50}}
	step = into[catalog.PreparationView](c.send("PUT", fmt.Sprintf("/api/preparations/%s?rev=%d", step.ID, step.Rev),
		step.Preparation).ok())
	made := get[catalog.IngredientView](c, "/api/ingredients/beetroot_cooked")
	assert.InDelta(t, step.OutPerKg.Float(), made.Cost.PerGram.Float()*1000, 1e-6)
	assert.Contains(t, made.Arithmetic, "through roast and peel")
	sides := into[[]catalog.RouteView](c.send("POST", "/api/routes",
		map[string]any{"routes": []catalog.Route{{Preparation: step.ID}}, "out_g": 1000}).ok())
	assert.InDelta(t, step.OutPerKg.Float(), sides[0].Material.Float(), 0.001, "the oil that stays is on the bill")

	other := pantry.Preparation{Name: "steam", Input: "beetroot_raw", Output: "beetroot_cooked", YieldPercent: 90,
		SpreadPercent: 5, Preferred: true}
	c.send("POST", "/api/preparations", other).ok()
	assert.False(t, get[catalog.PreparationView](c, "/api/preparations/"+step.ID).Preferred, "one way is the shop's")
	list := get[[]catalog.PreparationView](c, "/api/preparations")
	assert.Len(t, list, 78)
}

func TestTheShopsSpoonsReadItsRecipes(t *testing.T) {
	t.Parallel()
	c := newClient(t, noon())
	shop := shop.Settings{Name: "S", Currency: "GBP", Locale: "en-GB", Regime: "GB", PriceRule: "newest",
		StaleDays:  90,
		OpenedDays: 7, ScaleDivision: amount.G(1), TighterDays: map[string]int{}, Tablespoon: "AU", Cup: "metric"}
	c.send("PUT", "/api/shop?rev=0", shop).ok()
	r := said(c, "1 cup coconut cream\n2 tbsp coconut cream")
	density := get[catalog.IngredientView](c, "/api/ingredients/coconut_cream").DensityGPerML
	assert.InDelta(t, 250*density, *r.Reading.Lines[0].Grams, 1e-6)
	assert.InDelta(t, 40*density, *r.Reading.Lines[1].Grams, 1e-6)
	shop.Cup = "bucket"
	c.send("PUT", "/api/shop?rev=1", shop).refused(422, "cup")
}

func TestWhatGoesOnTopComesAlongFromTheRecipe(t *testing.T) {
	t.Parallel()
	c := newClient(t, noon())
	r := said(c, "900 g cooked beetroot\n100 ml cider vinegar\n\nTo serve:\n50 g walnuts\na drizzle of walnut oil")
	for _, l := range r.Reading.Lines {
		if l.Serving {
			r.Answers[l.Key] = reader.Answer{As: reader.AsTopping}
		}
	}
	keep(c, r).ok()
	v := into[catalog.SheetView](c.send("POST", fmt.Sprintf("/api/recipes/%d/draft", r.ID),
		map[string]any{"name": "Topped"}).ok())
	require.Len(t, v.Version.Toppings, 2)
	assert.Equal(t, "10", v.Version.Toppings[0].Grams.String(), "50 g over five jars")
	assert.Contains(t, v.Panel.Allergens[law.GB], "nut:walnut")
	c.send("POST", "/api/formulas/topped/versions/1/lock?rev=1", nil).refused(422, "toppings[1].grams_per_jar")
	v.Version.Toppings[1].Ingredient = "nothing"
	c.send("PUT", "/api/formulas/topped/versions/1?rev=1", v.Version).refused(422, "toppings")
	v.Version.Toppings[1].Ingredient, v.Version.Toppings[1].Grams = "walnut_oil", amount.G(4)
	v = into[catalog.SheetView](c.send("PUT", "/api/formulas/topped/versions/1?rev=1", v.Version).ok())
	c.lock("/api/formulas/topped/versions/1", v.Rev).ok()
	batch := into[production.BatchView](c.send("POST", "/api/batches",
		map[string]any{"formula": "topped", "version": 1, "jars": 5, "made_on": noon().Format(time.DateOnly)}).ok())
	require.Len(t, batch.Record.Lines, 4)
	assert.Equal(t, "50", batch.Record.Lines[2].Grams.String())
	label := into[release.LabelView](c.send("POST", "/api/labels",
		map[string]any{"formula": "topped", "regime": "GB", "width_mm": 90, "height_mm": 60}).ok())
	assert.Contains(t, art(label), "204", "190 g and 14 g on top")
}
