package store

import (
	"encoding/json"
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/law"
	"gallipot/internal/upcast"
)

type labelRow struct {
	ID        int64
	Rev       int
	FormulaID string
	Regime    law.Regime
	WidthMM   float64 `gorm:"column:width_mm"`
	HeightMM  float64 `gorm:"column:height_mm"`
	Version   int
	Facts     document `gorm:"type:jsonb"`
	Design    document `gorm:"type:jsonb"`
	Format    int
	UpdatedAt time.Time
	UpdatedBy string
}

func (labelRow) TableName() string { return "labels" }

func (r labelRow) domain() (kernel.Label, error) {
	l := kernel.Label{ID: r.ID, Rev: r.Rev, FormulaID: r.FormulaID, Regime: r.Regime, WidthMM: r.WidthMM,
		HeightMM: r.HeightMM, Version: r.Version,
		UpdatedAt: r.UpdatedAt, UpdatedBy: r.UpdatedBy}
	if err := json.Unmarshal(r.Design, &l.Design); err != nil {
		return l, fmt.Errorf("design of label %d: %w", r.ID, err)
	}
	return l, read("facts", r.Format, r.Facts, &l.Facts)
}

func (s *Store) rowOfLabel(l kernel.Label, rev int) (labelRow, error) {
	facts, err := write(l.Facts)
	if err != nil {
		return labelRow{}, err
	}
	design, err := write(l.Design)
	return labelRow{l.ID, rev, l.FormulaID, l.Regime, l.WidthMM, l.HeightMM, l.Version, facts, design, upcast.Present,
		s.now(), l.UpdatedBy}, err
}

// Labels returns all labels.
func (s *Store) Labels() ([]kernel.Label, error) {
	var rows []labelRow
	if err := s.db.Order("formula_id, regime").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.Label, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.domain(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Label returns one. Errors: ErrNotFound.
func (s *Store) Label(id int64) (kernel.Label, error) {
	var row labelRow
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return kernel.Label{}, fmt.Errorf("label %d: %w", id, translate(err))
	}
	return row.domain()
}

// AddLabel stores a label and fills in its id. Errors: ErrTaken when the formula has one for the regime.
func (s *Store) AddLabel(l *kernel.Label) error {
	row, err := s.rowOfLabel(*l, 1)
	if err != nil {
		return err
	}
	err = translate(s.db.Create(&row).Error)
	l.ID, l.Rev = row.ID, 1
	return err
}

// SaveLabel writes a label over revision rev. Errors: ErrConflict.
func (s *Store) SaveLabel(l kernel.Label, rev int) error {
	row, err := s.rowOfLabel(l, rev+1)
	if err != nil {
		return err
	}
	return changedOne(s.db.Model(&labelRow{}).Where("id = ? AND rev = ?", l.ID, rev).
		Select("rev", "width_mm", "height_mm", "version", "facts", "design", "format", "updated_at",
			"updated_by").Updates(&row))
}

// NextPlace returns the first place on a sheet that the newest print on this stock left free; 1 if nothing was printed
// on it.
func (s *Store) NextPlace(stock string) (int, error) {
	next := []int{}
	err := s.db.Raw(query("next_place"),
		stock).Scan(&next).Error
	if err != nil || len(next) == 0 {
		return 1, translate(err)
	}
	return max(1, next[0]), nil
}

// PlaceOf returns the place on a sheet at which the print with this key began.
func (s *Store) PlaceOf(batch int64, key string) (int, error) {
	from := []int{}
	err := s.db.Raw(query("place_of"),
		batch, key).Scan(&from).Error
	if err != nil || len(from) == 0 {
		return 1, translate(err)
	}
	return from[0], nil
}

// PrintsOf returns the print entries of these batches, oldest first.
func (s *Store) PrintsOf(batches []int64) (map[int64][]bench.Entry, error) {
	var rows []batchEntryRow
	err := s.db.Where("batch_id IN ? AND kind = 'print'", batches).Order("id").Find(&rows).Error
	if err != nil {
		return nil, translate(err)
	}
	out := map[int64][]bench.Entry{}
	for _, r := range rows {
		e, err := r.domain()
		if err != nil {
			return nil, err
		}
		out[r.BatchID] = append(out[r.BatchID], e)
	}
	return out, nil
}
