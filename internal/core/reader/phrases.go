package reader

// phrases are groups of words by their first one.
type phrases map[string][][]string

func phrasesOf(name string) phrases {
	out := phrases{}
	for _, p := range phraseList(name) {
		out[p[0]] = append(out[p[0]], p)
	}
	return out
}

func (s *segment) phrase(list phrases, role Role) bool {
	hit := false
	for i := range s.cursor {
		for _, p := range list[s.cursor[i].low] {
			if s.run(i, p...) {
				s.mark(i, i+len(p), role)
				hit = true
				break
			}
		}
	}
	return hit
}

// impossible notes a number that can be no amount: zero, or more than a kitchen holds (handbook 02, bad input).
func (s *segment) impossible() {
	for i := range s.cursor {
		if v, next, ok := s.number(i); ok {
			_, end, _ := s.unitAt(next)
			s.absurd = figure(v) + " is no amount that can be weighed"
			s.mark(i, max(next, end), Number)
			return
		}
	}
}

// like takes the amount before for one that repeats it; behind a share, what it is compared with is one part.
func (s *segment) like(said *Amount) {
	switch {
	case s.amount != nil && (s.amount.Unit == sameAs || s.amount.asMuch) && said != nil:
		a := said.times(s.amount.Low)
		s.amount = &a
	case s.amount == nil && said != nil && said.Unit == "part" && s.run(0, "as"):
		s.amount = &Amount{Low: 1, High: 1, Unit: "part"}
		s.mark(0, 1, Small)
	}
}

// lengths passes over how long a piece is: a 2 cm piece of ginger.
func (s *segment) lengths() {
	for i := range s.cursor {
		if s.free(i) && s.cursor[i].isNumber() {
			if at := i + 1 + btoi(s.is(i+1, "-")); s.is(at, "cm", "mm", "inch", "inches", "centimetre", "centimetres") {
				s.mark(i, at+1, Note)
			}
		}
	}
}

// lead passes the words before what goes in: and then I add, start with.
func (s *segment) lead() int {
	i := 0
	for s.free(i) && s.cursor[i].leads() && !s.is(i, "a", "an") {
		if _, _, like := s.reference(i); like {
			break
		}
		i++
	}
	if f, ok := s.amountAt(i, true); i == 0 || !ok || f.Unit == "" && f.from == f.to {
		return 0
	}
	s.mark(0, i, Small)
	return i
}

func (s *segment) skipSmall(i int) int {
	for i < len(s.cursor) && (s.cursor[i].role != Unread || s.cursor[i].small() && !s.is(i, "a", "an") ||
		s.is(i, "+", "about")) {
		if s.is(i, "about") {
			return i
		}
		i++
	}
	return i
}
