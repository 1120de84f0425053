package reader

import (
	"fmt"
	"math"
	"slices"
	"strings"
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
	// ingredients that may be taken instead
	Take []Candidate `json:"take,omitempty"`
}

// Mark is the role of a stretch of the words, in rune offsets.
type Mark struct {
	From int  `json:"from"`
	To   int  `json:"to"`
	Role Role `json:"role"`
}

// Line is one reading of some of the maker's words. Grams is nil where only a scale can tell.
type Line struct {
	Key         string      `json:"key"` // stays with the words while other lines change
	Row         int         `json:"row"` // of the text, from 0
	Kind        string      `json:"kind"`
	Words       string      `json:"words"`
	Shares      bool        `json:"shares"` // the words stand at the line before already
	Section     string      `json:"section"`
	Serving     bool        `json:"serving"` // the section is for the table, not for the bowl
	Marks       []Mark      `json:"marks"`
	Amount      *Amount     `json:"amount"`
	Ingredient  string      `json:"ingredient"`
	Name        string      `json:"name"`
	Near        []Candidate `json:"near"`
	AnyOf       []string    `json:"any_of"`
	Also        []Candidate `json:"also"` // other ingredients named aside, that may be lines of their own
	Preparation string      `json:"preparation"`
	Remark      string      `json:"remark"`
	Grams       *float64    `json:"grams"`
	Spread      float64     `json:"spread_percent"`
	Source      string      `json:"source"`
	Measure     string      `json:"measure"`
	MeasureOf   string      `json:"measure_of"` // the ingredient whose measure was used
	Times       float64     `json:"times"`
	How         string      `json:"how"`
	HoldBack    bool        `json:"hold_back"`
	Parts       float64     `json:"parts"` // of a ratio; 0 where no ratio was said
	Fixed       bool        `json:"fixed"` // stays as it is when the rest is doubled
	As          string      `json:"as"`    // bowl, topping or leave
	Questions   []Question  `json:"questions"`
	ToWeigh     bool        `json:"to_weigh"`
	FullyRead   bool        `json:"fully_read"`
	either      []Weight    // of two that were both said
}

// Open reports whether the line still asks something of the maker.
func (l Line) Open() bool {
	if l.As == AsLeft {
		return slices.ContainsFunc(l.Questions, func(q Question) bool { return q.Code == "also" })
	}
	return l.ToWeigh || len(l.Questions) > 0
}

// What a line becomes.
const (
	AsBowl    = "bowl"
	AsTopping = "topping"
	AsLeft    = "leave"
)

// readScanned reads words that name one ingredient, or several that share an amount or a fruit. fruit is what of a
// fruit the words before asked for: juice of a lemon, and a lime.
func (b *Book) readScanned(s *segment, fruit []string) []Line {
	words := s.words
	id := s.otherName(b.Index, s.identify(b.Index))
	id, more, either := s.companions(b.Index, id)
	s.leftovers()
	base := Line{Kind: Weighed, Words: words, Near: []Candidate{}, AnyOf: either, Questions: []Question{},
		Remark: s.remark(), HoldBack: s.divided, As: AsBowl, Fixed: s.fixed, Marks: s.marks()}
	if s.denied && (id == "" || s.first > s.deniedAt+2) { // no sugar, the carrots are sweet enough
		base.Kind, base.AnyOf = Remark, nil
		return []Line{base}
	}
	if s.denied {
		return []Line{b.leftOut(base, s, id)}
	}
	if s.amount != nil {
		a := *s.amount
		base.Amount = &a
	}
	if unread := s.text(Unread); unread != "" && id != "" {
		base.Questions = append(base.Questions,
			Question{Code: "unread", Text: fmt.Sprintf("“%s” was not understood. Is the line right without it?",
				clipWords(unread)), Options: []string{"ok"}})
	}
	if id == "" {
		base.ToWeigh = true
		if s.amount != nil && s.amount.Unit == "part" {
			base.Parts = s.amount.Middle()
		}
		base.Near = b.Index.Near(s.subject())
		base.Questions = append(base.Questions, Question{Code: "ingredient", Text: "Which ingredient is this?"})
		return []Line{base}
	}
	more = append(more, s.eachOf(b.Index, append(slices.Clone(more), id))...)
	also := s.aside(b.Index, append(slices.Clone(more), id))
	switch {
	case len(also) > 0 && (s.amount == nil || s.each) && !s.chats: // salt, pepper; a tablespoon each: tahini, honey
		more = append(more, also...)
	case len(also) > 0:
		base.Also, base.Questions = b.candidates(also), append(base.Questions, b.askAlso(also))
	}
	s.fruit = b.fruitOf(s, id, fruit)
	if len(s.fruit) > 0 {
		return b.fruitLines(base, s, id)
	}
	lines := []Line{b.settle(base, s, id)}
	for _, other := range more {
		lines = append(lines, b.beside(base, s, other))
	}
	if s.keeps {
		lines = b.keptLiquid(lines, s)
	}
	return lines
}

