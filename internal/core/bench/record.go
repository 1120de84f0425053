package bench

import (
	"fmt"
	"iter"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/lots"
)

// States of a batch.
const (
	OnHold     = "hold"
	Released   = "released"
	CalledBack = "called_back"
	Rejected   = "rejected"
)

// LineState is a line of the weigh sheet with what was weighed.
type LineState struct {
	Target
	Actual    *amount.Grams  `json:"actual_g"`
	Deviation amount.Percent `json:"deviation_percent"`
	Within    bool           `json:"within_tolerance"`
	Used      []formula.Use  `json:"used,omitempty"`
	Lot       string         `json:"lot"`
	UseBy     day.Day        `json:"use_by,omitempty"` // the earliest that binds among its lots
	KillStep  bool           `json:"kill_step"`
	Draws     []Draw         `json:"draws"`
	Wasted    []Draw         `json:"wasted,omitempty"` // went with a load that was given up
	LeftOut   bool           `json:"left_out,omitempty"`
	Barred    []string       `json:"barred"` // what speaks against its lots now
	By        string         `json:"by,omitempty"`
	Entry     int64          `json:"entry,omitempty"` // the weighing that counts; a new one says that it saw it
	undated   bool
}

// Record is a batch as its entries tell it.
type Record struct {
	State      string            `json:"state"`
	Lines      []LineState       `json:"lines"`
	Weighed    bool              `json:"weighed"`
	Loads      []LoadState       `json:"loads"`
	Added      []AddedLine       `json:"added"`
	Bench      bool              `json:"bench"`         // it was worked on at the bench
	Expected   int               `json:"jars_expected"` // that the loads fill as they stand
	TakenOut   amount.Grams      `json:"taken_out_g"`
	Cooling    []Cooling         `json:"cooling"`
	Fill       *Fill             `json:"fill"`
	Net        *NetCheck         `json:"net_weights"` // the latest; nil where no jar was weighed
	Counted    *Counted          `json:"counted"`
	Splits     []Split           `json:"splits"`           // what went into jars of other sizes
	FromBowl   *FromBowl         `json:"from_bowl"`        // of which other batch's bowl it was filled
	Aimed      *Aimed            `json:"aimed"`            // what the next jars are filled to
	From       *time.Time        `json:"equilibrium_from"` // the hours to equilibrium count from here
	Readings   []acidity.Reading `json:"readings"`
	Acidity    acidity.Decision  `json:"acidity"`
	Heat       *Heat             `json:"heat"`
	Lab        *Laboratory       `json:"laboratory"`
	Worked     *Worked           `json:"worked"` // minutes of hands, once somebody said
	Strained   *Strained         `json:"strained"`
	Decided    *Decided          `json:"decided"`
	DecideBy   string            `json:"decided_by,omitempty"`
	DecideAt   *time.Time        `json:"decided_at,omitempty"`
	Missing    []string          `json:"missing"` // what stands in the way of a release
	Asks       Asks              `json:"asks"`    // of who releases it
	Printed    int               `json:"labels_printed"`
	Spoilt     int               `json:"labels_spoilt"`
	Out        bool              `json:"jars_out"` // released once, and nobody said since that no jar is out
	Words      []Lacking         `json:"words"`    // allergens that the words of jars that are out lack
	Recalled   []Recalled        `json:"recalled"` // each time it was called back, and why
	RunsOut    *time.Time        `json:"runs_out"` // an early release without its equilibrium reading is on hold again
	RanOut     bool              `json:"ran_out"`  // and that time is past
	Last       int64             `json:"last"`     // the newest entry, that a decision must have seen
	Late       []int64           `json:"late"`     // entries made more than 12 h after what they tell of
	Struck     int               `json:"struck"`   // pairs of readings struck by hand
	Hands      []string          `json:"hands"`    // who weighed and filled
	Jars       []JarsAt          `json:"jars"`     // where they are
	allAdded   []added
	ofAdded    []LineState // what the lots of additions tell
	benchLacks []string
	countLacks []string
}

