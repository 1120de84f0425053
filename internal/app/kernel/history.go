package kernel

import (
	"time"

	"gallipot/internal/core/told"
)

// historyStore reads what was noted of writes.
type historyStore interface {
	Changes(of []Subject, before int64, most int) ([]told.Change, error)
	ChangesOn(ask ChangesAsk) ([]told.Change, error)
	ChangeDays(ask ChangesAsk, zone string) ([]DayCount, error)
	NamesOf(ids map[string][]int64, texts map[string][]string) (map[string]string, error)
}

// Subject names what changes are about: one kind of row, or rows whose name begins so.
type Subject struct {
	What  string
	Which string
	Below bool // rows named Which/…, too
}

// ChangesAsk is which changes are asked for: of some kinds of rows, of some kinds of entries among them, by one person,
// within a time, before a place.
type ChangesAsk struct {
	Whats  []string
	Kinds  []string
	By     string
	From   time.Time
	To     time.Time
	Before int64
	Most   int
}

// DayCount is how much was written down on a day.
type DayCount struct {
	Day   string `json:"day"`
	Count int    `json:"count"`
}
