package bench

import (
	"math"
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
)

// Split is a part of the bowl that goes into jars of another size, as a batch of its own. Given are what that batch
// took of lots with it, which this one then took less.
type Split struct {
	Batch int64        `json:"batch"`
	Code  string       `json:"code"`
	Name  string       `json:"name"`
	Jars  int          `json:"jars"`
	Grams amount.Grams `json:"grams"`
	Given []Given      `json:"given"`
}

// Given is grams of a lot that a line's draw passed on.
type Given struct {
	Line  string       `json:"line"`
	Lot   int64        `json:"lot"`
	Grams amount.Grams `json:"grams"`
}

// FromBowl begins the record of a batch that is filled from the bowl of another: weighed there, read and decided on its
// own.
type FromBowl struct {
	Batch int64        `json:"batch"`
	Code  string       `json:"code"`
	Grams amount.Grams `json:"grams"`
}

// Elsewhere are the grams of the bowl that went into other jars.
func (r *Record) Elsewhere() amount.Grams {
	sum := amount.Grams{}
	for _, s := range r.Splits {
		sum = sum.Plus(s.Grams)
	}
	return sum
}

// less takes what was passed on off what was taken.
func (r *Record) less(took []Took) []Took {
	for _, s := range r.Splits {
		for _, g := range s.Given {
			left := g.Grams
			for i := range took {
				if took[i].Line != g.Line || took[i].Lot != g.Lot {
					continue
				}
				part := least(left, took[i].Grams)
				took[i].Grams, left = took[i].Grams.Minus(part), left.Minus(part)
			}
		}
	}
	return took
}

func least(a, b amount.Grams) amount.Grams {
	if a.Cmp(b) < 0 {
		return a
	}
	return b
}

// Part is a share of the bowl as acts for the record of a batch that is filled from it: what was weighed, left out,
// added to taste and cooled, on the lines of that batch. Into names those lines by the bowl's own; entries are the
// bowl's.
func (r *Record) Part(share amount.Exact, into map[string]string, code string, entries []Entry) (acts []any,
	given []Given) {
	note := "from the bowl of " + code
	at := map[int64]Entry{}
	for _, e := range entries {
		at[e.ID] = e
	}
	scaled := func(draws []Draw, entry int64) []Draw {
		out := slices.Clone(draws)
		for i := range out {
			when := out[i].taken(at[entry].At)
			out[i].Grams, out[i].Taken = part(out[i].Grams, share), part(out[i].Taken, share)
			out[i].At = &when
		}
		return out
	}
	for _, l := range r.Lines {
		line, ok := into[l.Line]
		switch {
		case !ok:
		case l.LeftOut:
			acts = append(acts, &LeftOut{Load: 1, Line: line, Reason: note})
		case l.Actual != nil:
			w := Weighing{Line: line, Grams: part(*l.Actual, share), Draws: scaled(l.Draws, l.Entry), Note: note}
			for _, u := range l.Used {
				w.Used = append(w.Used, formula.Use{Ingredient: u.Ingredient, Grams: part(u.Grams, share)})
			}
			acts = append(acts, &w)
		}
	}
	for _, a := range r.allAdded {
		if a.wasted {
			continue
		}
		x := a.Added
		x.Load, x.Grams, x.Draws, x.Note = 1, part(a.Grams, share), scaled(a.Draws, a.entry.ID), note
		acts = append(acts, &x)
	}
	return append(acts, cooledInto(into, entries)...), r.given(share)
}

// cooledInto are the readings of cooling logs on the lines of the other batch.
func cooledInto(into map[string]string, entries []Entry) []any {
	var acts []any
	for _, e := range entries {
		if c, ok := e.Body.(*Cooled); ok {
			if line, of := into[c.What]; of {
				acts = append(acts, &Cooled{What: line, Celsius: c.Celsius, At: c.At, Probe: c.Probe})
			}
		}
	}
	return acts
}

func (r *Record) given(share amount.Exact) []Given {
	var given []Given
	for _, t := range r.Draws() {
		if g := part(t.Grams, share); g.IsPositive() {
			given = append(given, Given{Line: t.Line, Lot: t.Lot, Grams: g})
		}
	}
	return given
}

func part(g amount.Grams, share amount.Exact) amount.Grams { return g.Exact().Times(share).Grams() }

// sameShare is by how many percent of the bowl lines of two versions may differ to be of one bowl.
const sameShare = 0.1

// SameBowl matches the lines of a version with those of another that is made the same and may be filled from one bowl:
// by the other's line, the version's own. It is false where a line differs in what it is or in its share.
func SameBowl(of, other formula.Version) (map[string]string, bool) {
	if len(of.Lines) != len(other.Lines) || !of.MixedGrams().IsPositive() || !other.MixedGrams().IsPositive() {
		return nil, false
	}
	share := func(v formula.Version, l formula.Line) float64 { return 100 * l.Grams.Float() / v.MixedGrams().Float() }
	out, taken := map[string]string{}, map[string]bool{}
	for _, l := range of.Lines {
		i := slices.IndexFunc(other.Lines, func(m formula.Line) bool {
			return !taken[m.ID] && sameLine(l, m) && math.Abs(share(of, l)-share(other, m)) <= sameShare
		})
		if i < 0 {
			return nil, false
		}
		taken[other.Lines[i].ID] = true
		out[l.ID] = other.Lines[i].ID
	}
	lost := func(v formula.Version) float64 { return 100 * v.WaterDrivenOff.Float() / v.MixedGrams().Float() }
	return out, math.Abs(lost(of)-lost(other)) <= sameShare
}

func sameLine(a, b formula.Line) bool {
	same := a.Ingredient == b.Ingredient && a.Preparation == b.Preparation && slices.Equal(a.AnyOf, b.AnyOf)
	if a.Component == nil || b.Component == nil {
		return same && a.Component == b.Component
	}
	return same && *a.Component == *b.Component
}
