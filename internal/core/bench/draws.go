package bench

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/field"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/people"
)

// Draw is what a weighing took from one lot. Grams count as the line went into the bowl; Taken counts the lot's own
// grams, which are more if a preparation lies between. Reason is an owner's for using a barred lot, and Over is the bar
// that it sets aside.
type Draw struct {
	Lot        int64        `json:"lot"`
	Code       string       `json:"code"`
	Ingredient string       `json:"ingredient,omitempty"` // of an "any of" line: which of it
	Grams      amount.Grams `json:"grams"`
	Taken      amount.Grams `json:"taken_g"`
	Step       string       `json:"step,omitempty"` // the preparation between, if any
	Out        string       `json:"out,omitempty"`  // what the step made of it
	Reason     string       `json:"reason,omitempty"`
	Over       string       `json:"over,omitempty"`
	At         *time.Time   `json:"at,omitempty"` // when it was taken, where a correction came later
}

// dayIn returns the shop's day at a time.
func dayIn(at time.Time, zone *time.Location) day.Day {
	if zone == nil {
		zone = time.UTC
	}
	return day.Of(at.In(zone))
}

// taken returns when a draw was taken, given when its weighing was written down.
func (d Draw) taken(entered time.Time) time.Time {
	if d.At != nil {
		return *d.At
	}
	return entered
}

// Complete stores with each draw that has a reason what the reason sets aside. A correction does not change when a lot
// was drawn, nor over which bar.
func (w *Weighing) Complete(known map[int64]lots.Facts, now time.Time, zone *time.Location, before Entry) {
	completeDraws(w.Draws, w.Correction, known, now, zone, before)
}

// Complete stores with each draw of a capture that has a reason what the reason sets aside.
func (c *Capture) Complete(known map[int64]lots.Facts, now time.Time, zone *time.Location) {
	completeDraws(c.Draws, false, known, now, zone, Entry{})
}

// Complete stores with each draw of an addition that has a reason what the reason sets aside.
func (a *Added) Complete(known map[int64]lots.Facts, now time.Time, zone *time.Location) {
	completeDraws(a.Draws, false, known, now, zone, Entry{})
}

func completeDraws(draws []Draw, correction bool, known map[int64]lots.Facts, now time.Time, zone *time.Location,
	before Entry) {
	was, _ := before.Body.(*Weighing)
	for i := range draws {
		d := &draws[i]
		d.At, d.Over, d.Reason = nil, "", strings.TrimSpace(d.Reason)
		if correction && was != nil {
			at := slices.IndexFunc(was.Draws, func(o Draw) bool { return o.Lot == d.Lot })
			if at >= 0 {
				when := was.Draws[at].taken(before.At)
				d.At, d.Over = &when, was.Draws[at].Over
				if d.Reason == "" {
					d.Reason = was.Draws[at].Reason
				}
				continue
			}
		}
		if d.Over = known[d.Lot].WhyNot(dayIn(now, zone)); d.Over == "" {
			d.Reason = ""
		}
	}
}

// Before returns the weighing of a line that counts so far; its body is nil if there is none.
func (f *Fold) Before(line string) Entry {
	e, _ := f.poured[line].asWeighing()
	return e
}

// refusesDraws refuses lots that may not go into the bowl, unless an owner says why they do, and grams that do not add
// up.
func (f *Fold) refusesDraws(e Entry, of string, draws []Draw, grams amount.Grams) error {
	if len(draws) == 0 {
		return nil
	}
	for i, d := range draws {
		at := fmt.Sprintf("%s.draws[%d].", of, i)
		known, ok := f.n.Lots[d.Lot]
		switch {
		case !ok:
			return entry.Refuse(entry.Wrong, at+"code", "there is no such lot")
		case !d.Grams.IsPositive():
			return entry.Refuse(entry.Wrong, at+"grams", "grams above 0 of %s", d.Code)
		case slices.ContainsFunc(draws[:i],
			func(o Draw) bool { return o.Lot == d.Lot && o.Ingredient == d.Ingredient }):
			return entry.Refuse(entry.Wrong, at+"code", "%s is named twice", d.Code)
		}
		if d.At != nil {
			continue // a correction of what was taken before
		}
		why := known.WhyNot(dayIn(e.At, f.n.Bounds.Zone))
		if why == "" {
			continue
		}
		if !e.Role.May(people.Owner) {
			return entry.Refuse(entry.Wrong, at+"code", "%s is not used: %s. An owner may use it with a reason",
				d.Code, why)
		}
		if field.Letters(d.Reason) < leastCause {
			return entry.Refuse(entry.Wrong, at+"reason",
				"%s: %s. Say in at least %d letters why it is used all the same", d.Code, why, leastCause)
		}
	}
	if sum := sumDraws(draws); sum != grams {
		return entry.Refuse(entry.Wrong, of+".draws", "the lots add up to %s g, not to %s g", sum, grams)
	}
	return nil
}

