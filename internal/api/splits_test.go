package api

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/recall"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// largerJars locks a version of the beetroot dip that is made the same, in jars of 380 g.
func (c *client) largerJars() int {
	c.t.Helper()
	s := into[catalog.SheetView](c.send("POST", "/api/formulas/beetroot_horseradish_dip/versions",
		map[string]any{"from": 2}).ok())
	at := fmt.Sprintf("/api/formulas/beetroot_horseradish_dip/versions/%d", s.Version.Number)
	v := s.Version
	v.FillGrams = amount.G(380)
	s = into[catalog.SheetView](c.send("PUT", fmt.Sprintf("%s?rev=%d", at, s.Rev), v).ok())
	into[catalog.SheetView](c.lock(at, s.Rev).ok())
	return s.Version.Number
}

// stockOf is what the book says is left of every lot, in milligrams.
func (c *client) stockOf() map[string]float64 {
	c.t.Helper()
	out := map[string]float64{}
	for _, l := range get[production.LotPage](c, "/api/lots?show=there").Lots {
		out[l.Code] = l.Left.Float()
	}
	return out
}

// TestABowlIsSplitOverJarsOfTwoSizes: part of a weighed bowl goes into larger jars, as a batch of its own with its own
// readings; stock, lots, the balance and call-backs know of both.
func TestABowlIsSplitOverJarsOfTwoSizes(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	c.app.Now = func() time.Time { return *now }
	c.as("Ines")
	large := c.largerJars()
	b := bake(t, c, now)
	ask := map[string]any{"formula": "beetroot_horseradish_dip", "version": large, "jars": 3}
	at := fmt.Sprintf("/api/batches/%d/splits", b.id)
	c.send("POST", at, ask).refused(422, "") // nothing is in the bowl yet
	for _, l := range b.view().Record.Lines {
		b.write(map[string]any{"kind": "weighing", "weighing": b.weighing(b.id, l, l.Grams)}).ok()
	}
	before := c.stockOf()
	bowl := get[production.BowlView](c, fmt.Sprintf("/api/batches/%d/bowl", b.id))
	require.Len(t, bowl.Others, 1, "versions made the same in other jars")
	assert.Equal(t, large, bowl.Others[0].Version)
	c.send("POST", at, map[string]any{"formula": "carrot_miso_dressing", "version": 3, "jars": 3}).refused(422,
		"version")
	c.send("POST", at, map[string]any{"formula": "beetroot_horseradish_dip", "version": large, "jars": 60}).
		refused(422, "jars")
	other := into[production.BatchView](c.send("POST", at, ask).ok())

	assert.True(t, other.Record.Weighed, "weighed with the bowl")
	assert.Equal(t, b.view().Code, other.Record.FromBowl.Code)
	for code, g := range c.stockOf() {
		assert.InDelta(t, before[code], g, 0.01, "nothing is taken twice: %s", code)
	}
	sum := amount.Grams{}
	for _, l := range other.Record.Lines {
		sum = sum.Plus(*l.Actual)
		assert.NotEmpty(t, l.Draws, l.Name)
	}
	assert.InDelta(t, other.Record.FromBowl.Grams.Float(), sum.Float(), 0.01)
	v := b.view()
	assert.InDelta(t, sum.Float(), v.Record.Splits[0].Grams.Float(), 0.01)
	assert.InDelta(t, bowl.Left.Float()-sum.Float(), get[production.BowlView](c, fmt.Sprintf("/api/batches/%d/bowl",
		b.id)).Left.Float(), 0.02)
	c.send("POST", fmt.Sprintf("/api/batches/%d/splits", other.ID), ask).refused(422, "")

	b.fill(5)
	v = b.view()
	assert.InDelta(t, sum.Float(), v.Balance.Elsewhere.Float(), 0.01)
	two := &baker{c, other.ID, 500, now}
	two.fill(3)
	*now = now.Add(25 * time.Hour)
	b.readAll(4.0)
	two.readAll(4.0)
	b.decide("released", "").ok()
	two.decide("released", "").ok()
	for _, of := range []int64{b.id, other.ID} {
		back := c.trace(fmt.Sprintf("batch=%d", of))
		assert.Contains(t, codes(back, "incoming"), v.Record.Lines[0].Draws[0].Code, "both go back to the lots")
	}

	c.as("Ines")
	drill := c.begins(map[string]any{"mock": true, "why": "glass in the bowl, we say", "batch": other.ID})
	assert.True(t, slices.ContainsFunc(drill.Lines, func(l recall.Line) bool { return l.Batch == b.id }),
		"one bowl is looked for whole")
	two.decide("called_back", "a splinter of the blade was in it").ok()
	assert.Equal(t, bench.CalledBack, b.view().Record.State, "its sister with it")
	assert.Contains(t, b.view().Record.Recalled[0].Why, other.Code+", filled from the same bowl, was called back")
}

// TestASisterOfABadBatchIsAnOwners: while a batch of the same bowl is rejected, only an owner releases the other, with
// a reason.
func TestASisterOfABadBatchIsAnOwners(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	c.app.Now = func() time.Time { return *now }
	c.as("Ines")
	large := c.largerJars()
	b := bake(t, c, now)
	for _, l := range b.view().Record.Lines {
		b.write(map[string]any{"kind": "weighing", "weighing": b.weighing(b.id, l, l.Grams)}).ok()
	}
	other := into[production.BatchView](c.send("POST", fmt.Sprintf("/api/batches/%d/splits", b.id),
		map[string]any{"formula": "beetroot_horseradish_dip", "version": large, "jars": 3}).ok())
	b.fill(5)
	two := &baker{c, other.ID, 500, now}
	two.fill(3)
	*now = now.Add(25 * time.Hour)
	two.readAll(4.0)
	b.decide("rejected", "it smells of the drain").ok()
	c.as("Bram")
	two.decide("released", "it smells good to me").refused(403, "")
	c.as("Ines")
	two.decide("released", "").refused(422, "decision.reason")
	two.decide("released", "the drain ran over the small jars only").ok()
}
