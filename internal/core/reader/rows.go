package reader

import (
	"slices"
	"strings"

	"gallipot/internal/core/amount"
)

// headings that change what the lines below are.
var (
	methodHeads  = words("methodHeads")
	ingredHeads  = words("ingredHeads")
	servingHeads = words("servingHeads")
	cookingVerbs = words("cookingVerbs")
)

func says(c cursor, w string) bool {
	return slices.ContainsFunc(c, func(t token) bool { return t.low == w })
}

// longestTitle is how many words a name may have; up to shortTitle words may as well be a handful of dill.
const (
	longestTitle = 26
	shortTitle   = 10
)

// aboutTheRecipe reports rows that say something of the recipe and nothing of what is in it: times, addresses.
func aboutTheRecipe(words string, c cursor) bool {
	plain := strings.ToLower(strings.TrimSpace(words))
	if strings.HasPrefix(plain, "http://") || strings.HasPrefix(plain, "https://") || strings.HasPrefix(plain, "www.") {
		return true
	}
	return c.is(0, "prep", "cook", "cooking", "total", "preparation", "resting", "ready") &&
		(c.is(1, "time", "in", ":")) || c.is(0, "difficulty", "author", "by", "source", "course", "cuisine", "rating",
		"keywords", "calories")
}

// title takes the first row for the name of the recipe where it names no amount and something else stands under it
// that does, or an empty row. What it makes may stand behind the name.
func (p *page) title(rows []string, at int) []Line {
	if len(p.seen) > 0 || len(rows) < at+2 {
		return nil
	}
	words, tail := rows[at], ""
	if cut := makesFrom(words); cut > 0 {
		words, tail = string([]rune(words)[:cut]), string([]rune(words)[cut:])
	}
	toks := cursor(tokenise(words))
	for n := len(toks); n > 1 && !toks[n-1].isWord() && toks[n-1].low != ")"; n = len(toks) {
		toks = toks[:n-1] // Pea dip: or Pea dip -
	}
	if len(toks) == 1 && (ingredHeads[toks[0].low] || methodHeads[toks[0].low]) {
		return nil
	}
	if len(toks) == 0 || len(toks) > longestTitle || says(toks, ":") || skipMarks(slices.Clone(toks)) > 0 ||
		strings.HasSuffix(strings.TrimSpace(words), ":") && !p.named(toks) {
		return nil
	}
	for i := range toks {
		_, amount := toks.amountAt(i, false)
		_, _, number := toks.number(i)
		if number || amount && len(toks) <= shortTitle {
			return nil
		}
	}
	below := cursor(tokenise(rows[at+1]))
	if len(below) > 0 {
		aside := page{book: p.book}
		_, yields := aside.yield(rows[at+1], below)
		_, heads := aside.heading(rows[at+1], below)
		if !yields && !heads && !aboutTheRecipe(rows[at+1], below) && !p.overAList(words, toks, below) {
			return nil
		}
	} else if len(rows) < at+3 {
		return nil
	}
	name := strings.TrimSpace(string([]rune(words)[:toks[len(toks)-1].to]))
	out := []Line{p.keyed(Line{Kind: Title, Words: words, Name: name})}
	if tail != "" {
		body := cursor(tokenise(tail))
		l, ok := p.yield(tail, body[skipMarks(body):])
		if !ok {
			l = Line{Kind: Remark, Words: tail}
		}
		out = append(out, p.keyed(l))
	}
	return out
}

// makesFrom is where a row goes on from a name to what the recipe makes, as a rune offset: Pea dip - makes two cups; 0
// where it does not.
func makesFrom(words string) int {
	c := cursor(tokenise(words))
	for i := 1; i+1 < len(c); i++ {
		if c.is(i, "makes", "yields", "serves") && c.is(i-1, "-", "–", "—", ",", "(", ":", "|") {
			return c[i-1].from
		}
	}
	return 0
}

// dishWords are what a name ends with.
var dishWords = words("dishWords")

// named reports whether a row reads like the name of something made: honey and walnut spread, and not dressing alone.
func (p *page) named(c cursor) bool {
	return len(c) > 1 && !c.is(0, "for", "the") && dishWords[c[len(c)-1].low]
}

