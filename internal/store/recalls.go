package store

import (
	"encoding/json"
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/recall"
)

type recallRow struct {
	ID       int64
	Code     string
	Mock     bool
	Title    string
	Batches  idList `gorm:"type:bigint[]"`
	BeganAt  time.Time
	ToldAt   *time.Time
	ClosedAt *time.Time
	Account  document `gorm:"type:jsonb"`
}

func (recallRow) TableName() string { return "recalls" }

// recallEntryRow is one act in a recall; rows are never changed.
type recallEntryRow struct {
	ID       int64
	RecallID int64
	Written
}

func (recallEntryRow) TableName() string { return "recall_entries" }

func (r recallEntryRow) domain() (recall.Entry, error) {
	h, body, err := r.read(r.ID, recall.ReadBody)
	return recall.Entry{Head: h, Body: body}, err
}

// AddRecall begins a recall; its code counts those of its year.
func (s *Store) AddRecall(r *kernel.RecallRow) error {
	account, err := write(r.Account)
	if err != nil {
		return fmt.Errorf("recall: %w", err)
	}
	var before int64
	year := fmt.Sprintf("R%02d-", r.Began.Year()%100)
	if err := s.db.Model(&recallRow{}).Where("code LIKE ?", year+"%").Count(&before).Error; err != nil {
		return translate(err)
	}
	row := recallRow{Code: fmt.Sprintf("%s%d", year, before+1), Mock: r.Mock, Title: r.Title, Batches: r.Batches,
		BeganAt: r.Began, Account: account}
	if err := s.db.Create(&row).Error; err != nil {
		return translate(err)
	}
	r.ID, r.Code = row.ID, row.Code
	return nil
}

// PutRecall writes what follows from a recall's entries.
func (s *Store) PutRecall(r kernel.RecallRow) error {
	account, err := write(r.Account)
	if err != nil {
		return fmt.Errorf("recall: %w", err)
	}
	return changedOne(s.db.Model(&recallRow{}).Where("id = ?", r.ID).Updates(map[string]any{"account": account,
		"told_at": r.Told, "closed_at": r.Closed, "batches": idList(r.Batches)}))
}

// AddRecallEntry appends to a recall. Errors: ErrTaken when the idempotency key was used before.
func (s *Store) AddRecallEntry(id int64, e recall.Entry, key string, digest []byte) (err error) {
	if e.Seq, err = next(s.db.Model(&recallEntryRow{}).Where("recall_id = ?", id)); err != nil {
		return err
	}
	w, err := writtenOf(e.Head, e.Kind(), e.Body, key, digest)
	if err != nil {
		return err
	}
	return translate(s.db.Create(&recallEntryRow{RecallID: id, Written: w}).Error)
}

// RecallEntryKey returns the digest under which an act was written with this key; nil where there is none.
func (s *Store) RecallEntryKey(id int64, key string) ([]byte, error) {
	return s.digestUnder(s.db.Model(&recallEntryRow{}).Where("recall_id = ?", id), key)
}

// Recall returns a recall's row with its acts, the oldest first. Errors: ErrNotFound.
func (s *Store) Recall(id int64) (kernel.RecallRow, []recall.Entry, error) {
	var row recallRow
	if err := s.db.Select(recallColumns).Where("id = ?", id).Take(&row).Error; err != nil {
		return kernel.RecallRow{}, nil, fmt.Errorf("recall %d: %w", id, translate(err))
	}
	var rows []recallEntryRow
	if err := s.db.Where("recall_id = ?", id).Order("seq").Find(&rows).Error; err != nil {
		return kernel.RecallRow{}, nil, translate(err)
	}
	list := make([]recall.Entry, len(rows))
	for i, r := range rows {
		var err error
		if list[i], err = r.domain(); err != nil {
			return kernel.RecallRow{}, nil, err
		}
	}
	out, err := row.domain()
	return out, list, err
}

// recallColumns are what lists show; which batches a recall is of is asked of the database only.
const recallColumns = "id, code, mock, title, began_at, told_at, closed_at, account"

func (r recallRow) domain() (kernel.RecallRow, error) {
	out := kernel.RecallRow{ID: r.ID, Code: r.Code, Mock: r.Mock, Title: r.Title, Began: r.BeganAt, Told: r.ToldAt,
		Closed: r.ClosedAt}
	if err := json.Unmarshal(r.Account, &out.Account); err != nil {
		return out, fmt.Errorf("recall %d: %w", r.ID, err)
	}
	return out, nil
}

// Recalls returns up to most recalls, open ones first, then the newest first.
func (s *Store) Recalls(most int) ([]kernel.RecallRow, error) {
	var rows []recallRow
	err := s.db.Select(recallColumns).Order("closed_at IS NOT NULL, id DESC").Limit(most).Find(&rows).Error
	if err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.RecallRow, len(rows))
	for i, r := range rows {
		if out[i], err = r.domain(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// RecallOf returns the code of an open real recall that a batch is in; empty where there is none.
func (s *Store) RecallOf(batch int64) (string, error) {
	var codes []string
	err := s.db.Raw(query("recall_of"), batch).Scan(&codes).Error
	if err != nil || len(codes) == 0 {
		return "", translate(err)
	}
	return codes[0], nil
}

// LastDrill returns when the last drill was closed, nil where none was; and whether jars ever left the shop.
func (s *Store) LastDrill() (closed *time.Time, out bool, err error) {
	var row struct {
		Last *time.Time
		Left bool
	}
	err = s.db.Raw(query("last_drill")).Scan(&row).Error
	return row.Last, row.Left, translate(err)
}

// LotsOfIngredient returns the lots of an ingredient that batches took of.
func (s *Store) LotsOfIngredient(id string) ([]int64, error) {
	var ids []int64
	err := s.db.Raw(query("lots_of_ingredient"), id).Scan(&ids).Error
	return ids, translate(err)
}
