package app

import (
	"context"
	"fmt"
	"sort"
	"strings"
	"time"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// Task is one thing that needs a hand. Level is danger, needs_you or soon; Link is a place in the app.
type Task struct {
	Kind  string `json:"kind"`
	Level string `json:"level"`
	Title string `json:"title"`
	Text  string `json:"text"`
	Link  string `json:"link"`
	When  string `json:"when"`
}

// TodayView is the first screen: what needs a hand now, in order, and the batches that are out.
type TodayView struct {
	Tasks   []Task     `json:"tasks"`
	Batches []BatchRow `json:"batches"` // released, in date, the earliest first
}

// nearDays is how many days ahead a date counts as near.
const nearDays = 7

// Today gathers what needs a hand, in order: labels to stop using, call-backs, batches on hold, dates, old labels, prices.
func (a *App) Today(ctx context.Context) (TodayView, error) {
	st := a.Store.With(ctx)
	out := TodayView{Tasks: []Task{}, Batches: []BatchRow{}}
	labels, err := a.labelRows(st)
	if err != nil {
		return out, err
	}
	for _, l := range labels {
		out.labelTask(l, LabelStop)
	}
	batches, err := a.loadAll(st)
	if err != nil {
		return out, err
	}
	sort.SliceStable(batches, func(i, j int) bool { return batches[i].row.ID < batches[j].row.ID })
	for _, l := range batches {
		a.batchTask(&out, l)
	}
	for _, l := range batches {
		a.dateTask(&out, l)
	}
	for _, l := range labels {
		out.labelTask(l, LabelOld)
	}
	if err := a.priceTasks(&out, st); err != nil {
		return out, err
	}
	danger := func(t Task) bool { return t.Level == "danger" }
	sort.SliceStable(out.Tasks, func(i, j int) bool { return danger(out.Tasks[i]) && !danger(out.Tasks[j]) })
	sort.SliceStable(out.Batches, func(i, j int) bool { return out.Batches[i].LastDay < out.Batches[j].LastDay })
	return out, nil
}

func (v *TodayView) labelTask(l LabelRow, state string) {
	if l.State != state {
		return
	}
	t := Task{Kind: "label", Level: "needs_you", Title: fmt.Sprintf("%s label of %s is out of date", l.Regime, l.FormulaName),
		Text: "What the label says has changed since it was confirmed. See the difference, then bring it up to date.", Link: fmt.Sprintf("/labels/%d", l.ID), When: "before printing"}
	if state == LabelStop {
		t.Level, t.When = "danger", "now"
		t.Title = fmt.Sprintf("Stop using the %s label of %s", l.Regime, l.FormulaName)
		t.Text = "It does not name " + pantry.PlainAllergens(l.Gained) + ", which the product now contains."
	}
	v.Tasks = append(v.Tasks, t)
}

// batchTask tells what a batch on hold waits for.
func (a *App) batchTask(out *TodayView, l loaded) {
	link := fmt.Sprintf("/batches/%d", l.row.ID)
	if l.record.Acidity.CallBack {
		out.Tasks = append(out.Tasks, Task{"batch", "danger", fmt.Sprintf("Call back %s, %s", l.row.Code, l.name),
			"Released on the first day's reading; the equilibrium reading fails. " + l.record.Acidity.Sentence, link, "now"})
		return
	}
	if l.record.State == bench.Released {
		if l.record.Decided.Way == acidity.FirstDay && l.record.Acidity.Way != acidity.Equilibrium {
			out.Tasks = append(out.Tasks, Task{"reading", "needs_you", fmt.Sprintf("Equilibrium reading of %s, %s", l.row.Code, l.name),
				"Released early; the deciding reading is still due.", link, dueText(l.record.Acidity.DueAt, a.Now())})
		}
		return
	}
	if l.record.State != bench.OnHold {
		return
	}
	missing := l.standing()
	t := Task{"batch", "needs_you", fmt.Sprintf("%s, %s, is on hold", l.row.Code, l.name), "Ready: everything is there. Decide.", link, "ready"}
	if len(missing) > 0 {
		t.Text = "Waits for " + missing[0]
		if n := len(missing) - 1; n > 0 {
			t.Text += fmt.Sprintf("; %d more after that", n)
		}
		t.Text += "."
		t.When = "waits"
		if strings.HasPrefix(missing[0], "equilibrium") {
			t.When = dueText(l.record.Acidity.DueAt, a.Now())
		}
		if l.record.Acidity.Outcome == acidity.HoldIt || l.record.Acidity.Outcome == acidity.Retest {
			t.Level, t.Text, t.When = "danger", l.record.Acidity.Sentence, "decide"
		}
	}
	out.Tasks = append(out.Tasks, t)
}

func dueText(due string, now time.Time) string {
	at, err := time.Parse(time.RFC3339, due)
	if err != nil {
		return ""
	}
	if at.Before(now) {
		return "due now"
	}
	return "from " + at.In(now.Location()).Format("2 Jan 15:04")
}

// dateTask lists released batches in date, and those near or past their last day.
func (a *App) dateTask(out *TodayView, l loaded) {
	if l.record.State != bench.Released {
		return
	}
	row := l.summary()
	days, ok := a.daysUntil(row.LastDay)
	if !ok || days < -nearDays {
		return
	}
	if days >= 0 {
		out.Batches = append(out.Batches, row)
	}
	if days > nearDays {
		return
	}
	t := Task{"date", "soon", fmt.Sprintf("%s, %s: sell or use", l.row.Code, l.name), fmt.Sprintf("%d jars made; the last day is near.", row.Jars),
		fmt.Sprintf("/batches/%d", l.row.ID), fmt.Sprintf("%d days left", days)}
	switch {
	case days < 0:
		t.Level, t.Title, t.Text = "needs_you", fmt.Sprintf("%s, %s: withdraw what is left", l.row.Code, l.name), "The last day is past."
		t.When = fmt.Sprintf("%d days over", -days)
	case days == 0:
		t.When = "last day"
	case days == 1:
		t.When = "1 day left"
	}
	out.Tasks = append(out.Tasks, t)
}

// priceTasks lists ingredients of current formulas without a price, and prices that grew old.
func (a *App) priceTasks(out *TodayView, st Store) error {
	rows, err := a.pantryRows(st)
	if err != nil {
		return err
	}
	versions, err := st.Versions("")
	if err != nil {
		return err
	}
	current := map[string]formula.Version{}
	for _, v := range versions {
		current[v.FormulaID] = v.Data
	}
	used := map[string]bool{}
	for _, v := range current {
		for _, l := range v.Lines {
			used[l.Ingredient] = true
		}
	}
	var missing, stale []IngredientRow
	for _, g := range rows {
		switch {
		case !used[g.ID] || g.ID == "water":
		case g.PerKg == nil:
			missing = append(missing, g)
		case g.Stale:
			stale = append(stale, g)
		}
	}
	add := func(list []IngredientRow, title, text string) {
		if len(list) == 0 {
			return
		}
		names := make([]string, len(list))
		for i, g := range list {
			names[i] = g.Name
		}
		out.Tasks = append(out.Tasks, Task{"price", "soon", fmt.Sprintf(title, strings.Join(names, ", ")), text, "/pantry/" + list[0].ID, "prices"})
	}
	add(missing, "No price for %s", "Costs that use it are shown as “at least”.")
	add(stale, "Old price of %s", "Ask the supplier again; the cost may have moved.")
	return nil
}
