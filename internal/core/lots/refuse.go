package lots

import (
	"slices"
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/field"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
)

// Moment is what an act is checked against besides the record: the shop's day and what is left of the lot by the book.
type Moment struct {
	Today day.Day
	There amount.Grams
	Drawn bool // by any batch, or parted
}

// mayAct maps each kind of act to the lowest role that may write it. Helpers take in, count, throw away, roast and
// thaw; makers decide in the safe direction; only owners loosen.
var mayAct = map[string]people.Role{"came_in": people.Helper, "thawed": people.Helper, "counted": people.Helper,
	"roasted": people.Helper, "freed": people.Owner, "compared": people.Owner}

// Refuses returns why an act may not be written down now; nil if it may.
func (f *Fold) Refuses(e Entry, m Moment) error {
	kind := e.Kind()
	least, named := mayAct[kind]
	if !named {
		least = people.Maker
	}
	if !e.Role.May(least) {
		return entry.Refuse(entry.NotYours, "", "This is for %s.",
			map[people.Role]string{people.Helper: "people who work here",
				people.Maker: "a maker or an owner", people.Owner: "an owner"}[least])
	}
	return kinds.Check(f, Act{e, m}, e.Body)
}

func (f *Fold) is(states ...string) bool { return slices.Contains(states, f.l.State) }

func (f *Fold) refusesTurning(_ Act, x *TurnedAway) error {
	if f.is(Refused) {
		return entry.Refuse(entry.Closed, "", "It was refused already, by %s.", f.l.By)
	}
	return because("refused.reason", x.Reason)
}

func (f *Fold) refusesHolding(_ Act, x *Held) error {
	if f.is(OnHold, Refused) {
		return entry.Refuse(entry.Closed, "", "It is %s already.", stateWords[f.l.State])
	}
	return because("held.reason", x.Reason)
}

func (f *Fold) refusesFreeing(_ Act, x *Freed) error {
	if !f.is(OnHold) {
		return entry.Refuse(entry.Closed, "", "It is %s, not on hold.", stateWords[f.l.State])
	}
	return because("freed.reason", x.Reason)
}

func (f *Fold) refusesComparing(_ Act, x *Compared) error {
	if !f.l.Differs {
		return entry.Refuse(entry.Closed, "", "Its list asks for nothing.")
	}
	return because("compared.reason", x.Reason)
}

func (f *Fold) refusesStatement(_ Act, x *Stated) error {
	if n := len([]rune(strings.TrimSpace(x.Statement))); n < leastReason || n > maxText {
		return entry.Refuse(entry.Wrong, "stated.statement",
			"name the statement: its number, its date, where it is kept")
	}
	return nil
}

func (f *Fold) refusesRoast(_ Act, x *Roasted) error {
	if !(x.C >= leastRoastC && x.C <= 300) || !(x.Minutes > 0 && x.Minutes <= 600) {
		return entry.Refuse(entry.Wrong, "roasted.celsius",
			"a roast is between %d and 300 °C, for up to 600 minutes", leastRoastC)
	}
	return nil
}

// leastRoastC is the lowest temperature, in °C, that counts as a roast. Whether a roast kills enough is a matter of the
// maker's own validated process, which the record stores.
const leastRoastC = 100

var stateWords = map[string]string{Waiting: "waiting to be accepted", Open: "in use", OnHold: "on hold",
	Refused: "refused"}

func because(at, reason string) error {
	if field.Letters(reason) < leastReason || len([]rune(reason)) > 500 {
		return entry.Refuse(entry.Wrong, at, "say why, in a few words")
	}
	return nil
}

func (f *Fold) refusesCorrection(e Act, x *Corrected) error {
	m := e.Moment
	if f.l.Kind != Incoming {
		return entry.Refuse(entry.Closed, "", "What is ours comes from the book; it is not corrected here.")
	}
	looser := f.l.CameIn.Looser(x.Received)
	if len(looser) > 0 && (f.l.State != Waiting || m.Drawn) && !e.Role.May(people.Owner) {
		return entry.Refuse(entry.NotYours, "", "It was accepted: only an owner enters %s.", strings.Join(looser, ", "))
	}
	if m.Drawn && f.l.CameIn.Ingredient != x.Ingredient {
		return entry.Refuse(entry.Closed, "corrected.ingredient",
			"batches took from this lot as what it was; put it on hold, and take the delivery in anew as what it is")
	}
	return because("corrected.reason", x.Reason)
}

