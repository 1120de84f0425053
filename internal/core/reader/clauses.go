package reader

import (
	"slices"
)

// leadWords stand before what goes in next: and then I add, start with, now throw in.
var leadWords = words("leadWords")

// within are words before an amount that say it belongs to what was named before: pickled in 2 tbsp, juice of 2.
var within = words("within")

// cuts finds where a row goes on with another ingredient, as rune offsets: behind a sign or an "and", or where nothing
// stands between.
func (p *page) cuts(c cursor, start int) []int {
	var out []int
	depth, partFrom, covered := 0, start, 0
	for i := start; i < len(c); i++ {
		switch {
		case c.is(i, "("):
			depth++
		case c.is(i, ")"):
			depth = max(0, depth-1)
		}
		if depth > 0 || i == partFrom || i < covered {
			continue
		}
		if p.deniesNext(c, i) {
			out = append(out, c[i].to)
			partFrom = i + 1
			continue
		}
		if at, ok := c.saysElse(partFrom, i); ok {
			out = append(out, at)
			partFrom = i + btoi(c.is(i, "."))
			continue
		}
		if cut, ok := p.alone(c, partFrom, i); ok {
			out = append(out, cut)
			partFrom = i + 1
			continue
		}
		f, next, ok := p.goesOn(c, partFrom, i)
		if !ok {
			if within, ok := c.amountAt(i, false); ok {
				covered = within.to // a cup | and a half is one amount
			}
			continue
		}
		cut := c[i].from
		if c.is(i, ",", ";", ".", "to") {
			cut = c[i].to
		}
		out = append(out, cut)
		partFrom = next
		i = f.to - 1
	}
	return out
}

// deniesNext reports whether a row goes on with what is not in it: two limes, no salt because of the soy.
func (p *page) deniesNext(c cursor, i int) bool {
	if !c.is(i, ",") && !c.is(i+1, "no", "without", "skip") {
		return false
	}
	at := c.denies(i + 1)
	if at == i+1 || c.is(i+1, "instead", "not", "never", "skip") && !c.is(i+1, "skip") {
		return false
	}
	id, taken := p.book.Index.find(c[at:min(len(c), at+4)], c[i+1].aside)
	return id != "" && taken[0] <= 1 && !c.is(at, "added") && !c.is(at+taken[len(taken)-1]+1, "added")
}

// saysElse finds where a row goes over to how long it keeps, or to a sentence that is no ingredient, as a rune offset.
func (c cursor) saysElse(from, i int) (at int, is bool) {
	if c.is(i, ".", ";") {
		rest := c[i+1:]
		_, kept, claims := c.keeps(from)
		end := slices.IndexFunc(rest, func(t token) bool { return t.low == "." })
		if end < 0 {
			end = len(rest)
		}
		if len(rest) > 0 && (claims && kept <= i || isStep(rest[:end]) && !rest[:end].hasUnit() || rest.denies(0) > 0) {
			return c[i].to, true
		}
		return 0, false
	}
	if _, _, claims := c.keeps(i); !claims {
		return 0, false
	}
	for i > from+1 && c.is(i-1, "it", "this", "that", "which", "and", "they", "will", "should") {
		i--
	}
	return c[i].from, i > from
}

// hasUnit reports whether a stretch names an amount with a unit.
func (c cursor) hasUnit() bool {
	for i := range c {
		if f, ok := c.amountAt(i, false); ok && f.Unit != "" {
			return true
		}
	}
	return false
}

