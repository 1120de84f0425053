package api

import (
	"fmt"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/shop"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestVariantsFollowTheirParent(t *testing.T) {
	t.Parallel()
	c := setUp(t)
	v := product(t, c, "Beet", "beetroot_cooked", 600.0, "sunflower_oil", 150.0, "vinegar_cider", 90.0)
	path := "/api/formulas/" + v.Formula
	thick := into[catalog.SheetView](c.send("POST", path+"/variants",
		map[string]any{"version": 1, "name": "Beet, with yogurt"}).ok())
	assert.Equal(t, formula.Ref{Formula: v.Formula, Version: 1}, *thick.Parent)
	c.send("POST", path+"/variants", map[string]any{"version": 9, "name": "x"}).refused(404, "")
	c.send("POST", "/api/formulas/"+thick.Formula+"/variants", map[string]any{"version": 1, "name": "x"}).refused(422,
		"parent")

	thick.Version.Lines[1].Ingredient, thick.Version.Lines[1].Grams = "yogurt_whole", amount.G(200)
	c.send("PUT", fmt.Sprintf("/api/formulas/%s/versions/1?rev=1", thick.Formula), thick.Version).ok()
	family := get[catalog.Family](c, path+"/family")
	require.Len(t, family.Variants, 1)
	assert.Equal(t, "Sunflower oil (linoleic)", family.Variants[0].Lines[0].Swapped)
	assert.Zero(t, family.Variants[0].Newer)
	c.send("POST", "/api/formulas/"+thick.Formula+"/rebase", map[string]any{"apply": false}).refused(422, "")
	c.send("POST", path+"/rebase", map[string]any{"apply": false}).refused(422, "formula")

	next := into[catalog.SheetView](c.send("POST", path+"/versions", map[string]any{"from": 1}).ok())
	next.Version.Lines[0].Grams, next.Version.Lines[1].Grams = amount.G(650), amount.G(140)
	next = into[catalog.SheetView](c.send("PUT", path+"/versions/2?rev=1", next.Version).ok())
	c.lock(path+"/versions/2", next.Rev).ok()
	assert.Equal(t, 2, get[catalog.Family](c, "/api/formulas/"+thick.Formula+"/family").Variants[0].Newer,
		"offered once the parent moved")

	shown := into[catalog.RebaseView](c.send("POST", "/api/formulas/"+thick.Formula+"/rebase",
		map[string]any{"apply": false}).ok())
	assert.Nil(t, shown.Sheet)
	require.Len(t, shown.Conflicts, 1, "both changed the oil's line")
	done := into[catalog.RebaseView](c.send("POST", "/api/formulas/"+thick.Formula+"/rebase",
		map[string]any{"apply": true}).ok())
	assert.Equal(t, "650", done.Sheet.Version.Lines[0].Grams.String())
	assert.Equal(t, "yogurt_whole", done.Sheet.Version.Lines[1].Ingredient)
	assert.Equal(t, 2, done.Sheet.Parent.Version)

	sides := into[catalog.SideView](c.send("POST", "/api/side-by-side",
		map[string]any{"versions": []formula.Ref{{Formula: v.Formula, Version: 2},
			{Formula: thick.Formula, Version: 1}}}).ok())
	require.Len(t, sides.Columns, 2)
	assert.True(t, sides.Rows[1].Differs)
	assert.Contains(t, sides.Columns[1].Allergens, "milk")
	c.send("POST", "/api/side-by-side", map[string]any{"versions": []formula.Ref{}}).refused(422, "versions")
	c.send("POST", "/api/side-by-side", map[string]any{"versions": []formula.Ref{{Formula: "x",
		Version: 1}}}).refused(422, "versions[0]")

	// Everything of the kitchen goes out and comes in with the bundle.
	c.send("POST", path+"/trials", formula.Trial{Version: 1, MadeOn: "2026-11-02",
		Lines: []formula.TrialLine{{Ingredient: "kale", Grams: amount.G(3)}}}).ok()
	c.send("PUT", "/api/ingredients/tahini/measures/tbsp",
		map[string]any{"weighings": []float64{18, 17, 19}, "note": "the bent one"}).ok()
	c.send("POST", "/api/preparations/kale_bunch.destem/yields?rev=0",
		pantry.YieldTrial{Day: "2026-11-01", In: 100, Out: 62}).ok()
	said(c, "2 tbsp tahini")
	c.send("PUT", "/api/shop?rev=0", shop.Settings{Name: "S", Currency: "GBP", Locale: "en-GB", Regime: "GB",
		PriceRule: "newest", StaleDays: 90, OpenedDays: 7, ScaleDivision: amount.G(1),
		TighterDays: map[string]int{}}).ok()
	out := c.send("GET", "/api/bundle", nil).ok().body
	fresh := setUp(t)
	fresh.raw("POST", "/api/bundle?apply=true", "application/json", out).ok()
	assert.Equal(t, string(out), string(fresh.send("GET", "/api/bundle", nil).ok().body))
	plan := into[office.ImportPlan](fresh.raw("POST", "/api/bundle?apply=true", "application/json", out).ok())
	assert.Empty(t, plan.New)
	assert.Empty(t, plan.Different)
}