// fruitOf is what of a fruit goes in: as the words say, as the part before said, or squeezed.
func (b *Book) fruitOf(s *segment, id string, before []string) []string {
	if len(s.fruit) > 0 {
		return s.fruit
	}
	if slices.Contains(s.prep, "squeezed") {
		before = []string{"juice"} // one lime, squeezed
	}
	if len(before) > 0 {
		if _, step, _ := b.fruitStep(id, before[0]); step != nil {
			return before
		}
	}
	return nil
}

// leftOut is a line that the maker says is not in it; what is named beside it is asked about once.
func (b *Book) leftOut(l Line, s *segment, id string) Line {
	l.Ingredient, l.Name, l.As, l.How = id, b.name(id), AsLeft, "left out, as you said"
	l.Amount, l.Questions = nil, []Question{}
	if also := s.aside(b.Index, []string{id}); len(also) > 0 {
		l.Also, l.Questions = b.candidates(also), append(l.Questions, b.askAlso(also))
	}
	return l.finish()
}

// beside is the line of another ingredient that the same words name.
func (b *Book) beside(base Line, s *segment, other string) Line {
	l := base
	l.Shares, l.Questions, l.AnyOf, l.Also = true, []Question{}, nil, nil
	if s.amount != nil && (s.amount.Unit == "part" || s.each) {
		return b.settle(l, s, other) // equal parts of both; a tablespoon each
	}
	if s.amount != nil && !s.toTaste {
		l.Questions = append(l.Questions, Question{Code: "each",
			Text: "So much of each, or together? Weigh this one.", Options: []string{"each"}})
		l.Amount = nil
	}
	t := *s
	t.amount = nil
	return b.settle(l, &t, other)
}

// companions finds further ingredients joined by "and" (lines of their own) or by "or" (any of them).
func (s *segment) companions(x *Index, id string) (first string, more, either []string) {
	either = []string{}
	if id == "" {
		return id, nil, either
	}
	if list := s.choices(x, id); len(list) > 1 {
		return id, nil, list
	}
	join := s.last + 1
	for join < len(s.cursor) && (!s.free(join) || s.is(join, ",", "/") || cutWords[s.cursor[join].low]) {
		join++
	}
	if s.is(join, "and", "&", "+") {
		if other, taken := s.nextName(x, join); other != "" && other != id {
			other = s.sameKind(x, other, taken)
			s.join(join, taken)
			return id, []string{other}, either
		}
	}
	join = s.first - 1
	for s.free(join) && (cutWords[s.cursor[join].low] || s.is(join, "freshly", "fresh")) {
		join--
	}
	if s.is(join, "and", "&") && (s.amount == nil || s.amount.Unit == "part") {
		rest := slices.Clone(s.cursor)
		for i := join; i < len(rest); i++ {
			rest[i].role = Small
		}
		if other, taken := x.find(rest, false); other != "" && other != id {
			s.join(join, taken)
			return other, []string{id}, either
		}
	}
	if other := s.lacksLastWord(x, id); other != "" {
		return id, nil, []string{other, id}
	}
	return id, nil, either
}

// eachOf finds what else an amount is said of where it goes for each of a list: a teaspoon each of cumin, turmeric and
// sumac.
func (s *segment) eachOf(x *Index, known []string) []string {
	s.each = s.amount != nil && says(s.cursor, "each")
	if !s.each {
		return nil
	}
	var out []string
	for {
		id, taken := x.find(s.cursor, false)
		if id == "" {
			if id, taken = x.find(s.cursor, true); id == "" {
				return out
			}
		}
		for _, i := range taken {
			s.cursor[i].role = Ingredient
		}
		if !slices.Contains(known, id) {
			known, out = append(known, id), append(out, id)
		}
	}
}

// nextName finds the name behind a joining word.
func (s *segment) nextName(x *Index, join int) (id string, taken []int) {
	rest := slices.Clone(s.cursor)
	for i := range rest[:join+1] {
		rest[i].role = Small
	}
	for i := range rest {
		rest[i].aside = rest[i].aside && i > join+4
	}
	return x.find(rest, false)
}

// choices are the ingredients of an "or" of any length, the one that was found first: walnuts or pistachios or almonds;
// parsley, dill or basil.
func (s *segment) choices(x *Index, id string) []string {
	list, at := []string{id}, s.last
	for {
		join, or := at+1, false
		for s.free(join) && (s.is(join, ",", "/", "or") || cutWords[s.cursor[join].low] || s.is(join, "either", "fresh")) {
			or = or || s.is(join, "or")
			join++
		}
		if s.is(at+1, ",") || s.is(at+1, "or") {
			if end := s.alternative(at + 1 + btoi(s.is(at+1, ","))); end > at+2 && s.alternates(end) {
				join, or = end, true
			}
		}
		if join == at+1 || !or && !s.orComes(join) {
			return list
		}
		other, taken := s.nextName(x, join-1)
		if other == "" || taken[0] > join+1 || slices.Contains(list, other) {
			return list
		}
		other = s.sameKind(x, other, taken)
		for i := at + 1; i < taken[0]; i++ {
			s.mark(i, i+1, Small)
		}
		s.join(taken[0]-1, taken)
		list, at = append(list, other), taken[len(taken)-1]
		s.last = max(s.last, at)
	}
}

