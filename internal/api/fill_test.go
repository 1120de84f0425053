package api

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/shop"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// weighJars weighs full jars of so many grams net.
func (b *baker) weighJars(nets ...float64) reply {
	b.t.Helper()
	gross := make([]float64, len(nets))
	for i, n := range nets {
		gross[i] = n + 120
	}
	w := map[string]any{"tare_g": 120, "gross_g": gross, "scale": "Bench scale"}
	if n := b.view().Record.Net; n != nil {
		w["over"] = n.Entry
	}
	return b.write(map[string]any{"kind": "net_weights", "net_weights": w})
}

func (b *baker) counted(body map[string]any) reply {
	b.t.Helper()
	all := map[string]any{"residue_g": 0, "sample_g": 0, "seals": 12, "seals_failed": 0, "clean_down": false}
	for k, v := range body {
		all[k] = v
	}
	return b.write(map[string]any{"kind": "counted", "counted": all})
}

func (b *baker) missing() string { return strings.Join(b.view().Record.Missing, "; ") }

func TestShortJarsHoldABatchAndRaiseTheFill(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	for _, l := range b.view().Record.Lines {
		b.write(map[string]any{"kind": "weighing", "weighing": b.weighing(b.id, l, l.Grams)}).ok()
	}
	b.counted(nil).refused(422, "")
	b.write(map[string]any{"kind": "fill", "fill": map[string]any{"jars": 12, "at": *now}}).ok()
	assert.Contains(t, b.missing(), "the net weights of 3 jars")
	b.weighJars(190, -130, 190).refused(422, "net_weights.gross_g.1")
	b.weighJars(190, 190, 900).refused(422, "net_weights.gross_g.2")
	b.weighJars(188, 189, 181).ok()
	n := b.view().Record.Net
	assert.Equal(t, []string{"181.4", "172.8"}, []string{n.Least.String(), n.Lowest.String()})
	assert.Equal(t, 1, n.Short)
	assert.Contains(t, b.missing(), "the average of 186 g is under the 190 g of the label")
	*now = now.Add(26 * time.Hour)
	b.readAll(4.05)
	assert.Contains(t, b.decide("released", "").refused(422, ""), "1 jar is under 181.4 g")

	b.as("Ola")
	aim := b.send("POST", fmt.Sprintf("/api/batches/%d/entries?key=helper-aims", b.id),
		map[string]any{"kind": "aimed", "aimed": map[string]any{"grams": n.Target, "reason": "one was short"}})
	aim.refused(403, "")
	b.as("Ines")
	b.write(map[string]any{"kind": "aimed", "aimed": map[string]any{"grams": 180, "reason": "thrift"}}).
		refused(422, "aimed.grams")
	b.write(map[string]any{"kind": "aimed", "aimed": map[string]any{"grams": n.Target}}).refused(422, "aimed.reason")
	b.write(map[string]any{"kind": "aimed", "aimed": map[string]any{"grams": n.Target,
		"reason": "one of three was short"}}).
		ok()
	plan := into[production.PlanView](b.send("POST", "/api/plan", map[string]any{"formula": "beetroot_horseradish_dip",
		"version": 2, "jars": 48, "made_on": now.Format(time.DateOnly)}).ok())
	require.NotNil(t, plan.Aim)
	assert.Equal(t, "one of three was short", plan.Aim.Reason)
	assert.InDelta(t, (n.Target.Float()/190-1)*100, plan.Over.Float(), 0.01, "the next batch is planned with it")

	b.weighJars(191, 192, 190.5).ok()
	b.counted(map[string]any{"seals": 40, "reason": "x"}).refused(422, "counted.seals")
	b.counted(map[string]any{"seals_failed": 1, "reason": "x"}).refused(422, "counted.seals_failed")
	b.counted(map[string]any{"residue_g": 5000}).refused(422, "counted")
	v := b.view()
	require.NotNil(t, v.Balance)
	assert.Equal(t, v.Balance.In, v.Balance.Jars.Plus(v.Balance.Unexplained))
	require.True(t, v.Balance.AsksReason, "a litre of mayonnaise does not fill itself away: %s %%", v.Balance.Share)
	b.counted(nil).refused(422, "counted.reason")
	left := v.Balance.Unexplained.Float()
	b.counted(map[string]any{"residue_g": left, "clean_down": true}).ok()
	v = b.view()
	assert.Zero(t, v.Balance.Unexplained.Float())
	into[production.BatchView](b.decide("released", "").ok())
	told := fmt.Sprint(get[office.HistoryPage](b.client, fmt.Sprintf("/api/history?of=batch&id=%d", b.id)).Rows)
	for _, want := range []string{"weighed full jars, 120 g empty: 311, 312, 310.5 g",
		"looked at 12 seals, 0 of them failed",
		"set the fill of the next jars to"} {
		assert.Contains(t, told, want)
	}
	b.weighJars(191, 191, 191).refused(422, "")
}

