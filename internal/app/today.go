package app

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
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
	Lead    *Lead      `json:"lead"`    // what a new shop does next
}

// nearDays is how many days ahead a date counts as near; farDays is further than anything keeps.
const (
	nearDays = 7
	farDays  = 10_000
)

// mostTasks is how many batches the first screen names one by one; the rest are counted.
const mostTasks = 100

// Today gathers what needs a hand, in order: call-backs, labels to stop using, what became stricter in the pantry,
// batches on hold, dates, recalls, old labels, prices.
func (a *App) Today(ctx context.Context) (TodayView, error) {
	if err := a.runOut(ctx); err != nil {
		return TodayView{}, err
	}
	st := a.on(ctx)
	out := TodayView{Tasks: []Task{}, Batches: []BatchRow{}}
	labels, err := a.labelRows(st)
	if err != nil {
		return out, err
	}
	for _, l := range labels {
		labelTask(&out, l, LabelStop)
	}
	s, _, err := a.settings(st)
	if err != nil {
		return out, err
	}
	if out.Lead, err = a.lead(st, s); err != nil {
		return out, err
	}
	today := a.today(s)
	if err := a.allergenTasks(&out, st); err != nil {
		return out, err
	}
	if err := a.tightenedTasks(&out, st, today.Format(pantry.DateLayout)); err != nil {
		return out, err
	}
	if err := a.batchTasks(&out, st, today, s.Tongue()); err != nil {
		return out, err
	}
	if err := a.lotTasks(&out, st, today.Format(pantry.DateLayout)); err != nil {
		return out, err
	}
	if err := a.recallTasks(&out, st); err != nil {
		return out, err
	}
	for _, l := range labels {
		labelTask(&out, l, LabelOld)
	}
	if err := a.priceTasks(&out, st); err != nil {
		return out, err
	}
	slices.SortStableFunc(out.Tasks, func(x, y Task) int { return x.first() - y.first() })
	return out, nil
}

// first is where a task stands: call-backs, then what is dangerous, then the rest.
func (t Task) first() int {
	switch {
	case t.Kind == "call_back", t.Kind == "recall" && t.Level == "danger":
		return 0
	case t.Level == "danger":
		return 1
	}
	return 2
}

// batchTasks lists what batches wait for, and the dates that are out, from where the batches stand.
func (a *App) batchTasks(out *TodayView, st Store, today time.Time, tongue law.Tongue) error {
	waiting, n, err := st.BatchesWaiting(mostTasks)
	if err != nil {
		return err
	}
	jars, err := st.JarsOf(calledBack(waiting)...)
	if err != nil {
		return err
	}
	for _, x := range waiting {
		batchTask(out, x, jars[x.Batch], today, tongue)
	}
	if more := n - len(waiting); more > 0 {
		out.Tasks = append(out.Tasks, Task{"batch", "needs_you", fmt.Sprintf("%d more batches wait", more),
			"The oldest are named above.", "/batches", "waits"})
	}
	day := func(offset int) string { return today.AddDate(0, 0, offset).Format(pantry.DateLayout) }
	near, err := st.BatchesEnding(day(-nearDays), day(nearDays), mostTasks)
	if err != nil {
		return err
	}
	for _, x := range near {
		if x.Here > 0 {
			dateTask(out, x, today)
		}
	}
	inDate, err := st.BatchesEnding(day(0), day(farDays), mostTasks)
	for _, x := range inDate {
		if x.Here > 0 {
			out.Batches = append(out.Batches, batchRow(x))
		}
	}
	return err
}

func labelTask(v *TodayView, l LabelRow, state string) {
	if l.State != state {
		return
	}
	t := Task{Kind: "label", Level: "needs_you",
		Title: fmt.Sprintf("%s label of %s is out of date", l.Regime, l.FormulaName),
		Text:  "What the label says has changed since it was confirmed. See the difference, then bring it up to date.",
		Link:  fmt.Sprintf("/labels/%d", l.ID), When: "before printing"}
	if state == LabelStop {
		t.Level, t.When = "danger", "now"
		t.Title = fmt.Sprintf("Stop using the %s label of %s", l.Regime, l.FormulaName)
		t.Text = "It does not name " + pantry.PlainAllergens(l.Gained) + ", which the product now contains."
	}
	v.Tasks = append(v.Tasks, t)
}

// batchTask tells what a batch waits for.
func batchTask(v *TodayView, x Listed, jars []bench.JarsAt, today time.Time, tongue law.Tongue) {
	link := fmt.Sprintf("/batches/%d", x.Batch)
	if x.State == bench.CalledBack {
		v.Tasks = append(v.Tasks, Task{"call_back", "danger", fmt.Sprintf("Call back %s, %s", x.Code, x.FormulaName),
			fmt.Sprintf("%s %s", jarsOut(x, jars), x.Recalled), link + "/jars", "now"})
		return
	}
	if x.EquilibriumOpen {
		v.Tasks = append(v.Tasks, Task{"reading", "needs_you",
			fmt.Sprintf("Equilibrium reading of %s, %s", x.Code, x.FormulaName),
			"Released early; the deciding reading is still due.", link, dueText(x.Due, today, tongue)})
		return
	}
	if day, err := time.Parse(pantry.DateLayout, x.MadeOn); err == nil && !x.Weighed &&
		x.MadeOn > today.Format(pantry.DateLayout) {
		v.Tasks = append(v.Tasks, Task{"planned", "soon", fmt.Sprintf("%s, %s, is planned", x.Code, x.FormulaName),
			plural(x.Jars, "jar") + "; the weigh sheet opens on its day.", link, tongue.Day(day)})
		return
	}
	t := Task{"batch", "needs_you", fmt.Sprintf("%s, %s, is on hold", x.Code, x.FormulaName),
		"Ready: everything is there. Decide.", link, "ready"}
	if len(x.Waits) > 0 {
		t.Text = "Waits for " + uncapital(x.Waits[0])
		if n := len(x.Waits) - 1; n > 0 {
			t.Text += fmt.Sprintf("; %d more after that", n)
		}
		t.Text += "."
		t.When = "waits"
		if strings.HasPrefix(x.Waits[0], "equilibrium") {
			t.Kind, t.When = "reading", dueText(x.Due, today, tongue)
		}
		if x.Outcome == acidity.HoldIt || x.Outcome == acidity.Retest {
			t.Level, t.Text, t.When = "danger", x.Sentence, "decide"
		}
	}
	v.Tasks = append(v.Tasks, t)
}

