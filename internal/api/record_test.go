package api

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// released bakes a batch of the beetroot dip up to its release on the equilibrium reading.
func released(t *testing.T, c *client, now *time.Time) *baker {
	t.Helper()
	b := bake(t, c, now)
	b.weighAndFill()
	*now = now.Add(25 * time.Hour)
	b.readAll(4.0)
	b.decide("released", "").ok()
	return b
}

// TestAJarOverTheLimitCallsBackFromAnyState tries the ways in which a bad reading stayed without effect.
func TestAJarOverTheLimitCallsBackFromAnyState(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	b := released(t, c, now)
	b.reading(0, "first", 5.2).ok()
	v := b.view()
	assert.Equal(t, bench.CalledBack, v.Record.State, "one reading is enough, supported or not")
	tasks := get[kernel.TodayView](c, "/api/today").Tasks
	mine := slices.IndexFunc(tasks, func(x kernel.Task) bool { return strings.Contains(x.Title, v.Code) })
	require.GreaterOrEqual(t, mine, 0)
	assert.Equal(t, []string{"call_back", "danger"}, []string{tasks[mine].Kind, tasks[mine].Level})
	assert.Contains(t, tasks[mine].Text, "12 jars made")
	assert.Equal(t, "call_back", tasks[mine-1].Kind, "with the demo's own before it")
	assert.Contains(t, c.send("POST", fmt.Sprintf("/api/labels/2/print?key=pp%d", b.id),
		map[string]any{"batch": b.id, "count": 2}).ok().header.Get("Content-Disposition"), "hold",
		"a called-back batch prints HOLD stickers only")
	b.as("Bram")
	b.write(map[string]any{"kind": "void", "void": map[string]any{"entry": v.Record.Readings[4].ID,
		"cause": "looked wrong to me"}}).refused(403, "")
	b.decide("hold", "it was the probe").refused(403, "")
	b.as("Ines")
	b.write(map[string]any{"kind": "void", "void": map[string]any{"entry": v.Record.Readings[4].ID,
		"cause": "the probe stood in the rinse cup"}}).ok()
	assert.Equal(t, bench.CalledBack, b.view().Record.State, "striking the reading does not undo it")
	b.decide("released", "").refused(422, "decision.reason")
	b.decide("released", "read again, the probe was dirty").ok()

	held := released(t, c, now)
	held.decide("hold", "a lid looked odd").ok()
	held.reading(0, "last", 4.9).ok()
	assert.Equal(t, bench.CalledBack, held.view().Record.State, "a hold after a release, too")
}

// TestFourBadReadingsStruckDoNotReleaseAgain strikes bad equilibrium readings after an early release.
func TestFourBadReadingsStruckDoNotReleaseAgain(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	b.readAll(4.0)
	b.decide("released", "").ok()
	*now = now.Add(25 * time.Hour)
	b.readAll(4.7)
	for _, r := range []int{4, 6} {
		id := b.view().Record.Readings[r].ID
		b.write(map[string]any{"kind": "void", "void": map[string]any{"entry": id, "cause": "no good"}}).refused(422,
			"void.cause")
		b.write(map[string]any{"kind": "void", "void": map[string]any{"entry": id,
			"cause": "no good, no good at all"}}).ok()
	}
	assert.Equal(t, bench.CalledBack, b.view().Record.State)
	assert.Contains(t, b.view().Record.Acidity.Sentence, "2 pairs of readings were struck")
}

// TestAClosingLookThatFailsAfterTheReleaseCallsBack and the list knows it without a page being opened.
func TestAClosingLookThatFailsAfterTheReleaseCallsBack(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	*now = now.Add(25 * time.Hour)
	check := b.readAll(4.0)
	b.decide("released", "").ok()
	b.send("POST", fmt.Sprintf("/api/meter-checks/%d/closing", check),
		map[string]any{"closing_ph": 4.2, "closing_temperature_c": 25}).ok()
	assert.Equal(t, bench.CalledBack, get[production.BatchPage](b.client,
		"/api/batches?state=called_back").Batches[0].State)
	assert.Contains(t, b.view().Record.Recalled[0].Why, "no longer stands")
	assert.Equal(t, "Ines", b.view().Record.Recalled[0].By)
}

