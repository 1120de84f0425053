// Package entry is what records share: acts that are written down one after the other, each of a kind with its own
// details, by somebody, at a time. A record is append-only: what was wrong is put right by a later act.
package entry

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"time"

	"gallipot/internal/core/people"
)

// Head is what every act has: where it stands in its record (from 1), when it was written by the server's clock and by
// the hand's own where it said so, by whom, and what they were at that time.
type Head struct {
	ID       int64
	Seq      int
	At       time.Time
	ClientAt *time.Time
	By       string
	Role     people.Role
}

// Kind is the row of a registry for one kind of act, with all that a record knows of it: how its body is read, what
// speaks against it, what it does to the record and its sentence. S is the record as it is folded, E an act in it.
type Kind[S, E any] struct {
	empty func() any
	check func(S, E, any) error
	fold  func(S, E, any)
	tell  func(any) string
}

// Row makes the row of a kind that hands write and whose body is a T. check says why an act may not be written down
// now; fold lets it do to the record what it does; tell is its sentence without its author, as in "struck a pair of
// readings".
func Row[T, S, E any](check func(S, E, *T) error, fold func(S, E, *T), tell func(*T) string) Kind[S, E] {
	k := ByProgram(fold, tell)
	k.check = func(s S, e E, body any) error { return check(s, e, body.(*T)) }
	return k
}

// ByProgram makes the row of a kind that only the program writes, so that nothing speaks against it.
func ByProgram[T, S, E any](fold func(S, E, *T), tell func(*T) string) Kind[S, E] {
	return Kind[S, E]{empty: func() any { return new(T) },
		fold: func(s S, e E, body any) { fold(s, e, body.(*T)) },
		tell: func(body any) string { return tell(body.(*T)) }}
}

// Kinds is the registry of what may be written into a record, by name.
type Kinds[S, E any] struct {
	rows  map[string]Kind[S, E]
	names map[reflect.Type]string
}

// Register makes a registry of rows by name.
func Register[S, E any](rows map[string]Kind[S, E]) Kinds[S, E] {
	k := Kinds[S, E]{rows, map[reflect.Type]string{}}
	for name, row := range rows {
		k.names[reflect.TypeOf(row.empty())] = name
	}
	return k
}

// Names lists the kinds by name.
func (k Kinds[S, E]) Names() []string { return slices.Sorted(maps.Keys(k.rows)) }

// Of names the kind that a body is of; empty for what is in the registry of no record.
func (k Kinds[S, E]) Of(body any) string { return k.names[reflect.TypeOf(body)] }

// ByHand reports whether hands write acts of a kind.
func (k Kinds[S, E]) ByHand(kind string) bool { return k.rows[kind].check != nil }

// Check says why an act may not be written down now; nil where it may.
func (k Kinds[S, E]) Check(s S, e E, body any) error {
	if check := k.rows[k.Of(body)].check; check != nil {
		return check(s, e, body)
	}
	return nil
}

// Fold lets an act do to the record what it does.
func (k Kinds[S, E]) Fold(s S, e E, body any) {
	if fold := k.rows[k.Of(body)].fold; fold != nil {
		fold(s, e, body)
	}
}

// Told is the sentence of an act; empty for what is in no registry.
func (k Kinds[S, E]) Told(body any) string {
	if tell := k.rows[k.Of(body)].tell; tell != nil {
		return tell(body)
	}
	return ""
}

// Tell is the sentence of an act from its stored body. A body that cannot be read is told by the name of its kind.
func (k Kinds[S, E]) Tell(kind string, raw []byte) string {
	body, err := k.Read(kind, raw)
	if err != nil {
		return "wrote " + kind
	}
	return k.Told(body)
}

// KindError names a kind that a registry does not know, or an entry without the body of its kind.
type KindError struct{ Kind string }

func (e KindError) Error() string {
	return fmt.Sprintf("an entry of kind %q needs its own details", e.Kind)
}

// Read decodes the body of a kind. Errors: KindError, and those of JSON.
func (k Kinds[S, E]) Read(kind string, raw []byte) (any, error) {
	row, known := k.rows[kind]
	if !known || len(raw) == 0 || bytes.Equal(raw, []byte("null")) {
		return nil, KindError{kind}
	}
	body := row.empty()
	return body, json.Unmarshal(raw, body)
}

type wire struct {
	ID       int64       `json:"id"`
	Seq      int         `json:"seq"`
	Kind     string      `json:"kind"`
	At       time.Time   `json:"at"`
	ClientAt *time.Time  `json:"client_at,omitempty"`
	By       string      `json:"by"`
	Role     people.Role `json:"role,omitempty"`
}

// Marshal writes an act with its body under the name of its kind.
func (k Kinds[S, E]) Marshal(h Head, body any) ([]byte, error) {
	kind := k.Of(body)
	head, err := json.Marshal(wire{h.ID, h.Seq, kind, h.At, h.ClientAt, h.By, h.Role})
	if err != nil {
		return nil, err
	}
	details, err := json.Marshal(body)
	if err != nil {
		return nil, err
	}
	out := append(head[:len(head)-1], `,"`+kind+`":`...)
	return append(append(out, details...), '}'), nil
}

// Unmarshal reads what Marshal wrote. Errors: KindError.
func (k Kinds[S, E]) Unmarshal(raw []byte) (Head, any, error) {
	var head wire
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(raw, &head); err != nil {
		return Head{}, nil, err
	}
	if err := json.Unmarshal(raw, &fields); err != nil {
		return Head{}, nil, err
	}
	body, err := k.Read(head.Kind, fields[head.Kind])
	return Head{head.ID, head.Seq, head.At, head.ClientAt, head.By, head.Role}, body, err
}

// Refusal says why an act may not be written down. Field is where it was typed, empty where no field is at fault.
type Refusal struct{ Code, Field, Message string }

func (r Refusal) Error() string { return r.Message }

// Refuse is a Refusal with its message.
func Refuse(code, field, format string, args ...any) error {
	return Refusal{Code: code, Field: field, Message: fmt.Sprintf(format, args...)}
}

// Codes of refusals.
const (
	NotYours = "not_yours" // of another role
	Behind   = "behind"    // written on a page that has not seen everything
	Closed   = "decided"   // the state of the record does not allow it
	NotReady = "not_ready" // something stands in the way of it
	NotTared = "not_tared" // what stands on the scale is not known
	Wrong    = "invalid"
)

// Because adds to what was done why, where that was said.
func Because(said, why string) string {
	if why == "" {
		return said
	}
	return said + ": " + why
}

// Noted adds a note to what was done, where there is one.
func Noted(said, note string) string {
	if note == "" {
		return said
	}
	return said + " (" + note + ")"
}
