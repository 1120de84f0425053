package office

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// Today gathers what needs a hand, in order: call-backs, labels to stop using, what became stricter in the pantry,
// batches on hold, dates, recalls, old labels, prices.
func (a *Room) Today(ctx context.Context) (kernel.TodayView, error) {
	if err := a.Production.RunOut(ctx); err != nil {
		return kernel.TodayView{}, err
	}
	st := a.On(ctx)
	out := kernel.TodayView{Tasks: []kernel.Task{}, Batches: []kernel.BatchRow{}}
	labels, err := a.Release.LabelRows(st)
	if err != nil {
		return out, err
	}
	for _, l := range labels {
		labelTask(&out, l, kernel.LabelStop)
	}
	s, _, err := a.Settings(st)
	if err != nil {
		return out, err
	}
	if out.Lead, err = a.lead(st, s); err != nil {
		return out, err
	}
	today := a.TodayIn(s)
	if err := a.Release.AllergenTasks(&out, st); err != nil {
		return out, err
	}
	if err := a.tightenedTasks(&out, st, day.Of(today)); err != nil {
		return out, err
	}
	if err := a.batchTasks(&out, st, today, s.Tongue()); err != nil {
		return out, err
	}
	if err := a.Production.LotTasks(&out, st, day.Of(today)); err != nil {
		return out, err
	}
	if err := a.Release.RecallTasks(&out, st); err != nil {
		return out, err
	}
	for _, l := range labels {
		labelTask(&out, l, kernel.LabelOld)
	}
	if err := a.priceTasks(&out, st); err != nil {
		return out, err
	}
	if err := a.backupTask(&out, st); err != nil {
		return out, err
	}
	slices.SortStableFunc(out.Tasks, func(x, y kernel.Task) int { return x.First() - y.First() })
	return out, nil
}

// batchTasks lists what batches wait for, and the dates that are out, from where the batches stand.
func (a *Room) batchTasks(out *kernel.TodayView, st kernel.Store, today time.Time, tongue law.Tongue) error {
	waiting, n, err := st.BatchesWaiting(kernel.MostTasks)
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
		out.Tasks = append(out.Tasks, kernel.Task{Kind: "batch", Level: "needs_you",
			Title: fmt.Sprintf("%d more batches wait", more),
			Text:  "The oldest are named above.", Link: "/batches", When: "waits"})
	}
	on := func(offset int) day.Day { return day.Of(today.AddDate(0, 0, offset)) }
	near, err := st.BatchesEnding(on(-kernel.NearDays), on(kernel.NearDays), kernel.MostTasks)
	if err != nil {
		return err
	}
	for _, x := range near {
		if x.Here > 0 {
			dateTask(out, x, today)
		}
	}
	inDate, err := st.BatchesEnding(on(0), on(kernel.FarDays), kernel.MostTasks)
	for _, x := range inDate {
		if x.Here > 0 {
			out.Batches = append(out.Batches, production.RowOf(x))
		}
	}
	return err
}

func labelTask(v *kernel.TodayView, l kernel.LabelRow, state string) {
	if l.State != state {
		return
	}
	t := kernel.Task{Kind: "label", Level: "needs_you",
		Title: fmt.Sprintf("%s label of %s is out of date", l.Regime, l.FormulaName),
		Text:  "What the label says has changed since it was confirmed. See the difference, then bring it up to date.",
		Link:  fmt.Sprintf("/labels/%d", l.ID), When: "before printing"}
	if state == kernel.LabelStop {
		t.Level, t.When = "danger", "now"
		t.Title = fmt.Sprintf("Stop using the %s label of %s", l.Regime, l.FormulaName)
		t.Text = "It does not name " + pantry.PlainAllergens(l.Gained) + ", which the product now contains."
	}
	v.Tasks = append(v.Tasks, t)
}