// TestWhatOneDecidedAnotherDoesNotUndoFromAnOldPage rejects on one page and releases from another, at once and later.
func TestWhatOneDecidedAnotherDoesNotUndoFromAnOldPage(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	*now = now.Add(25 * time.Hour)
	b.readAll(4.0)
	seen := b.view().Record.Last
	decide := func(state, reason string, seen int64) reply {
		return b.write(map[string]any{"kind": "decision",
			"decision": map[string]any{"state": state, "reason": reason, "seen": seen}})
	}
	decide("released", "", 0).refused(422, "decision.seen")
	decide("rejected", "glass in the bowl", seen).ok()
	b.as("Bram")
	old := decide("released", "", seen)
	old.refused(409, "")
	var clash struct {
		Code    string               `json:"code"`
		Current production.BatchView `json:"current"`
	}
	require.NoError(t, json.Unmarshal(old.body, &clash))
	assert.Equal(t, "behind", clash.Code)
	assert.Equal(t, bench.Rejected, clash.Current.Record.State, "what happened meanwhile comes along")
	b.decide("released", "but it is fine").refused(422, "")
	b.decide("hold", "I smelled it again").refused(403, "")
	assert.Equal(t, "rejected", b.view().Record.State)
	b.as("Ines")
	b.decide("hold", "smelled again by two of us").ok()
}

// TestReleaseAndRejectAtOnceLeaveOneDecision sends both side by side.
func TestReleaseAndRejectAtOnceLeaveOneDecision(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	*now = now.Add(25 * time.Hour)
	b.readAll(4.0)
	seen := b.view().Record.Last
	b.as(b.name)
	got := make(chan int, 2)
	for i, state := range []string{"released", "rejected"} {
		go func() {
			got <- b.send("POST", fmt.Sprintf("/api/batches/%d/entries?key=race%d", b.id, i), map[string]any{
				"kind": "decision", "decision": map[string]any{"state": state, "reason": "at once",
					"seen": seen}}).status
		}()
	}
	assert.ElementsMatch(t, []int{200, 409}, []int{<-got, <-got})
}

// TestAnEarlierFillingDoesNotAgeAReading enters the filling again, 59 hours earlier, and an owner corrects one.
func TestAnEarlierFillingDoesNotAgeAReading(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	*now = now.Add(72 * time.Hour)
	c.app.Now = func() time.Time { return *now }
	c.as("Bram")
	v := into[production.BatchView](c.send("POST", "/api/batches", map[string]any{"formula": "beetroot_horseradish_dip",
		"version": 2, "jars": 12, "made_on": now.Add(-72 * time.Hour).Format("2006-01-02")}).ok())
	b := &baker{c, v.ID, 0, now}
	b.weighAndFill()
	b.readAll(4.0)
	again := func(reason string) reply {
		return b.write(map[string]any{"kind": "fill", "fill": map[string]any{"jars": 12,
			"at": now.Add(-59 * time.Hour), "reason": reason}})
	}
	again("").ok()
	assert.Equal(t, "first_day", b.view().Record.Readings[0].Moment, "the latest time counts")
	again("I know better").ok()
	assert.Equal(t, "first_day", b.view().Record.Readings[0].Moment, "a maker's reason replaces nothing")
	b.as("Ines")
	again("the clock on the wall was wrong").ok()
	r := b.view().Record
	assert.Equal(t, "equilibrium", r.Readings[0].Moment, "an owner corrects the times entered so far")
	assert.NotEmpty(t, r.Late, "entries made so late are marked")
	b.write(map[string]any{"kind": "fill", "fill": map[string]any{"jars": 12, "at": *now}}).ok()
	assert.Equal(t, "first_day", b.view().Record.Readings[0].Moment, "later ones count again")
}

// TestLowRepeatsAndALoneRetestPullNothingDown reads jars near the limit and tries both ways of talking them down.
func TestLowRepeatsAndALoneRetestPullNothingDown(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	*now = now.Add(25 * time.Hour)
	b.readAll(4.58)
	check := b.check()
	for range 10 {
		b.reading(check.ID, "first", 4.0).ok()
	}
	assert.InDelta(t, 4.58, b.view().Record.Acidity.Highest, 1e-9)
	assert.Equal(t, "retest", b.view().Record.Acidity.Outcome)
	for _, jar := range []string{"first", "first", "last", "last"} {
		b.write(map[string]any{"kind": "reading", "reading": map[string]any{"load": 1, "jar": jar, "sample": 2,
			"preparation": "semi_solid", "fraction": "paste", "ph": 3.8, "sample_temperature_c": 22,
			"meter_check": check.ID, "at": *now}}).ok()
	}
	assert.Equal(t, "hold", b.view().Record.Acidity.Outcome, "a retest that disagrees does not count")
	b.decide("released", "the retest was fine").refused(422, "")
}

