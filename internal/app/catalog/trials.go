package catalog

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// TrialView is a trial with its revision.
type TrialView struct {
	formula.Trial
	Rev   int          `json:"rev"`
	Grams amount.Grams `json:"grams"` // all that went in
}

// TrialsView is a formula's trials with the names of what is in them.
type TrialsView struct {
	Formula   string            `json:"formula"`
	Name      string            `json:"name"`
	Newest    int               `json:"newest"`
	Locked    bool              `json:"newest_locked"`
	Reference amount.Grams      `json:"reference_g"` // of the newest version
	Division  amount.Grams      `json:"division_g"`
	Trials    []TrialView       `json:"trials"`
	Names     map[string]string `json:"names"` // by line key
}

// Trials lists a formula's trials, oldest first.
func (a *Room) Trials(ctx context.Context, id string) (TrialsView, error) {
	return a.trialsView(a.On(ctx), id)
}

func (a *Room) trialsView(st kernel.Store, id string) (TrialsView, error) {
	v, newest, err := a.trialHead(st, id)
	if err != nil {
		return v, err
	}
	rows, err := st.Trials(id)
	if err != nil {
		return v, err
	}
	var trials []formula.Trial
	for _, r := range rows {
		t := r.Core()
		trials = append(trials, t)
		v.Trials = append(v.Trials, TrialView{t, r.Rev, t.GramsIn()})
	}
	return v, a.nameKeys(st, newest, trials, v.Names)
}

func (a *Room) trialHead(st kernel.Store, id string) (TrialsView, formula.Version, error) {
	f, err := st.Formula(id)
	if err != nil {
		return TrialsView{}, formula.Version{}, err
	}
	all, err := st.Versions(id)
	if err != nil {
		return TrialsView{}, formula.Version{}, err
	}
	s, _, err := a.Settings(st)
	if err != nil {
		return TrialsView{}, formula.Version{}, err
	}
	newest := all[len(all)-1].Core()
	v := TrialsView{Formula: id, Name: f.Name, Newest: newest.Number, Locked: newest.State == formula.Locked,
		Reference: newest.GramsIn(), Division: s.ScaleDivision,
		Trials: []TrialView{}, Names: map[string]string{}}
	return v, newest, nil
}

// nameKeys names everything in the version and in the trials.
func (a *Room) nameKeys(st kernel.Store, v formula.Version, trials []formula.Trial, names map[string]string) error {
	ids := []string{""}
	formulas := map[string]bool{}
	add := func(ingredient string, component *formula.Ref) {
		if component != nil {
			formulas[component.Formula] = true
		} else {
			ids = append(ids, ingredient)
		}
	}
	for _, l := range v.Lines {
		add(l.Ingredient, l.Component)
	}
	for _, t := range trials {
		for _, l := range t.Lines {
			add(l.Ingredient, l.Component)
			if l.Instead != "" {
				ids = append(ids, l.Instead)
			}
		}
	}
	rows, err := st.Ingredients(ids...)
	if err != nil {
		return err
	}
	for _, r := range rows {
		names[r.ID] = r.Name
	}
	for id := range formulas {
		f, err := st.Formula(id)
		if err != nil {
			return err
		}
		names["formula:"+id] = f.Name
	}
	return nil
}

// trialDay is the day a trial was made on; it must not lie in the shop's future.
func (a *Room) trialDay(ctx context.Context, madeOn day.Day) (time.Time, error) {
	day, err := pantry.ParseDay(madeOn)
	if err != nil {
		return day, kernel.Mistake("made_on", "a day as in 2026-11-25")
	}
	s, _, err := a.Settings(a.On(ctx))
	if err == nil && a.NotYet(day, s) {
		err = kernel.Mistake("made_on", "a trial is recorded once it was made")
	}
	return day, err
}

