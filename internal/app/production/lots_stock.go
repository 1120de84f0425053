package production

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/field"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"
)

// StockView is what is there, by ingredient and by component; what ends first stands first.
type StockView struct {
	Today day.Day           `json:"today"`
	Rows  []kernel.StockSum `json:"rows"`
	Short []Shortage        `json:"short"`
	Throw []ThrowAway       `json:"throw"`
}

// ThrowAway is a lot past its end of which something is left.
type ThrowAway struct {
	kernel.LotStanding
	Cost *amount.Exact `json:"cost"` // of what is left; null where it is not known
}

// Shortage is what planned batches need and the stock has not.
type Shortage struct {
	Ingredient string            `json:"ingredient"`
	Name       string            `json:"name"`
	Need       amount.Grams      `json:"need_g"`
	There      amount.Grams      `json:"there_g"`
	For        []kernel.BatchRow `json:"for"`
}

// StockOf shows the stock.
func (a *Room) StockOf(ctx context.Context) (StockView, error) {
	st := a.On(ctx)
	s, _, err := a.Settings(st)
	if err != nil {
		return StockView{}, err
	}
	out := StockView{Today: day.Of(a.TodayIn(s)), Throw: []ThrowAway{}}
	if out.Rows, err = st.Stock(out.Today); err != nil {
		return out, err
	}
	if out.Throw, err = a.throwAway(st, out.Today); err != nil {
		return out, err
	}
	out.Short, err = a.shortages(st)
	return out, err
}

// throwAway are lots past their end with something left, what ended first first.
func (a *Room) throwAway(st kernel.Store, today day.Day) ([]ThrowAway, error) {
	on, err := pantry.ParseDay(today)
	if err != nil {
		return nil, err
	}
	past, _, err := st.ListLots(kernel.StockQuery{Show: "ends", Until: day.Of(on.AddDate(0, 0, -1))},
		mostLots)
	out := make([]ThrowAway, 0, len(past))
	for _, l := range past {
		out = append(out, ThrowAway{l, worth(l)})
	}
	return out, err
}

// worth is what is left of a lot in money; nil where its cost is not known.
func worth(l kernel.LotStanding) *amount.Exact {
	if l.PerGram == nil {
		return nil
	}
	w := l.PerGram.Times(l.Left.Exact())
	return &w
}

// mostLots is how many lots a list names.
const mostLots = 200

// LotPage is a part of the lots, what ends first first.
type LotPage struct {
	Today day.Day              `json:"today"`
	Lots  []kernel.LotStanding `json:"lots"`
	All   int                  `json:"all"` // that fit the question
}

// ListOfLots lists lots.
func (a *Room) ListOfLots(ctx context.Context, q kernel.StockQuery) (LotPage, error) {
	st := a.On(ctx)
	s, _, err := a.Settings(st)
	if err != nil {
		return LotPage{}, err
	}
	today := a.TodayIn(s)
	out := LotPage{Today: day.Of(today)}
	if q.Show == "ends" && q.Until == "" {
		q.Until = day.Of(today.AddDate(0, 0, kernel.NearDays))
	}
	if code := LotCode(q.Find); code != "" && code[0] != 'P' { // as it stands on a jar
		q.Find = code
	}
	out.Lots, out.All, err = st.ListLots(q, mostLots)
	return out, err
}

// mostPlanned is how many planned batches are looked at for what is short.
const mostPlanned = 100

// shortages are what planned batches need more than there is, over ingredients that are kept in lots and components.
func (a *Room) shortages(st kernel.Store) ([]Shortage, error) {
	rows, err := st.PlannedBatches(mostPlanned)
	if err != nil || len(rows) == 0 {
		return []Shortage{}, err
	}
	desk, err := a.Judging(st)
	if err != nil {
		return nil, err
	}
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.Batch
	}
	batches, err := st.BatchesBy(ids)
	if err != nil {
		return nil, err
	}
	list, err := desk.Read(st, batches)
	if err != nil {
		return nil, err
	}
	w := desk.larder()
	needs := newNeeds()
	for _, l := range list {
		at := slices.IndexFunc(rows, func(r kernel.Listed) bool { return r.Batch == l.Row.ID })
		if err := w.needOf(st, l, RowOf(rows[at]), needs); err != nil {
			return nil, err
		}
	}
	return w.short(st, needs)
}

// needs are grams of what is bought, by ingredient or by component, with the batches that need them.
type needs struct {
	keys []string
	of   map[string]*Shortage
	from map[string]wanted
}

