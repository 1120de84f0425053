package production

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/people"
)

func (a *Room) checkWeighing(st kernel.Store, l Loaded, w *bench.Weighing) error {
	if l.beforeMaking(a.Now()) {
		return kernel.Mistake("weighing.line", "this batch is planned for %s; plan one for today to make it now",
			day.Of(l.Row.MadeOn))
	}
	i := slices.IndexFunc(l.Row.Targets, func(t bench.Target) bool { return t.Line == w.Line })
	if i < 0 {
		return kernel.Mistake("weighing.line", "this line is not in the batch")
	}
	if !w.Grams.IsPositive() || w.Grams.Float() > amount.MaxGrams {
		return kernel.Mistake("weighing.grams", "grams must be above zero and at most 10 000 kg")
	}
	if len([]rune(w.Note)) > 500 {
		return kernel.Mistake("weighing.note", "at most 500 characters")
	}
	if err := a.completeDraws(st, l, w); err != nil {
		return err
	}
	if err := checkUsed(l.Row.Targets[i], w); err != nil {
		return err
	}
	if w.Lot != "" || w.UseBy != "" || w.KillStep {
		return kernel.Mistake("weighing.lot",
			"a lot is named by its code; its date and its kill step come from the book")
	}
	return nil
}

// checkUsed wants to know what was taken of a group, because the label must list it.
func checkUsed(t bench.Target, w *bench.Weighing) error {
	if len(t.AnyOf) == 0 {
		if len(w.Used) > 0 {
			return kernel.Mistake("weighing.used", "this line is no group")
		}
		return nil
	}
	if len(w.Used) == 0 {
		return kernel.Mistake("weighing.used", "say which of the group was used: the label lists it")
	}
	sum := amount.Grams{}
	for k, u := range w.Used {
		if !slices.Contains(t.AnyOf, u.Ingredient) {
			return kernel.Mistake(fmt.Sprintf("weighing.used[%d].ingredient", k), "this is none of the group")
		}
		if !u.Grams.IsPositive() {
			return kernel.Mistake(fmt.Sprintf("weighing.used[%d].grams", k), "grams above 0")
		}
		sum = sum.Plus(u.Grams)
	}
	if sum != w.Grams {
		return kernel.Mistake("weighing.used", "the parts add up to %s g, not to %s g", sum, w.Grams)
	}
	return nil
}

// checkCorrection makes an addition of a correction that moves the estimate or the line too far, unless an owner
// confirms that it was a slip of the hand in typing.
func (a *Room) checkCorrection(st kernel.Store, l Loaded, role people.Role, w *bench.Weighing) error {
	w.Slip = strings.TrimSpace(w.Slip)
	if len([]rune(w.Slip)) > 300 {
		return kernel.Mistake("weighing.slip", "at most 300 characters")
	}
	if !w.Correction {
		w.Slip = ""
		return nil
	}
	large, err := a.movesFar(st, l, w)
	if err != nil || !large {
		w.Slip = ""
		return err
	}
	if w.Slip == "" {
		w.Correction = false
		return nil
	}
	if !role.May(people.Owner) {
		return kernel.Problem{Kind: kernel.Forbidden, Code: entry.NotYours,
			Message: "Only an owner confirms that so large a correction was a typing slip; without that it counts as an addition."}
	}
	return nil
}

// movesFar reports whether a weighing in the place of the one before moves its line or the estimate too far.
func (a *Room) movesFar(st kernel.Store, l Loaded, w *bench.Weighing) (bool, error) {
	i := slices.IndexFunc(l.Record.Lines, func(s bench.LineState) bool { return s.Line == w.Line })
	if i < 0 || l.Record.Lines[i].Actual == nil {
		return true, nil // nothing was weighed that could be corrected
	}
	if bench.LineMoves(*l.Record.Lines[i].Actual, w.Grams) {
		return true, nil
	}
	if !l.Record.Weighed {
		return false, nil
	}
	after := l
	after.Record.Lines = slices.Clone(l.Record.Lines)
	after.Record.Lines[i].Actual, after.Record.Lines[i].Used = &w.Grams, w.Used
	after.Record.Lines[i].Draws = w.Draws
	desk, err := a.Judging(st)
	if err != nil {
		return false, err
	}
	ref := formula.Ref{Formula: l.Row.FormulaID, Version: l.Row.Version}
	if err := desk.know(st, ref); err != nil {
		return false, err
	}
	panel, err := desk.panel(after, ref)
	if err != nil {
		return false, catalog.LineProblem(err)
	}
	return l.panel.PH.Moved(panel.PH), nil
}
