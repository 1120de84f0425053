package app

import (
	"context"
	"slices"
	"time"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// Standing is where a batch stands. It is written in the same transaction as what it follows from, so that lists show
// it without judging history anew.
type Standing struct {
	Batch           int64
	State           string
	Jars            int // filled, or planned before filling
	Value           *float64
	Target, Limit   float64
	Outcome         string   // of the readings
	Sentence        string   // what the readings say
	Waits           []string // what stands in the way of a release, in the order of work
	Due             *time.Time
	EquilibriumOpen bool // released on the first day, and the deciding reading is still to come
	Weighed         bool
	Here            int        // jars that may still leave the shop
	Sooner          string     // why jars that are out keep less long than was decided, by their lots
	Barred          string     // which lot in jars that were released may not be used, and why
	RunsOut         *time.Time // when an early release is on hold again without it
	Printed         int        // labels
	Words           string     // allergens that the words of jars that are out lack
	JarsOut         bool       // released once, and nobody said since that no jar is out
	Recalled        string     // why it was called back, where it is
	By              string     // who decided last; who planned it before that
	LastDay         string
	DateKind        string
}

// Listed is a batch with where it stands.
type Listed struct {
	Code        string
	Formula     string
	FormulaName string
	Version     int
	MadeOn      string
	Standing
}

// listed is a batch as a list shows it.
func (l loaded) listed() Listed {
	return Listed{Code: l.row.Code, Formula: l.row.FormulaID, FormulaName: l.name, Version: l.row.Version,
		MadeOn: l.row.MadeOn.Format(pantry.DateLayout), Standing: l.stands()}
}

// stands is where the batch stands.
func (l loaded) stands() Standing {
	a := l.record.Acidity
	s := Standing{Batch: l.row.ID, State: l.record.State, Jars: l.row.Jars, Target: l.version.PHTarget,
		Limit:   l.version.PHLimit,
		Outcome: a.Outcome, Sentence: a.Sentence, Waits: l.standing(), RunsOut: l.record.RunsOut,
		Printed: l.record.Printed, Words: l.record.Lacks(), JarsOut: l.record.Out, Weighed: l.record.Weighed,
		Here: l.record.Here(),
		By:   l.row.CreatedBy}
	if l.record.DecideBy != "" {
		s.By = l.record.DecideBy
	}
	if n := len(l.record.Recalled); n > 0 && s.State == bench.CalledBack {
		s.Recalled = l.record.Recalled[n-1].Why
	}
	if s.Waits == nil {
		s.Waits = []string{}
	}
	if l.record.Fill != nil {
		s.Jars = l.record.Fill.Jars
	}
	if a.Value > 0 && len(a.Missing) == 0 {
		s.Value = &a.Value
	}
	if due, err := time.Parse(time.RFC3339, a.DueAt); err == nil {
		s.Due = &due
	}
	s.EquilibriumOpen = s.RunsOut != nil
	v := l.verdict(l.book.law)
	s.LastDay = l.lastDay(v)
	if v.DateKind != nil {
		s.DateKind = *v.DateKind
	}
	s.Sooner = l.sooner(s.LastDay)
	if s.State == bench.Released {
		s.Barred = l.barred()
	}
	return s
}

// fold reads the batch's record act by act.
func (l loaded) fold() *bench.Fold {
	f := bench.NewFold(l.needs)
	for _, e := range l.entries {
		f.Add(e)
	}
	return f
}

// judge writes where a batch stands now; it belongs into the transaction of whatever moved it.
func (a *App) judge(ctx context.Context, st Store, id int64) error {
	l, err := a.load(st, id)
	if err != nil {
		return err
	}
	return a.settle(ctx, st, []loaded{l})
}

// manyAtOnce is how many batches are judged with one set of queries.
const manyAtOnce = 200

// judgeAll writes where batches stand. It ends with its context.
func (a *App) judgeAll(ctx context.Context, st Store, ids []int64) error {
	if len(ids) == 0 {
		return nil
	}
	if err := st.LockBatches(); err != nil {
		return err
	}
	desk, err := a.judging(st)
	if err != nil {
		return err
	}
	for part := range slices.Chunk(ids, manyAtOnce) {
		if err := ctx.Err(); err != nil {
			return err
		}
		rows, err := st.BatchesBy(part)
		if err != nil {
			return err
		}
		list, err := desk.read(st, rows)
		if err != nil {
			return err
		}
		if err := a.settle(ctx, st, list); err != nil {
			return err
		}
	}
	return nil
}

// judgeThose judges the batches anew whose version a change touches, closed ones too, so that a list always says what
// the batch's own page says.
func (a *App) judgeThose(ctx context.Context, st Store, touches func(formula.Ref) (bool, error)) error {
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
	return a.judgeAll(ctx, st, ids)
}

// runOut puts early releases back on hold whose equilibrium reading did not come in time, before lists are read.
func (a *App) runOut(ctx context.Context) error {
	ids, err := a.on(ctx).RanOut(a.Now())
	if err != nil || len(ids) == 0 {
		return err
	}
	ctx = As(ctx, TheProgram)
	return a.in(ctx, func(st Store) error { return a.judgeAll(ctx, st, ids) })
}

// every version is touched, as by a change of the rules.
func every(formula.Ref) (bool, error) { return true, nil }
