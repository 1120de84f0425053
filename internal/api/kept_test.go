package api

import (
	"fmt"
	"testing"
	"time"

	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/store"

	"github.com/stretchr/testify/assert"
)

// TestWhatChangesBetweenTwoEntriesIsSeenAtTheNext: prices, rules, vessels and other tablets move on while a batch is
// weighed; what an entry answers is always what a fresh look at the batch shows.
func TestWhatChangesBetweenTwoEntriesIsSeenAtTheNext(t *testing.T) {
	t.Parallel()
	s := shown.New(t, func(s *store.Store) error { return fillDemo(s, kitchen(t), noon) })
	c := serve(t, s, noon())
	fresh := func(id int64) string {
		t.Helper()
		return string(c.raw("GET", fmt.Sprintf("/api/batches/%d", id), "", nil).ok().body)
	}
	for range 2 {
		plan := c.send("POST", "/api/batches", map[string]any{"formula": "pea_pistachio_spread", "version": 2,
			"jars": 48, "made_on": noon().Format(time.DateOnly), "vessel": c.vessel("12 L cutter")}).ok()
		assert.JSONEq(t, fresh(into[production.BatchView](plan).ID), string(plan.body), "as it was planned")
	}
	w := c.bench("pea_pistachio_spread", 2, 48)
	var open []string
	for _, l := range w.view().Record.Loads[0].Lines {
		if l.Held.IsZero() && l.Name != "Water" {
			open = append(open, l.Name)
		}
	}
	next := func() production.BatchView {
		t.Helper()
		l := w.at(open[0])
		open = open[1:]
		got := w.act("capture", w.pour(l, l.Now)).ok()
		assert.JSONEq(t, fresh(w.id), string(got.body))
		return into[production.BatchView](got)
	}
	next()
	before := next()

	shop := get[office.ShopView](c, "/api/shop")
	other := law.GB
	if before.Regime == law.GB {
		other = law.US
	}
	shop.Settings.Regime = other
	c.send("PUT", fmt.Sprintf("/api/shop?rev=%d", shop.Rev), shop.Settings).ok()
	assert.Equal(t, other, next().Regime, "the rules of the shop")

	c.send("POST", fmt.Sprintf("/api/vessels/%d/turns", c.vessel("12 L cutter")), map[string]any{"kind": "used",
		"what": "Crab paste", "at": noon().Add(-time.Minute), "allergens": map[string]any{"gb": []string{"crustacean"},
			"us": []string{"crustacean:crab"}}}).ok()
	contact := next().Contact
	assert.Contains(t, fmt.Sprint(contact.MayContain), "Crab paste", "what was in the vessel before")

	c.change("pistachio", "", func(g *pantry.Ingredient) { g.Note = "of the new harvest" }).ok()
	next()

	second := &atBench{client: serve(t, s, noon()), id: w.id, n: 100}
	l := w.at(open[0])
	open = open[1:]
	second.act("capture", w.pour(l, l.Now)).ok()
	was := w.view().Record.Last
	assert.Equal(t, was+2, next().Record.Last,
		"another tablet's entry, by another server, lies before the tare and this one")
}
