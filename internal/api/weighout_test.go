package api

import (
	"fmt"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// atBench is a batch of the demo's pea spread that is worked on at the bench.
type atBench struct {
	*client
	id int64
	n  int
}

// vessel is the id of one of the demo's.
func (c *client) vessel(name string) int64 {
	c.t.Helper()
	for _, v := range get[[]production.VesselView](c, "/api/vessels") {
		if v.Name == name {
			return v.ID
		}
	}
	c.t.Fatalf("no vessel %s", name)
	return 0
}

func (c *client) bench(formula string, version, jars int) *atBench {
	c.t.Helper()
	b := into[production.BatchView](c.send("POST", "/api/batches", map[string]any{"formula": formula,
		"version": version,
		"jars":    jars, "made_on": noon().Format(time.DateOnly), "vessel": c.vessel("12 L cutter")}).ok())
	w := &atBench{client: c, id: b.ID}
	for _, l := range b.Record.Loads {
		for _, e := range l.Errands {
			if e.First {
				w.act("ticked", map[string]any{"load": l.No, "key": e.Key}).ok()
			}
		}
	}
	return w
}

// under writes an act under a key.
func (w *atBench) underKey(key, kind string, body map[string]any) reply {
	w.t.Helper()
	return w.send("POST", fmt.Sprintf("/api/batches/%d/entries?key=%s", w.id, key),
		map[string]any{"kind": kind, kind: body})
}

func (w *atBench) act(kind string, body map[string]any) reply {
	w.t.Helper()
	w.n++
	return w.underKey(fmt.Sprintf("w-%d-%d", w.id, w.n), kind, body)
}

func (w *atBench) view() production.BatchView {
	w.t.Helper()
	return get[production.BatchView](w.client, fmt.Sprintf("/api/batches/%d", w.id))
}

// at is a line of the first load by the beginning of its name.
func (w *atBench) at(name string) bench.BenchLine {
	w.t.Helper()
	for _, l := range w.view().Record.Loads[0].Lines {
		if strings.HasPrefix(l.Name, name) {
			return l
		}
	}
	w.t.Fatalf("no line %s", name)
	return bench.BenchLine{}
}

// tare tares the bench scale for a load, with nothing on it.
func (w *atBench) tare(load int) {
	w.t.Helper()
	w.act("tared", map[string]any{"load": load, "scale": "Bench scale", "reading_g": 0})
}

// pour is a capture of so much of a line, from a lot of the tests' own, in a bowl of its own on a scale that was tared.
func (w *atBench) pour(l bench.BenchLine, grams amount.Grams) map[string]any {
	w.t.Helper()
	return w.pourInto(1, l, grams)
}

func (w *atBench) pourInto(load int, l bench.BenchLine, grams amount.Grams) map[string]any {
	w.t.Helper()
	w.tare(load)
	body := map[string]any{"load": load, "line": l.Line, "grams": grams, "saw": l.Last, "scale": "Bench scale",
		"reading_g": grams}
	if d := w.draws(w.id, l.Line, grams); d != nil {
		body["draws"] = d
	}
	return body
}

func TestAPlanIsSeenBeforeItIsMade(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	ask := map[string]any{"formula": "pea_pistachio_spread", "version": 2, "jars": 96,
		"made_on": noon().AddDate(0, 0, 1).Format(time.DateOnly), "start_at": "09:30",
		"vessel": c.vessel("12 L cutter")}
	before := len(get[production.BatchPage](c, "/api/batches").Batches)
	v := into[production.PlanView](c.send("POST", "/api/plan", ask).ok())
	require.Len(t, v.Loads, 2)
	assert.Equal(t, v.Total, amount.Sum(v.Loads))
	for k, load := range v.Loads {
		sum := amount.Grams{}
		for _, l := range v.Lines {
			sum = sum.Plus(l.Loads[k])
		}
		assert.InDelta(t, load.Float(), sum.Float(), 0.1, "load %d adds up", k+1)
	}
	assert.GreaterOrEqual(t, v.Expected, 96)
	assert.Contains(t, v.Word, "one load would be")
	var limes, steams, cools int
	for _, b := range v.Shopping.Buy {
		if strings.HasPrefix(b.Name, "Lime, whole") {
			limes++
			assert.Positive(t, b.Pieces, "limes are counted")
		}
	}
	for _, x := range v.Day.Tasks {
		if x.Kind == bench.Heats && strings.HasPrefix(x.Text, "steam") {
			steams++
			assert.True(t, !x.To.After(v.Day.Start), "the peas are there when the bench begins")
		}
		if x.Kind == bench.Cools {
			cools++
		}
	}
	assert.Equal(t, []int{1, 1, 1}, []int{limes, steams, cools}, "zest and juice come from the same limes")
	assert.Len(t, get[production.BatchPage](c, "/api/batches").Batches, before, "nothing was written")

	ask["vessel"] = c.vessel("Steel bowl, 20 L")
	assert.Len(t, into[production.PlanView](c.send("POST", "/api/plan", ask).ok()).Loads, 2)
	ask["jars"], ask["vessel"] = 5, c.vessel("12 L cutter")
	small := into[production.PlanView](c.send("POST", "/api/plan", ask).ok())
	assert.True(t, small.Below)
	assert.Contains(t, small.Word, "too little")
	delete(ask, "jars")
	ask["grams"] = 6000
	assert.Equal(t, 35, into[production.PlanView](c.send("POST", "/api/plan", ask).ok()).Jars, "as many as 6 kg fill")
	delete(ask, "grams")
	lot := c.deliver("pistachio", map[string]any{"pack": "500 g"})
	ask["use_up"] = lot.Code
	used := into[production.PlanView](c.send("POST", "/api/plan", ask).ok())
	assert.Equal(t, 31, used.Jars, "as many as the lot's 500 g of pistachios reach for")
	ask["use_up"] = "P9999"
	c.send("POST", "/api/plan", ask).refused(http.StatusUnprocessableEntity, "use_up")
	ask["jars"], ask["use_up"] = 12, ""
	for field, bad := range map[string]any{"start_at": "half nine", "overfill_percent": 90, "loss_percent": -1,
		"sample_g": -5,
		"vessel":   9999, "made_on": "2035-01-01"} {
		was, had := ask[field]
		ask[field] = bad
		c.send("POST", "/api/plan", ask).refused(http.StatusUnprocessableEntity, field)
		if delete(ask, field); had {
			ask[field] = was
		}
	}
	b := into[production.BatchView](c.send("POST", "/api/batches", ask).ok())
	plan := get[production.PlanView](c, fmt.Sprintf("/api/batches/%d/plan", b.ID))
	assert.Equal(t, 12, plan.Jars)
	csv := string(c.send("GET", fmt.Sprintf("/api/batches/%d/plan.csv", b.ID), nil).ok().body)
	assert.Contains(t, csv, "needed g")
	assert.Contains(t, csv, "Pistachio")
}

func TestACaptureCountsOnceHoweverOftenItIsSent(t *testing.T) {
	t.Parallel()
	w := withDemo(t).bench("pea_pistachio_spread", 2, 48)
	l := w.at("Pistachio")
	body := w.pour(l, l.Now)
	for range 3 {
		w.underKey("one", "capture", body).ok()
	}
	var all sync.WaitGroup
	for range 4 {
		all.Go(func() { w.underKey("one", "capture", body).ok() })
	}
	all.Wait()
	now := w.at("Pistachio")
	assert.Equal(t, l.Now, now.In)
	assert.Equal(t, bench.LineDone, now.State)
	other := w.pour(l, l.Now.Plus(amount.G(1)))
	w.underKey("one", "capture", other).refused(http.StatusConflict, "")
	lots := w.lotsFor(w.id, l.Line)
	for _, x := range lots.Lots {
		if x.Code == body["draws"].([]map[string]any)[0]["code"] {
			assert.Equal(t, l.Now, x.Used, "its lot was drawn down once")
		}
	}
}

func TestTwoHandsOnOneLineSeeTheFirst(t *testing.T) {
	t.Parallel()
	w := withDemo(t).bench("pea_pistachio_spread", 2, 48)
	l := w.at("Tahini")
	w.act("capture", w.pour(l, l.Now)).ok()
	r := w.act("capture", w.pour(l, l.Now)).refused(http.StatusConflict, "")
	assert.Contains(t, r, "Ines captured Tahini")
	assert.Equal(t, l.Now, w.at("Tahini").In, "nothing was added")
}

func TestWhatTheBenchRefuses(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	w := c.bench("pea_pistachio_spread", 2, 48)
	l := w.at("Pistachio")
	bare := map[string]any{"load": 1, "line": l.Line, "grams": 10, "saw": 0, "scale": "Bench scale"}
	w.act("capture", bare).refused(http.StatusUnprocessableEntity, "capture.draws")
	body := w.pour(l, l.Now)
	body["scale"] = "the neighbour's"
	w.act("capture", body).refused(http.StatusUnprocessableEntity, "capture.scale")
	body["scale"], body["unstable"] = "Bench scale", true
	w.act("capture", body).refused(http.StatusUnprocessableEntity, "capture.reason")
	body["unstable"], body["grams"] = false, amount.G(30_000)
	body["draws"] = w.draws(w.id, l.Line, amount.G(30_000))
	w.act("capture", body).refused(http.StatusUnprocessableEntity, "capture.grams")
	body["load"] = 7
	w.act("capture", body).refused(http.StatusUnprocessableEntity, "capture.load")
	w.act("closed", map[string]any{"load": 1}).refused(http.StatusUnprocessableEntity, "")
	w.act("added", map[string]any{"load": 1, "ingredient": "salt_sea_fine", "grams": 3, "purpose": "salt",
		"draws": []any{}}).refused(http.StatusUnprocessableEntity, "added.draws")
	w.act("cooled", map[string]any{"what": "nothing", "celsius": 80,
		"at": noon()}).refused(http.StatusUnprocessableEntity,
		"cooled.what")
	w.act("cooled", map[string]any{"what": "jars", "celsius": 80, "at": noon().Add(24 * time.Hour)}).refused(
		http.StatusUnprocessableEntity, "cooled.at")

	c.app.Production.StandIns = false
	w.act("capture", w.pour(l, l.Now)).refused(http.StatusUnprocessableEntity, "capture.scale")
	typed := w.pour(l, l.Now)
	typed["manual"] = true
	w.act("capture", typed).ok()
	c.app.Production.StandIns = true

	late := c.send("POST", "/api/batches", map[string]any{"formula": "pea_pistachio_spread", "version": 2, "jars": 12,
		"made_on": noon().AddDate(0, 0, 2).Format(time.DateOnly)}).ok()
	tomorrow := &atBench{client: c, id: into[production.BatchView](late).ID}
	r := tomorrow.act("ticked", map[string]any{"load": 1, "key": "step-1"}).refused(http.StatusUnprocessableEntity, "")
	assert.Contains(t, r, "planned for")
}

func TestALotBeyondItsQuantityIsShownAsLessThanNothing(t *testing.T) {
	t.Parallel()
	w := withDemo(t).bench("pea_pistachio_spread", 2, 48)
	l := w.at("Pistachio")
	lot := w.deliver("pistachio", map[string]any{"pack": "100 g"})
	body := w.pour(l, l.Now)
	body["draws"] = []map[string]any{{"code": lot.Code, "grams": l.Now}}
	w.act("capture", body).ok()
	for _, x := range w.lotsFor(w.id, l.Line).Lots {
		if x.Code == lot.Code {
			assert.True(t, x.Left.IsNegative(), "it is seen that more was taken than came in")
		}
	}
}

func TestWhatCameHotAsksForItsCooling(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	w := c.bench("pea_pistachio_spread", 2, 48)
	l := w.at("Green peas")
	require.NotEmpty(t, l.Hot)
	raw := w.deliver("peas_frozen", nil)
	body := map[string]any{"load": 1, "line": l.Line, "grams": l.Now, "saw": 0, "scale": "Bench scale",
		"draws": []map[string]any{{"code": raw.Code, "grams": l.Now}}}
	r := w.act("capture", body).refused(http.StatusUnprocessableEntity, "")
	assert.Contains(t, r, "cooling log")
	take := func(celsius float64, ago time.Duration) {
		w.act("cooled", map[string]any{"what": l.Line, "celsius": celsius, "at": noon().Add(-ago),
			"probe": "Probe"}).ok()
	}
	take(84, 3*time.Hour)
	w.tare(1)
	body["reading_g"] = l.Now
	w.act("capture", body).ok()
	log := w.view().Record.Cooling
	require.Len(t, log, 1)
	assert.Equal(t, bench.CoolingMissed, log[0].State, "ninety minutes are over")
	assert.Contains(t, w.view().Record.Asks.Owner, "the cooling of Green peas, cooked was missed")
	take(7.5, 2*time.Hour)
	assert.Equal(t, bench.CoolingMet, w.view().Record.Cooling[0].State, "the log was only written late")
}

func TestAnAdditionKeepsTheWordsTrue(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	w := c.bench("beetroot_horseradish_dip", 2, 24)
	before := w.view()
	for _, l := range w.view().Record.Loads[0].Lines {
		w.act("capture", w.pour(l, l.Now)).ok()
	}
	look := into[production.AdditionView](c.send("POST", fmt.Sprintf("/api/batches/%d/addition", w.id),
		map[string]any{"load": 1, "ingredient": "beetroot_cooked", "grams": 2500}).ok())
	assert.True(t, look.Raises, "a vegetable goes against the acid")
	assert.Greater(t, *look.After.High, *look.Before.High)
	walnut := w.deliver("walnut", nil)
	w.act("added", map[string]any{"load": 1, "ingredient": "walnut", "grams": 20, "purpose": "thicker",
		"draws": []map[string]any{{"code": walnut.Code, "grams": 20}}}).refused(http.StatusUnprocessableEntity,
		"added.ingredient")
	w.act("added", map[string]any{"load": 1, "ingredient": "water", "grams": 1000, "purpose": "thinner"}).ok()
	v := w.view()
	require.Len(t, v.Record.Added, 1)
	assert.NotNil(t, v.Record.Added[0].PHAfter)
	for _, e := range v.Record.Loads[0].Errands {
		w.act("ticked", map[string]any{"load": 1, "key": e.Key}).ok()
	}
	w.act("closed", map[string]any{"load": 1}).ok()
	v = w.view()
	assert.True(t, v.Record.Weighed)
	made, was := v.MakeUp, before.MakeUp
	assert.Greater(t, made.Water/made.Total(), was.Water/was.Total()+0.005, "the product is judged as it was made")
	said := get[office.HistoryPage](c, fmt.Sprintf("/api/history?of=batch&id=%d", w.id))
	var words []string
	for _, x := range said.Rows {
		words = append(words, x.Said)
	}
	assert.Contains(t, strings.Join(words, "\n"), "closed load 1")
	assert.Contains(t, strings.Join(words, "\n"), "added 1000 g of Water")
}

func TestAVesselIsCleanedDownBeforeAnythingGoesIn(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	jug := c.vessel("Blender jug 1") // the demo left pesto and sesame in it
	b := into[production.BatchView](c.send("POST", "/api/batches",
		map[string]any{"formula": "beetroot_horseradish_dip", "version": 2,
			"jars": 10, "made_on": noon().Format(time.DateOnly), "vessel": jug}).ok())
	w := &atBench{client: c, id: b.ID}
	errand := b.Record.Loads[0].Errands[0]
	require.Equal(t, bench.CleanDown, errand.Key)
	assert.Contains(t, errand.Look, "carries")
	l := w.at("Fine sea salt")
	w.act("capture", w.pour(l, l.Now)).refused(http.StatusUnprocessableEntity, "")
	w.act("ticked", map[string]any{"load": 1, "key": bench.CleanDown}).ok()
	w.act("ticked", map[string]any{"load": 1, "key": "guards"}).ok()
	w.act("capture", w.pour(l, l.Now)).ok()
	contact := w.view().Contact
	assert.Equal(t, []string{"Blender jug 1"}, contact.Vessels, "it is written down which vessel it was in")
	assert.Empty(t, contact.MayContain["GB"])
}

func TestAPourTeachesHowFarThingsRunOn(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	oil := func() production.LagView {
		lags := get[[]production.LagView](c, "/api/lags")
		require.NotEmpty(t, lags)
		require.Equal(t, bench.PoursOil, lags[0].Class)
		return lags[0]
	}
	assert.InDelta(t, 17.5, oil().Grams.Float(), 0.2, "as the demo's own hands pour")
	w := c.bench("pea_pistachio_spread", 2, 48)
	for range 10 {
		l := w.at("Rapeseed")
		body := w.pour(l, amount.G(80))
		body["stopped_g"] = 74.5
		w.act("capture", body).ok()
	}
	assert.Equal(t, "5.5", oil().Grams.String(), "the last ten pours of oil")
	assert.Equal(t, 10, oil().Pours)
}

func TestARehearsalWritesNothing(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	before := get[production.BatchPage](c, "/api/batches").All
	c.as("Ola")
	play := func(acts ...map[string]any) production.RehearsalView {
		acts = append([]map[string]any{}, acts...)
		return into[production.RehearsalView](c.send("POST", "/api/rehearse",
			map[string]any{"formula": "carrot_miso_dressing",
				"version": 3, "jars": 8, "acts": acts}).ok())
	}
	v := play()
	require.Len(t, v.Loads, 1)
	held := 0
	for _, l := range v.Loads[0].Lines {
		if l.Held.IsPositive() {
			held++
		}
	}
	assert.Equal(t, 1, held, "there is a hold-back to learn on")
	oil := v.Loads[0].Lines[len(v.Loads[0].Lines)-1]
	acts := []map[string]any{}
	for _, e := range v.Loads[0].Errands {
		if e.First {
			acts = append(acts, map[string]any{"kind": "ticked", "ticked": map[string]any{"load": 1, "key": e.Key}})
		}
	}
	acts = append(acts, map[string]any{"kind": "capture", "capture": map[string]any{"load": 1, "line": oil.Line,
		"grams": oil.Now.Float() * 1.1, "saw": 0}})
	v = play(acts...)
	assert.Empty(t, v.Refused)
	require.NotNil(t, v.Loads[0].Over)
	v = play(append(acts, map[string]any{"kind": "closed", "closed": map[string]any{"load": 1}})...)
	assert.Contains(t, v.Refused, "not closed")
	v = play(append(acts, map[string]any{"kind": "choice", "choice": map[string]any{"load": 1, "how": "rebalance"}})...)
	assert.Nil(t, v.Loads[0].Over)
	c.send("GET", "/api/devices/rehearse-abcdef12b/reading", nil).ok()
	c.send("GET", "/api/devices/rehearse-AB/reading", nil).refused(http.StatusNotFound, "")
	c.as("Ines")
	assert.Equal(t, before, get[production.BatchPage](c, "/api/batches").All, "no batch came of it")
}

// TestABaseFrozenOnTheDayIsFinishedLater: a base is counted in portions and frozen while it still waits for its
// reading; the plan of what it goes into knows of it; it is in no bowl before it is thawed and its batch is released.
func TestABaseFrozenOnTheDayIsFinishedLater(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	b := into[production.BatchView](c.send("POST", "/api/batches",
		map[string]any{"formula": "lime_garlic_base", "version": 1, "jars": 6,
			"made_on": noon().Format(time.DateOnly), "vessel": c.vessel("Blender jug 2")}).ok())
	w := &atBench{client: c, id: b.ID}
	for _, load := range b.Record.Loads {
		for _, e := range load.Errands {
			w.act("ticked", map[string]any{"load": load.No, "key": e.Key}).ok()
		}
		for _, l := range load.Lines {
			w.act("capture", w.pourInto(load.No, l, l.Now)).ok()
		}
		w.act("closed", map[string]any{"load": load.No}).ok()
	}
	w.act("fill", map[string]any{"jars": 6, "at": noon()}).ok()
	own := w.view().Lot
	require.Positive(t, own)
	part := into[production.LotView](c.send("POST", fmt.Sprintf("/api/lots/%d/parts", own),
		map[string]any{"grams": 1600,
			"day": noon().Format(time.DateOnly)}).ok())
	assert.Equal(t, "1600", part.Left.String())
	before := into[production.PlanView](c.send("POST", "/api/plan",
		map[string]any{"formula": "pumpkin_cumin_spread", "version": 1,
			"jars": 60, "made_on": noon().Format(time.DateOnly)}).ok())
	require.Len(t, before.Made, 1)
	assert.Equal(t, "Lime & garlic base", before.Made[0].Name)

	finish := c.bench("pumpkin_cumin_spread", 1, 40)
	line := finish.at("Lime & garlic base")
	use := func() reply {
		return finish.act("capture", map[string]any{"load": 1, "line": line.Line, "grams": line.Now, "saw": 0,
			"manual": true,
			"draws":  []map[string]any{{"code": part.Code, "grams": line.Now}}})
	}
	assert.Contains(t, use().refused(http.StatusUnprocessableEntity, "capture.draws[0].reason"), "on hold")
	c.send("POST", fmt.Sprintf("/api/lots/%d/acts", part.ID), map[string]any{"kind": "thawed",
		"thawed": map[string]any{"day": noon().Format(time.DateOnly)}})
	assert.Contains(t, use().refused(http.StatusUnprocessableEntity, "capture.draws[0].reason"), "on hold",
		"not before its own reading")
}
