package store

import (
	"database/sql"
	"errors"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/people"

	"gorm.io/gorm/clause"
)

type personRow struct {
	ID         int64
	Name       string
	Role       string
	Secret     string
	SecretAt   *time.Time
	RetiredAt  *time.Time
	RetiredWhy string
}

func (personRow) TableName() string { return "people" }

func (r personRow) domain() kernel.Person {
	return kernel.Person{ID: r.ID, Name: r.Name, Role: people.Role(r.Role), Secret: r.Secret, SecretAt: r.SecretAt,
		RetiredAt: r.RetiredAt, RetiredWhy: r.RetiredWhy}
}

func rowOfPerson(p kernel.Person) personRow {
	return personRow{p.ID, p.Name, string(p.Role), p.Secret, p.SecretAt, p.RetiredAt, p.RetiredWhy}
}

// People returns everybody in the order they were added, retired ones too.
func (s *Store) People() ([]kernel.Person, error) {
	var rows []personRow
	if err := s.db.Order("id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.Person, len(rows))
	for i, r := range rows {
		out[i] = r.domain()
	}
	return out, nil
}

// LockPeople locks the list of people until the transaction ends.
func (s *Store) LockPeople() error {
	return translate(s.db.Exec(query("lock_people")).Error)
}

// AddPerson stores a person and fills in the id. Errors: ErrTaken.
func (s *Store) AddPerson(p *kernel.Person) error {
	row := rowOfPerson(*p)
	err := translate(s.db.Create(&row).Error)
	p.ID = row.ID
	return err
}

// SavePerson stores what changed of a person. Errors: ErrTaken, ErrConflict where there is none.
func (s *Store) SavePerson(p kernel.Person) error {
	row := rowOfPerson(p)
	return changedOne(s.db.Model(&personRow{}).Where("id = ?", p.ID).
		Select("name", "role", "secret", "secret_at", "retired_at", "retired_why").Updates(&row))
}

type triesRow struct {
	PersonID  int64 `gorm:"primaryKey;autoIncrement:false"`
	Tries     int
	WaitUntil *time.Time
}

func (triesRow) TableName() string { return "sign_in_tries" }

// LockTries returns how often a wrong secret was tried for a person lately, and blocks further tries until the
// transaction ends.
func (s *Store) LockTries(person int64) (kernel.Tries, error) {
	if err := s.db.Clauses(clause.OnConflict{DoNothing: true}).Create(&triesRow{PersonID: person}).Error; err != nil {
		return kernel.Tries{}, translate(err)
	}
	var row triesRow
	err := s.db.Clauses(clause.Locking{Strength: "UPDATE"}).Where("person_id = ?", person).Take(&row).Error
	return kernel.Tries{Wrong: row.Tries, WaitUntil: row.WaitUntil}, translate(err)
}

// PutTries stores how often a wrong secret was tried for a person.
func (s *Store) PutTries(person int64, t kernel.Tries) error {
	return translate(s.db.Model(&triesRow{}).Where("person_id = ?", person).
		Select("tries", "wait_until").Updates(&triesRow{person, t.Wrong, t.WaitUntil}).Error)
}

type sessionRow struct {
	Digest   []byte `gorm:"primaryKey"`
	PersonID int64
	MadeAt   time.Time
	SeenAt   time.Time
	EndedAt  *time.Time
}

func (sessionRow) TableName() string { return "sessions" }

// AddSession stores a session by the digest of its token.
func (s *Store) AddSession(digest []byte, person int64, at time.Time) error {
	return translate(s.db.Create(&sessionRow{digest, person, at, at, nil}).Error)
}

// Session returns an open session with its person. Errors: ErrNotFound.
func (s *Store) Session(digest []byte) (kernel.Session, error) {
	var out kernel.Session
	var role string
	err := s.db.Raw(query("session"), digest).Row().
		Scan(&out.Person.ID, &out.Person.Name, &role, &out.MadeAt, &out.SeenAt)
	if errors.Is(err, sql.ErrNoRows) {
		return out, kernel.ErrNotFound
	}
	out.Person.Role = people.Role(role)
	return out, translate(err)
}

// TouchSession stores when a session last acted.
func (s *Store) TouchSession(digest []byte, at time.Time) error {
	return translate(s.db.Model(&sessionRow{}).Where("digest = ?", digest).Update("seen_at", at).Error)
}

// EndSession ends a session; ending it twice is no error.
func (s *Store) EndSession(digest []byte, at time.Time) error {
	return translate(s.db.Model(&sessionRow{}).Where("digest = ? AND ended_at IS NULL", digest).Update("ended_at",
		at).Error)
}

// EndSessionsOf ends all sessions of a person.
func (s *Store) EndSessionsOf(person int64, at time.Time) error {
	return translate(s.db.Model(&sessionRow{}).Where("person_id = ? AND ended_at IS NULL", person).Update("ended_at",
		at).Error)
}

type singleRow struct {
	Digest   []byte `gorm:"primaryKey"`
	PersonID int64
	MadeAt   time.Time
	UsedAt   *time.Time
}

func (singleRow) TableName() string { return "single_sign_ins" }

// AddSingleSignIn stores the digest of an address that signs a person in a single time.
func (s *Store) AddSingleSignIn(digest []byte, person int64, at time.Time) error {
	return translate(s.db.Create(&singleRow{digest, person, at, nil}).Error)
}

// UseSingleSignIn uses up such an address and returns its person. Errors: ErrNotFound if it is unknown or was used.
func (s *Store) UseSingleSignIn(digest []byte, at time.Time) (person int64, err error) {
	used := singleRow{UsedAt: &at}
	tx := s.db.Model(&used).Clauses(clause.Returning{Columns: []clause.Column{{Name: "person_id"}}}).
		Where("digest = ? AND used_at IS NULL", digest).Select("used_at").Updates(&used)
	if tx.Error == nil && tx.RowsAffected == 0 {
		return 0, kernel.ErrNotFound
	}
	return used.PersonID, translate(tx.Error)
}
