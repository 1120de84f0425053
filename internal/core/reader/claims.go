package reader

import (
	"slices"
	"strings"
)

// keepWords begin what a maker says of how long it keeps.
var keepWords = words("keepWords")

// timeDays are the days of a word for a time.
var timeDays = map[string]float64{"day": 1, "week": 7, "fortnight": 14, "month": 30}

// timeStems are in every word for a time that something keeps, however it begins.
var timeStems = []string{"day", "eek", "ortnight", "onth", "DAY", "EEK", "ONTH", "ORTNIGHT"}

// keeps reads how long something keeps, from a word for it on: keeps two weeks. end is behind it.
func (c cursor) keeps(i int) (days, end int, ok bool) {
	if i >= len(c) || !keepWords[c[i].low] && !c.run(i, "use", "within") && !c.run(i, "used", "within") &&
		!c.run(i, "eat", "within") && !c.run(i, "best", "within") {
		return 0, i, false
	}
	for k := i + 1; k < len(c) && k <= i+5; k++ {
		v, next, ok := c.number(k)
		if !ok && c.is(k, "a", "an") {
			v, next, ok = 1, k+1, true
		}
		if ok && next < len(c) && timeDays[stem(c[next].low)] > 0 {
			return int(v * timeDays[stem(c[next].low)]), next + 1, true
		}
	}
	return 0, i, false
}

// claim reads what the maker says of how long it keeps. It is set beside the verdict and is no line.
func (p *page) claim(words string) (Line, bool) {
	if !slices.ContainsFunc(timeStems, func(t string) bool { return strings.Contains(words, t) }) {
		return Line{}, false
	}
	c := cursor(tokenise(words))
	for i := range c {
		days, _, ok := c.keeps(i)
		if !ok {
			continue
		}
		if p.claimDays == nil || days > *p.claimDays {
			p.claimDays = &days
		}
		return Line{Kind: Remark, Words: words, Marks: []Mark{{0, len([]rune(words)), Note}}}, true
	}
	return Line{}, false
}

// fixed reads what stays the same when the rest is doubled: hold the ginger at one piece. Without a name it means the
// line before.
func (p *page) fixed(words string, body cursor) (Line, bool) {
	stays := says(body, "stays") || says(body, "stay") || says(body, "remains") || says(body, "don't") || says(body,
		"doesn't") || says(body, "won't") ||
		says(body, "not") || says(body, "never")
	if !stays && !says(body, "hold") && !says(body, "keep") && !says(body, "leave") {
		return Line{}, false
	}
	if !slices.ContainsFunc(body, func(t token) bool {
		return strings.HasPrefix(t.low, "doubl") || strings.HasPrefix(t.low, "tripl")
	}) {
		return Line{}, false
	}
	s := newSegment(words)
	s.fixed = true
	begin := max(0, len(s.cursor)-len(body))
	for i := range begin {
		s.cursor[i].role = Layout // a time stamp
	}
	s.passDoubling(begin)
	s.scan()
	l := p.book.readScanned(s, nil)[0]
	if l.Ingredient == "" || p.said[l.Ingredient] {
		return Line{Kind: Remark, Words: words, Ingredient: l.Ingredient, Fixed: true,
			Marks: []Mark{{0, len([]rune(words)), Note}}}, true
	}
	return l, true
}

// passDoubling passes over what says when something stays as it is, so that what stays is left.
func (s *segment) passDoubling(begin int) {
	for i := 0; i < len(s.cursor); i++ {
		if s.is(i, "because", "since", "otherwise") || s.is(i, "or", "so") && s.is(i+1, "it", "else", "that") {
			s.mark(i, len(s.cursor), Note)
		}
		if !s.is(i, "when", "although", "though", "even", "if", "while", "as", "whenever") {
			continue
		}
		end := i
		for end < len(s.cursor) && !s.is(end, ",", ".", ";") {
			end++
			d := s.cursor[end-1].low
			if i == begin && (strings.HasPrefix(d, "doubl") || strings.HasPrefix(d, "tripl")) {
				end += btoi(s.is(end, "it", "this", "that", "everything", "up"))
				break
			}
		}
		s.mark(i, end, Note)
	}
	for i := range s.cursor {
		if s.run(i, "the", "same") || s.run(i, "as", "is") || s.run(i, "do", "not") {
			s.mark(i, i+2, Small)
		}
		if s.is(i, "hold", "keep", "leave", "at", "but", "only", "stays", "stay", "remains", "double", "doubled",
			"doubling", "don't", "doesn't", "won't", "never", "not", "triple", "alone", "recipe", "scale") {
			s.cursor[i].role = Small
		}
	}
}
