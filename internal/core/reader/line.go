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
	Take  []Candidate `json:"take,omitempty"`
	Packs []float64   `json:"packs_g,omitempty"` // sizes of the tin to choose from
	Fills []string    `json:"fills,omitempty"`   // ways the cup may be filled
	Spoon bool        `json:"spoon,omitempty"`   // it asks what a measure holds
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
	Heard       []int64     `json:"heard"` // what of it rests on what the shop has told before
	Thaw        bool        `json:"thaw"`  // a product of the shop out of the freezer: thaw and finish
	ToWeigh     bool        `json:"to_weigh"`
	FullyRead   bool        `json:"fully_read"`
	either      []Weight    // of two that were both said
	tokens      cursor      // of a step or a remark
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
		return []Line{b.unknown(base, s)}
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

// unknown is a line of what the pantry does not know.
func (b *Book) unknown(l Line, s *segment) Line {
	l.ToWeigh = true
	if s.amount != nil && s.amount.Unit == "part" {
		l.Parts = s.amount.Middle()
	}
	l.Near = b.Index.Near(s.subject())
	l.Questions = append(l.Questions, Question{Code: "ingredient", Text: "Which ingredient is this?"})
	return l
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

// weigh writes a weight into the line.
func (l Line) weigh(w Weight) Line {
	g := w.Grams
	l.Grams, l.Spread, l.Source, l.Measure, l.MeasureOf, l.Times, l.How = &g, w.Spread, w.Source, w.Measure, w.Of,
		w.Times, w.How
	l.ToWeigh = w.Source == FromAssumed
	if w.heard != 0 {
		l.Heard = append(l.Heard, w.heard)
	}
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

// stepOf is the step that the words mean for an ingredient, and the ingredient it applies to.
func (b *Book) stepOf(s *segment, id string) prepared {
	if s.bare != "" { // red peppers, roasted: a step of the shop leads there
		if by := b.attach(s.bare, s.prep, s.prepLate); by.via != nil {
			id = s.bare
		}
	}
	prep := b.inItsSkin(s, id, b.attach(id, s.prep, s.prepLate))
	if prep.id == id && s.namedInState() {
		prep.before = false // cooked peas, steamed: so many of the cooked ones
	}
	prep.of = id
	return prep
}

// settle names the ingredient and converts the amount.
func (b *Book) settle(l Line, s *segment, id string) Line {
	prep := b.stepOf(s, id)
	id = prep.of
	l.Ingredient, l.Name = prep.id, b.name(prep.id)
	if told := b.Index.heardName(s); told != 0 {
		l.Heard = append(l.Heard, told)
	}
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
	s.thaw(&l)
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
