package api

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/app/release"
	"gallipot/internal/core/law"
	"gallipot/internal/demo"
	"gallipot/internal/testdb"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEveryListOfTheDemoKeepsTheContract(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	for _, path := range []string{"/api/shop", "/api/people", "/api/today", "/api/ingredients", "/api/formulas",
		"/api/batches", "/api/meter-checks", "/api/rules", "/api/evidence", "/api/labels", "/api/bundle",
		"/api/stock", "/api/jars", "/api/parties"} {
		assert.Equal(t, 200, c.send("GET", path, nil).status, path)
	}
	for _, g := range get[[]catalog.IngredientRow](c, "/api/ingredients")[:5] {
		assert.Equal(t, g.Name, get[catalog.IngredientView](c, "/api/ingredients/"+g.ID).Name)
	}
	for _, f := range get[[]catalog.FormulaRow](c, "/api/formulas") {
		assert.NotEmpty(t, get[catalog.SheetView](c, fmt.Sprintf("/api/formulas/%s/versions/0", f.ID)).Versions)
	}
	for _, b := range get[production.BatchPage](c, "/api/batches").Batches {
		if v := get[production.BatchView](c, fmt.Sprintf("/api/batches/%d", b.ID)); v.RestedEntry > 0 {
			get[production.Rested](c, fmt.Sprintf("/api/batches/%d/rested/%d", b.ID, v.RestedEntry))
		}
		get[production.BatchCost](c, fmt.Sprintf("/api/batches/%d/cost", b.ID))
		get[[]production.LineLots](c, fmt.Sprintf("/api/batches/%d/lots", b.ID))
	}
	for _, show := range []string{"there", "ends", "hold", "waiting", "barred"} {
		for _, l := range get[production.LotPage](c, "/api/lots?show="+show).Lots {
			get[production.LotView](c, fmt.Sprintf("/api/lots/%d", l.ID))
			assert.Contains(t, pdfText(t, c.send("GET", fmt.Sprintf("/api/lots/%d/sticker?count=2", l.ID),
				nil).ok().body),
				l.Code)
		}
	}
	for _, l := range get[[]kernel.LabelRow](c, "/api/labels") {
		get[release.LabelView](c, fmt.Sprintf("/api/labels/%d", l.ID))
	}
	get[catalog.ComparisonView](c, "/api/formulas/carrot_miso_dressing/compare?before=1&after=3")
}

func TestTheDemoHasSomethingTrueForEveryScreen(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	states := map[string]int{}
	for _, b := range get[production.BatchPage](c, "/api/batches").Batches {
		states[b.State]++
	}
	assert.Equal(t, 1, states["rejected"])
	assert.Equal(t, 3, states["hold"])
	assert.GreaterOrEqual(t, states["released"], 10)
	kinds := map[string]int{}
	text := ""
	for _, task := range get[kernel.TodayView](c, "/api/today").Tasks {
		kinds[task.Kind]++
		text += task.Title + " " + task.Text + "\n"
	}
	for _, k := range []string{"batch", "date", "label", "price", "lot_waits", "lot_ends", "short", "gained",
		"open", "call_back"} {
		assert.Positive(t, kinds[k], k)
	}
	assert.Contains(t, text, "equilibrium reading")
	assert.Contains(t, text, "No price for Pumpkin")
	require.NoError(t, demo.Load(context.Background(), c.app), "loading again changes nothing")
	assert.Len(t, get[production.BatchPage](c, "/api/batches").Batches, 23)
}

// TestTheDemoLoadsAtAnyHour loads the shop just after midnight, and on a machine whose day has begun before the shop's.
func TestTheDemoLoadsAtAnyHour(t *testing.T) {
	t.Parallel()
	for _, now := range []time.Time{time.Date(2026, 11, 29, 0, 5, 0, 0, time.UTC),
		time.Date(2026, 11, 29, 7, 40, 0, 0, time.FixedZone("east", 9*60*60))} {
		s := testdb.New(t)
		require.NoError(t, fillDemo(s, kitchen(t), func() time.Time { return now }), "at %s", now)
		c := serve(t, s, now)
		assert.Len(t, get[production.BatchPage](c, "/api/batches").Batches, 23, "at %s", now)
	}
}

