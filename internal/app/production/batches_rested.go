package production

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/lots"
)

// Rested is what a decision rested on. It is stored with the decision, so that a record opened in ten years shows what
// was true that day.
type Rested struct {
	At        time.Time               `json:"at"`
	By        string                  `json:"by"`
	State     string                  `json:"state"`
	Version   int                     `json:"version"`
	Acidity   acidity.Decision        `json:"acidity"`
	Readings  []int64                 `json:"readings"` // entries that counted
	Late      []int64                 `json:"late"`     // entries made late
	Estimate  assess.PH               `json:"estimate"`
	Facts     law.Each[keeping.Facts] `json:"facts"`
	Rules     []kernel.RuleKept       `json:"rules"`
	Documents []keeping.Document      `json:"documents"` // that covered the version under their law
	// of those, the ones that a verdict rests on: without them it would have been stricter
	Needed   []int64                     `json:"needed"`
	Verdicts law.Each[keeping.Verdict]   `json:"verdicts"`
	LastDay  law.Each[day.Day]           `json:"last_day"`
	Words    law.Each[kernel.LabelFacts] `json:"words"` // of the declaration
	Lots     []lots.Facts                `json:"lots"`  // that it was made of
}

// restsOn collects what a decision would rest on now.
func (l Loaded) restsOn(state string, at time.Time, by string) Rested {
	r := Rested{At: at, By: by, State: state, Version: l.Row.Version, Acidity: l.Record.Acidity, Readings: []int64{},
		Late: l.Record.Late, Estimate: l.panel.PH, Facts: law.Each[keeping.Facts]{},
		Rules:     kernel.RulesKept(l.Book.Rules),
		Documents: []keeping.Document{}, Needed: []int64{}, Verdicts: law.Each[keeping.Verdict]{},
		LastDay: law.Each[day.Day]{}, Words: law.Each[kernel.LabelFacts]{}, Lots: []lots.Facts{}}
	for _, id := range slices.Sorted(maps.Keys(l.Needs.Lots)) {
		r.Lots = append(r.Lots, l.Needs.Lots[id])
	}
	for _, x := range l.Record.Readings {
		if x.Void == "" && x.Unsupported == "" && x.Moment == l.Record.Acidity.Way {
			r.Readings = append(r.Readings, x.ID)
		}
	}
	m := l.measured()
	for _, under := range law.All() {
		v := l.judged(under)
		r.Facts[under.Regime] = l.panel.FactsOf(under, l.Version, m)
		r.Verdicts[under.Regime], r.LastDay[under.Regime] = v, l.LastDay(v)
		r.Words[under.Regime] = kernel.Facts(l.name, l.Version, l.panel, under)
		for _, d := range l.panel.Needed(under, l.Version, m, l.Book.Rules) {
			r.Needed = append(r.Needed, d.ID)
		}
	}
	for _, d := range l.documents {
		counts := func(under *law.Law) bool { return d.WhyNot(under, assess.SubjectOf(l.Version)) == "" }
		if slices.ContainsFunc(law.All(), counts) {
			r.Documents = append(r.Documents, d)
		}
	}
	return r
}

// rested returns what an entry's decision rested on; nil if it stored nothing, as old decisions did.
func rested(e bench.Entry) (*Rested, error) {
	d, ok := e.Body.(*bench.Decided)
	if !ok || len(d.Rested) == 0 {
		return nil, nil
	}
	var r Rested
	if err := json.Unmarshal(d.Rested, &r); err != nil {
		return nil, fmt.Errorf("what entry %d rested on: %w", e.ID, err)
	}
	if r.Lots == nil { // decided before lots were kept
		r.Lots = []lots.Facts{}
	}
	for regime, w := range r.Words {
		if w.Allergens == nil { // none was kept as nothing
			w.Allergens = []string{}
			r.Words[regime] = w
		}
	}
	return &r, nil
}

// lastRelease returns what the newest release of a record rested on; nil if there was none, or it stored nothing. If it
// cannot be read, that is an error: today's state never replaces it.
func lastRelease(entries []bench.Entry) (*Rested, error) {
	for _, e := range slices.Backward(entries) {
		if d, ok := e.Body.(*bench.Decided); ok && d.State == bench.Released {
			return rested(e)
		}
	}
	return nil, nil
}

// Needed reports whether the newest release needed a document. An old release stored nothing, so any document that
// names its version may have been needed.
func (l Loaded) Needed(d keeping.Document) bool {
	if l.released != nil {
		return slices.Contains(l.released.Needed, d.ID)
	}
	return slices.Contains(d.Versions, l.Row.Version)
}

// RestedOn returns what a decision of a batch rested on. Errors: ErrNotFound if the entry is no decision or stored
// nothing.
func (a *Room) RestedOn(ctx context.Context, batch, entry int64) (Rested, error) {
	e, err := a.EntryOf(ctx, batch, entry)
	if err != nil {
		return Rested{}, err
	}
	r, err := rested(e)
	if err == nil && r == nil {
		err = fmt.Errorf("entry %d kept nothing: %w", entry, kernel.ErrNotFound)
	}
	if err != nil {
		return Rested{}, err
	}
	return *r, nil
}

// EntryOf finds an entry of the batch.
func (a *Room) EntryOf(ctx context.Context, batch, entry int64) (bench.Entry, error) {
	all, err := a.On(ctx).Entries(batch)
	if err != nil {
		return bench.Entry{}, err
	}
	for _, e := range all[batch] {
		if e.ID == entry {
			return e, nil
		}
	}
	return bench.Entry{}, fmt.Errorf("entry %d of batch %d: %w", entry, batch, kernel.ErrNotFound)
}
