package bench

import (
	"slices"
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/field"
	"gallipot/internal/core/people"
)

// Refuses says why an act may not be written down at the bench now; nil where it may.
func (w *Weighout) Refuses(e Entry) error {
	act, ok := e.Body.(inOneLoad)
	if x, chosen := e.Body.(*Choice); chosen {
		return w.refusesChoice(e, x)
	}
	no := 0
	if ok {
		no = act.InLoad()
	}
	l := w.load(no)
	switch {
	case l == nil:
		return entry.Refuse(entry.Wrong, e.Kind()+".load", "this batch has %d loads; there is no load %d",
			len(w.loads), no)
	case l.closed != "":
		return entry.Refuse(entry.Closed, "", "Load %d is closed, by %s.", no, l.closed)
	}
	return act.refused(w, l, e)
}

func (x *Ticked) refused(w *Weighout, l *load, _ Entry) error {
	if x.Key == CleanDown && l.begun() {
		return entry.Refuse(entry.Closed, "", "Something is in the bowl already: whatever it carried is in it too.")
	}
	return w.refusesErrand(l, "ticked.key", x.Key)
}

func (x *Timed) refused(w *Weighout, l *load, _ Entry) error {
	if !(x.Minutes > 0 && x.Minutes <= 7*24*60) && !x.Stop {
		return entry.Refuse(entry.Wrong, "timed.minutes", "a timer runs for more than nothing and at most a week")
	}
	return w.refusesErrand(l, "timed.key", x.Key)
}

func (x *Closed) refused(w *Weighout, l *load, _ Entry) error {
	if missing := w.missing(l); len(missing) > 0 {
		return entry.Refuse(entry.NotReady, "", "Load %d is not closed. Still open: %s.", l.no, strings.Join(missing,
			"; "))
	}
	return nil
}

func (w *Weighout) waits(l *load) error {
	if w.pending(l) {
		return entry.Refuse(entry.NotReady, "",
			"Too much is in the bowl of load %d: first choose what becomes of it, then go on.", l.no)
	}
	return nil
}

// fits refuses what the vessel does not hold.
func (w *Weighout) fits(l *load, field string, more amount.Exact) error {
	room, named := w.room(l)
	if !named || more.Cmp(room) <= 0 {
		return nil
	}
	if room.Sign() < 0 {
		room = amount.Exact{}
	}
	return entry.Refuse(entry.Wrong, field,
		"%s takes at most %s g and has room for %s g more: take some of it out again, or a part of the mix first",
		capital(w.p.Vessel.Name), w.p.Vessel.Greatest, room.Grams())
}

func (x *Capture) refused(w *Weighout, l *load, _ Entry) error {
	i := w.line(x.Line)
	if i < 0 {
		return entry.Refuse(entry.Wrong, "capture.line", "this line is not in the bowl of this batch")
	}
	s := &l.lines[i]
	name := w.targets[i].Name
	switch {
	case s.last != x.Saw:
		return entry.Refuse(entry.Behind, "",
			"%s captured %s in load %d meanwhile: %s g are in the bowl. Nothing was added by you.",
			s.by, name, l.no, s.in.Grams())
	case !x.Grams.IsPositive():
		return entry.Refuse(entry.Wrong, "capture.grams", "grams above zero")
	case s.leftOut:
		return entry.Refuse(entry.Closed, "", "%s was left out of load %d, by %s.", name, l.no, s.by)
	case x.Unstable && field.Letters(x.Reason) == 0:
		return entry.Refuse(entry.Wrong, "capture.reason",
			"the scale had not settled: say why it is taken all the same")
	case x.Enough && field.Letters(x.Reason) == 0:
		return entry.Refuse(entry.Wrong, "capture.reason", "say why no more of it goes in")
	}
	if err := w.waits(l); err != nil {
		return err
	}
	for _, e := range w.errands(l) {
		if _, done := l.ticks[e.Key]; e.First && !done {
			return entry.Refuse(entry.NotReady, "", "First: %s.", e.Text)
		}
	}
	if w.stands(l, i) == LineTaste {
		return entry.Refuse(entry.NotReady, "", "Taste first, and say how much more of %s goes in.", name)
	}
	if err := w.fits(l, "capture.grams", x.Grams.Exact()); err != nil {
		return err
	}
	return l.refusesReading(x)
}

