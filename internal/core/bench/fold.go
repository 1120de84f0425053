package bench

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/people"
)

// LateAfter is how long after the fact an entry counts as made late (handbook 05).
const LateAfter = 12 * time.Hour

// runsOutAfter is how long an early release lasts after its equilibrium reading fell due.
const runsOutAfter = 48 * time.Hour

// Fold replays a batch act by act, in the order of entry: its own entries, and the checks and closing looks of the
// meters behind its readings. A decision is a latch (handbook 05): it stays until a new act moves it.
type Fold struct {
	n         Needs
	r         Record
	poured    map[string]poured // by line
	additions []added
	weighout  *Weighout
	cooling   []cooled
	fills     []time.Time
	added     time.Time // the latest addition after filling
	meters    map[string][]acidity.MeterEvent
	checks    map[int64]string // the meter of each check
	turns     []int64          // of the readings, in their order
	rests     []int            // the pairs that the latest release rests on
	shelf     shelf
	printed   int64 // the latest entry that printed labels
	net       *NetWeights
	netAt     Entry
	netAim    amount.Grams    // what the hand filled to then
	lacking   map[int64]int64 // the entry that found what words lack, by the change that brought it
	way       string          // of the latest release, also where the batch was put on hold since
}

// NewFold begins an empty record.
func NewFold(n Needs) *Fold {
	if n.Planned == nil {
		n.Planned = AsOneLoad(n.Targets)
	}
	return &Fold{n: n, weighout: NewWeighout(n.Planned, n.Targets),
		r: Record{State: OnHold, Missing: []string{}, Readings: []acidity.Reading{}, Late: []int64{},
			Recalled: []Recalled{}, Hands: []string{}, Words: []Lacking{},
			Splits: []Split{}},
		poured: map[string]poured{}, meters: map[string][]acidity.MeterEvent{}, checks: map[int64]string{},
		lacking: map[int64]int64{}}
}

// Record returns the record at a time, from the acts so far.
func (f *Fold) Record(now time.Time) Record {
	f.runOut(now)
	r := f.r
	r.Readings, r.Words = slices.Clone(f.r.Readings), slices.Clone(f.r.Words)
	f.readLines(&r)
	r.Cooling = f.coolingLogs(r.Lines, now)
	r.Jars = f.shelf.list()
	r.Acidity = f.acidity()
	if r.Struck > 0 {
		r.Acidity.Sentence += " " + struckSentence(r.Struck)
	}
	cooling, owner := coolingLacks(r.Cooling)
	r.Net = f.judgeNet()
	r.countLacks = countLacks(&r)
	r.benchLacks = append(f.weighout.Missing(f.n.Planned.Old), cooling...)
	r.Missing = append([]string{}, r.standing(f.n)...)
	r.Asks = f.asks(r.Acidity)
	r.Asks.Owner = append(r.Asks.Owner, owner...)
	if b := f.bounds(); !b.FilledAt.IsZero() {
		r.From = &b.FilledAt
		if r.State == Released && r.Decided != nil && r.Decided.Way == acidity.FirstDay && !f.equilibrium() {
			out := b.EquilibriumDue().Add(runsOutAfter)
			r.RunsOut = &out
		}
	}
	return r
}

func struckSentence(n int) string {
	if n == 1 {
		return "1 pair of readings was struck."
	}
	return fmt.Sprintf("%d pairs of readings were struck.", n)
}

// Add appends an act without checking it, since what was written down stays written; Refuses does the checking
// beforehand.
func (f *Fold) Add(e Entry) {
	f.runOut(e.At)
	f.r.Last = max(f.r.Last, e.ID)
	if x, ok := e.Body.(*acidity.MeterEvent); ok { // of the meter's record
		f.meter(e, x)
	} else {
		kinds.Fold(f, e, e.Body)
	}
	f.stillStands(e)
}

// meter applies a check or a closing look of a meter behind some of the readings.
func (f *Fold) meter(e Entry, x *acidity.MeterEvent) {
	f.meters[x.Meter] = append(f.meters[x.Meter], *x)
	if !x.Look {
		f.checks[x.Check] = x.Meter
	}
	f.late(e, x.At)
	f.support()
}

func (f *Fold) heat(_ Entry, x *Heat) { f.r.Heat = x }

func (f *Fold) worked(_ Entry, x *Worked) { f.r.Worked = x }

func (f *Fold) laboratory(_ Entry, x *Laboratory) { f.r.Lab = x }

