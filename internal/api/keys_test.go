package api

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"
	"sync"
	"testing"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/production"
	"gallipot/internal/core/match"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// under sends a request with an idempotency key.
func (c *client) under(key, path, contentType, body string) (int, []byte) {
	c.t.Helper()
	r, err := http.NewRequest("POST", c.base+path, strings.NewReader(body))
	require.NoError(c.t, err)
	r.Header.Set("Content-Type", contentType)
	c.sign(r)
	if key != "" {
		r.Header.Set("Idempotency-Key", key)
	}
	res, err := http.DefaultClient.Do(r)
	require.NoError(c.t, err)
	raw, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	require.NoError(c.t, res.Body.Close())
	return res.StatusCode, raw
}

// TestWhatIsMadeIsMadeOncePerKey sends each request that makes something twice under its key, and then other content.
func TestWhatIsMadeIsMadeOncePerKey(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	count := func(path, list string) int {
		raw := c.send("GET", path, nil).ok().body
		if list == "" {
			return len(into[[]json.RawMessage](reply{t, 200, raw, nil}))
		}
		var page map[string]json.RawMessage
		require.NoError(t, json.Unmarshal(raw, &page))
		return len(into[[]json.RawMessage](reply{t, 200, page[list], nil}))
	}
	for _, try := range []struct{ name, path, body, other, where, list string }{
		{"a batch", "/api/batches", `{"formula":"carrot_miso_dressing","version":3,"jars":12,"made_on":"2026-11-24"}`,
			`{"formula":"carrot_miso_dressing","version":3,"jars":24,"made_on":"2026-11-24"}`, "/api/batches",
			"batches"},
		{"a recipe", "/api/recipes", `{"words":"2 leeks"}`, `{"words":"3 leeks"}`, "/api/recipes", "recipes"},
		{"a meter check", "/api/meter-checks",
			`{"meter":"m","mv_buffer_4":174.5,"mv_buffer_7":-1.2,"buffer_temperature_c":25}`,
			`{"meter":"m","mv_buffer_4":170,"mv_buffer_7":-1.2,"buffer_temperature_c":25}`, "/api/meter-checks", ""},
		{"a formula", "/api/formulas", `{"name":"Leek dip"}`, `{"name":"Swede dip"}`, "/api/formulas", ""},
	} {
		t.Run(try.name, func(t *testing.T) {
			before := count(try.where, try.list)
			status, first := c.under("one-"+try.name, try.path, "application/json", try.body)
			require.Equal(t, 200, status, string(first))
			status, again := c.under("one-"+try.name, try.path, "application/json", try.body)
			assert.Equal(t, 200, status)
			assert.JSONEq(t, string(first), string(again), "the same answer")
			status, other := c.under("one-"+try.name, try.path, "application/json", try.other)
			assert.Equal(t, 409, status)
			assert.Contains(t, string(other), "key_reused")
			assert.Equal(t, before+1, count(try.where, try.list), "made once")
		})
	}
}

func TestTheSamePlanSideBySideMakesOneBatch(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	plan := `{"formula":"carrot_miso_dressing","version":3,"jars":12,"made_on":"2026-11-24"}`
	var mu sync.Mutex
	ids := map[int64]int{}
	var all sync.WaitGroup
	for range 6 {
		all.Go(func() {
			status, raw := c.under("side by side", "/api/batches", "application/json", plan)
			mu.Lock()
			defer mu.Unlock()
			assert.Equal(t, 200, status, string(raw))
			ids[into[production.BatchView](reply{t, status, raw, nil}).ID]++
		})
	}
	all.Wait()
	assert.Len(t, ids, 1)
	assert.Len(t, get[production.BatchPage](c, "/api/batches").Batches, 24)
}

// TestAPriceListSentFourTimesAtOnceIsTakenOnce has no keys at all: the offers themselves are the same.
func TestAPriceListSentFourTimesAtOnceIsTakenOnce(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	before := len(get[catalog.IngredientView](c, "/api/ingredients/lime_juice").Offers)
	csv := "ingredient,supplier,pack_amount,pack_unit,price,date\nLime juice,Fallowfield Veg,750,g,5.10,2026-11-20\n"
	file, err := json.Marshal(catalog.PriceFile{Content: []byte(csv), Rows: map[string]match.PriceAnswer{}})
	require.NoError(t, err)
	var all sync.WaitGroup
	for range 4 {
		all.Go(func() {
			status, raw := c.under("", "/api/prices", "application/json", string(file))
			assert.Equal(t, 200, status, string(raw))
		})
	}
	all.Wait()
	assert.Len(t, get[catalog.IngredientView](c, "/api/ingredients/lime_juice").Offers, before+1)
}

func TestAnEntrysKeyStandsForItsContent(t *testing.T) {
	t.Parallel()
	b := bake(t, withDemo(t), clock())
	path := fmt.Sprintf("/api/batches/%d/entries?key=once", b.id)
	line := b.view().Record.Lines[0].Line
	weigh := func(grams int) map[string]any {
		return map[string]any{"kind": "weighing",
			"weighing": map[string]any{"line": line, "grams": grams}}
	}
	b.send("POST", path, weigh(500)).ok()
	b.send("POST", path, weigh(500)).ok()
	title := b.send("POST", path, weigh(900)).refused(409, "")
	assert.Contains(t, title, "other content")
	v := b.view()
	assert.Len(t, v.Entries, 1)
	assert.Equal(t, 1, v.Entries[0].Seq)
	assert.InDelta(t, 500, v.Record.Lines[0].Actual.Float(), 0, "what was weighed stands")
}

func TestAKeyIsOneRequestsOwn(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	status, _ := c.under("shared", "/api/formulas", "application/json", `{"name":"Leek dip"}`)
	require.Equal(t, 200, status)
	status, raw := c.under("shared", "/api/recipes", "application/json", `{"words":"2 leeks"}`)
	assert.Equal(t, 409, status, string(raw))
	status, _ = c.under(strings.Repeat("k", 101), "/api/formulas", "application/json", `{"name":"Kale dip"}`)
	assert.Equal(t, 422, status)
	status, _ = c.under("failed", "/api/formulas", "application/json", `{"name":""}`)
	require.Equal(t, 422, status)
	status, _ = c.under("failed", "/api/formulas", "application/json", `{"name":"Kale dip"}`)
	assert.Equal(t, 200, status, "what was refused made nothing, so its key is free")
}
