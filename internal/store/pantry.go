package store

import (
	"fmt"
	"strconv"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"

	"gallipot/internal/app"
	"github.com/shopspring/decimal"
)

// PriceOffer is one row of a supplier's price.
type PriceOffer struct {
	ID           int64
	IngredientID string
	Supplier     string
	PackAmount   decimal.Decimal
	PackUnit     string
	Price        decimal.Decimal
	Dated        time.Time
	ValidUntil   *time.Time
	CreatedAt    time.Time
	CreatedBy    string
}

func (o PriceOffer) core() pantry.PriceOffer {
	p := pantry.PriceOffer{ID: strconv.FormatInt(o.ID, 10), Supplier: o.Supplier, PackAmount: amount.Grams{Decimal: o.PackAmount},
		PackUnit: o.PackUnit, Price: amount.Money{Decimal: o.Price}, Date: o.Dated.Format(pantry.DateLayout)}
	if o.ValidUntil != nil {
		p.ValidUntil = o.ValidUntil.Format(pantry.DateLayout)
	}
	return p
}

// Ingredients returns all ingredients, or those with the given ids, with their offers, by name.
func (s *Store) Ingredients(ids ...string) ([]app.Ingredient, error) {
	var rows []app.Ingredient
	q := s.db.Order("lower(name), id")
	offers := s.db.Order("dated DESC, id DESC")
	if len(ids) > 0 {
		q = q.Where("id IN ?", ids)
		offers = offers.Where("ingredient_id IN ?", ids)
	}
	if err := q.Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	var prices []PriceOffer
	if err := offers.Find(&prices).Error; err != nil {
		return nil, translate(err)
	}
	by := map[string][]pantry.PriceOffer{}
	for _, o := range prices {
		by[o.IngredientID] = append(by[o.IngredientID], o.core())
	}
	for i := range rows {
		rows[i].Data.ID, rows[i].Data.Name = rows[i].ID, rows[i].Name
		rows[i].Data.Offers = by[rows[i].ID]
		if rows[i].Data.Offers == nil {
			rows[i].Data.Offers = []pantry.PriceOffer{}
		}
	}
	return rows, nil
}

// Ingredient returns one ingredient. Errors: ErrNotFound.
func (s *Store) Ingredient(id string) (app.Ingredient, error) {
	rows, err := s.Ingredients(id)
	if err != nil {
		return app.Ingredient{}, err
	}
	if len(rows) == 0 {
		return app.Ingredient{}, fmt.Errorf("ingredient %q: %w", id, app.ErrNotFound)
	}
	return rows[0], nil
}

// AddIngredient stores a new ingredient without its offers. Errors: ErrTaken.
func (s *Store) AddIngredient(g pantry.Ingredient, retired bool, by string) error {
	offers := g.Offers
	g.Offers = nil
	row := app.Ingredient{ID: g.ID, Rev: 1, Name: g.Name, Retired: retired, Data: g, UpdatedBy: by}
	if err := s.db.Create(&row).Error; err != nil {
		return translate(err)
	}
	return s.ReplaceOffers(g.ID, offers, by)
}

// SaveIngredient writes an ingredient over revision rev. Errors: ErrConflict, ErrTaken.
func (s *Store) SaveIngredient(g pantry.Ingredient, retired bool, rev int, by string) error {
	g.Offers = nil
	return changedOne(s.db.Model(&app.Ingredient{}).Where("id = ? AND rev = ?", g.ID, rev).
		Select("rev", "name", "retired", "data", "updated_at", "updated_by").
		Updates(&app.Ingredient{Rev: rev + 1, Name: g.Name, Retired: retired, Data: g, UpdatedAt: time.Now(), UpdatedBy: by}))
}

// ReplaceOffers sets an ingredient's offers to those given; rows that stay the same keep their id and date of entry.
func (s *Store) ReplaceOffers(id string, offers []pantry.PriceOffer, by string) error {
	keep := []int64{0}
	for _, o := range offers {
		if n, err := strconv.ParseInt(o.ID, 10, 64); err == nil {
			keep = append(keep, n)
		}
	}
	if err := s.db.Where("ingredient_id = ? AND id NOT IN ?", id, keep).Delete(&PriceOffer{}).Error; err != nil {
		return translate(err)
	}
	for _, o := range offers {
		row, err := offerRow(id, o, by)
		if err != nil {
			return err
		}
		if n, err := strconv.ParseInt(o.ID, 10, 64); err == nil {
			tx := s.db.Model(&PriceOffer{}).Where("id = ? AND ingredient_id = ?", n, id).
				Select("supplier", "pack_amount", "pack_unit", "price", "dated", "valid_until").Updates(&row)
			if tx.Error != nil {
				return translate(tx.Error)
			}
			if tx.RowsAffected == 1 {
				continue
			}
		}
		if err := s.db.Create(&row).Error; err != nil {
			return translate(err)
		}
	}
	return nil
}

func offerRow(id string, o pantry.PriceOffer, by string) (PriceOffer, error) {
	dated, err := time.Parse(pantry.DateLayout, o.Date)
	if err != nil {
		return PriceOffer{}, fmt.Errorf("offer date: %w", err)
	}
	row := PriceOffer{IngredientID: id, Supplier: o.Supplier, PackAmount: o.PackAmount.Decimal, PackUnit: o.PackUnit, Price: o.Price.Decimal, Dated: dated, CreatedBy: by}
	if o.ValidUntil != "" {
		until, err := time.Parse(pantry.DateLayout, o.ValidUntil)
		if err != nil {
			return PriceOffer{}, fmt.Errorf("offer valid until: %w", err)
		}
		row.ValidUntil = &until
	}
	return row, nil
}

// TableName keeps GORM's plural in line with the migration.
func (PriceOffer) TableName() string { return "price_offers" }
