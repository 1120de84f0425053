package production

import (
	"context"
	"slices"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/field"
	"gallipot/internal/core/shop"
)

// checkBench checks an act of the bench and fills in what the program knows.
func (a *Room) checkBench(st kernel.Store, l Loaded, e *bench.Entry) error {
	if l.beforeMaking(a.Now()) {
		return kernel.Refuse("not_today", "This batch is planned for %s; plan one for today to make it now.",
			day.Of(l.Row.MadeOn))
	}
	switch x := e.Body.(type) {
	case *bench.Capture:
		return a.checkCapture(st, l, x)
	case *bench.Tared:
		return a.ownDevice(l, x.Scale, "tared.scale")
	case *bench.Choice:
		x.Factor, x.Word = l.Made().ChoiceRests(x)
	case *bench.LeftOut:
		return RefusalOf(l.Made().RefusesLeavingOut(x.Line), nil)
	case *bench.Added:
		return a.checkAdded(st, l, x)
	case *bench.Cooled:
		x.At = a.toTheMinute(x.At)
		return a.ownDevice(l, x.Probe, "cooled.probe")
	}
	return nil
}

// checkCapture resolves the lots of a capture and sets its pouring class.
func (a *Room) checkCapture(st kernel.Store, l Loaded, x *bench.Capture) error {
	i := slices.IndexFunc(l.Row.Targets, func(t bench.Target) bool { return t.Line == x.Line })
	if i < 0 {
		return kernel.Mistake("capture.line", "this line is not in the batch")
	}
	t := l.Row.Targets[i]
	if x.Grams.Float() > amount.MaxGrams {
		return kernel.Mistake("capture.grams", "at most 10 000 kg")
	}
	x.Class = t.Class
	if x.Manual = x.Manual || x.Scale == ""; x.Manual {
		x.Stopped, x.Reading, x.Scale, x.Unstable = nil, nil, "", false
	} else if err := a.ownDevice(l, x.Scale, "capture.scale"); err != nil {
		return err
	}
	if x.Stopped != nil && (x.Stopped.IsNegative() || x.Stopped.Cmp(x.Grams) > 0) {
		x.Stopped = nil // a scale that was touched tells nothing about a pour
	}
	if t.NeedsLot && len(x.Draws) == 0 {
		return kernel.Mistake("capture.draws", "which lot is it from? Scan it, or choose it")
	}
	if len(x.Draws) > 0 {
		want, err := nameDraws(st, l, x.Line, "capture", x.Draws)
		if err != nil {
			return err
		}
		x.Complete(l.Needs.Lots, a.Now(), l.Book.Settings.Zone())
		if len(want.ids) > 1 {
			x.Used = usedOf(x.Draws)
		}
	}
	w := bench.Weighing{Line: x.Line, Grams: x.Grams, Used: x.Used}
	if err := checkUsed(t, &w); err != nil {
		return err
	}
	return RefusalOf(l.Made().RefusesHot(x, t), nil)
}

// ownDevice refuses a reading from a device that the shop does not have, and from a stand-in outside the demo, since it
// measures nothing real.
func (a *Room) ownDevice(l Loaded, name, of string) error {
	if name == "" {
		return nil
	}
	i := slices.IndexFunc(l.Book.Settings.Devices, func(d shop.Device) bool { return d.Name == name })
	switch {
	case i < 0:
		return kernel.Mistake(of, "the shop has no device called %q; type the weight instead", field.Clip(name))
	case l.Book.Settings.Devices[i].Address == "" && !a.StandIns:
		return kernel.Mistake(of,
			"%s is a stand-in that measures nothing real: give it the address of yours, or type the weight", name)
	}
	return nil
}

// LagView is how many grams a class of ingredients runs on after a pour stops.
type LagView struct {
	Class string       `json:"class"`
	Grams amount.Grams `json:"grams"`
	Pours int          `json:"pours"`
}

// Lags returns the run-on learned so far, by class.
func (a *Room) Lags(ctx context.Context) ([]LagView, error) {
	st := a.On(ctx)
	out := []LagView{}
	for _, class := range []string{bench.PoursOil, bench.PoursThin, bench.PoursPaste, bench.PoursDry} {
		pours, err := st.Pours(class, bench.LagPours)
		if err != nil {
			return nil, err
		}
		if lag, ok := bench.Lag(pours); ok {
			out = append(out, LagView{class, lag, len(pours)})
		}
	}
	return out, nil
}
