package app

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/pantry"
)

// Write appends an entry to a batch record. key makes it safe to send twice: the second time nothing is written, and
// other content under the same key is refused.
func (a *App) Write(ctx context.Context, id int64, e bench.Entry, key, by string) (BatchView, error) {
	by, err := person(by)
	if err != nil {
		return BatchView{}, err
	}
	if key == "" || len(key) > MaxKey {
		return BatchView{}, field("key", "an idempotency key has 1 to %d characters", MaxKey)
	}
	if e.Kind() == "" {
		return BatchView{}, field("kind", "an entry needs its own details")
	}
	digest := digestOf([]any{e.Kind(), e.Body})
	e.ID, e.Seq, e.By, e.At = 0, 0, by, a.Now()
	var out BatchView
	err = a.Store.In(ctx, func(st Store) error {
		if err := st.LockBatch(id); err != nil {
			return err
		}
		done, err := known(st, id, key, digest)
		if err != nil {
			return err
		}
		if !done {
			l, err := a.load(st, id)
			if err != nil {
				return err
			}
			if err := a.checkEntry(st, l, &e); err != nil {
				return err
			}
			if err := st.AddEntry(id, e, key, digest); err != nil {
				return entryKeyTaken(err)
			}
		}
		l, err := a.load(st, id)
		if err != nil {
			return err
		}
		out = l.view()
		return st.PutStandings(l.stands())
	})
	return out, err
}

// known reports whether an entry was written under this key before. Other content under it is refused. Entries from
// before digests were kept have none, and count as the same.
func known(st Store, id int64, key string, digest []byte) (bool, error) {
	before, err := st.EntryKey(id, key)
	if err != nil || before == nil {
		return false, err
	}
	if len(before) > 0 && !bytes.Equal(before, digest) {
		return false, otherContent()
	}
	return true, nil
}

// entryKeyTaken words that a key was used in another batch.
func entryKeyTaken(err error) error {
	if errors.Is(err, ErrTaken) {
		return otherContent()
	}
	return err
}

// checkEntry refuses what cannot be, and completes what the core computes.
func (a *App) checkEntry(st Store, l loaded, e *bench.Entry) error {
	if closed := l.record.State == bench.Released || l.record.State == bench.Rejected; closed {
		switch e.Body.(type) {
		case *bench.Weighing, *bench.Fill, *bench.Heat, *bench.Laboratory:
			return refused("decided",
				"Batch %s is %s; put it back on hold, with the reason, before changing what was recorded.", l.row.Code,
				l.record.State)
		}
	}
	switch x := e.Body.(type) {
	case *bench.Weighing:
		return checkWeighing(l, x)
	case *bench.Fill:
		return a.checkFill(l, x)
	case *acidity.Reading:
		return a.checkReading(st, l, x)
	case *bench.Void:
		return checkVoid(l, x)
	case *bench.Heat:
		if !(x.ColdestC >= 0 && x.ColdestC <= 130 && x.Minutes >= 0 && x.Minutes <= 1440) {
			return field("heat.coldest_c", "the coldest jar lies between 0 and 130 °C, for up to a day")
		}
		return nil
	case *bench.Laboratory:
		if !(x.WaterActivity > 0 && x.WaterActivity <= 1) {
			return field("laboratory.water_activity", "a water activity lies above 0 and up to 1")
		}
		if n := len([]rune(strings.TrimSpace(x.Report))); n == 0 || n > 200 {
			return field("laboratory.report", "name the laboratory's report, in at most 200 characters")
		}
		return nil
	case *bench.Decided:
		return decide(l, x)
	}
	return field("kind", "an entry of kind %q is not written by hand", e.Kind())
}

func checkWeighing(l loaded, w *bench.Weighing) error {
	i := slices.IndexFunc(l.row.Targets, func(t bench.Target) bool { return t.Line == w.Line })
	if i < 0 {
		return field("weighing.line", "this line is not in the batch")
	}
	if !w.Grams.IsPositive() || w.Grams.Float() > amount.MaxGrams {
		return field("weighing.grams", "grams must be above zero and at most 10 000 kg")
	}
	if len([]rune(w.Lot)) > 80 || len([]rune(w.Note)) > 500 {
		return field("weighing.lot", "at most 80 characters")
	}
	if err := checkUsed(l.row.Targets[i], w); err != nil {
		return err
	}
	if w.UseBy != "" {
		day, err := pantry.ParseDay(w.UseBy)
		if err != nil {
			return field("weighing.use_by", "a day as in 2026-11-25, or empty")
		}
		if day.Before(l.row.MadeOn) {
			return field("weighing.use_by", "this lot was past its date on the day of making; it may not go in")
		}
	}
	return nil
}

// checkUsed wants to know what was taken of a group, because the label must list it.
func checkUsed(t bench.Target, w *bench.Weighing) error {
	if len(t.AnyOf) == 0 {
		if len(w.Used) > 0 {
			return field("weighing.used", "this line is no group")
		}
		return nil
	}
	if len(w.Used) == 0 {
		return field("weighing.used", "say which of the group was used: the label lists it")
	}
	sum := amount.Grams{}
	for k, u := range w.Used {
		if !slices.Contains(t.AnyOf, u.Ingredient) {
			return field(fmt.Sprintf("weighing.used[%d].ingredient", k), "this is none of the group")
		}
		if !u.Grams.IsPositive() {
			return field(fmt.Sprintf("weighing.used[%d].grams", k), "grams above 0")
		}
		sum = sum.Plus(u.Grams)
	}
	if sum != w.Grams {
		return field("weighing.used", "the parts add up to %s g, not to %s g", sum, w.Grams)
	}
	return nil
}

