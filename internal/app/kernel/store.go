package kernel

import (
	"context"
	"errors"
	"time"
)

// Errors that a Store returns and use cases act upon.
var (
	ErrNotFound = errors.New("not found")
	ErrConflict = errors.New("changed meanwhile")        // the revision does not match
	ErrTaken    = errors.New("taken")                    // a name or key is in use
	ErrInUse    = errors.New("referred to by something") // a foreign key forbids it
	ErrLocked   = errors.New("locked")                   // a locked version or a batch record never changes
	ErrTimeout  = errors.New("took too long")            // the database gave a statement up
	ErrAway     = errors.New("the database is away")     // it may come back
	ErrNobody   = errors.New("nobody is named")          // every write knows its person
	ErrFull     = errors.New("the disk is full")         // the database has no room to write
	ErrUnsure   = errors.New("not known whether stored") // it broke off while it was being stored
)

// Store is what use cases need of the database, an area in each part; package store fulfils it. In runs one
// transaction; inside it only the store that it hands over is used, so that a request never holds two connections.
type Store interface {
	With(ctx context.Context) Store
	In(ctx context.Context, by Stamp, f func(Store) error) error

	pantryStore
	priceStore
	costStore
	readerStore
	wordStore
	preparationStore
	formulaStore
	trialStore
	batchStore
	meterStore
	lotStore
	partyStore
	keepingStore
	labelStore
	markStore
	allergenStore
	peopleStore
	shopStore
	journalStore
	historyStore
	traceStore
	recallStore
	backupStore
}

// Stamp is who writes, when, and why where a reason was given.
type Stamp struct {
	By  string
	At  time.Time
	Why string
}
