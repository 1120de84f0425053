package acidity

import (
	"fmt"
	"time"
)

// MeterEvent is a check of a meter in its buffers, or a closing look at buffer 4.01.
type MeterEvent struct {
	Turn  int64     `json:"turn"`  // order of entry, over meters and batches alike
	Check int64     `json:"check"` // the check it is, or that the look closes
	Meter string    `json:"meter"`
	Look  bool      `json:"look"`
	Good  bool      `json:"good"`
	At    time.Time `json:"at"` // when it was made, by the word of its author
}

// after orders events by when they were made, then by when they were entered.
func (e MeterEvent) after(o MeterEvent) bool {
	if !e.At.Equal(o.At) {
		return e.At.After(o.At)
	}
	return e.Turn > o.Turn
}

// Support says why a reading cannot support a release; empty when it can (handbook 05). events are all of its meter,
// entered is the reading's place in the order of entry. The newest event before the reading must be a passed check of
// the same day, by the clock and by the order of entry; a failed one takes the support back to the last that passed.
// zone is where the shop's days begin.
func Support(events []MeterEvent, r Reading, entered int64, zone *time.Location) string {
	if r.Celsius < minSampleC || r.Celsius > maxSampleC {
		return fmt.Sprintf("the sample was at %g °C, not 20 to 30 °C", r.Celsius)
	}
	var made, known *MeterEvent // the newest before it: by the clock, and of those entered before it
	for i, e := range events {
		if e.At.After(r.At) || e.At.Equal(r.At) && e.Turn > entered {
			continue
		}
		if made == nil || e.after(*made) {
			made = &events[i]
		}
		if e.Turn < entered && (known == nil || e.after(*known)) {
			known = &events[i]
		}
	}
	for _, e := range []*MeterEvent{made, known} {
		switch {
		case e == nil:
			return "no meter check came before it"
		case e.Look:
			return "after a closing look a new check comes before the next reading"
		case !e.Good:
			return "the meter check was not accepted"
		case !SameDay(e.At, r.At, zone):
			return "the meter check is from another day"
		}
	}
	return taken(events, r, entered)
}

// taken says which failed check or look took the support from a reading. What passes later restores nothing.
func taken(events []MeterEvent, r Reading, entered int64) string {
	for _, failed := range events {
		if failed.Good {
			continue
		}
		var passed *MeterEvent
		for i, e := range events {
			if e.Good && e.Turn < failed.Turn && failed.after(e) && (passed == nil || e.after(*passed)) {
				passed = &events[i]
			}
		}
		byClock := before(r.At, entered, failed) && (passed == nil || !before(r.At, entered, *passed))
		byEntry := entered < failed.Turn && (passed == nil || entered > passed.Turn)
		if byClock || byEntry {
			if failed.Look {
				return "the closing look at buffer 4.01 failed after it"
			}
			return "the next check of the meter failed"
		}
	}
	return ""
}

// before reports whether a reading comes before an event by the clock; at one instant by the order of entry.
func before(at time.Time, entered int64, e MeterEvent) bool {
	return at.Before(e.At) || at.Equal(e.At) && entered < e.Turn
}

// SameDay reports whether two times lie on one day of a place.
func SameDay(a, b time.Time, zone *time.Location) bool {
	if zone == nil {
		zone = time.UTC
	}
	ay, am, ad := a.In(zone).Date()
	by, bm, bd := b.In(zone).Date()
	return ay == by && am == bm && ad == bd
}
