package kernel

import (
	"time"

	"gallipot/internal/core/people"
)

// Person is somebody who works in the shop, or did.
type Person struct {
	ID         int64
	Name       string
	Role       people.Role
	Secret     string // argon2id of PIN or passphrase; empty: cannot sign in
	SecretAt   *time.Time
	RetiredAt  *time.Time
	RetiredWhy string
}

// peopleStore keeps who works in the shop and who is signed in.
type peopleStore interface {
	People() ([]Person, error)
	LockPeople() error
	AddPerson(p *Person) error
	SavePerson(p Person) error

	LockTries(person int64) (Tries, error)
	PutTries(person int64, t Tries) error
	AddSession(digest []byte, person int64, at time.Time) error
	Session(digest []byte) (Session, error)
	TouchSession(digest []byte, at time.Time) error
	EndSession(digest []byte, at time.Time) error
	EndSessionsOf(person int64, at time.Time) error
	AddSingleSignIn(digest []byte, person int64, at time.Time) error
	UseSingleSignIn(digest []byte, at time.Time) (person int64, err error)
}

// Session is somebody who is signed in.
type Session struct {
	Person Person
	MadeAt time.Time
	SeenAt time.Time // when they last wrote something
}

// Tries is how often somebody tried a wrong secret since the last right one.
type Tries struct {
	Wrong     int
	WaitUntil *time.Time
}
