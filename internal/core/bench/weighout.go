package bench

import (
	"slices"

	"gallipot/internal/core/amount"
)

// Weighout is the weighing of a batch's loads as a state machine: it takes acts in order and asks no questions; its
// Refuses asks them. The same acts always lead to the same state. Grams in the bowl and targets are exact, so that no
// rounding creeps into a ratio; only what is shown is rounded to divisions of a scale.
type Weighout struct {
	p       *Planned
	targets []Target // of the lines in the bowl
	loads   []*load
	Begun   bool // something was done at the bench
}

// load is one filling of the vessel. A discarded one is begun anew under its number.
type load struct {
	no      int
	lines   []weighed
	added   []addition
	ticks   map[string]tick
	timers  map[string]Timed
	tries   int // how often it was discarded
	wasted  amount.Grams
	taken   amount.Grams // out of the bowl, mixed
	closed  string       // by whom
	touched bool
	zero    *Zero // nil: nobody knows what stands on a scale
}

// Zero is the reading of a scale from which the next weight of a load counts: of its tare, or of the last weight that
// was taken from it. It is lost with anything that changes the bowl and was not read from that scale.
type Zero struct {
	Scale   string       `json:"scale"`
	Reading amount.Grams `json:"reading_g"`
	By      string       `json:"by"`
}

// counts is the zero after a capture: the scale shows what was taken; any other scale shows what nobody read there.
func (x *Capture) counts(by string) *Zero {
	if x.Manual || x.Scale == "" || x.Reading == nil {
		return nil
	}
	return &Zero{x.Scale, *x.Reading, by}
}

type tick struct {
	by   string
	note string
}

// addition is what went in besides the lines; in is what of it is still in the bowl.
type addition struct {
	Added
	in amount.Exact
	by string
}

// weighed is one line of a load.
type weighed struct {
	target   amount.Exact // all that is to be in the bowl
	first    amount.Exact // of that, what goes in before it is tasted
	in       amount.Exact // in the bowl
	tasted   bool
	enough   bool // closed with less, with a reason
	accepted bool // its over-pour stays
	leftOut  bool
	reason   string
	last     int64
	by       string
}

// NewWeighout begins the weighing of a batch. targets may hold what goes onto the jars; that is in no bowl.
func NewWeighout(p *Planned, targets []Target) *Weighout {
	w := &Weighout{p: p}
	for _, t := range targets {
		if t.Phase != OntoJars {
			w.targets = append(w.targets, t)
		}
	}
	for i := range p.Loads {
		w.loads = append(w.loads, w.fresh(i+1))
	}
	return w
}

func (w *Weighout) fresh(no int) *load {
	l := &load{no: no, ticks: map[string]tick{}, timers: map[string]Timed{}}
	for i, t := range w.targets {
		g := w.p.Loads[no-1][i].Exact()
		l.lines = append(l.lines, weighed{target: g, first: g.Times(amount.Rest(amount.Pct(t.Hold)))})
	}
	return l
}

func (w *Weighout) load(no int) *load {
	if no < 1 || no > len(w.loads) {
		return nil
	}
	return w.loads[no-1]
}

func (w *Weighout) line(id string) int {
	return slices.IndexFunc(w.targets, func(t Target) bool { return t.Line == id })
}

// slack is how far from its target a line may be: its tolerance, and never less than half a division of its scale.
func (w *Weighout) slack(i int, target amount.Exact) amount.Exact {
	s := target.Times(amount.Share(amount.Pct(w.targets[i].Tolerance)))
	on, _ := w.p.WeighedOn(target.Grams())
	if half := on.Division.Exact().Over(amount.Whole(2)); half.Cmp(s) > 0 {
		return half
	}
	return s
}

// beyond reports whether a line is over its band.
func (w *Weighout) beyond(l *load, i int) bool {
	x := &l.lines[i]
	return !x.leftOut && x.in.Cmp(x.target.Plus(w.slack(i, x.target))) > 0
}

