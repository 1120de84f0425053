package day

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestADayIsThatOfItsPlace(t *testing.T) {
	west := time.FixedZone("west", -8*3600)
	at := time.Date(2026, 11, 26, 2, 0, 0, 0, time.UTC)
	assert.Equal(t, Day("2026-11-26"), Of(at))
	assert.Equal(t, Day("2026-11-25"), Of(at.In(west)), "it is still the day before there")
	begins, err := ParseIn("2026-11-25", west)
	require.NoError(t, err)
	assert.Equal(t, Day("2026-11-25"), Of(begins))
	assert.Equal(t, 8, begins.UTC().Hour())
}

func TestWhatIsNoDayIsSaid(t *testing.T) {
	for _, text := range []string{"", "25 Nov", "2026-02-30", "2026-2-3", "2026-11-25T00:00"} {
		_, err := Parse(text)
		assert.ErrorContains(t, err, "is no day", text)
	}
}

func TestDaysBetween(t *testing.T) {
	for _, c := range []struct {
		from, to Day
		days     int
	}{{"2026-11-25", "2026-11-25", 0}, {"2026-11-25", "2026-12-01", 6}, {"2026-12-01", "2026-11-25", -6},
		{"2028-02-28", "2028-03-01", 2}} {
		days, ok := Between(c.from, c.to)
		assert.True(t, ok)
		assert.Equal(t, c.days, days, "%s to %s", c.from, c.to)
	}
	_, ok := Between("2026-11-25", "tomorrow")
	assert.False(t, ok)
}
