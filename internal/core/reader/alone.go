package reader

import (
	"slices"
)

// alone finds an ingredient that stands for itself between signs, without an amount: 200 g tahini, salt, pepper; or
// with its amount behind it: and then the lime juice, 50 g.
func (p *page) alone(c cursor, from, i int) (cut int, is bool) {
	if !c.is(i, ",", ";", ".", "and", "then") || isBack(c, i+1) || says(c[from:i], "each") {
		return 0, false
	}
	if begin := c.skipLead(from); !c.amounts(from, i) && c.denies(begin) == begin { // nothing stands before it
		return 0, false
	}
	if c.is(i, ",", ";") && c.alternative(i+1) > i+1 {
		return 0, false
	}
	id, names, end := p.nameAlone(c, c.skipLead(i+1))
	before, had := p.book.Index.find(c[from:i], c[from].aside)
	if id == "" || before == "" {
		return 0, false
	}
	cut = c[i].to
	if c.is(i, "and", "then") {
		cut = c[i].from
	}
	if before != id && c.amountOnly(end+btoi(c.is(end, ",", ":"))) { // 25 g of vinegar. Salt, 8 grams.
		return cut, true
	}
	if !c.is(i, ",", ";") {
		return 0, false
	}
	if c.is(end, "and", "&") {
		if other, _, behind := p.nameAlone(c, end+1); other == "" || behind < len(c) && !c.is(behind, ",", ";", ".") {
			return 0, false
		}
		end = len(c)
	}
	if end < len(c) && !c.is(end, ",", ";", ".") || before == id {
		return 0, false
	}
	stems := []string{}
	for _, k := range had {
		stems = append(stems, stem(c[from+k].low))
	}
	for _, k := range names {
		stems = append(stems, stem(c[k].low))
	}
	_, one := p.book.Index.keys[joinKey(stems)] // mustard, Dijon
	return cut, !one
}

// alternative returns the index behind words that offer something else, such as "or you can use" or "or try"; without
// such words it returns i.
func (c cursor) alternative(i int) int {
	at := i
	or := c.is(at, "or", "but", "though", "although")
	at += btoi(or)
	at += btoi(c.is(at, "sometimes", "else", "maybe"))
	if c.is(at, "you", "i", "we", "one", "people", "they") {
		at++
		at += btoi(c.is(at, "can", "could", "may", "might", "also", "sometimes"))
		at += btoi(c.is(at, "also", "just", "even"))
	} else if !or {
		return i
	}
	if !c.is(at, "use", "try", "take", "swap", "substitute", "do", "go") {
		return i
	}
	at++
	return at + btoi(c.is(at, "in", "with"))
}

// amountBegins reports whether an amount with a unit begins at i, or one that tells itself by another.
func (c cursor) amountBegins(i int) bool {
	f, ok := c.amountAt(i, false)
	return ok && f.Unit != ""
}

// skipLead passes the words that say that something goes in next.
func (c cursor) skipLead(i int) int {
	for c.free(i) && (c[i].leads() || c.is(i, ",", "about")) {
		i++
	}
	return i
}

// amountOnly reports whether an amount stands at i and no name behind it before the next sign.
func (c cursor) amountOnly(i int) bool {
	f, ok := c.amountAt(i, true)
	if !ok || f.Unit == "" && f.to == f.from {
		return false
	}
	end := f.to
	for end < len(c) && !c.is(end, ",", ";", ".", "(", "and", "then") {
		end++
	}
	return !c.content(f.to, end)
}

// nameAlone reads the name of an ingredient from i up to a sign or a joining word, with nothing else beside it.
func (p *page) nameAlone(c cursor, i int) (id string, names []int, end int) {
	end = i
	for end < len(c) && !c.is(end, ",", ";", ".", ":", "(", "and", "or", "&") && (end == i || !c.amountBegins(end)) {
		end++
	}
	if i >= end {
		return "", nil, end
	}
	id, taken := p.book.Index.find(c[i:end], c[i].aside)
	if id == "" {
		return "", nil, end
	}
	for _, k := range taken {
		names = append(names, i+k)
	}
	for k := i; k < end; k++ {
		if !slices.Contains(names, k) && !c[k].small() {
			return "", nil, end
		}
	}
	return id, names, end
}
