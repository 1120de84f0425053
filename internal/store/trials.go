package store

import (
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/upcast"
)

type trialRow struct {
	ID        int64
	Rev       int
	FormulaID string
	MadeOn    time.Time
	Data      document `gorm:"type:jsonb"`
	Format    int
	UpdatedAt time.Time
	UpdatedBy string
}

func (trialRow) TableName() string { return "trials" }

func (s *Store) rowOfTrial(t kernel.Trial, rev int) (trialRow, error) {
	data, err := write(t.Data)
	return trialRow{t.ID, rev, t.FormulaID, t.MadeOn, data, upcast.Present, s.now(), t.UpdatedBy}, err
}

// Trials returns the trials of a formula, oldest first; of all formulas where id is empty.
func (s *Store) Trials(formulaID string) ([]kernel.Trial, error) {
	var rows []trialRow
	q := s.db.Where("retired_at IS NULL").Order("formula_id, made_on, id")
	if formulaID != "" {
		q = q.Where("formula_id = ?", formulaID)
	}
	if err := q.Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.Trial, len(rows))
	for i, r := range rows {
		out[i] = kernel.Trial{ID: r.ID, Rev: r.Rev, FormulaID: r.FormulaID, MadeOn: r.MadeOn, UpdatedAt: r.UpdatedAt,
			UpdatedBy: r.UpdatedBy}
		if err := read("trial", r.Format, r.Data, &out[i].Data); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// AddTrial stores a trial and fills in its id. Errors: ErrInUse when the formula is not there.
func (s *Store) AddTrial(t *kernel.Trial) error {
	row, err := s.rowOfTrial(*t, 1)
	if err != nil {
		return err
	}
	err = translate(s.db.Create(&row).Error)
	t.ID = row.ID
	return err
}

// SaveTrial writes a trial over revision rev. Errors: ErrConflict.
func (s *Store) SaveTrial(t kernel.Trial, rev int) error {
	row, err := s.rowOfTrial(t, rev+1)
	if err != nil {
		return err
	}
	return changedOne(s.db.Model(&trialRow{}).Where("id = ? AND formula_id = ? AND rev = ? AND retired_at IS NULL",
		t.ID, t.FormulaID, rev).
		Select("rev", "made_on", "data", "format", "updated_at", "updated_by").Updates(&row))
}

// DropTrial retires a trial of a formula; it stays on record. Errors: ErrConflict when it is not there.
func (s *Store) DropTrial(formulaID string, id int64, why string, by kernel.Stamp) error {
	return retire(s.db.Model(&trialRow{}).Where("id = ? AND formula_id = ?", id, formulaID), why, by)
}
