// Package match tells what is the same thing: names on a price list and in the pantry, offers, values.
package match

import (
	"encoding/json"
	"slices"
	"strings"
	"unicode"
)

// SameJSON reports whether two values are written alike.
func SameJSON(a, b any) bool {
	x, errX := json.Marshal(a)
	y, errY := json.Marshal(b)
	return errX == nil && errY == nil && string(x) == string(y)
}

// WordsIn are the words of a name in the order of the alphabet: miso, white and White Miso are one.
func WordsIn(name string) string {
	words := strings.FieldsFunc(strings.ToLower(name),
		func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	slices.Sort(words)
	return strings.Join(words, " ")
}
