package reader

// noFood are what is counted in a kitchen and goes into no bowl: twenty minutes, two things.
var noFood = words("noFood")

// countsNoFood reports whether the number at i counts what goes into no bowl; next is behind it.
func (c cursor) countsNoFood(i int) (next int, is bool) {
	i = c.skipAbout(i)
	_, next, ok := c.number(i)
	if !ok && c.is(i, "a", "an") {
		next, ok = i+1, true
	}
	for ok && c.is(next, "to", "or", "-", "–") {
		_, end, more := c.number(next + 1)
		if !more {
			break
		}
		next = end
	}
	next += btoi(ok && c.is(next, "more", "good", "whole", "of", "°"))
	if !ok || next >= len(c) || !noFood[c[next].low] {
		return i, false
	}
	return next + 1, true
}

// shortestTalk is from how many words on a sentence may be talk.
const shortestTalk = 4

// talk reads a sentence that names no amount and says of nothing that it goes in. What of the pantry it names is asked
// about once where no line has it (handbook 02).
func (p *page) talk(words string, c cursor) (Line, bool) {
	n, talks, says := 0, false, false
	for i := 0; i < len(c); i++ {
		if next, ok := c.countsNoFood(i); ok {
			n, i, talks = n+2, next-1, true
			continue
		}
		t := c[i]
		// I cook them myself, so that's a cup dry
		if c.run(i, "so", "that's") || c.run(i, "which", "is") || c.run(i, "that's", "about") {
			if id, _ := p.book.Index.find(c, false); id == "" && i > 0 {
				n, talks = n+len(c)-i, true
				break
			}
		}
		if t.isNumber() || addWords[t.low] {
			return Line{}, false
		}
		if f, ok := c.amountAt(i, false); ok {
			if ends := f.to >= len(c) || !c[f.to].isWord(); ends && c.is(i-1, "with", "in", "on", "by", "from") {
				i = f.to - 1 // they eat it with a spoon
				continue
			}
			return Line{}, false
		}
		if t.isWord() {
			n++
			talks = talks || talkWords[t.low]
			says = says || !talkWords[t.low] && !t.small() && !t.leads() && !beforeName[t.low]
		}
	}
	talks = talks || c.is(0, "don't", "do", "never", "watch", "careful", "remember", "always") &&
		!c.namesOne(p.book.Index)
	talks = talks || len(c) > 0 && keepWords[c[0].low] && !c.namesOne(p.book.Index) && n > 1
	if n == 0 || says && !keepWords[c[0].low] && (n < shortestTalk || !talks) {
		return Line{}, false
	}
	l := Line{Kind: Remark, Words: words, Marks: []Mark{{0, len([]rune(words)), Note}}, tokens: c}
	return l, !newSegment(words).saysWithout() || !c.namesOne(p.book.Index)
}

// namesOne reports whether a stretch names something of the pantry.
func (c cursor) namesOne(x *Index) bool {
	id, _ := x.find(c, false)
	return id != ""
}

// saysWithout reports whether a sentence says that something is left out.
func (s *segment) saysWithout() bool {
	s.deny()
	return s.denied
}
