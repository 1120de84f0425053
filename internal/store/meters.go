package store

import (
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/acidity"
)

type meterCheckRow struct {
	ID           int64
	Turn         int64 `gorm:"->"` // the next of the entries' own numbers
	Meter        string
	MV4          *float64 `gorm:"column:mv4"`
	MV7          *float64 `gorm:"column:mv7"`
	PH4          *float64 `gorm:"column:ph4"`
	PH7          *float64 `gorm:"column:ph7"`
	Celsius      float64
	SlopePercent *float64
	Accepted     bool
	CheckedAt    time.Time
	CheckedBy    string
	EnteredAt    time.Time
	Looks        []meterLookRow `gorm:"foreignKey:CheckID"`
}

func (meterCheckRow) TableName() string { return "meter_checks" }

type meterLookRow struct {
	ID       int64
	Turn     int64 `gorm:"->"`
	CheckID  int64
	PH       float64 `gorm:"column:ph"`
	Celsius  float64
	Good     bool
	LookedAt time.Time
	LookedBy string
}

func (meterLookRow) TableName() string { return "meter_looks" }

func (r meterCheckRow) domain() kernel.MeterCheck {
	c := kernel.MeterCheck{ID: r.ID, Turn: r.Turn, Meter: r.Meter,
		Check:    acidity.Check{MV4: r.MV4, MV7: r.MV7, PH4: r.PH4, PH7: r.PH7, Celsius: r.Celsius},
		Accepted: r.Accepted, CheckedAt: r.CheckedAt, CheckedBy: r.CheckedBy, EnteredAt: r.EnteredAt}
	for _, l := range r.Looks {
		c.Looks = append(c.Looks, kernel.MeterLook{Check: l.CheckID, PH: l.PH, Celsius: l.Celsius, Good: l.Good,
			At: l.LookedAt, By: l.LookedBy})
	}
	return c
}

// MeterChecks returns the checks since a time with their closing looks, newest first.
func (s *Store) MeterChecks(since time.Time) ([]kernel.MeterCheck, error) {
	var rows []meterCheckRow
	if err := s.db.Preload("Looks").Where("checked_at >= ?", since).
		Order("checked_at DESC, id DESC").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.MeterCheck, len(rows))
	for i, r := range rows {
		out[i] = r.domain()
	}
	return out, nil
}

// MeterCheck returns one with its closing looks. Errors: ErrNotFound.
func (s *Store) MeterCheck(id int64) (kernel.MeterCheck, error) {
	var row meterCheckRow
	if err := s.db.Preload("Looks").Where("id = ?", id).Take(&row).Error; err != nil {
		return kernel.MeterCheck{}, fmt.Errorf("meter check %d: %w", id, translate(err))
	}
	return row.domain(), nil
}

// AddMeterCheck stores a check and fills in its id.
func (s *Store) AddMeterCheck(c *kernel.MeterCheck) error {
	row := meterCheckRow{Meter: c.Meter, MV4: c.Check.MV4, MV7: c.Check.MV7, PH4: c.Check.PH4, PH7: c.Check.PH7,
		Celsius: c.Check.Celsius, Accepted: c.Accepted, CheckedAt: c.CheckedAt, CheckedBy: c.CheckedBy,
		EnteredAt: c.EnteredAt}
	if c.Check.HasMV() {
		slope := c.Check.Judge().SlopePercent
		row.SlopePercent = &slope
	}
	err := translate(s.db.Create(&row).Error)
	c.ID = row.ID
	return err
}

// AddMeterLook stores a closing look.
func (s *Store) AddMeterLook(l kernel.MeterLook) error {
	return translate(s.db.Create(&meterLookRow{CheckID: l.Check, PH: l.PH, Celsius: l.Celsius, Good: l.Good,
		LookedAt: l.At, LookedBy: l.By}).Error)
}

// eventRows selects checks and closing looks as events; a look counts from when it was entered.
var eventRows = query("event_rows")

// MeterEvents returns, in the order of entry, the checks and closing looks since a time of the meters of these checks.
func (s *Store) MeterEvents(checks []int64, since time.Time) ([]kernel.MeterEvent, error) {
	if len(checks) == 0 {
		return nil, nil
	}
	var rows []struct {
		Turn, Check   int64
		Meter, ByWhom string
		Look, Good    bool
		At, EnteredAt time.Time
	}
	err := s.db.Raw(query("events_head")+eventRows+
		query("events_tail"), since, checks).Scan(&rows).Error
	if err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.MeterEvent, len(rows))
	for i, r := range rows {
		out[i] = kernel.MeterEvent{MeterEvent: acidity.MeterEvent{Turn: r.Turn, Check: r.Check, Meter: r.Meter,
			Look: r.Look,
			Good: r.Good, At: r.At}, EnteredAt: r.EnteredAt, By: r.ByWhom}
	}
	return out, nil
}

// BatchesOnMeter returns the ids of batches with a reading, taken or entered since a time, on a meter.
func (s *Store) BatchesOnMeter(meter string, since time.Time) ([]int64, error) {
	var ids []int64
	err := s.db.Raw(query("batches_on_meter"),
		since, since, meter).Scan(&ids).Error
	return ids, translate(err)
}