// Recalled is one calling back.
type Recalled struct {
	At    time.Time `json:"at"`
	By    string    `json:"by"`
	Why   string    `json:"why"`
	Entry int64     `json:"entry"`
}

// Asks is what a release asks beyond a pass.
type Asks struct {
	Reason []string `json:"reason"` // each is why a reason is asked for
	Owner  []string `json:"owner"`  // each is why only an owner may, with a reason
}

// Needs are the version's demands that a record is read against.
type Needs struct {
	Targets      []Target
	Planned      *Planned       // nil: from before loads were kept
	Cooling      []law.CoolStep // that what was hot goes through
	Net          NetRule        // of its jars
	Bounds       acidity.Bounds
	HeatC        float64
	HeatMin      float64
	NoWater      bool                 // nothing to measure: no reading is asked for
	Infused      bool                 // an oil that plants were kept in: somebody says that it was strained clear
	NoKillStep   bool                 // rule 11 is not in force
	Lots         map[int64]lots.Facts // that the record names
	SecondPerson bool                 // who made it does not release it
	PlannedBy    string               // who made it, with those who weighed and filled
}

// Read folds a batch's entries and its meters' events, in the order of entry, into the record as it stands at a time.
func Read(entries []Entry, n Needs, now time.Time) Record {
	f := NewFold(n)
	for _, e := range entries {
		f.Add(e)
	}
	return f.Record(now)
}

// readLines tells what went in of each line. Where the bench was at work all loads are to be closed; else every line is
// weighed on the sheet.
func (f *Fold) readLines(r *Record) {
	w := f.weighout
	r.Weighed, r.Added, r.allAdded = true, []AddedLine{}, f.additions
	for _, t := range f.n.Targets {
		if f.n.NoKillStep {
			t.NeedsKill = false
		}
		s := LineState{Target: t, Draws: []Draw{}, Barred: []string{}, Wasted: f.poured[t.Line].wasted}
		s.Grams, s.LeftOut = w.targetOf(t)
		e, x := f.poured[t.Line].asWeighing()
		switch {
		case x != nil:
			s.read(e, x, f.n)
		case !s.LeftOut:
			r.Weighed = false
		default:
			s.Actual = &amount.Grams{}
		}
		r.Lines = append(r.Lines, s)
	}
	for _, a := range f.additions {
		if a.wasted {
			continue
		}
		r.Added = append(r.Added, AddedLine{a.Added, a.entry.By, a.entry.ID})
		s := LineState{Target: Target{Name: a.Name}, Actual: &a.Grams, Draws: []Draw{}, Barred: []string{}}
		if len(a.Draws) > 0 {
			s.draw(&Weighing{Draws: a.Draws}, a.entry.At, f.n)
		}
		r.ofAdded = append(r.ofAdded, s)
	}
	r.Loads, r.Bench, r.Expected = w.Loads(), w.Begun, w.Expected()
	r.Weighed = r.Weighed && (!w.Begun || w.AllClosed())
	for _, l := range w.loads {
		r.TakenOut = r.TakenOut.Plus(l.taken)
	}
}

// read puts a weighing into the state of its line.
func (s *LineState) read(e Entry, w *Weighing, n Needs) {
	g := w.Grams
	s.Actual, s.Used, s.Lot, s.UseBy, s.KillStep, s.By = &g, w.Used, w.Lot, w.UseBy, w.KillStep, e.By
	s.Entry = e.ID
	if len(w.Draws) > 0 {
		s.draw(w, e.At, n)
	}
	if s.Grams.IsPositive() {
		s.Deviation = g.Minus(s.Grams).Exact().Over(s.Grams.Exact()).Round(4).Percent()
		s.Within = s.Deviation.Abs().Cmp(amount.Pct(s.Tolerance)) <= 0
	}
}

// all are the lines with what was added.
func (r *Record) all() iter.Seq[*LineState] {
	return func(yield func(*LineState) bool) {
		for _, part := range [][]LineState{r.Lines, r.ofAdded} {
			for i := range part {
				if !yield(&part[i]) {
					return
				}
			}
		}
	}
}

