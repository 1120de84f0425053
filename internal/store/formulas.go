package store

import (
	"fmt"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/core/formula"
	"gallipot/internal/upcast"
)

type formulaRow struct {
	ID            string
	Name          string
	Retired       bool
	CreatedAt     time.Time
	CreatedBy     string
	ParentFormula *string
	ParentVersion *int
	Batches       int
	Trials        int `gorm:"->;-:migration"` // counted, not kept
}

func (formulaRow) TableName() string { return "formulas" }

func (r formulaRow) domain() app.Formula {
	f := app.Formula{ID: r.ID, Name: r.Name, Retired: r.Retired, CreatedAt: r.CreatedAt, CreatedBy: r.CreatedBy, Batches: r.Batches, Trials: r.Trials}
	if r.ParentFormula != nil && r.ParentVersion != nil {
		f.Parent = &formula.Ref{Formula: *r.ParentFormula, Version: *r.ParentVersion}
	}
	return f
}

type versionRow struct {
	FormulaID string `gorm:"primaryKey"`
	Number    int    `gorm:"primaryKey;autoIncrement:false"`
	Rev       int
	State     string
	Data      document `gorm:"type:jsonb"`
	Format    int
	LockedAt  *time.Time
	UpdatedAt time.Time
	UpdatedBy string
}

func (versionRow) TableName() string { return "versions" }

func (r versionRow) domain() (app.Version, error) {
	v := app.Version{FormulaID: r.FormulaID, Number: r.Number, Rev: r.Rev, State: r.State, LockedAt: r.LockedAt, UpdatedAt: r.UpdatedAt, UpdatedBy: r.UpdatedBy}
	return v, read("version", r.Format, r.Data, &v.Data)
}

func rowOfVersion(v formula.Version, rev int, lockedAt *time.Time, by string) (versionRow, error) {
	data, err := write(v)
	return versionRow{v.Formula, v.Number, rev, v.State, data, upcast.Present, lockedAt, time.Now(), by}, err
}

