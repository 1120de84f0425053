package office

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/people"
)

// PersonView is somebody who works in the shop.
type PersonView struct {
	ID         int64       `json:"id"`
	Name       string      `json:"name"`
	Role       people.Role `json:"role"`
	CanSignIn  bool        `json:"can_sign_in"`
	RetiredAt  *time.Time  `json:"retired_at"`
	RetiredWhy string      `json:"retired_why"`
}

func personView(p kernel.Person) PersonView {
	return PersonView{p.ID, p.Name, p.Role, p.Secret != "" && p.RetiredAt == nil, p.RetiredAt, p.RetiredWhy}
}

// People returns everybody who works in the shop, and who did.
func (a *Room) People(ctx context.Context) ([]PersonView, error) {
	rows, err := a.On(ctx).People()
	out := make([]PersonView, len(rows))
	for i, r := range rows {
		out[i] = personView(r)
	}
	return out, err
}

func checkName(name string) (string, error) {
	name = strings.TrimSpace(name)
	if n := len([]rune(name)); n == 0 || n > 80 {
		return "", kernel.Mistake("name", "a name has 1 to 80 characters")
	}
	if strings.EqualFold(name, kernel.TheProgram.Name) {
		return "", kernel.Mistake("name", "this is how the program signs what it does; take another name")
	}
	return name, nil
}

// AddPerson adds somebody with a role and a first secret. Only owners may.
func (a *Room) AddPerson(ctx context.Context, name string, role people.Role, secret string) (PersonView, error) {
	if err := kernel.May(ctx, people.Owner, "Who works here"); err != nil {
		return PersonView{}, err
	}
	name, err := checkName(name)
	if err != nil {
		return PersonView{}, err
	}
	if !role.Known() {
		return PersonView{}, kernel.Mistake("role", "helper, maker or owner")
	}
	kept, err := hashed(secret)
	if err != nil {
		return PersonView{}, err
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (PersonView, error) {
		now := a.Now()
		p := kernel.Person{Name: name, Role: role, Secret: kept, SecretAt: &now}
		if err := st.AddPerson(&p); errors.Is(err, kernel.ErrTaken) {
			return PersonView{}, kernel.Mistake("name", "%s is there already; names of people who left stay theirs",
				name)
		} else if err != nil {
			return PersonView{}, err
		}
		return personView(p), nil
	})
}

// FirstOwner creates the owner of a shop in which nobody can sign in yet. If the name is already known from before
// there were sign-ins, that person becomes the owner.
func (a *Room) FirstOwner(ctx context.Context, name, secret string) (PersonView, error) {
	name, err := checkName(name)
	if err != nil {
		return PersonView{}, err
	}
	kept, err := hashed(secret)
	if err != nil {
		return PersonView{}, err
	}
	ctx = kernel.As(ctx, people.Person{Name: name, Role: people.Owner})
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (PersonView, error) {
		if err := st.LockPeople(); err != nil {
			return PersonView{}, err
		}
		have, err := st.People()
		if err != nil {
			return PersonView{}, err
		}
		if !nobodySignsIn(have) {
			return PersonView{}, kernel.Refuse("owned",
				"This shop has its owner already; sign in, or ask them to add you.")
		}
		now := a.Now()
		p := kernel.Person{Name: name, Role: people.Owner, Secret: kept, SecretAt: &now}
		if i := slices.IndexFunc(have, func(h kernel.Person) bool {
			return h.Name == name &&
				h.RetiredAt == nil
		}); i >= 0 {
			p.ID = have[i].ID
			return personView(p), st.SavePerson(p)
		}
		if err := st.AddPerson(&p); errors.Is(err, kernel.ErrTaken) {
			return PersonView{}, kernel.Mistake("name", "%s is the name of somebody who left", name)
		} else if err != nil {
			return PersonView{}, err
		}
		return personView(p), nil
	})
}

// nobodySignsIn reports whether no owner can sign in, as at the first start.
func nobodySignsIn(have []kernel.Person) bool {
	return !slices.ContainsFunc(have, func(p kernel.Person) bool {
		return p.Role == people.Owner &&
			personView(p).CanSignIn
	})
}

// PersonChange is what an owner changes about somebody; empty fields stay as they are. Names never change: records are
// signed with them, and a second person is told apart by them. Why is the reason for a retirement.
type PersonChange struct {
	Role   people.Role `json:"role,omitempty"`
	Secret string      `json:"secret,omitempty"`
	Retire bool        `json:"retire,omitempty"`
	Back   bool        `json:"back,omitempty"` // works here again
	Why    string      `json:"why,omitempty"`
}

// ChangePerson changes somebody. Owners may change everybody; anybody may change their own secret. A person who is
// retired, gets a new secret or a lower role is signed out at once.
func (a *Room) ChangePerson(ctx context.Context, id int64, c PersonChange) (PersonView, error) {
	var out PersonView
	kept := ""
	if c.Secret != "" {
		var err error
		if kept, err = hashed(c.Secret); err != nil {
			return out, err
		}
	}
	err := a.In(ctx, func(st kernel.Store) error {
		if err := st.LockPeople(); err != nil {
			return err
		}
		have, err := st.People()
		if err != nil {
			return err
		}
		i := slices.IndexFunc(have, func(p kernel.Person) bool { return p.ID == id })
		if i < 0 {
			return fmt.Errorf("person %d: %w", id, kernel.ErrNotFound)
		}
		onlySecret := c == PersonChange{Secret: c.Secret}
		if own := have[i].Name == kernel.Actor(ctx).Name; !own || !onlySecret {
			if err := kernel.May(ctx, people.Owner, "Who works here, and as what,"); err != nil {
				return err
			}
		}
		was := have[i]
		if err := a.change(&have[i], c, kept); err != nil {
			return err
		}
		if nobodySignsIn(have) {
			return kernel.Refuse("last_owner",
				"A shop keeps at least one owner who can sign in; make somebody else one first.")
		}
		if err := st.SavePerson(have[i]); err != nil {
			return err
		}
		out = personView(have[i])
		if kept != "" || !out.CanSignIn || !out.Role.May(was.Role) {
			return st.EndSessionsOf(id, a.Now())
		}
		return nil
	})
	return out, err
}

func (a *Room) change(p *kernel.Person, c PersonChange, kept string) error {
	now := a.Now()
	if c.Role != "" {
		if !c.Role.Known() {
			return kernel.Mistake("role", "helper, maker or owner")
		}
		p.Role = c.Role
	}
	if kept != "" {
		p.Secret, p.SecretAt = kept, &now
	}
	why := strings.TrimSpace(c.Why)
	switch {
	case c.Retire && (why == "" || len([]rune(why)) > 300):
		return kernel.Mistake("why", "say why, in at most 300 characters")
	case c.Retire:
		p.RetiredAt, p.RetiredWhy = &now, why
	case c.Back:
		p.RetiredAt, p.RetiredWhy = nil, ""
	}
	return nil
}