func TestUnknownAddresses(t *testing.T) {
	t.Parallel()
	c := newClient(t, noon())
	c.send("GET", "/api/nothing", nil).refused(404, "")
	c.send("GET", "/api/ingredients/nothing", nil).refused(404, "")
	c.send("GET", "/api/batches/999", nil).refused(404, "")
	c.send("GET", "/api/batches/abc", nil).refused(422, "id")
	c.send("GET", "/api/formulas/x/versions/1", nil).refused(404, "")
	assert.Equal(t, 405, c.send("DELETE", "/api/shop", nil).status)
	assert.Equal(t, 422, c.raw("GET", "/api/ingredients/%00", "", nil).status)
	assert.Contains(t, string(c.send("GET", "/formulas/anything", nil).body), "the app")
	assert.Equal(t, 404, c.send("GET", "/assets/gone.js", nil).status)
	assert.Equal(t, 200, c.send("GET", "/assets/a.js", nil).status)
	assert.Equal(t, 404, c.send("GET", "/gone.svg", nil).status)
	r, err := http.NewRequest("GET", c.base+"/preparations/lime_whole.juice", nil)
	require.NoError(t, err)
	r.Header.Set("Accept", "text/html,*/*")
	res, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	assert.Equal(t, 200, res.StatusCode, "an id with a full stop is an address of the app")
	require.NoError(t, res.Body.Close())
	assert.Equal(t, 200, c.raw("HEAD", "/api/shop", "", nil).status)
}

func TestBadBodiesAreSaidAtTheirPlace(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	sheet := get[catalog.SheetView](c, "/api/formulas/carrot_miso_dressing/versions/4")
	path := fmt.Sprintf("/api/formulas/carrot_miso_dressing/versions/4?rev=%d", sheet.Rev)
	raw, err := json.Marshal(sheet.Version)
	require.NoError(t, err)
	version := string(raw)

	c.raw("PUT", path, "application/json", []byte("{")).refused(422, "body")
	c.raw("PUT", path, "application/json",
		[]byte(strings.Replace(version, `"grams":300`, `"grams":-5`, 1))).refused(422, "lines[0].grams")
	c.raw("PUT", path, "application/json",
		[]byte(strings.Replace(version, `"grams":300`, `"grams":"abc"`, 1))).refused(422, "lines[0].grams")
	c.raw("PUT", path, "application/json",
		[]byte(strings.Replace(version, `"ingredient":"carrot"`, `"ingredient":"moon_dust"`, 1))).refused(422,
		"lines[0]")
	c.raw("PUT", path, "application/json",
		[]byte(strings.Replace(version, `"ingredient":"carrot"`,
			`"component":{"formula":"pumpkin_maple_spread","version":1}`, 1))).refused(422, "lines[0]")
	c.raw("PUT", path, "application/json",
		[]byte(strings.Replace(version, `"lines":`, `"surprise":1,"lines":`, 1))).refused(422, "body")
	c.raw("PUT", path, "application/json",
		[]byte(strings.Replace(version, `"note":"half`, `"note":"\u0000half`, 1))).refused(422, "lines[5].note")
	after := get[catalog.SheetView](c, "/api/formulas/carrot_miso_dressing/versions/4")
	assert.Equal(t, sheet.Rev, after.Rev, "nothing of all that was stored")

	c.send("POST", "/api/formulas", map[string]string{"name": strings.Repeat("x", 2<<20)}).refused(422, "name")
	c.send("POST", "/api/formulas", map[string]string{"name": "  "}).refused(422, "name")
	c.send("POST", "/api/formulas", map[string]string{"name": "CARROT & MISO dressing"}).refused(422, "name")
	c.raw("POST", "/api/formulas", "application/json", bytes.Repeat([]byte("x"), 34<<20)).refused(413, "")
	c.as("").send("POST", "/api/formulas", map[string]string{"name": "Nobody's dip"}).refused(401, "")
}

func TestAComponentCycleIsRefusedWithItsPath(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	draft := into[catalog.SheetView](c.send("POST", "/api/formulas/ginger_paste/versions",
		map[string]any{"from": 2}).ok())
	v := draft.Version
	raw, err := json.Marshal(v)
	require.NoError(t, err)
	body := strings.Replace(string(raw), `"ingredient":"ginger"`,
		`"component":{"formula":"carrot_miso_dressing","version":3}`, 1)
	title := c.raw("PUT", fmt.Sprintf("/api/formulas/ginger_paste/versions/3?rev=%d", draft.Rev), "application/json",
		[]byte(body)).refused(422, "lines[0]")
	assert.Contains(t, title, "Ginger paste → Carrot & miso dressing → Ginger paste")
}

func TestAnIngredientsMistakesStandAtTheirFields(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	g := get[catalog.IngredientView](c, "/api/ingredients/miso_white")
	put := func(change func(*Ingredient)) reply {
		in := g.Ingredient
		change(&in)
		return c.send("PUT", fmt.Sprintf("/api/ingredients/miso_white?rev=%d", g.Rev), in)
	}
	title := put(func(in *Ingredient) {
		in.SupplierLists = law.Each[string]{law.GB: "soybeans; rice (white; salt"}
	}).refused(422, "supplier_lists.gb")
	assert.Contains(t, title, "never closed")
	put(func(in *Ingredient) { in.Composition.Water = 140 }).refused(422, "composition.water")
	put(func(in *Ingredient) { in.Allergens = law.Each[[]string]{law.US: {"tree_nut"}} }).refused(422, "allergens.us")
	put(func(in *Ingredient) { in.Name = "Lime juice" }).refused(422, "name")
	c.send("POST", "/api/supplier-list", map[string]string{"text": "a (b"}).refused(422, "text")
	assert.Equal(t, g.Rev, get[catalog.IngredientView](c, "/api/ingredients/miso_white").Rev)
}

