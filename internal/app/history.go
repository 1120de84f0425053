package app

import (
	"context"
	"encoding/json"
	"fmt"
	"time"
)

// Change is one write as it was noted: who, when, to what, with what it was before and after.
type Change struct {
	Seq    int64
	At     time.Time
	By     string
	Act    string // insert, update or delete
	What   string // ingredient, price, version …
	Which  string
	Why    string
	Before json.RawMessage
	After  json.RawMessage
}

// HistoryStore reads what was noted of writes.
type HistoryStore interface {
	Changes(of []Subject, before int64, most int) ([]Change, error)
	ChangesOn(ask ChangesAsk) ([]Change, error)
	ChangeDays(ask ChangesAsk, zone string) ([]DayCount, error)
	NamesOf(ids map[string][]int64, texts map[string][]string) (map[string]string, error)
}

// Subject names what changes are about: one kind of row, or rows whose name begins so.
type Subject struct {
	What  string
	Which string
	Below bool // rows named Which/…, too
}

// subjects are the rows that tell the history of a thing that people see as one.
func subjects(of, id string) ([]Subject, error) {
	one := func(what ...string) []Subject {
		var out []Subject
		for _, w := range what {
			out = append(out, Subject{What: w, Which: id})
		}
		return out
	}
	switch of {
	case "ingredient":
		return one("ingredient", "price", "measure"), nil
	case "formula":
		return append(one("formula", "trial", "document"), Subject{What: "version", Which: id, Below: true}), nil
	case "batch":
		return one("batch", "entry"), nil
	case "lot":
		return one("lot", "lot_entry"), nil
	case "shop":
		return []Subject{{What: "shop", Which: "1"}, {What: "mark", Which: "1"}, {What: "person", Below: true}}, nil
	case "label", "preparation", "recipe", "recall":
		return one(of), nil
	}
	return nil, field("of", "of an ingredient, formula, batch, lot, label, preparation, recipe, recall or the shop")
}

// HistoryRow is one change as a sentence: who did what, with the details.
type HistoryRow struct {
	Seq     int64     `json:"seq"`
	At      time.Time `json:"at"`
	By      string    `json:"by"`
	Said    string    `json:"said"`
	Details []string  `json:"details"`
}

// HistoryPage is a part of a history, the newest first. Next is where the part after it begins; 0 at its end.
type HistoryPage struct {
	Rows []HistoryRow `json:"rows"`
	Next int64        `json:"next"`
}

const pageOfHistory = 60

// History tells what became of a thing, the newest change first, from the one before a place on; 0 for the newest.
func (a *App) History(ctx context.Context, of, id string, before int64) (HistoryPage, error) {
	out := HistoryPage{Rows: []HistoryRow{}}
	about, err := subjects(of, id)
	if err != nil {
		return out, err
	}
	rows, err := a.on(ctx).Changes(about, before, pageOfHistory+1)
	if err != nil {
		return out, err
	}
	if len(rows) > pageOfHistory {
		rows = rows[:pageOfHistory]
		out.Next = rows[pageOfHistory-1].Seq
	}
	s, _, err := a.settings(a.on(ctx))
	if err != nil {
		return out, err
	}
	tongue := s.Tongue()
	for _, g := range together(rows) {
		row, err := told(g)
		if err != nil {
			return out, fmt.Errorf("change %d: %w", g[0].Seq, err)
		}
		row.Said = inTongue(row.Said, tongue)
		for i := range row.Details {
			row.Details[i] = inTongue(row.Details[i], tongue)
		}
		out.Rows = append(out.Rows, row)
	}
	return out, nil
}

// togetherWithin is how close typed grams of one hand count as one sitting.
const togetherWithin = 30 * time.Minute

// together puts the typing of one sitting at one draft into one group; every other change is a group of its own.
func together(rows []Change) [][]Change {
	var out [][]Change
	for _, c := range rows {
		if n := len(out); n > 0 && c.typed() {
			last := out[n-1]
			x := last[len(last)-1]
			if x.typed() && x.Which == c.Which && x.By == c.By && x.At.Sub(c.At) < togetherWithin {
				out[n-1] = append(last, c)
				continue
			}
		}
		out = append(out, []Change{c})
	}
	return out
}

// typed reports whether a change is of a draft as it is typed.
func (c Change) typed() bool { return c.What == "version" && c.Act == "update" && c.Before == nil }
