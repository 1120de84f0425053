package reader

import (
	"fmt"
	"slices"
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
	ClaimDays  *int     `json:"claim_days"` // that the maker says it keeps
}

// Read reads a whole recipe. answers go by the key of a line. It never fails: what is not understood stays, marked.
func (b *Book) Read(text string, answers map[string]Answer) Reading {
	r := Reading{Lines: []Line{}, Notices: []Notice{}, WeighFirst: []Rank{}}
	text, beyond := cutText(text)
	state := page{book: b, seen: map[string]int{}}
	rows := splitRows(text)
	for row, words := range rows {
		state.row = row
		if title, ok := state.title(rows, row); ok {
			r.Lines = append(r.Lines, title)
			continue
		}
		for _, l := range state.read(words) {
			if l.Kind == Remark && l.Fixed {
				r.fixLast()
			}
			r.Lines = append(r.Lines, l)
			if answers[l.Key].Also != "yes" {
				continue
			}
			for _, also := range l.Also {
				r.Lines = append(r.Lines, state.keyed(Line{Kind: Weighed, Words: l.Words, Shares: true, Marks: l.Marks,
					Ingredient: also.ID, Name: also.Name, As: AsBowl,
					ToWeigh: true, How: "no amount was said of it: weigh it once"}.finish()))
			}
		}
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
	said      *Amount // the amount that was said last
	seen      map[string]int
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
	if l.Kind == Weighed {
		l.Section, l.Serving = p.section, p.serving
		if p.serving && l.As == AsBowl {
			l.Questions = append(l.Questions, Question{Code: "serving",
				Text:    "This stands under serving. Is it a topping in each jar, part of the mix, or left out?",
				Options: []string{AsTopping, AsBowl, AsLeft}})
		}
	}
	p.seen[l.Words]++
	l.Key = fmt.Sprintf("%s#%d", clipKey(l.Words), p.seen[l.Words])
	return l
}

// clipKey keeps keys short; the count behind them tells equal ones apart.
func clipKey(s string) string {
	if r := []rune(s); len(r) > 120 {
		return string(r[:120])
	}
	return s
}

// read reads one row.
func (p *page) read(words string) []Line {
	if strings.TrimFunc(words, func(r rune) bool {
		return unicode.IsSpace(r) || unicode.IsControl(r) ||
			isFormat(r)
	}) == "" {
		return nil
	}
	p.control = p.control || strings.ContainsFunc(words, func(r rune) bool { return unicode.IsControl(r) && r != '\t' })
	toks := cursor(tokenise(words))
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
	if p.method || isStep(body) && !p.weighs(body) {
		return []Line{p.keyed(Line{Kind: Step, Words: words})}
	}
	return p.ingredients(words, start, toks)
}

// weighs reports whether a sentence names an amount of something: then add 30 g of tahini.
func (p *page) weighs(c cursor) bool {
	for i := range c {
		f, ok := c.amountAt(i, false)
		if !ok || f.Unit == "" && !says(c[:i], "add") && !says(c[:i], "put") {
			continue
		}
		end := f.to
		for end < len(c) && end < f.to+5 && !c.is(end, ",", ";", ".", "(") {
			end++
		}
		if id, taken := p.book.Index.find(slices.Clone(c[f.to:end]), c[i].aside); id != "" && taken[0] <= 3 {
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

// ingredients splits a row where another amount of another ingredient begins, and reads each part.
func (p *page) ingredients(words string, start int, toks cursor) []Line {
	runes := []rune(words)
	var out []Line
	var fruit []string // that the part before asked for
	from := 0
	for _, cut := range append(p.cuts(toks, start), len(runes)) {
		part := string(runes[from:cut])
		from = cut
		if strings.TrimSpace(part) == "" {
			continue
		}
		if l, is := p.claim(part); is {
			out = append(out, p.keyed(l))
			continue
		}
		if toks := cursor(tokenise(part)); len(out) > 0 && isStep(toks) && !p.weighs(toks) {
			out = append(out, p.keyed(Line{Kind: Step, Words: part}))
			continue
		}
		lines, asks := p.book.readPart(part, start, len(out) == 0, fruit, p.said)
		fruit = asks
		for _, l := range lines {
			if l.Amount != nil {
				p.said = l.Amount
			}
			out = append(out, p.keyed(l))
		}
	}
	return out
}

// readPart reads one part of a row; the marks at the start of a row are no words. fruit is what of a fruit the part
// before asked for, and said the amount before. It returns what of a fruit this part asks for in front: juice of.
func (b *Book) readPart(part string, marks int, first bool, fruit []string, said *Amount) (lines []Line,
	asks []string) {
	body, lead, minus := part, 0, false
	if first && marks > 0 {
		toks := tokenise(part)
		if marks < len(toks) {
			lead = toks[marks].from
			body = string([]rune(part)[lead:])
			dash := toks[marks-1]
			minus = (dash.low == "-" || dash.low == "−") && toks[marks].isNumber() && dash.to == lead
		}
	}
	s := newSegment(body)
	s.scan()
	s.like(said)
	if len(s.fruit) > 0 && !slices.ContainsFunc(s.cursor, func(t token) bool { return t.role == UnitWord && t.aside }) {
		asks = s.fruit
	}
	lines = b.readScanned(s, fruit)
	if asks == nil && len(s.fruit) > 0 && len(fruit) > 0 {
		asks = fruit
	}
	for i := range lines {
		l := &lines[i]
		l.Words = part
		if minus {
			l.Questions = append(l.Questions, Question{Code: "minus",
				Text: "A dash stands right before the number. It was taken for a mark of the list, not for less than nothing.", Options: []string{"ok"}})
		}
		if lead > 0 {
			shifted := []Mark{{0, lead, Layout}}
			for _, m := range l.Marks {
				shifted = append(shifted, Mark{m.From + lead, m.To + lead, m.Role})
			}
			l.Marks = shifted
		}
		if l.Ingredient == "" && l.Amount == nil {
			l.Kind, l.ToWeigh = Unknown, false
			l.Questions = []Question{{Code: "unread", Text: "This was not understood. It is kept with the recipe."}}
		}
	}
	return lines, asks
}

// leadWords stand before what goes in next: and then I add, start with, now throw in.
var leadWords = wordSet(`and then also plus now next so first finally i we you i'll we'll you'll i'm i've add adds adding put putting throw throwing toss pour
	take use go goes going in goes get grab start starting begin with some to that it's there's there of the`)

// within are words before an amount that say it belongs to what was named before: pickled in 2 tbsp, juice of 2.
var within = wordSet("that's it's is are was in with of to at per for from into on than by or about over under each every - – x × / = | (")

// cuts finds where a row goes on with another ingredient, as rune offsets: behind a sign or an "and", or where nothing
// stands between.
func (p *page) cuts(c cursor, start int) []int {
	var out []int
	depth, partFrom := 0, start
	for i := start; i < len(c); i++ {
		switch {
		case c.is(i, "("):
			depth++
		case c.is(i, ")"):
			depth = max(0, depth-1)
		}
		if depth > 0 || i == partFrom {
			continue
		}
		if at, is := c.saysElse(partFrom, i); is {
			out = append(out, at)
			partFrom = i + btoi(c.is(i, "."))
			continue
		}
		if cut, is := p.alone(c, partFrom, i); is {
			out = append(out, cut)
			partFrom = i + 1
			continue
		}
		f, next, ok := p.goesOn(c, partFrom, i)
		if !ok {
			continue
		}
		cut := c[i].from
		if c.is(i, ",", ";", ".", "to") {
			cut = c[i].to
		}
		out = append(out, cut)
		partFrom = next
		i = f.to - 1
	}
	return out
}

// saysElse finds where a row goes over to how long it keeps, or to a sentence that is no ingredient, as a rune offset.
func (c cursor) saysElse(from, i int) (at int, is bool) {
	if c.is(i, ".", ";") {
		rest := c[i+1:]
		_, kept, claims := c.keeps(from)
		end := slices.IndexFunc(rest, func(t token) bool { return t.low == "." })
		if end < 0 {
			end = len(rest)
		}
		if len(rest) > 0 && (claims && kept <= i || isStep(rest[:end]) && !rest[:end].hasUnit() || rest.denies(0) > 0) {
			return c[i].to, true
		}
		return 0, false
	}
	if _, _, claims := c.keeps(i); !claims {
		return 0, false
	}
	for i > from+1 && c.is(i-1, "it", "this", "that", "which", "and", "they", "will", "should") {
		i--
	}
	return c[i].from, i > from
}

// hasUnit reports whether a stretch names an amount with a unit.
func (c cursor) hasUnit() bool {
	for i := range c {
		if f, ok := c.amountAt(i, false); ok && f.Unit != "" {
			return true
		}
	}
	return false
}

// alone finds an ingredient that stands for itself between signs, without an amount: 200 g tahini, salt, pepper.
func (p *page) alone(c cursor, from, i int) (cut int, is bool) {
	if !c.is(i, ",", ";", ".") || isBack(c, i+1) || !c.amounts(from, i) || says(c[from:i], "each") {
		return 0, false
	}
	id, names, end := p.nameAlone(c, i+1)
	if c.is(i, ".") { // 25 g of vinegar. Salt, 8 grams.
		before, _ := p.book.Index.find(slices.Clone(c[from:i]), c[from].aside)
		return c[i].to, id != "" && before != "" && c.is(end, ",", ":")
	}
	if c.is(end, "and", "&") && id != "" {
		if other, _, behind := p.nameAlone(c, end+1); other == "" || behind < len(c) && !c.is(behind, ",", ";", ".") {
			return 0, false
		}
		end = len(c)
	}
	if id == "" || end < len(c) && !c.is(end, ",", ";", ".") {
		return 0, false
	}
	before, had := p.book.Index.find(slices.Clone(c[from:i]), c[from].aside)
	if before == "" || before == id {
		return 0, false
	}
	stems := []string{}
	for _, k := range had {
		stems = append(stems, stem(c[from+k].low))
	}
	for _, k := range names {
		stems = append(stems, stem(c[k].low))
	}
	_, one := p.book.Index.keys[joinKey(stems)] // mustard, Dijon
	return c[i].to, !one
}

// nameAlone reads the name of an ingredient from i up to a sign or a joining word, with nothing else beside it.
func (p *page) nameAlone(c cursor, i int) (id string, names []int, end int) {
	end = i
	for end < len(c) && !c.is(end, ",", ";", ".", "(", "and", "or", "&") {
		end++
	}
	if i >= end {
		return "", nil, end
	}
	id, taken := p.book.Index.find(slices.Clone(c[i:end]), c[i].aside)
	if id == "" {
		return "", nil, end
	}
	for _, k := range taken {
		names = append(names, i+k)
	}
	for k := i; k < end; k++ {
		if !slices.Contains(names, k) && !smallWords[c[k].low] {
			return "", nil, end
		}
	}
	return id, names, end
}

// goesOn reports whether another ingredient begins at i, behind a part that begins at from; next is where its amount
// is.
func (p *page) goesOn(c cursor, from, i int) (f found, next int, ok bool) {
	parted := c.is(i, ",", ";", ".", "and", "then", "plus", "&", "+", "to")
	next = i
	if c.is(i, "as") && c.asMuch(from, i) { // twice as much oil | as vinegar
		return found{from: i, to: i + 1}, i + 1, true
	}
	if parted {
		for next++; next < len(c) && c.free(next) && (leadWords[c[next].low] || c.is(next, ",", "about")); next++ {
			if _, _, ok := c.reference(next); ok {
				break
			}
		}
	} else if !c[i-1].isWord() || within[c[i-1].low] || leadWords[c[i-1].low] {
		return f, next, false
	}
	if end := c.fruitAt(next); end > next {
		f, ok = found{from: next, to: end}, true
	} else if f, ok = c.amountAt(next, false); !ok && parted {
		f, ok = c.amountAt(next, true)
		ok = ok && (f.Unit != "" || c.is(next, "a", "an", "half"))
	}
	if !ok || isBack(c, next) || c.is(i, "to") && f.Unit != "part" || c.again(from, i, next) {
		return f, next, false
	}
	f = c.putRight(f)
	end := f.to
	for end < len(c) && !c.is(end, ",", ";", ".", "(", "and", "&", "then") {
		end++
	}
	if !parted {
		end = min(end, f.to+5)
	}
	id, taken := p.book.Index.find(slices.Clone(c[f.to:end]), c[i].aside)
	switch {
	case id == "" && (!parted || f.Unit == "" || c.startsUnit(next) || !c.content(f.to, end)):
		return f, next, false
	case !parted && (len(taken) == 0 || taken[0] > 3 || !c.amounts(from, i)):
		return f, next, false
	}
	id, _ = p.book.Index.find(slices.Clone(c[from:i]), c[from].aside)
	return f, next, id != "" || parted && c.amounts(from, i) && c.content(from, i)
}

// putRight is the amount that stands at last where the one that was found is taken back at once: one, no, two spoons.
func (c cursor) putRight(f found) found {
	for {
		k := f.to
		for k < len(c) && c.free(k) && (correctionWords[c[k].low] || c.is(k, ",", "make", "i", "mean") ||
			betweenCorrection[c[k].low] && !c.is(k, "a", "an")) {
			k++
		}
		if back, _ := c.corrected(k); k == f.to || !back {
			return f
		}
		right, ok := c.amountAt(k, true)
		if !ok {
			return f
		}
		if right.Unit == "" {
			right.Unit = f.Unit
		}
		right.from, f = f.from, right
	}
}

// again reports whether the amount behind i says the one before anew: five, five large; so that's about two limes.
func (c cursor) again(from, i, next int) bool {
	if c.is(i, "and") && c.is(i-1, "hundred") {
		return true
	}
	for k := i; k < next; k++ {
		if c[k].low == "that's" || c.run(k, "that", "is") || c.run(k, "which", "is") {
			return true
		}
	}
	for k := max(from, i-4); c.is(i, ",") && k < i; k++ {
		if f, ok := c.amountAt(k, true); ok && f.to == i {
			return true
		}
	}
	return false
}

// fruitAt is behind "the juice of" at i; i where it does not stand there.
func (c cursor) fruitAt(i int) int {
	at := i + btoi(c.is(i, "the"))
	if c.is(at, "juice", "zest") && c.is(at+1, "of", "from") {
		return at + 2
	}
	return i
}

// asMuch reports whether a stretch says how many times as much of something goes in.
func (c cursor) asMuch(from, to int) bool {
	for i := from; i < to; i++ {
		if a, next, ok := c.reference(i); ok && a.Unit == "part" && next < to {
			return true
		}
	}
	return false
}

// content reports whether a word stands in a stretch that may be the name of something.
func (c cursor) content(from, to int) bool {
	for i := from; i < to && i < len(c); i++ {
		w := c[i].low
		if c[i].isWord() && !smallWords[w] && !leadWords[w] && prepWords[w] == nil && !cutWords[w] &&
			unitWords[w] == "" && wordNumbers[w] == 0 && sizeWords[w] == "" && w != "total" && w != "half" &&
			!correctionWords[w] {
			return true
		}
	}
	return false
}

// amounts reports whether an amount stands in a stretch.
func (c cursor) amounts(from, to int) bool {
	for i := from; i < to; i++ {
		if f, ok := c[:to].amountAt(i, i == from); ok && f.to <= to {
			return true
		}
	}
	return false
}

// isBack reports whether the amount at i puts right the one before: a lime, no, two limes.
func isBack(c cursor, i int) bool {
	back, _ := c.corrected(i)
	return back
}
