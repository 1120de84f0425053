package reader

import "fmt"

// fixLast lets the last line that was read stay as it is when the rest is doubled.
func (r *Reading) fixLast() {
	for i := len(r.Lines) - 1; i >= 0; i-- {
		if r.Lines[i].Kind == Weighed {
			r.Lines[i].Fixed = true
			return
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