// batchTask tells what a batch waits for.
func batchTask(v *kernel.TodayView, x kernel.Listed, jars []bench.JarsAt, today time.Time, tongue law.Tongue) {
	link := fmt.Sprintf("/batches/%d", x.Batch)
	if x.State == bench.CalledBack {
		v.Tasks = append(v.Tasks, kernel.Task{Kind: "call_back", Level: "danger",
			Title: fmt.Sprintf("Call back %s, %s", x.Code, x.FormulaName),
			Text:  fmt.Sprintf("%s %s", jarsOut(x, jars), x.Recalled), Link: link + "/jars", When: "now"})
		return
	}
	if x.EquilibriumOpen {
		v.Tasks = append(v.Tasks, kernel.Task{Kind: "reading", Level: "needs_you",
			Title: fmt.Sprintf("Equilibrium reading of %s, %s", x.Code, x.FormulaName),
			Text:  "Released early; the deciding reading is still due.", Link: link, When: dueText(x.Due, today,
				tongue)})
		return
	}
	if on, err := day.Parse(x.MadeOn); err == nil && !x.Weighed &&
		x.MadeOn > day.Of(today) {
		v.Tasks = append(v.Tasks, kernel.Task{Kind: "planned", Level: "soon", Title: fmt.Sprintf("%s, %s, is planned",
			x.Code, x.FormulaName),
			Text: kernel.Plural(x.Jars, "jar") + "; the weigh sheet opens on its day.", Link: link,
			When: tongue.Day(on)})
		return
	}
	t := kernel.Task{Kind: "batch", Level: "needs_you", Title: fmt.Sprintf("%s, %s, is on hold", x.Code, x.FormulaName),
		Text: "Ready: everything is there. Decide.", Link: link, When: "ready"}
	if len(x.Waits) > 0 {
		t.Text = "Waits for " + kernel.Uncapital(x.Waits[0])
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
func calledBack(list []kernel.Listed) []int64 {
	var ids []int64
	for _, x := range list {
		if x.State == bench.CalledBack {
			ids = append(ids, x.Batch)
		}
	}
	return ids
}

// jarsOut names the jars that a call-back looks for, and who has them.
func jarsOut(x kernel.Listed, jars []bench.JarsAt) string {
	out, untold := []string{}, 0
	for _, at := range jars {
		switch at.Place {
		case bench.With:
			out = append(out, fmt.Sprintf("%s has %d", at.PartyName, at.Jars))
		case bench.Untold:
			untold = at.Jars
		}
	}
	said := fmt.Sprintf("%s made, %s printed.", kernel.Plural(x.Jars, "jar"), kernel.Plural(x.Printed, "label"))
	if x.Printed == 0 {
		said = kernel.Plural(x.Jars, "jar") + " made, no label printed."
	}
	if len(out) > 0 {
		said += " " + strings.Join(out, ", ") + "."
	}
	if untold > 0 {
		said += fmt.Sprintf(" Where %d of them are was not followed.", untold)
	}
	return said
}

// dateTask names a released batch near or past its last day.
func dateTask(v *kernel.TodayView, x kernel.Listed, today time.Time) {
	days, ok := kernel.DaysUntil(x.LastDay, today)
	if !ok {
		return
	}
	t := kernel.Task{Kind: "date", Level: "soon", Title: fmt.Sprintf("%s, %s: sell or use", x.Code, x.FormulaName),
		Text: fmt.Sprintf("%d of %s here; the last day is near.", x.Here, kernel.Plural(x.Jars, "jar")),
		Link: fmt.Sprintf("/batches/%d", x.Batch), When: fmt.Sprintf("%d days left", days)}
	switch {
	case days < 0:
		t.Level, t.Title, t.Text = "needs_you", fmt.Sprintf("%s, %s: withdraw what is left", x.Code, x.FormulaName),
			fmt.Sprintf("The last day is past; %s here.", kernel.Plural(x.Here, "jar"))
		t.When = kernel.Plural(-days, "day") + " over"
	case days == 0:
		t.When = "last day"
	case days == 1:
		t.When = "1 day left"
	}
	v.Tasks = append(v.Tasks, t)
}

// priceTasks lists ingredients of current formulas without a price, and prices that grew old.
func (a *Room) priceTasks(out *kernel.TodayView, st kernel.Store) error {
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
	b, err := a.Catalog.Book(st)
	if err != nil {
		return err
	}
	var missing, stale []kernel.Ingredient
	for _, g := range rows {
		switch c, err := b.Terms.Rate(&g.Data, ""); {
		case err != nil:
			missing = append(missing, g)
		case c.Stale:
			stale = append(stale, g)
		}
	}
	pricesOf(out, missing, "No price for %s", "Costs that use it are shown as “at least”.")
	pricesOf(out, stale, "Old price of %s", "Ask the supplier again; the cost may have moved.")
	return nil
}

// pricesOf tells of ingredients whose prices want a hand, all in one task.
func pricesOf(out *kernel.TodayView, list []kernel.Ingredient, title, text string) {
	if len(list) == 0 {
		return
	}
	names := make([]string, len(list))
	for i, g := range list {
		names[i] = g.Name
	}
	out.Tasks = append(out.Tasks, kernel.Task{Kind: "price", Level: "soon",
		Title: fmt.Sprintf(title, strings.Join(names, ", ")), Text: text, Link: "/pantry/" + list[0].ID,
		When: "prices"})
}
