package bench

import (
	"fmt"
	"slices"
	"time"

	"gallipot/internal/core/amount"
)

// BenchLine is a line of a load as the bench shows it. Now is what is to be in the bowl at this step, between Low and
// High: before it is tasted without what is held back.
type BenchLine struct {
	Line      string         `json:"line"`
	Name      string         `json:"name"`
	Phase     string         `json:"phase,omitempty"`
	Class     string         `json:"class,omitempty"`
	State     string         `json:"state"`
	Planned   amount.Grams   `json:"planned_g"`
	Target    amount.Grams   `json:"target_g"`
	Now       amount.Grams   `json:"now_g"`
	Low       amount.Grams   `json:"low_g"`
	High      amount.Grams   `json:"high_g"`
	In        amount.Grams   `json:"in_g"`
	Held      amount.Grams   `json:"held_g"`
	Scale     Scale          `json:"scale"`
	Doubt     string         `json:"doubt,omitempty"` // why the plan doubts its weighing
	Deviation amount.Percent `json:"deviation_percent"`
	Optional  bool           `json:"optional,omitempty"`
	Hot       string         `json:"hot,omitempty"`
	Reason    string         `json:"reason,omitempty"`
	Last      int64          `json:"last"`
	By        string         `json:"by,omitempty"`
}

// ErrandState is an errand of a load, with who ticked it and until when its timer runs.
type ErrandState struct {
	Errand
	By    string     `json:"by,omitempty"`
	Note  string     `json:"note,omitempty"`
	Until *time.Time `json:"until"`
}

// AddedState is an addition with who made it.
type AddedState struct {
	Added
	By string `json:"by"`
}

// OverState is an over-pour that waits for a choice, with what each choice does.
type OverState struct {
	Lines     []string     `json:"lines"`
	Factor    amount.Exact `json:"factor"`
	TopUp     []TopUp      `json:"top_up"` // of lines that are weighed
	NewTotal  amount.Grams `json:"new_total_g"`
	Portion   amount.Grams `json:"portion_g"` // to be taken out first, so that it fits
	JarsMore  int          `json:"jars"`      // of the whole batch, after a rebalance
	Rebalance string       `json:"rebalance_word"`
	Accept    string       `json:"accept_word"`
}

// TopUp is what a line gets besides.
type TopUp struct {
	Line  string       `json:"line"`
	Name  string       `json:"name"`
	Grams amount.Grams `json:"grams"`
}

// LoadState is a load as the bench shows it.
type LoadState struct {
	No       int           `json:"no"`
	Lines    []BenchLine   `json:"lines"`
	Added    []AddedState  `json:"added"`
	Errands  []ErrandState `json:"errands"`
	Bowl     amount.Grams  `json:"bowl_g"`
	Target   amount.Grams  `json:"target_g"` // of the whole load
	Taken    amount.Grams  `json:"taken_g"`
	Wasted   amount.Grams  `json:"wasted_g"` // with loads that were given up
	Tries    int           `json:"tries"`
	Over     *OverState    `json:"over"`
	Zero     *Zero         `json:"zero"`  // null: a scale is to be tared before it is read
	Ready    bool          `json:"ready"` // all lines are in
	Missing  []string      `json:"missing"`
	ClosedBy string        `json:"closed_by,omitempty"`
}

// Loads returns the loads as they stand.
func (w *Weighout) Loads() []LoadState {
	out := make([]LoadState, len(w.loads))
	for k, l := range w.loads {
		s := LoadState{No: l.no, Lines: []BenchLine{}, Added: []AddedState{}, Errands: []ErrandState{},
			Bowl: l.bowl().Grams(), Taken: l.taken, Wasted: l.wasted, Tries: l.tries, Ready: w.allDone(l),
			Missing: w.missing(l), ClosedBy: l.closed, Zero: l.zero}
		total := amount.Exact{}
		for i := range l.lines {
			s.Lines = append(s.Lines, w.benchLine(l, i))
			total = total.Plus(l.lines[i].target)
		}
		s.Target = total.Grams()
		for _, a := range l.added {
			s.Added = append(s.Added, AddedState{a.Added, a.by})
		}
		for _, e := range w.errands(l) {
			x := ErrandState{Errand: e, By: l.ticks[e.Key].by, Note: l.ticks[e.Key].note}
			if t, runs := l.timers[e.Key]; runs {
				until := t.From.Add(time.Duration(t.Minutes * float64(time.Minute)))
				x.Until = &until
			}
			s.Errands = append(s.Errands, x)
		}
		if w.pending(l) {
			s.Over = w.over(l)
		}
		if s.Missing == nil {
			s.Missing = []string{}
		}
		out[k] = s
	}
	return out
}

