package store

import (
	"encoding/json"
	"fmt"
	"time"
)

// Label is the label of a formula under a regime, with the facts it was made from.
type Label struct {
	ID        int64
	Rev       int
	FormulaID string
	Regime    string
	WidthMM   float64 `gorm:"column:width_mm"`
	HeightMM  float64 `gorm:"column:height_mm"`
	Version   int
	Facts     json.RawMessage `gorm:"type:jsonb"`
	UpdatedAt time.Time
	UpdatedBy string
}

// Labels returns all labels.
func (s *Store) Labels() ([]Label, error) {
	var rows []Label
	return rows, translate(s.db.Order("formula_id, regime").Find(&rows).Error)
}

// Label returns one. Errors: ErrNotFound.
func (s *Store) Label(id int64) (Label, error) {
	var row Label
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return row, fmt.Errorf("label %d: %w", id, translate(err))
	}
	return row, nil
}

// AddLabel stores a label and fills in its id. Errors: ErrTaken when the formula has one for the regime.
func (s *Store) AddLabel(l *Label) error { return translate(s.db.Create(l).Error) }

// SaveLabel writes a label over revision rev. Errors: ErrConflict.
func (s *Store) SaveLabel(l Label, rev int) error {
	l.Rev, l.UpdatedAt = rev+1, time.Now()
	return changedOne(s.db.Model(&Label{}).Where("id = ? AND rev = ?", l.ID, rev).
		Select("rev", "width_mm", "height_mm", "version", "facts", "updated_at", "updated_by").Updates(&l))
}
