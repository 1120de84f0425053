package api

import (
	"testing"

	"gallipot/internal/app/catalog"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAMakingThatGoesOnIsNoTrialYet(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	const trials = "/api/formulas/hazelnut_kale_pesto/trials"
	before := get[catalog.TrialsView](c, trials)
	body := func(open bool, log ...map[string]any) map[string]any {
		return map[string]any{"id": 0, "version": 2, "made_on": "2026-11-25", "by": "", "vessel": "", "lines": []any{},
			"finished_g": 0, "score": 0, "note": "", "log": append([]map[string]any{}, log...), "open": open}
	}
	kale := map[string]any{"kind": "in", "ingredient": "kale", "grams": 290}
	c.send("POST", trials, body(true, map[string]any{"kind": "in", "ingredient": "kale", "grams": 0})).refused(422,
		"log[0].grams")
	c.send("POST", trials, body(true, map[string]any{"kind": "added", "ingredient": "kale", "grams": 5})).refused(422,
		"log[0].reason")
	c.send("POST", trials, body(false)).refused(422, "lines")

	v := into[catalog.TrialsView](c.send("POST", trials, body(true, kale)).ok())
	require.Len(t, v.Trials, len(before.Trials)+1)
	mine := v.Trials[len(v.Trials)-1]
	assert.True(t, mine.Open)
	assert.Equal(t, noon().Unix(), mine.Log[0].At.Unix(), "the program says when it happened")
	require.Len(t, mine.Lines, 1)
	ids := []int64{mine.ID}
	for _, x := range before.Trials {
		ids = append(ids, x.ID)
	}
	c.send("POST", "/api/formulas/hazelnut_kale_pesto/standard",
		map[string]any{"trials": ids, "reference_g": 1000, "division_g": 1, "by_score": false}).refused(422, "trials")

	stale := body(true, kale, kale)
	stale["id"] = mine.ID
	c.send("POST", trials+"?rev=7", stale).refused(409, "")
	c.send("POST", trials+"?rev=1", stale).ok()
}