func (w *Weighout) benchLine(l *load, i int) BenchLine {
	t, x := w.targets[i], &l.lines[i]
	on, doubt := w.p.WeighedOn(x.target.Grams())
	round := func(g amount.Exact) amount.Grams {
		return amount.SpreadToDivision([]amount.Exact{g}, on.Division)[0]
	}
	now := x.target
	if t.Hold > 0 && !x.tasted {
		now = x.first
	}
	slack := w.slack(i, now)
	b := BenchLine{Line: t.Line, Name: t.Name, Phase: t.Phase, Class: t.Class, State: w.stands(l, i),
		Planned: w.p.Loads[l.no-1][i], Target: round(x.target), Now: round(now), Low: now.Minus(slack).Grams(),
		High: now.Plus(slack).Grams(), In: x.in.Grams(), Scale: on, Doubt: doubt, Optional: t.Optional, Hot: t.Hot,
		Reason: x.reason, Last: x.last, By: x.by}
	if t.Hold > 0 && !x.tasted {
		b.Held = round(x.target.Minus(x.first))
	}
	if x.target.IsPositive() && x.in.IsPositive() {
		b.Deviation = x.in.Minus(x.target).Over(x.target).Round(4).Percent()
	}
	return b
}

// over returns what an over-pour would require.
func (w *Weighout) over(l *load) *OverState {
	portion := w.portion(l)
	r := w.rebalanced(l, portion.Exact())
	o := &OverState{Lines: []string{}, Factor: r.Factor.Round(6), TopUp: []TopUp{}, NewTotal: r.NewTotal.Grams(),
		Portion: portion}
	name := ""
	for i := range l.lines {
		if w.beyond(l, i) {
			o.Lines = append(o.Lines, w.targets[i].Line)
			if !l.lines[i].accepted && name == "" {
				name = w.targets[i].Name
			}
		}
		if top := r.TopUp[i]; top != nil && top.IsPositive() {
			on, _ := w.p.WeighedOn(r.Targets[i].Grams())
			g := amount.SpreadToDivision([]amount.Exact{*top}, on.Division)[0]
			if g.IsPositive() {
				o.TopUp = append(o.TopUp, TopUp{w.targets[i].Line, w.targets[i].Name, g})
			}
		}
	}
	in := amount.Exact{}
	for _, other := range w.loads {
		if other == l {
			in = in.Plus(r.NewTotal)
			continue
		}
		for i := range other.lines {
			in = in.Plus(other.lines[i].target)
		}
	}
	o.JarsMore = w.p.ask().JarsOf(in, len(w.loads))
	percent := r.Factor.Minus(amount.Whole(1)).Times(amount.Whole(100)).Fixed(1)
	o.Rebalance = fmt.Sprintf("Everything else grows by %s %%: the load comes to %s g, the batch to %d jars.", percent,
		o.NewTotal.Exact().Fixed(0), o.JarsMore)
	if portion.IsPositive() {
		o.Rebalance = fmt.Sprintf("First take %s g of the mix out of the bowl. ", portion.Exact().Fixed(1)) +
			o.Rebalance
	}
	o.Accept = fmt.Sprintf("%s stays %s %% over; the rest as planned.", name, percent)
	return o
}

// Expected returns how many jars the loads fill as they stand now.
func (w *Weighout) Expected() int {
	in := amount.Exact{}
	for _, l := range w.loads {
		for i := range l.lines {
			g := l.lines[i].target
			if l.closed != "" || l.lines[i].in.Cmp(g) > 0 {
				g = l.lines[i].in
			}
			in = in.Plus(g)
		}
		for _, a := range l.added {
			in = in.Plus(a.in)
		}
	}
	return w.p.ask().JarsOf(in, len(w.loads))
}

// Missing returns what the weighing still lacks for a release: loads begun at the bench and not closed, and over-pours
// without a choice. Plans from before the bench need none.
func (w *Weighout) Missing(old bool) []string {
	var out []string
	for _, l := range w.loads {
		switch {
		case w.pending(l) && (w.Begun || !old):
			out = append(out, fmt.Sprintf("what becomes of the over-pour in load %d", l.no))
		case w.Begun && l.closed == "":
			out = append(out, fmt.Sprintf("closing load %d at the bench", l.no))
		}
	}
	return out
}

// AllClosed reports whether every load was closed at the bench.
func (w *Weighout) AllClosed() bool {
	return !slices.ContainsFunc(w.loads, func(l *load) bool { return l.closed == "" })
}

// targetOf returns a line's present target over all loads, and whether all of it was left out.
func (w *Weighout) targetOf(t Target) (amount.Grams, bool) {
	i := w.line(t.Line)
	if i < 0 {
		return t.Grams, false
	}
	sum, out, moved := amount.Exact{}, true, false
	for k, l := range w.loads {
		x := &l.lines[i]
		out = out && x.leftOut
		moved = moved || x.target.Cmp(w.p.Loads[k][i].Exact()) != 0
		if !x.leftOut {
			sum = sum.Plus(x.target)
		}
	}
	if !moved {
		return t.Grams, out
	}
	on, _ := w.p.WeighedOn(sum.Grams())
	return amount.SpreadToDivision([]amount.Exact{sum}, on.Division)[0], out
}
