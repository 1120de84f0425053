package store

import (
	"encoding/json"
	"fmt"
	"math/big"
	"slices"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pantry"
	"gallipot/internal/upcast"

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
	Delivery     string // numeric
	TaxPercent   string // numeric
	WithTax      bool
	CreatedAt    time.Time
	CreatedBy    string
}

func (priceOfferRow) TableName() string { return "price_offers" }

// LockPrices keeps others from writing prices until the transaction ends.
func (s *Store) LockPrices() error {
	return translate(s.db.Exec(query("lock_prices")).Error)
}

// ReplaceOffers sets an ingredient's offers to those given. Offers that stay the same keep their id and date of entry;
// what is no longer among them, or was changed, is retired and stays on record.
func (s *Store) ReplaceOffers(id string, offers []pantry.PriceOffer, by kernel.Stamp) error {
	var stored []priceOfferRow
	if err := s.db.Where("ingredient_id = ? AND retired_at IS NULL", id).Find(&stored).Error; err != nil {
		return translate(err)
	}
	var fresh []priceOfferRow
	stays := map[int64]bool{}
	for _, o := range offers {
		row, err := rowOfOffer(id, o, by.By)
		if err != nil {
			return err
		}
		at := slices.IndexFunc(stored, func(x priceOfferRow) bool { return x.same(row) && !stays[x.ID] })
		if at >= 0 {
			stays[stored[at].ID] = true
		} else {
			fresh = append(fresh, row)
		}
	}
	for _, x := range stored {
		if stays[x.ID] {
			continue
		}
		if err := s.db.Model(&priceOfferRow{}).Where("id = ?", x.ID).Updates(map[string]any{"retired_at": by.At,
			"retired_by": by.By, "retired_why": "changed or taken out on the price list"}).Error; err != nil {
			return translate(err)
		}
	}
	for i := range fresh {
		if err := s.db.Clauses(clause.OnConflict{DoNothing: true}).Create(&fresh[i]).Error; err != nil {
			return translate(err)
		}
	}
	return nil
}

// RetiredOffers returns the offers that were removed or changed, by ingredient.
func (s *Store) RetiredOffers() (map[string][]pantry.PriceOffer, error) {
	var rows []struct {
		ID     string
		Offers document
	}
	err := s.db.Raw(query("retired_offers") + offerDocument + `) AS offers FROM price_offers o
		WHERE o.retired_at IS NOT NULL GROUP BY o.ingredient_id`).Scan(&rows).Error
	if err != nil {
		return nil, translate(err)
	}
	out := map[string][]pantry.PriceOffer{}
	for _, r := range rows {
		var list []pantry.PriceOffer
		if err := json.Unmarshal(r.Offers, &list); err != nil {
			return nil, fmt.Errorf("retired offers of %s: %w", r.ID, err)
		}
		out[r.ID] = list
	}
	return out, nil
}

// same reports whether two rows hold the same offer.
func (r priceOfferRow) same(o priceOfferRow) bool {
	return r.Supplier == o.Supplier && r.PackUnit == o.PackUnit && sameNumber(r.PackAmount, o.PackAmount) &&
		sameNumber(r.Price, o.Price) && day.Of(r.Dated) == day.Of(o.Dated) &&
		sameDay(r.ValidUntil, o.ValidUntil) && sameNumber(r.Delivery, o.Delivery) &&
		sameNumber(r.TaxPercent, o.TaxPercent) && r.WithTax == o.WithTax
}

func sameNumber(a, b string) bool {
	x, isX := new(big.Rat).SetString(a)
	y, isY := new(big.Rat).SetString(b)
	return isX && isY && x.Cmp(y) == 0
}

func sameDay(a, b *time.Time) bool {
	if a == nil || b == nil {
		return a == b
	}
	return day.Of(*a) == day.Of(*b)
}

func rowOfOffer(id string, o pantry.PriceOffer, by string) (priceOfferRow, error) {
	dated, err := day.Parse(o.Date)
	if err != nil {
		return priceOfferRow{}, fmt.Errorf("offer date: %w", err)
	}
	row := priceOfferRow{IngredientID: id, Supplier: o.Supplier, PackAmount: o.PackAmount.String(),
		PackUnit: o.PackUnit, Price: o.Price.String(),
		Dated: dated, Delivery: o.Delivery.String(), TaxPercent: o.TaxPercent.String(), WithTax: o.WithTax,
		CreatedBy: by}
	if o.ValidUntil != "" {
		until, err := day.Parse(o.ValidUntil)
		if err != nil {
			return priceOfferRow{}, fmt.Errorf("offer valid until: %w", err)
		}
		row.ValidUntil = &until
	}
	return row, nil
}

// LotCosts returns what a gram of each ingredient cost as bought, over its lots that are on hand, free and have a
// price.
func (s *Store) LotCosts() (map[string]kernel.LotCost, error) {
	var rows []struct {
		Ingredient string
		There      int64
		Per        string
	}
	err := s.db.Raw(query("lot_costs")).Scan(&rows).Error
	if err != nil {
		return nil, translate(err)
	}
	out := map[string]kernel.LotCost{}
	for _, r := range rows {
		per, ok := new(big.Rat).SetString(r.Per)
		if !ok {
			return nil, fmt.Errorf("cost of the lots of %s: %q", r.Ingredient, r.Per)
		}
		x, _ := per.Float64()
		out[r.Ingredient] = kernel.LotCost{Grams: amount.Milligrams(r.There),
			PerGram: amount.ExactFloat(x).Round(lots.CostPlaces)}
	}
	return out, nil
}

type priceWayRow struct {
	Shape     string   `gorm:"primaryKey"`
	Data      document `gorm:"type:jsonb"`
	Format    int
	UpdatedAt time.Time
	UpdatedBy string
}

func (priceWayRow) TableName() string { return "price_ways" }

// PriceWay returns how price files with these columns were read before.
func (s *Store) PriceWay(signature string) (way match.PriceWay, known bool, err error) {
	var rows []priceWayRow
	if err := s.db.Where("shape = ?", signature).Find(&rows).Error; err != nil || len(rows) == 0 {
		return way, false, translate(err)
	}
	return way, true, read("price way", rows[0].Format, rows[0].Data, &way)
}

// PutPriceWay stores how price files with these columns are read.
func (s *Store) PutPriceWay(signature string, way match.PriceWay, by string) error {
	data, err := write(way)
	if err != nil {
		return err
	}
	row := priceWayRow{Shape: signature, Data: data, Format: upcast.Present, UpdatedAt: s.now(), UpdatedBy: by}
	return translate(s.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error)
}

// TouchIngredient raises an ingredient's revision, because something that belongs to it changed.
func (s *Store) TouchIngredient(id, by string) error {
	return translate(s.db.Exec(query("touch_ingredient"),
		by, id).Error)
}
