package reader

import (
	"slices"
)

// servesIt are words that begin what is done at the table: what is named there goes into no bowl.
var servesIt = words("servesIt")

// inSteps asks once about what only a step or a remark names (handbook 02, no ingredient is lost).
func (r *Reading) inSteps(b *Book) {
	for i := range r.Lines {
		l := &r.Lines[i]
		if l.Kind != Step && l.Kind != Remark || l.Fixed || l.Serving {
			continue
		}
		if l.tokens == nil {
			l.tokens = tokenise(l.Words)
		}
		b.Index.know(l.tokens)
		if !slices.ContainsFunc(l.tokens, func(t token) bool { return t.stem != noName }) {
			continue
		}
		s := segmentOf(l.Words, l.tokens)
		verb := skipMarks(s.cursor)
		for verb < len(s.cursor) && (s.cursor[verb].leads() || s.cursor[verb].small()) {
			verb++
		}
		if verb < len(s.cursor) && servesIt[s.cursor[verb].low] || s.saysWithout() {
			continue
		}
		for k := range s.cursor {
			s.cursor[k].role = Note
		}
		l.Also = b.candidates(s.aside(b.Index, nil))
	}
}

// alsoElsewhere drops a proposed line if another line already has that ingredient, in whatever state.
func (r *Reading) alsoElsewhere(b *Book) {
	r.inSteps(b)
	has, said := map[string]bool{}, map[string]bool{}
	for _, l := range r.Lines {
		if l.Kind == Weighed && l.Ingredient != "" {
			for _, id := range append(slices.Clone(l.AnyOf), l.Ingredient) {
				has[b.kind(id)] = true
				said[b.kind(id)] = said[b.kind(id)] || l.Amount != nil
				for _, p := range b.makers(id) {
					has[b.kind(p.Input)] = true
				}
			}
		}
	}
	asked := map[string]bool{}
	for i := range r.Lines {
		l := &r.Lines[i]
		if len(l.Also) == 0 {
			continue
		}
		bowl := l.Kind == Weighed && l.As == AsBowl
		l.Also = slices.DeleteFunc(l.Also, func(c Candidate) bool {
			k := b.kind(c.ID)
			if said[k] || !bowl && (has[k] || asked[k]) {
				return true
			}
			asked[k] = true
			return false
		})
		l.drop("also")
		if ids := idsOf(l.Also); len(ids) > 0 {
			l.Questions = append(l.Questions, b.askAlso(ids))
		}
	}
}

// alsoLines adds the lines of what the maker says goes in as well.
func (r *Reading) alsoLines(p *page, answers map[string]Answer) {
	if !slices.ContainsFunc(r.Lines, func(l Line) bool { return answers[l.Key].Also == "yes" }) {
		return
	}
	lines := make([]Line, 0, len(r.Lines))
	for _, l := range r.Lines {
		lines = append(lines, l)
		if answers[l.Key].Also != "yes" {
			continue
		}
		p.row, p.section, p.serving = l.Row, l.Section, l.Serving
		for _, also := range l.Also {
			lines = append(lines, p.keyed(Line{Kind: Weighed, Words: l.Words, Shares: true, Marks: l.Marks,
				Ingredient: also.ID, Name: also.Name, As: AsBowl, ToWeigh: true,
				How: "no amount was said of it: weigh it once"}.finish()))
		}
	}
	r.Lines = lines
}

// kind is what an ingredient and its states have in common: the name on a label.
func (b *Book) kind(id string) string {
	b.once.Do(b.prepare)
	return b.kinds[id]
}

func idsOf(list []Candidate) []string {
	out := make([]string, len(list))
	for i, c := range list {
		out[i] = c.ID
	}
	return out
}
