package office

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// tightenedTasks tells where an ingredient gained an allergen or a flag of hazard after a version was locked: what is
// made and printed from now on counts with it, what is in date waits for somebody to decide (handbook 06).
func (a *Room) tightenedTasks(out *kernel.TodayView, st kernel.Store, today day.Day) error {
	touched, err := st.LocksTouched(today)
	if err != nil || len(touched) == 0 {
		return err
	}
	refs := make([]formula.Ref, len(touched))
	for i, t := range touched {
		refs[i] = formula.Ref{Formula: t.Formula, Version: t.Version}
	}
	kept, err := st.Locks(refs...)
	if err != nil {
		return err
	}
	lib, err := catalog.OfToday(st, kept)
	if err != nil {
		return err
	}
	for i, t := range touched {
		if since := kept[refs[i]].Since(lib); since.Any() {
			out.Tasks = append(out.Tasks, tightenedTask(t, since))
		}
	}
	return nil
}

func tightenedTask(t kernel.LockTouched, since assess.Gained) kernel.Task {
	task := kernel.Task{Kind: "tightened", Level: "needs_you", Link: fmt.Sprintf("/formulas/%s/%d", t.Formula,
		t.Version),
		Title: fmt.Sprintf("%s, version %d, gained %s", t.Name, t.Version, gainedWords(since)),
		Text: "By " + strings.Join(since.In, ", ") +
			". What is made and printed from now on counts with it; a new version takes it up.",
		When: "before the next batch"}
	if t.Lots != "" {
		task.Level, task.When = "danger", "now"
		task.Text = fmt.Sprintf("By %s. In date: %s. Decide about these jars; what is made from now on counts with it.",
			strings.Join(since.In, ", "), t.Lots)
	}
	return task
}

// gainedWords names what was gained: allergens, each once over all laws, then flags.
func gainedWords(since assess.Gained) string {
	var codes []string
	for _, l := range law.All() {
		for _, x := range since.Allergens[l.Regime] {
			if !slices.Contains(codes, x) {
				codes = append(codes, x)
			}
		}
	}
	var words []string
	if len(codes) > 0 {
		words = append(words, pantry.PlainAllergens(codes))
	}
	if len(since.Flags) > 0 {
		words = append(words, "the flag "+strings.ReplaceAll(strings.Join(since.Flags, ", "), "_", " "))
	}
	return strings.Join(words, " and ")
}