// refusesReading holds a weight against what the scale showed before: the bowl is the batch's, whoever took from it
// last and on whichever tablet.
func (l *load) refusesReading(x *Capture) error {
	if x.Manual || x.Scale == "" {
		return nil
	}
	z := l.zero
	switch {
	case x.Reading == nil:
		return entry.Refuse(entry.Wrong, "capture.reading_g", "what the scale shows, with all that stands on it")
	case z == nil || z.Scale != x.Scale:
		return entry.Refuse(entry.NotTared, "",
			"Tare %s first: what stood on it before is not known. Nothing was added.",
			x.Scale)
	case x.Reading.Minus(z.Reading).Cmp(x.Grams) != 0:
		return entry.Refuse(entry.Behind, "",
			"%s counts from %s g now, %s saw to that; with %s g on it that makes %s g, not %s. Nothing was added.",
			x.Scale, z.Reading, z.By, *x.Reading, x.Reading.Minus(z.Reading), x.Grams)
	}
	return nil
}

func (x *Tared) refused(*Weighout, *load, Entry) error {
	switch {
	case x.Scale == "":
		return entry.Refuse(entry.Wrong, "tared.scale", "which scale is it?")
	case x.Reading == nil || x.Reading.Abs().Float() > amount.MaxGrams:
		return entry.Refuse(entry.Wrong, "tared.reading_g", "what the scale shows, in grams")
	}
	return nil
}

func (w *Weighout) refusesChoice(e Entry, x *Choice) error {
	l := w.load(x.Load)
	if x.Load == 0 {
		if i := slices.IndexFunc(w.loads, w.pending); i >= 0 {
			l = w.loads[i]
		}
	}
	switch {
	case !slices.Contains([]string{AcceptOver, Rebalances, Discards}, x.How):
		return entry.Refuse(entry.Wrong, "choice.how", "accept, rebalance or discard")
	case l == nil && x.Load == 0:
		return entry.Refuse(entry.Closed, "", "Nothing waits for a choice; somebody may have made it meanwhile.")
	case l == nil:
		return entry.Refuse(entry.Wrong, "choice.load", "there is no such load")
	case l.closed != "":
		return entry.Refuse(entry.Closed, "", "Load %d is closed, by %s.", l.no, l.closed)
	case x.How == Discards && x.Load == 0:
		return entry.Refuse(entry.Wrong, "choice.load", "which load is thrown away?")
	case x.How != Rebalances && !e.Role.May(people.Maker):
		return entry.Refuse(entry.NotYours, "",
			"A helper puts the ratio right; a maker or an owner accepts an over-pour or gives a load up.")
	case x.How != Rebalances && field.Letters(x.Reason) == 0:
		return entry.Refuse(entry.Wrong, "choice.reason", "give the reason")
	case x.How == Discards && !l.bowl().IsPositive():
		return entry.Refuse(entry.Closed, "", "Nothing is in the bowl of load %d.", l.no)
	case x.How != Discards && !w.pending(l):
		return entry.Refuse(entry.Closed, "", "Nothing waits for a choice; somebody may have made it meanwhile.")
	case x.How == Rebalances:
		return w.refusesRebalance(l, x)
	}
	return nil
}

func (w *Weighout) refusesRebalance(l *load, x *Choice) error {
	bowl := l.bowl()
	switch {
	case x.Portion.IsNegative() || x.Portion.Exact().Cmp(bowl) >= 0 && x.Portion.IsPositive():
		return entry.Refuse(entry.Wrong, "choice.portion_g", "less than the %s g in the bowl", bowl.Grams())
	case !w.p.Vessel.Greatest.IsPositive():
		return nil
	}
	if r := w.rebalanced(l, x.Portion.Exact()); r.NewTotal.Cmp(w.p.Vessel.Greatest.Exact()) > 0 {
		return entry.Refuse(entry.Wrong, "choice.portion_g",
			"the load would come to %s g and %s takes %s g: take %s g of the mix out first, or accept, or give it up",
			r.NewTotal.Grams(), w.p.Vessel.Name, w.p.Vessel.Greatest, w.portion(l))
	}
	return nil
}

// portion is how much of the mix is to be taken out so that a rebalance fits the vessel, in whole divisions; nothing
// where it fits.
func (w *Weighout) portion(l *load) amount.Grams {
	greatest := w.p.Vessel.Greatest.Exact()
	total := w.rebalanced(l, amount.Exact{}).NewTotal
	if !greatest.IsPositive() || total.Cmp(greatest) <= 0 {
		return amount.Grams{}
	}
	part := l.bowl().Times(amount.Whole(1).Minus(greatest.Over(total)))
	division := max(1, w.p.Scale.Division.Steps())
	return amount.Milligrams(ceiling(part.Times(amount.Ratio(1000, division))) * division)
}

