package store

import (
	"crypto/sha256"
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/shop"
	"gallipot/internal/upcast"
)

type shopRow struct {
	ID        int
	Rev       int
	Data      document `gorm:"type:jsonb"`
	Format    int
	UpdatedAt time.Time
	UpdatedBy string
}

func (shopRow) TableName() string { return "shops" }

// Shop reads the settings over those in s and returns their revision. Errors: ErrNotFound before the shop is set up.
func (s *Store) Shop(into *shop.Settings) (int, error) {
	var row shopRow
	if err := s.db.Take(&row).Error; err != nil {
		return 0, translate(err)
	}
	return row.Rev, read("shop", row.Format, row.Data, into)
}

// AddShop stores the first settings. Errors: ErrTaken when there are some.
func (s *Store) AddShop(settings shop.Settings, by string) error {
	data, err := write(settings)
	if err != nil {
		return err
	}
	return translate(s.db.Create(&shopRow{1, 1, data, upcast.Present, s.now(), by}).Error)
}

// SaveShop writes settings over revision rev. Errors: ErrConflict.
func (s *Store) SaveShop(settings shop.Settings, rev int, by string) error {
	data, err := write(settings)
	if err != nil {
		return err
	}
	return changedOne(s.db.Model(&shopRow{}).Where("id = 1 AND rev = ?", rev).
		Select("rev", "data", "format", "updated_at",
			"updated_by").Updates(&shopRow{1, rev + 1, data, upcast.Present, s.now(), by}))
}

// begun asks at once how far the shop has come. Whether anything was printed is asked first: nothing else counts then.
var begun = query("begun")

// Begun tells how far a new shop has come.
func (s *Store) Begun() (kernel.Begun, error) {
	var out kernel.Begun
	err := s.db.Raw(query("anything_printed")).Scan(&out.Printed).Error
	if err != nil || out.Printed {
		return out, translate(err)
	}
	return out, translate(s.db.Raw(begun).Scan(&out).Error)
}

type markRow struct {
	ID        int
	Kind      string
	Content   []byte
	SHA256    string `gorm:"column:sha256"`
	UpdatedAt time.Time
	UpdatedBy string
}

func (markRow) TableName() string { return "shop_marks" }

// Mark returns the shop's mark. Errors: ErrNotFound.
func (s *Store) Mark() (kernel.ShopMark, error) {
	var row markRow
	err := s.db.Where("id = 1").Take(&row).Error
	return kernel.ShopMark{Kind: row.Kind, Body: row.Content}, translate(err)
}

// SaveMark writes the shop's mark.
func (s *Store) SaveMark(m kernel.ShopMark, by string) error {
	return translate(s.db.Save(&markRow{1, m.Kind, m.Body, fmt.Sprintf("%x", sha256.Sum256(m.Body)), s.now(),
		by}).Error)
}

// DropMark takes the shop's mark away.
func (s *Store) DropMark() error { return translate(s.db.Where("id = 1").Delete(&markRow{}).Error) }
