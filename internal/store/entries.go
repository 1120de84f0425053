package store

import (
	"fmt"
	"time"

	"gallipot/internal/core/entry"
	"gallipot/internal/core/people"
	"gallipot/internal/upcast"

	"gorm.io/gorm"
)

// Written is an act as the records of batches, lots and recalls alike store it. Rows of acts are never changed.
type Written struct {
	Seq    int
	Kind   string
	Body   document `gorm:"type:jsonb"`
	Format int
	Key    string
	Digest []byte
	At     time.Time
	ByWhom string
	ByRole string
}

// writtenOf returns the row for an act at its place in the record.
func writtenOf(h entry.Head, kind string, body any, key string, digest []byte) (Written, error) {
	raw, err := write(body)
	if err != nil {
		return Written{}, fmt.Errorf("entry of kind %s: %w", kind, err)
	}
	return Written{Seq: h.Seq, Kind: kind, Body: raw, Format: upcast.Present, Key: key,
		Digest: append([]byte{}, digest...), At: asKept(h.At), ByWhom: h.By, ByRole: string(h.Role)}, nil
}

// read decodes a stored act, its body through the registry of its record. Errors: an unknown format, and those of the
// registry.
func (w Written) read(id int64, body func(kind string, raw []byte) (any, error)) (entry.Head, any, error) {
	h := entry.Head{ID: id, Seq: w.Seq, At: w.At, By: w.ByWhom, Role: people.Role(w.ByRole)}
	if w.Format > upcast.Present {
		return h, nil, fmt.Errorf("entry %d of format %d: this program knows formats up to %d", id, w.Format,
			upcast.Present)
	}
	raw, err := entryBody(w.Kind, w.Format, w.Body)
	if err != nil {
		return h, nil, fmt.Errorf("entry %d: %w", id, err)
	}
	ok, err := body(w.Kind, raw)
	if err != nil {
		return h, nil, fmt.Errorf("entry %d: %w", id, err)
	}
	return h, ok, nil
}

// asKept rounds a time as the database does.
func asKept(at time.Time) time.Time { return at.Local().Truncate(time.Microsecond) }

// next returns the place of the next entry of a record, counted from 1.
func next(record *gorm.DB) (int, error) {
	var seq int
	err := record.Select("coalesce(max(seq), 0) + 1").Scan(&seq).Error
	return seq, translate(err)
}

// anothers stands for the digest of an entry that somebody else wrote with the same key: it equals no digest.
var anothers = []byte{0}

// digestUnder returns the digest of the entry that was written with a key; nil if there is none, empty if the entry is
// older than digests, and one that equals none if somebody else wrote it.
func (s *Store) digestUnder(record *gorm.DB, key string) ([]byte, error) {
	var rows []struct {
		Digest []byte
		ByWhom string
	}
	err := record.Select("digest, by_whom").Where("key = ?", key).Limit(1).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return nil, translate(err)
	}
	if s.by != "" && rows[0].ByWhom != s.by {
		return anothers, nil
	}
	return append([]byte{}, rows[0].Digest...), nil
}