// goesOn reports whether another ingredient begins at i, behind a part that begins at from; next is where its amount
// is.
func (p *page) goesOn(c cursor, from, i int) (f found, next int, ok bool) {
	parted := c.is(i, ",", ";", ".", "and", "then", "plus", "&", "+", "to")
	next = i
	if c.is(i, "as") && c.asMuch(from, i) { // twice as much oil | as vinegar
		return found{from: i, to: i + 1}, i + 1, true
	}
	if parted {
		for next++; next < len(c) && c.free(next) && (c[next].leads() || c.is(next, ",", "about")); next++ {
			if _, _, ok := c.reference(next); ok {
				break
			}
		}
	} else if !c[i-1].isWord() || within[c[i-1].low] || c[i-1].leads() || c.is(i-1, "a", "an") {
		return f, next, false
	}
	if end := c.fruitAt(next); end > next {
		f, ok = found{from: next, to: end}, true
	} else if f, ok = c.amountAt(next, false); !ok && parted {
		f, ok = c.amountAt(next, true)
		ok = ok && (f.Unit != "" || c.is(next, "a", "an", "half"))
	}
	if !ok || isBack(c, next) || c.is(i, "to") && f.Unit != "part" || c.again(from, i, next) {
		return f, next, false
	}
	f = c.putRight(f)
	end := f.to
	for end < len(c) && !c.is(end, ",", ";", ".", "(", "and", "&", "then") {
		end++
	}
	if !parted {
		end = min(end, f.to+5)
	}
	id, taken := p.book.Index.find(c[f.to:end], c[i].aside)
	switch {
	case id == "" && (!parted || f.Unit == "" || c.startsUnit(next) || !c.content(f.to, end)):
		return f, next, false
	case !parted && (len(taken) == 0 || taken[0] > 3 || !c.amounts(from, i)):
		return f, next, false
	}
	id, _ = p.book.Index.find(c[from:i], c[from].aside)
	return f, next, id != "" || parted && c.amounts(from, i) && c.content(from, i)
}

// putRight is the amount that stands at last where the one that was found is taken back at once: one, no, two spoons.
func (c cursor) putRight(f found) found {
	for {
		k := f.to
		for k < len(c) && c.free(k) && (c[k].corrects() || c.is(k, ",", "make", "i", "mean", "well", "oh") ||
			betweenCorrection[c[k].low] && !c.is(k, "a", "an")) {
			k++
		}
		if back, _ := c.corrected(k); k == f.to || !back {
			return f
		}
		right, ok := c.amountAt(k, true)
		if !ok {
			return f
		}
		if right.Unit == "" {
			right.Unit = f.Unit
		}
		right.from, f = f.from, right
	}
}

// again reports whether the amount after i repeats the one before: five, five large; so that's about two limes.
func (c cursor) again(from, i, next int) bool {
	if c.is(i, "and") && c.is(i-1, "hundred") {
		return true
	}
	for k := i; k < next; k++ {
		if c[k].low == "that's" || c.run(k, "that", "is") || c.run(k, "which", "is") {
			return true
		}
	}
	for k := max(from, i-4); c.is(i, ",") && k < i; k++ {
		if f, ok := c.amountAt(k, true); ok && f.to == i && f.Unit == "" {
			return true
		}
	}
	return false
}

// fruitAt is behind "the juice of" at i; i where it does not stand there.
func (c cursor) fruitAt(i int) int {
	at := i + btoi(c.is(i, "the"))
	if c.is(at, "juice", "zest") && c.is(at+1, "of", "from") {
		return at + 2
	}
	return i
}

// asMuch reports whether a stretch says how many times as much of something goes in.
func (c cursor) asMuch(from, to int) bool {
	for i := from; i < to; i++ {
		if a, next, ok := c.reference(i); ok && a.Unit == "part" && next < to {
			return true
		}
	}
	return false
}

// content reports whether a word stands in a stretch that may be the name of something.
func (c cursor) content(from, to int) bool {
	for i := from; i < to && i < len(c); i++ {
		w := c[i].low
		if c[i].isWord() && !smallWords[w] && !leadWords[w] && prepWords[w] == nil && !cutWords[w] &&
			unitWords[w] == "" && wordNumbers[w] == 0 && sizeWords[w] == "" && w != "total" && w != "half" &&
			!correctionWords[w] {
			return true
		}
	}
	return false
}

// amounts reports whether an amount stands in a stretch.
func (c cursor) amounts(from, to int) bool {
	for i := from; i < to; i++ {
		if f, ok := c[:to].amountAt(i, i == from); ok && f.to <= to {
			return true
		}
	}
	return false
}

// isBack reports whether the amount at i puts right the one before: a lime, no, two limes.
func isBack(c cursor, i int) bool {
	back, _ := c.corrected(i)
	return back
}
