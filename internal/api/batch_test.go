package api

import (
	"bytes"
	"fmt"
	"mime/multipart"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/app/release"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// baker drives one batch over the API.
type baker struct {
	*client
	id  int64
	n   int
	now *time.Time
}

// bake plans a batch of the beetroot dip made on the clock's day.
func bake(t *testing.T, c *client, now *time.Time) *baker { return bakeOf(t, c, now, 2) }

// bakeOf is bake with another version of it.
func bakeOf(t *testing.T, c *client, now *time.Time, version int) *baker {
	t.Helper()
	c.app.Now = func() time.Time { return *now }
	v := into[production.BatchView](c.send("POST", "/api/batches",
		map[string]any{"formula": "beetroot_horseradish_dip", "version": version, "jars": 12,
			"made_on": now.Format("2006-01-02")}).ok())
	assert.Equal(t, "hold", v.Record.State)
	return &baker{c, v.ID, 0, now}
}

func (b *baker) write(entry map[string]any) reply {
	b.n++
	b.as(b.name) // who came back to it after a night signs in again
	return b.send("POST", fmt.Sprintf("/api/batches/%d/entries?key=k%d-%d", b.id, b.id, b.n), entry)
}

func (b *baker) view() production.BatchView {
	return get[production.BatchView](b.client, fmt.Sprintf("/api/batches/%d", b.id))
}

func (b *baker) weighAndFill() {
	for _, l := range b.view().Record.Lines {
		b.write(map[string]any{"kind": "weighing", "weighing": b.weighing(b.id, l, l.Grams)}).ok()
	}
	b.fill(12)
}

// fill counts jars, weighs as many as are asked for and says where the grams went.
func (b *baker) fill(jars int) {
	b.t.Helper()
	b.write(map[string]any{"kind": "fill", "fill": map[string]any{"jars": jars, "at": *b.now}}).ok()
	b.count()
}

// count weighs full jars, none of them short, and accounts for the grams.
func (b *baker) count() {
	b.t.Helper()
	v := b.view()
	w := map[string]any{"tare_g": 120, "gross_g": []float64{}}
	gross := []float64{}
	for range v.Asked {
		gross = append(gross, v.Net.Nominal.Float()+120.5)
	}
	w["gross_g"] = gross
	if n := v.Record.Net; n != nil {
		w["over"] = n.Entry
	}
	b.write(map[string]any{"kind": "net_weights", "net_weights": w}).ok()
	b.write(map[string]any{"kind": "counted", "counted": map[string]any{"residue_g": 0, "sample_g": 0,
		"seals": v.Record.Fill.Jars, "seals_failed": 0, "clean_down": false, "reason": "a test"}}).ok()
}

func (b *baker) check() production.MeterCheckView {
	return into[production.MeterCheckView](b.send("POST", "/api/meter-checks",
		map[string]any{"meter": "m", "mv_buffer_4": 174.5, "mv_buffer_7": -1.2, "buffer_temperature_c": 25}).ok())
}

func (b *baker) reading(check int64, jar string, ph float64) reply {
	return b.write(map[string]any{"kind": "reading",
		"reading": map[string]any{"load": 1, "jar": jar, "sample": 1, "preparation": "semi_solid",
			"fraction": "paste", "ph": ph, "sample_temperature_c": 22, "meter_check": check, "at": *b.now}})
}

func (b *baker) readAll(ph float64) int64 {
	b.as(b.name)
	check := b.check()
	for _, jar := range []string{"first", "first", "last", "last"} {
		b.reading(check.ID, jar, ph).ok()
	}
	return check.ID
}

func (b *baker) decide(state, reason string) reply {
	return b.write(map[string]any{"kind": "decision", "decision": map[string]any{"state": state, "reason": reason,
		"seen": b.view().Record.Last}})
}

func clock() *time.Time { n := noon(); return &n }

func TestABatchFromWeighingToReleaseAndLabel(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	b := bake(t, c, now)
	label := fmt.Sprintf("/api/labels/2?batch=%d", b.id)
	print := func(n int) reply {
		return b.send("POST", fmt.Sprintf("/api/labels/2/print?key=p%d", n), map[string]any{"batch": b.id, "count": 2})
	}
	title := b.decide("released", "").refused(422, "")
	assert.Contains(t, title, "Still needed")
	b.weighAndFill()

	held := get[release.LabelView](c, label)
	assert.True(t, held.Hold)
	assert.Contains(t, pdfText(t, print(1).ok().body), "HOLD")

	b.readAll(4.05)
	v := b.view()
	assert.Equal(t, "first_day", v.Record.Acidity.Way, "the demo shop allows early release")
	assert.True(t, v.CanRelease)
	*now = now.Add(26 * time.Hour)
	b.readAll(4.05)
	v = b.view()
	assert.Equal(t, "equilibrium", v.Record.Acidity.Way)
	assert.InDelta(t, 4.1221, v.Record.Acidity.Value, 0.0001)
	out := into[production.BatchView](b.decide("released", "").ok())
	assert.Equal(t, "released", out.Record.State)
	assert.Equal(t, "Ines", out.Record.DecideBy)
	assert.Equal(t, 21, *out.Keeping[law.GB].Days)
	assert.Equal(t, out.LastDay[law.GB], day.Day(now.Add(-26*time.Hour).AddDate(0, 0, 21).Format("2006-01-02")))

	assert.Equal(t, kernel.LabelOld, get[release.LabelView](c, "/api/labels/2").State,
		"the demo changed a supplier's list and locked version 3 with it")
	l := get[release.LabelView](c, label)
	assert.Empty(t, l.Block, "this batch is of version 2, whose words were confirmed")
	l = into[release.LabelView](c.send("PUT", fmt.Sprintf("/api/labels/2?rev=%d&batch=%d", l.Rev, b.id),
		map[string]any{"width_mm": 95, "height_mm": 65, "confirm": true}).ok())
	assert.Equal(t, kernel.LabelCurrent, get[release.LabelView](c, "/api/labels/2").State)
	assert.Empty(t, l.Block, "and stays so when the label moves on to version 3")
	text := strings.Join(strings.Fields(pdfText(t, print(3).ok().body)), " ")
	for _, want := range []string{"Beetroot & horseradish dip", "190 g", "L" + out.Code, "Use by"} {
		assert.Contains(t, text, want)
	}
	print(3).ok() // the same key again logs nothing more
	assert.Equal(t, 2, b.view().Record.Printed)

	entries := b.view().Entries
	said := get[release.PrintView](c, fmt.Sprintf("/api/batches/%d/prints/%d", b.id, entries[len(entries)-1].ID))
	assert.Equal(t, []any{2, "Ines", 2, law.GB}, []any{said.Count, said.By, said.Version, said.Regime})
	assert.Contains(t, said.List, "horseradish")
	assert.NotContains(t, said.List, "rapeseed oil; salt; preservative", "the words of version 2")
	assert.Contains(t, strings.Join(said.SVG, ""), "Beetroot")
	assert.Contains(t, said.Lot, out.Code)
	rested := get[production.Rested](c, fmt.Sprintf("/api/batches/%d/rested/%d", b.id, out.RestedEntry))
	assert.Equal(t, out.LastDay[law.GB], rested.LastDay[law.GB])
	assert.Len(t, rested.Readings, 4)
	assert.NotEmpty(t, rested.Rules)
	c.send("GET", fmt.Sprintf("/api/batches/%d/rested/%d", b.id, entries[0].ID), nil).refused(404, "")
	c.send("GET", fmt.Sprintf("/api/batches/%d/prints/%d", b.id, entries[0].ID), nil).refused(404, "")
}

func pdfText(t *testing.T, pdf []byte) string {
	t.Helper()
	require.True(t, bytes.HasPrefix(pdf, []byte("%PDF")), "a PDF")
	file := filepath.Join(t.TempDir(), "x.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	out, err := exec.Command("pdftotext", file, "-").Output()
	require.NoError(t, err)
	return string(out)
}

func TestEntriesCountOncePerKey(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	line := b.view().Record.Lines[0]
	entry := map[string]any{"kind": "weighing", "weighing": map[string]any{"line": line.Line, "grams": 100}}
	path := fmt.Sprintf("/api/batches/%d/entries?key=twice", b.id)
	b.send("POST", path, entry).ok()
	b.send("POST", path, entry).ok()
	assert.Len(t, b.view().Entries, 1)
}

func TestBadEntriesAreSaidAtTheirFields(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	line := b.view().Record.Lines[0].Line
	weigh := func(w map[string]any) reply {
		return b.write(map[string]any{"kind": "weighing", "weighing": w})
	}
	weigh(map[string]any{"line": "nope", "grams": 5}).refused(422, "weighing.line")
	weigh(map[string]any{"line": line, "grams": -5}).refused(422, "weighing.grams")
	weigh(map[string]any{"line": line, "grams": "much"}).refused(422, "weighing.grams")
	weigh(map[string]any{"line": line, "grams": 5, "use_by": "2036-01-01"}).refused(422, "weighing.lot")
	weigh(map[string]any{"line": line, "grams": 5, "kill_step": true}).refused(422, "weighing.lot")
	weigh(map[string]any{"line": line, "grams": 5, "lot": "x"}).refused(422, "weighing.lot")
	b.write(map[string]any{"kind": "weighing"}).refused(422, "kind")
	b.write(map[string]any{"kind": "print"}).refused(422, "kind")
	b.write(map[string]any{"kind": "fill", "fill": map[string]any{"jars": -1, "at": *now}}).refused(422, "fill.jars")
	b.write(map[string]any{"kind": "fill",
		"fill": map[string]any{"jars": 3, "at": now.Add(5 * time.Hour)}}).refused(422, "fill.at")
	b.reading(1, "first", 4).refused(422, "reading.jar")
	b.weighAndFill()
	b.reading(9999, "first", 4).refused(422, "reading.meter_check")
	check := b.check()
	b.reading(check.ID, "middle", 4).refused(422, "reading.jar")
	b.reading(check.ID, "first", 40).refused(422, "reading.ph")
	b.decide("sold", "").refused(422, "decision.state")
	b.decide("rejected", " ").refused(422, "decision.reason")
	b.write(map[string]any{"kind": "void", "void": map[string]any{"entry": 1, "cause": "x"}}).refused(422, "void.cause")
	b.send("POST", "/api/meter-checks", map[string]any{"meter": "", "mv_buffer_4": 174, "mv_buffer_7": 0,
		"buffer_temperature_c": 25}).refused(422, "meter")
	b.send("POST", "/api/batches", map[string]any{"formula": "carrot_miso_dressing", "version": 4, "jars": 12,
		"made_on": now.Format("2006-01-02")}).refused(422, "version")
	b.send("POST", "/api/batches", map[string]any{"formula": "carrot_miso_dressing", "version": 3, "jars": 0,
		"made_on": now.Format("2006-01-02")}).refused(422, "jars")
	b.send("POST", "/api/batches", map[string]any{"formula": "carrot_miso_dressing", "version": 3, "jars": 9,
		"made_on": "2999-01-01"}).refused(422, "made_on")
}

func TestOnlyMeasurementsRelease(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	bad := into[production.MeterCheckView](b.send("POST", "/api/meter-checks",
		map[string]any{"meter": "m", "mv_buffer_4": 160, "mv_buffer_7": 4, "buffer_temperature_c": 25}).ok())
	assert.False(t, bad.Accepted)
	for _, jar := range []string{"first", "first", "last", "last"} {
		b.reading(bad.ID, jar, 4.0).ok()
	}
	assert.NotEmpty(t, b.view().Record.Readings[0].Unsupported, "kept, but supports nothing")
	b.decide("released", "").refused(422, "")

	good := b.readAll(4.0)
	assert.True(t, b.view().CanRelease)
	b.send("POST", fmt.Sprintf("/api/meter-checks/%d/closing", good),
		map[string]any{"closing_ph": 4.2, "closing_temperature_c": 25}).ok()
	assert.False(t, b.view().CanRelease, "a failed closing look takes the readings away")
	b.send("POST", fmt.Sprintf("/api/meter-checks/%d/closing", good),
		map[string]any{"closing_ph": 4.01, "closing_temperature_c": 25}).ok()
	assert.False(t, b.view().CanRelease, "and passing later restores nothing")
}

func TestAnEarlyReleaseIsCalledBack(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	b.readAll(4.0)
	assert.Equal(t, "first_day", into[production.BatchView](b.decide("released", "").ok()).Record.Decided.Way)
	*now = now.Add(26 * time.Hour)
	b.readAll(4.75)
	v := b.view()
	assert.Equal(t, bench.CalledBack, v.Record.State)
	assert.True(t, v.Record.Out)
	assert.Equal(t, "danger", get[kernel.TodayView](b.client, "/api/today").Tasks[0].Level)
	assert.Contains(t, get[kernel.TodayView](b.client, "/api/today").Tasks[0].Title, "Call back")
}

func TestMVBecomesPHByTheDaysCheck(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	check := b.check()
	v := into[production.BatchView](b.write(map[string]any{"kind": "reading",
		"reading": map[string]any{"load": 1, "jar": "first", "sample": 1,
			"preparation": "semi_solid", "fraction": "paste", "mv": 165, "sample_temperature_c": 25,
			"meter_check": check.ID, "at": *now}}).ok())
	assert.InDelta(t, 4.172, v.Record.Readings[0].PH, 0.0005)
}

func TestGainingAnAllergenStopsTheLabel(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	g := get[catalog.IngredientView](c, "/api/ingredients/date")
	in := g.Ingredient
	in.SupplierLists = law.Each[string]{law.GB: "dates; wheat flour"}
	c.send("PUT", fmt.Sprintf("/api/ingredients/date?rev=%d", g.Rev), in).ok()
	tasks := get[kernel.TodayView](c, "/api/today").Tasks
	at := slices.IndexFunc(tasks, func(x kernel.Task) bool {
		return strings.Contains(x.Title, "Stop using the GB label of Tamarind & date dressing")
	})
	require.GreaterOrEqual(t, at, 0)
	assert.Equal(t, "danger", tasks[at].Level)
	assert.Contains(t, tasks[at].Text, "wheat")
	for _, before := range tasks[:at] {
		assert.True(t, before.Kind == "call_back" || before.Level == "danger", "%+v", before)
	}
}

func TestEvidenceChangesTheLifeAndNeedsAnOwner(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	attach := func(days string) reply {
		var body bytes.Buffer
		w := multipart.NewWriter(&body)
		for k, v := range map[string]string{"formula": "lentil_tahini_dip", "kind": "quality_study",
			"title": "Own study", "days": days, "covers": `{"versions":[1]}`, "why": "the pulls are in"} {
			require.NoError(t, w.WriteField(k, v))
		}
		f, err := w.CreateFormFile("file", "study.txt")
		require.NoError(t, err)
		_, err = f.Write([]byte("good to the last pull"))
		require.NoError(t, err)
		require.NoError(t, w.Close())
		return c.raw("POST", "/api/evidence", w.FormDataContentType(), body.Bytes())
	}
	c.as("Bram")
	assert.Contains(t, attach("30").refused(403, ""), "owner")
	c.as("Ines")
	attach("").refused(422, "days")
	attach("many").refused(422, "days")
	e := into[release.EvidenceView](attach("30").ok())
	sheet := get[catalog.SheetView](c, "/api/formulas/lentil_tahini_dip/versions/1")
	assert.Equal(t, 30, *sheet.Panel.Keeping[law.GB].Days)
	doc := c.send("GET", fmt.Sprintf("/api/evidence/%d", e.ID), nil).ok()
	assert.Equal(t, "good to the last pull", string(doc.body))
	assert.Contains(t, doc.header.Get("Content-Disposition"), "attachment")
	c.send("DELETE", fmt.Sprintf("/api/evidence/%d", e.ID)+why, nil).ok()
	assert.Equal(t, 21, *get[catalog.SheetView](c,
		"/api/formulas/lentil_tahini_dip/versions/1").Panel.Keeping[law.GB].Days)
}

func TestLabelsAreMadeOnceAndOnARealStock(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	post := func(formula, regime string, w, h float64) reply {
		return c.send("POST", "/api/labels",
			map[string]any{"formula": formula, "regime": regime, "width_mm": w, "height_mm": h})
	}
	post("carrot_miso_dressing", "GB", 90, 60).refused(422, "regime")
	post("pumpkin_maple_spread", "GB", 90, 60).refused(422, "formula")
	post("lentil_tahini_dip", "US", 5, 60).refused(422, "width_mm")
	l := into[release.LabelView](post("lentil_tahini_dip", "US", 60, 30).ok())
	assert.False(t, l.Fits)
	c.send("POST", fmt.Sprintf("/api/labels/%d/print?key=z", l.ID), map[string]any{"batch": 0, "count": 5}).refused(422,
		"batch")
	c.send("POST", fmt.Sprintf("/api/labels/%d/print?key=z", l.ID), map[string]any{"batch": 9, "count": 0}).refused(422,
		"count")
}
