package api

import (
	"fmt"
	"sync"
	"testing"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestTwoTabletsCannotSendTheSameJars dispatches more than there is, at once.
func TestTwoTabletsCannotSendTheSameJars(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	send := func(key string, jars int) (int, []byte) {
		return c.under(key, "/api/dispatches", "application/json",
			fmt.Sprintf(`{"party":1,"rows":[{"formula":"tamarind_date_dressing","jars":%d}]}`, jars))
	}
	ready := 0
	for _, r := range get[production.JarsView](c, "/api/jars").Rows {
		if r.Formula == "tamarind_date_dressing" {
			ready += r.Ready
		}
	}
	require.Equal(t, 18, ready)
	var all sync.WaitGroup
	var mu sync.Mutex
	status := map[int]int{}
	for i := range 4 {
		all.Go(func() {
			code, raw := send(fmt.Sprintf("tablet %d", i), 10)
			mu.Lock()
			defer mu.Unlock()
			status[code]++
			if code == 422 {
				assert.Contains(t, string(raw), "only 8 jars may leave")
			}
		})
	}
	all.Wait()
	assert.Equal(t, map[int]int{200: 1, 422: 3}, status)
	code, raw := send("again", 8)
	require.Equal(t, 200, code, string(raw))
	code, again := send("again", 8)
	assert.Equal(t, 200, code)
	assert.JSONEq(t, string(raw), string(again), "the same errand sends nothing twice")
	code, _ = send("more", 1)
	assert.Equal(t, 422, code)
}

// TestWhatEndsFirstIsSentFirst over two batches of one product, and from the later one by a reason.
func TestWhatEndsFirstIsSentFirst(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	*now = now.Add(25 * time.Hour)
	b.readAll(4.0)
	b.decide("released", "").ok()
	send := func(row map[string]any) reply {
		row["formula"] = "beetroot_horseradish_dip"
		return b.send("POST", "/api/dispatches", map[string]any{"party": 2, "rows": []any{row}})
	}
	sent := into[production.Sent](send(map[string]any{"jars": 15}).ok())
	require.Len(t, sent.Parts, 2)
	assert.Equal(t, "26-311-A", sent.Parts[0].Code)
	assert.Equal(t, 13, sent.Parts[0].Jars)
	assert.Equal(t, 2, sent.Parts[1].Jars)
	send(map[string]any{"jars": 11}).refused(422, "rows[0].jars")
	send(map[string]any{"jars": 0}).refused(422, "rows[0].jars")
	b.send("POST", "/api/dispatches", map[string]any{"party": 99, "rows": []any{map[string]any{"formula": "x",
		"jars": 1}}}).refused(422, "party")

	c := withDemo(t)
	late := into[production.JarsView](c.send("GET", "/api/jars", nil).ok())
	var first production.JarsRow
	for _, r := range late.Rows {
		if r.Formula == "ginger_paste" && r.Ready > 0 {
			first = r
		}
	}
	assert.Equal(t, 5, first.Ready, "three of the eight jars are opened for the bowl and the ice")
}

// TestAJarReturnedAfterItsBatchWasCalledBackIsNeverSoldAgain follows the jars of the demo's call-back.
func TestAJarReturnedAfterItsBatchWasCalledBackIsNeverSoldAgain(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	n := 0
	move := func(m map[string]any) reply {
		n++
		return c.send("POST", fmt.Sprintf("/api/batches/21/entries?key=back-%d", n),
			map[string]any{"kind": "moved", "moved": m})
	}
	c.as("Ola")
	move(map[string]any{"from": "cold_room", "to": "with", "party": 1, "jars": 1}).refused(422, "")
	move(map[string]any{"from": "with", "to": "returned", "party": 1, "jars": 13}).refused(422, "moved.jars")
	v := into[production.BatchView](move(map[string]any{"from": "with", "to": "returned", "party": 1, "jars": 12}).ok())
	assert.Equal(t, "called_back", v.Record.State)
	c.as("Ines")
	move(map[string]any{"from": "returned", "to": "cold_room", "jars": 12,
		"reason": "they were never opened"}).refused(422, "")
	move(map[string]any{"from": "returned", "to": "withdrawn", "jars": 12}).ok()
	for _, r := range get[production.JarsView](c, "/api/jars").Rows {
		if r.ID == 21 {
			assert.Zero(t, r.Ready)
			assert.Contains(t, r.Why, "called back")
		}
	}
	for _, task := range get[kernel.TodayView](c, "/api/today").Tasks {
		if task.Kind == "call_back" {
			assert.Contains(t, task.Text, "Saltings Deli has 8")
			assert.NotContains(t, task.Text, "Copper Kettle")
		}
	}
}

func TestPartiesAreKeptAndRetiredWithAReason(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	add := func(p map[string]any) reply { return c.send("POST", "/api/parties", p) }
	add(map[string]any{"name": "Deli", "kind": "customer"}).refused(422, "contact")
	add(map[string]any{"name": "Deli", "kind": "market"}).refused(422, "day")
	add(map[string]any{"name": " ", "kind": "customer", "contact": "x"}).refused(422, "name")
	add(map[string]any{"name": "Deli", "kind": "moon", "contact": "x"}).refused(422, "kind")
	add(map[string]any{"name": "saltings deli", "kind": "customer", "contact": "x"}).refused(422, "name")
	p := into[kernel.Party](add(map[string]any{"name": "Deli", "kind": "customer", "contact": "01632 960 001"}).ok())
	p.Contact = "01632 960 002"
	put := func(p kernel.Party, why string) reply {
		return c.send("PUT", fmt.Sprintf("/api/parties/%d%s", p.ID, why), p)
	}
	saved := into[kernel.Party](put(p, "").ok())
	put(p, "").refused(409, "")
	saved.Retired = true
	put(saved, "").refused(422, "why")
	put(saved, "?why=closed%20down").ok()
	c.send("POST", "/api/dispatches", map[string]any{"party": p.ID, "rows": []any{map[string]any{
		"formula": "tamarind_date_dressing", "jars": 1}}}).refused(422, "rows[0].party")
	c.as("Ola")
	add(map[string]any{"name": "Deli 2", "kind": "customer", "contact": "x"}).refused(403, "")
}
