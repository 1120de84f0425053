package store

import (
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/upcast"
)

type preparationRow struct {
	ID        string
	Rev       int
	Data      document `gorm:"type:jsonb"`
	Format    int
	UpdatedAt time.Time
	UpdatedBy string
}

func (preparationRow) TableName() string { return "preparations" }

func (s *Store) rowOfPreparation(p kernel.Preparation, rev int) (preparationRow, error) {
	data, err := write(p.Data)
	return preparationRow{p.ID, rev, data, upcast.Present, s.now(), p.UpdatedBy}, err
}

// Preparations returns the stored steps by id.
func (s *Store) Preparations() ([]kernel.Preparation, error) {
	var rows []preparationRow
	if err := s.db.Order("id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.Preparation, len(rows))
	for i, r := range rows {
		out[i] = kernel.Preparation{ID: r.ID, Rev: r.Rev, UpdatedAt: r.UpdatedAt, UpdatedBy: r.UpdatedBy}
		if err := read("preparation", r.Format, r.Data, &out[i].Data); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// AddPreparation stores a step. Errors: ErrTaken.
func (s *Store) AddPreparation(p kernel.Preparation) error {
	row, err := s.rowOfPreparation(p, 1)
	if err != nil {
		return err
	}
	return translate(s.db.Create(&row).Error)
}

// SavePreparation writes a step over revision rev. Errors: ErrConflict.
func (s *Store) SavePreparation(p kernel.Preparation, rev int) error {
	row, err := s.rowOfPreparation(p, rev+1)
	if err != nil {
		return err
	}
	return changedOne(s.db.Model(&preparationRow{}).Where("id = ? AND rev = ?", p.ID, rev).
		Select("rev", "data", "format", "updated_at", "updated_by").Updates(&row))
}
