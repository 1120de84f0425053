package device

import (
	"context"
	"fmt"
	"math"
	"net"
	"testing"
	"time"

	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/shop"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestReadingsAreReadWholeOrNotAtAll(t *testing.T) {
	r, err := ParseReading("reads 1234.5 g steady\n")
	require.NoError(t, err)
	assert.True(t, r.Steady && r.Unit == "g" && r.Value == 1234.5)
	r, err = ParseReading("reads 4.02 pH 173.1 mV 22.0 C moving")
	require.NoError(t, err)
	assert.Equal(t, []float64{4.02, 173.1, 22}, []float64{r.Value, *r.MV, *r.C})
	assert.False(t, r.Steady)
	r, err = ParseReading("over")
	require.NoError(t, err)
	assert.True(t, r.Over)
	r, err = ParseReading("cannot: out of labels")
	require.NoError(t, err)
	assert.Equal(t, "out of labels", r.Fault)
	for _, bad := range []string{"", "reads", "reads 12 g", "reads x g steady", "reads 12 lb steady",
		"reads 12 g 3 steady",
		"reads NaN g steady", "reads 1e12 g steady", "12 g", "reads 4 pH 5 pH steady"} {
		_, err := ParseReading(bad)
		assert.Error(t, err, bad)
	}
}

// steps lets simulated time go by.
func steps(b body, seconds float64) {
	for range int(seconds / tick.Seconds()) {
		b.Step(tick.Seconds())
	}
}

func TestAScaleTrailsThePourAndSettles(t *testing.T) {
	s := newScale("bench", 0.1, 3000, 1)
	require.Equal(t, "done", s.Do([]string{"sim", "pour", "50"}))
	steps(s, 4)
	moving, err := ParseReading(s.Reads())
	require.NoError(t, err)
	assert.False(t, moving.Steady)
	require.Equal(t, "done", s.Do([]string{"sim", "stop"}))
	atStop, err := ParseReading(s.Reads())
	require.NoError(t, err)
	assert.Contains(t, s.Do([]string{"tare"}), "not settled")
	steps(s, 3)
	rest, err := ParseReading(s.Reads())
	require.NoError(t, err)
	require.True(t, rest.Steady)
	assert.Greater(t, rest.Value-atStop.Value, 15.0, "what was in the air, and what the reading had not shown")
	assert.InDelta(t, rest.Value, math.Round(rest.Value*10)/10, 1e-9, "in whole divisions")
	require.Equal(t, "done", s.Do([]string{"tare"}))
	zero, err := ParseReading(s.Reads())
	require.NoError(t, err)
	assert.Zero(t, zero.Value)
	s.Do([]string{"sim", "put", "3000"})
	steps(s, 2)
	assert.Equal(t, "over", s.Reads())
	s.Do([]string{"sim", "clear"})
	s.Do([]string{"sim", "restless"})
	steps(s, 10)
	assert.Contains(t, s.Reads(), "moving", "a scale may never settle")
	exact := newScale("fine", 0.01, 500, 2)
	exact.Do([]string{"sim", "pour", "12.5", "5"})
	steps(exact, 6)
	assert.Equal(t, "reads 12.500 g steady", exact.Reads())
}

func TestAMeterSettlesAndDrifts(t *testing.T) {
	m := newMeter("m")
	assert.Contains(t, m.Reads(), "in nothing")
	m.Do([]string{"sim", "dip", "4.01", "22"})
	steps(m, 0.3)
	assert.Contains(t, m.Reads(), "moving")
	steps(m, 12)
	r, err := ParseReading(m.Reads())
	require.NoError(t, err)
	assert.True(t, r.Steady)
	assert.InDelta(t, 4.01, r.Value, 0.011)
	m.Do([]string{"sim", "offset", "20"})
	steps(m, 12)
	r, err = ParseReading(m.Reads())
	require.NoError(t, err)
	assert.Less(t, r.Value, 3.75, "it does not know that it has drifted")
}

func TestAPrinterCountsAJobOnce(t *testing.T) {
	h := NewHub()
	t.Cleanup(func() { _ = h.Close() })
	d := shop.Device{ID: "p", Kind: shop.Printer, Name: "Labels"}
	page := append([]byte("%PDF-1.7\n"), make([]byte, 100_000)...)
	job := func(name string, labels int) (string, error) {
		return h.Ask(t.Context(), d, fmt.Sprintf("print %s %d %d", name, labels, len(page)), page)
	}
	_, err := h.Ask(t.Context(), d, "sim roll 20", nil)
	require.NoError(t, err)
	said, err := job("a", 12)
	require.NoError(t, err)
	assert.Equal(t, "done 12", said)
	said, err = job("a", 12)
	require.NoError(t, err)
	assert.Equal(t, "done 12", said, "the same job is not printed twice")
	_, err = job("b", 12)
	assert.ErrorContains(t, err, "8 labels are left")
	_, err = h.Ask(t.Context(), d, "sim jam", nil)
	require.NoError(t, err)
	_, err = job("c", 1)
	assert.ErrorContains(t, err, "jammed")
	said, err = h.Ask(t.Context(), d, "count", nil)
	require.NoError(t, err)
	assert.Equal(t, "printed 12", said)
}

func TestASilentDeviceIsShownWithinTwoSeconds(t *testing.T) {
	h := NewHub()
	t.Cleanup(func() { _ = h.Close() })
	d := shop.Device{ID: "s", Kind: shop.Scale, Name: "Bench", Division: amount.MustGrams("0.1"),
		Capacity: amount.G(6000)}
	r, err := h.Read(t.Context(), d, 0)
	require.NoError(t, err)
	require.True(t, r.Answers)
	_, err = h.Ask(t.Context(), d, "sim unplug", nil)
	require.NoError(t, err)
	began := time.Now()
	for r.Answers && time.Since(began) < 10*time.Second {
		r, err = h.Read(t.Context(), d, r.Seq)
		require.NoError(t, err)
	}
	assert.False(t, r.Answers, "within the time after which it counts as silent")
	_, err = h.Ask(t.Context(), d, "sim plug", nil)
	require.NoError(t, err)
	for !r.Answers && time.Since(began) < 30*time.Second {
		r, err = h.Read(t.Context(), d, r.Seq)
		require.NoError(t, err)
	}
	assert.True(t, r.Answers, "and it is heard again once it is plugged in")
}

func TestARealDeviceIsPointedAtByItsAddress(t *testing.T) {
	s, err := StartStandIn(shop.Device{Kind: shop.Probe, Name: "Probe"}, "127.0.0.1:0", 1)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	h := NewHub()
	t.Cleanup(func() { _ = h.Close() })
	r, err := h.Read(t.Context(), shop.Device{Kind: shop.Probe, Name: "Probe", Address: s.Addr()}, 0)
	require.NoError(t, err)
	assert.Equal(t, "C", r.Unit)

	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	address := l.Addr().String()
	require.NoError(t, l.Close())
	_, err = h.Ask(context.Background(), shop.Device{Kind: shop.Scale, Name: "Gone", Address: address},
		"tare", nil)
	var e production.DeviceError
	require.ErrorAs(t, err, &e)
	assert.True(t, e.Silent)
}
