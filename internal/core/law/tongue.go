package law

import "time"

// Tongue is how a shop writes days and hours in sentences: one form everywhere, the same that its screens show.
type Tongue string

// law is that of the country whose people write so; the first that is offered where none has the locale.
func (t Tongue) law() *Law {
	if l, err := Speaking(string(t), laws[0].Regime); err == nil {
		return l
	}
	return laws[0]
}

// monthFirst says whether days are written month first and hours by twelve.
func (t Tongue) monthFirst() bool { return t.law().MonthFirst }

// Best is what stands before a day of best quality, in the words of its people.
func (t Tongue) Best() string { return t.law().Best }

// Day writes a day without its year: 25 Nov, or Nov 25.
func (t Tongue) Day(d time.Time) string {
	if t.monthFirst() {
		return d.Format("Jan 2")
	}
	return d.Format("2 Jan")
}

// DayYear writes a day with its year: 25 Nov 2026, or Nov 25, 2026.
func (t Tongue) DayYear(d time.Time) string {
	if t.monthFirst() {
		return d.Format("Jan 2, 2006")
	}
	return d.Format("2 Jan 2006")
}

// Moment writes a moment of the shop's clock: 25 Nov, 19:34, or Nov 25, 7:34 PM.
func (t Tongue) Moment(d time.Time) string {
	if t.monthFirst() {
		return d.Format("Jan 2, 3:04 PM")
	}
	return d.Format("2 Jan, 15:04")
}
