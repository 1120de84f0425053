package store

import (
	"time"

	"gallipot/internal/app/kernel"
)

type keyRow struct {
	Key       string `gorm:"primaryKey"`
	Operation string
	Digest    []byte
	Answer    document `gorm:"type:jsonb"`
	At        time.Time
	ByWhom    string
}

func (keyRow) TableName() string { return "keys" }

// Made returns what was made under a key. Errors: ErrNotFound.
func (s *Store) Made(key string) (kernel.Made, error) {
	var row keyRow
	if err := s.db.Where("key = ?", key).Take(&row).Error; err != nil {
		return kernel.Made{}, translate(err)
	}
	return kernel.Made{Key: row.Key, Operation: row.Operation, Digest: row.Digest, Answer: row.Answer,
		By: row.ByWhom}, nil
}

// KeepMade stores what was made under a key. Errors: ErrTaken when the key is in use.
func (s *Store) KeepMade(m kernel.Made) error {
	return translate(s.db.Create(&keyRow{m.Key, m.Operation, m.Digest, document(m.Answer), s.now(), s.by}).Error)
}

// LockKey keeps others from making something under the same key until the transaction ends.
func (s *Store) LockKey(key string) error {
	return translate(s.db.Exec(query("lock_key"), key).Error)
}