// uncapital begins a phrase small, as inside a sentence.
func uncapital(s string) string {
	r, n := utf8.DecodeRuneInString(s)
	if r == utf8.RuneError || strings.HasPrefix(s, "pH") {
		return s
	}
	return string(unicode.ToLower(r)) + s[n:]
}

func dueText(due *time.Time, now time.Time, tongue law.Tongue) string {
	switch {
	case due == nil:
		return ""
	case due.Before(now):
		return "due now"
	}
	return "from " + tongue.Moment(due.In(now.Location()))
}

// calledBack are the batches among those that are called back.
func calledBack(list []Listed) []int64 {
	var ids []int64
	for _, x := range list {
		if x.State == bench.CalledBack {
			ids = append(ids, x.Batch)
		}
	}
	return ids
}

// jarsOut names the jars that a call-back looks for, and who has them.
func jarsOut(x Listed, jars []bench.JarsAt) string {
	out, untold := []string{}, 0
	for _, at := range jars {
		switch at.Place {
		case bench.With:
			out = append(out, fmt.Sprintf("%s has %d", at.PartyName, at.Jars))
		case bench.Untold:
			untold = at.Jars
		}
	}
	said := fmt.Sprintf("%s made, %s printed.", plural(x.Jars, "jar"), plural(x.Printed, "label"))
	if x.Printed == 0 {
		said = plural(x.Jars, "jar") + " made, no label printed."
	}
	if len(out) > 0 {
		said += " " + strings.Join(out, ", ") + "."
	}
	if untold > 0 {
		said += fmt.Sprintf(" Where %d of them are was not followed.", untold)
	}
	return said
}

// daysUntil counts calendar days from the day of a time.
func daysUntil(day string, today time.Time) (int, bool) {
	last, err := time.Parse(pantry.DateLayout, day)
	if err != nil {
		return 0, false
	}
	first, err := time.Parse(pantry.DateLayout, today.Format(pantry.DateLayout))
	return int(last.Sub(first).Hours() / 24), err == nil
}

// dateTask names a released batch near or past its last day.
func dateTask(v *TodayView, x Listed, today time.Time) {
	days, ok := daysUntil(x.LastDay, today)
	if !ok {
		return
	}
	t := Task{"date", "soon", fmt.Sprintf("%s, %s: sell or use", x.Code, x.FormulaName),
		fmt.Sprintf("%d of %s here; the last day is near.", x.Here, plural(x.Jars, "jar")),
		fmt.Sprintf("/batches/%d", x.Batch), fmt.Sprintf("%d days left", days)}
	switch {
	case days < 0:
		t.Level, t.Title, t.Text = "needs_you", fmt.Sprintf("%s, %s: withdraw what is left", x.Code, x.FormulaName),
			fmt.Sprintf("The last day is past; %s here.", plural(x.Here, "jar"))
		t.When = plural(-days, "day") + " over"
	case days == 0:
		t.When = "last day"
	case days == 1:
		t.When = "1 day left"
	}
	v.Tasks = append(v.Tasks, t)
}

// priceTasks lists ingredients of current formulas without a price, and prices that grew old.
func (a *App) priceTasks(out *TodayView, st Store) error {
	versions, err := st.CurrentVersions()
	if err != nil {
		return err
	}
	current := map[string]formula.Version{}
	for _, v := range versions {
		current[v.FormulaID] = v.Data
	}
	ids := []string{""} // no id at all would load everything
	for _, v := range current {
		for _, l := range v.Lines {
			if l.Ingredient != "" && l.Ingredient != "water" {
				ids = append(ids, l.Ingredient)
			}
		}
	}
	slices.Sort(ids)
	rows, err := st.Ingredients(slices.Compact(ids)...)
	if err != nil {
		return err
	}
	b, err := a.book(st)
	if err != nil {
		return err
	}
	var missing, stale []Ingredient
	for _, g := range rows {
		switch c, err := b.terms.Rate(&g.Data, ""); {
		case err != nil:
			missing = append(missing, g)
		case c.Stale:
			stale = append(stale, g)
		}
	}
	add := func(list []Ingredient, title, text string) {
		if len(list) == 0 {
			return
		}
		names := make([]string, len(list))
		for i, g := range list {
			names[i] = g.Name
		}
		out.Tasks = append(out.Tasks, Task{"price", "soon", fmt.Sprintf(title, strings.Join(names, ", ")), text,
			"/pantry/" + list[0].ID, "prices"})
	}
	add(missing, "No price for %s", "Costs that use it are shown as “at least”.")
	add(stale, "Old price of %s", "Ask the supplier again; the cost may have moved.")
	return nil
}
