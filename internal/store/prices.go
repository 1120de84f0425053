package store

import (
	"fmt"
	"strconv"
	"time"

	"gallipot/internal/core/pantry"

	"gorm.io/gorm/clause"
)

type priceOfferRow struct {
	ID           int64
	IngredientID string
	Supplier     string
	PackAmount   string // numeric
	PackUnit     string
	Price        string // numeric
	Dated        time.Time
	ValidUntil   *time.Time
	CreatedAt    time.Time
	CreatedBy    string
}

func (priceOfferRow) TableName() string { return "price_offers" }

// LockPrices keeps others from writing prices until the transaction ends.
func (s *Store) LockPrices() error {
	return translate(s.db.Exec("LOCK TABLE price_offers IN SHARE ROW EXCLUSIVE MODE").Error)
}

// ReplaceOffers sets an ingredient's offers to those given; rows that stay the same keep their id and date of entry.
func (s *Store) ReplaceOffers(id string, offers []pantry.PriceOffer, by string) error {
	keep := []int64{0}
	for _, o := range offers {
		if n, err := strconv.ParseInt(o.ID, 10, 64); err == nil {
			keep = append(keep, n)
		}
	}
	if err := s.db.Where("ingredient_id = ? AND id NOT IN ?", id, keep).Delete(&priceOfferRow{}).Error; err != nil {
		return translate(err)
	}
	for _, o := range offers {
		row, err := rowOfOffer(id, o, by)
		if err != nil {
			return err
		}
		if n, err := strconv.ParseInt(o.ID, 10, 64); err == nil {
			tx := s.db.Model(&priceOfferRow{}).Where("id = ? AND ingredient_id = ?", n, id).
				Select("supplier", "pack_amount", "pack_unit", "price", "dated", "valid_until").Updates(&row)
			if tx.Error != nil {
				return translate(tx.Error)
			}
			if tx.RowsAffected == 1 {
				continue
			}
		}
		if err := s.db.Clauses(clause.OnConflict{DoNothing: true}).Create(&row).Error; err != nil {
			return translate(err)
		}
	}
	return nil
}

func rowOfOffer(id string, o pantry.PriceOffer, by string) (priceOfferRow, error) {
	dated, err := time.Parse(pantry.DateLayout, o.Date)
	if err != nil {
		return priceOfferRow{}, fmt.Errorf("offer date: %w", err)
	}
	row := priceOfferRow{IngredientID: id, Supplier: o.Supplier, PackAmount: o.PackAmount.String(),
		PackUnit: o.PackUnit, Price: o.Price.String(),
		Dated: dated, CreatedBy: by}
	if o.ValidUntil != "" {
		until, err := time.Parse(pantry.DateLayout, o.ValidUntil)
		if err != nil {
			return priceOfferRow{}, fmt.Errorf("offer valid until: %w", err)
		}
		row.ValidUntil = &until
	}
	return row, nil
}
