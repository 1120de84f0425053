package app

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"time"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/lots"
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

// judging is what batches are judged with, loaded once for however many there are.
type judging struct {
	app    *App
	book   book
	lib    formula.Library
	docs   map[string][]keeping.Document
	panels map[formula.Ref]assess.Panel    // of versions as they were planned
	libs   map[formula.Ref]formula.Library // of versions as they were locked
}

func (a *App) judging(st Store) (*judging, error) {
	b, err := a.book(st)
	if err != nil {
		return nil, err
	}
	return &judging{a, b, newLibrary(), map[string][]keeping.Document{}, map[formula.Ref]assess.Panel{},
		map[formula.Ref]formula.Library{}}, nil
}

// read loads the records of batches and judges them.
func (j *judging) read(st Store, rows []Batch) ([]loaded, error) {
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.ID
	}
	entries, err := st.Entries(ids...)
	if err != nil {
		return nil, err
	}
	if err := withMeters(st, entries); err != nil {
		return nil, err
	}
	known, err := lotsNamed(st, entries)
	if err != nil {
		return nil, err
	}
	out := make([]loaded, len(rows))
	for i, r := range rows {
		if out[i], err = j.batch(st, r, entries[r.ID], known[r.ID]); err != nil {
			return nil, fmt.Errorf("batch %s: %w", r.Code, err)
		}
	}
	return out, nil
}

// locked loads and judges batches that nobody writes into until the transaction ends.
func (j *judging) locked(st Store, ids []int64) ([]loaded, error) {
	if err := st.LockBatches(ids...); err != nil {
		return nil, err
	}
	rows, err := st.BatchesBy(ids)
	if err != nil {
		return nil, err
	}
	return j.read(st, rows)
}

// withMeters puts what the meters went through into the records of the batches that were read with them, in the order
// of entry.
func withMeters(st Store, all map[int64][]bench.Entry) error {
	var checks []int64
	since := map[int64]time.Time{}
	first := time.Time{}
	meters := map[int64]map[int64]bool{}
	for id, entries := range all {
		meters[id] = map[int64]bool{}
		for _, e := range entries {
			r, is := e.Body.(*acidity.Reading)
			if !is {
				continue
			}
			checks = append(checks, r.MeterCheck)
			meters[id][r.MeterCheck] = true
			if at := r.At.Add(-aDayAndMore); since[id].IsZero() || at.Before(since[id]) {
				since[id] = at
			}
			if first.IsZero() || since[id].Before(first) {
				first = since[id]
			}
		}
	}
	slices.Sort(checks)
	events, err := st.MeterEvents(slices.Compact(checks), first)
	if err != nil || len(events) == 0 {
		return err
	}
	for id, entries := range all {
		if named := meters[id]; len(named) > 0 {
			all[id] = merged(entries, ofMeters(events, named, since[id]))
		}
	}
	return nil
}

// aDayAndMore before a reading begins whatever may support it: a check of the same day, wherever its days begin.
const aDayAndMore = 36 * time.Hour

// ofMeters are the events of the meters that these checks were made of, since a time.
func ofMeters(events []MeterEvent, checks map[int64]bool, since time.Time) []MeterEvent {
	names := map[string]bool{}
	for _, e := range events {
		if checks[e.Check] {
			names[e.Meter] = true
		}
	}
	var out []MeterEvent
	for _, e := range events {
		if names[e.Meter] && !e.At.Before(since) {
			out = append(out, e)
		}
	}
	return out
}

// merged puts events among entries in the order of entry; of one turn the check comes first.
func merged(entries []bench.Entry, events []MeterEvent) []bench.Entry {
	out := make([]bench.Entry, 0, len(entries)+len(events))
	for len(events) > 0 || len(entries) > 0 {
		if len(entries) == 0 || len(events) > 0 && events[0].Turn <= entries[0].ID {
			e := events[0]
			event := e.MeterEvent
			out = append(out, bench.Entry{ID: e.Turn, At: e.EnteredAt, By: e.By, Body: &event})
			events = events[1:]
			continue
		}
		out = append(out, entries[0])
		entries = entries[1:]
	}
	return out
}

