package api

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/app/release"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/recall"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// begins starts a recall.
func (c *client) begins(n map[string]any) release.RecallView {
	c.t.Helper()
	return into[release.RecallView](c.send("POST", "/api/recalls", n).ok())
}

// acts writes an act into a recall, under a key of its own.
func (c *client) acts(id int64, kind string, body map[string]any) reply {
	c.t.Helper()
	c.acted++
	entry := map[string]any{"kind": kind}
	if body != nil {
		entry[kind] = body
	}
	return c.send("POST", fmt.Sprintf("/api/recalls/%d/entries?key=act-%d", id, c.acted), entry)
}

// recallTask is what the first screen says of recalls or drills.
func (c *client) tasks(kind string) []kernel.Task {
	c.t.Helper()
	var out []kernel.Task
	for _, t := range get[kernel.TodayView](c, "/api/today").Tasks {
		if t.Kind == kind {
			out = append(out, t)
		}
	}
	return out
}

// finds looks at every line of a recall: all is there but so many of the first, and everybody was told.
func (c *client) finds(v release.RecallView, missing int) {
	c.t.Helper()
	for _, p := range v.Parties {
		c.acts(v.ID, "told", map[string]any{"party": p.ID, "how": "by phone, they set it apart"}).ok()
	}
	for _, l := range v.Lines {
		found := l.Jars - missing
		missing = 0
		switch {
		case l.Written:
			missing = l.Jars - found
		case l.Place == bench.With:
			c.acts(v.ID, "answered", map[string]any{"party": l.Party, "batch": l.Batch, "held": found, "sold": 0}).ok()
		default:
			c.acts(v.ID, "counted", map[string]any{"batch": l.Batch, "place": l.Place, "jars": found}).ok()
		}
	}
}

// TestADrillLooksForEveryJar begins at a lot of the demo that went into a component, and touches no batch.
func TestADrillLooksForEveryJar(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	now := noon()
	c.app.Now = func() time.Time { return now }
	lot := c.lotInsideAComponent()
	before := get[production.BatchPage](c, "/api/batches")
	c.as("Ola")
	c.send("POST", "/api/recalls", map[string]any{"mock": true, "why": "Yearly drill, as agreed", "lot": lot}).
		refused(403, "")
	c.as("Bram")
	c.send("POST", "/api/recalls", map[string]any{"mock": true, "why": "drill", "lot": lot}).refused(422, "why")
	c.send("POST", "/api/recalls", map[string]any{"mock": true, "why": "Yearly drill, as agreed", "code": "nothing"}).
		refused(422, "code")
	v := c.begins(map[string]any{"mock": true, "why": "Yearly drill, as agreed", "lot": lot})
	forward := c.trace(fmt.Sprintf("lot=%d", lot))
	assert.Equal(t, forward.Account.Made, v.Account.Made, "as many jars as the trace finds")
	assert.Equal(t, forward.Account.With, v.Account.Out)
	assert.Equal(t, v.Account.Made-v.Account.Gone, v.Account.Open, "what the book says is not found yet")
	assert.Equal(t, forward.Title, v.Title)
	require.Len(t, c.tasks("recall"), 1)
	assert.Equal(t, "needs_you", c.tasks("recall")[0].Level)
	for _, l := range v.Letters {
		assert.True(t, strings.HasPrefix(l.Text, "EXERCISE ONLY"), l.Text)
	}
	require.NotEmpty(t, v.Parties, "the demo's ginger went to somebody")
	now = now.Add(11 * time.Minute)
	c.finds(v, 2)
	v = get[release.RecallView](c, fmt.Sprintf("/api/recalls/%d", v.ID))
	assert.Zero(t, v.Account.Open)
	assert.Equal(t, 2, v.Account.Missing)
	assert.Equal(t, 11*time.Minute, v.ToldAll.Sub(v.Began), "the time it took until all were told")
	text := string(c.send("GET", fmt.Sprintf("/api/recalls/%d/letters.txt", v.ID), nil).ok().body)
	assert.Contains(t, text, v.Parties[0].Name)
	c.as("Ola")
	c.acts(v.ID, "closed", map[string]any{"done": "All were told, all was found"}).refused(403, "")
	c.as("Bram")
	c.acts(v.ID, "closed", map[string]any{"done": "ok"}).refused(422, "closed.done")
	c.acts(v.ID, "closed", map[string]any{"done": "All were told; two jars are not found"}).ok()
	c.acts(v.ID, "told", map[string]any{"party": v.Parties[0].ID, "how": "once more"}).refused(422, "")
	assert.Empty(t, c.tasks("recall"))
	assert.Equal(t, before, get[production.BatchPage](c, "/api/batches"), "a drill touches no batch")
	history := get[office.HistoryPage](c, fmt.Sprintf("/api/history?of=recall&id=%d", v.ID))
	assert.Contains(t, history.Rows[0].Said, "two jars are not found")
	for history.Next != 0 {
		history = get[office.HistoryPage](c, fmt.Sprintf("/api/history?of=recall&id=%d&before=%d", v.ID, history.Next))
	}
	assert.Contains(t, history.Rows[len(history.Rows)-1].Said, "began a drill of")
}

