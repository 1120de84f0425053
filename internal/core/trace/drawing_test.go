package trace

import (
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/lots"

	"github.com/stretchr/testify/assert"
)

// found is a trace of ginger that went into a paste, and with it into a dressing of which jars are in two places.
func found(asked ...int64) Found {
	day := time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC)
	f := Found{Asked: asked, Lots: map[int64]Lot{
		1: {ID: 1, Code: "261120-A", Kind: lots.Incoming, Name: "Ginger", Day: day, ReceivedMg: 900_000,
			UsedMg:   500_000,
			Supplier: "Hob & Daughters"},
		10: {ID: 10, Code: "26-330-A", Kind: lots.OfBatch, Batch: 4, Name: "Ginger paste", Day: day},
		20: {ID: 20, Code: "26-331-A", Kind: lots.OfBatch, Batch: 5, Name: "Carrot dressing", Day: day,
			Ends: "2026-12-20"}},
		Flows: []Flow{{1, 10, amount.G(500)}, {10, 20, amount.G(80)}},
		Ahead: map[int64]bool{}, Jars: map[int64][]bench.JarsAt{
			5: {{Place: bench.With, Party: 3, PartyName: "Saltings Deli", Jars: 6, Since: "2026-11-28"},
				{Place: bench.ColdRoom, Jars: 4, Since: "2026-11-26"}, {Place: bench.Samples}}}}
	for _, id := range asked {
		f.Ahead[id] = true
	}
	return f
}

func TestALotIsDrawnOnToTheJars(t *testing.T) {
	f := found(1)
	f.Ahead[10], f.Ahead[20] = true, true
	d := f.Draw()
	assert.Equal(t, "lot", d.Of)
	assert.Equal(t, "Ginger, 261120-A", d.Title)
	assert.Equal(t, []string{"came in", "became", "went into", "is now"}, d.Columns)
	var keys []string
	for _, n := range d.Nodes {
		keys = append(keys, n.Key)
	}
	assert.Equal(t, []string{"lot-1", "lot-10", "lot-20", "place-cold_room-0", "place-with-3"}, keys,
		"places stand in the order of a jar's way, and an empty one is none")
	assert.Equal(t, amount.G(900), d.Nodes[0].Received)
	assert.True(t, d.Nodes[0].Asked)
	assert.Equal(t, int64(5), d.Nodes[2].ID, "a batch is named by itself, not by its lot")
	assert.Equal(t, "Cold room", d.Nodes[3].Name)
	assert.Equal(t, "Saltings Deli", d.Nodes[4].Name)
	assert.Equal(t, 3, d.Nodes[4].Column)
	assert.Contains(t, d.Flows, Band{From: "lot-20", To: "place-with-3", Jars: 6})
	assert.Contains(t, d.Flows, Band{From: "lot-1", To: "lot-10", Grams: amount.G(500)})
	assert.Equal(t, AccountOf(f.Jars[4], f.Jars[5]), d.Account)
}

func TestABatchIsDrawnBackWithItsOwnJarsOnly(t *testing.T) {
	f := found(20)
	d := f.Draw()
	assert.Equal(t, lots.OfBatch, d.Of)
	assert.Equal(t, "Carrot dressing, 26-331-A", d.Title)
	assert.Equal(t, []Lot{f.Lots[20]}, f.Batches(), "what it was made of was not asked for its jars")
	f = found(10)
	d = f.Draw()
	assert.Equal(t, []string{"came in", "became", "went into"}, d.Columns, "no jars of the paste stand anywhere")
	assert.Empty(t, d.Account)
}
