package reader

import (
	"fmt"
	"strconv"
	"strings"
	"unicode"
)

// MaxText is how much is read at once, in characters; what lies beyond is kept and said (handbook 02).
const MaxText = 20_000

// Answer is what the maker said to a line's questions.
type Answer struct {
	Ingredient string   `json:"ingredient,omitempty"`
	Grams      *float64 `json:"grams,omitempty"`
	As         string   `json:"as,omitempty"`      // bowl, topping, leave
	Units      string   `json:"units,omitempty"`   // first or second of two that disagree
	Also       string   `json:"also,omitempty"`    // yes or no: what is named aside is a line of its own
	OK         bool     `json:"ok,omitempty"`      // right as it stands
	Guessed    bool     `json:"guessed,omitempty"` // the grams are a guess and no weighing
}

// Notice is something about the whole text.
type Notice struct {
	Code    string   `json:"code"`
	Text    string   `json:"text"`
	Options []string `json:"options,omitempty"` // what may be answered, under the notice's code as key
}

// Reading is a whole recipe as it was understood. Lines stand in the order of the words; together their words are the
// text.
type Reading struct {
	Lines      []Line   `json:"lines"`
	Notices    []Notice `json:"notices"`
	Total      float64  `json:"total_g"`
	Deviation  float64  `json:"deviation_g"`
	StillOpen  int      `json:"still_open"`
	WeighFirst []Rank   `json:"weigh_first"`
	SaidGrams  *float64 `json:"said_g"`
	SaidML     *float64 `json:"said_ml"`
	ClaimDays  *int     `json:"claim_days"`        // that the maker says it keeps
	Recipes    []Recipe `json:"recipes,omitempty"` // where more than one stands in the text
}

// Read reads a whole recipe. answers go by the key of a line. It never fails: what is not understood stays, marked.
func (b *Book) Read(text string, answers map[string]Answer) Reading {
	r := Reading{Lines: []Line{}, Notices: []Notice{}, WeighFirst: []Rank{}}
	text, beyond := cutText(text)
	state := page{book: b, seen: map[string]int{}, said: map[string]bool{}}
	rows := splitRows(text)
	r.Lines = make([]Line, 0, len(rows)+8)
	for row := range rows {
		state.row = row
		for _, l := range state.rowOf(rows, row) {
			if l.Kind == Remark && l.Fixed && !r.fixNamed(l.Ingredient) {
				r.fixLast()
			}
			r.Lines = append(r.Lines, l)
		}
		state.keep("\n")
	}
	if beyond != "" {
		r.Notices = append(r.Notices, Notice{Code: "too_long",
			Text: fmt.Sprintf("Only the first %d characters were read; the rest is kept as the last line.", MaxText)})
		state.row++
		r.Lines = append(r.Lines, state.keyed(Line{Kind: Unknown, Words: beyond}))
	}
	if state.control {
		r.Notices = append(r.Notices, Notice{Code: "control",
			Text: "Characters that cannot be printed were passed over; the words around them are kept."})
	}
	r.inPassing()
	r.alsoElsewhere(b)
	r.alsoLines(&state, answers)
	r.several(state.recipes, answers[recipesKey].Units)
	r.SaidGrams, r.SaidML, r.ClaimDays = state.saidGrams, state.saidML, state.claimDays
	if state.doubled {
		r.doubling(answers[doublingKey].Units)
	}
	for i := range r.Lines {
		b.answer(&r.Lines[i], answers[r.Lines[i].Key])
	}
	r.shareOut()
	r.sum(b)
	return r
}

// What may be said of a recipe that speaks of doubling; the answer stands under this key.
const (
	doublingKey = "doubling"
	toDouble    = "double"
	asItStands  = "single"
)

// doubling asks whether the amounts are doubled already, or doubles them (handbook 02).
func (r *Reading) doubling(answer string) {
	switch answer {
	case asItStands:
	case toDouble:
		for i := range r.Lines {
			l := &r.Lines[i]
			if l.Kind != Weighed || l.Fixed {
				continue
			}
			for k := range l.either {
				l.either[k].Grams, l.either[k].Times = 2*l.either[k].Grams, 2*l.either[k].Times
				l.either[k].How += ", doubled"
			}
			if l.Grams != nil {
				twice := 2 * *l.Grams
				l.Grams, l.Times, l.How = &twice, 2*l.Times, l.How+", doubled"
			}
		}
	default:
		r.StillOpen++
		r.Notices = append(r.Notices, Notice{Code: doublingKey,
			Text: "It speaks of doubling. Are the amounts doubled already?", Options: []string{toDouble, asItStands}})
	}
}