func TestTheDrillIsDueYearly(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	now := noon()
	c.app.Now = func() time.Time { return now }
	c.as("Ines")
	v := c.begins(map[string]any{"mock": true, "why": "Yearly drill, as agreed", "lot": c.lotInsideAComponent()})
	c.acts(v.ID, "closed", map[string]any{"done": "Stopped by a customer at the door"}).ok()
	assert.Empty(t, c.tasks("drill"))
	list := get[release.RecallsView](c, "/api/recalls")
	assert.Equal(t, day.Day(now.AddDate(1, 0, 0).Format(time.DateOnly)), list.Next)
	assert.Equal(t, v.Code, list.Rows[0].Code)
	now = now.AddDate(1, 0, 1)
	c.as("Ines")
	require.Len(t, c.tasks("drill"), 1)
	assert.Equal(t, day.Day(now.AddDate(0, 0, -1).Format(time.DateOnly)), get[release.RecallsView](c,
		"/api/recalls").Due)
}

// TestARealRecallCallsEverythingBack: batches that were released are called back, the lot is not used again, nothing is
// released while it is open, and it is an owner's.
func TestARealRecallCallsEverythingBack(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	lot := c.lotInsideAComponent()
	stood := map[int64]string{}
	for _, n := range c.trace(fmt.Sprintf("lot=%d", lot)).Nodes {
		if n.Kind == "batch" {
			stood[n.ID] = n.State
		}
	}
	start := map[string]any{"mock": false, "why": "The supplier calls the ginger back", "lot": lot}
	c.as("Bram")
	c.send("POST", "/api/recalls", start).refused(403, "")
	c.as("Ines")
	v := c.begins(start)
	forward := c.trace(fmt.Sprintf("lot=%d", lot))
	calledBack := 0
	for _, n := range forward.Nodes {
		if n.Kind != "batch" || n.Jars == 0 {
			continue
		}
		b := get[production.BatchView](c, fmt.Sprintf("/api/batches/%d", n.ID))
		if stood[n.ID] == bench.Released {
			calledBack++
			assert.Equal(t, bench.CalledBack, b.Record.State, n.Code)
			assert.Contains(t, b.Record.Recalled[len(b.Record.Recalled)-1].Why, v.Code)
		}
		baker := &baker{client: c, id: n.ID, n: 9000, now: clock()}
		baker.decide("released", "it looks good to me").refused(422, "")
	}
	assert.Positive(t, calledBack)
	assert.Equal(t, "hold", get[production.LotView](c, fmt.Sprintf("/api/lots/%d", lot)).Record.State)
	assert.Equal(t, "danger", c.tasks("recall")[0].Level)
	require.Positive(t, len(v.Parties))
	last := v.Letters[len(v.Letters)-1]
	assert.Equal(t, "The authority", last.To)
	assert.NotContains(t, last.Text, "EXERCISE")
	c.acts(v.ID, "closed", map[string]any{"done": "All jars are back and thrown away"}).refused(422, "")
	c.acts(v.ID, "widened", nil).refused(422, "")
	c.finds(v, 0)
	c.acts(v.ID, "closed", map[string]any{"done": "All jars are back and thrown away"}).ok()
	for id, was := range stood {
		if was == bench.Released {
			assert.Equal(t, bench.CalledBack, get[production.BatchView](c, fmt.Sprintf("/api/batches/%d",
				id)).Record.State,
				"closing it releases nothing")
		}
	}
}

