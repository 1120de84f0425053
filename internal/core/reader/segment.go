package reader

import (
	"cmp"
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
	prep     []string
	prepLate bool
	absurd   string // what is wrong with the number
}

func newSegment(words string) *segment {
	s := &segment{cursor: tokenise(words), words: words, first: -1}
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
	tastePhrases = [][]string{{"to", "taste"}, {"as", "needed"}, {"as", "required"}, {"as", "desired"}, {"a", "little"},
		{"a", "bit", "of"}, {"a", "bit"}, {"a", "touch", "of"},
		{"a", "hint", "of"}, {"a", "drizzle", "of"}, {"a", "sprinkle", "of"}, {"some"}, {"enough"},
		{"for", "seasoning"}, {"to", "season"}, {"plenty", "of"}, {"a", "squeeze", "of"}, {"squeeze", "of"},
		{"lots", "of"}, {"a", "lot", "of"}, {"loads", "of"}, {"to", "loosen"}, {"if", "needed"}}
	keepPhrases = [][]string{{"keep", "the", "liquid"}, {"keep", "liquid"}, {"keeping", "the", "liquid"},
		{"reserve", "the", "liquid"}, {"reserve", "liquid"}, {"liquid", "reserved"}, {"reserving", "the", "liquid"},
		{"reserving", "liquid"}, {"save", "the", "liquid"}, {"liquid", "kept"}, {"keep", "its", "liquid"}}
	correctionWords = wordSet("no sorry actually wait rather scratch correction oops nope")
)

func (s *segment) phrase(list [][]string, role Role) bool {
	hit := false
	for i := range s.cursor {
		for _, p := range list {
			if s.run(i, p...) {
				s.mark(i, i+len(p), role)
				hit = true
				break
			}
		}
	}
	return hit
}