// pending reports whether an over-pour waits for a choice.
func (w *Weighout) pending(l *load) bool {
	for i := range l.lines {
		if !l.lines[i].accepted && w.beyond(l, i) {
			return true
		}
	}
	return false
}

// Steps of a line at the bench.
const (
	LineOpen    = "open"
	LineTaste   = "taste"
	LineOver    = "over"
	LineDone    = "done"
	LineLeftOut = "left_out"
)

// stands is where a line stands.
func (w *Weighout) stands(l *load, i int) string {
	x := &l.lines[i]
	wants := x.target
	held := w.targets[i].Hold > 0 && !x.tasted
	if held {
		wants = x.first
	}
	switch {
	case x.leftOut:
		return LineLeftOut
	case !x.accepted && w.beyond(l, i):
		return LineOver
	case x.enough:
		return LineDone
	case x.in.Cmp(wants.Minus(w.slack(i, wants))) < 0:
		return LineOpen
	case held:
		return LineTaste
	}
	return LineDone
}

func (w *Weighout) allDone(l *load) bool {
	for i := range l.lines {
		if s := w.stands(l, i); s != LineDone && s != LineLeftOut {
			return false
		}
	}
	return true
}

// bowl is what is in the vessel.
func (l *load) bowl() amount.Exact {
	sum := amount.Exact{}
	for i := range l.lines {
		sum = sum.Plus(l.lines[i].in)
	}
	for _, a := range l.added {
		sum = sum.Plus(a.in)
	}
	return sum
}

// rebalanced is what an over-pour would ask of a load, after a mixed portion was taken out.
func (w *Weighout) rebalanced(l *load, portion amount.Exact) Rebalance {
	rest := amount.Whole(1)
	if bowl := l.bowl(); bowl.IsPositive() {
		rest = rest.Minus(portion.Over(bowl))
	}
	var targets []amount.Exact
	var now []*amount.Exact
	var tolerance []float64
	for i := range l.lines {
		x := &l.lines[i]
		in, target := x.in.Times(rest), x.target.Times(rest)
		if x.leftOut {
			target = amount.Exact{}
		}
		targets, now, tolerance = append(targets, target), append(now, nil), append(tolerance, 0)
		if x.in.IsPositive() {
			now[i] = &in
		}
		if x.target.IsPositive() {
			tolerance[i] = 100 * w.slack(i, x.target).Over(x.target).Float()
		}
	}
	r := Rebalanced(targets, now, tolerance)
	for _, a := range l.added {
		r.NewTotal = r.NewTotal.Plus(a.in.Times(rest))
	}
	return r
}

// room is what is still free of the vessel's greatest; ok is false where no vessel is named.
func (w *Weighout) room(l *load) (amount.Exact, bool) {
	if !w.p.Vessel.Greatest.IsPositive() {
		return amount.Exact{}, false
	}
	return w.p.Vessel.Greatest.Exact().Minus(l.bowl()), true
}

// scale changes all targets of a load, and what is in it, by a factor each.
func (l *load) scale(targets, in amount.Exact) {
	for i := range l.lines {
		x := &l.lines[i]
		x.target, x.first, x.in = x.target.Times(targets), x.first.Times(targets), x.in.Times(in)
	}
	for i := range l.added {
		l.added[i].in = l.added[i].in.Times(in)
	}
}

// takeOut takes so much of the mix out of the bowl. What is to come shrinks with it, so that the ratio stays.
func (l *load) takeOut(grams amount.Exact) {
	bowl := l.bowl()
	if !bowl.IsPositive() {
		return
	}
	rest := amount.Whole(1).Minus(grams.Over(bowl))
	l.scale(rest, rest)
	l.taken = l.taken.Plus(grams.Grams())
}

// inOneLoad is an act of the bench that belongs to one load: what speaks against it there, and what it does.
type inOneLoad interface {
	LoadAct
	refused(w *Weighout, l *load, e Entry) error
	done(w *Weighout, l *load, e Entry)
}

// Add takes an act that was written down. What belongs to no load is left alone.
func (w *Weighout) Add(e Entry) {
	switch x := e.Body.(type) {
	case *Weighing:
		w.weigh(e, x)
	case *Choice:
		w.choose(e, x)
	case inOneLoad:
		if l := w.load(x.InLoad()); l != nil {
			l.touched = true
			x.done(w, l, e)
		}
	}
}

