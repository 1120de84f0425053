package store

import (
	"fmt"
	"time"

	"gallipot/internal/app"

	"gorm.io/gorm/clause"
)

// Recipes returns all recipes, the last changed first.
func (s *Store) Recipes() ([]app.Recipe, error) {
	var rows []app.Recipe
	return rows, translate(s.db.Order("updated_at DESC, id DESC").Find(&rows).Error)
}

// Recipe returns one. Errors: ErrNotFound.
func (s *Store) Recipe(id int64) (app.Recipe, error) {
	var row app.Recipe
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return row, fmt.Errorf("recipe %d: %w", id, translate(err))
	}
	return row, nil
}

// AddRecipe stores a recipe and fills in its id.
func (s *Store) AddRecipe(r *app.Recipe) error { return translate(s.db.Create(r).Error) }

// SaveRecipe writes a recipe over revision rev. Errors: ErrConflict.
func (s *Store) SaveRecipe(r app.Recipe, rev int) error {
	r.Rev, r.UpdatedAt = rev+1, time.Now()
	return changedOne(s.db.Model(&app.Recipe{}).Where("id = ? AND rev = ?", r.ID, rev).
		Select("rev", "name", "words", "answers", "formula_id", "version", "updated_at", "updated_by").Updates(&r))
}

// DropRecipe deletes a recipe. Errors: ErrConflict when it is not there.
func (s *Store) DropRecipe(id int64) error {
	return changedOne(s.db.Where("id = ?", id).Delete(&app.Recipe{}))
}

// HouseMeasures returns the maker's own measures, of all ingredients where id is empty.
func (s *Store) HouseMeasures(id string) ([]app.HouseMeasure, error) {
	var rows []app.HouseMeasure
	q := s.db.Order("ingredient_id, measure")
	if id != "" {
		q = q.Where("ingredient_id = ?", id)
	}
	return rows, translate(q.Find(&rows).Error)
}

// PutHouseMeasure stores a measure, over the one of the same name where there is one.
func (s *Store) PutHouseMeasure(m app.HouseMeasure) error {
	m.UpdatedAt = time.Now()
	return translate(s.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&m).Error)
}

// DropHouseMeasure deletes one. Errors: ErrConflict when it is not there.
func (s *Store) DropHouseMeasure(ingredient, measure string) error {
	return changedOne(s.db.Where("ingredient_id = ? AND measure = ?", ingredient, measure).Delete(&app.HouseMeasure{}))
}

// Preparations returns the stored steps by id.
func (s *Store) Preparations() ([]app.Preparation, error) {
	var rows []app.Preparation
	return rows, translate(s.db.Order("id").Find(&rows).Error)
}

// AddPreparation stores a step. Errors: ErrTaken.
func (s *Store) AddPreparation(p *app.Preparation) error { return translate(s.db.Create(p).Error) }

// SavePreparation writes a step over revision rev. Errors: ErrConflict.
func (s *Store) SavePreparation(p app.Preparation, rev int) error {
	p.Rev, p.UpdatedAt = rev+1, time.Now()
	return changedOne(s.db.Model(&app.Preparation{}).Where("id = ? AND rev = ?", p.ID, rev).
		Select("rev", "data", "updated_at", "updated_by").Updates(&p))
}

// Trials returns the trials of a formula, oldest first; of all formulas where id is empty.
func (s *Store) Trials(formulaID string) ([]app.Trial, error) {
	var rows []app.Trial
	q := s.db.Order("formula_id, made_on, id")
	if formulaID != "" {
		q = q.Where("formula_id = ?", formulaID)
	}
	return rows, translate(q.Find(&rows).Error)
}

// AddTrial stores a trial and fills in its id. Errors: ErrInUse when the formula is not there.
func (s *Store) AddTrial(t *app.Trial) error { return translate(s.db.Create(t).Error) }

// SaveTrial writes a trial over revision rev. Errors: ErrConflict.
func (s *Store) SaveTrial(t app.Trial, rev int) error {
	t.Rev, t.UpdatedAt = rev+1, time.Now()
	return changedOne(s.db.Model(&app.Trial{}).Where("id = ? AND formula_id = ? AND rev = ?", t.ID, t.FormulaID, rev).
		Select("rev", "made_on", "data", "updated_at", "updated_by").Updates(&t))
}

// DropTrial deletes a trial of a formula. Errors: ErrConflict when it is not there.
func (s *Store) DropTrial(formulaID string, id int64) error {
	return changedOne(s.db.Where("id = ? AND formula_id = ?", id, formulaID).Delete(&app.Trial{}))
}

// SetParent makes a formula a variant of another's version, or of none where parent is nil. Errors: ErrInUse when that
// version is not there.
func (s *Store) SetParent(formulaID string, parentFormula *string, parentVersion *int) error {
	return translate(s.db.Model(&app.Formula{}).Where("id = ?", formulaID).
		Updates(map[string]any{"parent_formula": parentFormula, "parent_version": parentVersion}).Error)
}
