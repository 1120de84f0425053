package allergen

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// normalised is a text in small letters without accents, with one form of apostrophe and hyphen, and where each of its
// bytes stood in the text it was made of.
type normalised struct {
	text   string
	starts []int // of the rune that the byte came from
	ends   []int // behind it
}

// normal reads a text for comparison. Ligatures and full-width letters become plain ones; raised figures stay, because
// they are marks of footnotes; soft hyphens and joiners go.
func normal(text string) normalised {
	var n normalised
	var out strings.Builder
	for at, r := range text {
		end := at + utf8.RuneLen(r)
		if r == utf8.RuneError {
			_, size := utf8.DecodeRuneInString(text[at:])
			end = at + size
		}
		for _, c := range plain(r) {
			for range utf8.RuneLen(c) {
				n.starts, n.ends = append(n.starts, at), append(n.ends, end)
			}
			out.WriteRune(c)
		}
	}
	n.text = out.String()
	return n
}

// plain is what a rune is compared as.
func plain(r rune) string {
	switch {
	case r < utf8.RuneSelf:
		return string(unicode.ToLower(r))
	case r == '’' || r == '‘' || r == 'ʼ' || r == '´' || r == '′':
		return "'"
	case unicode.Is(unicode.Pd, r) || r == '−':
		return "-"
	case r == '\u00ad' || unicode.Is(unicode.Cf, r):
		return ""
	case unicode.Is(unicode.No, r) && !(r >= '₀' && r <= '₉'):
		return string(r)
	case unicode.IsSpace(r):
		return " "
	}
	var out strings.Builder
	for _, c := range norm.NFKD.String(string(r)) {
		if !unicode.Is(unicode.Mn, c) && c != utf8.RuneError {
			out.WriteRune(unicode.ToLower(c))
		}
	}
	return out.String()
}

// gap reports whether a byte is white space or a hyphen, which are equal and may be missing inside a term.
func gap(c byte) bool { return c == ' ' || c == '\n' || c == '\t' || c == '\r' || c == '-' }

func skipGaps(s string, at int) int {
	for at < len(s) && gap(s[at]) {
		at++
	}
	return at
}

// InWord reports whether a character belongs to a word.
func InWord(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }

// wordStarts reports whether a word may begin at a byte.
func wordStarts(s string, at int) bool {
	before, _ := utf8.DecodeLastRuneInString(s[:at])
	return at == 0 || !InWord(before)
}

// wordEnds reports whether a word may end before a byte.
func wordEnds(s string, at int) bool {
	after, _ := utf8.DecodeRuneInString(s[at:])
	return at >= len(s) || !InWord(after)
}

// plurals are the forms of a term in normal words: itself and its regular plural.
func plurals(words string) []string {
	if words == "" {
		return nil
	}
	ends := func(suffixes ...string) bool {
		for _, s := range suffixes {
			if strings.HasSuffix(words, s) {
				return true
			}
		}
		return false
	}
	switch {
	case ends("ay", "ey", "oy", "uy"):
		return []string{words, words + "s"}
	case ends("y"):
		return []string{words, strings.TrimSuffix(words, "y") + "ies"}
	case ends("s", "x", "z", "ch", "sh"):
		return []string{words, words + "es"}
	case ends("o"):
		return []string{words, words + "s", words + "es"}
	}
	return []string{words, words + "s"}
}

// node is a step of the tree of terms. A gap in a term is the step for a blank.
type node struct {
	next  map[byte]*node
	terms []*Term
}

func (n *node) add(t *Term) {
	words := strings.TrimSpace(normal(t.Words).text)
	if len(words) > 1 && words[0] == 'e' && unicode.IsDigit(rune(words[1])) {
		words = "e " + words[1:] // E150d is E 150d as well
	}
	for _, form := range plurals(words) {
		at := n
		for i := 0; i < len(form); i++ {
			c := form[i]
			if gap(c) {
				if i > 0 && gap(form[i-1]) {
					continue
				}
				c = ' '
			}
			if at.next == nil {
				at.next = map[byte]*node{}
			}
			if at.next[c] == nil {
				at.next[c] = &node{}
			}
			at = at.next[c]
		}
		at.terms = append(at.terms, t)
	}
}

// walk calls found for every term that begins at a byte of a text and ends with a word.
func (n *node) walk(s string, at int, found func(end int, terms []*Term)) {
	if len(n.terms) > 0 && wordEnds(s, at) {
		found(at, n.terms)
	}
	if blank := n.next[' ']; blank != nil {
		blank.walk(s, skipGaps(s, at), found)
	}
	if at < len(s) && !gap(s[at]) {
		if deeper := n.next[s[at]]; deeper != nil {
			deeper.walk(s, at+1, found)
		}
	}
}
