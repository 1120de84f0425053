package production

import (
	"context"
	"slices"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
)

// Listed returns a batch as the list shows it.
func (l Loaded) Listed() kernel.Listed {
	return kernel.Listed{Code: l.Row.Code, Formula: l.Row.FormulaID, FormulaName: l.name, Version: l.Row.Version,
		MadeOn: day.Of(l.Row.MadeOn), Standing: l.stands()}
}

// stands returns the batch's standing.
func (l Loaded) stands() kernel.Standing {
	a := l.Record.Acidity
	s := kernel.Standing{Batch: l.Row.ID, State: l.Record.State, Jars: l.Row.Jars, Target: l.Version.PHTarget,
		Limit:   l.Version.PHLimit,
		Outcome: a.Outcome, Sentence: a.Sentence, Waits: l.standing(), RunsOut: l.Record.RunsOut,
		Printed: l.Record.Printed, Words: l.Record.Lacks(), JarsOut: l.Record.Out, Weighed: l.Record.Weighed,
		Here: l.Record.Here(),
		By:   l.Row.CreatedBy}
	if l.Record.DecideBy != "" {
		s.By = l.Record.DecideBy
	}
	if n := len(l.Record.Recalled); n > 0 && s.State == bench.CalledBack {
		s.Recalled = l.Record.Recalled[n-1].Why
	}
	if s.Waits == nil {
		s.Waits = []string{}
	}
	if l.Record.Fill != nil {
		s.Jars = l.Record.Fill.Jars
	}
	if a.Value > 0 && len(a.Missing) == 0 {
		s.Value = &a.Value
	}
	if due, err := time.Parse(time.RFC3339, a.DueAt); err == nil {
		s.Due = &due
	}
	s.EquilibriumOpen = s.RunsOut != nil
	v := l.Verdict(l.Book.Law)
	s.LastDay = l.LastDay(v)
	if v.DateKind != nil {
		s.DateKind = *v.DateKind
	}
	s.Sooner = l.sooner(s.LastDay)
	if s.State == bench.Released {
		s.Barred = l.barred()
	}
	return s
}

// Fold replays the batch's record act by act.
func (l Loaded) Fold() *bench.Fold {
	f := bench.NewFold(l.Needs)
	for _, e := range l.entries {
		f.Add(e)
	}
	return f
}

// Judge writes a batch's standing; it belongs in the transaction of whatever changed it.
func (a *Room) Judge(ctx context.Context, st kernel.Store, id int64) error {
	l, err := a.Load(st, id)
	if err != nil {
		return err
	}
	return a.settle(ctx, st, []Loaded{l})
}

// ManyAtOnce is how many batches are judged with one set of queries.
const ManyAtOnce = 200

// JudgeAll writes the standings of batches. It ends when its context does.
func (a *Room) JudgeAll(ctx context.Context, st kernel.Store, ids []int64) error {
	if len(ids) == 0 {
		return nil
	}
	if err := st.LockBatches(); err != nil {
		return err
	}
	desk, err := a.Judging(st)
	if err != nil {
		return err
	}
	for part := range slices.Chunk(ids, ManyAtOnce) {
		if err := ctx.Err(); err != nil {
			return err
		}
		rows, err := st.BatchesBy(part)
		if err != nil {
			return err
		}
		list, err := desk.Read(st, rows)
		if err != nil {
			return err
		}
		if err := a.settle(ctx, st, list); err != nil {
			return err
		}
	}
	return nil
}

// JudgeThose judges again the batches whose version a change touches, closed ones included, so that lists and pages
// always agree.
func (a *Room) JudgeThose(ctx context.Context, st kernel.Store, touches func(formula.Ref) (bool, error)) error {
	refs, err := st.BatchRefs()
	if err != nil {
		return err
	}
	var some []formula.Ref
	for _, r := range refs {
		concerned, err := touches(r)
		if err != nil {
			return err
		}
		if concerned {
			some = append(some, r)
		}
	}
	if len(some) == 0 {
		return nil
	}
	ids, err := st.BatchIDs(some...)
	if err != nil {
		return err
	}
	return a.JudgeAll(ctx, st, ids)
}

// RunOut puts early releases without a timely equilibrium reading back on hold; it runs before lists are read.
func (a *Room) RunOut(ctx context.Context) error {
	ids, err := a.On(ctx).RanOut(a.Now())
	if err != nil || len(ids) == 0 {
		return err
	}
	ctx = kernel.As(ctx, kernel.TheProgram)
	return a.In(ctx, func(st kernel.Store) error { return a.JudgeAll(ctx, st, ids) })
}

// Every version is touched, as by a change of the rules.
func Every(formula.Ref) (bool, error) { return true, nil }
