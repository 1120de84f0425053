package api

import (
	"fmt"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/production"
	"gallipot/internal/app/release"
	"gallipot/internal/core/day"
	"gallipot/internal/core/trace"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func (c *client) trace(query string) release.TraceView {
	c.t.Helper()
	return get[release.TraceView](c, "/api/trace?"+query)
}

// codes are those of a kind of node.
func codes(v release.TraceView, kind string) []string {
	var out []string
	for _, n := range v.Nodes {
		if n.Kind == kind {
			out = append(out, n.Code)
		}
	}
	return out
}

// lotInsideAComponent is an incoming lot that went into a component of a batch of the demo.
func (c *client) lotInsideAComponent() int64 {
	c.t.Helper()
	for _, b := range get[production.BatchPage](c, "/api/batches").Batches {
		if b.Formula != "carrot_miso_dressing" {
			continue
		}
		back := c.trace(fmt.Sprintf("batch=%d", b.ID))
		for _, n := range back.Nodes {
			into := slices.IndexFunc(back.Flows, func(f trace.Band) bool { return f.From == n.Key })
			if n.Kind == "incoming" && into >= 0 && !slices.ContainsFunc(back.Nodes, func(m trace.Node) bool {
				return m.Key == back.Flows[into].To && m.Asked
			}) {
				return n.ID
			}
		}
	}
	c.t.Fatal("no lot inside a component")
	return 0
}

// TestALotIsFollowedToEveryJarAndBack goes from an incoming lot of the demo through ginger paste to dressings and where
// their jars are, and from each of those batches back to the lot.
func TestALotIsFollowedToEveryJarAndBack(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	forward := c.trace(fmt.Sprintf("lot=%d", c.lotInsideAComponent()))
	assert.Equal(t, "lot", forward.Of)
	last := forward.Columns[len(forward.Columns)-1]
	assert.Equal(t, []string{"came in", "is now"}, []string{forward.Columns[0], last})
	asked := forward.Nodes[slices.IndexFunc(forward.Nodes, func(n trace.Node) bool { return n.Asked })]
	assert.Equal(t, "incoming", asked.Kind)
	sum, jars := 0, map[string]int{}
	for _, f := range forward.Flows {
		jars[f.From] += f.Jars
		sum += f.Jars
	}
	a := forward.Account
	assert.Equal(t, sum, a.Made, "what flows to places is all that was made")
	assert.Equal(t, a.Made, a.With+a.Here+a.Samples+a.Gone+a.Unwritten)
	for _, n := range forward.Nodes {
		if n.Kind != "batch" {
			continue
		}
		back := c.trace(fmt.Sprintf("batch=%d", n.ID))
		assert.Equal(t, "batch", back.Of)
		assert.Contains(t, codes(back, "incoming"), asked.Code, "%s goes back to it", n.Code)
		assert.Contains(t, back.Title, n.Code)
		assert.Equal(t, back.Nodes, c.trace("code="+strings.ToLower(n.Code)).Nodes, "a jar's code opens the same")
	}
	for _, n := range forward.Nodes {
		if n.Kind == "batch" { // as the jar has it, under either law
			for _, printed := range []string{"L" + n.Code, "l" + n.Code, "Lot " + n.Code} {
				assert.Contains(t, c.trace("code="+url.QueryEscape(printed)).Title, n.Code, printed)
			}
		}
	}
	for _, n := range forward.Nodes {
		if n.Kind == "batch" && n.State != "released" {
			assert.Empty(t, n.Ends, day.Day("%s may not leave: it has no date"), n.Code)
		}
	}
	assert.Empty(t, c.trace("batch=21").Nodes[slices.IndexFunc(c.trace("batch=21").Nodes,
		func(n trace.Node) bool {
			return n.Asked
		})].Ends, day.Day("it is called back"))
	csv := string(c.send("GET", "/api/trace.csv?code="+asked.Code, nil).ok().body)
	assert.Equal(t, len(forward.Flows)+1, strings.Count(csv, "\n"))
	assert.Contains(t, csv, asked.Code)
	assert.Equal(t, 404, c.send("GET", "/api/trace?code=nothing", nil).status)
	assert.Equal(t, 404, c.send("GET", "/api/trace", nil).status)
}

// baseOf locks a base of carrot and vinegar and makes it in two loads at the bench, the carrot of one lot.
func (c *client) baseOf(name, carrots string) (ref map[string]any, batch production.BatchView) {
	c.t.Helper()
	s := c.sheetOf(name, "carrot", 600, "vinegar_cider", 400)
	ref = map[string]any{"formula": s.Formula, "version": 1}
	into[catalog.SheetView](c.lock(fmt.Sprintf("/api/formulas/%s/versions/1", s.Formula), s.Rev).ok())
	w := c.bench(s.Formula, 1, 80)
	require.Len(c.t, w.view().Record.Loads, 2)
	for _, load := range w.view().Record.Loads {
		for _, e := range load.Errands {
			w.act("ticked", map[string]any{"load": load.No, "key": e.Key}).ok()
		}
		for _, l := range load.Lines {
			body := w.pourInto(load.No, l, l.Now)
			if strings.HasPrefix(l.Name, "Carrot") {
				body["draws"] = []map[string]any{{"code": carrots, "grams": l.Now}}
			}
			w.act("capture", body).ok()
		}
		w.act("closed", map[string]any{"load": load.No}).ok()
	}
	w.act("fill", map[string]any{"jars": 80, "at": noon()}).ok()
	return ref, w.view()
}

// dipOf makes a dip of bases, from lots of theirs that an owner takes though they wait for their readings.
func (c *client) dipOf(name string, jars int, lots []string, refs ...map[string]any) production.BatchView {
	c.t.Helper()
	lines := []any{}
	for _, r := range refs {
		lines = append(lines, r, 300)
	}
	s := c.sheetOf(name, append(lines, "salt_sea_fine", 6)...)
	into[catalog.SheetView](c.lock(fmt.Sprintf("/api/formulas/%s/versions/1", s.Formula), s.Rev).ok())
	b := into[production.BatchView](c.send("POST", "/api/batches", map[string]any{"formula": s.Formula, "version": 1,
		"jars": jars, "made_on": noon().Format(time.DateOnly)}).ok())
	for i, l := range b.Record.Lines {
		body := map[string]any{"line": l.Line, "grams": l.Grams}
		if i < len(lots) {
			body["draws"] = []map[string]any{{"code": lots[i], "grams": l.Grams, "reason": "a test of the way it goes"}}
		} else {
			body["draws"] = c.draws(b.ID, l.Line, l.Grams)
		}
		c.send("POST", fmt.Sprintf("/api/batches/%d/entries?key=dip-%d-%d", b.ID, b.ID, i),
			map[string]any{"kind": "weighing", "weighing": body}).ok()
	}
	c.send("POST", fmt.Sprintf("/api/batches/%d/entries?key=dip-%d-fill", b.ID, b.ID),
		map[string]any{"kind": "fill", "fill": map[string]any{"jars": jars, "at": noon()}}).ok()
	return get[production.BatchView](c, fmt.Sprintf("/api/batches/%d", b.ID))
}

// TestALotInTwoComponentsOfTwoLoadsIsFollowedOnce: a lot that went into two bases, each of two loads, and with both
// into a dip; and into a dip that was made again from a frozen part of one of them.
func TestALotInTwoComponentsOfTwoLoadsIsFollowedOnce(t *testing.T) {
	t.Parallel()
	c := withDemo(t).as("Ines")
	carrots := c.deliver("carrot", nil)
	one, first := c.baseOf("Sharp carrot base", carrots.Code)
	two, second := c.baseOf("Sharper carrot base", carrots.Code)
	dip := c.dipOf("Twice carrot dip", 24, []string{first.Code, second.Code}, one, two)
	part := into[production.LotView](c.send("POST", fmt.Sprintf("/api/lots/%d/parts", first.Lot),
		map[string]any{"grams": 4000,
			"day": noon().Format(time.DateOnly)}).ok())
	again := c.dipOf("Once carrot dip", 18, []string{part.Code}, one)

	v := c.trace(fmt.Sprintf("lot=%d", carrots.ID))
	key := func(code string) string {
		at := slices.IndexFunc(v.Nodes, func(n trace.Node) bool { return n.Code == code })
		require.GreaterOrEqual(t, at, 0, code)
		return v.Nodes[at].Key
	}
	flow := func(from, to string) float64 {
		grams, n := 0.0, 0
		for _, f := range v.Flows {
			if f.From == key(from) && f.To == key(to) {
				grams, n = grams+f.Grams.Float(), n+1
			}
		}
		require.Equal(t, 1, n, "%s to %s, one band", from, to)
		return grams
	}
	for _, b := range []production.BatchView{first, second} {
		poured, taken := 0.0, 0.0
		for _, load := range b.Record.Loads {
			for _, l := range load.Lines {
				if strings.HasPrefix(l.Name, "Carrot") {
					poured += l.In.Float()
				}
			}
		}
		for _, d := range b.Record.Lines[0].Draws {
			taken += d.Taken.Float()
		}
		assert.GreaterOrEqual(t, taken, poured, "peeled first")
		assert.InDelta(t, taken, flow(carrots.Code, b.Code), 0.001, "what both loads took")
		assert.InDelta(t, dip.Record.Lines[0].Grams.Float(), flow(b.Code, dip.Code), 0.001)
	}
	assert.InDelta(t, 4000, flow(first.Code, part.Code), 0.001)
	assert.InDelta(t, again.Record.Lines[0].Grams.Float(), flow(part.Code, again.Code), 0.001)
	assert.Equal(t, 80+80+24+18, v.Account.Made, "each jar once")
	for _, b := range []production.BatchView{dip, again} {
		back := c.trace(fmt.Sprintf("batch=%d", b.ID))
		n := 0
		for _, code := range codes(back, "incoming") {
			if code == carrots.Code {
				n++
			}
		}
		assert.Equal(t, 1, n, "back from %s to the lot, once", b.Code)
	}
	drill := c.begins(map[string]any{"mock": true, "why": "carrots with stones, we say", "lot": carrots.ID})
	assert.Equal(t, v.Account.Made, drill.Account.Made)
}
