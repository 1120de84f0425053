package production

import (
	"context"
	"fmt"
	"slices"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/judge"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// WordsLack reports whether printed labels lack an allergen; jars without a print of ours may carry any words.
func (l Loaded) WordsLack(gained law.Each[[]string]) bool {
	printed := false
	for _, e := range l.entries {
		p, ok := e.Body.(*bench.Print)
		if !ok || p.What != "label" {
			continue
		}
		printed = true
		kept, err := kernel.KeptOf(p)
		if err != nil || len(judge.Without(gained[kept.Regime], kept.Allergens)) > 0 {
			return true
		}
	}
	return !printed && judge.AnyCode(gained)
}

// BatchView is the page of a batch.
type BatchView struct {
	ID          int64                     `json:"id"`
	Code        string                    `json:"code"`
	Formula     string                    `json:"formula"`
	FormulaName string                    `json:"formula_name"`
	Version     int                       `json:"version"`
	MadeOn      day.Day                   `json:"made_on"`
	JarsPlanned int                       `json:"jars_planned"`
	Lot         int64                     `json:"lot"` // that it is itself
	CreatedBy   string                    `json:"created_by"`
	Record      bench.Record              `json:"record"`
	Entries     []bench.Entry             `json:"entries"`
	Estimate    assess.PH                 `json:"estimate"` // from what was weighed, once all lines are
	MakeUp      formula.MakeUp            `json:"make_up"`
	Target      float64                   `json:"ph_target"`
	Limit       float64                   `json:"ph_limit"`
	PieceMM     float64                   `json:"largest_piece_mm"`
	HeatC       float64                   `json:"heat_min_c"`
	HeatMinutes float64                   `json:"heat_min_minutes"`
	Keeping     law.Each[keeping.Verdict] `json:"keeping"`
	LastDay     law.Each[day.Day]         `json:"last_day"`
	EquiDue     string                    `json:"equilibrium_due"`
	Sooner      string                    `json:"sooner"` // why what is out keeps less long than was decided
	CanRelease  bool                      `json:"can_release"`
	// the decision that kept what it rested on, the newest; 0: none
	RestedEntry int64            `json:"rested_entry"`
	Regime      law.Regime       `json:"regime"`
	Samples     []string         `json:"sample_preparations"` // the usual one first
	Cautions    []assess.Caution `json:"cautions"`
	Planned     *bench.Planned   `json:"planned"`
	// by line, what a gram of it is made of; and by class, how far it runs on
	Parts   map[string]formula.MakeUp `json:"parts"`
	Infused bool                      `json:"infused"` // an oil that plants were kept in, with nothing to measure
	Contact CrossContact              `json:"contact"` // what it may contain, and by what
	Net     bench.NetRule             `json:"net_rule"`
	Asked   int                       `json:"jars_to_weigh"`
	Balance *bench.Balance            `json:"balance"` // nil before it was weighed and filled
}

// Loaded is a batch with everything that its page and its label need.
type Loaded struct {
	Row     kernel.Batch
	Version formula.Version
	panel   assess.Panel
	Record  bench.Record
	entries []bench.Entry
	Needs   bench.Needs
	Book    catalog.Book
	name    string
	lot     int64                // that it is itself; of one that was loaded by itself
	Lib     formula.Library      // as the version was locked
	desk    *judging             // that it was judged at
	were    []kernel.VesselTurns // that it was in, or is to be in; of one that was loaded by itself

	documents []keeping.Document // in force
	released  *Rested            // what the newest release rested on; nil where there is none, or it kept nothing
}

// Made returns the batch as planned and recorded, for package judge.
func (l Loaded) Made() judge.Batch {
	return judge.Batch{Version: l.Version, Lib: l.Lib, Record: l.Record, Targets: l.Row.Targets,
		Planned: l.Row.Planned, Jars: l.Row.Jars, Lots: l.Needs.Lots}
}

// netRule returns what the label's law requires of the net weights of a version's jars.
func netRule(v formula.Version, over amount.Percent, b catalog.Book) bench.NetRule {
	stated, unit := kernel.Nominal(v)
	return judge.NetRule(v, over, judge.Stated{Amount: stated, Unit: unit}, b.Settings.Allowable,
		b.Settings.AllowableSource, b.Law)
}

// Load reads a batch with its version by today's pantry, the weighed grams in place of the targets.
func (a *Room) Load(st kernel.Store, id int64) (Loaded, error) {
	row, err := st.Batch(id)
	if err != nil {
		return Loaded{}, err
	}
	desk, err := a.Judging(st)
	if err != nil {
		return Loaded{}, err
	}
	list, err := desk.Read(st, []kernel.Batch{row})
	if err != nil {
		return Loaded{}, err
	}
	own, err := st.LotsOfBatches(row.ID)
	if err != nil {
		return Loaded{}, err
	}
	if len(own) > 0 {
		list[0].lot = own[0].ID
	}
	list[0].were, err = st.VesselsOf(row.ID)
	return list[0], err
}

// Verdict returns how long the batch keeps: as decided if it is released, else as it would be decided now.
func (l Loaded) Verdict(under *law.Law) keeping.Verdict {
	if l.Record.State == bench.Released && l.released != nil {
		return l.released.Verdicts[under.Regime]
	}
	return l.judged(under)
}

// judged returns how long the batch keeps by what was measured; before that it has no storage life.
func (l Loaded) judged(under *law.Law) keeping.Verdict {
	return l.panel.Keep(under, l.Version, l.measured(), l.Book.Rules)
}

// measured returns the facts for the rules, with the batch's measurements in place of the version's estimates.
func (l Loaded) measured() assess.Measured {
	m := assess.Measured{HeatStepMet: l.Record.HeatMet(l.Needs), StrainedClear: l.Record.StrainedClear()}
	if l.Record.Acidity.Outcome == acidity.Pass || l.Record.Acidity.Outcome == acidity.PassWithNote ||
		l.Record.Acidity.Outcome == acidity.HoldIt || l.Record.Acidity.Outcome == acidity.Retest {
		v := l.Record.Acidity.Value
		m.DecisionPH = &v
	}
	if l.Record.Lab != nil {
		m.LaboratoryAW = &l.Record.Lab.WaterActivity
	}
	if l.Record.Heat != nil {
		m.HeatC, m.HeatMin = l.Record.Heat.ColdestC, l.Record.Heat.Minutes
	}
	if days, _, ok := l.Record.EarliestUseBy(day.Of(l.Row.MadeOn)); ok {
		m.PerishableDays = &days
	}
	return m
}

// LastDay returns the last day of a batch under the shop's law.
func (l Loaded) LastDay(v keeping.Verdict) day.Day {
	if v.Days == nil {
		return ""
	}
	return day.Of(l.Row.MadeOn.AddDate(0, 0, *v.Days))
}

// samples returns the ways in which a sample of this product may be prepared.
func (l Loaded) samples() []string {
	return acidity.SamplePreparations(l.Version.ProductStyle, l.Version.EmulsionStyle, l.Version.LargestPieceMM,
		l.panel.OilShare, l.Version.Keeping.ToppedWithOil)
}

// standing returns what stands in the way of a release: the record's list, and a storage life that the rules refuse.
func (l Loaded) standing() []string {
	missing := slices.Clone(l.Record.Missing)
	v := l.Verdict(l.Book.Law)
	if v.Refused {
		missing = append(missing, v.Reason)
	}
	if why := l.Made().Unexplained(); why != "" {
		missing = append(missing, why)
	}
	return missing
}

// Batch returns the page of a batch.
func (a *Room) Batch(ctx context.Context, id int64) (BatchView, error) {
	return a.batchView(a.On(ctx), id)
}

func (a *Room) batchView(st kernel.Store, id int64) (BatchView, error) {
	l, err := a.Load(st, id)
	if err != nil {
		return BatchView{}, err
	}
	return l.View(), nil
}

// plainEntries returns a batch's own entries without what decisions and prints stored, which has its own address, and
// the newest decision that stored something.
func plainEntries(all []bench.Entry) (out []bench.Entry, newest int64) {
	for _, e := range all {
		switch x := e.Body.(type) {
		case *bench.Decided:
			if len(x.Rested) > 0 {
				newest = e.ID
			}
			plain := *x
			plain.Rested = nil
			e.Body = &plain
		case *bench.Print:
			plain := *x
			plain.Kept = nil
			e.Body = &plain
		}
		if e.Kind() != "" { // what meters went through has its own place
			out = append(out, e)
		}
	}
	return out, newest
}

// View returns the page of the batch.
func (l Loaded) View() BatchView {
	entries, restedEntry := plainEntries(l.entries)
	v := BatchView{ID: l.Row.ID, Code: l.Row.Code, Formula: l.Row.FormulaID, FormulaName: l.name,
		Version: l.Row.Version, Lot: l.lot,
		MadeOn: day.Of(l.Row.MadeOn), JarsPlanned: l.Row.Jars, CreatedBy: l.Row.CreatedBy,
		Record: l.Record, Entries: entries, RestedEntry: restedEntry,
		Estimate: l.panel.PH, MakeUp: l.panel.MakeUp, Target: l.Version.PHTarget, Limit: l.Version.PHLimit,
		PieceMM: l.Version.LargestPieceMM,
		HeatC:   l.Version.Keeping.HeatMinC, HeatMinutes: l.Version.Keeping.HeatMinMinutes,
		Regime: l.Book.Settings.Regime, Cautions: l.panel.Cautions, Infused: l.panel.Infused(), Contact: l.Contact()}
	v.Planned, v.Parts = l.Row.Planned, l.Made().Parts()
	v.Net, v.Balance, v.Asked = l.Needs.Net, l.Made().Balance(l.Record.Counted), bench.SampleOf(l.Row.Jars)
	if f := l.Record.Fill; f != nil {
		v.Asked = bench.SampleOf(f.Jars)
	}
	if v.Entries == nil {
		v.Entries = []bench.Entry{}
	}
	v.Keeping, v.LastDay = law.Each[keeping.Verdict]{}, law.Each[day.Day]{}
	for _, under := range law.All() {
		v.Keeping[under.Regime] = l.Verdict(under)
		v.LastDay[under.Regime] = l.LastDay(v.Keeping[under.Regime])
	}
	if d := v.Record.Decided; d != nil {
		plain := *d
		plain.Rested = nil
		v.Record.Decided = &plain
	}
	v.Sooner = l.sooner(v.LastDay[v.Regime])
	v.Record.Missing = l.standing()
	if v.Record.Missing == nil {
		v.Record.Missing = []string{}
	}
	v.Samples = l.samples()
	v.CanRelease = len(v.Record.Missing) == 0
	if l.Record.Fill != nil {
		b := l.Needs.Bounds
		if l.Record.From != nil {
			b.FilledAt = *l.Record.From
		}
		v.EquiDue = b.EquilibriumDue().Format(time.RFC3339)
	}
	return v
}

// PageOfBatches is how many batches one part of the list holds.
const PageOfBatches = 50

// BatchPage is one part of the list of batches. Next is the key of the next part; empty at the end.
type BatchPage struct {
	Batches []kernel.BatchRow `json:"batches"`
	Next    string            `json:"next"`
	All     int               `json:"all"` // how many there are in the book
}

// Batches lists batches, newest first, starting at a key; an empty key starts with the newest.
func (a *Room) Batches(ctx context.Context, q kernel.BatchQuery, after string) (BatchPage, error) {
	out := BatchPage{Batches: []kernel.BatchRow{}}
	var key *kernel.BatchKey
	if after != "" {
		var k kernel.BatchKey
		n, err := fmt.Sscanf(after, "%10s.%d", &k.MadeOn, &k.ID)
		if _, wrong := pantry.ParseDay(k.MadeOn); n != 2 || err != nil || wrong != nil {
			return out, kernel.Mistake("after", "this is no place in the list; begin at its top")
		}
		key = &k
	}
	if err := a.RunOut(ctx); err != nil {
		return out, err
	}
	st := a.On(ctx)
	rows, err := st.ListBatches(q, key, PageOfBatches+1)
	if err != nil {
		return out, err
	}
	if out.All, err = st.AllBatches(); err != nil {
		return out, err
	}
	if len(rows) > PageOfBatches {
		rows = rows[:PageOfBatches]
		last := rows[PageOfBatches-1]
		out.Next = fmt.Sprintf("%s.%d", last.MadeOn, last.Batch)
	}
	for _, r := range rows {
		out.Batches = append(out.Batches, RowOf(r))
	}
	return out, nil
}

// RowOf returns a batch as the list shows it.
func RowOf(x kernel.Listed) kernel.BatchRow {
	r := kernel.BatchRow{ID: x.Batch, Code: x.Code, Formula: x.Formula, FormulaName: x.FormulaName, Version: x.Version,
		MadeOn: x.MadeOn, Jars: x.Jars, Here: x.Here,
		State: x.State, Value: x.Value, Target: x.Target, Limit: x.Limit, LastDay: x.LastDay, DateKind: x.DateKind,
		By: x.By}
	if len(x.Waits) > 0 && x.State == bench.OnHold {
		r.Waits = x.Waits[0]
	}
	return r
}
