package production

import (
	"fmt"
	"maps"
	"slices"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"
)

// judging holds what batches are judged with, loaded once for any number of them.
type judging struct {
	app    *Room
	book   catalog.Book
	lib    formula.Library
	docs   map[string][]keeping.Document
	panels map[string]assess.Panel         // of versions as they were planned, by what of a choice was taken
	libs   map[formula.Ref]formula.Library // of versions as they were locked
	day    day.Day                         // of the shop, when it was laid
	behind map[string]*pantry.Ingredient   // what stands behind lines, as larders have met it
	priced map[string]pantry.Ingredient    // what stands behind steps, as prices were looked up
	met    *met                            // lots that the entry which is written may name
}

// Judging loads what batches are judged with.
func (a *Room) Judging(st kernel.Store) (*judging, error) {
	b, err := a.Catalog.Book(st)
	if err != nil {
		return nil, err
	}
	j := &judging{app: a, book: b, lib: kernel.NewLibrary(), docs: map[string][]keeping.Document{},
		panels: map[string]assess.Panel{}, libs: map[formula.Ref]formula.Library{},
		day: day.Of(a.TodayIn(b.Settings)), behind: map[string]*pantry.Ingredient{},
		priced: map[string]pantry.Ingredient{}}
	j.pricedThrough(st)
	return j, nil
}

// pricedThrough makes prices come from a store.
func (j *judging) pricedThrough(st kernel.Store) {
	j.book.Terms, j.book.Prices = j.app.Catalog.TermsOf(st, j.book.Settings, j.book.Steps, j.priced)
}

// Read loads the records of batches and judges them.
func (j *judging) Read(st kernel.Store, rows []kernel.Batch) ([]Loaded, error) {
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
	out := make([]Loaded, len(rows))
	for i, r := range rows {
		if out[i], err = j.batch(st, r, entries[r.ID], known[r.ID]); err != nil {
			return nil, fmt.Errorf("batch %s: %w", r.Code, err)
		}
	}
	return out, nil
}

// Locked locks batches until the transaction ends, and loads and judges them.
func (j *judging) Locked(st kernel.Store, ids []int64) ([]Loaded, error) {
	if err := st.LockBatches(ids...); err != nil {
		return nil, err
	}
	rows, err := st.BatchesBy(ids)
	if err != nil {
		return nil, err
	}
	return j.Read(st, rows)
}

// withMeters merges the meters' checks and looks into the records of the batches read with them, in the order of entry.
func withMeters(st kernel.Store, all map[int64][]bench.Entry) error {
	var checks []int64
	since := map[int64]time.Time{}
	first := time.Time{}
	meters := map[int64]map[int64]bool{}
	for id, entries := range all {
		meters[id] = map[int64]bool{}
		for _, e := range entries {
			r, ok := e.Body.(*acidity.Reading)
			if !ok {
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

// aDayAndMore is how long before a reading its meter check may lie: a check of the same day, in any time zone.
const aDayAndMore = 36 * time.Hour

// ofMeters returns the events, since a time, of the meters of these checks.
func ofMeters(events []kernel.MeterEvent, checks map[int64]bool, since time.Time) []kernel.MeterEvent {
	names := map[string]bool{}
	for _, e := range events {
		if checks[e.Check] {
			names[e.Meter] = true
		}
	}
	var out []kernel.MeterEvent
	for _, e := range events {
		if names[e.Meter] && !e.At.Before(since) {
			out = append(out, e)
		}
	}
	return out
}

// merged merges events and entries in the order of entry; at the same time a check comes first.
func merged(entries []bench.Entry, events []kernel.MeterEvent) []bench.Entry {
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

func (j *judging) batch(st kernel.Store, row kernel.Batch, entries []bench.Entry, known map[int64]lots.Facts) (Loaded,
	error) {
	ref := formula.Ref{Formula: row.FormulaID, Version: row.Version}
	if err := j.know(st, ref); err != nil {
		return Loaded{}, err
	}
	if known == nil {
		known = map[int64]lots.Facts{}
	}
	v, b := j.lib.Versions[ref], j.book
	l := Loaded{Row: row, Version: v, entries: entries, Book: b, name: j.lib.Name(row.FormulaID),
		documents: j.docs[row.FormulaID], Lib: j.libs[ref], desk: j}
	l.Needs = bench.Needs{Targets: row.Targets, NoKillStep: !keeping.AsksKillStep(b.Law, b.Rules), Lots: known,
		HeatC: v.Keeping.HeatMinC, HeatMin: v.Keeping.HeatMinMinutes,
		Planned: row.Planned, Cooling: b.Law.Cooling, Net: netRule(v, row.Over(v), b),
		Bounds: acidity.Bounds{Limit: v.PHLimit, Target: v.PHTarget, LargestPieceMM: v.LargestPieceMM,
			Loads:        row.Loads(),
			EarlyRelease: b.Settings.EarlyRelease, Chilled: v.Keeping.Asked == keeping.Chilled,
			Zone: b.Settings.Zone(), Tongue: b.Settings.Tongue()},
		SecondPerson: b.Settings.SecondPerson, PlannedBy: row.CreatedBy}
	l.Record = l.Fold().Record(j.app.Now())
	var err error
	if l.Lib, err = withAdded(st, l.Lib, l.Record); err != nil {
		return l, err
	}
	if l.released, err = lastRelease(entries); err != nil {
		return l, err
	}
	if l.panel, err = j.panel(l, ref); err != nil {
		return l, err
	}
	if l.panel.PH.NoWater {
		l.Needs.NoWater, l.Needs.Infused = true, l.panel.Infused()
		l.Record = l.Fold().Record(j.app.Now())
	}
	return l, nil
}

// know loads a version, what it refers to, and the documents of its formula.
func (j *judging) know(st kernel.Store, ref formula.Ref) error {
	if _, have := j.lib.Versions[ref]; !have {
		v, err := st.Version(ref)
		if err != nil {
			return err
		}
		if err := kernel.Extend(st, &j.lib, v.Core()); err != nil {
			return err
		}
		j.lib.Versions[ref] = v.Core()
		if j.libs[ref], err = catalog.Frozen(st, j.lib, v.Core()); err != nil {
			return err
		}
	}
	if _, have := j.docs[ref.Formula]; have {
		return nil
	}
	list, err := st.EvidenceList(ref.Formula)
	j.docs[ref.Formula] = kernel.InForce(list)
	return err
}

// panel assesses a batch as weighed, or as planned before that.
func (j *judging) panel(l Loaded, ref formula.Ref) (assess.Panel, error) {
	in := assess.Inputs{Library: l.Lib, Terms: j.book.Terms, Rules: j.book.Rules, Documents: j.docs[ref.Formula]}
	uses, stated := l.Record.Uses(), false
	if l.Record.Weighed || len(uses) > 0 {
		in.Library, stated = asDrawn(in.Library, l)
	}
	planned := ""
	if !l.Record.Weighed && !stated {
		planned = fmt.Sprint(ref, uses)
	}
	if p, have := j.panels[planned]; have {
		return p, nil
	}
	made, err := l.Made().AsWeighed().Resolve(uses)
	if err != nil {
		return assess.Panel{}, err
	}
	p, err := assess.Version(made, in)
	if planned != "" && err == nil {
		j.panels[planned] = p
	}
	return p, err
}

// withAdded returns the library with what went in besides the version's lines.
func withAdded(st kernel.Store, lib formula.Library, r bench.Record) (formula.Library, error) {
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