// Formulas returns all formulas by name.
func (s *Store) Formulas() ([]app.Formula, error) {
	var rows []formulaRow
	if err := s.db.Order("lower(name), id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]app.Formula, len(rows))
	for i, r := range rows {
		out[i] = r.domain()
	}
	return out, nil
}

// Formula returns one. Errors: ErrNotFound.
func (s *Store) Formula(id string) (app.Formula, error) {
	var row formulaRow
	counted := "*, (SELECT count(*) FROM trials t WHERE t.formula_id = formulas.id) AS trials"
	if err := s.db.Select(counted).Where("id = ?", id).Take(&row).Error; err != nil {
		return app.Formula{}, fmt.Errorf("formula %q: %w", id, translate(err))
	}
	return row.domain(), nil
}

// AddFormula stores a formula. Errors: ErrTaken.
func (s *Store) AddFormula(f app.Formula) error {
	row := formulaRow{ID: f.ID, Name: f.Name, Retired: f.Retired, CreatedBy: f.CreatedBy}
	if f.Parent != nil {
		row.ParentFormula, row.ParentVersion = &f.Parent.Formula, &f.Parent.Version
	}
	return translate(s.db.Create(&row).Error)
}

// SaveFormula renames or retires a formula. Errors: ErrTaken.
func (s *Store) SaveFormula(id, name string, retired bool) error {
	return translate(s.db.Model(&formulaRow{}).Where("id = ?", id).Updates(map[string]any{"name": name, "retired": retired}).Error)
}

// SetParent makes a formula a variant of another's version. Errors: ErrInUse when that version is not there.
func (s *Store) SetParent(formulaID string, parent formula.Ref) error {
	return translate(s.db.Model(&formulaRow{}).Where("id = ?", formulaID).
		Updates(map[string]any{"parent_formula": parent.Formula, "parent_version": parent.Version}).Error)
}

// Versions returns the versions of a formula, oldest first; of all formulas where id is empty.
func (s *Store) Versions(id string) ([]app.Version, error) {
	q := s.db.Order("formula_id, number")
	if id != "" {
		q = q.Where("formula_id = ?", id)
	}
	var rows []versionRow
	if err := q.Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	return versions(rows)
}

// CurrentVersions returns of every formula its newest version and its newest locked one, oldest first.
func (s *Store) CurrentVersions() ([]app.Version, error) {
	var rows []versionRow
	err := s.db.Raw(`SELECT * FROM versions v WHERE number = (SELECT max(number) FROM versions n WHERE n.formula_id = v.formula_id)
		OR number = (SELECT max(number) FROM versions n WHERE n.formula_id = v.formula_id AND n.state = 'locked') ORDER BY formula_id, number`).Scan(&rows).Error
	if err != nil {
		return nil, translate(err)
	}
	return versions(rows)
}

func versions(rows []versionRow) ([]app.Version, error) {
	out := make([]app.Version, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.domain(); err != nil {
			return nil, fmt.Errorf("%s version %d: %w", r.FormulaID, r.Number, err)
		}
	}
	return out, nil
}

// VersionHeads tells of the versions of a formula, oldest first, without their lines.
func (s *Store) VersionHeads(id string) ([]app.VersionSummary, error) {
	var rows []struct {
		Number, From int
		State, Note  string
		LockedAt     *time.Time
		UpdatedAt    time.Time
		UpdatedBy    string
	}
	err := s.db.Raw(`SELECT number, state, coalesce((data->>'from')::int, 0) AS "from", coalesce(data->>'note', '') AS note, locked_at, updated_at, updated_by
		FROM versions WHERE formula_id = ? ORDER BY number`, id).Scan(&rows).Error
	if err != nil {
		return nil, translate(err)
	}
	out := make([]app.VersionSummary, len(rows))
	for i, r := range rows {
		out[i] = app.VersionSummary{Number: r.Number, State: r.State, From: r.From, Note: r.Note, LockedAt: r.LockedAt, UpdatedAt: r.UpdatedAt, UpdatedBy: r.UpdatedBy}
	}
	return out, nil
}

// Version returns one. Errors: ErrNotFound.
func (s *Store) Version(ref formula.Ref) (app.Version, error) {
	var row versionRow
	if err := s.db.Where("formula_id = ? AND number = ?", ref.Formula, ref.Version).Take(&row).Error; err != nil {
		return app.Version{}, fmt.Errorf("%s: %w", ref, translate(err))
	}
	return row.domain()
}

// AddVersion stores a new version. Errors: ErrTaken when the formula has a draft already.
func (s *Store) AddVersion(v formula.Version, lockedAt *time.Time, by string) error {
	row, err := rowOfVersion(v, 1, lockedAt, by)
	if err != nil {
		return err
	}
	return translate(s.db.Create(&row).Error)
}

// SaveVersion writes a draft over revision rev. Errors: ErrConflict when it was changed or locked meanwhile.
func (s *Store) SaveVersion(v formula.Version, rev int, lockedAt *time.Time, by string) error {
	row, err := rowOfVersion(v, rev+1, lockedAt, by)
	if err != nil {
		return err
	}
	return changedOne(s.db.Model(&row).
		Where("formula_id = ? AND number = ? AND rev = ? AND state = ?", v.Formula, v.Number, rev, formula.Draft).
		Select("rev", "state", "data", "format", "locked_at", "updated_at", "updated_by").Updates(&row))
}

// DropDraft deletes a draft. Errors: ErrConflict when it is no draft of that revision.
func (s *Store) DropDraft(ref formula.Ref, rev int) error {
	return changedOne(s.db.Where("formula_id = ? AND number = ? AND rev = ? AND state = ?", ref.Formula, ref.Version, rev, formula.Draft).Delete(&versionRow{}))
}