func (a *App) checkFill(l loaded, f *bench.Fill) error {
	if f.Jars < 0 || f.Jars > 100_000 || f.Rejected < 0 || f.Rejected > 100_000 {
		return field("fill.jars", "between 0 and 100 000 jars")
	}
	if f.At.IsZero() {
		return field("fill.at", "when was the last jar closed?")
	}
	if f.At.After(a.Now().Add(time.Minute)) || f.At.Before(l.row.MadeOn.Add(-24*time.Hour)) {
		return field("fill.at", "the filling lies between the day of making and now")
	}
	return nil
}

func (a *App) checkReading(st Store, l loaded, r *acidity.Reading) error {
	if err := checkSample(r); err != nil {
		return err
	}
	if r.At.IsZero() || r.At.After(a.Now().Add(time.Minute)) || r.At.Before(l.row.MadeOn.Add(-24*time.Hour)) {
		return field("reading.at", "the reading lies between the day of making and now")
	}
	if r.Celsius < -5 || r.Celsius > 100 {
		return field("reading.sample_temperature_c", "between -5 and 100 °C")
	}
	if l.record.Fill == nil {
		return field("reading.jar", "fill the jars first: a reading is taken from a filled jar")
	}
	check, err := st.MeterCheck(r.MeterCheck)
	if errors.Is(err, ErrNotFound) {
		return field("reading.meter_check", "check the meter in both buffers first")
	}
	if err != nil {
		return err
	}
	c := acidity.Check{MV4: check.MV4, MV7: check.MV7, Celsius: check.Celsius}
	if r.MV != nil {
		if *r.MV < -600 || *r.MV > 600 {
			return field("reading.mv", "between -600 and 600 mV")
		}
		r.PH = amount.HalfUp(c.PH(*r.MV, r.Celsius), 3)
	}
	if r.PH <= 0 || r.PH >= 14 {
		return field("reading.ph", "a pH lies between 0 and 14")
	}
	judged := c.Judge()
	r.Unsupported = acidity.Supports(&judged, check.CheckedAt, r.At, check.ClosingGood, r.Celsius)
	r.Void = ""
	return nil
}

// checkSample checks of what and when a reading is.
func checkSample(r *acidity.Reading) error {
	fractions, ok := acidity.Preparations[r.Preparation]
	if !ok {
		return field("reading.preparation", "say how the sample was prepared")
	}
	if !slices.Contains(fractions, r.Fraction) {
		return field("reading.fraction", "for this preparation read one of: %s", strings.Join(fractions, ", "))
	}
	if r.Jar != acidity.FirstJar && r.Jar != acidity.LastJar {
		return field("reading.jar", "the first or the last jar of the load")
	}
	if r.Moment != acidity.FirstDay && r.Moment != acidity.Equilibrium {
		return field("reading.moment", "first_day or equilibrium")
	}
	if r.Load != 1 {
		return field("reading.load", "this batch has one load")
	}
	if r.Sample < 1 || r.Sample > 2 {
		return field("reading.sample", "1, or 2 for the one retest")
	}
	return nil
}

func checkVoid(l loaded, v *bench.Void) error {
	if n := len([]rune(strings.TrimSpace(v.Cause))); n < 3 || n > 300 {
		return field("void.cause", "no reading is dropped without a cause: 3 to 300 characters")
	}
	if !slices.ContainsFunc(l.record.Readings, func(r acidity.Reading) bool { return r.ID == v.Entry }) {
		return field("void.entry", "there is no such reading in this batch")
	}
	return nil
}

// decide checks a person's decision against the record. Only measurements release; anything may be held or rejected,
// with a reason.
func decide(l loaded, d *bench.Decided) error {
	d.Reason = strings.TrimSpace(d.Reason)
	if len([]rune(d.Reason)) > 500 {
		return field("decision.reason", "at most 500 characters")
	}
	switch d.State {
	case bench.Released:
		if missing := l.standing(); len(missing) > 0 {
			return refused("not_ready", "Not released. Still needed: %s.", strings.Join(missing, "; "))
		}
		v := l.verdict(l.book.law)
		if v.Days == nil {
			return refused("no_life", "Not released. %s", v.Reason)
		}
		if l.record.Acidity.Outcome == acidity.PassWithNote && d.Reason == "" {
			return field("decision.reason", "above the target: say what you looked at before releasing")
		}
		d.Way, d.Value, d.Sentence = l.record.Acidity.Way, l.record.Acidity.Value, l.record.Acidity.Sentence
		return nil
	case bench.Rejected, bench.OnHold:
		if d.Reason == "" {
			return field("decision.reason", "give the reason")
		}
		d.Way, d.Value, d.Sentence = "", l.record.Acidity.Value, l.record.Acidity.Sentence
		return nil
	}
	return field("decision.state", "released, rejected or hold")
}
