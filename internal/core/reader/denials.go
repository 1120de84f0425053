package reader

// denials are how a maker says that something is not in it.
var denials = [][]string{{"leave", "out"}, {"leave", "off"}, {"instead", "of"}, {"do", "not", "add"}, {"don't", "add"},
	{"no"}, {"without"}, {"skip"}, {"omit"}, {"not"}, {"never"}}

// denies reads a denial at i, and returns what is behind it; i where there is none.
func (c cursor) denies(i int) int {
	for _, words := range denials {
		if c.run(i, words...) && !c.is(i+len(words), ",", "-", "wait", "sorry") {
			return i + len(words)
		}
	}
	return i
}

// deny notes that the words say that something is left out: they begin so, and no amount comes first.
func (s *segment) deny() {
	i := 0
	for s.free(i) && (smallWords[s.cursor[i].low] || leadWords[s.cursor[i].low] || s.is(i, ",", "but")) {
		i++
	}
	end := s.denies(i)
	if end == i {
		return
	}
	if _, amount := s.amountAt(end, true); amount {
		return
	}
	s.denied, s.deniedAt = true, end
	s.mark(i, end, Note)
}

// notSo passes over a state that the maker denies: paprika, not smoked.
func (s *segment) notSo() {
	for i := range s.cursor {
		if s.is(i, "not", "non", "never", "un") && i+1 < len(s.cursor) && stateWords[s.cursor[i+1].low] {
			s.mark(i, i+2, Note)
		}
	}
}

// insteadOf passes over what something else is taken for: walnuts instead of almonds.
func (s *segment) insteadOf() {
	for i := 1; i < len(s.cursor); i++ {
		if !s.run(i, "instead", "of") && !s.run(i, "rather", "than") {
			continue
		}
		end := i + 2
		for end < len(s.cursor) && !s.is(end, ",", ".", ";", "(") {
			end++
		}
		s.mark(i, end, Note)
	}
}

// opening passes the words before a name that only say that it goes in: put in the tahini.
func (s *segment) opening() {
	for i := 0; i < s.first && (s.cursor[i].role != Unread || leadWords[s.cursor[i].low] || smallWords[s.cursor[i].low] ||
		s.is(i, ",")); i++ {
		s.mark(i, i+1, Small)
	}
}

// chatWords begin what is said beside the matter, behind a name.
var chatWords = wordSet("if because since when until till while but although though unless whereas so")

// chatter takes for a remark what is said before the amount, and what goes on behind the name: while that's going on
// you take; because it's a big batch. A name that is said twice says nothing new.
func (s *segment) chatter() {
	if s.first < 0 {
		return
	}
	names := map[string]bool{}
	amount := -1
	for i, t := range s.cursor {
		if t.role == Ingredient {
			names[stem(t.low)] = true
		}
		if amount < 0 && (t.role == Number || t.role == UnitWord) {
			amount = i
		}
	}
	chat := false
	for i := range s.cursor {
		t := &s.cursor[i]
		chat = chat || i > s.last && i > amount && (chatWords[t.low] || t.low == ".")
		switch {
		case t.role != Unread || !t.isWord():
		case names[stem(t.low)]:
			t.role = Small
		case (chat || i < amount && amount < s.first) && prepWords[t.low] == nil && !cutWords[t.low] &&
			fills[t.low] == "":
			t.role = Note
		}
	}
}
