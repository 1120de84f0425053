package reader

import (
	"strings"
)

// skipMarks passes bullets, boxes, list numbers and tags at the start of a row.
func skipMarks(c cursor) int {
	i := 0
	for i < len(c) {
		switch {
		case c[i].role == Layout:
			c[i].role = Layout
		case c.speaker(i) > i:
			for end := c.speaker(i); i < end-1; i++ {
				c[i].role = Layout
			}
			c[i].role = Layout
		case c.clock(i) > i:
			for end := c.clock(i); i < end-1; i++ {
				c[i].role = Layout
			}
			c[i].role = Layout
		case !c[i].isWord() && !c[i].isNumber() && !c.is(i, "(", "~", "½", "\"", "“"):
			c[i].role = Layout
		case c[i].isNumber() && i+2 < len(c) && c.is(i+1, ".", ")") && c[i+1].from == c[i].to &&
			c[i+2].from > c[i+1].to && !strings.Contains(c[i].low, "."):
			c[i].role, c[i+1].role = Layout, Layout
			i++
		default:
			return i
		}
		i++
	}
	return i
}

// speaker is behind a label of who speaks, at i: Speaker 1:, Cook:, A:; i where there is none.
func (c cursor) speaker(i int) int {
	if !c.is(i, "speaker", "voice", "interviewer", "cook", "maker", "q", "a", "b", "me", "host", "guest") {
		return i
	}
	at := i + 1
	at += btoi(at < len(c) && (c[at].isNumber() || c.is(at, "one", "two")) && c.is(at+1, ":"))
	if !c.is(at, ":") || at+1 >= len(c) {
		return i
	}
	return at + 1
}

// clock is behind a time stamp at i: [02:15], 10:01, (1:02:03); i where there is none.
func (c cursor) clock(i int) int {
	at := i + btoi(c.is(i, "[", "("))
	parts := 0
	for at < len(c) && c[at].isNumber() && len(c[at].low) <= 2 {
		parts, at = parts+1, at+1
		if !c.is(at, ":") {
			break
		}
		at++
	}
	if parts < 2 || c.is(at-1, ":") {
		return i
	}
	if c.is(i, "[", "(") {
		if !c.is(at, "]", ")") {
			return i
		}
		at++
	}
	return at
}
