package store

import (
	"encoding/json"
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
)

type evidenceRow struct {
	ID           int64
	FormulaID    string
	Kind         string
	Title        string
	Days         *int
	Covers       document `gorm:"type:jsonb"` // what it says of itself
	FileName     string
	MediaType    string
	Content      []byte
	Withdrawn    bool
	WithdrawnAt  *time.Time
	WithdrawnBy  string
	WithdrawnWhy string
	AttachedAt   time.Time
	AttachedBy   string
	AttachedWhy  string
}

func (r evidenceRow) domain() (kernel.Evidence, error) {
	e := kernel.Evidence{FormulaID: r.FormulaID, FileName: r.FileName, MediaType: r.MediaType, Content: r.Content,
		Withdrawn: r.Withdrawn, WithdrawnAt: r.WithdrawnAt, WithdrawnBy: r.WithdrawnBy, WithdrawnWhy: r.WithdrawnWhy,
		AttachedAt: r.AttachedAt, AttachedBy: r.AttachedBy, AttachedWhy: r.AttachedWhy}
	err := json.Unmarshal(r.Covers, &e.Document)
	e.ID, e.Kind, e.Title, e.Days = r.ID, r.Kind, r.Title, r.Days
	return e, err
}

func (evidenceRow) TableName() string { return "evidence" }

// EvidenceList returns documents without their content, newest first; of all formulas where id is empty.
func (s *Store) EvidenceList(formulaID string) ([]kernel.Evidence, error) {
	var rows []evidenceRow
	q := s.db.Omit("content").Order("attached_at DESC, id DESC")
	if formulaID != "" {
		q = q.Where("formula_id = ?", formulaID)
	}
	if err := q.Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.Evidence, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.domain(); err != nil {
			return nil, fmt.Errorf("document %d: %w", r.ID, err)
		}
	}
	return out, nil
}

// EvidenceOf returns one document with its content. Errors: ErrNotFound.
func (s *Store) EvidenceOf(id int64) (kernel.Evidence, error) {
	var row evidenceRow
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return kernel.Evidence{}, fmt.Errorf("document %d: %w", id, translate(err))
	}
	return row.domain()
}

// AddEvidence stores a document and fills in its id. Errors: ErrInUse when the formula is not there.
func (s *Store) AddEvidence(e *kernel.Evidence) error {
	covers, err := write(e.Document)
	if err != nil {
		return err
	}
	row := evidenceRow{FormulaID: e.FormulaID, Kind: e.Kind, Title: e.Title, Days: e.Days, Covers: covers,
		FileName: e.FileName, MediaType: e.MediaType, Content: e.Content, AttachedAt: e.AttachedAt,
		AttachedBy: e.AttachedBy, AttachedWhy: e.AttachedWhy}
	err = translate(s.db.Create(&row).Error)
	e.ID = row.ID
	return err
}

// WithdrawEvidence takes a document out of use; it stays on record. Errors: ErrConflict when it is not in use.
func (s *Store) WithdrawEvidence(id int64, why string, by kernel.Stamp) error {
	return changedOne(s.db.Model(&evidenceRow{}).Where("id = ? AND NOT withdrawn", id).
		Updates(map[string]any{"withdrawn": true, "withdrawn_at": by.At, "withdrawn_by": by.By, "withdrawn_why": why}))
}
