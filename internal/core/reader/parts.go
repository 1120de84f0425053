package reader

import (
	"slices"
	"strings"
)

// ingredients splits a row where another amount of another ingredient begins, and reads each part.
func (p *page) ingredients(words string, start int, toks cursor) []Line {
	runes := []rune(words)
	var fruit []string // that the part before asked for
	from, at := 0, 0
	ends := append(p.cuts(toks, start), len(runes))
	out := make([]Line, 0, len(ends))
	for k, cut := range ends {
		part := piece{words: string(runes[from:cut])}
		end := at
		for end < len(toks) && toks[end].from < cut {
			toks[end].from, toks[end].to = toks[end].from-from, toks[end].to-from
			end++
		}
		part.cursor = toks[at:end:end]
		from, at = cut, end
		if strings.TrimSpace(part.words) == "" {
			continue
		}
		if l, ok := p.claim(part.words); ok {
			out = append(out, p.keyed(l))
			continue
		}
		if len(out) > 0 && isStep(part.cursor) && !p.weighs(part.cursor) {
			out = append(out, p.keyed(Line{Kind: Step, Words: part.words, tokens: part.cursor}))
			continue
		}
		if k+1 == len(ends) || !strings.HasPrefix(strings.TrimSpace(string(runes[cut:ends[k+1]])), "as ") {
			part.said = p.last // but not: twice as much oil | as vinegar
		}
		if len(out) == 0 && start < len(part.cursor) {
			part.marks = start
		}
		lines, asks := p.book.readPart(part, fruit)
		fruit = asks
		for _, l := range lines {
			if l.Amount != nil {
				p.last = l.Amount
			}
			out = append(out, p.keyed(l))
		}
	}
	return out
}

// piece is a part of a row with its tokens, of which the first marks are no words; said is the amount before it.
type piece struct {
	cursor
	words string
	marks int
	said  *Amount
}

// readPart reads one part of a row. fruit is what of a fruit the part before asked for. It returns what of a fruit this
// part asks for in front: juice of.
func (b *Book) readPart(part piece, fruit []string) (lines []Line, asks []string) {
	body, lead, minus := part.words, 0, false
	toks := part.cursor
	if part.marks > 0 {
		lead = toks[part.marks].from
		body = string([]rune(part.words)[lead:])
		dash := toks[part.marks-1]
		minus = (dash.low == "-" || dash.low == "−") && toks[part.marks].isNumber() && dash.to == lead
		toks = toks[part.marks:]
		for i := range toks {
			toks[i].from, toks[i].to = toks[i].from-lead, toks[i].to-lead
		}
	}
	s := segmentOf(body, toks)
	s.scan()
	s.like(part.said)
	if len(s.fruit) > 0 && !slices.ContainsFunc(s.cursor, func(t token) bool { return t.role == UnitWord && t.aside }) {
		asks = s.fruit
	}
	lines = b.readScanned(s, fruit)
	if asks == nil && len(s.fruit) > 0 && len(fruit) > 0 {
		asks = fruit
	}
	for i := range lines {
		l := &lines[i]
		l.Words = part.words
		if minus {
			l.Questions = append(l.Questions, Question{Code: "minus",
				Text: "A dash stands right before the number. It was taken for a mark of the list, " +
					"not for less than nothing.", Options: []string{"ok"}})
		}
		if lead > 0 {
			shifted := []Mark{{0, lead, Layout}}
			for _, m := range l.Marks {
				shifted = append(shifted, Mark{m.From + lead, m.To + lead, m.Role})
			}
			l.Marks = shifted
		}
		if l.Kind == Weighed && l.Ingredient == "" && l.Amount == nil {
			l.Kind, l.ToWeigh = Unknown, false
			l.Questions = []Question{{Code: "unread", Text: "This was not understood. It is kept with the recipe."}}
		}
	}
	return lines, asks
}
