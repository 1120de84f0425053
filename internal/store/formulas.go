package store

import (
	"encoding/json"
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
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
	Trials        int      `gorm:"->;-:migration"` // counted, not kept
	Evidence      document `gorm:"->;-:migration"` // read along, not kept
}

func (formulaRow) TableName() string { return "formulas" }

// trialsCounted counts a formula's trials.
var trialsCounted = query("trials_counted")

// evidenceAlong selects what the rules of keeping need to know of a formula's documents.
var evidenceAlong = query("evidence_along")

func (r formulaRow) domain() (kernel.Formula, error) {
	f := kernel.Formula{ID: r.ID, Name: r.Name, Retired: r.Retired, CreatedAt: r.CreatedAt, CreatedBy: r.CreatedBy,
		Batches: r.Batches, Trials: r.Trials}
	if r.ParentFormula != nil && r.ParentVersion != nil {
		f.Parent = &formula.Ref{Formula: *r.ParentFormula, Version: *r.ParentVersion}
	}
	if len(r.Evidence) == 0 {
		return f, nil
	}
	var along []struct {
		Document  keeping.Document
		Withdrawn bool
	}
	err := json.Unmarshal(r.Evidence, &along)
	for _, e := range along {
		f.Evidence = append(f.Evidence, kernel.Evidence{Document: e.Document, Withdrawn: e.Withdrawn})
	}
	return f, err
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
	Name      string `gorm:"->;-:migration"` // the formula's, where one version is read
}

func (versionRow) TableName() string { return "versions" }

func (r versionRow) domain() (kernel.Version, error) {
	v := kernel.Version{FormulaID: r.FormulaID, Name: r.Name, Number: r.Number, Rev: r.Rev, State: r.State,
		LockedAt: r.LockedAt, UpdatedAt: r.UpdatedAt, UpdatedBy: r.UpdatedBy}
	return v, read("version", r.Format, r.Data, &v.Data)
}

func (s *Store) rowOfVersion(v formula.Version, rev int, lockedAt *time.Time, by string) (versionRow, error) {
	data, err := write(v)
	return versionRow{FormulaID: v.Formula, Number: v.Number, Rev: rev, State: v.State, Data: data,
		Format:   upcast.Present,
		LockedAt: lockedAt, UpdatedAt: s.now(), UpdatedBy: by}, err
}