func newNeeds() *needs { return &needs{nil, map[string]*Shortage{}, map[string]wanted{}} }

func (n *needs) add(key, name string, w wanted, grams amount.Grams, batch kernel.BatchRow) {
	x := n.of[key]
	if x == nil {
		x = &Shortage{Name: name}
		n.of[key], n.from[key] = x, w
		n.keys = append(n.keys, key)
	}
	x.Need = x.Need.Plus(grams)
	if !slices.ContainsFunc(x.For, func(b kernel.BatchRow) bool { return b.ID == batch.ID }) {
		x.For = append(x.For, batch)
	}
}

// needOf adds what a planned batch still has to weigh.
func (w *larder) needOf(st kernel.Store, l Loaded, row kernel.BatchRow, n *needs) error {
	var open []bench.LineState
	var lines []string
	for _, line := range l.Record.Lines {
		if line.Actual == nil && line.NeedsLot {
			open, lines = append(open, line), append(lines, line.Line)
		}
	}
	wants, err := w.wantedBy(st, l, lines...)
	if err != nil {
		return err
	}
	for i, line := range open {
		name := line.Name
		if len(wants[i].ids) == 1 {
			name = w.nameOf(wants[i].ids[0], name)
		}
		n.add(wants[i].key(), name, wants[i], line.Grams, row)
	}
	return nil
}

// short compares what is needed with what may be used.
func (w *larder) short(st kernel.Store, n *needs) ([]Shortage, error) {
	out := []Shortage{}
	wants := make([]wanted, len(n.keys))
	var ids []string
	for i, key := range n.keys {
		wants[i] = n.from[key]
		ids = append(ids, wants[i].all()...)
	}
	list, err := w.there(st, wants...)
	if err != nil {
		return nil, err
	}
	kept, err := st.KeptInLots(ids)
	if err != nil {
		return nil, err
	}
	for i, key := range n.keys {
		x := n.of[key]
		for _, c := range list[i] {
			if c.WhyNot == "" {
				x.There = x.There.Plus(c.Reaches)
			}
		}
		follows := wants[i].component != nil || slices.ContainsFunc(wants[i].all(),
			func(id string) bool { return slices.Contains(kept, id) }) // once one came in
		if follows && x.There.Cmp(x.Need) < 0 {
			x.Ingredient = wants[i].first()
			out = append(out, *x)
		}
	}
	return out, nil
}

func (w *larder) nameOf(id, otherwise string) string {
	if g := w.have[id]; g != nil {
		return g.Name
	}
	return otherwise
}

// LotTasks lists what came in and waits, what ends, what is short, and what is on hold and went out.
func (a *Room) LotTasks(out *kernel.TodayView, st kernel.Store, today day.Day) error {
	if err := barredTasks(out, st); err != nil {
		return err
	}
	sooner, err := st.BatchesSooner(kernel.MostTasks)
	if err != nil {
		return err
	}
	for _, x := range sooner {
		out.Tasks = append(out.Tasks, kernel.Task{Kind: "sooner", Level: "danger",
			Title: fmt.Sprintf("%s, %s, keeps less long than its jars say", x.Code, x.FormulaName),
			Text:  field.Sentence(x.Sooner) + " An owner decides on it.", Link: fmt.Sprintf("/batches/%d/decide",
				x.Batch), When: "now"})
	}
	waiting, n, err := st.ListLots(kernel.StockQuery{Show: "waiting"}, kernel.MostTasks)
	if err != nil {
		return err
	}
	if n > 0 {
		t := kernel.Task{Kind: "lot_waits", Level: "needs_you",
			Title: fmt.Sprintf("%d lots came in and wait to be accepted", n), Text: "",
			Link: "/stock?show=waiting",
			When: "accept"}
		if n == 1 {
			t.Title = fmt.Sprintf("%s, %s, came in and waits to be accepted", waiting[0].Code, waiting[0].Name)
			t.Link = fmt.Sprintf("/lots/%d", waiting[0].ID)
		}
		t.Text = namesOf(waiting)
		out.Tasks = append(out.Tasks, t)
	}
	if err := a.endTasks(out, st, today); err != nil {
		return err
	}
	short, err := a.shortages(st)
	if err != nil {
		return err
	}
	for _, x := range short {
		out.Tasks = append(out.Tasks, kernel.Task{Kind: "short", Level: "needs_you",
			Title: fmt.Sprintf("%s is short for planned batches", x.Name),
			Text: fmt.Sprintf("%s needs %s g; %s g may be used.", codesOf(x.For), x.Need.Exact().Fixed(0),
				x.There.Exact().Fixed(0)),
			Link: "/stock?of=" + x.Ingredient, When: "buy or make"})
	}
	return nil
}

