package office

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/day"
	"gallipot/internal/core/field"
	"gallipot/internal/core/shop"
	"gallipot/internal/core/told"
)

// RecordRow is something that was written down, and what it concerns.
type RecordRow struct {
	told.HistoryRow
	Of   string `json:"of"`   // the code of a batch or a lot, the name of anything else
	Name string `json:"name"` // what is in that batch or lot
	Link string `json:"link"` // where its story is read; empty where it has none
}

// RecordsView is what was written down on a day, the newest first, and how much on the days around.
type RecordsView struct {
	Day    day.Day           `json:"day"`
	Today  day.Day           `json:"today"`
	Rows   []RecordRow       `json:"rows"`
	Next   int64             `json:"next"` // where the part after it begins; 0 at its end
	Days   []kernel.DayCount `json:"days"` // of the weeks that end with it, those with anything
	People []string          `json:"people"`
}

// RecordsAsk is a day, a kind of record and a person. Empty means any; no day means the newest.
type RecordsAsk struct {
	Day    day.Day
	What   string
	By     string
	Before int64
}

// recordWhats are the kinds of records people look for: kinds of rows, and of entries within them.
var recordWhats = map[string]kernel.ChangesAsk{
	"":          {},
	"batches":   {Whats: []string{"batch", "entry"}},
	"readings":  {Whats: []string{"entry"}, Kinds: []string{"reading", "void", "laboratory", "heat", "net_weights"}},
	"decisions": {Whats: []string{"entry"}, Kinds: []string{"decision", "jars_in", "made_good", "choice", "recall"}},
	"prints":    {Whats: []string{"entry"}, Kinds: []string{"print"}},
	"jars":      {Whats: []string{"entry"}, Kinds: []string{"fill", "moved", "counted", "split", "from_bowl"}},
	"lots":      {Whats: []string{"lot", "lot_entry", "delivery"}},
	"recalls":   {Whats: []string{"recall"}},
	"formulas":  {Whats: []string{"formula", "version", "trial", "document", "recipe", "label"}},
	"pantry": {Whats: []string{"ingredient", "price", "measure", "preparation", "allergen_change", "word",
		"price_way"}},
	"shop": {Whats: []string{"shop", "person", "party", "vessel", "vessel_entry", "meter_check",
		"meter_look"}},
}

// daysShown is for how many days the records are counted.
const daysShown = 42

// Records tells what was written down on a day.
func (a *Room) Records(ctx context.Context, ask RecordsAsk) (RecordsView, error) {
	st := a.On(ctx)
	s, _, err := a.Settings(st)
	if err != nil {
		return RecordsView{}, err
	}
	zone := s.Zone()
	out := RecordsView{Today: day.Of(a.TodayIn(s)), Rows: []RecordRow{}, People: []string{}}
	out.Day = ask.Day
	if out.Day == "" {
		out.Day = out.Today
	}
	from, err := day.ParseIn(out.Day, zone)
	if err != nil {
		return out, kernel.Mistake("day", "a day, as 2026-11-25")
	}
	of, known := recordWhats[ask.What]
	if !known {
		return out, kernel.Mistake("what", "no kind of record is called %q", field.Clip(ask.What))
	}
	of.By, of.From, of.To, of.Before, of.Most = ask.By, from, from.AddDate(0, 0, 1), ask.Before, pageOfHistory+1
	rows, err := st.ChangesOn(of)
	if err != nil {
		return out, err
	}
	if len(rows) > pageOfHistory {
		rows = rows[:pageOfHistory]
		out.Next = rows[pageOfHistory-1].Seq
	}
	if out.Rows, err = recordRows(st, rows, s); err != nil {
		return out, err
	}
	last := max(out.Day, min(out.Today, day.Of(from.AddDate(0, 0, daysShown/2))))
	end, _ := day.ParseIn(last, zone)
	of.From, of.To, of.Before = end.AddDate(0, 0, 1-daysShown), end.AddDate(0, 0, 1), 0
	if out.Days, err = st.ChangeDays(of, zone.String()); err != nil {
		return out, err
	}
	who, err := st.People()
	for _, p := range who {
		out.People = append(out.People, p.Name)
	}
	return out, err
}

// recordRows puts changes into words, each with what it concerns.
func recordRows(st kernel.Store, rows []told.Change, s shop.Settings) ([]RecordRow, error) {
	names, err := recordNames(st, rows)
	if err != nil {
		return nil, err
	}
	out := []RecordRow{}
	tongue := s.Tongue()
	for _, g := range together(rows) {
		x, err := told.Told(g)
		if err != nil {
			return nil, fmt.Errorf("change %d: %w", g[0].Seq, err)
		}
		x.Said = told.InTongue(x.Said, tongue)
		for i := range x.Details {
			x.Details[i] = told.InTongue(x.Details[i], tongue)
		}
		r := RecordRow{HistoryRow: x}
		r.Of, r.Link = subjectOf(g[0], names)
		if strings.HasPrefix(r.Link, "/batches/") || strings.HasPrefix(r.Link, "/lots/") {
			r.Of, r.Name, _ = strings.Cut(r.Of, " ")
		}
		out = append(out, r)
	}
	return out, nil
}

// subjectOf is what a change concerns, and where its history is shown.
func subjectOf(c told.Change, names map[string]string) (name, link string) {
	name = names[c.What+" "+c.Which]
	switch c.What {
	case "batch", "entry":
		return names["batch "+c.Which], "/batches/" + c.Which + "/record"
	case "lot", "lot_entry":
		return names["lot "+c.Which], "/lots/" + c.Which
	case "recall":
		return name, "/recalls/" + c.Which
	case "formula", "trial", "document":
		return name, "/formulas/" + c.Which
	case "version":
		formula, _, _ := strings.Cut(c.Which, "/")
		return names["formula "+formula], "/formulas/" + c.Which
	case "ingredient", "price", "measure":
		return names["ingredient "+c.Which], "/pantry/" + c.Which
	case "label":
		return name, "/labels/" + c.Which
	case "preparation":
		return name, "/preparations/" + c.Which
	case "recipe":
		return name, "/reader/" + c.Which
	case "word":
		return c.Which, "/reader"
	case "price_way":
		return "", "/pantry"
	case "allergen_change":
		return "", "/allergens/" + c.Which
	case "delivery":
		return "", "/stock"
	case "party":
		return "", "/jars?who=1"
	case "shop", "mark", "person", "vessel":
		return "", "/shop"
	}
	return "", ""
}

// recordNames gives the codes of the batches and lots that changes concern, each followed by what is in it, and the
// names of other things.
func recordNames(st kernel.Store, rows []told.Change) (map[string]string, error) {
	ids, texts := map[string][]int64{}, map[string][]string{}
	for _, c := range rows {
		what, which := c.What, c.Which
		switch what {
		case "entry":
			what = "batch"
		case "lot_entry":
			what = "lot"
		case "trial", "document", "version":
			what = "formula"
			which, _, _ = strings.Cut(which, "/")
		case "price", "measure":
			what = "ingredient"
		}
		if id, err := strconv.ParseInt(which, 10, 64); err == nil && !slices.Contains(ids[what], id) {
			ids[what] = append(ids[what], id)
		}
		if !slices.Contains(texts[what], which) {
			texts[what] = append(texts[what], which)
		}
	}
	return st.NamesOf(ids, texts)
}
