// Package kernel is what the rooms of the use cases share: rows, the store, transactions, problems, who acts and why,
// the shop's settings, and who is told of a change. One file an area.
package kernel

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"gallipot/internal/core/entry"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
)

// Kernel is what every room builds on: the store, the clock, the typical kitchen, and who is told of a change.
type Kernel struct {
	Store   Store
	Now     func() time.Time
	Typical pantry.Typical
	told    []func(context.Context, Store, Touches) error
}

// Touches says whether a change touches a version.
type Touches = func(formula.Ref) (bool, error)

// OnTouched registers f to be called, in the transaction of a change, with what the change touches.
func (a *Kernel) OnTouched(f func(context.Context, Store, Touches) error) { a.told = append(a.told, f) }

// Touched tells the rooms above what a change touches.
func (a *Kernel) Touched(ctx context.Context, st Store, touches Touches) error {
	for _, f := range a.told {
		if err := f(ctx, st, touches); err != nil {
			return err
		}
	}
	return nil
}

// Kinds of problems, each of which the edge turns into one status.
const (
	Invalid   = "invalid"
	Missing   = "missing"
	Clash     = "conflict"
	Refused   = "refused"
	Unknown   = "unknown"   // who is asking
	Forbidden = "forbidden" // to somebody of this role
)

// Problem is a mistake or a clash worded for a person. Current carries the other side of a conflict.
type Problem struct {
	Kind    string
	Code    string
	Message string
	Fields  []pantry.FieldError
	Current any
}

// Error is the message, with the first field.
func (p Problem) Error() string {
	if len(p.Fields) > 0 {
		return p.Message + " (" + p.Fields[0].Error() + ")"
	}
	return p.Message
}

// Mistakes is a problem of fields: nothing is stored.
func Mistakes(fields ...pantry.FieldError) error {
	msg := "Something was not accepted; nothing was stored."
	if len(fields) == 1 {
		msg = field.Sentence(fields[0].Message)
	}
	return Problem{Kind: Invalid, Code: "invalid", Message: msg, Fields: fields}
}

// Mistake is a problem of one field.
func Mistake(name, format string, args ...any) error {
	return Mistakes(pantry.FieldError{Field: name, Message: fmt.Sprintf(format, args...)})
}

// Refuse is a problem of an act that may not be done now.
func Refuse(code, format string, args ...any) error {
	return Problem{Kind: Refused, Code: code, Message: fmt.Sprintf(format, args...)}
}

// MistakeOf turns a mistake found by the core into a Problem; other errors are returned as they are.
func MistakeOf(err error) error {
	var wrong pantry.FieldError
	if errors.As(err, &wrong) {
		return Mistakes(wrong)
	}
	return err
}

type actorKey struct{}

// As returns a context in which a person acts.
func As(ctx context.Context, p people.Person) context.Context {
	return context.WithValue(ctx, actorKey{}, p)
}

// Actor returns who acts in a context; the zero person if nobody does.
func Actor(ctx context.Context) people.Person {
	p, _ := ctx.Value(actorKey{}).(people.Person)
	return p
}

// TheProgram acts where no person does: at upgrades, and when the pantry is first filled.
var TheProgram = people.Person{Name: "Gallipot", Role: people.Owner}

// Signed returns the name of who writes. Errors: nobody is signed in.
func Signed(ctx context.Context) (string, error) {
	p := Actor(ctx)
	if p.Name == "" || !p.Role.Known() {
		return "", Problem{Kind: Unknown, Code: "sign_in", Message: "Say who you are first."}
	}
	return p.Name, nil
}

// May refuses an act unless the actor has at least the given role.
func May(ctx context.Context, asked people.Role, what string) error {
	p := Actor(ctx)
	if p.Role.May(asked) {
		return nil
	}
	if p.Name == "" {
		return Problem{Kind: Unknown, Code: "sign_in", Message: "Say who you are first."}
	}
	return NotYours(p, asked, what)
}

// NotYours is the refusal of an act that needs a higher role.
func NotYours(who people.Person, asked people.Role, what string) error {
	return Problem{Kind: Forbidden, Code: entry.NotYours,
		Message: fmt.Sprintf("%s is for %s; you are signed in as %s, %s.", what, atLeast[asked], who.Name, who.Role)}
}

var atLeast = map[people.Role]string{people.Owner: "an owner", people.Maker: "a maker or an owner",
	people.Helper: "people who work here"}

// Stamp is who writes, and when.
func (a *Kernel) Stamp(ctx context.Context) Stamp {
	why, _ := ctx.Value(reasonKey{}).(string)
	return Stamp{By: Actor(ctx).Name, At: a.Now(), Why: why}
}

type reasonKey struct{}

// Because returns a context with the reason for what is done in it.
func Because(ctx context.Context, why string) context.Context {
	return context.WithValue(ctx, reasonKey{}, strings.TrimSpace(why))
}

// Retires requires a reason if something is taken out of use.
func (a *Kernel) Retires(ctx context.Context, was, becomes bool) error {
	if was || !becomes {
		return nil
	}
	_, err := ReasonFor(a.Stamp(ctx).Why)
	return err
}

// In runs f in one transaction that carries the actor's name. Everything is written through it except drafts as they
// are typed.
func (a *Kernel) In(ctx context.Context, f func(Store) error) error {
	return a.Store.In(ctx, a.Stamp(ctx), func(st Store) error { return f(a.withKin(st)) })
}

// FreshID returns an id that look does not find; it numbers the name if it is taken.
func FreshID(name string, look func(id string) error) (string, error) {
	base := field.Slug(name)
	for n := 1; n < 1000; n++ {
		id := base
		if n > 1 {
			id = fmt.Sprintf("%s_%d", base, n)
		}
		if err := look(id); errors.Is(err, ErrNotFound) {
			return id, nil
		} else if err != nil {
			return "", err
		}
	}
	return "", Mistake("name", "too many things have this name")
}
