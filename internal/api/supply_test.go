package api

import (
	"encoding/json"
	"fmt"
	"net/url"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/app/release"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/require"
)

// look signs that somebody read the packet of an ingredient: what it carries by now, and no more.
func (c *client) look(id string) {
	c.t.Helper()
	g := get[catalog.IngredientView](c, "/api/ingredients/"+id)
	in := release.LookIn{From: "the packet", Allergens: g.Carries, List: g.SupplierLists,
		Sulphites: g.SulphitesMgKg, Answers: []pantry.Answer{}}
	for _, ask := range g.Asks {
		in.Answers = append(in.Answers, pantry.Answer{Ask: ask, Says: "none"})
	}
	c.send("POST", fmt.Sprintf("/api/ingredients/%s/look?rev=%d", id, g.Rev), in).ok()
}

// lock looks at what is open in a draft, confirms the rest of the list before the lock, and locks it.
func (c *client) lock(path string, rev int) reply {
	c.t.Helper()
	keys := url.Values{}
	for _, p := range get[[]assess.Point](c, path+"/before-lock") {
		if id, open := strings.CutPrefix(p.Key, "open:"); open {
			c.look(id)
			continue
		}
		keys.Add("confirmed", p.Key)
	}
	return c.send("POST", fmt.Sprintf("%s/lock?rev=%d&%s", path, rev, keys.Encode()), nil)
}

// lotsFor are the lots for one line of a batch.
func (c *client) lotsFor(batch int64, line string) production.LineLots {
	c.t.Helper()
	for _, l := range get[[]production.LineLots](c, fmt.Sprintf("/api/batches/%d/lots", batch)) {
		if l.Line == line {
			return l
		}
	}
	c.t.Fatalf("line %s is not in batch %d", line, batch)
	return production.LineLots{}
}

// deliver takes one lot in and accepts it.
func (c *client) deliver(ingredient string, row map[string]any) kernel.LotStanding {
	c.t.Helper()
	if c.name != "Ines" && c.name != "" { // whoever weighs finds it accepted
		defer c.as(c.name)
		c.as("Ines")
	}
	c.lots++
	in := map[string]any{"ingredient": ingredient, "pack": "50 kg", "accept": true,
		"ends": c.app.Now().AddDate(0, 0, 30).Format(time.DateOnly), "statement": "certificate 1", "arrival_c": 3}
	for k, v := range row {
		in[k] = v
	}
	taken := into[production.Taken](c.send("POST", "/api/deliveries", map[string]any{"supplier": fenwick,
		"note": fmt.Sprintf("T-%d", c.lots), "day": c.app.Now().Format(time.DateOnly), "lots": []any{in}}).ok())
	return taken.Lots[0]
}

// fenwick is the tests' own supplier, whose lots keep a month.
const fenwick = "Fenwick Stores"

// draws takes a line's grams of the lot of fenwick's that is to be used first, which is bought where there is none.
func (c *client) draws(batch int64, line string, grams amount.Grams) []map[string]any {
	c.t.Helper()
	l := c.lotsFor(batch, line)
	for _, x := range l.Lots {
		if len(l.Of) == 0 && x.WhyNot == "" {
			return []map[string]any{{"code": x.Code, "grams": grams}}
		}
		if x.Supplier == fenwick && x.WhyNot == "" && x.Reaches.Cmp(grams) >= 0 {
			return []map[string]any{{"code": x.Code, "grams": grams}}
		}
	}
	if len(l.Of) == 0 {
		c.t.Fatalf("no lot of the component of line %s", line)
	}
	if l.Of[0] == "water" {
		return nil
	}
	return []map[string]any{{"code": c.deliver(l.Of[0], nil).Code, "grams": grams}}
}

// weighing is a weighing of a line of a batch from its lots.
func (c *client) weighing(batch int64, l bench.LineState, grams amount.Grams) map[string]any {
	c.t.Helper()
	return map[string]any{"line": l.Line, "grams": grams, "draws": c.draws(batch, l.Line, grams)}
}

// asMap is what a value is as JSON, to be changed and sent.
func asMap(t testing.TB, v any) map[string]any {
	t.Helper()
	raw, err := json.Marshal(v)
	require.NoError(t, err)
	out := map[string]any{}
	require.NoError(t, json.Unmarshal(raw, &out))
	return out
}
