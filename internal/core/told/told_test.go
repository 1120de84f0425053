package told

import (
	"encoding/json"
	"fmt"
	"testing"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/law"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/recall"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func note(t *testing.T, v any) json.RawMessage {
	t.Helper()
	raw, err := json.Marshal(v)
	require.NoError(t, err)
	return raw
}

// said is the sentence of one change.
func said(t *testing.T, c Change) string {
	t.Helper()
	c.By = "Ines"
	row, err := Told([]Change{c})
	require.NoError(t, err)
	return row.Said
}

// TestEveryKindOfActHasItsSentence: a new kind of entry whose sentence was forgotten would be told by its name.
func TestEveryKindOfActHasItsSentence(t *testing.T) {
	for what, kinds := range map[string][]string{"entry": bench.Kinds(), "lot_entry": lots.Kinds(),
		"recall": recall.Kinds()} {
		assert.NotEmpty(t, kinds)
		for _, kind := range kinds {
			s := said(t, Change{Act: "insert", What: what, Which: "26-331-A",
				After: note(t, map[string]any{"kind": kind, "body": map[string]any{"state": "released"}})})
			assert.NotContains(t, s, "wrote "+kind, what)
			assert.NotContains(t, s, "changed "+what, kind)
			assert.NotEmpty(t, s, "%s %s", what, kind)
		}
	}
}

func TestWhatWasDoneAtTheBench(t *testing.T) {
	for want, x := range map[string]struct {
		kind string
		body map[string]any
	}{
		"tared Bench scale at 812.4 g for load 1": {"tared",
			map[string]any{"load": 1, "scale": "Bench scale", "reading_g": 812.4}},
		"weighed 640 g of line oil into load 2, on Fine scale": {"capture",
			map[string]any{"load": 2, "line": "oil", "grams": 640, "scale": "Fine scale"}},
		"weighed 640 g of line oil into load 2, typed by hand: the scale was away": {"capture",
			map[string]any{"load": 2,
				"line": "oil", "grams": 640, "manual": true, "reason": "the scale was away"}},
		"gave load 1 up: glass in it": {"choice", map[string]any{"load": 1, "how": "discard",
			"reason": "glass in it"}},
		"put the ratio of the batch right": {"choice", map[string]any{"load": 0, "how": "rebalance"}},
		"20 g of load 1 spilled: it slopped": {"taken_out", map[string]any{"load": 1, "what": "spilled", "grams": 20,
			"reason": "it slopped"}},
		"left line dill out of load 1: none": {"left_out", map[string]any{"load": 1, "line": "dill", "reason": "none"}},
		"took the tick of rest off load 1":   {"ticked", map[string]any{"load": 1, "key": "rest", "off": true}},
		"wrote down 95 min of hands":         {"worked", map[string]any{"minutes": 95}},
		"took 61 °C of jars on its way down": {"cooled", map[string]any{"what": "jars", "celsius": 61}},
		"released it: the retest agrees": {"decision", map[string]any{"state": "released",
			"reason": "the retest agrees"}},
		"corrected line oil to 640 g": {"weighing", map[string]any{"line": "oil", "grams": 640,
			"correction": true}},
	} {
		assert.Equal(t, want, said(t, Change{Act: "insert", What: "entry",
			After: note(t, map[string]any{"kind": x.kind, "body": x.body})}))
	}
}

// TestAnActOfTheFirstFormatIsToldToo: format 1 kept the whole entry, with the body under the name of its kind.
func TestAnActOfTheFirstFormatIsToldToo(t *testing.T) {
	assert.Equal(t, "weighed line oil: 640 g", said(t, Change{Act: "insert", What: "entry",
		After: note(t, fields{"kind": "weighing", "body": fields{"by": "Ines",
			"weighing": fields{"line": "oil", "grams": 640}}})}))
	assert.Equal(t, "wrote weighing", said(t, Change{Act: "insert", What: "entry",
		After: note(t, fields{"kind": "weighing", "body": fields{"line": "oil", "grams": "a slug"}})}),
		"what cannot be read is told by its kind")
}

func TestAChangeNamesWhatMoved(t *testing.T) {
	row, err := Told([]Change{{Act: "update", What: "ingredient", Which: "tahini", By: "Bram",
		Before: note(t, map[string]any{"name": "Tahini", "data": map[string]any{"name": "Tahini",
			"ph": map[string]any{"typical": 6.0}}}),
		After: note(t, map[string]any{"name": "Tahini", "data": map[string]any{"name": "Tahini",
			"ph": map[string]any{"typical": 5.8}}})}})
	require.NoError(t, err)
	assert.Contains(t, row.Said, "Tahini")
	assert.Contains(t, fmt.Sprint(row.Details), "5.8")
	assert.Contains(t, fmt.Sprint(row.Details), "6")
}

func TestDaysOfASentenceAreInTheShopsTongue(t *testing.T) {
	marked := "filled on " + day.Mark("2026-11-26") + ", read the day after"
	assert.Equal(t, "filled on 26 Nov 2026, read the day after", InTongue(marked, law.Tongue("en-GB")))
	assert.Equal(t, "filled on Nov 26, 2026, read the day after", InTongue(marked, law.Tongue("en-US")))
	assert.Equal(t, "no day in it", InTongue("no day in it", law.Tongue("en-GB")))
}
