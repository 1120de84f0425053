package reader

import (
	"cmp"
	"slices"
)

// betweenCorrection are words that may stand between taking something back and what is right: no wait, that was about
// two.
var betweenCorrection = words("betweenCorrection")

// corrected reports whether the words before i take something back, and whether they go on from it with "so": so 150.
func (c cursor) corrected(i int) (back, so bool) {
	for k := i - 1; k >= 0 && k >= i-6; k-- {
		w := c[k].low
		switch {
		case correctionWords[w], (w == "that" || w == "it") && c[max(0, k-1)].low == "make",
			w == "was" && c[max(0, k-1)].low == "that", w == "mean" || w == "meant",
			w == "well" && k > 0 && c[k-1].low == ",":
			return true, false
		case w == "so" && k > 0 && c[k-1].low == ",":
			return true, true
		case w != "," && w != "-" && w != "–" && w != "—" && w != "." && !betweenCorrection[w]:
			return false, false
		}
	}
	return false, false
}

func (s *segment) afterCorrection(i int) bool {
	back, so := s.corrected(i)
	s.so = s.so || so
	return back
}

// lessen takes off what is said to be less: six tablespoons, minus one.
func (s *segment) lessen() {
	for i := range s.cursor {
		if s.amount == nil || s.cursor[i].traits&tellsLess == 0 || !s.free(i) {
			continue
		}
		v, next, ok := s.number(i + 1)
		if unit, end, ok := s.unitAt(next); ok {
			next, ok = end, ok && unit == s.amount.Unit
		}
		if ok && v < s.amount.Low {
			s.amount.Low, s.amount.High = s.amount.Low-v, s.amount.High-v
			s.mark(i, next, Number)
		}
	}
}

// saidAnew reports whether an amount takes the place of the one before without a word for it: five, five large; a clove
// of garlic, maybe two.
func (s *segment) saidAnew(before, f found) bool {
	if before.to < len(s.cursor) && f.from == before.to+1 && s.cursor[before.to].low == "," && before.Unit == "" {
		return true
	}
	if s.is(f.from, "say") {
		return true
	}
	// no, hang on, that's for the jam. A hundred and twenty.
	for k := before.to; s.is(f.from-1, ".") && k < f.from; k++ {
		if s.cursor[k].corrects() {
			return true
		}
	}
	if !s.is(f.from, "maybe", "perhaps") {
		return false
	}
	ends := f.to >= len(s.cursor) || !s.cursor[f.to].isWord()
	return ends && (f.Unit == "" && s.is(f.from-1, ",") || f.Unit != "" && f.Unit == before.Unit)
}

// right is an amount that puts another right: in its unit, piece and size unless it names others.
func (s *segment) right(before, f found) found {
	s.second = true
	s.takeBack(before, f)
	if f.Unit == "" {
		f.Unit, f.Pack, f.Fill = before.Unit, before.Pack, before.Fill
	}
	if f.Unit == before.Unit {
		f.Size, f.Heap = cmp.Or(f.Size, before.Size), cmp.Or(f.Heap, before.Heap)
	}
	if s.so {
		was := before.Amount
		s.was = &was
	}
	return f
}

// takeBack marks an amount that the maker corrected, up to the correction. A name in between is taken back only if it
// is said again: a lime, no, two limes.
func (s *segment) takeBack(before, after found) {
	s.mark(before.from, before.to, Corrected)
	again := map[string]bool{}
	for i := after.to; i < len(s.cursor); i++ {
		again[stem(s.cursor[i].low)] = true
	}
	for i := before.to; i < after.from; i++ {
		w := s.cursor[i].low
		longer := i > before.to && s.free(i-1) && s.content(i-1, i) && !again[stem(s.cursor[i-1].low)]
		if longer && again[stem(w)] { // three red peppers, no, four peppers: the first name says more
			continue
		}
		if !s.cursor[i].isWord() || correctionWords[w] || smallWords[w] || again[stem(w)] {
			s.mark(i, i+1, Corrected)
		}
	}
}

// otherName is the name that puts another right: walnuts, no, not walnuts, sorry, pistachios.
func (s *segment) otherName(x *Index, id string) string {
	if id == "" {
		return id
	}
	again := map[string]bool{}
	for i := s.first; i <= s.last; i++ {
		again[stem(s.cursor[i].low)] = true
	}
	k, back := s.last+1, false
	for ; k < len(s.cursor); k++ {
		w := s.cursor[k].low
		if w == "no" && !s.is(k+1, ",", "not", "wait", "sorry", "no", "rather", "i", "-") {
			break // tahini, no salt
		}
		back = back || correctionWords[w] || w == "mean" || w == "meant"
		if w != "," && w != "not" && !correctionWords[w] && !smallWords[w] && !again[stem(w)] && w != "mean" &&
			w != "meant" {
			break
		}
	}
	if !back || k >= len(s.cursor) {
		return id
	}
	rest := slices.Clone(s.cursor)
	for i := range rest {
		rest[i].aside = false
		if i < k {
			rest[i].role = Small
		}
	}
	other, taken := x.find(rest, false)
	if other == "" || other == id || taken[0] > k {
		return id
	}
	for i := s.first; i < k; i++ {
		s.cursor[i].role = Corrected
	}
	s.take(taken)
	return other
}
