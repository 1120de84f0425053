package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// PlanBatch makes a batch of a locked version: targets per line for the jars wanted.
func (a *App) PlanBatch(ctx context.Context, ref formula.Ref, jars int, madeOn string) (BatchView, error) {
	by, err := person(ctx)
	if err != nil {
		return BatchView{}, err
	}
	day, err := pantry.ParseDay(madeOn)
	if err != nil {
		return BatchView{}, field("made_on", "a day as in 2026-11-25")
	}
	return once(ctx, a, func(st Store) (BatchView, error) {
		b, err := a.plan(st, ref, jars, day, by)
		if err != nil {
			return BatchView{}, err
		}
		if err := st.AddBatch(&b); err != nil {
			return BatchView{}, err
		}
		if err := a.judge(ctx, st, b.ID); err != nil {
			return BatchView{}, err
		}
		return a.batchView(st, b.ID)
	})
}

// plan scales a locked version to the jars wanted and gives the batch its code.
func (a *App) plan(st Store, ref formula.Ref, jars int, day time.Time, by string) (Batch, error) {
	row, err := st.Version(ref)
	if errors.Is(err, ErrNotFound) {
		return Batch{}, field("version", "there is no version %d of this formula", ref.Version)
	}
	if err != nil {
		return Batch{}, err
	}
	if row.State != formula.Locked {
		return Batch{}, field("version", "a batch is made from a locked version; lock version %d first", ref.Version)
	}
	s, _, err := a.settings(st)
	if err != nil {
		return Batch{}, err
	}
	lib, err := library(st, row.Core())
	if err != nil {
		return Batch{}, err
	}
	nodes, err := lib.Expand(row.Core())
	if err != nil {
		return Batch{}, lineProblem(err)
	}
	if err := a.sizeHolds(st, row.Core(), jars); err != nil {
		return Batch{}, err
	}
	targets, err := bench.Plan(row.Core(), nodes,
		bench.Need{Jars: jars, Samples: s.SampleGrams, Residue: s.Residue, Division: s.ScaleDivision})
	if err != nil {
		return Batch{}, mistakeOf(err)
	}
	bench.WidenGroups(targets, row.Core(), lib)
	onTop, err := lib.OnTop(row.Core())
	if err != nil {
		return Batch{}, field("version", "%s", err.Error())
	}
	targets = append(targets, bench.OnTop(onTop, jars)...)
	if day.Format(pantry.DateLayout) > a.today(s).AddDate(0, 0, farthestPlan).Format(pantry.DateLayout) {
		return Batch{}, field("made_on", "a batch is planned at most %d days ahead", farthestPlan)
	}
	b := Batch{FormulaID: ref.Formula, Version: ref.Version, Jars: jars, MadeOn: day, Targets: targets, CreatedBy: by}
	b.Code, err = freshCode(st, day)
	return b, err
}

// farthestPlan is how many days ahead a batch may be planned.
const farthestPlan = 366

// sizeHolds refuses a size at which lines that scale less carry the estimate's high end over the target (handbook 03).
func (a *App) sizeHolds(st Store, v formula.Version, jars int) error {
	if !v.ScalesLess() || jars < 1 {
		return nil
	}
	at, err := a.atSize(st, v, jars)
	if err != nil {
		return err
	}
	if high := at.Panel.PH.High; high != nil && *high > v.PHTarget {
		return field("jars",
			"at %d jars the lines that scale less leave the top of the band at pH %.2f, over the target of %.2f; plan a smaller batch or let them grow with it", jars, *high, v.PHTarget)
	}
	return nil
}

// SizeView is a version at a planned size.
type SizeView struct {
	Jars    int             `json:"jars"`
	Version formula.Version `json:"version"`
	Panel   assess.Panel    `json:"panel"`
	Less    bool            `json:"scales_less"`
}

// AtSize shows a version's lines, percents and panel at the size of a batch of that many jars.
func (a *App) AtSize(ctx context.Context, ref formula.Ref, jars int) (SizeView, error) {
	st := a.on(ctx)
	if jars < 1 || jars > 100_000 {
		return SizeView{}, field("jars", "between 1 and 100 000 jars")
	}
	row, err := st.Version(ref)
	if err != nil {
		return SizeView{}, err
	}
	return a.atSize(st, row.Core(), jars)
}

func (a *App) atSize(st Store, v formula.Version, jars int) (SizeView, error) {
	out := SizeView{Jars: jars, Version: v, Less: v.ScalesLess()}
	if v.FinishedGrams().IsPositive() && v.JarGrams().IsPositive() {
		finished := v.JarGrams().Times(amount.Whole(int64(jars)))
		out.Version = v.AtSize(finished.Times(v.GramsIn().Exact()).Over(v.FinishedGrams()))
	}
	var err error
	out.Panel, err = a.panel(st, out.Version)
	return out, lineProblem(err)
}

// freshCode is the lot code: year, day of the year, and a letter for each batch of the day.
func freshCode(st Store, day time.Time) (string, error) {
	taken, err := st.CodesOn(day)
	if err != nil {
		return "", err
	}
	stem := fmt.Sprintf("%s-%03d-", day.Format("06"), day.YearDay())
	for n := 0; ; n++ {
		letter := string(rune('A' + n%26))
		if n >= 26 {
			letter = string(rune('A'+(n/26-1)%26)) + letter
		}
		if n >= 26*27 {
			return "", field("made_on", "too many batches on one day")
		}
		if !slices.Contains(taken, stem+letter) {
			return stem + letter, nil
		}
	}
}