// TestALargeCorrectionCountsAsAnAddition corrects the vinegar in typing, by a maker and by an owner.
func TestALargeCorrectionCountsAsAnAddition(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	*now = now.Add(25 * time.Hour)
	b.readAll(4.0)
	correct := func(share float64, slip string) reply {
		l := b.view().Record.Lines[3]
		w := map[string]any{"line": l.Line, "grams": float64(int(l.Actual.Float()*share*10)) / 10,
			"correction": true, "over": l.Entry}
		if slip != "" {
			w["slip"] = slip
		}
		return b.write(map[string]any{"kind": "weighing", "weighing": w})
	}
	stands := func() bool { return b.view().Record.Readings[0].Void == "" }
	b.as("Bram")
	correct(0.99, "").ok()
	assert.True(t, stands(), "a small slip leaves the readings")
	correct(0.01, "typed one digit too few").refused(403, "")
	assert.True(t, stands())
	b.as("Ines")
	correct(0.8, "the scale read 232 and I typed 290").ok()
	assert.True(t, stands(), "an owner confirmed the slip")
	correct(0.01, "").ok()
	assert.False(t, stands(), "unconfirmed it is an addition")
}

// TestTwoTabletsOnOneLine weighs one line from two screens.
func TestTwoTabletsOnOneLine(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	line := b.view().Record.Lines[0]
	weigh := func(grams float64, over int64) reply {
		return b.write(map[string]any{"kind": "weighing",
			"weighing": map[string]any{"line": line.Line, "grams": grams, "over": over}})
	}
	b.as("Ola")
	first := into[production.BatchView](weigh(1355.9, 0).ok()).Record.Lines[0]
	b.as("Bram")
	assert.Contains(t, weigh(1400, 0).refused(409, ""), "Ola weighed this line meanwhile: 1355.9 g")
	weigh(1400, first.Entry).ok()
}

// TestJarsAreCountedAgainstTheGrams fills more than was weighed.
func TestJarsAreCountedAgainstTheGrams(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	fill := func(jars int) reply {
		return b.write(map[string]any{"kind": "fill", "fill": map[string]any{"jars": jars, "at": *now}})
	}
	assert.Contains(t, fill(5000).refused(422, "fill.jars"), "fills 13 jars at most")
	fill(14).refused(422, "fill.jars")
	fill(13).ok()
}

// TestYesterdaysMeterCheckMayBeEnteredLate and supports what is entered after it.
func TestYesterdaysMeterCheckMayBeEnteredLate(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	*now = now.Add(40 * time.Hour)
	read := now.Add(-14 * time.Hour)
	b.as(b.name)
	check := into[production.MeterCheckView](b.send("POST", "/api/meter-checks",
		map[string]any{"meter": "m", "ph_buffer_4": 4.02,
			"ph_buffer_7": 7.01, "buffer_temperature_c": 25, "checked_at": read.Add(-time.Hour)}).ok())
	assert.True(t, check.Late && check.Accepted, "%+v", check)
	assert.Nil(t, check.Slope, "a meter without millivolts has none")
	for _, jar := range []string{"first", "first", "last", "last"} {
		b.write(map[string]any{"kind": "reading", "reading": map[string]any{"load": 1, "jar": jar, "sample": 1,
			"preparation": "semi_solid", "fraction": "paste", "ph": 4.0, "sample_temperature_c": 22,
			"meter_check": check.ID, "at": read}}).ok()
	}
	v := b.view()
	assert.True(t, v.CanRelease, "%v", v.Record.Missing)
	assert.Len(t, v.Record.Late, 5, "the check and its readings are marked")
	b.send("POST", "/api/meter-checks", map[string]any{"meter": "m", "ph_buffer_4": 4.02, "buffer_temperature_c": 25}).
		refused(422, "mv_buffer_4")
}

// TestABatchIsPlannedForTomorrow and weighed on its day.
func TestABatchIsPlannedForTomorrow(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	c.app.Now = func() time.Time { return *now }
	v := into[production.BatchView](c.send("POST", "/api/batches", map[string]any{"formula": "beetroot_horseradish_dip",
		"version": 2, "jars": 12, "made_on": now.AddDate(0, 0, 1).Format("2006-01-02")}).ok())
	b := &baker{c, v.ID, 0, now}
	l := v.Record.Lines[0]
	weigh := map[string]any{"kind": "weighing", "weighing": map[string]any{"line": l.Line, "grams": l.Grams}}
	b.write(weigh).refused(422, "weighing.line")
	*now = now.AddDate(0, 0, 1)
	b.write(weigh).ok()
}

