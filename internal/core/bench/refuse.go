package bench

import (
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/field"
	"gallipot/internal/core/people"
)

// clockSkew is how far a hand's clock may run ahead of the shop's.
const clockSkew = time.Minute

// leastCause is how many letters a cause of a strike has at least (handbook 05).
const leastCause = 10

// Refuses says why an act may not be written down now; nil where it may. It looks at what the record knows: roles,
// states, claimed times, what a decision must have seen. What a hand wrote with the act is trimmed.
func (f *Fold) Refuses(e Entry) error {
	f.runOut(e.At)
	if e.Role != "" && !e.Role.Known() {
		return entry.Refuse(entry.NotYours, "", "nobody knows the role %q", e.Role)
	}
	if err := Tidy(e); err != nil {
		return err
	}
	if x, ok := e.Body.(*acidity.MeterEvent); ok {
		return claimed("checked_at", x.At, e.At)
	}
	return kinds.Check(f, e, e.Body)
}

func (f *Fold) refusesFill(e Entry, x *Fill) error {
	if err := f.closed("the filling"); err != nil {
		return err
	}
	if err := f.refusesFewer(x); err != nil {
		return err
	}
	return claimed("fill.at", x.At, e.At)
}

func refusesReading(_ *Fold, e Entry, x *acidity.Reading) error {
	return claimed("reading.at", x.At, e.At)
}

func (f *Fold) refusesHeat(_ Entry, x *Heat) error {
	if !(x.ColdestC >= 0 && x.ColdestC <= 130 && x.Minutes >= 0 && x.Minutes <= 1440) {
		return entry.Refuse(entry.Wrong, "heat.coldest_c", "the coldest jar lies between 0 and 130 °C, for up to a day")
	}
	return f.closed("the heat step")
}

func (f *Fold) refusesLaboratory(_ Entry, x *Laboratory) error {
	switch {
	case !(x.WaterActivity > 0 && x.WaterActivity <= 1):
		return entry.Refuse(entry.Wrong, "laboratory.water_activity", "a water activity lies above 0 and up to 1")
	case x.Report == "":
		return entry.Refuse(entry.Wrong, "laboratory.report", "name the laboratory's report")
	}
	return f.closed("the laboratory's value")
}

func (f *Fold) refusesStrained(Entry, *Strained) error {
	if !f.n.Infused {
		return entry.Refuse(entry.Wrong, "strained.clear",
			"this product has a water phase, or nothing was kept in its oil: it is measured")
	}
	return f.closed("what was said of the straining")
}

// mostWorked is how many minutes of hands a batch takes at most; more is a slipped key.
const mostWorked = 20_000

func refusesWorked(_ *Fold, _ Entry, x *Worked) error {
	if !(x.Minutes > 0 && x.Minutes <= mostWorked) {
		return entry.Refuse(entry.Wrong, "worked.minutes", "minutes of hands above 0, and up to 20 000")
	}
	return nil
}

// claimed lets a time lie before its entry, never after.
func claimed(field string, at, entered time.Time) error {
	if at.After(entered.Add(clockSkew)) {
		return entry.Refuse(entry.Wrong, field, "this time has not come yet")
	}
	return nil
}

func (f *Fold) closed(what string) error {
	if f.r.State == OnHold {
		return nil
	}
	return entry.Refuse(entry.Closed, "",
		"This batch is %s: %s does not change. Put it on hold first, with the reason.",
		StateWords[f.r.State], what)
}

// StateWords are the states as they are said.
var StateWords = map[string]string{OnHold: "on hold", Released: "released", CalledBack: "called back",
	Rejected: "rejected"}

func (f *Fold) refusesWeighing(e Entry, x *Weighing) error {
	if err := f.closed("what was weighed"); err != nil {
		return err
	}
	if before, was := f.poured[x.Line].asWeighing(); was != nil && before.ID != x.Over {
		return entry.Refuse(entry.Behind, "",
			"%s weighed this line meanwhile: %s g. Look, then weigh again if it is still needed.",
			before.By, was.Grams)
	}
	if f.r.Out && !x.Correction {
		return entry.Refuse(entry.Closed, "",
			"Jars of this batch may be out. Nothing is added to it until an owner says, with a reason, that no jar is out.")
	}
	return f.refusesDraws(e, "weighing", x.Draws, x.Grams)
}

// refusesBench refuses an act of the bench: what the state of the batch does not allow, and what the weighing does not.
func (f *Fold) refusesBench(e Entry) error {
	if err := f.closed("what was weighed"); err != nil {
		return err
	}
	if f.r.Out {
		return entry.Refuse(entry.Closed, "",
			"Jars of this batch may be out. Nothing is added to it until an owner says, with a reason, that no jar is out.")
	}
	return f.weighout.Refuses(e)
}

func (f *Fold) refusesStrike(e Entry, x *Void) error {
	r := f.reading(x.Entry)
	switch {
	case !e.Role.May(people.Maker):
		return entry.Refuse(entry.NotYours, "", "A helper never strikes a reading; ask a maker or an owner.")
	case field.Letters(x.Cause) < leastCause:
		return entry.Refuse(entry.Wrong, "void.cause",
			"no reading is dropped without a cause: say what happened, in at least %d letters", leastCause)
	case r == nil:
		return entry.Refuse(entry.Wrong, "void.entry", "there is no such reading in this batch")
	case r.Struck:
		return entry.Refuse(entry.Closed, "void.entry", "this pair was struck already")
	case !e.Role.May(people.Owner) && f.pairOver(*r):
		return entry.Refuse(entry.NotYours, "",
			"This pair is near or over the limit of %.2f: only an owner strikes it.", f.n.Bounds.Limit)
	}
	return nil
}