// alternates reports whether what is named at i goes in instead of what was named before: you can use honey instead.
func (s *segment) alternates(i int) bool {
	for k := i; k < len(s.cursor) && k < i+8 && !s.is(k, ".", ";"); k++ {
		if s.is(k, "instead", "too") || s.run(k, "as", "well") || s.is(k-1, "or") {
			s.mark(k, k+1, Small)
			return true
		}
	}
	for k := i - 1; k >= 0 && k > i-6; k-- {
		if s.is(k, "or") {
			return true
		}
	}
	return false
}

// orComes reports whether the list at i goes on to an "or" before an amount or a full stop.
func (s *segment) orComes(i int) bool {
	for k := i; k < len(s.cursor) && k < i+12; k++ {
		if s.is(k, "or") {
			return true
		}
		if s.is(k, ".", ";", "(") || s.cursor[k].isNumber() || s.cursor[k].role != Unread && s.cursor[k].role != Small {
			return false
		}
	}
	return false
}

// join takes the word that joins two names, and the words of the other name.
func (s *segment) join(at int, name []int) {
	s.mark(at, at+1, Small)
	for _, i := range name {
		s.cursor[i].role = Ingredient
	}
}

// lacksLastWord finds the first of two names that share their last word: sunflower or rapeseed oil.
func (s *segment) lacksLastWord(x *Index, id string) string {
	at := s.first - 1
	if !s.is(at, "or") || !s.free(at-1) || !s.cursor[at-1].isWord() {
		return ""
	}
	other, ok := x.keys[joinKey([]string{stem(s.cursor[at-1].low), stem(s.cursor[s.last].low)})]
	if !ok || other == id {
		return ""
	}
	s.cursor[at-1].role, s.cursor[at].role = Ingredient, Small
	return other
}

// sameKind gives a second ingredient the kind of the first: ground cumin and coriander are both ground.
func (s *segment) sameKind(x *Index, other string, taken []int) string {
	for _, t := range s.cursor {
		if t.low != "ground" && t.low != "dried" && t.low != "toasted" {
			continue
		}
		stems := []string{t.low}
		for _, i := range taken {
			stems = append(stems, stem(s.cursor[i].low))
		}
		if id, ok := x.keys[joinKey(stems)]; ok {
			return id
		}
	}
	return other
}

// weigh writes a weight into the line.
func (l Line) weigh(w Weight) Line {
	g := w.Grams
	l.Grams, l.Spread, l.Source, l.Measure, l.MeasureOf, l.Times, l.How = &g, w.Spread, w.Source, w.Measure, w.Of,
		w.Times, w.How
	l.ToWeigh = w.Source == FromAssumed
	if w.Ask != nil {
		q := *w.Ask
		q.Options = []string{"ok"}
		l.Questions = append(l.Questions, q)
	}
	return l
}

func (l Line) finish() Line {
	l.FullyRead = l.Ingredient != "" && !slices.ContainsFunc(l.Questions,
		func(q Question) bool { return q.Code == "unread" || q.Code == "ingredient" })
	return l
}

// maxGrams of a line: beyond 10 000 kg it is a slipped key (handbook 02, bad input).
const maxGrams = 10_000_000

// settle names the ingredient and converts the amount.
func (b *Book) settle(l Line, s *segment, id string) Line {
	if s.bare != "" { // red peppers, roasted: a step of the shop leads there
		if by := b.attach(s.bare, s.prep, s.prepLate); by.via != nil {
			id = s.bare
		}
	}
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
	case s.amount.Unit == "part":
		l.Parts, l.ToWeigh = s.amount.Middle(), true
		l.How = "a share: weigh one of them, and the others follow"
	default:
		w, ok := b.weigh(*s.amount, id, prep, drained)
		w, ok = b.reconcile(&l, s, w, ok, id, prep)
		if s.was != nil && ok {
			before, known := b.weigh(*s.was, id, prep, drained)
			if known && 100*math.Abs(before.Grams-w.Grams) > agreeing*max(before.Grams, w.Grams) {
				l.between(before, w, 1, "%s g were said, then %s g. Which goes in?")
			}
		}
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
	b.askState(&l, s, prep)
	return l.finish()
}

func unitName(unit string) string {
	if unit == "" {
		return "a piece"
	}
	return "a " + strings.ReplaceAll(unit, "_", " ")
}

// keptLiquid adds the liquid that is kept as a line of its own, beside the bowl until the maker says otherwise.
func (b *Book) keptLiquid(lines []Line, s *segment) []Line {
	for _, p := range b.Preparations {
		if p.ID != lines[0].Preparation && !(p.Output == lines[0].Ingredient && p.CoOutput != "") || p.CoOutput == "" {
			continue
		}
		l := Line{Kind: Weighed, Words: lines[0].Words, Shares: true, Near: []Candidate{}, AnyOf: []string{},
			Marks: lines[0].Marks, Ingredient: p.CoOutput, Name: b.name(p.CoOutput),
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
