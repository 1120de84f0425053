package bench

import (
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/entry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// tare tares a scale with so much on it.
func (h *hand) tare(load int, scale string, g float64) error {
	at := amount.G(g)
	return h.try(&Tared{Load: load, Scale: scale, Reading: &at})
}

// reads takes what a scale shows more than before.
func (h *hand) reads(load int, line, scale string, shows, grams float64) error {
	at := amount.G(shows)
	return h.try(&Capture{Load: load, Line: line, Grams: amount.G(grams), Scale: scale, Reading: &at,
		Saw: h.w.loads[load-1].lines[h.w.line(line)].last})
}

func TestAWeightCountsFromTheZeroThatTheBatchKnows(t *testing.T) {
	h := newHand(1)
	assert.Equal(t, entry.NotTared, codeOf(t, h.reads(1, "oil", "bench", 1200, 1200)),
		"a bowl that nobody tared is not oil")
	require.NoError(t, h.tare(1, "bench", 812.4))
	require.NoError(t, h.reads(1, "oil", "bench", 2012.4, 1200))
	assert.Equal(t, &Zero{"bench", amount.G(2012.4), "Bram"}, h.w.Loads()[0].Zero)

	err := h.reads(1, "vinegar", "bench", 2652.4, 1240)
	assert.Equal(t, entry.Behind, codeOf(t, err), "what was in the bowl already is no vinegar")
	assert.ErrorContains(t, err, "makes 640 g, not 1240")
	require.NoError(t, h.reads(1, "vinegar", "bench", 2652.4, 640))
	at := amount.G(5)
	assert.Equal(t, "capture.reading_g", fieldOf(t, h.try(&Capture{Load: 1, Line: "garlic", Grams: amount.G(5),
		Scale: "bench"})))
	assert.Equal(t, "tared.scale", fieldOf(t, h.try(&Tared{Load: 1, Reading: &at})))
	assert.Equal(t, "tared.reading_g", fieldOf(t, h.try(&Tared{Load: 1, Scale: "bench"})))
}

func TestWhatTheScaleDidNotSeeAsksForATare(t *testing.T) {
	changes := map[string]func(h *hand) error{
		"typed by hand": func(h *hand) error {
			return h.try(&Capture{Load: 1, Line: "vinegar", Grams: amount.G(640), Manual: true})
		},
		"taken from another scale": func(h *hand) error {
			require.NoError(t, h.tare(1, "fine", 3))
			return h.reads(1, "vinegar", "fine", 643, 640)
		},
		"spilled": func(h *hand) error {
			return h.try(&TakenOut{Load: 1, What: "spilled", Grams: amount.G(20), Reason: "it slopped over"})
		},
		"given up": func(h *hand) error {
			return h.try(&Choice{Load: 1, How: Discards, Reason: "glass in it"})
		},
	}
	for name, change := range changes {
		t.Run(name, func(t *testing.T) {
			h := newHand(1)
			require.NoError(t, h.tare(1, "bench", 0))
			require.NoError(t, h.reads(1, "oil", "bench", 1200, 1200))
			require.NoError(t, change(h))
			if z := h.w.Loads()[0].Zero; z != nil {
				assert.NotEqual(t, "bench", z.Scale)
			}
			assert.Equal(t, entry.NotTared, codeOf(t, h.reads(1, "salt", "bench", 1230, 30)))
		})
	}
}

func TestWhatIsWeighedOnTheSheetAsksForATare(t *testing.T) {
	h := newHand(1)
	require.NoError(t, h.tare(1, "bench", 0))
	h.w.Add(Entry{ID: 9, By: "Bram", Body: &Weighing{Line: "oil", Grams: amount.G(1200)}})
	assert.Nil(t, h.w.Loads()[0].Zero)
}

func TestAPortionTakenOutAsksForATare(t *testing.T) {
	h := newHand(1)
	h.w.p.Vessel.Greatest = amount.G(1960)
	require.NoError(t, h.tare(1, "bench", 0))
	require.NoError(t, h.reads(1, "oil", "bench", 1296, 1296))
	require.NoError(t, h.try(&Choice{Load: 1, How: Rebalances, Portion: h.w.Loads()[0].Over.Portion}))
	assert.Nil(t, h.w.Loads()[0].Zero)
}

func TestALoadOfItsOwnHasAZeroOfItsOwn(t *testing.T) {
	h := newHand(2)
	require.NoError(t, h.tare(1, "bench", 700))
	assert.Equal(t, entry.NotTared, codeOf(t, h.reads(2, "oil", "bench", 1900, 1200)))
}

func fieldOf(t *testing.T, err error) string {
	t.Helper()
	var r entry.Refusal
	require.ErrorAs(t, err, &r)
	return r.Field
}
