package store

import (
	"encoding/json"
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/allergen"
	"gallipot/internal/core/pantry"
	"gallipot/internal/upcast"

	"gorm.io/gorm/clause"
)

type ingredientRow struct {
	ID        string
	Rev       int
	Name      string
	Retired   bool
	Data      document `gorm:"type:jsonb"`
	Format    int
	UpdatedAt time.Time
	UpdatedBy string
	Offers    document `gorm:"->;-:migration"` // rows of their own, read along
}

func (ingredientRow) TableName() string { return "ingredients" }

// ingredientText is how an ingredient is written down, and ingredientRead what was read of it.
type (
	ingredientText struct {
		format       int
		data, offers string
	}
	ingredientRead struct {
		is  pantry.Ingredient
		err error
	}
)

// ingredientsRead remembers ingredients by how they are written: many an act reads the whole pantry, which seldom
// changes.
var ingredientsRead allergen.Memo[ingredientText, ingredientRead]

func (r ingredientRow) domain() (kernel.Ingredient, error) {
	was := ingredientsRead.Get(ingredientText{r.Format, string(r.Data), string(r.Offers)}, func() ingredientRead {
		is := pantry.Ingredient{}
		err := read("ingredient", r.Format, r.Data, &is)
		is.Offers = []pantry.PriceOffer{}
		if err == nil && len(r.Offers) > 0 {
			err = json.Unmarshal(r.Offers, &is.Offers)
		}
		return ingredientRead{is, err}
	})
	out := kernel.Ingredient{ID: r.ID, Rev: r.Rev, Name: r.Name, Retired: r.Retired, UpdatedAt: r.UpdatedAt,
		UpdatedBy: r.UpdatedBy, Data: was.is.Clone()}
	out.Data.ID, out.Data.Name = r.ID, r.Name
	return out, was.err
}

// offerDocument builds the JSON of an offer; values stored more finely than our amounts are rounded.
const offerDocument = `json_build_object('id', o.id::text, 'supplier', o.supplier,
	'pack_amount', round(o.pack_amount, 3), 'pack_unit', o.pack_unit, 'price', round(o.price, 6), 'date', o.dated::text,
	'valid_until', coalesce(o.valid_until::text, ''), 'delivery', round(o.delivery, 6),
	'tax_percent', round(o.tax_percent, 4), 'with_tax', o.with_tax)`

// offersAlong selects an ingredient's offers, newest first.
var offersAlong = query("offers_along") + offerDocument + ` ORDER BY o.dated DESC, o.id DESC)
	FROM price_offers o WHERE o.ingredient_id = ingredients.id AND o.retired_at IS NULL)`

// Ingredients returns all ingredients, or those with the given ids, with their offers, by name.
func (s *Store) Ingredients(ids ...string) ([]kernel.Ingredient, error) {
	var rows []ingredientRow
	q := s.db.Select("*, " + offersAlong + " AS offers").Order("lower(name), id")
	if len(ids) > 0 {
		q = q.Where("id IN ?", ids)
	}
	if err := q.Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.Ingredient, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.domain(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Ingredient returns one ingredient. Errors: ErrNotFound.
func (s *Store) Ingredient(id string) (kernel.Ingredient, error) {
	rows, err := s.Ingredients(id)
	if err != nil {
		return kernel.Ingredient{}, err
	}
	if len(rows) == 0 {
		return kernel.Ingredient{}, fmt.Errorf("ingredient %q: %w", id, kernel.ErrNotFound)
	}
	return rows[0], nil
}

func (s *Store) rowOfIngredient(g pantry.Ingredient, retired bool, rev int, by string) (ingredientRow, error) {
	g.Offers = nil // rows of their own
	data, err := write(g)
	return ingredientRow{ID: g.ID, Rev: rev, Name: g.Name, Retired: retired, Data: data, Format: upcast.Present,
		UpdatedAt: s.now(), UpdatedBy: by}, err
}

// AddIngredient stores a new ingredient with its offers. Errors: ErrTaken.
func (s *Store) AddIngredient(g pantry.Ingredient, retired bool, by string) error {
	row, err := s.rowOfIngredient(g, retired, 1, by)
	if err != nil {
		return err
	}
	if err := s.db.Create(&row).Error; err != nil {
		return translate(err)
	}
	return s.ReplaceOffers(g.ID, g.Offers, kernel.Stamp{By: by, At: s.now()})
}

// SaveIngredient writes an ingredient over revision rev. Errors: ErrConflict, ErrTaken.
func (s *Store) SaveIngredient(g pantry.Ingredient, retired bool, rev int, by string) error {
	row, err := s.rowOfIngredient(g, retired, rev+1, by)
	if err != nil {
		return err
	}
	return changedOne(s.db.Model(&row).Where("id = ? AND rev = ?", g.ID, rev).
		Select("rev", "name", "retired", "data", "format", "updated_at", "updated_by").Updates(&row))
}

type houseMeasureRow struct {
	IngredientID string   `gorm:"primaryKey"`
	Measure      string   `gorm:"primaryKey"`
	Weighings    document `gorm:"type:jsonb"`
	Format       int
	Note         string
	UpdatedAt    time.Time
	UpdatedBy    string
	RetiredAt    *time.Time
	RetiredBy    *string
	RetiredWhy   *string
}

func (houseMeasureRow) TableName() string { return "house_measures" }

// HouseMeasures returns the maker's own measures of an ingredient, or of all if id is empty.
func (s *Store) HouseMeasures(id string) ([]kernel.HouseMeasure, error) {
	var rows []houseMeasureRow
	q := s.db.Where("retired_at IS NULL").Order("ingredient_id, measure")
	if id != "" {
		q = q.Where("ingredient_id = ?", id)
	}
	if err := q.Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.HouseMeasure, len(rows))
	for i, r := range rows {
		out[i] = kernel.HouseMeasure{IngredientID: r.IngredientID, Measure: r.Measure, Note: r.Note,
			UpdatedAt: r.UpdatedAt, UpdatedBy: r.UpdatedBy}
		if err := read("weighings", r.Format, r.Weighings, &out[i].Weighings); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// PutHouseMeasure stores a measure and replaces the one with the same name. Errors: ErrInUse if its ingredient is not
// there.
func (s *Store) PutHouseMeasure(m kernel.HouseMeasure) error {
	weighings, err := write(m.Weighings)
	if err != nil {
		return err
	}
	row := houseMeasureRow{m.IngredientID, m.Measure, weighings, upcast.Present, m.Note, s.now(), m.UpdatedBy, nil,
		nil, nil}
	return translate(s.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error)
}

// DropHouseMeasure retires one; it stays on record. Errors: ErrConflict when it is not there.
func (s *Store) DropHouseMeasure(ingredient, measure, why string, by kernel.Stamp) error {
	return retire(s.db.Model(&houseMeasureRow{}).Where("ingredient_id = ? AND measure = ?", ingredient, measure), why,
		by)
}
