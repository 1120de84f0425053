package reader

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"gallipot/internal/core/amount"
)

// Kinds of lines.
const (
	Weighed = "line"    // an ingredient
	Title   = "title"   // the first row, where it names no amount
	Section = "section" // For the base:
	Step    = "step"    // what to do
	Makes   = "yield"   // makes about two cups
	Remark  = "remark"  // kept, asks for nothing
	Unknown = "unread"  // kept, and asked about
)

// Question is something only the maker can answer.
type Question struct {
	Code    string   `json:"code"`
	Text    string   `json:"text"`
	Options []string `json:"options,omitempty"`
}

// Mark is the role of a stretch of the words, in rune offsets.
type Mark struct {
	From int  `json:"from"`
	To   int  `json:"to"`
	Role Role `json:"role"`
}

// Line is one reading of some of the maker's words. Grams is nil where only a scale can tell.
type Line struct {
	Key          string      `json:"key"` // stays with the words while other lines change
	Row          int         `json:"row"` // of the text, from 0
	Kind         string      `json:"kind"`
	Words        string      `json:"words"`
	Shares       bool        `json:"shares"` // the words stand at the line before already
	Section      string      `json:"section"`
	Serving      bool        `json:"serving"` // the section is for the table, not for the bowl
	Marks        []Mark      `json:"marks"`
	Amount       *Amount     `json:"amount"`
	Ingredient   string      `json:"ingredient"`
	Name         string      `json:"name"`
	Near         []Candidate `json:"near"`
	AnyOf        []string    `json:"any_of"`
	Preparation  string      `json:"preparation"`
	Remark       string      `json:"remark"`
	Grams        *float64    `json:"grams"`
	Spread       float64     `json:"spread_percent"`
	Source       string      `json:"source"`
	Measure      string      `json:"measure"`
	MeasureOf    string      `json:"measure_of"` // the ingredient whose measure was used
	Times        float64     `json:"times"`
	How          string      `json:"how"`
	HoldBack     bool        `json:"hold_back"`
	As           string      `json:"as"` // bowl, topping or leave
	Questions    []Question  `json:"questions"`
	ToWeigh      bool        `json:"to_weigh"`
	FullyRead    bool        `json:"fully_read"`
	disagreement float64
}

// Open reports whether the line still asks something of the maker.
func (l Line) Open() bool { return l.As != AsLeft && (l.ToWeigh || len(l.Questions) > 0) }

// What a line becomes.
const (
	AsBowl    = "bowl"
	AsTopping = "topping"
	AsLeft    = "leave"
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
	first    int     // first token of the ingredient
	last     int
	prep     []string
	prepLate bool
	absurd   string // what is wrong with the number
}

