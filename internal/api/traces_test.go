package api

import (
	"fmt"
	"net/url"
	"slices"
	"strings"
	"testing"

	"gallipot/internal/app"

	"github.com/stretchr/testify/assert"
)

func (c *client) trace(query string) app.TraceView {
	c.t.Helper()
	return get[app.TraceView](c, "/api/trace?"+query)
}

// codes are those of a kind of node.
func codes(v app.TraceView, kind string) []string {
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
	for _, b := range get[app.BatchPage](c, "/api/batches").Batches {
		if b.Formula != "carrot_miso_dressing" {
			continue
		}
		back := c.trace(fmt.Sprintf("batch=%d", b.ID))
		for _, n := range back.Nodes {
			into := slices.IndexFunc(back.Flows, func(f app.TraceFlow) bool { return f.From == n.Key })
			if n.Kind == "incoming" && into >= 0 && !slices.ContainsFunc(back.Nodes, func(m app.TraceNode) bool {
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
	c := withDemo(t)
	forward := c.trace(fmt.Sprintf("lot=%d", c.lotInsideAComponent()))
	assert.Equal(t, "lot", forward.Of)
	last := forward.Columns[len(forward.Columns)-1]
	assert.Equal(t, []string{"came in", "is now"}, []string{forward.Columns[0], last})
	asked := forward.Nodes[slices.IndexFunc(forward.Nodes, func(n app.TraceNode) bool { return n.Asked })]
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
			assert.Empty(t, n.Ends, "%s may not leave: it has no date", n.Code)
		}
	}
	assert.Empty(t, c.trace("batch=21").Nodes[slices.IndexFunc(c.trace("batch=21").Nodes, func(n app.TraceNode) bool {
		return n.Asked
	})].Ends, "it is called back")
	csv := string(c.send("GET", "/api/trace.csv?code="+asked.Code, nil).ok().body)
	assert.Equal(t, len(forward.Flows)+1, strings.Count(csv, "\n"))
	assert.Contains(t, csv, asked.Code)
	assert.Equal(t, 404, c.send("GET", "/api/trace?code=nothing", nil).status)
	assert.Equal(t, 404, c.send("GET", "/api/trace", nil).status)
}
