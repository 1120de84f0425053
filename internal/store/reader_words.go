package store

import (
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/reader"
)

type shopWordRow struct {
	ID           int64
	Kind         string
	Words        string
	IngredientID *string
	Unit         string
	Size         string
	Grams        float64
	ML           float64 `gorm:"column:ml"`
	Fill         string
	CreatedAt    time.Time
	CreatedBy    string
}

func (shopWordRow) TableName() string { return "shop_words" }

// ShopWords returns what the shop has told the reader and did not take back, the oldest first.
func (s *Store) ShopWords() ([]kernel.ShopWord, error) {
	var rows []shopWordRow
	if err := s.db.Where("retired_at IS NULL").Order("id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.ShopWord, len(rows))
	for i, r := range rows {
		l := reader.Learned{ID: r.ID, Kind: r.Kind, Words: r.Words, Unit: r.Unit, Size: r.Size, Grams: r.Grams,
			ML: r.ML, Fill: r.Fill}
		if r.IngredientID != nil {
			l.Ingredient = *r.IngredientID
		}
		out[i] = kernel.ShopWord{Learned: l, By: r.CreatedBy, At: r.CreatedAt}
	}
	return out, nil
}

// AddShopWord keeps one and gives it its id.
func (s *Store) AddShopWord(w *kernel.ShopWord) error {
	row := shopWordRow{Kind: w.Kind, Words: w.Words, Unit: w.Unit, Size: w.Size, Grams: w.Grams, ML: w.ML, Fill: w.Fill,
		CreatedAt: w.At, CreatedBy: w.By}
	if w.Ingredient != "" {
		row.IngredientID = &w.Ingredient
	}
	if err := s.db.Create(&row).Error; err != nil {
		return translate(err)
	}
	w.ID = row.ID
	return nil
}

// DropShopWord takes one back; it stays on record. Errors: ErrNotFound where it is not in use.
func (s *Store) DropShopWord(id int64, why string, by kernel.Stamp) error {
	if err := retire(s.db.Model(&shopWordRow{}).Where("id = ?", id), why, by); err != nil {
		return fmt.Errorf("word %d: %w", id, kernel.ErrNotFound)
	}
	return nil
}
