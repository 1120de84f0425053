package store

import (
	"encoding/json"
	"fmt"
	"time"
)

// Shop is the one row of settings; its shape belongs to the use cases.
type Shop struct {
	ID        int
	Rev       int
	Data      json.RawMessage `gorm:"type:jsonb"`
	UpdatedAt time.Time
	UpdatedBy string
}

// Person is somebody who works in the shop.
type Person struct {
	ID    int64
	Name  string
	Owner bool
}

// TableName keeps GORM's plural in line with the migration.
func (Person) TableName() string { return "people" }

// Shop returns the settings. Errors: ErrNotFound before the shop is set up.
func (s *Store) Shop() (Shop, error) {
	var row Shop
	return row, translate(s.db.Take(&row).Error)
}

// AddShop stores the first settings.
func (s *Store) AddShop(data json.RawMessage, by string) error {
	return translate(s.db.Create(&Shop{ID: 1, Rev: 1, Data: data, UpdatedBy: by}).Error)
}

// SaveShop writes settings over revision rev. Errors: ErrConflict.
func (s *Store) SaveShop(data json.RawMessage, rev int, by string) error {
	return changedOne(s.db.Model(&Shop{}).Where("id = 1 AND rev = ?", rev).
		Select("rev", "data", "updated_at", "updated_by").
		Updates(&Shop{Rev: rev + 1, Data: data, UpdatedAt: time.Now(), UpdatedBy: by}))
}

// People returns everybody by name.
func (s *Store) People() ([]Person, error) {
	var rows []Person
	return rows, translate(s.db.Order("id").Find(&rows).Error)
}

// AddPerson stores a person. Errors: ErrTaken.
func (s *Store) AddPerson(p *Person) error { return translate(s.db.Create(p).Error) }

// Evidence is a document attached to a formula.
type Evidence struct {
	ID         int64
	FormulaID  string
	Kind       string
	Title      string
	Days       *int
	FileName   string
	MediaType  string
	Content    []byte
	Withdrawn  bool
	AttachedAt time.Time
	AttachedBy string
}

// TableName keeps GORM's plural in line with the migration.
func (Evidence) TableName() string { return "evidence" }

// EvidenceList returns documents without their content, newest first; of all formulas where id is empty.
func (s *Store) EvidenceList(formulaID string) ([]Evidence, error) {
	var rows []Evidence
	q := s.db.Omit("content").Order("attached_at DESC, id DESC")
	if formulaID != "" {
		q = q.Where("formula_id = ?", formulaID)
	}
	return rows, translate(q.Find(&rows).Error)
}

// EvidenceOf returns one document with its content. Errors: ErrNotFound.
func (s *Store) EvidenceOf(id int64) (Evidence, error) {
	var row Evidence
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return row, fmt.Errorf("document %d: %w", id, translate(err))
	}
	return row, nil
}

// AddEvidence stores a document. Errors: ErrInUse when the formula is not there.
func (s *Store) AddEvidence(e *Evidence) error { return translate(s.db.Create(e).Error) }

// WithdrawEvidence takes a document out of use; it stays on record.
func (s *Store) WithdrawEvidence(id int64) error {
	return changedOne(s.db.Model(&Evidence{}).Where("id = ? AND NOT withdrawn", id).Update("withdrawn", true))
}