// SaveTrial stores a trial: a new one if its id is 0, otherwise over revision rev.
func (a *Room) SaveTrial(ctx context.Context, formulaID string, t formula.Trial, rev int) (TrialsView,
	error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return TrialsView{}, err
	}
	day, err := a.trialDay(ctx, t.MadeOn)
	if err != nil {
		return TrialsView{}, err
	}
	t = a.logged(t)
	if errs := t.Check(); len(errs) > 0 {
		return TrialsView{}, kernel.Mistakes(errs...)
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (TrialsView, error) {
		var out TrialsView
		if _, err := st.Formula(formulaID); err != nil {
			return out, err
		}
		if err := trialLinesThere(st, t); err != nil {
			return out, err
		}
		if t.By == "" {
			t.By = by
		}
		row := kernel.Trial{ID: t.ID, FormulaID: formulaID, MadeOn: day, Data: t, UpdatedBy: by}
		if t.ID == 0 {
			err = st.AddTrial(&row)
		} else {
			err = st.SaveTrial(row, rev)
		}
		if errors.Is(err, kernel.ErrConflict) {
			current, err := a.trialsView(st, formulaID)
			if err != nil {
				return out, err
			}
			return out, kernel.Problem{Kind: kernel.Clash, Code: "changed_meanwhile",
				Message: "This trial was changed or taken out meanwhile; what you typed is kept here.",
				Current: current}
		}
		if err != nil {
			return out, err
		}
		out, err = a.trialsView(st, formulaID)
		return out, err
	})
}

// logged stamps what was logged with its time, and derives the trial's lines from it.
func (a *Room) logged(t formula.Trial) formula.Trial {
	if len(t.Log) == 0 {
		return t
	}
	for i := range t.Log {
		if t.Log[i].At.IsZero() {
			t.Log[i].At = a.Now().Truncate(time.Second)
		}
	}
	return t.OfLog()
}

func trialLinesThere(st kernel.Store, t formula.Trial) error {
	ids := []string{""}
	for _, l := range t.Lines {
		ids = append(ids, l.Ingredient)
		if l.Instead != "" {
			ids = append(ids, l.Instead)
		}
	}
	rows, err := st.Ingredients(ids...)
	if err != nil {
		return err
	}
	there := map[string]bool{"": true}
	for _, r := range rows {
		there[r.ID] = true
	}
	for i, l := range t.Lines {
		if !there[l.Ingredient] || !there[l.Instead] {
			return kernel.Mistake(fmt.Sprintf("lines[%d]", i), "this ingredient is not in the pantry")
		}
		if l.Component != nil {
			if _, err := st.Version(*l.Component); errors.Is(err, kernel.ErrNotFound) {
				return kernel.Mistake(fmt.Sprintf("lines[%d]", i), "%s is not there", l.Component)
			} else if err != nil {
				return err
			}
		}
	}
	return nil
}

// DropTrial retires a trial with the reason; it stays on record.
func (a *Room) DropTrial(ctx context.Context, formulaID string, id int64, why string) (TrialsView, error) {
	if _, err := kernel.Signed(ctx); err != nil {
		return TrialsView{}, err
	}
	why, err := kernel.ReasonFor(why)
	if err != nil {
		return TrialsView{}, err
	}
	var out TrialsView
	err = a.In(ctx, func(st kernel.Store) error {
		if err := st.DropTrial(formulaID, id, why, a.Stamp(ctx)); errors.Is(err, kernel.ErrConflict) {
			return fmt.Errorf("trial %d: %w", id, kernel.ErrNotFound)
		} else if err != nil {
			return err
		}
		var err error
		out, err = a.trialsView(st, formulaID)
		return err
	})
	return out, err
}

// Choice names the trials a standard is made from.
type Choice struct {
	Trials    []int64      `json:"trials"`
	Reference amount.Grams `json:"reference_g"`
	Division  amount.Grams `json:"division_g"`
	ByScore   bool         `json:"by_score"`
}

// StandardView is a proposed standard.
type StandardView struct {
	Choice
	Lines   []assess.StandardLine `json:"lines"`
	Panel   assess.PH             `json:"ph"`
	PerJar  amount.Exact          `json:"per_jar"`
	AtLeast bool                  `json:"at_least"`
	Days    []day.Day             `json:"days"` // of the chosen trials
}

