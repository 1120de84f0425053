package bench

import (
	"fmt"
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/formula"
)

// poured is what went in of a line so far, by a weighing of all of it or by captures, and what went with loads that
// were given up.
type poured struct {
	live   []pour
	wasted []Draw
}

// pour is one of them; load 0 is a weighing of all loads.
type pour struct {
	entry Entry
	load  int
	all   Weighing
}

// asWeighing reads the captures of a line as one weighing, the latest as who weighed it; without a body where there is
// none.
func (p poured) asWeighing() (Entry, *Weighing) {
	if len(p.live) == 0 {
		return Entry{}, nil
	}
	last := p.live[len(p.live)-1].entry
	if len(p.live) == 1 && p.live[0].load == 0 {
		w := last.Body.(*Weighing)
		return last, w
	}
	sum := &Weighing{Line: p.live[0].all.Line}
	for _, x := range p.live {
		w := x.all
		sum.Grams = sum.Grams.Plus(w.Grams)
		for _, d := range w.Draws {
			at := d.taken(x.entry.At)
			d.At = &at
			sum.Draws = mergeDraw(sum.Draws, d)
		}
		for _, u := range w.Used {
			sum.Used = mergeUse(sum.Used, u)
		}
		if w.Lot != "" {
			sum.Lot, sum.UseBy, sum.KillStep = w.Lot, w.UseBy, w.KillStep
		}
	}
	last.Body = sum
	return last, sum
}

// mergeDraw adds a draw to those of one lot for one purpose. The earliest time stays, which asks the most of a lot's
// proof and the least of its end is not lost: what was set aside stays with it.
func mergeDraw(list []Draw, d Draw) []Draw {
	for i := range list {
		o := &list[i]
		if o.Lot == d.Lot && o.Ingredient == d.Ingredient && o.Over == d.Over && o.Step == d.Step && o.Out == d.Out {
			o.Grams, o.Taken = o.Grams.Plus(d.Grams), o.Taken.Plus(d.Taken)
			return list
		}
	}
	return append(list, d)
}

func mergeUse(list []formula.Use, u formula.Use) []formula.Use {
	for i := range list {
		if list[i].Ingredient == u.Ingredient {
			list[i].Grams = list[i].Grams.Plus(u.Grams)
			return list
		}
	}
	return append(list, u)
}

// pour notes what went in.
func (f *Fold) pour(e Entry, load int, w Weighing) {
	p := f.poured[w.Line]
	if load == 0 {
		p.live = nil
	}
	p.live = append(slices.Clone(p.live), pour{e, load, w})
	f.poured[w.Line] = p
}

// waste takes what is in a load out of the batch: its lots were used all the same.
func (f *Fold) waste(load int) {
	for line, p := range f.poured {
		var live []pour
		for _, x := range p.live {
			switch {
			case x.load == load:
				p.wasted = append(slices.Clone(p.wasted), x.all.Draws...)
			default:
				live = append(live, x)
			}
		}
		p.live = live
		f.poured[line] = p
	}
	for i := range f.additions {
		if a := &f.additions[i]; a.Load == load && !a.wasted {
			a.wasted = true
		}
	}
}

// added is an addition of the record with whether its load was given up.
type added struct {
	Added
	entry  Entry
	wasted bool
}

// AddedLine is an addition as the record shows it.
type AddedLine struct {
	Added
	By    string `json:"by"`
	Entry int64  `json:"entry"`
}

// atBench is the row of an act of the bench, which the weighing checks and takes too. check and do are what it asks of
// the record besides, and does to it; nil for nothing.
func atBench[T any](check func(*Fold, Entry, *T) error, do func(*Fold, Entry, *T),
	tell func(*T) string) entry.Kind[*Fold, Entry] {
	return entry.Row(
		func(f *Fold, e Entry, x *T) error {
			if err := f.refusesBench(e); err != nil || check == nil {
				return err
			}
			return check(f, e, x)
		},
		func(f *Fold, e Entry, x *T) {
			if do != nil {
				do(f, e, x)
			}
			f.hand(e)
			f.weighout.Add(e)
		}, tell)
}

func (f *Fold) refusesCapture(e Entry, x *Capture) error {
	return f.refusesDraws(e, "capture", x.Draws, x.Grams)
}

func (f *Fold) capture(e Entry, x *Capture) {
	f.pour(e, x.Load, Weighing{Line: x.Line, Grams: x.Grams, Draws: x.Draws, Used: x.Used})
	f.addition(e, x.Load)
}

func (f *Fold) refusesAdded(e Entry, x *Added) error {
	return f.refusesDraws(e, "added", x.Draws, x.Grams)
}

func (f *Fold) add(e Entry, x *Added) {
	f.additions = append(f.additions, added{*x, e, false})
	f.addition(e, x.Load)
}

func (f *Fold) choice(_ Entry, x *Choice) {
	if x.How == Discards {
		f.waste(x.Load)
	}
}

func refusesTimed(_ *Fold, e Entry, x *Timed) error { return claimed("timed.from", x.From, e.At) }

// DrawsOf are the draws of lots of an act.
func DrawsOf(body any) []Draw {
	switch x := body.(type) {
	case *Weighing:
		return x.Draws
	case *Capture:
		return x.Draws
	case *Added:
		return x.Draws
	}
	return nil
}

// AddedLineID is the line that an addition is in what was made.
func AddedLineID(entry int64) string { return fmt.Sprintf("added-%d", entry) }

// sumDraws adds up grams of draws.
func sumDraws(draws []Draw) amount.Grams {
	sum := amount.Grams{}
	for _, d := range draws {
		sum = sum.Plus(d.Grams)
	}
	return sum
}