func (x *Capture) done(w *Weighout, l *load, e Entry) {
	w.Begun, l.zero = true, x.counts(e.By)
	i := w.line(x.Line)
	if i < 0 {
		return
	}
	s := &l.lines[i]
	s.in, s.last, s.by = s.in.Plus(x.Grams.Exact()), e.ID, e.By
	s.accepted, s.enough = false, x.Enough
	if x.Reason != "" {
		s.reason = x.Reason
	}
}

func (x *Tared) done(_ *Weighout, l *load, e Entry) { l.zero = &Zero{x.Scale, *x.Reading, e.By} }

func (x *Tasted) done(w *Weighout, l *load, _ Entry) {
	if i := w.line(x.Line); i >= 0 {
		s := &l.lines[i]
		s.tasted, s.target, s.first = true, s.in.Plus(x.More.Exact()), s.in
	}
}

func (x *LeftOut) done(w *Weighout, l *load, e Entry) {
	if i := w.line(x.Line); i >= 0 {
		l.lines[i].leftOut, l.lines[i].reason, l.lines[i].by = true, x.Reason, e.By
	}
}

func (x *TakenOut) done(_ *Weighout, l *load, _ Entry) {
	l.takeOut(x.Grams.Exact())
	l.zero = nil
}

func (x *Added) done(_ *Weighout, l *load, e Entry) {
	l.zero = nil
	l.added = append(l.added, addition{*x, x.Grams.Exact(), e.By})
}

func (x *Ticked) done(_ *Weighout, l *load, e Entry) {
	if delete(l.ticks, x.Key); !x.Off {
		l.ticks[x.Key] = tick{e.By, x.Note}
	}
}

func (x *Timed) done(_ *Weighout, l *load, _ Entry) {
	if delete(l.timers, x.Key); !x.Stop {
		l.timers[x.Key] = *x
	}
}

func (x *Closed) done(_ *Weighout, l *load, e Entry) { l.closed = e.By }

// weigh takes a line's grams from the weigh sheet, which knows no loads: each load has its share.
func (w *Weighout) weigh(e Entry, x *Weighing) {
	i := w.line(x.Line)
	if i < 0 {
		return
	}
	total := amount.Grams{}
	for _, load := range w.p.Loads {
		total = total.Plus(load[i])
	}
	for k, l := range w.loads {
		share := amount.Ratio(1, int64(len(w.loads)))
		if total.IsPositive() {
			share = w.p.Loads[k][i].Exact().Over(total.Exact())
		}
		l.zero = nil
		s := &l.lines[i]
		s.in, s.tasted, s.enough, s.accepted, s.leftOut = x.Grams.Exact().Times(share), true, true, false, false
		s.last, s.by, s.reason = e.ID, e.By, x.Note
	}
}

// choose answers an over-pour: of one load, or of all that wait where none is named.
func (w *Weighout) choose(e Entry, x *Choice) {
	for k, l := range w.loads {
		if x.Load != 0 && x.Load != l.no || x.Load == 0 && !w.pending(l) {
			continue
		}
		switch x.How {
		case AcceptOver:
			for i := range l.lines {
				if w.beyond(l, i) {
					l.lines[i].accepted, l.lines[i].reason = true, x.Reason
				}
			}
		case Rebalances:
			if x.Portion.IsPositive() {
				l.takeOut(x.Portion.Exact())
				l.zero = nil
			}
			l.scale(w.rebalanced(l, amount.Exact{}).Factor, amount.Whole(1))
			for i := range l.lines { // what was enough before is topped up now
				l.lines[i].enough, l.lines[i].accepted = false, false
			}
		case Discards:
			next := w.fresh(l.no)
			next.tries, next.wasted, next.taken = l.tries+1, l.wasted.Plus(l.bowl().Grams()), l.taken
			w.loads[k], w.Begun = next, true
		}
		l.touched = true
	}
}
