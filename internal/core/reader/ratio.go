package reader

import (
	"fmt"
	"unicode"
)

// fixLast lets the last line that was read stay as it is when the rest is doubled.
func (r *Reading) fixLast() {
	for i := len(r.Lines) - 1; i >= 0; i-- {
		if r.Lines[i].Kind == Weighed {
			r.Lines[i].Fixed = true
			return
		}
	}
}

// fixNamed lets the line of an ingredient that has an amount stay as it is when the rest is doubled.
func (r *Reading) fixNamed(id string) bool {
	for i := range r.Lines {
		if l := &r.Lines[i]; id != "" && l.Kind == Weighed && l.Ingredient == id && l.Amount != nil {
			l.Fixed = true
			return true
		}
	}
	return false
}

// chattyWords is from how many words that nobody understands a row without an amount counts as talk.
const chattyWords = 3

// inPassing keeps as remarks the rows that only talk of something that another line has an amount of: so this is the
// carrot one that we do on Fridays.
func (r *Reading) inPassing() {
	said := map[string]bool{}
	for _, l := range r.Lines {
		said[l.Ingredient] = said[l.Ingredient] || l.Kind == Weighed && l.Amount != nil
	}
	for i := range r.Lines {
		l := &r.Lines[i]
		if l.Kind != Weighed || l.Amount != nil || l.Ingredient == "" || !said[l.Ingredient] || l.As != AsBowl {
			continue
		}
		unread := 0
		words := []rune(l.Words)
		for _, m := range l.Marks {
			if m.Role == Unread && m.From < m.To && unicode.IsLetter(words[min(m.From, len(words)-1)]) {
				unread++
			}
		}
		if unread >= chattyWords {
			*l = Line{Key: l.Key, Row: l.Row, Kind: Remark, Words: l.Words, Shares: l.Shares, Section: l.Section,
				Marks: l.Marks, Near: []Candidate{}, AnyOf: []string{}, Also: []Candidate{}, Questions: []Question{}}
		}
	}
}

// shareOut gives the lines of a ratio their grams where one of them is known: said in another line, or weighed.
func (r *Reading) shareOut() {
	for i := 0; i < len(r.Lines); {
		end := i
		for end < len(r.Lines) && r.Lines[end].Parts > 0 && r.Lines[end].Row == r.Lines[i].Row {
			end++
		}
		if end > i {
			r.resolve(r.Lines[i:end])
		}
		i = max(end, i+1)
	}
}

func (r *Reading) resolve(ratio []Line) {
	part, of := 0.0, ""
	for i := range ratio {
		l := &ratio[i]
		if l.Grams != nil && l.Source == FromScale {
			part, of = *l.Grams/l.Parts, l.Name
			break
		}
		for _, said := range r.Lines {
			if said.Parts == 0 && said.Kind == Weighed && said.As == AsBowl && said.Ingredient == l.Ingredient &&
				said.Ingredient != "" && said.Grams != nil {
				part, of = *said.Grams/l.Parts, said.Name
				l.As, l.How, l.ToWeigh = AsLeft, "its amount is said in another line", false
			}
		}
		if part > 0 {
			break
		}
	}
	if part == 0 {
		return
	}
	for i := range ratio {
		l := &ratio[i]
		if l.Grams != nil || l.As == AsLeft || l.Ingredient == "" {
			continue
		}
		g := part * l.Parts
		l.Grams, l.Spread, l.Source, l.ToWeigh = &g, 5, FromWords, false
		l.How = fmt.Sprintf("%s parts, by the %s", figure(l.Parts), of)
	}
}
