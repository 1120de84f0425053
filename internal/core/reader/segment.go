package reader

import (
	"slices"
	"strings"

	"gallipot/internal/core/amount"
)

// segment is a stretch of a line being read.
type segment struct {
	cursor
	words    string
	toTaste  bool
	divided  bool
	skinsOn  bool
	exact    bool // it is called by its full name
	chats    bool // words behind the name talk beside the matter
	each     bool // the amount goes for each of what is named
	keeps    bool
	fruit    []string // juice, zest
	also     *Amount  // and so many of the other
	amount   *Amount
	stated   []found // further amounts of the same thing
	second   bool    // the maker corrected themselves
	denied   bool    // no salt, skip the mustard
	deniedAt int     // behind the words that say so
	fixed    bool    // stays when the rest is doubled
	so       bool    // went on from one amount to another: 300 g, so 150
	was      *Amount // the amount before that
	first    int     // first token of the ingredient
	last     int
	bare     string // the ingredient without the state that is said behind it
	prep     []string
	done     []string // states that verbs lead to: toast the walnuts
	prepLate bool
	absurd   string // what is wrong with the number
}

func newSegment(words string) *segment { return segmentOf(words, tokenise(words)) }

// segmentOf is a stretch with its tokens.
func segmentOf(words string, toks cursor) *segment {
	s := &segment{cursor: toks, words: words, first: -1}
	depth, aside, begun := 0, false, false
	for i := range s.cursor {
		w := s.cursor[i].low
		begun = begun || s.cursor[i].isNumber() || s.cursor[i].isWord() && !leadWords[w] && !smallWords[w] &&
			!correctionWords[w] && w != "well" && w != "okay" && w != "right"
		switch t := &s.cursor[i]; t.low {
		case "(", "[", "{":
			depth++
			t.aside = true
		case ")", "]", "}":
			t.aside = true
			depth = max(0, depth-1)
		case ",", ";", "–", "—":
			t.aside = begun
			aside = begun
		default:
			t.aside = aside || depth > 0
		}
	}
	return s
}

func (s *segment) mark(from, to int, role Role) {
	for i := from; i < to && i < len(s.cursor); i++ {
		if s.cursor[i].role == Unread {
			s.cursor[i].role = role
		}
	}
}

// phrases that say something about the whole line; the words are matched without small words in between.
var (
	tastePhrases    = phrasesOf("tastePhrases")
	keepPhrases     = phrasesOf("keepPhrases")
	dividedPhrases  = phrasesOf("dividedPhrases")
	onlyPhrases     = phrasesOf("onlyPhrases")
	correctionWords = words("correctionWords")
)

// scan finds what was said about amounts.
func (s *segment) scan() {
	has := trait(0)
	for _, t := range s.cursor {
		has |= t.traits
	}
	if has&opensPhrase != 0 {
		s.keeps = s.phrase(keepPhrases, Note)
		s.divided = s.phrase(dividedPhrases, Note)
	}
	s.deny()
	if has&isNumber != 0 {
		s.lengths()
	}
	if has&tellsNot != 0 {
		s.notSo()
		s.insteadOf()
	}
	if has&tellsCook != 0 {
		s.methodTail()
	}
	if has&tellsFruit != 0 {
		s.fruits()
	}
	if has&tellsVerb != 0 {
		s.doing()
	}
	if has&opensPhrase != 0 {
		s.toTaste = s.phrase(tastePhrases, Number)
	}
	var all []found
	start := s.skipSmall(s.lead())
	for i := start; i < len(s.cursor); {
		f, ok := s.amountAt(i, i == start && len(all) == 0 || s.afterCorrection(i) && len(all) > 0)
		if !ok {
			i++
			continue
		}
		all = append(all, f)
		i = max(f.to, i+1)
	}
	s.choose(all)
	if len(all) == 0 {
		s.impossible()
	}
}

// choose takes the amount that counts: the first, or the last one after a correction (handbook 02).
func (s *segment) choose(all []found) {
	if len(all) == 0 {
		return
	}
	main := max(0, slices.IndexFunc(all, func(f found) bool { return !s.cursor[f.from].aside }))
	for k := main + 1; k < len(all); k++ {
		if f := all[k]; s.afterCorrection(f.from) || s.saidAnew(all[main], f) {
			all[k] = s.right(all[main], f)
			main = k
		}
	}
	for k, f := range all {
		if k == main {
			s.markAmount(f)
			a := f.Amount
			s.amount = &a
			continue
		}
		if k > main && f.Unit != "" && s.amount != nil && s.amount.Plus == nil &&
			s.is(f.from-1, "plus", "+") && !s.is(f.to, "more", "extra") {
			rest := f.Amount
			s.amount.Plus = &rest
			s.mark(f.from-1, f.to, Number)
			continue
		}
		_, mass := amount.MassUnit(f.Unit)
		if mass && k > main && len(s.fruit) > 0 && s.restates(all[main].to, f.from) {
			s.markAmount(f) // two lemons, that's about 90 grams of juice
			a := f.Amount
			s.amount = &a
			continue
		}
		if k > main && f.Unit != "" && !isContainer(f.Unit) && s.sameThing(f) {
			s.mark(f.from-btoi(s.is(f.from-1, "/", "|", "=", "or")), f.to, Number)
			if grams, mass := amount.MassUnit(f.Unit); mass && s.amount != nil && isContainer(s.amount.Unit) &&
				s.amount.Pack == 0 {
				s.amount.Pack = f.Middle() * grams // 1 tin butter beans (400 g)
				continue
			}
			s.stated = append(s.stated, f)
		}
	}
	s.lessen()
}

