package store

import (
	"fmt"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/core/formula"
)

// Formulas returns all formulas by name.
func (s *Store) Formulas() ([]app.Formula, error) {
	var rows []app.Formula
	return rows, translate(s.db.Order("lower(name), id").Find(&rows).Error)
}

// Formula returns one. Errors: ErrNotFound.
func (s *Store) Formula(id string) (app.Formula, error) {
	var row app.Formula
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return row, fmt.Errorf("formula %q: %w", id, translate(err))
	}
	return row, nil
}

// AddFormula stores a formula. Errors: ErrTaken.
func (s *Store) AddFormula(f app.Formula) error { return translate(s.db.Create(&f).Error) }

// SaveFormula renames or retires a formula. Errors: ErrTaken.
func (s *Store) SaveFormula(id, name string, retired bool) error {
	return translate(s.db.Model(&app.Formula{}).Where("id = ?", id).Updates(map[string]any{"name": name, "retired": retired}).Error)
}

// Versions returns the versions of a formula, oldest first; of all formulas where id is empty.
func (s *Store) Versions(id string) ([]app.Version, error) {
	var rows []app.Version
	q := s.db.Order("formula_id, number")
	if id != "" {
		q = q.Where("formula_id = ?", id)
	}
	return rows, translate(q.Find(&rows).Error)
}

// Version returns one. Errors: ErrNotFound.
func (s *Store) Version(ref formula.Ref) (app.Version, error) {
	var row app.Version
	if err := s.db.Where("formula_id = ? AND number = ?", ref.Formula, ref.Version).Take(&row).Error; err != nil {
		return row, fmt.Errorf("%s: %w", ref, translate(err))
	}
	return row, nil
}

// AddVersion stores a new version. Errors: ErrTaken when the formula has a draft already.
func (s *Store) AddVersion(v formula.Version, lockedAt *time.Time, by string) error {
	row := app.Version{FormulaID: v.Formula, Number: v.Number, Rev: 1, State: v.State, Data: v, LockedAt: lockedAt, UpdatedBy: by}
	return translate(s.db.Create(&row).Error)
}

// SaveVersion writes a draft over revision rev. Errors: ErrConflict when it was changed or locked meanwhile.
func (s *Store) SaveVersion(v formula.Version, rev int, lockedAt *time.Time, by string) error {
	return changedOne(s.db.Model(&app.Version{}).
		Where("formula_id = ? AND number = ? AND rev = ? AND state = ?", v.Formula, v.Number, rev, formula.Draft).
		Select("rev", "state", "data", "locked_at", "updated_at", "updated_by").
		Updates(&app.Version{Rev: rev + 1, State: v.State, Data: v, LockedAt: lockedAt, UpdatedAt: time.Now(), UpdatedBy: by}))
}

// DropDraft deletes a draft. Errors: ErrConflict when it is no draft of that revision.
func (s *Store) DropDraft(ref formula.Ref, rev int) error {
	return changedOne(s.db.Where("formula_id = ? AND number = ? AND rev = ? AND state = ?", ref.Formula, ref.Version, rev, formula.Draft).Delete(&app.Version{}))
}