// cutText keeps what can be read at once, up to the end of a row where there is one.
func cutText(text string) (head, beyond string) {
	runes := []rune(text)
	if len(runes) <= MaxText {
		return text, ""
	}
	at := MaxText
	for i := MaxText; i > MaxText-2000; i-- {
		if runes[i] == '\n' {
			at = i
			break
		}
	}
	return string(runes[:at]), strings.TrimPrefix(string(runes[at:]), "\n")
}

// rowEnds are what ends a row in pasted text.
var rowEnds = strings.NewReplacer("\r\n", "\n", "\r", "\n", "\u2028", "\n", "\u2029", "\n", "<br>", "<br>\n", "</li>",
	"</li>\n", "</p>", "</p>\n", "</h2>", "</h2>\n", "</h3>", "</h3>\n")

func splitRows(text string) []string { return strings.Split(rowEnds.Replace(text), "\n") }

// page is what is known while going down the rows.
type page struct {
	book      *Book
	row       int
	section   string
	serving   bool
	method    bool
	doubled   bool
	control   bool
	saidGrams *float64
	saidML    *float64
	claimDays *int
	last      *Amount         // the amount that was said last
	said      map[string]bool // what has an amount
	seen      map[string]int
	titled    bool // the recipe has its name
	weighed   int  // lines with an amount since then
	recipes   []Recipe
}

func (p *page) keyed(l Line) Line {
	l.Row = p.row
	if l.Near == nil {
		l.Near = []Candidate{}
	}
	if l.AnyOf == nil {
		l.AnyOf = []string{}
	}
	if l.Also == nil {
		l.Also = []Candidate{}
	}
	if l.Questions == nil {
		l.Questions = []Question{}
	}
	if l.Marks == nil {
		l.Marks = []Mark{}
	}
	if l.Kind == Weighed && l.Amount != nil && l.Ingredient != "" {
		p.weighed++
		p.said[l.Ingredient] = true
	}
	if l.Kind == Weighed {
		l.Section, l.Serving = p.section, p.serving
		if p.serving && l.As == AsBowl {
			l.Questions = append(l.Questions, Question{Code: "serving",
				Text:    "This stands under serving. Is it a topping in each jar, part of the mix, or left out?",
				Options: []string{AsTopping, AsBowl, AsLeft}})
		}
	}
	p.seen[l.Words]++
	l.Key = clipKey(l.Words) + "#" + strconv.Itoa(p.seen[l.Words])
	return l
}

// clipKey keeps keys short; the count behind them tells equal ones apart.
func clipKey(s string) string {
	if len(s) <= 120 {
		return s
	}
	if r := []rune(s); len(r) > 120 {
		return string(r[:120])
	}
	return s
}

// rowOf reads one row of the text: a title, or its sentences.
func (p *page) rowOf(rows []string, at int) []Line {
	if title := p.title(rows, at); len(title) > 0 {
		p.entitle(title[0].Name)
		p.keep(rows[at])
		return title
	}
	overList := at > 0 && strings.TrimSpace(rows[at-1]) == "" && at+1 < len(rows) && startsAmount(rows[at+1])
	var out []Line
	for _, s := range p.sentences(rows[at]) {
		words, toks := s.words, s.toks
		if l, is := p.announced(words, toks[skipMarks(toks):], overList); is {
			p.entitle(l.Name)
			out = append(out, p.keyed(l))
		} else {
			out = append(out, p.read(words, toks)...)
		}
		p.keep(words)
	}
	return out
}

// startsAmount reports whether a row begins with an amount, as the rows of a list do.
func startsAmount(words string) bool {
	c := cursor(tokenise(words))
	_, ok := c.amountAt(skipMarks(c), true)
	return ok
}

