package field

import (
	"unicode"
)

// Sentence makes a whole sentence of a message.
func Sentence(s string) string {
	if s == "" {
		return s
	}
	r := []rune(s)
	r[0] = unicode.ToUpper(r[0])
	if last := r[len(r)-1]; last != '.' && last != '?' && last != '!' {
		r = append(r, '.')
	}
	return string(r)
}

// Clip shortens what was typed for a message.
func Clip(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}

// Cut is the first so many characters of a text.
func Cut(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return string(r[:most])
	}
	return s
}
