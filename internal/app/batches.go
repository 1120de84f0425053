package app

import (
	"context"
	"fmt"
	"slices"
	"time"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// Batch is one production run with the targets it was planned with, as it is kept.
type Batch struct {
	ID        int64
	Code      string
	FormulaID string
	Version   int
	Jars      int
	MadeOn    time.Time
	Targets   []bench.Target
	Planned   *bench.Planned // nil: from before loads were kept
	CreatedAt time.Time
	CreatedBy string
}

// BatchKey is a place in the list of batches.
type BatchKey struct {
	MadeOn string
	ID     int64
}

// BatchStore keeps batches, their records and where they stand.
type BatchStore interface {
	Batch(id int64) (Batch, error)
	BatchesBy(ids []int64) ([]Batch, error)
	BatchIDs(of ...formula.Ref) ([]int64, error)
	BatchRefs() ([]formula.Ref, error)
	BatchesOnMeter(meter string, since time.Time) ([]int64, error)
	RanOut(now time.Time) ([]int64, error)
	UnjudgedBatches() ([]int64, error)
	AddBatch(b *Batch) error
	CountBatches() error
	CodesOn(day time.Time) ([]string, error)
	LastVessel(formula string) (int64, error)
	MadeIn(formulas ...string) (map[string]bench.Vessel, error)
	LastAim(of formula.Ref) (aim AimedAt, ok bool, err error)
	Pours(class string, most int) ([]bench.Pour, error)
	LockBatches(ids ...int64) error
	OpenBatch(id int64, ask Opening) (BatchRecord, error)
	Entries(ids ...int64) (map[int64][]bench.Entry, error)
	AddEntry(batch int64, e bench.Entry, key string, digest []byte) (bench.Entry, error)
	EntryKey(batch int64, key string) (digest []byte, err error)

	PutStandings(list ...Standing) error
	AddSplit(batch, bowl int64) error
	Sisters(batch int64) ([]Sister, error)
	ListBatches(q BatchQuery, after *BatchKey, most int) ([]Listed, error)
	AllBatches() (int, error)
	BatchesWaiting(most int) ([]Listed, int, error)
	BatchesEnding(from, to string, most int) ([]Listed, error)
	ListedBatches(ids []int64) ([]Listed, error)
	BatchesSooner(most int) ([]Listed, error)
	PlannedBatches(most int) ([]Listed, error)
	PutJars(batch int64, jars []bench.JarsAt) error
	JarsOf(ids ...int64) (map[int64][]bench.JarsAt, error)
	BatchesWithJars(most int) ([]Listed, error)
	ReadyBatches(formula, today string, most int) ([]Listed, error)
}

// BatchRow is a batch in the list.
type BatchRow struct {
	ID          int64    `json:"id"`
	Code        string   `json:"code"`
	Formula     string   `json:"formula"`
	FormulaName string   `json:"formula_name"`
	Version     int      `json:"version"`
	MadeOn      string   `json:"made_on"`
	Jars        int      `json:"jars"` // filled, or planned before filling
	Here        int      `json:"here"` // that may still leave the shop
	State       string   `json:"state"`
	Value       *float64 `json:"decision_ph"`
	Target      float64  `json:"ph_target"`
	Limit       float64  `json:"ph_limit"`
	LastDay     string   `json:"last_day"`
	DateKind    string   `json:"date_kind"`
	Waits       string   `json:"waits"` // the first thing in the way of a release
	By          string   `json:"by"`    // who decided last; who planned it before that
}

// BatchView is a batch as a page.
type BatchView struct {
	ID          int64                     `json:"id"`
	Code        string                    `json:"code"`
	Formula     string                    `json:"formula"`
	FormulaName string                    `json:"formula_name"`
	Version     int                       `json:"version"`
	MadeOn      string                    `json:"made_on"`
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
	LastDay     law.Each[string]          `json:"last_day"`
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
	lot     int64           // that it is itself; of one that was loaded by itself
	lib     formula.Library // as the version was locked
	desk    *judging        // that it was judged at
	were    []VesselTurns   // that it was in, or is to be in; of one that was loaded by itself

	documents []keeping.Document // in force
	released  *Rested            // what the newest release rested on; nil where there is none, or it kept nothing
}

// load reads a batch with its version as it stands in the pantry, what was weighed put in the place of the targets.
func (a *App) load(st Store, id int64) (loaded, error) {
	row, err := st.Batch(id)
	if err != nil {
		return loaded{}, err
	}
	desk, err := a.judging(st)
	if err != nil {
		return loaded{}, err
	}
	list, err := desk.read(st, []Batch{row})
	if err != nil {
		return loaded{}, err
	}
	own, err := st.LotsOfBatches(row.ID)
	if err != nil {
		return loaded{}, err
	}
	if len(own) > 0 {
		list[0].lot = own[0].ID
	}
	list[0].were, err = st.VesselsOf(row.ID)
	return list[0], err
}

// verdict is how long the batch keeps: as was decided, where it is released; else as it would be now.
func (l loaded) verdict(under *law.Law) keeping.Verdict {
	if l.record.State == bench.Released && l.released != nil {
		return l.released.Verdicts[under.Regime]
	}
	return l.judged(under)
}

// judged judges how long the batch keeps on what was measured; before that there is no life.
func (l loaded) judged(under *law.Law) keeping.Verdict {
	return l.panel.Keep(under, l.version, l.measured(), l.book.rules)
}

// measured are the batch's facts in the place of the version's estimates.
func (l loaded) measured() assess.Measured {
	m := assess.Measured{HeatStepMet: l.record.HeatMet(l.needs), StrainedClear: l.record.StrainedClear()}
	if l.record.Acidity.Outcome == acidity.Pass || l.record.Acidity.Outcome == acidity.PassWithNote ||
		l.record.Acidity.Outcome == acidity.HoldIt || l.record.Acidity.Outcome == acidity.Retest {
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
	return m
}

func (l loaded) lastDay(v keeping.Verdict) string {
	if v.Days == nil {
		return ""
	}
	return l.row.MadeOn.AddDate(0, 0, *v.Days).Format(pantry.DateLayout)
}

// samples are the ways in which a sample of this product may be prepared.
func (l loaded) samples() []string {
	return acidity.SamplePreparations(l.version.ProductStyle, l.version.EmulsionStyle, l.version.LargestPieceMM,
		l.panel.OilShare, l.version.Keeping.ToppedWithOil)
}

// standing is what stands in the way of a release: the record's list, and a life that rules refuse.
func (l loaded) standing() []string {
	missing := slices.Clone(l.record.Missing)
	v := l.verdict(l.book.law)
	if v.Refused {
		missing = append(missing, v.Reason)
	}
	if why := l.unexplained(); why != "" {
		missing = append(missing, why)
	}
	return missing
}

// Batch returns a batch as a page.
func (a *App) Batch(ctx context.Context, id int64) (BatchView, error) {
	return a.batchView(a.on(ctx), id)
}

func (a *App) batchView(st Store, id int64) (BatchView, error) {
	l, err := a.load(st, id)
	if err != nil {
		return BatchView{}, err
	}
	return l.view(), nil
}

// plainEntries are a batch's own entries without what decisions and prints keep, which has its own address, and the
// newest decision that kept something.
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

// view is the batch as a page.
func (l loaded) view() BatchView {
	entries, restedEntry := plainEntries(l.entries)
	v := BatchView{ID: l.row.ID, Code: l.row.Code, Formula: l.row.FormulaID, FormulaName: l.name,
		Version: l.row.Version, Lot: l.lot,
		MadeOn: l.row.MadeOn.Format(pantry.DateLayout), JarsPlanned: l.row.Jars, CreatedBy: l.row.CreatedBy,
		Record: l.record, Entries: entries, RestedEntry: restedEntry,
		Estimate: l.panel.PH, MakeUp: l.panel.MakeUp, Target: l.version.PHTarget, Limit: l.version.PHLimit,
		PieceMM: l.version.LargestPieceMM,
		HeatC:   l.version.Keeping.HeatMinC, HeatMinutes: l.version.Keeping.HeatMinMinutes,
		Regime: l.book.settings.Regime, Cautions: l.panel.Cautions, Infused: l.panel.Infused(), Contact: l.contact()}
	v.Planned, v.Parts = l.row.Planned, l.parts()
	v.Net, v.Balance, v.Asked = l.needs.Net, l.balance(l.record.Counted), bench.SampleOf(l.row.Jars)
	if f := l.record.Fill; f != nil {
		v.Asked = bench.SampleOf(f.Jars)
	}
	if v.Entries == nil {
		v.Entries = []bench.Entry{}
	}
	v.Keeping, v.LastDay = law.Each[keeping.Verdict]{}, law.Each[string]{}
	for _, under := range law.All() {
		v.Keeping[under.Regime] = l.verdict(under)
		v.LastDay[under.Regime] = l.lastDay(v.Keeping[under.Regime])
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
	if l.record.Fill != nil {
		b := l.needs.Bounds
		if l.record.From != nil {
			b.FilledAt = *l.record.From
		}
		v.EquiDue = b.EquilibriumDue().Format(time.RFC3339)
	}
	return v
}

// pageOfBatches is how many batches a list shows at once.
const pageOfBatches = 50

// BatchPage is a part of the list of batches. Next is the key of the part after it, empty at the end.
type BatchPage struct {
	Batches []BatchRow `json:"batches"`
	Next    string     `json:"next"`
	All     int        `json:"all"` // how many there are in the book
}

// BatchQuery says which batches a list shows: of a formula, in a state, with a text in their lot or product.
type BatchQuery struct {
	Formula string
	State   string
	Find    string
}

// Batches lists batches, newest first, from a key on: empty for the newest.
func (a *App) Batches(ctx context.Context, q BatchQuery, after string) (BatchPage, error) {
	out := BatchPage{Batches: []BatchRow{}}
	var key *BatchKey
	if after != "" {
		var k BatchKey
		n, err := fmt.Sscanf(after, "%10s.%d", &k.MadeOn, &k.ID)
		if _, wrong := pantry.ParseDay(k.MadeOn); n != 2 || err != nil || wrong != nil {
			return out, field("after", "this is no place in the list; begin at its top")
		}
		key = &k
	}
	if err := a.runOut(ctx); err != nil {
		return out, err
	}
	st := a.on(ctx)
	rows, err := st.ListBatches(q, key, pageOfBatches+1)
	if err != nil {
		return out, err
	}
	if out.All, err = st.AllBatches(); err != nil {
		return out, err
	}
	if len(rows) > pageOfBatches {
		rows = rows[:pageOfBatches]
		last := rows[pageOfBatches-1]
		out.Next = fmt.Sprintf("%s.%d", last.MadeOn, last.Batch)
	}
	for _, r := range rows {
		out.Batches = append(out.Batches, batchRow(r))
	}
	return out, nil
}

// batchRow is a batch as a list shows it.
func batchRow(x Listed) BatchRow {
	r := BatchRow{ID: x.Batch, Code: x.Code, Formula: x.Formula, FormulaName: x.FormulaName, Version: x.Version,
		MadeOn: x.MadeOn, Jars: x.Jars, Here: x.Here,
		State: x.State, Value: x.Value, Target: x.Target, Limit: x.Limit, LastDay: x.LastDay, DateKind: x.DateKind,
		By: x.By}
	if len(x.Waits) > 0 && x.State == bench.OnHold {
		r.Waits = x.Waits[0]
	}
	return r
}
