package store

import (
	"encoding/json"
	"fmt"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/core/bench"
)

// BatchEntry is one thing written into a batch record; rows are never changed.
type BatchEntry struct {
	ID      int64
	BatchID int64
	Kind    string
	Body    json.RawMessage `gorm:"type:jsonb"`
	Key     string
	At      time.Time
	ByWhom  string
}

func (e BatchEntry) core() (bench.Entry, error) {
	var out bench.Entry
	if err := json.Unmarshal(e.Body, &out); err != nil {
		return out, fmt.Errorf("batch entry %d: %w", e.ID, err)
	}
	out.ID, out.Kind, out.At, out.By = e.ID, e.Kind, e.At, e.ByWhom
	return out, nil
}

// Batches returns all batches, newest first.
func (s *Store) Batches() ([]app.Batch, error) {
	var rows []app.Batch
	return rows, translate(s.db.Order("made_on DESC, id DESC").Find(&rows).Error)
}

// Batch returns one. Errors: ErrNotFound.
func (s *Store) Batch(id int64) (app.Batch, error) {
	var row app.Batch
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return row, fmt.Errorf("batch %d: %w", id, translate(err))
	}
	return row, nil
}

// AddBatch stores a batch and fills in its id. Errors: ErrTaken when the code is in use.
func (s *Store) AddBatch(b *app.Batch) error { return translate(s.db.Create(b).Error) }

// LockBatch keeps others from writing into the batch until the transaction ends.
func (s *Store) LockBatch(id int64) error {
	return translate(s.db.Exec("SELECT 1 FROM batches WHERE id = ? FOR UPDATE", id).Error)
}

// Entries returns the record of a batch, oldest first, by batch id; of all batches where id is 0.
func (s *Store) Entries(id int64) (map[int64][]bench.Entry, error) {
	var rows []BatchEntry
	q := s.db.Order("id")
	if id != 0 {
		q = q.Where("batch_id = ?", id)
	}
	if err := q.Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := map[int64][]bench.Entry{}
	for _, r := range rows {
		e, err := r.core()
		if err != nil {
			return nil, err
		}
		out[r.BatchID] = append(out[r.BatchID], e)
	}
	return out, nil
}

// AddEntry appends to a batch record. Errors: ErrTaken when the idempotency key was used before.
func (s *Store) AddEntry(batch int64, e bench.Entry, key string) error {
	body, err := json.Marshal(e)
	if err != nil {
		return fmt.Errorf("batch entry: %w", err)
	}
	row := BatchEntry{BatchID: batch, Kind: e.Kind, Body: body, Key: key, At: e.At, ByWhom: e.By}
	return translate(s.db.Create(&row).Error)
}

// HasEntry reports whether an entry with this idempotency key is in the batch.
func (s *Store) HasEntry(batch int64, key string) (bool, error) {
	var n int64
	err := s.db.Model(&BatchEntry{}).Where("batch_id = ? AND key = ?", batch, key).Count(&n).Error
	return n > 0, translate(err)
}

// MeterChecks returns the checks since a time, newest first.
func (s *Store) MeterChecks(since time.Time) ([]app.MeterCheck, error) {
	var rows []app.MeterCheck
	return rows, translate(s.db.Where("checked_at >= ?", since).Order("checked_at DESC, id DESC").Find(&rows).Error)
}

// MeterCheck returns one. Errors: ErrNotFound.
func (s *Store) MeterCheck(id int64) (app.MeterCheck, error) {
	var row app.MeterCheck
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return row, fmt.Errorf("meter check %d: %w", id, translate(err))
	}
	return row, nil
}

// AddMeterCheck stores a check and fills in its id.
func (s *Store) AddMeterCheck(c *app.MeterCheck) error { return translate(s.db.Create(c).Error) }

// CloseMeterCheck records the closing look. Errors: ErrConflict when there is one already.
func (s *Store) CloseMeterCheck(c app.MeterCheck) error {
	return changedOne(s.db.Model(&app.MeterCheck{}).Where("id = ? AND closing_at IS NULL", c.ID).
		Select("closing_ph", "closing_celsius", "closing_good", "closing_at").Updates(&c))
}

// FailedChecks returns the ids of meter checks whose closing look failed: readings that rest on them support nothing.
func (s *Store) FailedChecks() ([]int64, error) {
	var ids []int64
	return ids, translate(s.db.Model(&app.MeterCheck{}).Where("closing_good = false").Pluck("id", &ids).Error)
}
