package store

import (
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/pantry"
)

// JarsMade counts the jars that were filled of a formula since a day, and tells the day of the first batch among them.
func (s *Store) JarsMade(formula string, since time.Time) (jars int, first time.Time, err error) {
	var row struct {
		Jars  int
		First *time.Time
	}
	err = s.db.Raw(`SELECT coalesce(sum(s.jars), 0)::int AS jars, min(b.made_on) AS first FROM batches b
		JOIN batch_standing s ON s.batch_id = b.id WHERE b.formula_id = ? AND b.made_on >= ?
		AND EXISTS (SELECT 1 FROM batch_entries e WHERE e.batch_id = b.id AND e.kind = 'fill')`, formula,
		since.Format(pantry.DateLayout)).Scan(&row).Error
	if err == nil && row.First != nil {
		first = *row.First
	}
	return row.Jars, first, translate(err)
}

// BatchesFilled are the last batches of a formula that jars were filled of, the newest first.
func (s *Store) BatchesFilled(formula string, most int) ([]kernel.Batch, error) {
	var ids []int64
	err := s.db.Raw(`SELECT b.id FROM batches b WHERE b.formula_id = ?
		AND EXISTS (SELECT 1 FROM batch_entries e WHERE e.batch_id = b.id AND e.kind = 'fill')
		ORDER BY b.made_on DESC, b.id DESC LIMIT ?`, formula, most).Scan(&ids).Error
	if err != nil || len(ids) == 0 {
		return nil, translate(err)
	}
	return s.BatchesBy(ids)
}