// read reads one row, or a sentence of it.
func (p *page) read(words string, toks cursor) []Line {
	if strings.TrimFunc(words, func(r rune) bool {
		return unicode.IsSpace(r) || unicode.IsControl(r) ||
			isFormat(r)
	}) == "" {
		return nil
	}
	p.control = p.control || strings.ContainsFunc(words, func(r rune) bool { return unicode.IsControl(r) && r != '\t' })
	start := skipMarks(toks)
	body := toks[start:]
	if len(body) == 0 {
		return []Line{p.keyed(Line{Kind: Remark, Words: words, Marks: []Mark{{0, len([]rune(words)), Layout}}})}
	}
	if l, ok := p.heading(words, body); ok {
		return []Line{p.keyed(l)}
	}
	if l, is := p.fixed(words, body); is {
		return []Line{p.keyed(l)}
	}
	doubles := says(body, "doubling") || says(body, "doubled") || body.run(0, "double", "the", "recipe") ||
		says(body, "double") && says(body, "am")
	p.doubled = p.doubled || doubles
	if l, ok := p.yield(words, body); ok {
		return []Line{p.keyed(l)}
	}
	if doubles {
		return []Line{p.keyed(Line{Kind: Remark, Words: words})}
	}
	if l, is := p.claim(words); is && !p.weighs(body) {
		return []Line{p.keyed(l)}
	}
	if aboutTheRecipe(words, body) {
		return []Line{p.keyed(Line{Kind: Remark, Words: words})}
	}
	if l, is := p.talk(words, body); is && !p.method {
		return []Line{p.keyed(l)}
	}
	if p.method || isStep(body) && body.denies(0) == 0 && !p.weighs(body) {
		return []Line{p.keyed(Line{Kind: Step, Words: words})}
	}
	return p.ingredients(words, start, toks)
}

// weighs reports whether a sentence names an amount of something: then add 30 g of tahini.
func (p *page) weighs(c cursor) bool {
	for i := range c {
		f, ok := c.amountAt(i, false)
		done := i > 0 && verbStates[c[max(0, i-1-btoi(c.is(i-1, "in") && i > 1))].low] != "" && !says(c, "until") && !says(c, "at")
		if !ok {
			f, ok = c.amountAt(i, c.is(i, "a", "an") && done) // squeeze a lime
		}
		if !ok || f.Unit == "" && !says(c[:i], "add") && !says(c[:i], "put") && !done {
			continue
		}
		end := f.to
		for end < len(c) && end < f.to+5 && !c.is(end, ",", ";", ".", "(") {
			end++
		}
		if id, taken := p.book.Index.find(c[f.to:end], c[i].aside); id != "" && taken[0] <= 3 {
			return true
		}
	}
	return false
}

// skipMarks passes bullets, boxes, list numbers and tags at the start of a row.
func skipMarks(c cursor) int {
	i := 0
	for i < len(c) {
		switch {
		case c[i].role == Layout:
			c[i].role = Layout
		case c.speaker(i) > i:
			for end := c.speaker(i); i < end-1; i++ {
				c[i].role = Layout
			}
			c[i].role = Layout
		case c.clock(i) > i:
			for end := c.clock(i); i < end-1; i++ {
				c[i].role = Layout
			}
			c[i].role = Layout
		case !c[i].isWord() && !c[i].isNumber() && !c.is(i, "(", "~", "½", "\"", "“"):
			c[i].role = Layout
		case c[i].isNumber() && i+2 < len(c) && c.is(i+1, ".", ")") && c[i+1].from == c[i].to &&
			c[i+2].from > c[i+1].to && !strings.Contains(c[i].low, "."):
			c[i].role, c[i+1].role = Layout, Layout
			i++
		default:
			return i
		}
		i++
	}
	return i
}

// speaker is behind a label of who speaks, at i: Speaker 1:, Cook:, A:; i where there is none.
func (c cursor) speaker(i int) int {
	if !c.is(i, "speaker", "voice", "interviewer", "cook", "maker", "q", "a", "b", "me", "host", "guest") {
		return i
	}
	at := i + 1
	at += btoi(at < len(c) && (c[at].isNumber() || c.is(at, "one", "two")) && c.is(at+1, ":"))
	if !c.is(at, ":") || at+1 >= len(c) {
		return i
	}
	return at + 1
}

// clock is behind a time stamp at i: [02:15], 10:01, (1:02:03); i where there is none.
func (c cursor) clock(i int) int {
	at := i + btoi(c.is(i, "[", "("))
	parts := 0
	for at < len(c) && c[at].isNumber() && len(c[at].low) <= 2 {
		parts, at = parts+1, at+1
		if !c.is(at, ":") {
			break
		}
		at++
	}
	if parts < 2 || c.is(at-1, ":") {
		return i
	}
	if c.is(i, "[", "(") {
		if !c.is(at, "]", ")") {
			return i
		}
		at++
	}
	return at
}
