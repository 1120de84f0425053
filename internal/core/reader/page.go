package reader

import (
	"strconv"
	"strings"
	"unicode"
)

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
	if l.Heard == nil {
		l.Heard = []int64{}
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
	all := p.sentences(rows[at])
	for _, s := range all {
		words, toks := s.words, s.toks
		if l, ok := p.announced(words, toks[skipMarks(toks):], overList); ok {
			p.entitle(l.Name)
			out = append(out, p.keyed(l))
		} else if lines := p.read(words, toks); len(all) == 1 {
			out = lines
		} else {
			out = append(out, lines...)
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
	if l, ok := p.fixed(words, body); ok {
		return []Line{p.keyed(l)}
	}
	doubles := says(body, "doubling") || says(body, "doubled") || body.run(0, "double", "the", "recipe") ||
		says(body, "double") && says(body, "am")
	p.doubled = p.doubled || doubles
	if l, ok := p.yield(words, body); ok {
		return []Line{p.keyed(l)}
	}
	if doubles {
		return []Line{p.keyed(Line{Kind: Remark, Words: words, tokens: toks})}
	}
	if l, ok := p.claim(words); ok && !p.weighs(body) {
		return []Line{p.keyed(l)}
	}
	if aboutTheRecipe(words, body) {
		return []Line{p.keyed(Line{Kind: Remark, Words: words})}
	}
	if l, ok := p.talk(words, body); ok && !p.method {
		return []Line{p.keyed(l)}
	}
	if p.method || isStep(body) && body.denies(0) == 0 && !p.weighs(body) {
		return []Line{p.keyed(Line{Kind: Step, Words: words, tokens: toks})}
	}
	return p.ingredients(words, start, toks)
}

// weighs reports whether a sentence names an amount of something: then add 30 g of tahini.
func (p *page) weighs(c cursor) bool {
	for i := range c {
		f, ok := c.amountAt(i, false)
		before := max(0, i-1-btoi(c.is(i-1, "in") && i > 1))
		done := i > 0 && verbStates[c[before].low] != "" && !says(c, "until") && !says(c, "at")
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
		if f.Unit != "" && c.is(i-1, ",") && c[max(0, i-5):i-1].namesOne(p.book.Index) { // the tahini, two tablespoons
			return true
		}
	}
	return false
}