// draw fills a line's state from its lots: their codes, their end, whether the kill step is proven, and what bars them
// now.
func (s *LineState) draw(w *Weighing, at time.Time, n Needs) {
	s.Draws = w.Draws
	codes := make([]string, len(w.Draws))
	s.KillStep, s.NeedsKill, s.NeedsDate = true, false, false
	for i, d := range w.Draws {
		codes[i] = d.Code
		f, known := n.Lots[d.Lot]
		if !known {
			s.Barred = append(s.Barred, d.Code+": it is not in the book")
			continue
		}
		if end := f.Binds(); end != "" && (s.UseBy == "" || end < s.UseBy) {
			s.UseBy = end
		}
		if f.NeedsEnd {
			s.NeedsDate = true
			s.undated = s.undated || f.Ends == ""
		}
		if f.NeedsProof && !n.NoKillStep {
			s.NeedsKill = true
			s.KillStep = s.KillStep && proven(f, d.taken(at))
		}
		if why := f.WhyNot(dayIn(d.taken(at), n.Bounds.Zone)); why != "" && why != d.Over {
			s.Barred = append(s.Barred, fmt.Sprintf("%s of %s: %s", d.Code, f.Name, why))
		}
	}
	s.Lot = strings.Join(codes, ", ")
	s.KillStep = s.KillStep && s.NeedsKill
}

// proven reports whether a lot's kill step covers what was taken at a time.
func proven(f lots.Facts, at time.Time) bool {
	if f.Proof == "" || f.ProofFrom == "" {
		return f.Proof != ""
	}
	from, err := time.Parse(time.RFC3339Nano, f.ProofFrom)
	return err == nil && !at.Before(from)
}

// Took is what a batch took from a lot for a line.
type Took struct {
	Line  string
	Lot   int64
	Entry int64
	Grams amount.Grams
}

// Draws returns what the record's lines took from lots, in the order of the lines. Outputs that one preparation makes
// from the same pieces, such as juice and zest, take the greater need and not the sum (handbook 02).
func (r *Record) Draws() []Took {
	type pieces struct {
		lot  int64
		step string
	}
	var out []Took
	made := map[pieces]map[string]amount.Grams{} // by what came out
	add := func(line string, entry int64, draws []Draw) {
		for _, d := range draws {
			t := Took{line, d.Lot, entry, d.Taken}
			if d.Step != "" {
				of := pieces{d.Lot, d.Step}
				if made[of] == nil {
					made[of] = map[string]amount.Grams{}
				}
				before := greatest(made[of])
				made[of][d.Out] = made[of][d.Out].Plus(d.Taken)
				t.Grams = greatest(made[of]).Minus(before)
			}
			out = append(out, t)
		}
	}
	for _, l := range r.Lines {
		add(l.Line, l.Entry, slices.Concat(l.Draws, l.Wasted))
	}
	for _, a := range r.allAdded {
		add(AddedLineID(a.entry.ID), a.entry.ID, a.Draws)
	}
	return r.less(out)
}

func greatest(of map[string]amount.Grams) amount.Grams {
	most := amount.Grams{}
	for _, g := range of {
		if g.Cmp(most) > 0 {
			most = g
		}
	}
	return most
}