// scan finds what was said about amounts.
func (s *segment) scan() {
	s.keeps = s.phrase(keepPhrases, Note)
	s.divided = s.phrase([][]string{{"divided"}, {"in", "two", "parts"}, {"half", "now"}}, Note)
	s.deny()
	s.notSo()
	s.insteadOf()
	s.fruits()
	s.toTaste = s.phrase(tastePhrases, Number)
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

// like takes the amount before for one that repeats it; behind a share, what it is compared with is one part.
func (s *segment) like(said *Amount) {
	switch {
	case s.amount != nil && s.amount.Unit == sameAs && said != nil:
		a := *said
		s.amount = &a
	case s.amount == nil && said != nil && said.Unit == "part" && s.run(0, "as"):
		s.amount = &Amount{Low: 1, High: 1, Unit: "part"}
		s.mark(0, 1, Small)
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

// lead passes the words before what goes in: and then I add, start with.
func (s *segment) lead() int {
	i := 0
	for s.free(i) && leadWords[s.cursor[i].low] && !s.is(i, "a", "an") {
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
	for i < len(s.cursor) && (s.cursor[i].role != Unread || smallWords[s.cursor[i].low] && !s.is(i, "a", "an") ||
		s.is(i, "+", "about")) {
		if s.is(i, "about") {
			return i
		}
		i++
	}
	return i
}

// betweenCorrection are words that may stand between taking something back and what is right: no wait, that was about
// two.
var betweenCorrection = wordSet("that was it its it's is a an the of oh about around roughly maybe perhaps say just like more closer to then only")

// corrected reports whether the words before i take something back, and whether they go on from it with "so": so 150.
func (c cursor) corrected(i int) (back, so bool) {
	for k := i - 1; k >= 0 && k >= i-6; k-- {
		w := c[k].low
		switch {
		case correctionWords[w], w == "that" && c[max(0, k-1)].low == "make", w == "was" && c[max(0, k-1)].low == "that", w == "mean" || w == "meant",
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

// choose takes the amount that counts: the first, or the last one after a correction (handbook 02).
func (s *segment) choose(all []found) {
	main := -1
	for k, f := range all {
		if main >= 0 && (s.afterCorrection(f.from) || s.saidAnew(all[main], f)) {
			all[k] = s.right(all[main], f)
			main = k
			continue
		}
		if main < 0 && !s.cursor[f.from].aside {
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
		if main >= 0 && k > main && f.Unit != "" && s.amount != nil && s.amount.Plus == nil &&
			s.is(f.from-1, "plus", "+") && !s.is(f.to, "more", "extra") {
			rest := f.Amount
			s.amount.Plus = &rest
			s.mark(f.from-1, f.to, Number)
			continue
		}
		if main >= 0 && k > main && f.Unit != "" && !isContainer(f.Unit) && s.sameThing(f) {
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
	if main < 0 && len(all) > 0 { // sunflower oil (100 ml); tahini, 2 tbsp
		f := all[0]
		s.markAmount(f)
		a := f.Amount
		s.amount = &a
	}
}

// lessen takes off what is said to be less: six tablespoons, minus one.
func (s *segment) lessen() {
	for i := range s.cursor {
		if s.amount == nil || !s.is(i, "minus", "less") {
			continue
		}
		v, next, ok := s.number(i + 1)
		if unit, end, is := s.unitAt(next); is && unit == s.amount.Unit {
			next = end
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
	return f.Unit == "" && s.is(f.from, "maybe", "perhaps") && s.cursor[max(0, f.from-1)].low == "," &&
		(f.to >= len(s.cursor) || !s.cursor[f.to].isWord())
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

// takeBack marks an amount that the maker put right, up to the right one. A name that stands between is taken back only
// where it is said again: a lime, no, two limes.
func (s *segment) takeBack(before, after found) {
	s.mark(before.from, before.to, Corrected)
	again := map[string]bool{}
	for i := after.to; i < len(s.cursor); i++ {
		again[stem(s.cursor[i].low)] = true
	}
	for i := before.to; i < after.from; i++ {
		w := s.cursor[i].low
		if !s.cursor[i].isWord() || correctionWords[w] || smallWords[w] || again[stem(w)] {
			s.mark(i, i+1, Corrected)
		}
	}
}

// sameThing reports whether a further amount says the first one anew, and is not of something else: 6 oz (200 g), but
// not an onion pickled in 2 tbsp vinegar.
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

// identify finds the ingredient, its preparation and what is left over.
func (s *segment) identify(x *Index) (id string) {
	if id, taken := x.exactly(s.cursor); id != "" {
		s.take(taken)
		return id
	}
	if s.amount != nil && s.amount.Unit == "" && len(s.fruit) == 0 {
		for i := range s.cursor {
			u := unitWords[s.cursor[i].low]
			if s.cursor[i].role != Unread || s.cursor[i].aside || !counted[u] {
				continue
			}
			s.cursor[i].role = UnitWord
			if id, taken := x.find(s.cursor, false); id != "" {
				s.amount.Unit = u
				s.take(taken)
				return id
			}
			s.cursor[i].role = Unread
		}
	}
	id, taken := x.find(s.cursor, false)
	if id == "" {
		id, taken = x.find(s.cursor, true)
	}
	if len(taken) == 1 && s.unheardOf(taken[0]) || len(taken) > 0 && s.ofAnotherKind(taken[len(taken)-1]) {
		return ""
	}
	id, taken = s.inItsState(x, id, taken)
	if id != "" && s.amount != nil && isContainer(s.amount.Unit) {
		stems := []string{map[string]string{"can": "canned", "jar": "jarred", "packet": "packed"}[s.amount.Unit]}
		for _, i := range taken {
			stems = append(stems, stem(s.cursor[i].low))
		}
		if tinned, ok := x.keys[joinKey(stems)]; ok { // a tin of tomatoes holds tinned ones
			id = tinned
		}
	}
	s.take(taken)
	return id
}

// kindWords are names of many things, which the word before them tells apart.
var kindWords = wordSet("pepper oil cream bean cheese vinegar milk nut sauce paste powder butter sugar flour seed chilli mustard syrup")

// unheardOf reports whether a name is only the kind of something that nobody knows: jalapeño pepper, black beans.
func (s *segment) unheardOf(at int) bool {
	if !kindWords[stem(s.cursor[at].low)] || !s.free(at-1) || s.cursor[at-1].aside != s.cursor[at].aside {
		return false
	}
	return s.content(at-1, at) && !stateWords[s.cursor[at-1].low] && fills[s.cursor[at-1].low] == ""
}

// ofAnotherKind reports whether a name goes on to a kind of thing that it is not: chilli oil is no chilli.
func (s *segment) ofAnotherKind(last int) bool {
	return s.free(last+1) && s.cursor[last+1].aside == s.cursor[last].aside && kindWords[stem(s.cursor[last+1].low)] &&
		!s.content(last+2, last+3)
}

// inItsState is the ingredient in the state that a word elsewhere names: egg yolks, pasteurised; a head of garlic,
// roasted. A word that is a preparation as well stays one.
func (s *segment) inItsState(x *Index, id string, taken []int) (string, []int) {
	if id == "" {
		return id, taken
	}
	var stems []string
	for _, i := range taken {
		if s.cursor[i].low == "dried" || s.cursor[i].low == "dry" { // what comes then is done with it
			return id, taken
		}
		stems = append(stems, stem(s.cursor[i].low))
	}
	for i, t := range s.cursor {
		if t.role != Unread || !t.isWord() || slices.Contains(taken, i) || !stateWords[t.low] {
			continue
		}
		other, is := x.keys[joinKey(append(slices.Clone(stems), stem(t.low)))]
		if !is || other == id {
			continue
		}
		if prepWords[t.low] == nil {
			s.cursor[i].role = Ingredient
		}
		return other, taken
	}
	return id, taken
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
		back = back || correctionWords[w]
		if w != "," && w != "not" && !correctionWords[w] && !smallWords[w] && !again[stem(w)] && w != "mean" {
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

func (s *segment) take(tokens []int) {
	if len(tokens) == 0 {
		return
	}
	s.first, s.last = tokens[0], tokens[len(tokens)-1]
	for _, i := range tokens {
		s.cursor[i].role = Ingredient
	}
	for i := s.first; i < s.last; i++ {
		if s.cursor[i].role == Unread {
			s.cursor[i].role = Small
		}
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

// leftovers gives a role to every word that has none yet.
func (s *segment) leftovers() {
	s.chatter()
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
		case s.is(i, "strained") || w == "overnight":
			t.role = Preparation
		case smallWords[w] || !t.isWord() && !t.isNumber():
			t.role = Small
		case sizeWords[w] != "" && s.amount != nil && s.amount.Size == "":
			s.amount.Size, t.role = sizeWords[w], SizeWord
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
