package reader

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// shortForms are written with a full stop that ends no sentence.
var shortForms = words("shortForms")

// sentence is a stretch of a row with its tokens.
type sentence struct {
	words string
	toks  cursor
}

// sentences splits a row where a sentence ends, as it is spoken or dictated into one long row. A sentence that only
// puts right what the one before said, or gives its amount, stays with it: Two lemons. No, three.
func (p *page) sentences(words string) []sentence {
	c := cursor(tokenise(words))
	p.book.Index.know(c)
	if !strings.ContainsAny(words, ".!?:") {
		return []sentence{{words, c}}
	}
	begun := skipMarks(c)
	runes := []rune(words)
	var out []sentence
	from, first := 0, 0 // the rune and the token where the sentence begins
	cut := func(to, next int) {
		toks := c[first:next:next]
		for i := range toks {
			toks[i].from, toks[i].to = toks[i].from-from, toks[i].to-from
		}
		out = append(out, sentence{string(runes[from:to]), toks})
		from, first = to, next
	}
	if head := p.heads(c, begun); head > 0 {
		begun = head + 1
		cut(c[head].to, head+1)
	}
	for i := begun; i+1 < len(c); i++ {
		ends := c.endsSentence(i) ||
			c.is(i, ".") && startsUpper(c[i+1]) && c[max(first, begun):i].namesOne(p.book.Index)
		if ends && i > max(first, begun) && !p.belongs(c[max(first, begun):i+1], c[i+1:]) {
			cut(c[i].to, i+1)
		}
	}
	cut(len(runes), len(c))
	return out
}

// heads is the colon behind a name or a heading that the amounts stand right behind: honey miso glaze: 3 tbsp miso; 0
// where there is none.
func (p *page) heads(c cursor, from int) int {
	at := from
	for at < len(c) && at < from+10 && !c.is(at, ":") {
		if _, _, number := c.number(at); number {
			return 0
		}
		at++
	}
	if !c.is(at, ":") || at-from < 2 || at+1 >= len(c) || c[at+1].from == c[at].to || says(c[from:at], "each") ||
		says(c[from:at], "optional") {
		return 0
	}
	_, ok := c.amountAt(at+1, true)
	if _, idle := c.countsNoFood(at + 1); !ok || idle || aboutTheRecipe("", c[from:]) ||
		c.is(from, "makes", "yields", "serves") {
		return 0
	}
	if id, taken := p.book.Index.find(c[from:at], false); id != "" && len(taken) == at-from {
		return 0 // olive oil: 2 tbsp
	}
	return at
}

// endsSentence reports whether the sign at i ends a sentence that another one follows.
func (c cursor) endsSentence(i int) bool {
	if !c.is(i, ".", "!", "?") || c[i+1].from == c[i].to {
		return false
	}
	before := c[i-1]
	return c.is(i, "!", "?") || !before.isWord() || !shortForms[before.low] && len(before.low) > 1
}

// startsUpper reports whether a word begins with a capital letter.
func startsUpper(t token) bool {
	r, _ := utf8.DecodeRuneInString(t.text)
	return unicode.IsUpper(r)
}

// belongs reports whether the sentence at the start of rest goes on with the amount or the slip of the one before.
func (p *page) belongs(before, rest cursor) bool {
	end := slices.IndexFunc(rest, func(t token) bool { return t.low == "." || t.low == "!" || t.low == "?" })
	if end < 0 {
		end = len(rest)
	}
	next := rest[:end]
	back, amounts := next.takesBack(), false
	if id, _ := p.book.Index.find(next, false); id == "" && back && end+1 < len(rest) {
		if after := rest[end+1:]; after.amountOnly(0) { // no, hang on, that's for the jam. A hundred and twenty.
			return true
		}
	}
	for i := range next {
		if _, ok := next.amountAt(i, i == 0); ok {
			amounts = true
			break
		}
	}
	if !amounts || next.denies(0) > 0 {
		return false
	}
	named, _ := p.book.Index.find(before, false)
	id, _ := p.book.Index.find(next, false)
	if named == "" || id != "" && id != named {
		return false
	}
	if back || before.lastSentence().takesBack() {
		return true
	}
	goesOn := !before.amounts(0, len(before)) || next.is(0, "maybe", "about", "or", "that's", "say")
	return id == "" && goesOn && !next.content(0, len(next))
}

// lastSentence is what stands behind the last full stop but one.
func (c cursor) lastSentence() cursor {
	for i := len(c) - 2; i >= 0; i-- {
		if c.is(i, ".") {
			return c[i+1:]
		}
	}
	return c
}

// takesBack reports whether a sentence begins by putting right what was said: Sorry, three; no, make that two.
func (c cursor) takesBack() bool {
	for i := 0; i < len(c) && i < 4; i++ {
		switch {
		case c.is(i, "sorry", "actually", "wait", "oops", "scratch", "rather", "hang"), c.run(i, "i", "mean"),
			c.run(i, "make", "that"), c.run(i, "that", "was"), c.is(i, "no") && (c.is(i+1, ",", "wait", "about",
				"maybe", "make") || c.amounts(i+1, len(c))):
			return true
		case !c.is(i, "oh", "well", "no", ",", "um", "uh", "ah"):
			return false
		}
	}
	return false
}

// talkWords are in sentences that talk beside the matter, and addWords in those that say what goes in.
var (
	talkWords = words("talkWords")
	addWords  = words("addWords")
)
