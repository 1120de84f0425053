package kernel

import "time"

// Backup is a backup that was made: where it lies, how large it is, and the last link of the chain in it.
type Backup struct {
	ID     int64     `json:"id"`
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	File   string    `json:"file"` // its name in the folder of backups, or its whole path where it lies elsewhere
	Bytes  int64     `json:"bytes"`
	Head   string    `json:"head"`   // SEQ:DIGEST
	SHA256 string    `json:"sha256"` // of the file
}

// backupStore keeps which backups were made, and knows the chain's ends.
type backupStore interface {
	AddBackup(b *Backup) error
	Backups(most int) ([]Backup, error)
	ChainBegun() (time.Time, error)
	ChainHead() (string, error)
	Unprotected() (string, error)
}
