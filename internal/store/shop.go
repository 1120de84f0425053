package store

import (
	"time"

	"gallipot/internal/app"
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
func (s *Store) Shop(into *app.Settings) (int, error) {
	var row shopRow
	if err := s.db.Take(&row).Error; err != nil {
		return 0, translate(err)
	}
	return row.Rev, read("shop", row.Format, row.Data, into)
}

// AddShop stores the first settings. Errors: ErrTaken when there are some.
func (s *Store) AddShop(settings app.Settings, by string) error {
	data, err := write(settings)
	if err != nil {
		return err
	}
	return translate(s.db.Create(&shopRow{1, 1, data, upcast.Present, time.Now(), by}).Error)
}

// SaveShop writes settings over revision rev. Errors: ErrConflict.
func (s *Store) SaveShop(settings app.Settings, rev int, by string) error {
	data, err := write(settings)
	if err != nil {
		return err
	}
	return changedOne(s.db.Model(&shopRow{}).Where("id = 1 AND rev = ?", rev).
		Select("rev", "data", "format", "updated_at",
			"updated_by").Updates(&shopRow{1, rev + 1, data, upcast.Present, time.Now(), by}))
}
