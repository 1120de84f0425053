package api

import (
	"fmt"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
)

// lotsFor are the lots for one line of a batch.
func (c *client) lotsFor(batch int64, line string) app.LineLots {
	c.t.Helper()
	for _, l := range get[[]app.LineLots](c, fmt.Sprintf("/api/batches/%d/lots", batch)) {
		if l.Line == line {
			return l
		}
	}
	c.t.Fatalf("line %s is not in batch %d", line, batch)
	return app.LineLots{}
}

// deliver takes one lot in and accepts it.
func (c *client) deliver(ingredient string, row map[string]any) app.LotStanding {
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
	taken := into[app.Taken](c.send("POST", "/api/deliveries", map[string]any{"supplier": fenwick,
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
