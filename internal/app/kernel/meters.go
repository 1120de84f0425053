package kernel

import (
	"time"

	"gallipot/internal/core/acidity"
)

// MeterCheck is a meter check with its closing looks, as it is kept.
type MeterCheck struct {
	ID        int64
	Turn      int64 // its place in the order of entry, which batch entries share
	Meter     string
	Check     acidity.Check
	Accepted  bool
	CheckedAt time.Time
	CheckedBy string
	EnteredAt time.Time
	Looks     []MeterLook
}

// MeterLook is a closing look at buffer 4.01.
type MeterLook struct {
	Check   int64
	PH      float64
	Celsius float64
	Good    bool
	At      time.Time
	By      string
}

// MeterEvent is a check or a look with who entered it and when.
type MeterEvent struct {
	acidity.MeterEvent
	EnteredAt time.Time
	By        string
}

// meterStore keeps meter checks.
type meterStore interface {
	MeterChecks(since time.Time) ([]MeterCheck, error)
	MeterCheck(id int64) (MeterCheck, error)
	AddMeterCheck(c *MeterCheck) error
	AddMeterLook(l MeterLook) error
	MeterEvents(checks []int64, since time.Time) ([]MeterEvent, error)
}