func newSegment(words string) *segment {
	s := &segment{cursor: tokenise(words), words: words, first: -1}
	depth, aside := 0, false
	for i := range s.cursor {
		switch t := &s.cursor[i]; t.low {
		case "(", "[", "{":
			depth++
			t.aside = true
		case ")", "]", "}":
			t.aside = true
			depth = max(0, depth-1)
		case ",", ";", "–", "—":
			t.aside = true
			aside = true
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
	tastePhrases = [][]string{{"to", "taste"}, {"as", "needed"}, {"as", "required"}, {"as", "desired"}, {"a", "little"}, {"a", "bit", "of"}, {"a", "bit"}, {"a", "touch", "of"},
		{"a", "hint", "of"}, {"a", "drizzle", "of"}, {"a", "sprinkle", "of"}, {"some"}, {"enough"}, {"for", "seasoning"}, {"to", "season"}, {"plenty", "of"}, {"a", "squeeze", "of"}, {"squeeze", "of"}, {"lots", "of"}, {"to", "loosen"}, {"if", "needed"}}
	keepPhrases = [][]string{{"keep", "the", "liquid"}, {"keep", "liquid"}, {"keeping", "the", "liquid"}, {"reserve", "the", "liquid"}, {"reserve", "liquid"}, {"liquid", "reserved"}, {"reserving", "the", "liquid"},
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
	s.fruits()
	s.toTaste = s.phrase(tastePhrases, Number)
	var all []found
	start := s.skipSmall(0)
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

func (s *segment) skipSmall(i int) int {
	for i < len(s.cursor) && (s.cursor[i].role != Unread || smallWords[s.cursor[i].low] && !s.is(i, "a", "an") || s.is(i, "+", "about")) {
		if s.is(i, "about") {
			return i
		}
		i++
	}
	return i
}

// afterCorrection reports whether the word before i takes something back.
func (s *segment) afterCorrection(i int) bool {
	for k := i - 1; k >= 0 && k >= i-4; k-- {
		w := s.cursor[k].low
		if correctionWords[w] || w == "that" && s.is(k-1, "make") || w == "mean" && s.is(k-1, "i") {
			return true
		}
		if w != "," && w != "-" && w != "that" && w != "mean" && !smallWords[w] {
			return false
		}
	}
	return false
}

// choose takes the amount that counts: the first, or the last one after a correction (handbook 02).
func (s *segment) choose(all []found) {
	main := -1
	for k, f := range all {
		if main >= 0 && s.afterCorrection(f.from) {
			before := all[main]
			s.mark(before.from, f.from, Corrected)
			if f.Unit == "" {
				f.Unit, f.Pack, f.Fill = before.Unit, before.Pack, before.Fill
			}
			all[k] = f
			main = k
			s.second = true
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
		if main >= 0 && k > main && f.Unit != "" && s.amount != nil && s.amount.Plus == nil && s.is(f.from-1, "plus", "+") && !s.is(f.to, "more", "extra") {
			rest := f.Amount
			s.amount.Plus = &rest
			s.mark(f.from-1, f.to, Number)
			continue
		}
		if main >= 0 && k > main && f.Unit != "" && !isContainer(f.Unit) && (s.cursor[f.from].aside || s.is(f.from-1, "/", "|", "=", "or")) {
			s.mark(f.from-btoi(s.is(f.from-1, "/", "|", "=", "or")), f.to, Number)
			if grams, mass := amount.MassUnit(f.Unit); mass && s.amount != nil && isContainer(s.amount.Unit) && s.amount.Pack == 0 {
				s.amount.Pack = f.Middle() * grams // 1 tin butter beans (400 g)
				continue
			}
			s.stated = append(s.stated, f)
		}
	}
	if main < 0 && len(all) > 0 { // sunflower oil (100 ml); tahini, 2 tbsp
		f := all[0]
		s.markAmount(f)
		a := f.Amount
		s.amount = &a
	}
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

var fruitWords = map[string]string{"juice": "juice", "juiced": "juice", "zest": "zest", "zested": "zest"}

// fruits reads "juice of", "zest of", "zest and juice of", and the same said behind the fruit.
func (s *segment) fruits() {
	for i := range s.cursor {
		if !s.is(i, "juice", "zest", "juiced", "zested") {
			continue
		}
		what := fruitWords[s.cursor[i].low]
		end := i + 1
		both := (s.is(end, "and", "&") && s.is(end+1, "juice", "zest", "juiced", "zested"))
		of := end
		if both {
			of = end + 2
		}
		leads := s.is(of, "of", "from") && !s.startsAmountBefore(i)
		behind := s.cursor[i].aside
		if !leads && !behind {
			continue
		}
		s.fruit = append(s.fruit, what)
		s.cursor[i].role = UnitWord
		if both {
			s.fruit = append(s.fruit, fruitWords[s.cursor[end+1].low])
			s.mark(end, end+2, UnitWord)
		}
		if leads {
			s.mark(of, of+1, UnitWord)
			for k := i - 1; k >= 0 && s.is(k, "the", "finely", "grated", "freshly", "squeezed", "strained", "a"); k-- {
				s.cursor[k].role = Small
			}
		} else {
			s.phrase([][]string{{"only"}}, Small)
		}
		s.secondFruit(of + 1)
		return
	}
}

// secondFruit reads "…, and zest of two": the same fruits again, so many of them.
func (s *segment) secondFruit(from int) {
	for i := from; i < len(s.cursor); i++ {
		if !s.is(i, "juice", "zest") || !s.is(i+1, "of", "from") || fruitWords[s.cursor[i].low] == s.fruit[0] {
			continue
		}
		v, next, ok := s.number(i + 2)
		if !ok || v <= 0 {
			continue
		}
		s.also = &Amount{Low: v, High: v, Unit: fruitWords[s.cursor[i].low] + "_of"}
		s.mark(i, i+2, UnitWord)
		s.mark(i+2, next, Number)
		return
	}
}

// startsAmountBefore reports an amount in front, as in 2 tbsp juice of a lemon: then the spoon counts, not the fruit.
func (s *segment) startsAmountBefore(i int) bool {
	for k := 0; k < i; k++ {
		if s.cursor[k].isNumber() || wordNumbers[s.cursor[k].low] != 0 {
			return true
		}
	}
	return false
}

// identify finds the ingredient, its preparation and what is left over.
func (s *segment) identify(x *Index) (id string) {
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

// leftovers gives a role to every word that has none yet.
func (s *segment) leftovers() {
	for i := range s.cursor {
		t := &s.cursor[i]
		if t.role != Unread {
			continue
		}
		w := t.low
		beforeName := s.first < 0 || i < s.first
		if s.amount != nil && s.amount.Unit == "cup" && s.amount.Fill == "" && s.is(i, "loosely", "lightly") && s.is(i+1, "packed", "filled") {
			s.amount.Fill = "loose"
		}
		if s.amount != nil && s.amount.Unit != "" && s.amount.Fill == "" && fills[w] != "" && (w == "packed" || w == "loose" || beforeName) {
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

// readSegment reads words that name one ingredient, or two that share an amount or a fruit.
func (b *Book) readSegment(words string) []Line {
	s := newSegment(words)
	s.scan()
	id := s.identify(b.Index)
	id, more, either := s.companions(b.Index, id)
	s.leftovers()
	base := Line{Kind: Weighed, Words: words, Near: []Candidate{}, AnyOf: either, Questions: []Question{}, Remark: s.remark(), HoldBack: s.divided, As: AsBowl, Marks: s.marks()}
	if s.amount != nil {
		a := *s.amount
		base.Amount = &a
	}
	if unread := s.text(Unread); unread != "" && id != "" {
		base.Near = b.Index.Near(unread + " " + s.text(Ingredient))
		base.Questions = append(base.Questions, Question{Code: "unread", Text: fmt.Sprintf("“%s” was not understood. Is the line right without it?", clipWords(unread)), Options: []string{"ok"}})
	}
	if id == "" {
		base.ToWeigh = true
		base.Near = b.Index.Near(s.subject())
		base.Questions = append(base.Questions, Question{Code: "ingredient", Text: "Which ingredient is this?"})
		return []Line{base}
	}
	if len(s.fruit) > 0 {
		return b.fruitLines(base, s, id)
	}
	lines := []Line{b.settle(base, s, id)}
	for _, other := range more {
		l := base
		l.Shares, l.Questions, l.AnyOf = true, slices.Clone(base.Questions), nil
		if s.amount != nil && !s.toTaste {
			l.Questions = append(l.Questions, Question{Code: "each", Text: "So much of each, or together? Weigh this one.", Options: []string{"each"}})
			l.Amount = nil
		}
		t := *s
		t.amount = nil
		lines = append(lines, b.settle(l, &t, other))
	}
	if s.keeps {
		lines = b.keptLiquid(lines, s)
	}
	return lines
}

// subject is the words that stand for the unknown ingredient.
func (s *segment) subject() string {
	var parts []string
	for _, t := range s.cursor {
		if t.isWord() && t.role == Unread && !t.aside {
			parts = append(parts, t.text)
		}
	}
	return strings.Join(parts, " ")
}

// companions finds a second ingredient joined by "and" (a line of its own) or by "or" (any of them).
func (s *segment) companions(x *Index, id string) (first string, more, either []string) {
	if id == "" {
		return id, nil, []string{}
	}
	either = []string{}
	join := s.last + 1
	for s.free(join) && (s.is(join, ",", "/") || cutWords[s.cursor[join].low]) {
		join++
	}
	if s.is(join, "and", "&", "or") {
		rest := slices.Clone(s.cursor)
		for i := range rest[:join+1] {
			rest[i].role = Small
		}
		for i := range rest {
			rest[i].aside = rest[i].aside && i > join+4
		}
		if other, taken := x.find(rest, false); other != "" && other != id {
			or := s.is(join, "or")
			s.mark(join, join+1, Small)
			for _, i := range taken {
				s.cursor[i].role = Ingredient
			}
			if or {
				return id, nil, []string{id, other}
			}
			return id, []string{other}, either
		}
	}
	if join := s.first - 1; s.is(join, "and", "&") && s.amount == nil {
		rest := slices.Clone(s.cursor)
		for i := join; i < len(rest); i++ {
			rest[i].role = Small
		}
		if other, taken := x.find(rest, false); other != "" && other != id {
			s.mark(join, join+1, Small)
			for _, i := range taken {
				s.cursor[i].role = Ingredient
			}
			return other, []string{id}, either
		}
	}
	// sunflower or rapeseed oil: the first name lacks its last word
	if at := s.first - 1; s.is(at, "or") && s.free(at-1) && s.cursor[at-1].isWord() {
		if other, ok := x.keys[joinKey([]string{stem(s.cursor[at-1].low), stem(s.cursor[s.last].low)})]; ok && other != id {
			s.cursor[at-1].role, s.cursor[at].role = Ingredient, Small
			return id, nil, []string{other, id}
		}
	}
	return id, nil, either
}

// fruitLines turns juice and zest of a fruit into their lines; both come from the same fruits.
func (b *Book) fruitLines(base Line, s *segment, id string) []Line {
	var out []Line
	wanted := slices.Clone(s.fruit)
	if s.also != nil {
		wanted = append(wanted, strings.TrimSuffix(s.also.Unit, "_of"))
	}
	for k, want := range wanted {
		l := base
		l.Shares = k > 0
		l.Questions = slices.Clone(base.Questions)
		product, step, co := b.fruitStep(id, want)
		a := Amount{Low: 1, High: 1}
		if s.amount != nil {
			a = *s.amount
		}
		if k >= len(s.fruit) {
			a = *s.also
			a.Unit = ""
		}
		t := *s
		t.amount = &a
		if a.Unit == "" || a.Unit == "piece" {
			a.Unit = want + "_of"
			l = b.fruitWeight(l, a, id, product)
			if l.Grams == nil && step != nil {
				whole := a
				whole.Unit = ""
				if w, ok := b.named(whole, id); ok {
					y := step.Expected()
					share := y.Percent
					if co {
						share = y.Co
					}
					w.Grams *= share / 100
					w.Spread = math.Hypot(w.Spread, y.Spread)
					w.How += fmt.Sprintf(", %s gives %s %%", strings.ReplaceAll(step.Name, "_", " "), figure(share))
					l = l.weigh(w.ranged(a))
				}
			}
			l.Ingredient, l.Name = product, b.name(product)
			if step != nil {
				l.Preparation = step.ID
			}
			if l.Grams == nil {
				l.ToWeigh = true
			}
			l.Amount = &a
			out = append(out, l.finish())
			continue
		}
		out = append(out, b.settle(l, &t, product))
	}
	return out
}

func (b *Book) fruitWeight(l Line, a Amount, fruit, product string) Line {
	for _, id := range []string{product, fruit} {
		if w, ok := b.named(a, id); ok {
			return l.weigh(w.ranged(a))
		}
	}
	return l
}

// weigh writes a weight into the line.
func (l Line) weigh(w Weight) Line {
	g := w.Grams
	l.Grams, l.Spread, l.Source, l.Measure, l.MeasureOf, l.Times, l.How = &g, w.Spread, w.Source, w.Measure, w.Of, w.Times, w.How
	l.ToWeigh = w.Source == FromAssumed
	if w.Ask != nil {
		q := *w.Ask
		q.Options = []string{"ok"}
		l.Questions = append(l.Questions, q)
	}
	return l
}

func (l Line) finish() Line {
	l.FullyRead = l.Ingredient != "" && !slices.ContainsFunc(l.Questions, func(q Question) bool { return q.Code == "unread" || q.Code == "ingredient" })
	return l
}

// maxGrams of a line: beyond 10 000 kg it is a slipped key (handbook 02, bad input).
const maxGrams = 10_000_000

// settle names the ingredient and converts the amount.
func (b *Book) settle(l Line, s *segment, id string) Line {
	prep := b.attach(id, s.prep, s.prepLate)
	l.Ingredient, l.Name = prep.id, b.name(prep.id)
	if prep.via != nil {
		l.Preparation = prep.via.ID
	}
	drained := slices.Contains(s.prep, "drained") || slices.Contains(s.prep, "rinsed")
	switch {
	case s.absurd != "":
		l.ToWeigh, l.How = true, s.absurd+": weigh it"
	case s.amount == nil:
		l.ToWeigh, l.How = true, "no amount was said: weigh it once"
	default:
		w, ok := b.weigh(*s.amount, id, prep, drained)
		w, ok = b.reconcile(&l, s, w, ok, id, prep)
		switch {
		case !ok:
			l.ToWeigh, l.How = true, fmt.Sprintf("nobody has weighed %s of it yet", unitName(s.amount.Unit))
		case w.Grams > maxGrams:
			l.ToWeigh, l.How = true, "over 10 000 kg: a slipped key?"
		default:
			l = l.weigh(w)
		}
		if s.second {
			l.How += "; the last amount said counts"
		}
	}
	return l.finish()
}

func unitName(unit string) string {
	if unit == "" {
		return "a piece"
	}
	return "a " + strings.ReplaceAll(unit, "_", " ")
}

// agreeing is how far two statements of one amount may differ, in percent of the greater (handbook 02).
const agreeing = 10.0

// reconcile holds what was said twice against each other: 6 oz (200 g). A mass beats a spoon or a piece.
func (b *Book) reconcile(l *Line, s *segment, w Weight, ok bool, id string, prep prepared) (Weight, bool) {
	for _, f := range s.stated {
		other, known := b.weigh(f.Amount, id, prep, false)
		if !known {
			continue
		}
		if !ok {
			w, ok = other, true
			continue
		}
		exact := w.Source == FromWords && other.Source == FromWords
		if apart := 100 * math.Abs(w.Grams-other.Grams) / max(w.Grams, other.Grams); apart > agreeing && (exact || other.Source != FromWords && other.Source != FromAssumed) {
			l.disagreement = other.Grams
			l.Questions = append(l.Questions, Question{Code: "units", Text: fmt.Sprintf("%s g and %s g were both said. Which one holds?", figure(w.Grams), figure(other.Grams)),
				Options: []string{"first", "second"}})
			continue
		}
		if other.Source == FromWords && w.Source != FromWords {
			w = other
		}
	}
	return w, ok
}

// keptLiquid adds the liquid that is kept as a line of its own, beside the bowl until the maker says otherwise.
func (b *Book) keptLiquid(lines []Line, s *segment) []Line {
	for _, p := range b.Preparations {
		if p.ID != lines[0].Preparation && !(p.Output == lines[0].Ingredient && p.CoOutput != "") || p.CoOutput == "" {
			continue
		}
		l := Line{Kind: Weighed, Words: lines[0].Words, Shares: true, Near: []Candidate{}, AnyOf: []string{}, Marks: lines[0].Marks, Ingredient: p.CoOutput, Name: b.name(p.CoOutput),
			Preparation: p.ID, As: AsLeft, Questions: []Question{}, How: "kept aside, not in the bowl"}
		if s.amount != nil && lines[0].Grams != nil {
			y := p.Expected()
			g := *lines[0].Grams * y.Co / y.Percent
			l.Grams, l.Spread, l.Source = &g, math.Hypot(lines[0].Spread, y.Spread), FromReference
		}
		return append(lines, l.finish())
	}
	return lines
}

func clipWords(s string) string {
	if r := []rune(s); len(r) > 60 {
		return string(r[:60]) + "…"
	}
	return s
}