// TestARecallIsWrittenOnce however often it is sent.
func TestARecallIsWrittenOnce(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	c.as("Ines")
	lot := c.lotInsideAComponent()
	body := fmt.Sprintf(`{"mock":true,"why":"Yearly drill, as agreed","lot":%d}`, lot)
	_, first := c.under("one errand", "/api/recalls", "application/json", body)
	_, second := c.under("one errand", "/api/recalls", "application/json", body)
	assert.JSONEq(t, string(first), string(second))
	require.Len(t, get[release.RecallsView](c, "/api/recalls").Rows, 2, "the demo's own, and this one")
	v := get[release.RecallView](c, "/api/recalls/2")
	told := map[string]any{"kind": "told", "told": map[string]any{"party": v.Parties[0].ID, "how": "by phone"}}
	c.send("POST", "/api/recalls/2/entries?key=a", told).ok()
	c.send("POST", "/api/recalls/2/entries?key=a", told).ok()
	told["told"].(map[string]any)["how"] = "by letter"
	c.send("POST", "/api/recalls/2/entries?key=a", told).refused(409, "")
	c.send("POST", "/api/recalls/2/entries?key=b", map[string]any{"kind": "told"}).refused(422, "kind")
	history := get[office.HistoryPage](c, "/api/history?of=recall&id=2")
	assert.Len(t, history.Rows, 2)
	c.send("GET", "/api/recalls/99", nil).refused(404, "")
}

// TestAGainedAllergenIsRecalled begins at the change that brought it: the letters name what the words lack.
func TestAGainedAllergenIsRecalled(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	b := released(t, c, now)
	c.as("Ines")
	c.change("yogurt_strained", "", func(g *pantry.Ingredient) {
		g.SupplierLists = law.Each[string]{law.GB: "milk; live cultures; lupin flour"}
	}).ok()
	change := get[[]release.ChangeView](c, "/api/allergens/changes")[0]
	v := c.begins(map[string]any{"mock": false, "why": "Lupin flour in the yogurt, says the maker",
		"change": change.ID})
	assert.Equal(t, "lupin in "+change.Ingredients[0].Name, v.Title)
	assert.Equal(t, recall.OfAllergen, v.Of)
	assert.True(t, slices.ContainsFunc(v.Lines, func(l recall.Line) bool { return l.Batch == b.id }))
	for _, l := range v.Letters {
		assert.Contains(t, l.Text, "does not name lupin")
	}
	assert.Zero(t, v.More)

	c.send("POST", "/api/recalls", map[string]any{"mock": false, "why": "as if it carried mustard",
		"ingredient": "ginger", "allergen": "mustard"}).refused(422, "")
	drill := c.begins(map[string]any{"mock": true, "why": "as if it carried mustard", "ingredient": "ginger",
		"allergen": "mustard"})
	assert.Contains(t, drill.Letters[0].Text, "does not name mustard")
}

// TestJarsFilledLaterAreTakenIn: a batch that was in the bowl when a recall began is in it once its jars are filled.
func TestJarsFilledLaterAreTakenIn(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	before := released(t, c, now) // of the same lots, and called back at once
	b := bake(t, c, now)
	for _, l := range b.view().Record.Lines {
		b.write(map[string]any{"kind": "weighing", "weighing": b.weighing(b.id, l, l.Grams)}).ok()
	}
	code := b.view().Record.Lines[0].Draws[0].Code
	c.as("Ines")
	v := c.begins(map[string]any{"mock": false, "why": "A stone was found in the bag", "code": code})
	assert.False(t, slices.ContainsFunc(v.Lines, func(l recall.Line) bool { return l.Batch == b.id }))
	require.Equal(t, bench.CalledBack, before.view().Record.State)
	b.fill(12)
	c.as("Ines")
	at := fmt.Sprintf("/api/recalls/%d", v.ID)
	assert.Equal(t, 12, get[release.RecallView](c, at).More)
	c.acts(v.ID, "widened", nil).ok()
	wider := get[release.RecallView](c, at)
	assert.Zero(t, wider.More)
	assert.Equal(t, v.Account.Made+12, wider.Account.Made)
	b.decide("released", "it looks good to me").refused(422, "")
}
