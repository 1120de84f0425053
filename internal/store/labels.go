package store

import (
	"fmt"
	"gallipot/internal/app"
	"time"
)

// Labels returns all labels.
func (s *Store) Labels() ([]app.Label, error) {
	var rows []app.Label
	return rows, translate(s.db.Order("formula_id, regime").Find(&rows).Error)
}

// Label returns one. Errors: ErrNotFound.
func (s *Store) Label(id int64) (app.Label, error) {
	var row app.Label
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return row, fmt.Errorf("label %d: %w", id, translate(err))
	}
	return row, nil
}

// AddLabel stores a label and fills in its id. Errors: ErrTaken when the formula has one for the regime.
func (s *Store) AddLabel(l *app.Label) error { return translate(s.db.Create(l).Error) }

// SaveLabel writes a label over revision rev. Errors: ErrConflict.
func (s *Store) SaveLabel(l app.Label, rev int) error {
	l.Rev, l.UpdatedAt = rev+1, time.Now()
	return changedOne(s.db.Model(&app.Label{}).Where("id = ? AND rev = ?", l.ID, rev).
		Select("rev", "width_mm", "height_mm", "version", "facts", "updated_at", "updated_by").Updates(&l))
}
