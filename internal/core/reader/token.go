// Package reader turns a recipe as it is spoken or pasted into weighed lines. It keeps every word: each one gets a
// role, and what it cannot read it marks and asks about. It knows nothing that it is not told: the pantry, the measures
// and the preparations come in as a Book.
package reader

import (
	"html"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Role is what a word is in a line.
type Role string

// The roles. Every word of a line has one; Unread is what nobody understood yet.
const (
	Unread      Role = "unread"
	Number      Role = "quantity"
	UnitWord    Role = "unit"
	SizeWord    Role = "size" // small, large, heaping, packed …
	Ingredient  Role = "ingredient"
	Preparation Role = "preparation"
	Cut         Role = "cut"       // minced, sliced: changes no weight
	Note        Role = "note"      // kept as a remark
	Small       Role = "small"     // of, the, fresh
	Corrected   Role = "corrected" // what the maker took back
	Layout      Role = "mark"      // bullets, numbers, tags
)

// token is a word, a number or a sign. from and to are rune offsets into the line.
type token struct {
	text     string // as typed
	low      string // lower case, without accents
	from, to int
	role     Role
	aside    bool // inside parentheses or after the first comma
	traits   trait
	stem     string // without its plural, once it was looked for; "-" where no name has it
}

func (t token) isWord() bool { return t.traits&isWord != 0 }

func (t token) isNumber() bool { return t.traits&isNumber != 0 }

func (t token) small() bool { return t.traits&isSmall != 0 }

func (t token) leads() bool { return t.traits&isLead != 0 }

func (t token) corrects() bool { return t.traits&corrects != 0 }

// fractions are the typographic ones.
var fractions = map[rune]float64{'½': 1. / 2, '⅓': 1. / 3, '⅔': 2. / 3, '¼': 1. / 4, '¾': 3. / 4, '⅕': 1. / 5,
	'⅖': 2. / 5, '⅗': 3. / 5, '⅘': 4. / 5,
	'⅙': 1. / 6, '⅚': 5. / 6, '⅛': 1. / 8, '⅜': 3. / 8, '⅝': 5. / 8, '⅞': 7. / 8}

// plainLetters takes the accents off letters that recipes meet.
var plainLetters = map[rune]string{'à': "a", 'á': "a", 'â': "a", 'ä': "a", 'ã': "a", 'å': "a", 'ç': "c", 'è': "e",
	'é': "e", 'ê': "e", 'ë': "e",
	'ì': "i", 'í': "i", 'î': "i", 'ï': "i", 'ñ': "n", 'ò': "o", 'ó': "o", 'ô': "o", 'ö': "o", 'ø': "o", 'ù': "u",
	'ú': "u", 'û': "u", 'ü': "u", 'œ': "oe", 'æ': "ae"}

func plain(s string) string {
	if isLowerASCII(s) {
		return s
	}
	var b strings.Builder
	for _, r := range strings.ToLower(s) {
		if p, ok := plainLetters[r]; ok {
			b.WriteString(p)
			continue
		}
		b.WriteRune(r)
	}
	return b.String()
}

func isLowerASCII(s string) bool {
	for i := range len(s) {
		if s[i] >= utf8.RuneSelf || s[i] >= 'A' && s[i] <= 'Z' {
			return false
		}
	}
	return true
}

// tokenise splits a line. A number ends where letters begin (400g), a typographic fraction stands alone (1½), tags and
// named characters of a web page are one token each. Apostrophes belong to words.
func tokenise(line string) []token {
	t := splitter{line: line, runes: []rune(line)}
	t.ascii = len(t.runes) == len(line)
	t.out = make([]token, 0, len(t.runes)/4+4)
	for i := 0; i < len(t.runes); {
		i = t.next(i)
	}
	return t.out
}

// splitter splits a line into tokens.
type splitter struct {
	line  string
	runes []rune
	ascii bool
	out   []token
}

func (t *splitter) cut(from, to int) string {
	if t.ascii {
		return t.line[from:to]
	}
	return string(t.runes[from:to])
}

func (t *splitter) add(from, to int, low string, role Role) {
	t.out = append(t.out, token{text: t.cut(from, to), low: low, from: from, to: to, role: role,
		traits: traitsOf(low)})
}

// layout adds what is no word. Behind a word it belongs to that word, so that it parts no amount.
func (t *splitter) layout(from, to int) {
	if n := len(t.out); n > 0 && t.out[n-1].to == from {
		t.out[n-1].to = to
		return
	}
	t.add(from, to, "", Layout)
}

// next reads what stands at i, and returns where it ends.
func (t *splitter) next(i int) int {
	end := i + 1
	switch r := t.runes[i]; {
	case unicode.IsSpace(r) || unicode.IsControl(r) || isFormat(r):
	case r == '<' && tagEnd(t.runes, i) > 0:
		end = tagEnd(t.runes, i)
		t.layout(i, end)
	case r == '&' && entityEnd(t.runes, i) > 0:
		end = entityEnd(t.runes, i)
		if meant := html.UnescapeString(string(t.runes[i:end])); strings.TrimSpace(meant) == "" {
			t.layout(i, end)
		} else {
			t.add(i, end, plain(meant), Unread)
		}
	case fractions[r] != 0:
		t.add(i, end, string(r), Unread)
	case r >= '0' && r <= '9':
		end = numberEnd(t.runes, i)
		t.add(i, end, strings.ReplaceAll(t.cut(i, end), ",", "."), Unread)
	case unicode.IsLetter(r):
		end = wordEnd(t.runes, i)
		t.add(i, end, plain(strings.ReplaceAll(t.cut(i, end), "’", "'")), Unread)
	default:
		t.add(i, end, t.cut(i, end), Unread)
	}
	return end
}

// wordEnd is where the word that begins at i ends; an apostrophe within belongs to it.
func wordEnd(runes []rune, i int) int {
	end := i + 1
	for end < len(runes) && (unicode.IsLetter(runes[end]) || unicode.IsMark(runes[end]) ||
		isApostrophe(runes[end]) && end+1 < len(runes) && unicode.IsLetter(runes[end+1])) {
		end++
	}
	return end
}

func isApostrophe(r rune) bool { return r == '\'' || r == '’' }

// isFormat reports the marks of direction and joining that right-to-left text and web pages carry.
func isFormat(r rune) bool { return unicode.Is(unicode.Cf, r) }

func tagEnd(runes []rune, from int) int {
	if from+1 >= len(runes) || !(unicode.IsLetter(runes[from+1]) || runes[from+1] == '/' || runes[from+1] == '!') {
		return 0
	}
	for i := from + 1; i < len(runes) && i < from+400; i++ {
		if runes[i] == '>' {
			return i + 1
		}
	}
	return 0
}

func entityEnd(runes []rune, from int) int {
	for i := from + 1; i < len(runes) && i < from+12; i++ {
		if runes[i] == ';' {
			if i > from+1 {
				return i + 1
			}
			return 0
		}
		if r := runes[i]; !(r == '#' || r >= '0' && r <= '9' || r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z') {
			return 0
		}
	}
	return 0
}

// numberEnd takes digits with at most one decimal point or comma that is followed by a digit.
func numberEnd(runes []rune, from int) int {
	i, point := from, false
	for i < len(runes) {
		r := runes[i]
		if r >= '0' && r <= '9' {
			i++
			continue
		}
		if (r == '.' || r == ',') && !point && i+1 < len(runes) && runes[i+1] >= '0' && runes[i+1] <= '9' {
			point = true
			i++
			continue
		}
		break
	}
	return i
}

// stem takes the plural off an English word, so that tomatoes and tomato are one.
func stem(w string) string {
	if s, ok := irregular[w]; ok {
		return s
	}
	n := len(w)
	switch {
	case n < 4 || strings.HasSuffix(w, "ss") || strings.HasSuffix(w, "us") || strings.HasSuffix(w, "is"):
		return w
	case strings.HasSuffix(w, "'s"):
		return w[:n-2]
	case strings.HasSuffix(w, "ies") && n > 4:
		return w[:n-3] + "y"
	case strings.HasSuffix(w, "oes"), strings.HasSuffix(w, "ches"), strings.HasSuffix(w, "shes"),
		strings.HasSuffix(w, "xes"), strings.HasSuffix(w, "sses"):
		return w[:n-2]
	case strings.HasSuffix(w, "s"):
		return w[:n-1]
	}
	return w
}

var irregular = map[string]string{"leaves": "leaf", "halves": "half", "chilies": "chilli", "chillies": "chilli",
	"chiles": "chilli", "chile": "chilli", "chili": "chilli",
	"molasses": "molasses", "yoghurt": "yogurt", "yoghurts": "yogurt", "yolks": "yolk", "cloves": "clove",
	"olives": "olive", "chives": "chive", "radishes": "radish",
	"mayo": "mayonnaise", "evoo": "evoo", "cress": "cress", "anchovies": "anchovy", "hummus": "hummus",
	"swiss": "swiss", "dry": "dried", "potatoes": "potato", "cookies": "cooky"}