// Formulas returns all formulas by name.
func (s *Store) Formulas() ([]kernel.Formula, error) {
	var rows []formulaRow
	if err := s.db.Order("lower(name), id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.Formula, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.domain(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Formula returns one. Errors: ErrNotFound.
func (s *Store) Formula(id string) (kernel.Formula, error) {
	var row formulaRow
	along := query("with_trials") +
		evidenceAlong + ` AS evidence`
	if err := s.db.Table("formulas f").Select(along).Where("id = ?", id).Take(&row).Error; err != nil {
		return kernel.Formula{}, fmt.Errorf("formula %q: %w", id, translate(err))
	}
	return row.domain()
}

// AddFormula stores a formula. Errors: ErrTaken.
func (s *Store) AddFormula(f kernel.Formula) error {
	row := formulaRow{ID: f.ID, Name: f.Name, Retired: f.Retired, CreatedBy: f.CreatedBy}
	if f.Parent != nil {
		row.ParentFormula, row.ParentVersion = &f.Parent.Formula, &f.Parent.Version
	}
	return translate(s.db.Create(&row).Error)
}

// SaveFormula renames or retires a formula. Errors: ErrTaken.
func (s *Store) SaveFormula(id, name string, retired bool) error {
	return translate(s.db.Model(&formulaRow{}).Where("id = ?",
		id).Updates(map[string]any{"name": name, "retired": retired}).Error)
}

// SetParent makes a formula a variant of another's version. Errors: ErrInUse when that version is not there.
func (s *Store) SetParent(formulaID string, parent formula.Ref) error {
	return translate(s.db.Model(&formulaRow{}).Where("id = ?", formulaID).
		Updates(map[string]any{"parent_formula": parent.Formula, "parent_version": parent.Version}).Error)
}

// Versions returns the versions of a formula, oldest first; of all formulas where id is empty.
func (s *Store) Versions(id string) ([]kernel.Version, error) {
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
func (s *Store) CurrentVersions() ([]kernel.Version, error) {
	var rows []versionRow
	err := s.db.Raw(query("current_versions")).Scan(&rows).Error
	if err != nil {
		return nil, translate(err)
	}
	return versions(rows)
}

// NewestLocked returns the newest locked version of each of these formulas that has one, with the formula's name.
func (s *Store) NewestLocked(ids ...string) ([]kernel.Version, error) {
	var rows []versionRow
	err := s.db.Raw(query("newest_locked"), ids).Scan(&rows).Error
	if err != nil {
		return nil, translate(err)
	}
	return versions(rows)
}

func versions(rows []versionRow) ([]kernel.Version, error) {
	out := make([]kernel.Version, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.domain(); err != nil {
			return nil, fmt.Errorf("%s version %d: %w", r.FormulaID, r.Number, err)
		}
	}
	return out, nil
}

var heads = query("version_head")

// VersionHeads returns the versions of a formula without their lines, oldest first.
func (s *Store) VersionHeads(id string) ([]kernel.VersionSummary, error) {
	var rows []document
	if err := s.db.Raw(query("heads_as_json")+heads+" WHERE formula_id = ?) h ORDER BY h.version",
		id).Scan(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.VersionSummary, len(rows))
	for i, r := range rows {
		if err := json.Unmarshal(r, &out[i]); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Version returns one. Errors: ErrNotFound.
func (s *Store) Version(ref formula.Ref) (kernel.Version, error) {
	var row versionRow
	named := query("with_formula_name")
	if err := s.db.Select(named).Where("formula_id = ? AND number = ?", ref.Formula,
		ref.Version).Take(&row).Error; err != nil {
		return kernel.Version{}, fmt.Errorf("%s: %w", ref, translate(err))
	}
	return row.domain()
}

// AddVersion stores a new version. Errors: ErrTaken when the formula has a draft already.
func (s *Store) AddVersion(v formula.Version, lockedAt *time.Time, by string) error {
	row, err := s.rowOfVersion(v, 1, lockedAt, by)
	if err != nil {
		return err
	}
	return translate(s.db.Create(&row).Error)
}

// LockVersion locks a draft over revision rev. Errors: ErrConflict when it was changed or locked meanwhile.
func (s *Store) LockVersion(v formula.Version, rev int, lockedAt time.Time, by string) error {
	row, err := s.rowOfVersion(v, rev+1, &lockedAt, by)
	if err != nil {
		return err
	}
	return changedOne(s.db.Model(&row).
		Where("formula_id = ? AND number = ? AND rev = ? AND state = ?", v.Formula, v.Number, rev, formula.Draft).
		Select("rev", "state", "data", "format", "locked_at", "updated_at", "updated_by").Updates(&row))
}

// draftWritten writes a draft and notes in the same statement who did it, when, and what changed.
var draftWritten = query("draft_written")

// SaveDraft writes a draft over revision rev with what changed in it, in one statement. Errors: ErrConflict when it was
// changed or locked meanwhile.
func (s *Store) SaveDraft(v formula.Version, rev int, changed any, by kernel.Stamp) error {
	data, err := write(v)
	if err != nil {
		return err
	}
	told, err := write(changed)
	if err != nil {
		return err
	}
	done := s.db.Exec(draftWritten, rev+1, formula.Draft, data, upcast.Present, by.At, by.By, v.Formula,
		v.Number, rev, formula.Draft, by.At, by.By, fmt.Sprintf("%s/%d", v.Formula, v.Number), told)
	done.Error = unsure(done.Error)
	return changedOne(done)
}

// DropDraft deletes a draft. Errors: ErrConflict when it is no draft of that revision.
func (s *Store) DropDraft(ref formula.Ref, rev int) error {
	return changedOne(s.db.Where("formula_id = ? AND number = ? AND rev = ? AND state = ?", ref.Formula, ref.Version,
		rev, formula.Draft).Delete(&versionRow{}))
}
