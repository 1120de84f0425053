package reader

import (
	"strconv"
	"strings"
)

// wordNumbers are the spoken ones (handbook 02: words up to twenty).
var wordNumbers = map[string]float64{"zero": 0, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6,
	"seven": 7, "eight": 8, "nine": 9, "ten": 10, "eleven": 11,
	"twelve": 12, "thirteen": 13, "fourteen": 14, "fifteen": 15, "sixteen": 16, "seventeen": 17, "eighteen": 18,
	"nineteen": 19, "twenty": 20, "thirty": 30, "forty": 40, "fifty": 50, "sixty": 60, "seventy": 70, "eighty": 80,
	"ninety": 90}

// wordFractions are the parts of one, in the singular.
var wordFractions = map[string]float64{"half": 1. / 2, "third": 1. / 3, "quarter": 1. / 4, "fourth": 1. / 4,
	"fifth": 1. / 5, "sixth": 1. / 6, "eighth": 1. / 8, "tenth": 1. / 10, "sixteenth": 1. / 16}

// fraction reads a word for a part of one at i, in the singular or the plural.
func (c cursor) fraction(i int) (float64, bool) {
	if !c.free(i) {
		return 0, false
	}
	w := c[i].low
	if w == "halves" {
		w = "half"
	}
	f, ok := wordFractions[strings.TrimSuffix(w, "s")]
	return f, ok
}

// skipOf passes "of", "of a" and "a" behind a fraction: a third of a cup, half a cup.
func (c cursor) skipOf(i int) int {
	i += btoi(c.is(i, "of"))
	return i + btoi(c.is(i, "a", "an"))
}

// cursor walks over the tokens of a segment.
type cursor []token

func (c cursor) is(i int, words ...string) bool {
	if i < 0 || i >= len(c) || c[i].role != Unread {
		return false
	}
	for _, w := range words {
		if c[i].low == w {
			return true
		}
	}
	return false
}

func (c cursor) run(i int, words ...string) bool {
	for k, w := range words {
		if !c.is(i+k, w) {
			return false
		}
	}
	return true
}

func (c cursor) free(i int) bool { return i >= 0 && i < len(c) && c[i].role == Unread }

// behindOne are words behind a "one" that counts nothing: the carrot one that we do.
var behindOne = words("behindOne")

// number reads one number at i: 2, 1.5, 1/2, 1 1/2, 1½, ½, a couple of, half a, one and a half, a dozen. It returns
// the value and the index behind it; ok is false where there is none. An article alone is no number here.
func (c cursor) number(i int) (value float64, next int, ok bool) {
	if i < 0 || i >= len(c) || c[i].traits&opensAmount == 0 || c[i].role != Unread {
		return 0, i, false
	}
	if c[i].isNumber() {
		return c.figures(i)
	}
	switch {
	case c.run(i, "a", "couple", "of"):
		return 2, i + 3, true
	case c.run(i, "a", "couple"), c.run(i, "couple", "of"):
		return 2, i + 2, true
	case c.run(i, "a", "few"):
		return 3, i + 2, true
	case c.run(i, "half", "a", "dozen"), c.run(i, "half", "dozen"):
		return 6, i + 2 + btoi(c.is(i+1, "a")), true
	case c.run(i, "a", "dozen"):
		return 12, i + 2, true
	case c.is(i, "dozen"):
		return 12, i + 1, true
	}
	if f, next, ok := c.spokenFraction(i); ok {
		return f, next, true
	}
	if !c.free(i) || c.is(i, "one") && i > 0 && i+1 < len(c) && c.free(i+1) && behindOne[c[i+1].low] {
		return 0, i, false // the carrot one that we do
	}
	if c.is(i, "a", "an") && c.is(i+1, "hundred", "thousand") {
		i++
	}
	if _, ok := wordNumbers[c[i].low]; ok || c.is(i, "hundred", "thousand") {
		whole, next := c.spelled(i)
		return c.afterWhole(whole, next)
	}
	return 0, i, false
}

// figures reads a number written in figures: 2, 1.5, 1/2, 1 1/2, 1½, ½.
func (c cursor) figures(i int) (value float64, next int, ok bool) {
	if f := fractionOf(c[i].low); f != 0 {
		return f, i + 1, true
	}
	whole, err := strconv.ParseFloat(c[i].low, 64)
	if err != nil {
		return 0, i, false
	}
	if v, n, ok := c.slash(whole, i+1); ok {
		return v, n, true
	}
	return c.afterWhole(whole, i+1)
}