// overAList reports whether a row is a name right over the first line of a list: it has a word that is no ingredient,
// and an amount stands below.
func (p *page) overAList(words string, row, below cursor) bool {
	if len(row) > shortTitle || strings.HasSuffix(strings.TrimSpace(words), ".") || cookingVerbs[row[0].low] ||
		slices.ContainsFunc(row, func(t token) bool { return strings.HasPrefix(t.low, "doubl") }) {
		return false
	}
	first := skipMarks(slices.Clone(below))
	if _, amount := below.amountAt(first, true); !amount && below.clock(0) == 0 {
		return false
	}
	s := newSegment(words)
	s.deny()
	if s.denied {
		return false
	}
	for {
		id, taken := p.book.Index.find(s.cursor, false)
		if id == "" {
			break
		}
		for _, i := range taken {
			s.cursor[i].role = Ingredient
		}
	}
	named := false
	for _, t := range s.cursor {
		if !t.isWord() {
			continue
		}
		if !isLowerASCII(t.low) { // of another tongue: it may as well be an amount
			return false
		}
		named = named || t.role == Unread && !t.small() && prepWords[t.low] == nil && !cutWords[t.low]
	}
	return named
}

// heading reads "For the base:", "METHOD", "To serve".
func (p *page) heading(words string, body cursor) (Line, bool) {
	last := body[len(body)-1]
	colon := last.low == ":"
	text := body
	if colon {
		text = body[:len(body)-1]
	}
	if len(text) == 0 || len(text) > 8 {
		return Line{}, false
	}
	_, _, number := text.number(0)
	single := len(text) == 1
	known := methodHeads[text[0].low] && (single || colon) || ingredHeads[text[0].low] && len(text) <= 3 ||
		text.is(0, "for") && text.is(1, "the") && !number && (colon || len(text) <= 4) ||
		text.is(0, "to", "for") && len(text) <= 4 && servingHeads[text[len(text)-1].low] || single &&
		servingHeads[text[0].low] && colon || single && text.is(0, "garnish", "topping", "notes", "equipment")
	if !known && !(colon && !number) {
		return Line{}, false
	}
	heading := strings.TrimSpace(string([]rune(words)[text[0].from:text[len(text)-1].to]))
	p.method = methodHeads[text[0].low] || text.is(0, "notes")
	p.serving = slices.ContainsFunc(text, func(t token) bool { return servingHeads[t.low] })
	p.section = heading
	if ingredHeads[text[0].low] {
		p.section = ""
	}
	return Line{Kind: Section, Words: words, Section: heading}, true
}

// yieldAt is the position after the words, at the start of a sentence, that say what a recipe makes: it makes, that
// gives you, enough for. It is 0 if there are none. What follows is not an ingredient.
func (p *page) yieldAt(body cursor) int {
	i := btoi(body.is(0, "("))
	subject := body.is(i, "it", "this", "that", "which", "you", "i", "we")
	i += btoi(subject)
	i += btoi(subject && body.is(i, "should", "will", "can", "usually"))
	switch {
	case body.is(i, "makes", "yields", "yield", "serves", "servings", "makes:", "fills"),
		subject && body.is(i, "make", "fill"), body.is(i, "gives"):
		return i + 1 + btoi(body.is(i+1, "you", "me", "us", ":"))
	case body.run(i, "enough", "for"), subject && body.is(i, "get"):
		if !body.namesOne(p.book.Index) {
			return i + 1 + btoi(body.is(i+1, "for"))
		}
	}
	return 0
}

// yield reads "Makes about two cups", "Serves 4".
func (p *page) yield(words string, body cursor) (Line, bool) {
	i := p.yieldAt(body)
	if i == 0 {
		return Line{}, false
	}
	p.claim(words)
	said := newSegment(string([]rune(words)[body[min(i, len(body)-1)].from:]))
	said.scan()
	if said.amount == nil {
		return Line{}, false
	}
	f := *said.amount
	l := Line{Kind: Makes, Words: words, Amount: &f}
	if g, mass := amount.MassUnit(f.Unit); mass {
		said := f.Middle() * g
		p.saidGrams, l.Grams = &said, &said
	} else if v, volume := p.book.Spoons.Volume(f.Unit); volume {
		said := f.Middle() * v.ML
		p.saidML = &said
	}
	return l, true
}

// isStep tells a sentence of the method from an ingredient.
func isStep(c cursor) bool {
	verb := btoi(c.is(0, "then", "now", "meanwhile", "gently", "carefully", "finally", "next"))
	verb += btoi(verb > 0 && c.is(1, ","))
	if len(c) < 3+verb || !cookingVerbs[c[verb].low] {
		return false
	}
	_, _, number := c.number(verb + 1)
	return !number || len(c) > 6
}