// TestALateTickCleansNothingUpAfterAnother: the cutter held another product since; that the first says now that it was
// cleaned down after it takes nothing of the second's allergens away.
func TestALateTickCleansNothingUpAfterAnother(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	w := c.bench("pea_pistachio_spread", 2, 48)
	line := w.at("Green peas")
	w.act("capture", w.pour(line, line.Now)).ok()
	cutter := c.vessel("12 L cutter")
	last := func() kernel.VesselEntry {
		for _, v := range get[[]production.VesselView](c, "/api/vessels") {
			if v.ID == cutter {
				return v.Entries[0]
			}
		}
		return kernel.VesselEntry{}
	}
	count := func() {
		w.act("counted", map[string]any{"residue_g": 0, "sample_g": 0, "seals": 1, "seals_failed": 0,
			"clean_down": true, "reason": "a test"}).ok()
	}
	w.act("fill", map[string]any{"jars": 4, "at": noon()}).ok()
	c.send("POST", fmt.Sprintf("/api/vessels/%d/turns", cutter), map[string]any{"kind": "used", "what": "Crab paste",
		"at": noon(), "allergens": map[string]any{"gb": []string{"crustacean"},
			"us": []string{"crustacean:crab"}}}).ok()
	count()
	assert.Equal(t, "Crab paste", last().What, "the crab is in it still")

	own := c.bench("pea_pistachio_spread", 2, 48)
	line = own.at("Green peas")
	own.act("capture", own.pour(line, line.Now)).ok()
	own.act("fill", map[string]any{"jars": 4, "at": noon()}).ok()
	w = own
	count()
	assert.Equal(t, bench.VesselCleaned, last().Kind, "nothing came after this one")
}

// TestWhereTheLawLeavesItToATableTheShopEntersIt: under the law of the US only the average is judged until then.
func TestWhereTheLawLeavesItToATableTheShopEntersIt(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	set := func(change func(s *shop.Settings)) reply {
		shop := get[office.ShopView](b.client, "/api/shop")
		change(&shop.Settings)
		return b.send("PUT", fmt.Sprintf("/api/shop?rev=%d", shop.Rev), shop.Settings)
	}
	set(func(s *shop.Settings) { s.Regime = "US" }).ok()
	assert.True(t, b.view().Net.Short.IsZero())
	table := func(source string, steps ...map[string]any) reply {
		shop := asMap(t, get[office.ShopView](b.client, "/api/shop").Settings)
		shop["allowable"], shop["allowable_source"] = steps, source
		return b.send("PUT", fmt.Sprintf("/api/shop?rev=%d", get[office.ShopView](b.client, "/api/shop").Rev), shop)
	}
	step := func(to, percent, fixed float64) map[string]any {
		return map[string]any{"to": to, "percent": percent, "fixed": fixed}
	}
	table("", step(200, 0, 10)).refused(422, "allowable_source")
	table("handbook", step(200, 0, 10), step(100, 0, 12)).refused(422, "allowable.1")
	table("handbook", step(200, 5, 10)).refused(422, "allowable.0")
	table("handbook", step(200, 0, 300)).refused(422, "allowable.0")
	table("the state's table of 2026", step(100, 5, 0), step(200, 0, 10)).ok()
	rule := b.view().Net
	assert.Equal(t, "10", rule.Short.String())
	assert.False(t, rule.Twice)
	assert.Contains(t, rule.Source, "the state's table of 2026")
}