// Standardise proposes a standard from chosen trials.
func (a *Room) Standardise(ctx context.Context, formulaID string, c Choice) (StandardView, error) {
	v, _, err := a.standard(a.On(ctx), formulaID, c)
	return v, err
}

func (a *Room) standard(st kernel.Store, formulaID string, c Choice) (StandardView, formula.Version, error) {
	head, newest, err := a.trialHead(st, formulaID)
	if err != nil {
		return StandardView{}, newest, err
	}
	if !c.Division.IsPositive() {
		c.Division = head.Division
	}
	out := StandardView{Choice: c, Lines: []assess.StandardLine{}, Days: []day.Day{}}
	trials, err := out.choose(st, formulaID, newest)
	if err != nil {
		return out, newest, err
	}
	lines, err := formula.Standardise(trials, c.Reference, c.Division, c.ByScore)
	var wrong pantry.FieldError
	if errors.As(err, &wrong) {
		return out, newest, kernel.Mistakes(wrong)
	}
	if err != nil {
		return out, newest, err
	}
	names := map[string]string{}
	if err := a.nameKeys(st, newest, trials, names); err != nil {
		return out, newest, err
	}
	f, err := st.Formula(newest.Formula)
	if err != nil {
		return out, newest, err
	}
	made := assess.Standard{Newest: newest, Lines: lines, Refs: formula.Components(trials), Names: names,
		Reference: c.Reference, Division: c.Division}
	in, _, err := a.desk(st, f, newest.FromStandard(lines, made.Refs, nil))
	if err != nil {
		return out, newest, err
	}
	proposed, told, err := made.Propose(in)
	if err != nil {
		return out, newest, LineProblem(err)
	}
	out.Lines = told
	p, err := assess.Version(proposed, in)
	if err != nil {
		return out, newest, LineProblem(err)
	}
	out.Panel, out.PerJar, out.AtLeast = p.PH, p.Cost.PerJar, p.Cost.AtLeast
	return out, proposed, nil
}

// choose picks the chosen trials. What they used of a group counts as the group's line.
func (v *StandardView) choose(st kernel.Store, formulaID string, newest formula.Version) ([]formula.Trial, error) {
	rows, err := st.Trials(formulaID)
	if err != nil {
		return nil, err
	}
	var trials []formula.Trial
	for _, r := range rows {
		if !slices.Contains(v.Trials, r.ID) {
			continue
		}
		if r.Data.Open {
			return nil, kernel.Mistake("trials", "the making of %s is still going on: finish it first",
				day.Of(r.MadeOn))
		}
		t := newest.OfGroups(r.Core())
		trials = append(trials, t)
		v.Days = append(v.Days, t.MadeOn)
	}
	return trials, nil
}

// StandardDraft writes the proposed standard into the formula's draft, or into a new one.
func (a *Room) StandardDraft(ctx context.Context, formulaID string, c Choice) (SheetView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return SheetView{}, err
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (SheetView, error) {
		var out SheetView
		_, v, err := a.standard(st, formulaID, c)
		if err != nil {
			return out, err
		}
		note := fmt.Sprintf("Standard from %d trials.", len(c.Trials))
		all, err := st.Versions(formulaID)
		if err != nil {
			return out, err
		}
		last := all[len(all)-1]
		ref := last.Ref()
		v.State, v.LockedAt, v.Note = formula.Draft, nil, note
		if last.State == formula.Draft {
			v.Number = last.Number
			err = a.SaveDraft(st, last, v, a.Stamp(ctx))
		} else {
			v.From, v.Number = last.Number, last.Number+1
			ref.Version = v.Number
			err = st.AddVersion(v, nil, by)
		}
		if err != nil {
			return out, a.versionClash(st, ref, err)
		}
		out, err = a.sheet(st, ref)
		return out, err
	})
}