// BarredLots is what speaks against lots that went in, additions too.
func (r *Record) BarredLots() []string {
	var out []string
	for l := range r.all() {
		out = append(out, l.Barred...)
	}
	return out
}

// lacking lists what lines still lack, in the order of work.
func (r *Record) lacking() []string {
	var out []string
	of := map[string][]string{}
	for l := range r.all() {
		if what := l.lacks(); what != "" {
			of[what] = append(of[what], l.Name)
		}
	}
	for _, what := range []string{lackWeight, lackGroup, lackLot, lackDate, lackProof} {
		names := of[what]
		if n := len(names) - 3; n > 0 {
			names = append(slices.Clone(names[:3]), fmt.Sprintf("%d more", n))
		}
		if len(names) > 0 {
			out = append(out, what+" "+strings.Join(names, ", "))
		}
	}
	for l := range r.all() {
		for _, b := range l.Barred {
			out = append(out, "a decision on lot "+b)
		}
	}
	return out
}

// What a line may lack.
const (
	lackWeight = "the weight of"
	lackGroup  = "which of the group was used for"
	lackLot    = "the lot of"
	lackDate   = "the use-by date of the lot of"
	lackProof  = "the kill-step statement or recorded roast for"
)

// lacks is the first thing that a line lacks; empty where it has all.
func (s *LineState) lacks() string {
	switch {
	case s.Actual == nil:
		return lackWeight
	case s.LeftOut:
		return ""
	case len(s.AnyOf) > 0 && len(s.Used) == 0:
		return lackGroup
	case s.NeedsLot && s.Lot == "":
		return lackLot
	case s.NeedsDate && s.UseBy == "" || s.undated:
		return lackDate
	case s.NeedsKill && !s.KillStep:
		return lackProof
	}
	return ""
}

// standing lists what stands in the way of a release, in the order of work.
func (r *Record) standing(n Needs) []string {
	out := append(r.lacking(), r.benchLacks...)
	if r.Fill == nil || r.Fill.Jars == 0 {
		out = append(out, "the count of jars filled")
	}
	out = append(out, r.countLacks...)
	if n.HeatC > 0 && !r.HeatMet(n) {
		out = append(out, fmt.Sprintf("heat step on the coldest jar: at least %g °C for %g min", n.HeatC, n.HeatMin))
	}
	if n.Infused && !r.StrainedClear() {
		out = append(out, "the word of who strained it: clear, with no watery layer")
	}
	if !n.NoWater && r.Fill != nil {
		switch r.Acidity.Outcome {
		case acidity.Pass, acidity.PassWithNote:
		case acidity.Waiting:
			out = append(out, r.Acidity.Missing...)
		default:
			out = append(out, r.Acidity.Sentence)
		}
	}
	return slices.Compact(out)
}

// Uses are what was taken for the "any of" lines, by line id.
func (r *Record) Uses() map[string][]formula.Use {
	out := map[string][]formula.Use{}
	for _, l := range r.Lines {
		if len(l.Used) > 0 {
			out[l.Line] = l.Used
		}
	}
	return out
}

// HeatMet reports whether the recorded heat step meets the version's on the coldest jar.
func (r *Record) HeatMet(n Needs) bool {
	return r.Heat != nil && n.HeatC > 0 && r.Heat.ColdestC >= n.HeatC && r.Heat.Minutes >= n.HeatMin
}

// StrainedClear reports whether who strained it said that it is clear.
func (r *Record) StrainedClear() bool { return r.Strained != nil && r.Strained.Clear }

// EarliestUseBy returns the days from making to the earliest use-by among the lots weighed, and which line it is.
// ok is false where no lot carries a date.
func (r *Record) EarliestUseBy(madeOn day.Day) (days int, line string, ok bool) {
	made, err := day.Parse(madeOn)
	if err != nil {
		return 0, "", false
	}
	for l := range r.all() {
		if l.UseBy == "" {
			continue
		}
		end, err := day.Parse(l.UseBy)
		if err != nil {
			continue
		}
		if d := int(end.Sub(made).Hours() / 24); !ok || d < days {
			days, line, ok = d, l.Name, true
		}
	}
	return days, line, ok
}
