package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/pantry"

	"github.com/shopspring/decimal"
)

// BatchRow is a batch in the list.
type BatchRow struct {
	ID          int64    `json:"id"`
	Code        string   `json:"code"`
	Formula     string   `json:"formula"`
	FormulaName string   `json:"formula_name"`
	Version     int      `json:"version"`
	MadeOn      string   `json:"made_on"`
	Jars        int      `json:"jars"` // filled, or planned before filling
	State       string   `json:"state"`
	Value       *float64 `json:"decision_ph"`
	Target      float64  `json:"ph_target"`
	Limit       float64  `json:"ph_limit"`
	LastDay     string   `json:"last_day"`
	DateKind    string   `json:"date_kind"`
	Waits       string   `json:"waits"` // the first thing in the way of a release
}

// BatchView is a batch as a page.
type BatchView struct {
	ID          int64                        `json:"id"`
	Code        string                       `json:"code"`
	Formula     string                       `json:"formula"`
	FormulaName string                       `json:"formula_name"`
	Version     int                          `json:"version"`
	MadeOn      string                       `json:"made_on"`
	JarsPlanned int                          `json:"jars_planned"`
	CreatedBy   string                       `json:"created_by"`
	Record      bench.Record                 `json:"record"`
	Entries     []bench.Entry                `json:"entries"`
	Estimate    assess.PH                    `json:"estimate"` // from what was weighed, once all lines are
	MakeUp      formula.MakeUp               `json:"make_up"`
	Target      float64                      `json:"ph_target"`
	Limit       float64                      `json:"ph_limit"`
	PieceMM     float64                      `json:"largest_piece_mm"`
	HeatC       float64                      `json:"heat_min_c"`
	HeatMinutes float64                      `json:"heat_min_minutes"`
	Keeping     assess.Pair[keeping.Verdict] `json:"keeping"`
	LastDay     assess.Pair[string]          `json:"last_day"`
	EquiDue     string                       `json:"equilibrium_due"`
	CanRelease  bool                         `json:"can_release"`
	Regime      string                       `json:"regime"`
	Cautions    []assess.Caution             `json:"cautions"`
}

// loaded is a batch with everything its page and its label rest on.
type loaded struct {
	row     Batch
	version formula.Version
	panel   assess.Panel
	record  bench.Record
	entries []bench.Entry
	needs   bench.Needs
	book    book
	name    string
}

// PlanBatch makes a batch of a locked version: targets per line for the jars wanted.
func (a *App) PlanBatch(ctx context.Context, ref formula.Ref, jars int, madeOn, by string) (BatchView, error) {
	by, err := person(by)
	if err != nil {
		return BatchView{}, err
	}
	day, err := time.Parse(pantry.DateLayout, madeOn)
	if err != nil {
		return BatchView{}, field("made_on", "a day as in 2026-11-25")
	}
	if day.After(a.Now()) {
		return BatchView{}, field("made_on", "the day of making lies in the future")
	}
	var out BatchView
	err = a.Store.In(ctx, func(st Store) error {
		row, err := st.Version(ref)
		if errors.Is(err, ErrNotFound) {
			return field("version", "there is no version %d of this formula", ref.Version)
		}
		if err != nil {
			return err
		}
		if row.State != formula.Locked {
			return field("version", "a batch is made from a locked version; lock version %d first", ref.Version)
		}
		s, _, err := a.settings(st)
		if err != nil {
			return err
		}
		lib, err := library(st, row.Core())
		if err != nil {
			return err
		}
		nodes, err := lib.Expand(row.Core())
		if err != nil {
			return lineProblem(err)
		}
		if err := a.sizeHolds(st, row.Core(), jars); err != nil {
			return err
		}
		targets, err := bench.Plan(row.Core(), nodes, bench.Need{Jars: jars, Samples: s.SampleGrams, Residue: s.Residue, Division: s.ScaleDivision})
		var mistake pantry.FieldError
		if errors.As(err, &mistake) {
			return invalid(mistake)
		}
		if err != nil {
			return err
		}
		bench.WidenGroups(targets, row.Core(), lib)
		onTop, err := lib.OnTop(row.Core())
		if err != nil {
			return field("version", "%s", err.Error())
		}
		targets = append(targets, bench.OnTop(onTop, jars)...)
		b := Batch{FormulaID: ref.Formula, Version: ref.Version, Jars: jars, MadeOn: day, Targets: targets, CreatedBy: by}
		if b.Code, err = freshCode(st, day); err != nil {
			return err
		}
		if err := st.AddBatch(&b); err != nil {
			return err
		}
		out, err = a.batchView(st, b.ID)
		return err
	})
	return out, err
}

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
		return field("jars", "at %d jars the lines that scale less leave the top of the band at pH %.2f, over the target of %.2f; plan a smaller batch or let them grow with it", jars, *high, v.PHTarget)
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
	st := a.Store.With(ctx)
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
		finished := v.JarGrams().Mul(decimal.NewFromInt(int64(jars)))
		in := finished.Mul(v.GramsIn().Decimal).DivRound(v.FinishedGrams().Decimal, 4)
		out.Version = v.AtSize(amount.Grams{Decimal: in})
	}
	var err error
	out.Panel, err = a.panel(st, out.Version)
	return out, lineProblem(err)
}