// lotsNear is how many days ahead the end of a lot is named.
const lotsNear = 3

// endTasks name lots that end, and those that ended with something left.
func (a *Room) endTasks(out *kernel.TodayView, st kernel.Store, today day.Day) error {
	on, err := pantry.ParseDay(today)
	if err != nil {
		return err
	}
	near, _, err := st.ListLots(kernel.StockQuery{Show: "ends", Until: day.Of(on.AddDate(0, 0,
		lotsNear))},
		kernel.MostTasks)
	if err != nil {
		return err
	}
	var past []kernel.LotStanding
	lost := amount.Exact{}
	for _, l := range near {
		days, _ := kernel.DaysUntil(l.Ends, on)
		if days < 0 {
			past = append(past, l)
			if w := worth(l); w != nil {
				lost = lost.Plus(*w)
			}
			continue
		}
		if l.Kind == lots.OfBatch {
			continue // the batch's own date is named
		}
		t := kernel.Task{Kind: "lot_ends", Level: "soon", Title: fmt.Sprintf("%s, %s: use it", l.Code, l.Name),
			Text: fmt.Sprintf("%s g are left.", l.Left.Exact().Fixed(0)), Link: fmt.Sprintf("/lots/%d", l.ID),
			When: fmt.Sprintf("ends in %d days", days)}
		switch days {
		case 0:
			t.When = "last day"
		case 1:
			t.When = "ends tomorrow"
		}
		out.Tasks = append(out.Tasks, t)
	}
	if len(past) > 0 {
		out.Tasks = append(out.Tasks, kernel.Task{Kind: "lot_past", Level: "needs_you",
			Title: "Throw away what is past its end",
			Text:  fmt.Sprintf("%s Worth %s.", namesOf(past), lost.Fixed(2)), Link: "/stock?show=past",
			When: kernel.Plural(len(past), "lot")})
	}
	return nil
}

// barredTasks name lots that may not be used and went into batches that are out.
func barredTasks(out *kernel.TodayView, st kernel.Store) error {
	barred, _, err := st.ListLots(kernel.StockQuery{Show: "barred"}, kernel.MostTasks)
	if err != nil || len(barred) == 0 {
		return err
	}
	ids := make([]int64, len(barred))
	for i, l := range barred {
		ids[i] = l.ID
	}
	drawn, err := st.DrawnBy(ids...)
	if err != nil {
		return err
	}
	for _, l := range barred {
		var batches []int64
		for _, d := range drawn[l.ID] {
			batches = append(batches, d.Batch)
		}
		rows, err := st.ListedBatches(batches)
		if err != nil {
			return err
		}
		rows = slices.DeleteFunc(rows, func(r kernel.Listed) bool { return !r.JarsOut || r.State != "released" })
		if len(rows) == 0 {
			continue
		}
		of := make([]kernel.BatchRow, len(rows))
		for i, r := range rows {
			of[i] = RowOf(r)
		}
		out.Tasks = append(out.Tasks, kernel.Task{Kind: "lot_barred", Level: "danger",
			Title: fmt.Sprintf("%s, %s, went into batches that are out", l.Code, l.Name),
			Text:  fmt.Sprintf("Decide on %s: %s.", codesOf(of), l.Bar), Link: fmt.Sprintf("/lots/%d", l.ID),
			When: "now"})
	}
	return nil
}

// firstNames is how many names a task lists one by one.
const firstNames = 4

// few lists names, the first one by one.
func few(names []string) string {
	if more := len(names) - firstNames; more > 0 {
		return fmt.Sprintf("%s and %d more", strings.Join(names[:firstNames], ", "), more)
	}
	return strings.Join(names, ", ")
}

func namesOf(list []kernel.LotStanding) string {
	names := make([]string, len(list))
	for i, l := range list {
		names[i] = l.Code + " " + l.Name
	}
	return few(names) + "."
}

func codesOf(list []kernel.BatchRow) string {
	codes := make([]string, len(list))
	for i, b := range list {
		codes[i] = b.Code
	}
	return few(codes)
}
