package api

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/production"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// oil plans a batch of the demo's slow garlic oil and brings it into its jars.
func oil(t *testing.T, c *client, now *time.Time) *baker {
	t.Helper()
	c.app.Now = func() time.Time { return *now }
	v := into[production.BatchView](c.send("POST", "/api/batches",
		map[string]any{"formula": "slow_garlic_oil", "version": 1, "jars": 12,
			"made_on": now.Format(time.DateOnly)}).ok())
	b := &baker{c, v.ID, 0, now}
	b.weighAndFill()
	return b
}

func (b *baker) strained(clear bool) reply {
	return b.write(map[string]any{"kind": "strained", "strained": map[string]any{"clear": clear}})
}

// kept are the chilled days of a sheet under the law of the demo shop; -1 for none.
func kept(s catalog.SheetView) int {
	if d := s.Panel.Keeping[law.GB].Days; d != nil {
		return *d
	}
	return -1
}

// TestAnInfusedOilIsReleasedOnTheWordOfWhoStrainedIt: no water, so no reading; four days, use by, and cold.
func TestAnInfusedOilIsReleasedOnTheWordOfWhoStrainedIt(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	b := oil(t, c, now)
	assert.Contains(t, b.decide("released", "").refused(422, ""), "strained", "not before somebody looked at it")
	b.as("Bram")
	b.strained(false).ok()
	assert.False(t, b.view().CanRelease, "cloudy is not clear")
	b.strained(true).ok()
	v := b.view()
	assert.True(t, v.CanRelease)
	require.NotNil(t, v.Keeping[law.GB].Days)
	assert.Equal(t, 4, *v.Keeping[law.GB].Days)
	b.as("Ines")
	out := into[production.BatchView](b.decide("released", "").ok())
	assert.Equal(t, bench.Released, out.Record.State)
	assert.Equal(t, keeping.UseBy, *out.Keeping[law.GB].DateKind)
	assert.Equal(t, day.Day(now.AddDate(0, 0, 4).Format(time.DateOnly)), out.LastDay[law.GB])

	dip := bake(t, c, now)
	dip.weighAndFill()
	assert.NotEmpty(t, dip.strained(true).refused(422, ""), "a dip is read with the meter and not by eye")
	assert.False(t, dip.view().CanRelease)
}

// TestConfitPassesOnWhatLayInIt: the oil of a step of one's own, its cost and its words.
func TestConfitPassesOnWhatLayInIt(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	strained := c.add("Saved oil", func(g *pantry.Ingredient) {
		g.Role, g.Composition = "oil",
			pantry.Composition{Fat: 100}
	})
	c.send("POST", "/api/preparations", map[string]any{"id": "", "name": "strain", "input": "garlic_infused_oil",
		"output": strained.ID, "yield_percent": 98, "spread_percent": 1, "labour_min_per_kg": 5, "wait_min": 0,
		"typical": false}).ok()
	s := c.sheetOf("Saved oil in jars", strained.ID, 1000)
	assert.Equal(t, 4, kept(s))
	require.NotEmpty(t, s.Panel.Cautions)
	assert.Equal(t, "danger", s.Panel.Cautions[0].Level, "the danger stands first")
	assert.Contains(t, s.Panel.Declaration[law.GB].List, "garlic")
	assert.Greater(t, s.Panel.Cost.PerJar.Float(), 0.0, "oil went into the pan and is paid for")
}

// TestFreshPlantsAreNotShakenAway: a style is believed only where it fits.
func TestFreshPlantsAreNotShakenAway(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	for _, plant := range []string{"garlic_raw", "basil_leaves", "dill_bunch", "carrot"} {
		s := c.sheetOf("Shaken with "+plant, "rapeseed_oil", 300, "vinegar_cider", 200, plant, 40)
		shaken := into[catalog.SheetView](c.put(s, func(v map[string]any) {
			v["style_by_lines"] = false
			v["keeping"].(map[string]any)["styles"] = []string{"shaken_nothing_fresh"}
		}).ok())
		assert.LessOrEqual(t, kept(shaken), 30, plant)
	}
}

// TestAShelfWishIsRefusedWithItsReason: in words, and no version locks with it.
func TestAShelfWishIsRefusedWithItsReason(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	s := c.sheetOf("Shelf dip", "carrot", 300, "vinegar_cider", 100)
	s = into[catalog.SheetView](c.put(s, func(v map[string]any) {
		v["keeping"].(map[string]any)["asked"] = keeping.Ambient
	}).ok())
	verdict := s.Panel.Keeping[law.GB]
	assert.Equal(t, keeping.Chilled, verdict.Condition)
	assert.NotEmpty(t, verdict.AmbientLacks)
	at := "/api/formulas/" + s.Formula + "/versions/1"
	points := get[[]assess.Point](c, at+"/before-lock")
	shelf := slices.IndexFunc(points, func(p assess.Point) bool { return p.Blocks })
	require.GreaterOrEqual(t, shelf, 0)
	assert.Contains(t, strings.ToLower(points[shelf].Title+points[shelf].Text), "ambient")
	c.lock(at, s.Rev).refused(422, "")
}