func (f *Fold) strained(_ Entry, x *Strained) { f.r.Strained = x }

func (f *Fold) jarsIn(Entry, *JarsIn) { f.r.Out, f.rests, f.way = false, nil, "" }

func (f *Fold) recall(e Entry, x *Recall) {
	f.lack(e, x)
	f.callBack(e, x.Cause)
}

func (f *Fold) late(e Entry, claimed time.Time) {
	if e.At.Sub(claimed) > LateAfter {
		f.r.Late = append(f.r.Late, e.ID)
	}
}

func (f *Fold) hand(e Entry) {
	if !slices.Contains(f.r.Hands, e.By) {
		f.r.Hands = append(f.r.Hands, e.By)
	}
}

// weigh applies a weighing. After the filling, or after a reading, it is an addition: the readings are superseded and
// the hours to equilibrium start again.
func (f *Fold) weigh(e Entry, x *Weighing) {
	f.pour(e, 0, *x)
	f.weighout.Add(e)
	f.hand(e)
	if !x.Correction {
		f.addition(e, 0)
	}
}

// addition supersedes the earlier readings of a load, or of all loads for 0, to which something was added, and starts
// the hours to equilibrium again.
func (f *Fold) addition(e Entry, load int) {
	if len(f.fills) == 0 && len(f.r.Readings) == 0 {
		return
	}
	f.added = e.At
	for i := range f.r.Readings {
		if r := &f.r.Readings[i]; r.Void == "" && (load == 0 || r.Load == load) {
			r.Void = "something was added to the batch after this reading"
		}
	}
	f.momentsAnew()
}

func (f *Fold) fill(e Entry, x *Fill) {
	f.r.Fill = x
	f.filledJars(e, x)
	f.hand(e)
	f.late(e, x.At)
	if x.Reason != "" && e.Role.May(people.Owner) {
		f.fills = nil
	}
	f.fills = append(f.fills, x.At)
	f.momentsAnew()
}

// bounds returns the version's bounds, counted from the latest filling or addition.
func (f *Fold) bounds() acidity.Bounds {
	b := f.n.Bounds
	for _, at := range f.fills {
		if at.After(b.FilledAt) {
			b.FilledAt = at
		}
	}
	if !b.FilledAt.IsZero() && f.added.After(b.FilledAt) {
		b.FilledAt = f.added
	}
	return b
}

// momentsAnew works out the moment of every reading again, by its time.
func (f *Fold) momentsAnew() {
	b := f.bounds()
	for i := range f.r.Readings {
		f.r.Readings[i].Moment = b.Moment(f.r.Readings[i].At)
	}
}

func (f *Fold) read(e Entry, taken *acidity.Reading) {
	x := *taken
	x.ID, x.By, x.Void, x.Struck, x.Pair = e.ID, e.By, "", false, 0
	x.Moment = f.bounds().Moment(x.At)
	x.Retest = x.Sample > 1 && f.asksRetest()
	x.Unsupported = acidity.Support(f.meters[f.checks[x.MeterCheck]], x, e.ID, f.n.Bounds.Zone)
	x.Pair = acidity.Joins(f.r.Readings, x)
	f.r.Readings, f.turns = append(f.r.Readings, x), append(f.turns, e.ID)
	f.late(e, x.At)
}

// asksRetest reports whether the verdict asks for a retest, or asked for one when the retest under way was begun.
func (f *Fold) asksRetest() bool {
	if slices.ContainsFunc(f.r.Readings, func(r acidity.Reading) bool { return r.Retest && r.Void == "" }) {
		return true
	}
	return f.acidity().Outcome == acidity.Retest
}

// support works out again what speaks against each reading. Support that was lost once never comes back.
func (f *Fold) support() {
	for i := range f.r.Readings {
		r := &f.r.Readings[i]
		if r.Unsupported == "" {
			r.Unsupported = acidity.Support(f.meters[f.checks[r.MeterCheck]], *r, f.turns[i], f.n.Bounds.Zone)
		}
	}
}

// strike voids the pair that a reading belongs to.
func (f *Fold) strike(_ Entry, x *Void) {
	at := f.reading(x.Entry)
	if at == nil {
		return
	}
	if !at.Struck {
		f.r.Struck++
	}
	pair := at.Pair
	for i := range f.r.Readings {
		if r := &f.r.Readings[i]; r.Pair == pair && !r.Struck {
			r.Void, r.Struck = x.Cause, true
		}
	}
}

