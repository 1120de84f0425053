package store

import (
	"bytes"
	"encoding/json"
	"fmt"

	"gallipot/internal/upcast"
)

// document is JSON as it lies in a column; the row's format says how to read it.
type document = json.RawMessage

// The kinds of stored documents, each with what takes one of format 1 to format 2.
var upcasts = map[string]func(any) any{
	"shop":        amounts,
	"ingredient":  object(upcast.Ingredient),
	"version":     object(upcast.Version),
	"answers":     same,
	"weighings":   same,
	"preparation": same,
	"trial":       amounts,
	"targets":     amounts,
	"planned":     same,
	"facts":       same,
	"lock":        same,
}

func same(doc any) any { return doc }

func amounts(doc any) any {
	upcast.Amounts(doc)
	return doc
}

func object(turn func(upcast.Doc)) func(any) any {
	return func(doc any) any {
		if d, ok := doc.(upcast.Doc); ok {
			turn(d)
		}
		return doc
	}
}

// read decodes a stored document of a kind, whichever format it was written in.
func read[T any](kind string, format int, raw document, into *T) error {
	if format > upcast.Present {
		return fmt.Errorf("%s of format %d: this program knows formats up to %d", kind, format, upcast.Present)
	}
	if format < upcast.Present {
		doc, err := generic(raw)
		if err != nil {
			return fmt.Errorf("%s: %w", kind, err)
		}
		if raw, err = json.Marshal(upcasts[kind](doc)); err != nil {
			return fmt.Errorf("%s: %w", kind, err)
		}
	}
	if err := json.Unmarshal(raw, into); err != nil {
		return fmt.Errorf("%s: %w", kind, err)
	}
	return nil
}

// entryBody is the body of a batch entry. Format 1 kept the whole entry, with the body under the name of its kind.
func entryBody(kind string, format int, raw document) (document, error) {
	if format == upcast.Present {
		return raw, nil
	}
	doc, err := generic(raw)
	if err != nil {
		return nil, err
	}
	whole, ok := doc.(upcast.Doc)
	if !ok || whole[kind] == nil {
		return nil, fmt.Errorf("an entry of kind %s without its body", kind)
	}
	upcast.Amounts(whole)
	return json.Marshal(whole[kind])
}

func generic(raw document) (any, error) {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber()
	var doc any
	err := d.Decode(&doc)
	return doc, err
}

// write encodes a document in the present format.
func write(v any) (document, error) { return json.Marshal(v) }
