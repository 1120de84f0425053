package law

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestDaysAndHoursStandInTheShopsOneForm(t *testing.T) {
	d := time.Date(2026, 11, 26, 19, 34, 0, 0, time.UTC)
	gb, us := Tongue("en-GB"), Tongue("en-US")
	assert.Equal(t, []string{"26 Nov", "26 Nov 2026", "26 Nov, 19:34"},
		[]string{gb.Day(d), gb.DayYear(d), gb.Moment(d)})
	assert.Equal(t, []string{"best before", "best if used by"}, []string{gb.Best(), us.Best()})
	assert.Equal(t, []string{"Nov 26", "Nov 26, 2026", "Nov 26, 7:34 PM"},
		[]string{us.Day(d), us.DayYear(d), us.Moment(d)})
}
