package store

import (
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/chain"
)

type backupRow struct {
	ID     int64
	At     time.Time
	ByWhom string
	File   string
	Bytes  int64
	Seq    int64
	Digest string
	SHA256 string `gorm:"column:sha256"`
}

func (backupRow) TableName() string { return "backups" }

func (r backupRow) domain() (kernel.Backup, error) {
	head, err := chain.Join(r.Seq, r.Digest)
	return kernel.Backup{ID: r.ID, At: r.At, By: r.ByWhom, File: r.File, Bytes: r.Bytes, Head: head.String(),
		SHA256: r.SHA256}, err
}

// AddBackup stores that a backup was made and fills in its id; the row never changes.
func (s *Store) AddBackup(b *kernel.Backup) error {
	head, err := chain.ParseHead(b.Head)
	if err != nil {
		return err
	}
	row := backupRow{At: b.At, ByWhom: b.By, File: b.File, Bytes: b.Bytes, Seq: head.Seq, Digest: head.Hex(),
		SHA256: b.SHA256}
	if err := s.db.Create(&row).Error; err != nil {
		return translate(err)
	}
	b.ID = row.ID
	return nil
}

// Backups returns up to most backups, the newest first.
func (s *Store) Backups(most int) ([]kernel.Backup, error) {
	var rows []backupRow
	if err := s.db.Order("at DESC, id DESC").Limit(most).Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	return each(rows, backupRow.domain)
}

// ChainBegun returns when the book began to prove itself.
func (s *Store) ChainBegun() (time.Time, error) {
	var at time.Time
	return at, translate(s.db.Raw(query("begun_at")).Scan(&at).Error)
}

// ChainHead returns the last link of the chain as SEQ:DIGEST.
func (s *Store) ChainHead() (string, error) {
	var row struct {
		Seq    int64
		Digest []byte
	}
	if err := s.db.Raw(query("chain_ends")).Scan(&row).Error; err != nil {
		return "", translate(err)
	}
	head := chain.Head{Seq: row.Seq}
	copy(head.Digest[:], row.Digest)
	return head.String(), nil
}

// Reaches reports whether a head from earlier is still a link of the chain.
func (s *Store) Reaches(h chain.Head) (bool, error) {
	var digests [][]byte
	err := s.db.Raw(query("digest_of"), h.Seq).Scan(&digests).Error
	return len(digests) == 1 && string(digests[0]) == string(h.Digest[:]), translate(err)
}