// freshCode is the lot code: year, day of the year, and a letter for each batch of the day.
func freshCode(st Store, day time.Time) (string, error) {
	all, err := st.Batches()
	if err != nil {
		return "", err
	}
	stem := fmt.Sprintf("%s-%03d-", day.Format("06"), day.YearDay())
	for n := 0; ; n++ {
		letter := string(rune('A' + n%26))
		if n >= 26 {
			letter = string(rune('A'+n/26-1)) + letter
		}
		if !slices.ContainsFunc(all, func(b Batch) bool { return b.Code == stem+letter }) {
			return stem + letter, nil
		}
	}
}

// load reads a batch with its version as it stands in the pantry, what was weighed put in the place of the targets.
func (a *App) load(st Store, id int64) (loaded, error) {
	row, err := st.Batch(id)
	if err != nil {
		return loaded{}, err
	}
	all, err := st.Entries(id)
	if err != nil {
		return loaded{}, err
	}
	v, err := st.Version(formula.Ref{Formula: row.FormulaID, Version: row.Version})
	if err != nil {
		return loaded{}, err
	}
	lib, err := library(st, v.Core())
	if err != nil {
		return loaded{}, err
	}
	b, err := a.book(st)
	if err != nil {
		return loaded{}, err
	}
	docs, err := a.documents(st, row.FormulaID)
	if err != nil {
		return loaded{}, err
	}
	if err := unsupport(st, all); err != nil {
		return loaded{}, err
	}
	return readBatch(row, v.Core(), lib, b, docs, all[id])
}

// unsupport marks readings whose meter failed its closing look after they were taken.
func unsupport(st Store, all map[int64][]bench.Entry) error {
	failed, err := st.FailedChecks()
	if err != nil || len(failed) == 0 {
		return err
	}
	for _, entries := range all {
		for _, e := range entries {
			if e.Reading != nil && slices.Contains(failed, e.Reading.MeterCheck) {
				e.Reading.Unsupported = "the closing look at buffer 4.01 failed"
			}
		}
	}
	return nil
}

func readBatch(row Batch, v formula.Version, lib formula.Library, b book, docs assess.Documents, entries []bench.Entry) (loaded, error) {
	l := loaded{row: row, version: v, entries: entries, book: b, name: lib.Name(row.FormulaID)}
	l.needs = bench.Needs{Targets: row.Targets, HeatC: v.Keeping.HeatMinC, HeatMin: v.Keeping.HeatMinMinutes,
		Bounds: acidity.Bounds{Limit: v.PHLimit, Target: v.PHTarget, LargestPieceMM: v.LargestPieceMM, Loads: 1, EarlyRelease: b.settings.EarlyRelease, Chilled: v.Keeping.Asked == "chilled"}}
	l.record = bench.Read(entries, l.needs)
	made := v
	if l.record.Weighed {
		made.Lines = slices.Clone(v.Lines)
		total := amount.Grams{}
		for i := range made.Lines {
			made.Lines[i].Grams = *l.record.Lines[i].Actual
			total.Decimal = total.Add(made.Lines[i].Grams.Decimal)
		}
		if v.WaterDrivenOff.IsPositive() {
			made.WaterDrivenOff.Decimal = v.WaterDrivenOff.Mul(total.Decimal).DivRound(v.GramsIn().Decimal, 8)
		}
	}
	made, err := made.Resolve(l.record.Uses())
	if err != nil {
		return l, fmt.Errorf("batch %s: %w", row.Code, err)
	}
	panel, err := assess.Version(made, assess.Inputs{Library: lib, Rate: b.rate, Rules: b.rules, Documents: docs})
	if err != nil {
		return l, fmt.Errorf("batch %s: %w", row.Code, err)
	}
	l.panel = panel
	if panel.PH.NoWater {
		l.needs.NoWater = true
		l.record = bench.Read(entries, l.needs)
	}
	return l, nil
}

// verdict judges how long the batch keeps on what was measured; before that there is no life.
func (l loaded) verdict(regime string) keeping.Verdict {
	m := assess.Measured{HeatStepMet: l.record.HeatMet(l.needs)}
	if l.record.Acidity.Outcome == acidity.Pass || l.record.Acidity.Outcome == acidity.PassWithNote || l.record.Acidity.Outcome == acidity.HoldIt || l.record.Acidity.Outcome == acidity.Retest {
		v := l.record.Acidity.Value
		m.DecisionPH = &v
	}
	if l.record.Lab != nil {
		m.LaboratoryAW = &l.record.Lab.WaterActivity
	}
	if l.record.Heat != nil {
		m.HeatC, m.HeatMin = l.record.Heat.ColdestC, l.record.Heat.Minutes
	}
	if days, _, ok := l.record.EarliestUseBy(l.row.MadeOn.Format(pantry.DateLayout)); ok {
		m.PerishableDays = &days
	}
	return l.panel.Keep(regime, l.version, m, l.book.rules)
}