// TestTheListBeforeALockNamesEveryLineWithoutGrams: all of them at once, beside what else stands in the way.
func TestTheListBeforeALockNamesEveryLineWithoutGrams(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	s := c.sheetOf("Half weighed", "carrot", 300, "dill", 0, "red_pepper_roasted_jar", 40, "salt_sea_fine", 0)
	titles := func(at string) (out []string) {
		for _, p := range get[[]assess.Point](c, at+"/before-lock") {
			if p.Blocks {
				out = append(out, p.Title)
			}
		}
		return out
	}
	at := "/api/formulas/" + s.Formula + "/versions/1"
	assert.Equal(t, []string{"Weigh Dill, raw", "Weigh Fine sea salt", "Look at Roasted red peppers, jarred, drained"},
		titles(at))
	c.lock(at, s.Rev).refused(422, "lines[1].grams")
	c.send("POST", "/api/formulas", map[string]any{"name": "Nothing yet"}).ok()
	assert.Equal(t, []string{"There is nothing in it"}, titles("/api/formulas/nothing_yet/versions/1"))
}

// TestWaterCannotBeDrivenOffTwice: no more than the bowl holds, and what is left needs its reading.
func TestWaterCannotBeDrivenOffTwice(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	s := c.sheetOf("Reduction", "tomato", 1000, "salt_sea_fine", 9)
	over := func(g float64) reply { return c.put(s, func(v map[string]any) { v["water_driven_off_g"] = g }) }
	assert.Contains(t, over(990).refused(422, "water_driven_off_g"), "water")
	s = into[catalog.SheetView](over(900).ok())
	assert.False(t, s.Panel.PH.NoWater)
}

// TestLotsOfWhatSpoilsAskForTheirUseBy: fresh herbs, thawed peas, coconut cream, infused oil, cooked vegetables.
func TestLotsOfWhatSpoilsAskForTheirUseBy(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	for _, id := range []string{"basil_leaves", "peas_frozen", "coconut_cream", "garlic_infused_oil",
		"red_pepper_roasted"} {
		got := c.send("POST", "/api/deliveries", map[string]any{"supplier": fenwick, "note": "n-" + id,
			"day": c.app.Now().Format(time.DateOnly), "lots": []any{map[string]any{"ingredient": id, "pack": "1 kg",
				"accept": true, "arrival_c": 3}}})
		assert.NotEmpty(t, got.refused(422, "lots[0].ends"), id)
	}
}

// TestAFirstReadingOverTheLimitSpeaks: 5.2 on the first day does not pass without a word.
func TestAFirstReadingOverTheLimitSpeaks(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	b := bake(t, c, now)
	b.weighAndFill()
	b.readAll(5.2)
	v := b.view()
	assert.False(t, v.CanRelease)
	assert.Contains(t, strings.ToLower(fmt.Sprint(v.Record.Acidity)), "over the limit")
}

// TestAVersionsOwnLimitBinds: 4.3 was set for this product, and 4.4 is over it, whatever 4.6 allows others.
func TestAVersionsOwnLimitBinds(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	s := c.sheetOf("Sharp dip", "carrot", 800, "vinegar_cider", 250)
	s = into[catalog.SheetView](c.put(s, func(v map[string]any) { v["ph_limit"], v["ph_target"] = 4.3, 4.0 }).ok())
	c.lock("/api/formulas/"+s.Formula+"/versions/1", s.Rev).ok()
	c.app.Now = func() time.Time { return *now }
	v := into[production.BatchView](c.send("POST", "/api/batches", map[string]any{"formula": s.Formula, "version": 1,
		"jars": 12, "made_on": now.Format(time.DateOnly)}).ok())
	b := &baker{c, v.ID, 0, now}
	b.weighAndFill()
	*now = now.Add(26 * time.Hour)
	b.readAll(4.4)
	v = b.view()
	assert.False(t, v.CanRelease)
	assert.Contains(t, v.Record.Acidity.Sentence, "4.30")
}

// TestLargePiecesInOilAreReadAsPieces: the watery layer under 25 mm hearts says nothing of the hearts.
func TestLargePiecesInOilAreReadAsPieces(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	s := c.sheetOf("Hearts in oil", "carrot", 400, "rapeseed_oil", 400, "vinegar_cider", 80)
	s = into[catalog.SheetView](c.put(s, func(v map[string]any) {
		v["largest_piece_mm"], v["product_style"] = 25, "pourable dressing"
	}).ok())
	c.lock("/api/formulas/"+s.Formula+"/versions/1", s.Rev).ok()
	v := into[production.BatchView](c.send("POST", "/api/batches", map[string]any{"formula": s.Formula, "version": 1,
		"jars": 2, "made_on": noon().Format(time.DateOnly)}).ok())
	assert.Equal(t, []string{"pieces_in_oil"}, v.Samples)
}