func (f *Fold) reading(id int64) *acidity.Reading {
	for i := range f.r.Readings {
		if f.r.Readings[i].ID == id {
			return &f.r.Readings[i]
		}
	}
	return nil
}

func (f *Fold) acidity() acidity.Decision {
	if f.n.NoWater && len(f.r.Readings) == 0 {
		return acidity.Decision{Outcome: acidity.Waiting, Missing: []string{},
			Sentence: "There is nothing to measure: no water phase."}
	}
	return acidity.Decide(f.r.Readings, f.bounds())
}

// equilibrium reports whether the deciding reading is complete.
func (f *Fold) equilibrium() bool {
	d := f.acidity()
	return d.Way == acidity.Equilibrium && d.Outcome != acidity.Waiting
}

// runOut puts an early release back on hold if its equilibrium reading did not come in time.
func (f *Fold) runOut(now time.Time) {
	if f.r.State != Released || f.r.Decided.Way != acidity.FirstDay || f.equilibrium() {
		return
	}
	if b := f.bounds(); !b.FilledAt.IsZero() && !now.Before(b.EquilibriumDue().Add(runsOutAfter)) {
		f.r.State, f.r.RanOut = OnHold, true
	}
}

func (f *Fold) decide(e Entry, x *Decided) {
	at := e.At
	f.r.Decided, f.r.DecideBy, f.r.DecideAt, f.r.RanOut = x, e.By, &at, false
	if x.State == CalledBack {
		f.callBack(e, x.Reason)
		return
	}
	f.r.State = x.State
	if x.State != Released {
		return
	}
	f.r.Out, f.rests, f.way = true, nil, x.Way
	b := f.bounds()
	for _, r := range f.r.Readings {
		if r.Void == "" && r.Unsupported == "" && b.Moment(r.At) == x.Way {
			f.rests = append(f.rests, r.Pair)
		}
	}
}

// callBack calls back a batch whose jars may be out, in the name of whoever made the act that caused it.
func (f *Fold) callBack(e Entry, why string) {
	if !f.r.Out || f.r.State != Released && f.r.State != OnHold {
		return
	}
	f.r.State = CalledBack
	f.r.Recalled = append(f.r.Recalled, Recalled{e.At, e.By, why, e.ID})
}

// stillStands calls a released batch back at once if an act removes what the release rests on.
func (f *Fold) stillStands(e Entry) {
	if !f.r.Out || f.r.State != Released && f.r.State != OnHold {
		return
	}
	switch x := e.Body.(type) {
	case *acidity.Reading:
		if f.n.Bounds.Over(x.PH) {
			f.callBack(e,
				fmt.Sprintf("A reading of %.2f on the %s jar, with the least uncertainty, is over the limit of %.2f.",
					x.PH, x.Jar, f.n.Bounds.Limit))
			return
		}
		f.earlyFails(e)
	case *Void, *acidity.MeterEvent, *Fill:
		f.restsGone(e)
		f.earlyFails(e)
	}
}

// earlyFails calls an early release back when the equilibrium reading does not pass.
func (f *Fold) earlyFails(e Entry) {
	if f.way != acidity.FirstDay {
		return
	}
	d := f.acidity()
	if d.Way == acidity.Equilibrium && (d.Outcome == acidity.HoldIt || d.Outcome == acidity.Retest) {
		f.callBack(e, "Released on the first reading; the equilibrium reading fails. "+d.Sentence)
	}
}

// restsGone calls a batch back if readings that its release rests on were struck or lost their support, and the rest
// gives no pass.
func (f *Fold) restsGone(e Entry) {
	b := f.bounds()
	gone := slices.ContainsFunc(f.r.Readings, func(r acidity.Reading) bool {
		return slices.Contains(f.rests, r.Pair) &&
			(r.Void != "" || r.Unsupported != "" || b.Moment(r.At) != f.way)
	})
	if !gone {
		return
	}
	if d := f.acidity(); d.Outcome != acidity.Pass && d.Outcome != acidity.PassWithNote {
		f.callBack(e, "What the release rested on no longer stands, and what remains gives no pass. "+
			strings.TrimPrefix(d.Sentence, "On hold: "))
	}
}

// print counts printed and spoilt labels.
func (f *Fold) print(e Entry, x *Print) {
	switch x.What {
	case PrintedLabel:
		f.r.Printed += x.Count
		f.printed = e.ID
	case PrintedSpoilt:
		f.r.Spoilt += x.Count
	}
}
