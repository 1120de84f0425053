package store

import (
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/day"
)

// JarsMade counts the jars of a formula filled since a day, and returns the day of the first batch among them.
func (s *Store) JarsMade(formula string, since time.Time) (jars int, first time.Time, err error) {
	var row struct {
		Jars  int
		First *time.Time
	}
	err = s.db.Raw(query("jars_made"), formula,
		day.Of(since)).Scan(&row).Error
	if err == nil && row.First != nil {
		first = *row.First
	}
	return row.Jars, first, translate(err)
}

// BatchesFilled returns the last filled batches of a formula, newest first.
func (s *Store) BatchesFilled(formula string, most int) ([]kernel.Batch, error) {
	var ids []int64
	err := s.db.Raw(query("batches_filled"), formula, most).Scan(&ids).Error
	if err != nil || len(ids) == 0 {
		return nil, translate(err)
	}
	return s.BatchesBy(ids)
}
