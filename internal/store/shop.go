package store

import (
	"encoding/json"
	"fmt"
	"gallipot/internal/app"
	"time"
)

// Shop returns the settings. Errors: ErrNotFound before the shop is set up.
func (s *Store) Shop() (app.Shop, error) {
	var row app.Shop
	return row, translate(s.db.Take(&row).Error)
}

// AddShop stores the first settings.
func (s *Store) AddShop(data json.RawMessage, by string) error {
	return translate(s.db.Create(&app.Shop{ID: 1, Rev: 1, Data: data, UpdatedBy: by}).Error)
}

// SaveShop writes settings over revision rev. Errors: ErrConflict.
func (s *Store) SaveShop(data json.RawMessage, rev int, by string) error {
	return changedOne(s.db.Model(&app.Shop{}).Where("id = 1 AND rev = ?", rev).
		Select("rev", "data", "updated_at", "updated_by").
		Updates(&app.Shop{Rev: rev + 1, Data: data, UpdatedAt: time.Now(), UpdatedBy: by}))
}

// People returns everybody by name.
func (s *Store) People() ([]app.Person, error) {
	var rows []app.Person
	return rows, translate(s.db.Order("id").Find(&rows).Error)
}

// AddPerson stores a person. Errors: ErrTaken.
func (s *Store) AddPerson(p *app.Person) error { return translate(s.db.Create(p).Error) }

// EvidenceList returns documents without their content, newest first; of all formulas where id is empty.
func (s *Store) EvidenceList(formulaID string) ([]app.Evidence, error) {
	var rows []app.Evidence
	q := s.db.Omit("content").Order("attached_at DESC, id DESC")
	if formulaID != "" {
		q = q.Where("formula_id = ?", formulaID)
	}
	return rows, translate(q.Find(&rows).Error)
}

// EvidenceOf returns one document with its content. Errors: ErrNotFound.
func (s *Store) EvidenceOf(id int64) (app.Evidence, error) {
	var row app.Evidence
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return row, fmt.Errorf("document %d: %w", id, translate(err))
	}
	return row, nil
}

// AddEvidence stores a document. Errors: ErrInUse when the formula is not there.
func (s *Store) AddEvidence(e *app.Evidence) error { return translate(s.db.Create(e).Error) }

// WithdrawEvidence takes a document out of use; it stays on record.
func (s *Store) WithdrawEvidence(id int64) error {
	return changedOne(s.db.Model(&app.Evidence{}).Where("id = ? AND NOT withdrawn", id).Update("withdrawn", true))
}
