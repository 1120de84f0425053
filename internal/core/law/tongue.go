package law

import (
	"strings"
	"time"
)

// Tongue is how a shop writes days and hours in sentences: one form everywhere, the same that its screens show.
type Tongue string

// us says whether days are written month first and hours by twelve.
func (t Tongue) us() bool { return strings.HasSuffix(string(t), "-US") }

// Best is what stands before a day of best quality, in the words of its people.
func (t Tongue) Best() string {
	if t.us() {
		return "best if used by"
	}
	return "best before"
}

// Day writes a day without its year: 25 Nov, or Nov 25.
func (t Tongue) Day(d time.Time) string {
	if t.us() {
		return d.Format("Jan 2")
	}
	return d.Format("2 Jan")
}

// DayYear writes a day with its year: 25 Nov 2026, or Nov 25, 2026.
func (t Tongue) DayYear(d time.Time) string {
	if t.us() {
		return d.Format("Jan 2, 2006")
	}
	return d.Format("2 Jan 2006")
}

// Moment writes a moment of the shop's clock: 25 Nov, 19:34, or Nov 25, 7:34 PM.
func (t Tongue) Moment(d time.Time) string {
	if t.us() {
		return d.Format("Jan 2, 3:04 PM")
	}
	return d.Format("2 Jan, 15:04")
}