// TestTheShopsZoneDecidesTheDay checks a meter late in the evening of one zone and reads after its midnight.
func TestTheShopsZoneDecidesTheDay(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	shop := get[office.ShopView](c, "/api/shop")
	shop.TimeZone = "Mars/Olympus"
	c.send("PUT", fmt.Sprintf("/api/shop?rev=%d", shop.Rev), shop.Settings).refused(422, "time_zone")
	shop.TimeZone = "Pacific/Auckland" // 13 hours ahead: noon in London is one in the morning of the next day
	c.send("PUT", fmt.Sprintf("/api/shop?rev=%d", shop.Rev), shop.Settings).ok()
	b := bake(t, c, now)
	b.weighAndFill()
	*now = time.Date(2026, 11, 26, 13, 30, 0, 0, time.UTC)
	b.as(b.name)
	check := b.check()
	assert.True(t, check.Today)
	b.reading(check.ID, "first", 4.0).ok()
	assert.Empty(t, b.view().Record.Readings[0].Unsupported)
	*now = time.Date(2026, 11, 27, 10, 59, 0, 0, time.UTC) // 23:59 there
	b.as(b.name)
	check = b.check()
	*now = now.Add(2 * time.Minute)
	b.reading(check.ID, "first", 4.0).ok()
	assert.Contains(t, b.view().Record.Readings[1].Unsupported, "another day")
	assert.False(t, get[[]production.MeterCheckView](c, "/api/meter-checks")[0].Today)

	dated := func(day string) reply {
		return c.attach(paper, map[string]string{"formula": "beetroot_horseradish_dip", "kind": "listeria_study",
			"title": "Challenge test", "days": "18", "why": "the counts are in",
			"covers": `{"versions":[2],"law":"GB","product":"Beetroot dip","max_ph":4.6,"storage":"chilled",` +
				`"issued_by":"A made-up laboratory","dated":"` + day + `"}`})
	}
	c.as("Ines")
	dated("2026-11-29").refused(422, "dated")
	dated("2026-11-28").ok() // it is one past midnight of that day there
	shop = get[office.ShopView](c, "/api/shop")
	shop.TimeZone = "Pacific/Honolulu" // where it is still the day before
	c.send("PUT", fmt.Sprintf("/api/shop?rev=%d", shop.Rev), shop.Settings).ok()
	dated("2026-11-28").refused(422, "dated")
	c.send("POST", "/api/formulas/beetroot_horseradish_dip/trials", formula.Trial{Version: 2, MadeOn: "2026-11-28",
		Lines: []formula.TrialLine{{Ingredient: "beetroot_cooked", Grams: amount.G(600)}}}).
		refused(422, "made_on")
}

// TestAnEarlyReleaseRunsOutOnEveryScreen lets two days pass without the equilibrium reading.
func TestAnEarlyReleaseRunsOutOnEveryScreen(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	b.readAll(4.0)
	b.decide("released", "").ok()
	state := func() string {
		for _, row := range get[production.BatchPage](b.client, "/api/batches").Batches {
			if row.ID == b.id {
				return row.State
			}
		}
		return ""
	}
	*now = now.Add(72*time.Hour - time.Second)
	b.as(b.name)
	assert.Equal(t, bench.Released, state())
	*now = now.Add(time.Second)
	assert.Equal(t, bench.OnHold, state(), "the list knows it before anybody opens the page")
	assert.True(t, b.view().Record.RanOut)
	assert.True(t, b.view().Record.Out)
}

// TestASecondPersonReleases where the shop asks for one.
func TestASecondPersonReleases(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	shop := get[office.ShopView](c, "/api/shop")
	shop.SecondPerson = true
	c.send("PUT", fmt.Sprintf("/api/shop?rev=%d", shop.Rev), shop.Settings).ok()
	b := bake(t, c, now)
	b.as("Bram")
	b.weighAndFill()
	*now = now.Add(25 * time.Hour)
	b.readAll(4.0)
	assert.Contains(t, b.decide("released", "").refused(403, ""), "second person")
	b.as("Ines")
	b.decide("released", "").refused(403, "")
	b.as("Noor")
	b.decide("released", "").ok()
}
