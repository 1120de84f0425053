package app

import (
	"context"
	"errors"
	"strings"
)

// Person is somebody who works in the shop.
type Person struct {
	ID    int64
	Name  string
	Owner bool
}

// PeopleStore keeps who works in the shop.
type PeopleStore interface {
	People() ([]Person, error)
	AddPerson(p *Person) error
}

// PersonView is somebody who works in the shop.
type PersonView struct {
	ID    int64  `json:"id"`
	Name  string `json:"name"`
	Owner bool   `json:"owner"`
}

// People returns everybody who works in the shop.
func (a *App) People(ctx context.Context) ([]PersonView, error) {
	rows, err := a.Store.With(ctx).People()
	out := make([]PersonView, len(rows))
	for i, r := range rows {
		out[i] = PersonView(r)
	}
	return out, err
}

// AddPerson adds somebody; the first one is an owner.
func (a *App) AddPerson(ctx context.Context, name string) (PersonView, error) {
	name = strings.TrimSpace(name)
	if n := len([]rune(name)); n == 0 || n > 80 {
		return PersonView{}, field("name", "a name has 1 to 80 characters")
	}
	return once(ctx, a, func(st Store) (PersonView, error) {
		have, err := st.People()
		if err != nil {
			return PersonView{}, err
		}
		p := Person{Name: name, Owner: len(have) == 0}
		if err := st.AddPerson(&p); errors.Is(err, ErrTaken) {
			return PersonView{}, field("name", "%s is there already", name)
		} else if err != nil {
			return PersonView{}, err
		}
		return PersonView(p), nil
	})
}
