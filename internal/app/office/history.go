package office

import (
	"context"
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/told"
)

// subjects lists the kinds of rows that make up the history of one thing as people see it.
func subjects(of, id string) ([]kernel.Subject, error) {
	one := func(what ...string) []kernel.Subject {
		var out []kernel.Subject
		for _, w := range what {
			out = append(out, kernel.Subject{What: w, Which: id})
		}
		return out
	}
	switch of {
	case "ingredient":
		return one("ingredient", "price", "measure"), nil
	case "formula":
		return append(one("formula", "trial", "document"), kernel.Subject{What: "version", Which: id, Below: true}), nil
	case "batch":
		return one("batch", "entry"), nil
	case "lot":
		return one("lot", "lot_entry"), nil
	case "shop":
		return []kernel.Subject{{What: "shop", Which: "1"}, {What: "mark", Which: "1"}, {What: "person",
			Below: true}}, nil
	case "label", "preparation", "recipe", "recall":
		return one(of), nil
	}
	return nil, kernel.Mistake("of",
		"of an ingredient, formula, batch, lot, label, preparation, recipe, recall or the shop")
}

// HistoryPage is a page of a history, the newest first. Next is where the next page begins, 0 at the end.
type HistoryPage struct {
	Rows []told.HistoryRow `json:"rows"`
	Next int64             `json:"next"`
}

const pageOfHistory = 60

// History tells what happened to a thing, the newest change first, beginning before a place; 0 begins with the newest.
func (a *Room) History(ctx context.Context, of, id string, before int64) (HistoryPage, error) {
	out := HistoryPage{Rows: []told.HistoryRow{}}
	about, err := subjects(of, id)
	if err != nil {
		return out, err
	}
	rows, err := a.On(ctx).Changes(about, before, pageOfHistory+1)
	if err != nil {
		return out, err
	}
	if len(rows) > pageOfHistory {
		rows = rows[:pageOfHistory]
		out.Next = rows[pageOfHistory-1].Seq
	}
	s, _, err := a.Settings(a.On(ctx))
	if err != nil {
		return out, err
	}
	tongue := s.Tongue()
	for _, g := range together(rows) {
		row, err := told.Told(g)
		if err != nil {
			return out, fmt.Errorf("change %d: %w", g[0].Seq, err)
		}
		row.Said = told.InTongue(row.Said, tongue)
		for i := range row.Details {
			row.Details[i] = told.InTongue(row.Details[i], tongue)
		}
		out.Rows = append(out.Rows, row)
	}
	return out, nil
}

// togetherWithin is how close together one person's typing must be to count as one sitting.
const togetherWithin = 30 * time.Minute

// together groups what was typed at one draft in one sitting. Every other change is a group of its own.
func together(rows []told.Change) [][]told.Change {
	var out [][]told.Change
	for _, c := range rows {
		if n := len(out); n > 0 && c.Typed() {
			last := out[n-1]
			x := last[len(last)-1]
			if x.Typed() && x.Which == c.Which && x.By == c.By && x.At.Sub(c.At) < togetherWithin {
				out[n-1] = append(last, c)
				continue
			}
		}
		out = append(out, []told.Change{c})
	}
	return out
}