func (l loaded) lastDay(v keeping.Verdict) string {
	if v.Days == nil {
		return ""
	}
	return l.row.MadeOn.AddDate(0, 0, *v.Days).Format(pantry.DateLayout)
}

// standing is what stands in the way of a release: the record's list, and a life that rules refuse.
func (l loaded) standing() []string {
	missing := slices.Clone(l.record.Missing)
	v := l.verdict(l.book.settings.Regime)
	if v.Refused {
		missing = append(missing, v.Reason)
	}
	return missing
}

// Batch returns a batch as a page.
func (a *App) Batch(ctx context.Context, id int64) (BatchView, error) {
	return a.batchView(a.Store.With(ctx), id)
}

func (a *App) batchView(st Store, id int64) (BatchView, error) {
	l, err := a.load(st, id)
	if err != nil {
		return BatchView{}, err
	}
	v := BatchView{ID: l.row.ID, Code: l.row.Code, Formula: l.row.FormulaID, FormulaName: l.name, Version: l.row.Version,
		MadeOn: l.row.MadeOn.Format(pantry.DateLayout), JarsPlanned: l.row.Jars, CreatedBy: l.row.CreatedBy, Record: l.record, Entries: l.entries,
		Estimate: l.panel.PH, MakeUp: l.panel.MakeUp, Target: l.version.PHTarget, Limit: l.version.PHLimit, PieceMM: l.version.LargestPieceMM,
		HeatC: l.version.Keeping.HeatMinC, HeatMinutes: l.version.Keeping.HeatMinMinutes, Regime: l.book.settings.Regime, Cautions: l.panel.Cautions}
	if v.Entries == nil {
		v.Entries = []bench.Entry{}
	}
	v.Keeping.US, v.Keeping.GB = l.verdict("US"), l.verdict("GB")
	v.LastDay.US, v.LastDay.GB = l.lastDay(v.Keeping.US), l.lastDay(v.Keeping.GB)
	v.Record.Missing = l.standing()
	if v.Record.Missing == nil {
		v.Record.Missing = []string{}
	}
	v.CanRelease = len(v.Record.Missing) == 0
	if l.record.Fill != nil {
		b := l.needs.Bounds
		b.FilledAt = l.record.Fill.At
		v.EquiDue = b.EquilibriumDue().Format(time.RFC3339)
	}
	return v, nil
}

// Batches lists all batches, newest first.
func (a *App) Batches(ctx context.Context) ([]BatchRow, error) {
	list, err := a.loadAll(a.Store.With(ctx))
	if err != nil {
		return nil, err
	}
	out := make([]BatchRow, len(list))
	for i, l := range list {
		out[i] = l.summary()
	}
	return out, nil
}

func (a *App) loadAll(st Store) ([]loaded, error) {
	lib, _, _, err := everything(st)
	if err != nil {
		return nil, err
	}
	b, err := a.book(st)
	if err != nil {
		return nil, err
	}
	rows, err := st.Batches()
	if err != nil {
		return nil, err
	}
	entries, err := st.Entries(0)
	if err != nil {
		return nil, err
	}
	if err := unsupport(st, entries); err != nil {
		return nil, err
	}
	docs := map[string]assess.Documents{}
	out := make([]loaded, 0, len(rows))
	for _, row := range rows {
		if _, have := docs[row.FormulaID]; !have {
			if docs[row.FormulaID], err = a.documents(st, row.FormulaID); err != nil {
				return nil, err
			}
		}
		l, err := readBatch(row, lib.Versions[formula.Ref{Formula: row.FormulaID, Version: row.Version}], lib, b, docs[row.FormulaID], entries[row.ID])
		if err != nil {
			return nil, err
		}
		out = append(out, l)
	}
	return out, nil
}

func (l loaded) summary() BatchRow {
	r := BatchRow{ID: l.row.ID, Code: l.row.Code, Formula: l.row.FormulaID, FormulaName: l.name, Version: l.row.Version, MadeOn: l.row.MadeOn.Format(pantry.DateLayout),
		Jars: l.row.Jars, State: l.record.State, Target: l.version.PHTarget, Limit: l.version.PHLimit}
	if l.record.Fill != nil {
		r.Jars = l.record.Fill.Jars
	}
	if l.record.Acidity.Value > 0 && len(l.record.Acidity.Missing) == 0 {
		v := l.record.Acidity.Value
		r.Value = &v
	}
	v := l.verdict(l.book.settings.Regime)
	r.LastDay = l.lastDay(v)
	if v.DateKind != nil {
		r.DateKind = *v.DateKind
	}
	if missing := l.standing(); len(missing) > 0 && l.record.State == bench.OnHold {
		r.Waits = missing[0]
	}
	return r
}