func TestSwapShowsBeforeItStores(t *testing.T) {
	t.Parallel()
	c := setUp(t)
	v := product(t, c, "Beet", "beetroot_cooked", 600.0, "soy_sauce", 30.0, "vinegar_cider", 90.0, "salt_sea_fine", 6.0)
	swap := func(line, to, keep string) reply {
		return c.send("POST", "/api/swap", map[string]any{"version": v.Version, "line": line, "to": to, "keep": keep})
	}
	got := into[catalog.SwapView](swap("b", "tamari", "salt").ok())
	assert.Contains(t, got.ClaimsGained, "no gluten cereals")
	assert.Contains(t, got.Effect.Lost, "gluten:wheat")
	assert.NotEqual(t, got.GramsBefore.String(), got.GramsAfter.String())
	lost := into[catalog.SwapView](swap("b", "fish_sauce", "grams").ok())
	assert.Contains(t, lost.ClaimsLost, "vegan")
	assert.Contains(t, lost.Effect.Gained, "fish")
	acid := into[catalog.SwapView](swap("c", "lime_juice", "acid").ok())
	assert.Less(t, acid.GramsAfter.Float(), 90.0, "lime juice is sourer than vinegar")
	salt := into[catalog.SwapView](swap("d", "salt_flake", "grams").ok())
	assert.Contains(t, salt.Spoons, "teaspoons")
	assert.Equal(t, "6", salt.GramsAfter.String(), "grams of salt stay")
	swap("c", "carrot", "acid").ok()
	swap("a", "sunflower_oil", "acid").refused(422, "keep")
	swap("b", "nothing", "grams").refused(422, "to")
	assert.Equal(t, "soy_sauce", get[catalog.SheetView](c, "/api/formulas/beet/versions/1").Version.Lines[1].Ingredient,
		"nothing was stored")
}

func TestScalesLessChangesPercentsAndHasItsRefusals(t *testing.T) {
	t.Parallel()
	c := setUp(t)
	v := product(t, c, "Hot", "beetroot_cooked", 600.0, "vinegar_cider", 150.0, "garlic_raw", 60.0)
	draft := into[catalog.SheetView](c.send("POST", "/api/formulas/hot/versions", map[string]any{"from": 1}).ok())
	draft.Version.Lines[1].ScaleExponent = 0.8
	c.send("PUT", "/api/formulas/hot/versions/2?rev=1", draft.Version).refused(422, "lines[1].scale_exponent")
	draft.Version.Lines[1].ScaleExponent, draft.Version.Lines[2].ScaleExponent = 0, 0.8
	draft.Version.PHTarget = 4.5
	draft = into[catalog.SheetView](c.send("PUT", "/api/formulas/hot/versions/2?rev=1", draft.Version).ok())
	big := get[production.SizeView](c, "/api/formulas/hot/versions/2/at-size?jars=400")
	assert.True(t, big.Less)
	assert.Less(t, big.Panel.Lines[2].Percent.Float(), v.Panel.Lines[2].Percent.Float())
	c.send("GET", "/api/formulas/hot/versions/2/at-size?jars=0", nil).refused(422, "jars")
	c.lock("/api/formulas/hot/versions/2", draft.Rev).ok()
	batch := into[production.BatchView](c.send("POST", "/api/batches",
		map[string]any{"formula": "hot", "version": 2, "jars": 40, "made_on": noon().Format(time.DateOnly)}).ok())
	share := batch.Record.Lines[2].Grams.Float() / batch.Record.Lines[0].Grams.Float()
	assert.Less(t, share, 0.1, "the batch is weighed at its size")

	// Where what scales less is what keeps the band down, a large batch is refused.
	sour := product(t, c, "Sour", "beetroot_cooked", 600.0, "vinegar_cider", 30.0, "raspberry", 500.0)
	next := into[catalog.SheetView](c.send("POST", "/api/formulas/sour/versions", map[string]any{"from": 1}).ok())
	next.Version.Lines[2].ScaleExponent = 0.5
	next.Version.PHTarget = *sour.Panel.PH.High
	next = into[catalog.SheetView](c.send("PUT", "/api/formulas/sour/versions/2?rev=1", next.Version).ok())
	c.lock("/api/formulas/sour/versions/2", next.Rev).ok()
	plan := func(jars int) reply {
		return c.send("POST", "/api/batches",
			map[string]any{"formula": "sour", "version": 2, "jars": jars, "made_on": noon().Format(time.DateOnly)})
	}
	plan(5).ok()
	plan(500).refused(422, "jars")
}

func TestALockedVariantIsCarriedOverIntoItsNextDraft(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	sheet := get[catalog.SheetView](c, "/api/formulas/carrot_miso_thicker/versions/1")
	c.lock("/api/formulas/carrot_miso_thicker/versions/1", sheet.Rev).ok()
	done := into[catalog.RebaseView](c.send("POST", "/api/formulas/carrot_miso_thicker/rebase",
		map[string]any{"apply": true}).ok())
	assert.Equal(t, 2, done.Sheet.Version.Number)
	assert.Equal(t, 1, done.Sheet.Version.From)
	assert.Equal(t, formula.Draft, done.Sheet.Version.State)
	ginger := done.Sheet.Version.Lines[3]
	assert.Equal(t, "ginger_paste", ginger.Component.Formula)
	trial := formula.Trial{Version: 1, MadeOn: "2026-11-02",
		Lines: []formula.TrialLine{{Component: ginger.Component, Grams: amount.G(24)},
			{Ingredient: "carrot", Grams: amount.G(400)}}}
	for range 2 {
		c.send("POST", "/api/formulas/carrot_miso_thicker/trials", trial).ok()
	}
	trials := get[catalog.TrialsView](c, "/api/formulas/carrot_miso_thicker/trials")
	assert.Equal(t, "Ginger paste", trials.Names["formula:ginger_paste"])
	s := into[catalog.StandardView](c.send("POST", "/api/formulas/carrot_miso_thicker/standard",
		catalog.Choice{Trials: []int64{trials.Trials[0].ID, trials.Trials[1].ID}, Reference: amount.G(1000),
			Division: amount.G(1)}).ok())
	assert.Equal(t, "Ginger paste", s.Lines[0].Name, "a component is a line like any other")
}