func TestTwoWritersBothKeepWhatTheyTyped(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	g := get[catalog.IngredientView](c, "/api/ingredients/miso_white")
	in := g.Ingredient
	in.Note = "from the first tab"
	path := fmt.Sprintf("/api/ingredients/miso_white?rev=%d", g.Rev)
	c.send("PUT", path, in).ok()
	in.Note = "from the second tab"
	a := c.send("PUT", path, in)
	a.refused(409, "")
	current := into[struct{ Current catalog.IngredientView }](a).Current
	assert.Equal(t, "from the first tab", current.Note, "the other side is shown")

	sheet := get[catalog.SheetView](c, "/api/formulas/carrot_miso_dressing/versions/4")
	c.lock("/api/formulas/carrot_miso_dressing/versions/4", sheet.Rev).ok()
	a = c.send("PUT", fmt.Sprintf("/api/formulas/carrot_miso_dressing/versions/4?rev=%d", sheet.Rev), sheet.Version)
	a.refused(409, "")
	p := into[Problem](a)
	assert.Equal(t, "locked_meanwhile", p.Code)
	next := into[catalog.SheetView](c.send("POST", "/api/formulas/carrot_miso_dressing/versions",
		map[string]any{"from": 4, "body": sheet.Version}).ok())
	assert.Equal(t, 5, next.Version.Number)
	assert.Equal(t, "draft", next.Version.State)
}

func TestABundleGoesOutAndInWithNothingLost(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	out := c.send("GET", "/api/bundle", nil).ok().body
	plan := into[office.ImportPlan](c.raw("POST", "/api/bundle?apply=true", "application/json", out).ok())
	assert.Empty(t, plan.New)
	assert.Empty(t, plan.Different)
	fresh := newClient(t, noon())
	planned := into[office.ImportPlan](fresh.raw("POST", "/api/bundle", "application/json", out).ok())
	assert.False(t, planned.Applied)
	assert.Empty(t, get[[]catalog.FormulaRow](fresh, "/api/formulas"), "a plan stores nothing")
	assert.True(t, into[office.ImportPlan](fresh.raw("POST", "/api/bundle?apply=true", "application/json",
		out).ok()).Applied)
	assert.Equal(t, string(out), string(fresh.send("GET", "/api/bundle", nil).ok().body))
}

func TestABadBundleStoresNothing(t *testing.T) {
	t.Parallel()
	c := newClient(t, noon())
	b, err := demo.Bundle()
	require.NoError(t, err)
	raw, err := json.Marshal(b)
	require.NoError(t, err)
	good := string(raw)
	post := func(s string) reply { return c.raw("POST", "/api/bundle?apply=true", "application/json", []byte(s)) }
	post("not json").refused(422, "bundle")
	post(strings.Replace(good, `"formulas":`, `"diaries":[],"formulas":`, 1)).refused(422, "bundle")
	post(strings.Replace(good, `"ingredient":"ginger"`, `"ingredient":"nothing"`, 1)).refused(422,
		"formulas[0].versions[0].lines[0]")
	post(strings.Replace(good, `"grams":660`, `"grams":"lots"`, 1)).refused(422,
		"bundle.formulas.0.versions.1.lines.0.grams")
	post(strings.Replace(good, `"grams":660`, `"grams":-1`, 1)).refused(422, "formulas[0].versions[1].lines[0].grams")
	assert.Empty(t, get[[]catalog.FormulaRow](c, "/api/formulas"))
	assert.False(t, get[office.ShopView](c, "/api/shop").SetUp)
}

func TestFirstStart(t *testing.T) {
	t.Parallel()
	c := newClient(t, noon())
	shop := get[office.ShopView](c, "/api/shop")
	assert.False(t, shop.SetUp)
	shop.Settings.Name = ""
	c.send("PUT", "/api/shop?rev=0", shop.Settings).refused(422, "name")
	shop.Settings.Name, shop.Settings.TighterDays = "Tinglaze", map[string]int{"6": 9}
	c.send("PUT", "/api/shop?rev=0", shop.Settings).refused(422, "tighter_days.6")
	shop.Settings.TighterDays = map[string]int{"6": 2}
	assert.True(t, into[office.ShopView](c.send("PUT", "/api/shop?rev=0", shop.Settings).ok()).SetUp)
	c.send("PUT", "/api/shop?rev=0", shop.Settings).refused(409, "")
	assert.Len(t, get[[]catalog.IngredientRow](c, "/api/ingredients"), 251)
}

// art is what a label's pieces say, as they are drawn.
func art(v release.LabelView) string {
	var out strings.Builder
	for _, p := range v.Pieces {
		out.WriteString(p.SVG)
	}
	return out.String()
}
