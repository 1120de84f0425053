// Package day holds calendar days: how they are written where they are kept and sent, 2026-11-25, and how they are
// counted. How a shop shows them is its tongue's matter (package law).
package day

import (
	"fmt"
	"strings"
	"time"
)

// Layout is how a day is written everywhere.
const Layout = time.DateOnly

// Day is a calendar day as it is kept and sent, 2026-11-25; empty for none. Days compare with < as they follow each
// other. What was typed may be no day at all: Parse tells.
type Day string

// Of is the day of a moment where the moment is.
func Of(at time.Time) Day { return Day(at.Format(Layout)) }

// Parse reads a day, as the first moment of it in UTC. Errors: Error.
func Parse[S ~string](text S) (time.Time, error) { return ParseIn(text, time.UTC) }

// ParseIn reads a day, as the first moment of it in a zone. Errors: Error.
func ParseIn[S ~string](text S, zone *time.Location) (time.Time, error) {
	at, err := time.ParseInLocation(Layout, string(text), zone)
	if err != nil {
		return time.Time{}, Error{string(text)}
	}
	return at, nil
}

// mark stands around a day in a sentence until the whole is told in the shop's tongue.
const mark = "\ue000"

// Mark writes a day into a sentence that is told in a shop's tongue later; what is no day stays as it is.
func Mark[S ~string](text S) string {
	if _, err := Parse(text); err != nil {
		return string(text)
	}
	return mark + string(text) + mark
}

// Say writes the marked days of a sentence as say does.
func Say(sentence string, say func(time.Time) string) string {
	parts := strings.Split(sentence, mark)
	for i, p := range parts {
		if d, err := Parse(p); err == nil && i%2 == 1 {
			parts[i] = say(d)
		}
	}
	return strings.Join(parts, "")
}

// Between is how many days lie from one day to another; ok is false where either is none.
func Between(from, to Day) (days int, ok bool) {
	a, errA := Parse(from)
	b, errB := Parse(to)
	if errA != nil || errB != nil {
		return 0, false
	}
	return int(b.Sub(a).Hours() / 24), true
}

// Error names what is no day.
type Error struct{ Text string }

func (e Error) Error() string {
	return fmt.Sprintf("%q is no day; days are written like 2026-11-25", e.Text)
}
