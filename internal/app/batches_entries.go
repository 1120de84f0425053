package app

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
)

// Write appends an entry to a batch record. key makes it safe to send twice: the second time nothing is written, and
// other content under the same key is refused.
func (a *App) Write(ctx context.Context, id int64, e bench.Entry, key string) (BatchView, error) {
	by, err := person(ctx)
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
	e.ID, e.Seq, e.By, e.Role, e.At = 0, 0, by, actor(ctx).Role, a.Now()
	var out BatchView
	err = a.in(ctx, func(st Store) error {
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
	if err := a.checkBody(st, l, e); err != nil {
		return err
	}
	if err := l.fold().Refuses(*e); err != nil {
		return l.refusal(err)
	}
	if d, is := e.Body.(*bench.Decided); is {
		return l.decide(d)
	}
	return nil
}

// refusal puts what the record refuses into the shape of a problem. Whoever is behind sees what happened meanwhile.
func (l loaded) refusal(err error) error {
	var r bench.Refusal
	if !errors.As(err, &r) {
		return err
	}
	switch {
	case r.Code == bench.Behind:
		return Problem{Kind: Clash, Code: r.Code, Message: r.Message, Current: l.view()}
	case r.Code == bench.NotYours:
		return Problem{Kind: Forbidden, Code: r.Code, Message: r.Message}
	case r.Field != "":
		return field(r.Field, "%s", r.Message)
	}
	return refused(r.Code, "%s", r.Message)
}

// checkBody refuses what an entry of its kind cannot hold.
func (a *App) checkBody(st Store, l loaded, e *bench.Entry) error {
	switch x := e.Body.(type) {
	case *bench.Weighing:
		if err := a.checkWeighing(l, x); err != nil {
			return err
		}
		return a.checkCorrection(st, l, e.Role, x)
	case *bench.Fill:
		return a.checkFill(l, x)
	case *acidity.Reading:
		return a.checkReading(st, l, x)
	case *bench.Void:
		if len([]rune(x.Cause)) > 300 {
			return field("void.cause", "at most 300 characters")
		}
		return nil
	case *bench.JarsIn:
		if len([]rune(x.Reason)) > 500 {
			return field("jars_in.reason", "at most 500 characters")
		}
		return nil
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
		return l.checkDecision(x)
	}
	return field("kind", "an entry of kind %q is not written by hand", e.Kind())
}

func (a *App) checkWeighing(l loaded, w *bench.Weighing) error {
	if l.beforeMaking(a.Now()) {
		return field("weighing.line", "this batch is planned for %s; plan one for today to make it now",
			l.row.MadeOn.Format(pantry.DateLayout))
	}
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

// toTheMinute takes a time that was typed to the minute which is still going on for what it means: now.
func (a *App) toTheMinute(at time.Time) time.Time {
	if now := a.Now(); at.Second() == 0 && at.Nanosecond() == 0 && now.Truncate(time.Minute).Equal(at) {
		return now
	}
	return at
}

func (a *App) checkFill(l loaded, f *bench.Fill) error {
	if f.Jars < 0 || f.Jars > 100_000 || f.Rejected < 0 || f.Rejected > 100_000 {
		return field("fill.jars", "between 0 and 100 000 jars")
	}
	if f.At.IsZero() {
		return field("fill.at", "when was the last jar closed?")
	}
	f.At = a.toTheMinute(f.At)
	if l.beforeMaking(f.At) {
		return field("fill.at", "the filling lies between the day of making and now")
	}
	f.Reason = strings.TrimSpace(f.Reason)
	if len([]rune(f.Reason)) > 300 {
		return field("fill.reason", "at most 300 characters")
	}
	return l.jarsHold(f)
}

// beforeMaking reports whether a time lies before the batch's day of making, in the shop's days.
func (l loaded) beforeMaking(at time.Time) bool {
	return at.In(l.book.settings.zone()).Format(pantry.DateLayout) < l.row.MadeOn.Format(pantry.DateLayout)
}

// mostMore is how much more may be in the jars than was weighed, in shares (handbook 04).
const mostMore = 1.02

// jarsHold refuses more jars than what was weighed fills.
func (l loaded) jarsHold(f *bench.Fill) error {
	if !l.record.Weighed {
		return nil // a release asks for the weights first, and then looks again
	}
	if most := l.mostJars(); f.Jars+f.Rejected > most {
		return field("fill.jars", "what was weighed fills %d jars at most; count again, or weigh in what is missing",
			most)
	}
	return nil
}

// mostJars is how many jars what was weighed can fill.
func (l loaded) mostJars() int {
	made := asWeighed(l.version, l.record)
	jar := l.version.FillGrams.Float()
	if jar <= 0 {
		return 0
	}
	in := made.GramsIn().Float() - made.WaterDrivenOff.Float()
	for i := len(l.version.Lines); i < len(l.record.Lines); i++ { // what goes onto the jars fills them too
		in += l.record.Lines[i].Actual.Float()
	}
	return int(in*mostMore/jar + 1e-9)
}

func (a *App) checkReading(st Store, l loaded, r *acidity.Reading) error {
	if err := checkSample(l, r); err != nil {
		return err
	}
	r.At = a.toTheMinute(r.At)
	if r.At.IsZero() || l.beforeMaking(r.At) {
		return field("reading.at", "the reading lies between the day of making and now")
	}
	if r.Celsius < -5 || r.Celsius > 100 {
		return field("reading.sample_temperature_c", "between -5 and 100 °C")
	}
	if l.record.Fill == nil {
		return field("reading.jar", "fill the jars first: a reading is taken from a filled jar")
	}
	r.Void, r.Unsupported, r.Moment, r.Pair, r.Retest, r.Struck = "", "", "", 0, false, false
	if r.MeterCheck == 0 && r.MV == nil { // kept; it supports nothing, and stops all the same
		return checkPH(r)
	}
	check, err := st.MeterCheck(r.MeterCheck)
	if errors.Is(err, ErrNotFound) {
		return field("reading.meter_check", "this check is not there; check the meter in both buffers first")
	}
	if err != nil {
		return err
	}
	if r.MV != nil {
		if !check.Check.HasMV() {
			return field("reading.mv", "this meter was checked without millivolts; type the pH")
		}
		if *r.MV < -600 || *r.MV > 600 {
			return field("reading.mv", "between -600 and 600 mV")
		}
		r.PH = amount.HalfUp(check.Check.PH(*r.MV, r.Celsius), 3)
	}
	return checkPH(r)
}

func checkPH(r *acidity.Reading) error {
	if r.PH <= 0 || r.PH >= 14 {
		return field("reading.ph", "a pH lies between 0 and 14")
	}
	return nil
}

// checkSample checks of what a reading is.
func checkSample(l loaded, r *acidity.Reading) error {
	fractions, ok := acidity.Preparations[r.Preparation]
	if !ok {
		return field("reading.preparation", "say how the sample was prepared")
	}
	if fits := l.samples(); !slices.Contains(fits, r.Preparation) {
		return field("reading.preparation", "this product's style, pieces and oil ask for another sample: %s",
			strings.ReplaceAll(strings.Join(fits, " or "), "_", " "))
	}
	r.StandIn = strings.TrimSpace(r.StandIn)
	if len([]rune(r.StandIn)) > 200 {
		return field("reading.stand_in", "at most 200 characters")
	}
	if !slices.Contains(fractions, r.Fraction) {
		return field("reading.fraction", "for this preparation read one of: %s", strings.Join(fractions, ", "))
	}
	if r.Jar != acidity.FirstJar && r.Jar != acidity.LastJar {
		return field("reading.jar", "the first or the last jar of the load")
	}
	if r.Load != 1 {
		return field("reading.load", "this batch has one load")
	}
	if r.Sample < 1 || r.Sample > 2 {
		return field("reading.sample", "1, or 2 for the one retest")
	}
	return nil
}

func (l loaded) checkDecision(d *bench.Decided) error {
	d.Reason, d.Way, d.Sentence, d.Value = strings.TrimSpace(d.Reason), "", "", 0
	if len([]rune(d.Reason)) > 500 {
		return field("decision.reason", "at most 500 characters")
	}
	if d.Seen == 0 && l.record.Last > 0 {
		return field("decision.seen", "a decision names the last entry its author saw")
	}
	return nil
}

// decide completes a decision that the record does not refuse with what it rests on. Only measurements release, and
// only what the rules give a life.
func (l loaded) decide(d *bench.Decided) error {
	d.Value, d.Sentence = l.record.Acidity.Value, l.record.Acidity.Sentence
	if d.State != bench.Released {
		return nil
	}
	if missing := l.standing(); len(missing) > 0 {
		return refused(bench.NotReady, "Not released. Still needed: %s.", strings.Join(missing, "; "))
	}
	if v := l.verdict(l.book.law); v.Days == nil {
		return refused("no_life", "Not released. %s", v.Reason)
	}
	d.Way = l.record.Acidity.Way
	return nil
}

// The marks from which a correction counts as an addition (handbook 05): pH of the estimate, share of the line.
const (
	mostEstimateMoves = 0.05
	mostLineMoves     = 0.10
)

// checkCorrection makes an addition of a correction that moves the estimate or the line too far, unless an owner
// confirms that it was a slip of the hand in typing.
func (a *App) checkCorrection(st Store, l loaded, role people.Role, w *bench.Weighing) error {
	w.Slip = strings.TrimSpace(w.Slip)
	if len([]rune(w.Slip)) > 300 {
		return field("weighing.slip", "at most 300 characters")
	}
	if !w.Correction {
		w.Slip = ""
		return nil
	}
	large, err := a.movesFar(st, l, w)
	if err != nil || !large {
		w.Slip = ""
		return err
	}
	if w.Slip == "" {
		w.Correction = false
		return nil
	}
	if !role.May(people.Owner) {
		return Problem{Kind: Forbidden, Code: bench.NotYours,
			Message: "Only an owner confirms that so large a correction was a typing slip; without that it counts as an addition."}
	}
	return nil
}

// movesFar reports whether a weighing in the place of the one before moves its line or the estimate too far.
func (a *App) movesFar(st Store, l loaded, w *bench.Weighing) (bool, error) {
	i := slices.IndexFunc(l.record.Lines, func(s bench.LineState) bool { return s.Line == w.Line })
	if i < 0 || l.record.Lines[i].Actual == nil {
		return true, nil // nothing was weighed that could be corrected
	}
	before := l.record.Lines[i].Actual.Float()
	if math.Abs(w.Grams.Float()-before) > mostLineMoves*before+1e-9 {
		return true, nil
	}
	if !l.record.Weighed {
		return false, nil
	}
	after := l
	after.record.Lines = slices.Clone(l.record.Lines)
	after.record.Lines[i].Actual, after.record.Lines[i].Used = &w.Grams, w.Used
	desk, err := a.judging(st)
	if err != nil {
		return false, err
	}
	ref := formula.Ref{Formula: l.row.FormulaID, Version: l.row.Version}
	if err := desk.know(st, ref); err != nil {
		return false, err
	}
	panel, err := desk.panel(after, ref)
	if err != nil {
		return false, lineProblem(err)
	}
	return estimateMoved(l.panel.PH, panel.PH), nil
}

// estimateMoved reports whether any end of the band moved by more than the mark.
func estimateMoved(a, b assess.PH) bool {
	far := func(x, y *float64) bool {
		return (x == nil) != (y == nil) || x != nil && math.Abs(*x-*y) > mostEstimateMoves+1e-9
	}
	return far(a.Estimate, b.Estimate) || far(a.Low, b.Low) || far(a.High, b.High)
}
