package api

import (
	"bytes"
	"encoding/json"
	"fmt"
	"mime/multipart"
	"slices"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/app/release"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// attach sends a document with what it says it covers; changes are of the form's fields.
func (c *client) attach(content string, fields map[string]string) reply {
	c.t.Helper()
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	for k, v := range fields {
		require.NoError(c.t, w.WriteField(k, v))
	}
	f, err := w.CreateFormFile("file", "paper.txt")
	require.NoError(c.t, err)
	_, err = f.Write([]byte(content))
	require.NoError(c.t, err)
	require.NoError(c.t, w.Close())
	return c.raw("POST", "/api/evidence", w.FormDataContentType(), body.Bytes())
}

const paper = "A document of several words, long enough to be one."

// TestWhatWasDecidedIsNotMovedByThePantryRulesOrPapers changes all three after a release and opens the record again.
func TestWhatWasDecidedIsNotMovedByThePantryRulesOrPapers(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	study := into[release.EvidenceView](c.attach(paper, map[string]string{"formula": "beetroot_horseradish_dip",
		"kind": "quality_study", "title": "Own study", "days": "28", "covers": `{"versions":[2]}`,
		"why": "the pulls are in"}).ok())
	b := released(t, c, now)
	before := b.view()
	assert.Equal(t, 28, *before.Keeping[law.GB].Days)
	same := func(after string) {
		t.Helper()
		v := b.view()
		assert.Equal(t, bench.Released, v.Record.State, after)
		assert.Equal(t, before.LastDay, v.LastDay, after)
		assert.Equal(t, before.Keeping, v.Keeping, after)
		rested := get[production.Rested](c, fmt.Sprintf("/api/batches/%d/rested/%d", b.id, v.RestedEntry))
		assert.Equal(t, before.LastDay, rested.LastDay, after)
		_, err := c.app.Production.Rebuild(t.Context())
		require.NoError(t, err)
		for _, row := range get[production.BatchPage](c, "/api/batches").Batches {
			if row.ID == b.id {
				assert.Equal(t, before.LastDay[law.GB], row.LastDay, after)
			}
		}
	}
	c.as("Ines").send("DELETE", fmt.Sprintf("/api/evidence/%d", study.ID)+why, nil).ok()
	same("a quality study was withdrawn")
	shop := get[office.ShopView](c, "/api/shop")
	shop.TighterDays = map[string]int{"6": 1}
	shop.EarlyRelease = false
	c.send("PUT", fmt.Sprintf("/api/shop?rev=%d", shop.Rev), shop.Settings).ok()
	same("the rules were tightened")
	g := get[catalog.IngredientView](c, "/api/ingredients/yogurt_strained")
	g.Flags = []string{"raw_egg"}
	g.Name = "Something else"
	c.send("PUT", fmt.Sprintf("/api/ingredients/%s?rev=%d&why=another+supplier", g.ID, g.Rev), g.Ingredient).ok()
	same("the pantry changed")
}

// TestUntickingAFlagLoosensNothingThatIsLocked takes the raw egg off in the pantry before a release, and puts it back.
func TestUntickingAFlagLoosensNothingThatIsLocked(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	tick := func(flags ...string) {
		g := get[catalog.IngredientView](c, "/api/ingredients/yogurt_strained")
		g.Flags = flags
		c.as("Ines").send("PUT", fmt.Sprintf("/api/ingredients/%s?rev=%d&why=it+was+a+mistake", g.ID, g.Rev),
			g.Ingredient).ok()
	}
	tick("fresh_dairy", pantry.FlagRawEgg)
	ref := get[catalog.SheetView](c, "/api/formulas/beetroot_horseradish_dip/versions/3")
	next := into[catalog.SheetView](c.send("POST", "/api/formulas/beetroot_horseradish_dip/versions",
		map[string]any{"from": ref.Version.Number}).ok())
	c.lock("/api/formulas/beetroot_horseradish_dip/versions/4", next.Rev).ok()
	tick("fresh_dairy") // "it was a mistake"
	c.app.Now = func() time.Time { return *now }
	v := into[production.BatchView](c.send("POST", "/api/batches", map[string]any{"formula": "beetroot_horseradish_dip",
		"version": 4, "jars": 12, "made_on": now.Format("2006-01-02")}).ok())
	b := &baker{c, v.ID, 0, now}
	b.weighAndFill()
	*now = now.Add(25 * time.Hour)
	b.readAll(4.0)
	out := into[production.BatchView](b.decide("released", "").ok())
	assert.Equal(t, 2, *out.Keeping[law.GB].Days, "it was locked with raw egg in it")
	kept := get[catalog.LockView](c, "/api/formulas/beetroot_horseradish_dip/versions/4/lock")
	assert.NotEmpty(t, kept.Moved, "the pantry says otherwise now")

	older := released(t, c, now)
	assert.Equal(t, 21, *older.view().Keeping[law.GB].Days)
	tick("fresh_dairy", pantry.FlagRawEgg)
	assert.Equal(t, 21, *older.view().Keeping[law.GB].Days, "what was decided stays")
	fresh := bake(t, c, now)
	fresh.weighAndFill()
	*now = now.Add(25 * time.Hour)
	fresh.readAll(4.0)
	assert.Equal(t, 2, *fresh.view().Keeping[law.GB].Days, "what became stricter counts for new batches at once")
}

// TestADocumentThatProvesNothingCountsForNothing tries what passed for an authority's letter once.
func TestADocumentThatProvesNothingCountsForNothing(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	form := func(change map[string]string, covers map[string]any) map[string]string {
		said := map[string]any{"versions": []int{2}, "law": "GB", "product": "Beetroot dip", "max_ph": 4.6,
			"storage": "ambient", "heat_c": 85, "heat_min": 5, "issued_by": "A made-up laboratory",
			"dated": "2026-10-01"}
		for k, v := range covers {
			said[k] = v
		}
		raw, err := json.Marshal(said)
		require.NoError(t, err)
		out := map[string]string{"formula": "beetroot_horseradish_dip", "kind": "authority", "title": "The letter",
			"covers": string(raw), "why": "it came by post"}
		for k, v := range change {
			out[k] = v
		}
		return out
	}
	for field, try := range map[string]struct {
		content string
		change  map[string]string
		covers  map[string]any
	}{
		"file":      {content: "x"},
		"heat_c":    {content: paper, covers: map[string]any{"heat_c": 5}},
		"heat_min":  {content: paper, covers: map[string]any{"heat_min": 0}},
		"max_ph":    {content: paper, covers: map[string]any{"max_ph": 0}},
		"law":       {content: paper, covers: map[string]any{"law": "XX"}},
		"storage":   {content: paper, covers: map[string]any{"storage": "anywhere"}},
		"product":   {content: paper, covers: map[string]any{"product": " "}},
		"issued_by": {content: paper, covers: map[string]any{"issued_by": ""}},
		"dated":     {content: paper, covers: map[string]any{"dated": "2027-01-01"}},
		"versions":  {content: paper, covers: map[string]any{"versions": []int{9}}},
		"why":       {content: paper, change: map[string]string{"why": " "}},
		"kind":      {content: paper, change: map[string]string{"kind": "shopping list"}},
		"covers":    {content: paper, change: map[string]string{"covers": "shopping list"}},
	} {
		c.attach(try.content, form(try.change, try.covers)).refused(422, field)
	}
	c.attach(paper, map[string]string{"formula": "beetroot_horseradish_dip", "kind": "quality_study",
		"title": "Ten years",
		"days":  "3650", "covers": `{"versions":[2]}`, "why": "because"}).refused(422, "days")
	c.as("Bram").attach(paper, form(nil, nil)).refused(403, "")
	c.as("Ines").attach(paper, form(nil, nil)).ok()
	e := get[[]release.EvidenceView](c, "/api/evidence?formula=beetroot_horseradish_dip")[0]
	assert.Len(t, e.Fingerprint, 64)
	assert.Contains(t, e.WhyNot, "does not name version 3", "the next version does not inherit it")
}

// TestWithdrawingWhatAReleaseNeededCallsItBack attaches a study with Listeria counts, releases by it, and withdraws it.
func TestWithdrawingWhatAReleaseNeededCallsItBack(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	study := into[release.EvidenceView](c.attach(paper, map[string]string{"formula": "beetroot_horseradish_dip",
		"kind": "listeria_study", "title": "Challenge test", "days": "18", "why": "the counts are in",
		"covers": `{"versions":[2],"law":"GB","product":"Beetroot dip","max_ph":4.6,"storage":"chilled",` +
			`"issued_by":"A made-up laboratory","dated":"2026-10-01"}`}).ok())
	older := study
	study = into[release.EvidenceView](c.attach(paper, map[string]string{"formula": "beetroot_horseradish_dip",
		"kind": "listeria_study", "title": "Challenge test, repeated", "days": "18", "why": "the second counts",
		"covers": `{"versions":[2],"law":"GB","product":"Beetroot dip","max_ph":4.6,"storage":"chilled",` +
			`"issued_by":"A made-up laboratory","dated":"2026-10-09"}`}).ok())
	b := bake(t, c, now)
	b.weighAndFill()
	*now = now.Add(25 * time.Hour)
	b.readAll(4.4) // a decision value over 4.4 supports Listeria
	out := into[production.BatchView](b.decide("released", "drift looked at").ok())
	assert.Equal(t, 18, *out.Keeping[law.GB].Days)
	other := released(t, c, now) // far from the mark: it did not need the study
	before := bake(t, c, now)    // released before anything was kept: it may have needed it
	before.weighAndFill()
	*now = now.Add(25 * time.Hour)
	before.readAll(4.0)
	require.NoError(t, c.app.Store.In(t.Context(), kernel.Stamp{By: "Ines", At: *now}, func(st kernel.Store) error {
		_, err := st.AddEntry(before.id, bench.Entry{At: *now, By: "Ines", Role: people.Owner,
			Body: &bench.Decided{State: bench.Released, Way: acidity.Equilibrium}}, "old", []byte("old"))
		return err
	}))
	require.Equal(t, bench.Released, before.view().Record.State)
	c.as("Ines")
	c.as("Bram").send("DELETE", fmt.Sprintf("/api/evidence/%d", study.ID)+why, nil).refused(403, "")
	c.as("Ines").send("DELETE", fmt.Sprintf("/api/evidence/%d", older.ID)+why, nil).ok()
	assert.Equal(t, bench.Released, b.view().Record.State, "the newest of a kind counts; nothing rested on the older")
	c.send("DELETE", fmt.Sprintf("/api/evidence/%d", study.ID)+why, nil).ok()
	assert.Equal(t, bench.CalledBack, b.view().Record.State)
	assert.Contains(t, b.view().Record.Recalled[0].Why, "Challenge test")
	assert.Equal(t, bench.Released, other.view().Record.State)
	assert.Equal(t, bench.CalledBack, before.view().Record.State)
}

// TestALaboratorysValueFarUnderTheEstimateTakesAnOwner enters 0.5 for a wet dip.
func TestALaboratorysValueFarUnderTheEstimateTakesAnOwner(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	lab := func(aw float64) reply {
		return b.write(map[string]any{"kind": "laboratory", "laboratory": map[string]any{"water_activity": aw,
			"report": "L-9"}})
	}
	b.as("Bram")
	assert.Contains(t, lab(0.5).refused(403, ""), "an owner enters it")
	lab(0.95).ok()
	b.as("Ines")
	lab(0.5).ok()
	assert.Equal(t, "chilled", b.view().Keeping[law.GB].Condition)
}

// TestWhatBecameStricterIsATask gives an ingredient an allergen after versions were locked with it: every version in
// use and every batch in date that it touches is told on Today, until it touches none.
func TestWhatBecameStricterIsATask(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	c.app.Now = func() time.Time { return *clock() }
	say := func(change func(g *pantry.Ingredient)) {
		g := get[catalog.IngredientView](c, "/api/ingredients/yogurt_strained")
		change(&g.Ingredient)
		c.as("Ines").send("PUT", fmt.Sprintf("/api/ingredients/%s?rev=%d&why=a+slip", g.ID, g.Rev), g.Ingredient).ok()
	}
	tasks := func() (out []kernel.Task) {
		for _, x := range get[kernel.TodayView](c, "/api/today").Tasks {
			if x.Kind == "tightened" && !strings.Contains(x.Title, "pesto") { // the demo's own
				out = append(out, x)
			}
		}
		return out
	}
	assert.Empty(t, tasks(), "nothing is stricter")
	had := get[catalog.IngredientView](c, "/api/ingredients/yogurt_strained").Allergens[law.GB]
	say(func(g *pantry.Ingredient) { g.Allergens[law.GB] = append(slices.Clone(had), "celery") })
	got := tasks()
	require.Len(t, got, 1, "what is in date is called back for its words; version 3 is the newest")
	assert.Contains(t, got[0].Title, "version 3, gained celery")
	assert.Equal(t, "needs_you", got[0].Level)
	assert.NotContains(t, got[0].Text, "26-")
	since := get[catalog.LockView](c, "/api/formulas/beetroot_horseradish_dip/versions/3/lock").Since
	assert.Equal(t, []string{"Strained (Greek-style) yogurt, whole"}, since.In)
	next := into[catalog.SheetView](c.send("POST", "/api/formulas/beetroot_horseradish_dip/versions",
		map[string]any{"from": 3}).ok())
	c.lock("/api/formulas/beetroot_horseradish_dip/versions/4", next.Rev).ok()
	assert.Empty(t, tasks(), "the newest version takes it up")
	say(func(g *pantry.Ingredient) { g.Allergens[law.GB] = had })
	assert.Empty(t, tasks(), "looser than a lock is no task")
	say(func(g *pantry.Ingredient) { g.Flags = append(g.Flags, pantry.FlagRawEgg) })
	got = tasks()
	require.NotEmpty(t, got)
	assert.Contains(t, got[0].Title, "gained the flag raw egg")
}
