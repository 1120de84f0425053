package store

import (
	"fmt"
	"time"

	"gallipot/internal/app"
)

type meterCheckRow struct {
	ID             int64
	Meter          string
	MV4            float64 `gorm:"column:mv4"`
	MV7            float64 `gorm:"column:mv7"`
	Celsius        float64
	SlopePercent   float64
	Accepted       bool
	CheckedAt      time.Time
	CheckedBy      string
	ClosingPH      *float64 `gorm:"column:closing_ph"`
	ClosingCelsius *float64
	ClosingGood    *bool
	ClosingAt      *time.Time
}

func (meterCheckRow) TableName() string { return "meter_checks" }

// MeterChecks returns the checks since a time, newest first.
func (s *Store) MeterChecks(since time.Time) ([]app.MeterCheck, error) {
	var rows []meterCheckRow
	if err := s.db.Where("checked_at >= ?", since).Order("checked_at DESC, id DESC").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]app.MeterCheck, len(rows))
	for i, r := range rows {
		out[i] = app.MeterCheck(r)
	}
	return out, nil
}

// MeterCheck returns one. Errors: ErrNotFound.
func (s *Store) MeterCheck(id int64) (app.MeterCheck, error) {
	var row meterCheckRow
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return app.MeterCheck{}, fmt.Errorf("meter check %d: %w", id, translate(err))
	}
	return app.MeterCheck(row), nil
}

// AddMeterCheck stores a check and fills in its id.
func (s *Store) AddMeterCheck(c *app.MeterCheck) error {
	row := meterCheckRow(*c)
	err := translate(s.db.Create(&row).Error)
	c.ID = row.ID
	return err
}

// CloseMeterCheck records the closing look. Errors: ErrConflict when there is one already.
func (s *Store) CloseMeterCheck(c app.MeterCheck) error {
	row := meterCheckRow(c)
	return changedOne(s.db.Model(&meterCheckRow{}).Where("id = ? AND closing_at IS NULL", c.ID).
		Select("closing_ph", "closing_celsius", "closing_good", "closing_at").Updates(&row))
}

// FailedChecks returns which of these meter checks failed their closing look: readings that rest on them support
// nothing.
func (s *Store) FailedChecks(ids []int64) ([]int64, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	var failed []int64
	return failed, translate(s.db.Model(&meterCheckRow{}).Where("closing_good = false AND id IN ?", ids).Pluck("id",
		&failed).Error)
}