func (f *Fold) refusesAcceptance(e Act, x *Accepted) error {
	if f.l.State == Open || f.l.State == OnHold {
		return entry.Refuse(entry.Closed, "", "It is %s already.", stateWords[f.l.State])
	}
	var asks []string
	if f.l.State == Refused {
		asks = append(asks, "it was refused")
	}
	if warm := f.l.CameIn.Warm(f.g); warm != "" {
		asks = append(asks, warm)
	}
	if len(asks) == 0 {
		return nil
	}
	why := strings.Join(asks, ", and ")
	if !e.Role.May(people.Owner) {
		return entry.Refuse(entry.NotYours, "", "Only an owner accepts it, with a reason: %s.", why)
	}
	if err := because("accepted.reason", x.Reason); err != nil {
		return entry.Refuse(entry.Wrong, "accepted.reason", "%s: say why it is accepted all the same", why)
	}
	return nil
}

func (f *Fold) refusesCount(e Act, x *Counted) error {
	switch {
	case x.Change.IsZero():
		return entry.Refuse(entry.Wrong, "counted.change_g", "the same as before: nothing to put right")
	case x.Thrown && !x.Change.IsNegative():
		return entry.Refuse(entry.Wrong, "counted.change_g", "what is thrown away is taken off the stock")
	case x.Thrown && e.Moment.There.Plus(x.Change).IsNegative():
		return entry.Refuse(entry.Wrong, "counted.change_g", "only %s g are there by the book; count it first",
			e.Moment.There)
	case x.Change.Float() > amount.MaxGrams || x.Change.Float() < -amount.MaxGrams:
		return entry.Refuse(entry.Wrong, "counted.change_g", "at most 10 000 kg")
	}
	return because("counted.reason", x.Reason)
}

// CanFreeze returns why a part may not be frozen on a day; nil if it may. Ends is the lot's own end.
func (f *Fold) CanFreeze(of Facts, grams amount.Grams, day day.Day, m Moment) error {
	switch {
	case f.l.Froze != nil:
		return entry.Refuse(entry.Closed, "", "It was frozen once: it is never frozen again.")
	case of.Bar != "" && of.State != OnHold: // what is on hold may be frozen; the part is on hold with it
		return entry.Refuse(entry.Closed, "", "Not frozen: %s.", of.Bar)
	case !grams.IsPositive():
		return entry.Refuse(entry.Wrong, "grams", "grams above 0")
	case grams.Cmp(m.There) > 0:
		return entry.Refuse(entry.Wrong, "grams", "only %s g are there by the book; count it first", m.There)
	case f.l.CameIn.Day != "" && day < f.l.CameIn.Day:
		return entry.Refuse(entry.Wrong, "day", "it came in later than that")
	case day > m.Today:
		return entry.Refuse(entry.Wrong, "day", "this day has not come yet")
	case of.Ends != "" && of.Ends < day:
		return entry.Refuse(entry.Closed, "", "Not frozen: it was past its end on that day.")
	}
	return nil
}

func (f *Fold) refusesFreezing(e Act, x *Froze) error {
	if _, err := pantry.ParseDay(x.Day); err != nil || x.Day > e.Moment.Today {
		return entry.Refuse(entry.Wrong, "day", "the day it was frozen, as in 2026-11-25")
	}
	return nil
}

func (f *Fold) refusesThawing(e Act, x *Thawed) error {
	_, err := pantry.ParseDay(x.Day)
	switch {
	case f.l.Froze == nil:
		return entry.Refuse(entry.Closed, "", "It was never frozen.")
	case f.l.Thawed != "":
		return entry.Refuse(entry.Closed, "", "It was thawed already.")
	case err != nil || x.Day > e.Moment.Today:
		return entry.Refuse(entry.Wrong, "thawed.day", "the day it was taken out, as in 2026-11-25")
	case x.Day < f.l.Froze.Day:
		return entry.Refuse(entry.Wrong, "thawed.day", "it was frozen later than that")
	}
	return nil
}

// Twins returns the other lots of an ingredient with the same text from the same supplier.
func Twins(list []Facts, of Facts) []Facts {
	same := func(a, b string) bool {
		return strings.EqualFold(strings.Join(strings.Fields(a), " "), strings.Join(strings.Fields(b), " "))
	}
	return slices.DeleteFunc(slices.Clone(list), func(f Facts) bool {
		return f.ID == of.ID || of.Text == "" || !same(f.Text, of.Text) || !same(f.Supplier, of.Supplier)
	})
}
