package kernel

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

	"gallipot/internal/core/field"
)

// Capital begins with a capital.
func Capital(s string) string {
	r := []rune(field.Sentence(s))
	return string(r[:len(r)-1])
}

// Plural counts things.
func Plural(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// Uncapital begins a phrase small, as inside a sentence.
func Uncapital(s string) string {
	r, n := utf8.DecodeRuneInString(s)
	if r == utf8.RuneError || strings.HasPrefix(s, "pH") {
		return s
	}
	return string(unicode.ToLower(r)) + s[n:]
}