// spokenFraction reads half a, a half a, an eighth of a, third of: a fraction without a figure in front.
func (c cursor) spokenFraction(i int) (float64, int, bool) {
	at := i + btoi(c.is(i, "a", "an"))
	f, ok := c.fraction(at)
	if !ok || at == i && !c.is(i, "half", "quarter", "third") && !c.is(i+1, "of") {
		return 0, i, false
	}
	return f, c.skipOf(at + 1), true
}

// spelled reads a whole number in words: seven, twenty-five, two hundred and fifty.
func (c cursor) spelled(i int) (whole float64, next int) {
	below := func(i int) (float64, int) {
		if !c.free(i) {
			return 0, i
		}
		v, ok := wordNumbers[c[i].low]
		if !ok {
			return 0, i
		}
		at := i + 1 + btoi(c.is(i+1, "-", "‐", "‑"))
		if v >= 20 && c.free(at) && wordNumbers[c[at].low] > 0 && wordNumbers[c[at].low] < 10 {
			if _, part := c.fraction(at + 1); !part {
				return v + wordNumbers[c[at].low], at + 1
			}
		}
		return v, i + 1
	}
	whole, next = below(i)
	if c.is(next, "thousand") {
		return max(whole, 1) * 1000, next + 1
	}
	if !c.is(next, "hundred") {
		return whole, next
	}
	whole, next = max(whole, 1)*100, next+1
	if rest, end := below(next + btoi(c.is(next, "and"))); rest > 0 && end > next {
		return whole + rest, end
	}
	return whole, next
}

// afterWhole reads what makes a mixed number of a whole one: 1 1/2, 1½, one and a half, two thirds, one-half.
func (c cursor) afterWhole(whole float64, i int) (float64, int, bool) {
	at := i + btoi(c.is(i, "-", "‐", "‑"))
	if f, ok := c.fraction(at); ok && whole > 0 && whole < 10 {
		return whole * f, c.skipOf(at + 1), true
	}
	at = i
	if c.is(at, "and", "&") {
		at++
		if f, next, ok := c.partOfOne(at); ok {
			return whole + f, next, true
		}
	}
	if c.free(at) {
		if f := fractionOf(c[at].low); f != 0 {
			return whole + f, at + 1, true
		}
		if c[at].isNumber() {
			if top, err := strconv.ParseFloat(c[at].low, 64); err == nil {
				if v, n, ok := c.slash(top, at+1); ok && v < 1 {
					return whole + v, n, true
				}
			}
		}
	}
	return whole, i, true
}

// partOfOne reads what is less than one behind an "and": a half, three quarters, one eighth.
func (c cursor) partOfOne(i int) (float64, int, bool) {
	times := 1.0
	at := i
	switch {
	case c.is(at, "a", "an", "one"):
		at++
	case c.free(at) && wordNumbers[c[at].low] > 1:
		times = wordNumbers[c[at].low]
		at++
	}
	at += btoi(at > i && c.is(at, "-", "‐", "‑"))
	f, ok := c.fraction(at)
	if !ok || times*f >= 1 {
		return 0, i, false
	}
	return times * f, at + 1, true
}

// slash reads "/ 2" or "⁄ 2" behind a numerator.
func (c cursor) slash(top float64, i int) (float64, int, bool) {
	if !c.is(i, "/", "⁄") || !c.free(i+1) || !c[i+1].isNumber() {
		return 0, i, false
	}
	if i+1 < len(c) && c[i].from != c[i-1].to || c[i+1].from != c[i].to {
		return 0, i, false // "250 g / 9 oz" is no fraction
	}
	below, err := strconv.ParseFloat(c[i+1].low, 64)
	if err != nil || below <= 0 || below > 100 || top != float64(int(top)) {
		return 0, i, false
	}
	return top / below, i + 2, true
}

func fractionOf(s string) float64 {
	for _, r := range s {
		return fractions[r]
	}
	return 0
}

func btoi(b bool) int {
	if b {
		return 1
	}
	return 0
}
