package bench

import (
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/field"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
)

// Lacking is an allergen that a change brought and the labels of jars that are out lack; How is empty until somebody
// has dealt with them (handbook 08).
type Lacking struct {
	Change int64     `json:"change"`
	Lacks  string    `json:"lacks"`
	Since  time.Time `json:"since"`
	How    string    `json:"how,omitempty"`
	By     string    `json:"by,omitempty"`
	At     time.Time `json:"at,omitzero"`
	Told   string    `json:"told,omitempty"`
	Reason string    `json:"reason,omitempty"`
}

// Lacks names what the labels of jars that are out still lack; empty once all is dealt with.
func (r *Record) Lacks() string {
	var out []string
	for _, w := range r.Words {
		if w.How == "" && !slices.Contains(out, w.Lacks) {
			out = append(out, w.Lacks)
		}
	}
	return strings.Join(out, ", ")
}

// OnlyWords reports whether the batch is called back for its labels alone, so that correct ones may be printed for it.
func (r *Record) OnlyWords() bool {
	if r.State != CalledBack || r.Lacks() == "" || r.DecideAt == nil {
		return false
	}
	return !slices.ContainsFunc(r.Recalled, func(x Recalled) bool {
		return x.At.After(*r.DecideAt) && !slices.ContainsFunc(r.Words,
			func(w Lacking) bool { return w.Since.Equal(x.At) })
	})
}

func (f *Fold) lack(e Entry, x *Recall) {
	if x.Change == 0 || slices.ContainsFunc(f.r.Words, func(w Lacking) bool { return w.Change == x.Change }) {
		return
	}
	f.lacking[x.Change] = e.ID
	f.r.Words = append(f.r.Words, Lacking{Change: x.Change, Lacks: x.Lacks, Since: e.At})
}

func (f *Fold) makeGood(e Entry, x *MadeGood) {
	for i := range f.r.Words {
		if w := &f.r.Words[i]; w.Change == x.Change && w.How == "" {
			w.How, w.By, w.At, w.Told, w.Reason = x.How, e.By, e.At, x.Told, x.Reason
		}
	}
}

func (f *Fold) refusesMadeGood(e Entry, x *MadeGood) error {
	open := slices.ContainsFunc(f.r.Words, func(w Lacking) bool { return w.Change == x.Change && w.How == "" })
	switch {
	case !e.Role.May(people.Owner):
		return entry.Refuse(entry.NotYours, "", "Only an owner says what became of jars whose words lack an allergen.")
	case !open:
		return entry.Refuse(entry.Closed, "",
			"Nothing is open here by that change; somebody may have dealt with it meanwhile.")
	case !slices.Contains([]string{Relabelled, Withdrawn, Gone, Unaffected}, x.How):
		return entry.Refuse(entry.Wrong, "made_good.how", "relabelled, withdrawn, gone or unaffected")
	case field.Letters(x.Reason) < leastCause:
		return entry.Refuse(entry.Wrong, "made_good.reason", "say what was done with the jars, in at least %d letters",
			leastCause)
	case x.How == Gone && field.Letters(x.Told) == 0:
		return entry.Refuse(entry.Wrong, "made_good.told", "which customers were told, and how?")
	case x.How == Gone && field.Letters(x.Authority) == 0:
		return entry.Refuse(entry.Wrong, "made_good.authority", "who of the authority was told; or why nobody?")
	case x.How == Gone && !dayUpTo(x.Day, e.At.In(f.zone())):
		return entry.Refuse(entry.Wrong, "made_good.day", "the day on which they were told, today or before")
	case x.How == Relabelled && !f.printedSince(x.Change):
		return entry.Refuse(entry.Closed, "",
			"No label was printed for this batch since: print the new ones first, then say that "+
				"the jars carry them.")
	}
	return nil
}

func dayUpTo(on day.Day, now time.Time) bool {
	_, err := pantry.ParseDay(on)
	return err == nil && on <= day.Of(now)
}

func (f *Fold) zone() *time.Location {
	if f.n.Bounds.Zone == nil {
		return time.UTC
	}
	return f.n.Bounds.Zone
}

// printedSince reports whether labels were printed since a change was found missing from the jars.
func (f *Fold) printedSince(change int64) bool {
	found, ok := f.lacking[change]
	return ok && f.printed > found
}