// restates reports whether the words between two amounts say that the second repeats the first.
func (s *segment) restates(from, to int) bool {
	for i := from; i < to; i++ {
		if s.cursor[i].low == "that's" || s.cursor[i].low == "makes" {
			return true
		}
	}
	return false
}

// sameThing reports whether a further amount repeats the first rather than belonging to something else: 6 oz (200 g),
// but not an onion pickled in 2 tbsp vinegar.
func (s *segment) sameThing(f found) bool {
	if s.is(f.from-1, "/", "|", "=", "or") {
		return true
	}
	if !s.cursor[f.from].aside {
		return false
	}
	if !s.free(f.to) || !s.cursor[f.to].isWord() {
		return true
	}
	w := s.cursor[f.to].low
	return prepWords[w] != nil || cutWords[w] || smallWords[w] || w == "total"
}

func (s *segment) markAmount(f found) {
	for i := f.from; i < f.to; i++ {
		if s.cursor[i].role != Unread {
			continue
		}
		w := s.cursor[i].low
		switch {
		case unitWords[w] != "" || s.cursor[i].text == "T" || w == "t" || w == "c" || w == "fl":
			s.cursor[i].role = UnitWord
		case s.isQualifier(i):
			s.cursor[i].role = SizeWord
		case w == "of":
			s.cursor[i].role = Small
		default:
			s.cursor[i].role = Number
		}
	}
}

// leftovers gives a role to every word that has none yet.
func (s *segment) leftovers() {
	s.chatter()
	s.opening()
	s.purpose()
	for i := range s.cursor {
		t := &s.cursor[i]
		if t.role != Unread {
			continue
		}
		w := t.low
		beforeName := s.first < 0 || i < s.first
		if s.amount != nil && s.amount.Unit == "cup" && s.amount.Fill == "" && s.is(i, "loosely", "lightly") &&
			s.is(i+1, "packed", "filled") {
			s.amount.Fill = "loose"
		}
		if s.amount != nil && s.amount.Unit != "" && s.amount.Fill == "" && fills[w] != "" &&
			(w == "packed" || w == "loose" || beforeName) {
			s.amount.Fill = fills[w]
		}
		switch {
		case prepWords[w] != nil && !(w == "grated" && t.aside):
			t.role = Preparation
			s.prep = append(s.prep, w)
			s.prepLate = s.prepLate || t.aside || !beforeName
		case w == "grated" && t.aside && s.amount != nil && s.amount.Unit == "cup" && s.amount.Fill == "":
			s.amount.Fill, t.role = "grated", SizeWord
		case cutWords[w] || fills[w] != "":
			t.role = Cut
		case s.is(i, "strained") || w == "overnight" || w == "freezer":
			t.role = Preparation
		case smallWords[w] || !t.isWord() && !t.isNumber():
			t.role = Small
		case sizeWords[w] != "" && s.amount != nil && s.amount.Size == "":
			s.amount.Size, t.role = sizeWords[w], SizeWord
		case stateBases[w] != nil:
			t.role = Preparation
		case t.aside || correctionWords[w]:
			t.role = Note
		case unitWords[w] != "" && s.amount != nil && !isContainer(unitWords[w]):
			t.role = Small
		case sizeWords[w] != "" && s.amount != nil:
			t.role = SizeWord
		}
	}
}

func (s *segment) marks() []Mark {
	out := make([]Mark, 0, len(s.cursor))
	for _, t := range s.cursor {
		if n := len(out); n > 0 && out[n-1].Role == t.role && t.role != Unread {
			out[n-1].To = t.to
			continue
		}
		out = append(out, Mark{t.from, t.to, t.role})
	}
	return out
}

func (s *segment) text(role Role) string {
	var parts []string
	for _, t := range s.cursor {
		if t.role == role && (t.isWord() || t.isNumber()) {
			parts = append(parts, t.text)
		}
	}
	return strings.Join(parts, " ")
}

// remark is what the maker said aside, word for word.
func (s *segment) remark() string { return s.text(Note) }