func (j *judging) batch(st Store, row Batch, entries []bench.Entry, known map[int64]lots.Facts) (loaded, error) {
	ref := formula.Ref{Formula: row.FormulaID, Version: row.Version}
	if err := j.know(st, ref); err != nil {
		return loaded{}, err
	}
	if known == nil {
		known = map[int64]lots.Facts{}
	}
	v, b := j.lib.Versions[ref], j.book
	l := loaded{row: row, version: v, entries: entries, book: b, name: j.lib.Name(row.FormulaID),
		documents: j.docs[row.FormulaID], lib: j.libs[ref]}
	l.needs = bench.Needs{Targets: row.Targets, NoKillStep: !keeping.AsksKillStep(b.law, b.rules), Lots: known,
		HeatC: v.Keeping.HeatMinC, HeatMin: v.Keeping.HeatMinMinutes,
		Planned: row.Planned, Cooling: b.law.Cooling,
		Bounds: acidity.Bounds{Limit: v.PHLimit, Target: v.PHTarget, LargestPieceMM: v.LargestPieceMM,
			Loads:        row.loads(),
			EarlyRelease: b.settings.EarlyRelease, Chilled: v.Keeping.Asked == keeping.Chilled,
			Zone: b.settings.zone(), Tongue: b.settings.tongue()},
		SecondPerson: b.settings.SecondPerson, PlannedBy: row.CreatedBy}
	l.record = l.fold().Record(j.app.Now())
	var err error
	if l.lib, err = withAdded(st, l.lib, l.record); err != nil {
		return l, err
	}
	if l.released, err = lastRelease(entries); err != nil {
		return l, err
	}
	if l.panel, err = j.panel(l, ref); err != nil {
		return l, err
	}
	if l.panel.PH.NoWater {
		l.needs.NoWater, l.needs.Infused = true, l.panel.Infused()
		l.record = l.fold().Record(j.app.Now())
	}
	return l, nil
}

// know loads a version with what it refers to, and the documents of its formula.
func (j *judging) know(st Store, ref formula.Ref) error {
	if _, have := j.lib.Versions[ref]; !have {
		v, err := st.Version(ref)
		if err != nil {
			return err
		}
		if err := extend(st, &j.lib, v.Core()); err != nil {
			return err
		}
		j.lib.Versions[ref] = v.Core()
		if j.libs[ref], err = frozen(st, j.lib, v.Core()); err != nil {
			return err
		}
	}
	if _, have := j.docs[ref.Formula]; have {
		return nil
	}
	list, err := st.EvidenceList(ref.Formula)
	j.docs[ref.Formula] = inForce(list)
	return err
}

// panel assesses a batch as it was weighed, or as its version was planned before that.
func (j *judging) panel(l loaded, ref formula.Ref) (assess.Panel, error) {
	in := assess.Inputs{Library: l.lib, Rate: j.book.rate, Rules: j.book.rules, Documents: j.docs[ref.Formula]}
	uses := l.record.Uses()
	if !l.record.Weighed && len(uses) == 0 {
		if p, have := j.panels[ref]; have {
			return p, nil
		}
		p, err := assess.Version(l.version, in)
		j.panels[ref] = p
		return p, err
	}
	in.Library = asDrawn(in.Library, l)
	made, err := asWeighed(l.version, l.record).Resolve(uses)
	if err != nil {
		return assess.Panel{}, err
	}
	return assess.Version(made, in)
}

// asWeighed is the version with what was weighed in the place of its grams, once all lines are.
func asWeighed(v formula.Version, r bench.Record) formula.Version {
	if !r.Weighed {
		return v
	}
	made := v
	made.Lines = nil
	total := amount.Grams{}
	for i, l := range v.Lines {
		if r.Lines[i].LeftOut {
			continue
		}
		l.Grams = *r.Lines[i].Actual
		total = total.Plus(l.Grams)
		made.Lines = append(made.Lines, l)
	}
	for _, x := range r.Added {
		total = total.Plus(x.Grams)
		if x.Ingredient != "" {
			made.Lines = append(made.Lines, formula.Line{ID: bench.AddedLineID(x.Entry), Ingredient: x.Ingredient,
				Grams: x.Grams})
		} // a leftover is the product itself, and leaves it as it is
	}
	if v.WaterDrivenOff.IsPositive() {
		made.WaterDrivenOff = v.WaterDrivenOff.Exact().Times(total.Exact()).Over(v.GramsIn().Exact()).Grams()
	}
	return made
}

// loads is how many loads a batch is made in.
func (b Batch) loads() int {
	if b.Planned == nil {
		return 1
	}
	return len(b.Planned.Loads)
}

// withAdded is the library with what went in besides the version's lines.
func withAdded(st Store, lib formula.Library, r bench.Record) (formula.Library, error) {
	var lack []string
	for _, x := range r.Added {
		if x.Ingredient != "" && lib.Ingredients[x.Ingredient] == nil {
			lack = append(lack, x.Ingredient)
		}
	}
	if len(lack) == 0 {
		return lib, nil
	}
	rows, err := st.Ingredients(lack...)
	lib.Ingredients = maps.Clone(lib.Ingredients)
	for i := range rows {
		lib.Ingredients[rows[i].ID] = &rows[i].Data
	}
	return lib, err
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
