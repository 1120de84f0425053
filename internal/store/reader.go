package store

import (
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/formula"
	"gallipot/internal/upcast"
)

type recipeRow struct {
	ID        int64
	Rev       int
	Name      string
	Words     string
	Answers   document `gorm:"type:jsonb"`
	Format    int
	FormulaID *string
	Version   *int
	UpdatedAt time.Time
	UpdatedBy string
}

func (recipeRow) TableName() string { return "recipes" }

func (r recipeRow) domain() (kernel.Recipe, error) {
	out := kernel.Recipe{ID: r.ID, Rev: r.Rev, Name: r.Name, Words: r.Words, UpdatedAt: r.UpdatedAt,
		UpdatedBy: r.UpdatedBy}
	if r.FormulaID != nil && r.Version != nil {
		out.Made = &formula.Ref{Formula: *r.FormulaID, Version: *r.Version}
	}
	return out, read("answers", r.Format, r.Answers, &out.Answers)
}

func (s *Store) rowOfRecipe(r kernel.Recipe, rev int) (recipeRow, error) {
	answers, err := write(r.Answers)
	row := recipeRow{ID: r.ID, Rev: rev, Name: r.Name, Words: r.Words, Answers: answers, Format: upcast.Present,
		UpdatedAt: s.now(), UpdatedBy: r.UpdatedBy}
	if r.Made != nil {
		row.FormulaID, row.Version = &r.Made.Formula, &r.Made.Version
	}
	return row, err
}

// Recipes returns up to most recipes, the last changed first, from the one after a key on; all where most is 0.
func (s *Store) Recipes(after *kernel.RecipeKey, most int) ([]kernel.Recipe, error) {
	var rows []recipeRow
	q := s.db.Where("retired_at IS NULL").Order("updated_at DESC, id DESC")
	if after != nil {
		q = q.Where("(updated_at, id) < (?, ?)", after.UpdatedAt, after.ID)
	}
	if most > 0 {
		q = q.Limit(most)
	}
	if err := q.Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.Recipe, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.domain(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Recipe returns one. Errors: ErrNotFound.
func (s *Store) Recipe(id int64) (kernel.Recipe, error) {
	var row recipeRow
	if err := s.db.Where("id = ? AND retired_at IS NULL", id).Take(&row).Error; err != nil {
		return kernel.Recipe{}, fmt.Errorf("recipe %d: %w", id, translate(err))
	}
	return row.domain()
}

// AddRecipe stores a recipe and fills in its id.
func (s *Store) AddRecipe(r *kernel.Recipe) error {
	row, err := s.rowOfRecipe(*r, 1)
	if err != nil {
		return err
	}
	err = translate(s.db.Create(&row).Error)
	r.ID = row.ID
	return err
}

// SaveRecipe writes a recipe over revision rev. Errors: ErrConflict.
func (s *Store) SaveRecipe(r kernel.Recipe, rev int) error {
	row, err := s.rowOfRecipe(r, rev+1)
	if err != nil {
		return err
	}
	return changedOne(s.db.Model(&recipeRow{}).Where("id = ? AND rev = ? AND retired_at IS NULL", r.ID, rev).
		Select("rev", "name", "words", "answers", "format", "formula_id", "version", "updated_at",
			"updated_by").Updates(&row))
}

// DropRecipe retires a recipe; it stays on record. Errors: ErrConflict when it is not there.
func (s *Store) DropRecipe(id int64, why string, by kernel.Stamp) error {
	return retire(s.db.Model(&recipeRow{}).Where("id = ?", id), why, by)
}