// pairOver reports whether any reading of the pair, with the least uncertainty, exceeds the limit.
func (f *Fold) pairOver(of acidity.Reading) bool {
	return slices.ContainsFunc(f.r.Readings,
		func(r acidity.Reading) bool { return r.Pair == of.Pair && f.n.Bounds.Over(r.PH) })
}

func (f *Fold) refusesJarsIn(e Entry, x *JarsIn) error {
	switch {
	case !e.Role.May(people.Owner):
		return entry.Refuse(entry.NotYours, "", "Only an owner says that no jar is out.")
	case strings.TrimSpace(x.Reason) == "":
		return entry.Refuse(entry.Wrong, "jars_in.reason", "say how you know: who counted the jars, and where they are")
	case !f.r.Out || f.r.State != OnHold:
		return entry.Refuse(entry.Closed, "",
			"This is said of a batch that was released and is on hold; this one is %s.",
			StateWords[f.r.State])
	}
	for _, x := range f.shelf.list() {
		if x.Place == With {
			return entry.Refuse(entry.Closed, "",
				"By the book %d jars are with %s: write down first that they came back.",
				x.Jars,
				x.PartyName)
		}
	}
	return nil
}

// refusesDecision guards the latch.
func (f *Fold) refusesDecision(e Entry, x *Decided) error {
	reason := strings.TrimSpace(x.Reason)
	owner := e.Role.May(people.Owner)
	switch {
	case !e.Role.May(people.Maker):
		return entry.Refuse(entry.NotYours, "", "A helper does not decide; ask a maker or an owner.")
	case x.Seen != 0 && x.Seen < f.r.Last:
		return entry.Refuse(entry.Behind, "",
			"Meanwhile something was written into this record; look at it, then decide.")
	case StateWords[x.State] == "":
		return entry.Refuse(entry.Wrong, "decision.state", "released, rejected, hold or called_back")
	}
	switch f.r.State {
	case Rejected:
		if x.State != OnHold {
			return entry.Refuse(entry.Closed, "",
				"Rejected. Only an owner opens it again: put it on hold, with the reason.")
		}
		if !owner {
			return entry.Refuse(entry.NotYours, "", "Rejected: only an owner opens it again, with a reason.")
		}
	case CalledBack:
		if !owner {
			return entry.Refuse(entry.NotYours, "", "Called back: only an owner takes it out of that, with a reason.")
		}
	}
	if lacks := f.r.Lacks(); lacks != "" && x.State != Rejected && x.State != CalledBack {
		return entry.Refuse(entry.Closed, "",
			"Jars are out whose words lack %s. Deal with them first: relabelled, withdrawn, or "+
				"gone and who was told.", lacks)
	}
	if x.State == CalledBack {
		switch {
		case !owner:
			return entry.Refuse(entry.NotYours, "",
				"Only an owner calls a batch back by hand; put it on hold, and tell an owner.")
		case !f.r.Out || f.r.State == CalledBack || f.r.State == Rejected:
			return entry.Refuse(entry.Closed, "", "Only what was released is called back.")
		}
	}
	if reason == "" && (x.State != Released || f.r.State == CalledBack) {
		return entry.Refuse(entry.Wrong, "decision.reason", "give the reason")
	}
	if x.State == Released {
		return f.refusesRelease(e, reason)
	}
	return nil
}

func (f *Fold) refusesRelease(e Entry, reason string) error {
	if f.r.State == Released {
		return entry.Refuse(entry.Closed, "", "It is released already, by %s.", f.r.DecideBy)
	}
	r := f.Record(e.At)
	if len(r.Missing) > 0 {
		return entry.Refuse(entry.NotReady, "", "Not released. Still needed: %s.", strings.Join(r.Missing, "; "))
	}
	if f.n.SecondPerson && (e.By == f.n.PlannedBy || slices.Contains(r.Hands, e.By)) {
		return entry.Refuse(entry.NotYours, "",
			"The shop asks for a second person: %s made this batch, somebody else releases it.",
			e.By)
	}
	if len(r.Asks.Owner) > 0 && !e.Role.May(people.Owner) {
		return entry.Refuse(entry.NotYours, "", "Only an owner releases this one, with a reason: %s.",
			strings.Join(r.Asks.Owner, "; "))
	}
	if why := append(slices.Clone(r.Asks.Owner), r.Asks.Reason...); len(why) > 0 && reason == "" {
		return entry.Refuse(entry.Wrong, "decision.reason", "%s: say what you looked at before releasing",
			strings.Join(why, "; "))
	}
	return nil
}

// asks is what a release asks beyond a pass.
func (f *Fold) asks(d acidity.Decision) Asks {
	a := Asks{Reason: []string{}, Owner: []string{}}
	if d.Outcome == acidity.PassWithNote {
		a.Reason = append(a.Reason, "above the target")
	}
	struck, over, first, loose := false, false, false, false
	for _, r := range f.r.Readings {
		switch {
		case r.Struck:
			struck = true
			over = over || f.pairOver(r)
		case r.Void != "":
		case r.Moment == acidity.FirstDay:
			first = first || r.PH > f.n.Bounds.Limit
		case r.Moment == acidity.Equilibrium && r.Unsupported != "":
			loose = loose || f.n.Bounds.Over(r.PH)
		}
	}
	if over {
		a.Owner = append(a.Owner, "a pair near or over the limit was struck")
	} else if struck {
		a.Reason = append(a.Reason, "a pair was struck")
	}
	if loose {
		a.Owner = append(a.Owner, "a reading without support lies near or over the limit")
	}
	if first && d.Way == acidity.Equilibrium {
		a.Reason = append(a.Reason, "the first reading was over the limit")
	}
	return a
}