func (x *Tasted) refused(w *Weighout, l *load, _ Entry) error {
	i := w.line(x.Line)
	switch {
	case i < 0:
		return entry.Refuse(entry.Wrong, "tasted.line", "this line is not in the bowl of this batch")
	case w.stands(l, i) != LineTaste:
		return entry.Refuse(entry.Closed, "", "%s does not wait for a taste in load %d.", w.targets[i].Name, l.no)
	case x.More.IsNegative():
		return entry.Refuse(entry.Wrong, "tasted.more_g", "grams, or 0 for no more")
	}
	return w.fits(l, "tasted.more_g", x.More.Exact())
}

func (x *LeftOut) refused(w *Weighout, l *load, e Entry) error {
	i := w.line(x.Line)
	switch {
	case i < 0:
		return entry.Refuse(entry.Wrong, "left_out.line", "this line is not in the bowl of this batch")
	case !w.targets[i].Optional:
		return entry.Refuse(entry.Closed, "",
			"%s is not left out: the version does not mark it as optional, or it sours or preserves.",
			w.targets[i].Name)
	case !e.Role.May(people.Maker):
		return entry.Refuse(entry.NotYours, "", "A maker or an owner leaves a line out.")
	case l.lines[i].in.IsPositive() || l.lines[i].leftOut:
		return entry.Refuse(entry.Closed, "", "%s is in the bowl, or was left out already.", w.targets[i].Name)
	case field.Letters(x.Reason) == 0:
		return entry.Refuse(entry.Wrong, "left_out.reason", "say why")
	}
	return nil
}

var takenOut = []string{"spilled", "dropped", "removed"}

func (x *TakenOut) refused(_ *Weighout, l *load, _ Entry) error {
	switch {
	case !slices.Contains(takenOut, x.What):
		return entry.Refuse(entry.Wrong, "taken_out.what", "spilled, dropped or removed")
	case !x.Grams.IsPositive() || x.Grams.Exact().Cmp(l.bowl()) > 0:
		return entry.Refuse(entry.Wrong, "taken_out.grams", "above zero, and no more than the %s g in the bowl",
			l.bowl().Grams())
	case field.Letters(x.Reason) == 0:
		return entry.Refuse(entry.Wrong, "taken_out.reason", "say what happened")
	}
	return nil
}

func (x *Added) refused(w *Weighout, l *load, _ Entry) error {
	switch {
	case !slices.Contains(AddedFor, x.Purpose):
		return entry.Refuse(entry.Wrong, "added.purpose", "thicker, thinner, salt, acid, heat or leftover")
	case (x.Purpose == Leftover) != (x.Ingredient == ""):
		return entry.Refuse(entry.Wrong, "added.ingredient", "choose what goes in")
	case !x.Grams.IsPositive():
		return entry.Refuse(entry.Wrong, "added.grams", "grams above zero")
	case x.Purpose != Leftover && !w.allDone(l):
		return entry.Refuse(entry.NotReady, "", "Additions come after the last line of load %d.", l.no)
	}
	if err := w.waits(l); err != nil {
		return err
	}
	return w.fits(l, "added.grams", x.Grams.Exact())
}

// errands are what is asked of a load: those done once belong to the first. A clean-down that was not done before
// something went in is asked no more: what the vessel carried is in it, and on its label.
func (w *Weighout) errands(l *load) []Errand {
	return slices.DeleteFunc(slices.Clone(w.p.Errands), func(e Errand) bool {
		_, done := l.ticks[e.Key]
		return e.Once && l.no > 1 || e.Key == CleanDown && !done && l.begun()
	})
}

func (w *Weighout) refusesErrand(l *load, field, key string) error {
	if !slices.ContainsFunc(w.errands(l), func(e Errand) bool { return e.Key == key }) {
		return entry.Refuse(entry.Wrong, field, "this is not asked of load %d", l.no)
	}
	return nil
}

// begun reports whether anything was weighed into a load.
func (l *load) begun() bool { return l.bowl().IsPositive() }

// missing is what a load lacks before it is closed.
func (w *Weighout) missing(l *load) []string {
	var out []string
	for i := range l.lines {
		name := w.targets[i].Name
		switch w.stands(l, i) {
		case LineOpen:
			out = append(out, "the weight of "+name)
		case LineTaste:
			out = append(out, "tasting, and the rest of "+name)
		case LineOver:
			out = append(out, "what becomes of the over-pour of "+name)
		}
	}
	for _, e := range w.errands(l) {
		if _, done := l.ticks[e.Key]; !done {
			out = append(out, e.Text)
		}
	}
	return out
}
