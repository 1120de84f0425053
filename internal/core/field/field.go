// Package field holds what is wrong in a field: where it was typed, and what to do about it in words.
package field

import "fmt"

// Error is a mistake in one field, worded for the person who typed it.
type Error struct {
	Field   string `json:"field"` // JSON path inside the thing that was checked
	Message string `json:"message"`
}

func (e Error) Error() string { return e.Field + ": " + e.Message }

// Errors gathers mistakes; the zero value has none.
type Errors []Error

// Bad adds a mistake in a field. Without args the message is taken as it is.
func (e *Errors) Bad(field, message string, args ...any) {
	if len(args) > 0 {
		message = fmt.Sprintf(message, args...)
	}
	*e = append(*e, Error{field, message})
}

// At is Bad for the fields of a part that stands at a place, as "devices[2]." does.
func (e *Errors) At(place string) func(field, message string, args ...any) {
	return func(field, message string, args ...any) { e.Bad(place+field, message, args...) }
}

// Under adds the mistakes of a part below the part's own place.
func (e *Errors) Under(place string, part []Error) {
	for _, x := range part {
		e.Bad(place+"."+x.Field, x.Message)
	}
}
