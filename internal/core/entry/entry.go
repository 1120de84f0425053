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

// Kinds is the registry of what may be written into a record: by name, what makes an empty body of the kind.
type Kinds map[string]func() any

// Names lists the kinds by name.
func (k Kinds) Names() []string { return slices.Sorted(maps.Keys(k)) }

// Of names the kind that a body is of; empty for what is in the registry of no record.
func (k Kinds) Of(body any) string {
	is := reflect.TypeOf(body)
	for name, empty := range k {
		if reflect.TypeOf(empty()) == is {
			return name
		}
	}
	return ""
}

// KindError names a kind that a registry does not know, or an entry without the body of its kind.
type KindError struct{ Kind string }

func (e KindError) Error() string {
	return fmt.Sprintf("an entry of kind %q needs its own details", e.Kind)
}

// Read decodes the body of a kind. Errors: KindError, and those of JSON.
func (k Kinds) Read(kind string, raw []byte) (any, error) {
	empty, known := k[kind]
	if !known || len(raw) == 0 || bytes.Equal(raw, []byte("null")) {
		return nil, KindError{kind}
	}
	body := empty()
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
func (k Kinds) Marshal(h Head, body any) ([]byte, error) {
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
func (k Kinds) Unmarshal(raw []byte) (Head, any, error) {
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

// Codes of refusals.
const (
	NotYours = "not_yours" // of another role
	Behind   = "behind"    // written on a page that has not seen everything
	Closed   = "decided"   // the state of the record does not allow it
	NotReady = "not_ready" // something stands in the way of it
	NotTared = "not_tared" // what stands on the scale is not known
	Wrong    = "invalid"
)
