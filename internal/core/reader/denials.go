package reader

// denials are how a maker says that something is not in it.
var denials = phraseList("denials")

// denies reads a denial at i, and returns what is behind it; i where there is none.
func (c cursor) denies(i int) int {
	for _, words := range denials {
		if c.run(i, words...) && !c.is(i+len(words), ",", "-", "wait", "sorry", "too", "more", "less", "just", "only",
			"quite", "all", "much", "many", "sure", "really", "about", "necessarily") {
			return i + len(words)
		}
	}
	return i
}

// notNeeded says behind a name that it is not in it.
var notNeeded = phrasesOf("notNeeded")

// deny notes that the words say that something is left out: they begin so, and no amount comes first.
func (s *segment) deny() {
	i := 0
	for s.free(i) && (s.cursor[i].small() || s.cursor[i].leads() || s.is(i, ",", "but")) {
		i++
	}
	end := s.denies(i)
	if end == i {
		if s.phrase(notNeeded, Note) {
			s.denied, s.deniedAt = true, len(s.cursor)
		}
		return
	}
	if _, amount := s.amountAt(end, true); amount {
		return
	}
	if s.is(i, "instead") || s.is(i, "rather") { // instead of honey use two spoons of syrup
		for k := end; k < len(s.cursor); k++ {
			if s.is(k, ",", "use", "take", "add", "put", "i", "we", "you", "try", "go") {
				s.mark(i, k, Note)
				return
			}
		}
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
		if s.free(i) && stateWords[s.cursor[i].low] && s.is(i+1, "is", "works", "will", "ones") &&
			s.fine(i+2) { // frozen is fine too
			s.mark(i, i+1, Note)
		}
	}
}

// fine reports whether words at i say that something will do as well.
func (s *segment) fine(i int) bool {
	for k := i - 1; k < i+3; k++ {
		if s.is(k, "fine", "ok", "okay", "too", "do", "works", "work", "good") {
			return true
		}
	}
	return false
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

// doers begin what somebody does, in front of a name.
var doers = words("doers")

// opening passes the words before a name that only say that it goes in: put in the tahini; first thing, I toast the
// peanuts.
func (s *segment) opening() {
	done := 0
	for done < s.first && (s.cursor[done].role != Unread || s.cursor[done].leads() ||
		s.cursor[done].small() || s.is(done, ",")) {
		s.mark(done, done+1, Small)
		done++
	}
	for i := s.first - 1; i >= done; i-- {
		if doers[s.cursor[i].low] && (s.cursor[i].role == Small || s.cursor[i].role == Unread) {
			s.talked(done)
			return
		}
	}
}

// talked takes for a remark what is said from a token on up to the name, but for words that say how it is prepared.
func (s *segment) talked(from int) {
	for k := from; k < s.first; k++ {
		if w := s.cursor[k].low; s.cursor[k].isWord() && prepWords[w] == nil && !stateWords[w] && fills[w] == "" {
			s.mark(k, k+1, Note)
		}
	}
}

// purpose passes over what something is there for, right behind its name: enough water to thin it.
func (s *segment) purpose() {
	at := s.last + 1
	if s.first < 0 || !s.is(at, "to") || at+1 >= len(s.cursor) || !s.cursor[at+1].isWord() || !s.free(at+1) {
		return
	}
	if _, _, number := s.number(at + 1); number {
		return
	}
	end := at + 2
	for s.is(end, "it", "things", "that", "them", "up", "out", "down", "everything", "the", "sauce", "dressing") {
		end++
	}
	s.mark(at, end, Note)
}

// chatWords begin what is said beside the matter, behind a name.
var chatWords = words("chatWords")

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
			t.role, s.chats = Note, s.chats || chat
		}
	}
}

// methodTail passes over what is done next with what was named: ten dates, pitted, and soak them in hot water.
func (s *segment) methodTail() {
	for i := 2; i+2 < len(s.cursor); i++ {
		if s.is(i-1, "and", "then", ",") && s.free(i) && cookingVerbs[s.cursor[i].low] &&
			s.is(i+1, "it", "them", "that", "those", "everything") && !s.amounts(i, len(s.cursor)) {
			s.mark(i-1, len(s.cursor), Note)
			return
		}
	}
}
