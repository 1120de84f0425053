// Package costing tells what a jar costs and what it is made of: ingredients, packaging, labour, overhead, and what
// losses carve out of them; what moves it, what to ask for it, and what it really was. Exact inside, never rounded
// between steps (handbook 07).
package costing

import (
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

var (
	minutesInHour = amount.Whole(60)
	gramsInKilo   = amount.Whole(1000)
)

// Terms are what a cost is worked out under.
type Terms struct {
	Rate    Rate
	Made    Made
	Kitchen amount.Money   // hire of a kitchen, by the hour that hands work in it
	Oven    amount.Money   // an hour of the oven
	Day     amount.Minutes // how long a shift is; none: a batch is made in one
	// answers a part of the pack that is bought; may be nil
	Item func(id string) *pantry.Ingredient
	// each figure tells where it comes from
	Told bool
	// an hour of hands, and of kitchen, oven and overhead, so many times what they cost; nothing counts as once
	hands, room amount.Exact
}

// labour is what an hour of hands costs in a version.
func (t Terms) labour(v formula.Version) amount.Exact {
	return v.LabourPerHour.Exact().Times(once(t.hands))
}

func once(factor amount.Exact) amount.Exact {
	if factor.IsPositive() {
		return factor
	}
	return amount.Whole(1)
}

// Made is how a batch is made: in which vessel, and what is kept back for pH samples and retained jars.
type Made struct {
	Vessel  bench.Vessel
	Samples amount.Grams
}

// batch is how much goes into so many jars.
type batch struct {
	asked int
	known bool         // how many jars it fills was said
	jars  amount.Exact // filled
	good  amount.Exact // of them, after those that are rejected
	in    amount.Exact // grams
	mixed amount.Exact // grams after water driven off
	// that can be filled, with what stays in the vessel and goes for samples
	finished amount.Exact
	loads    int
}

// batchOf sizes a batch. Without jars that could be filled it is what the version's own grams give.
func batchOf(v formula.Version, m Made, jars int) batch {
	total := v.GramsIn().Exact()
	b := batch{asked: jars, loads: 1, known: true, in: total}
	ask, err := bench.AskOf(v, jars, bench.Need{Jars: jars, Fill: v.FillGrams, Over: v.OverfillPercent,
		Loss: v.LossPercent, Samples: m.Samples, Vessel: m.Vessel})
	if err == nil {
		b.loads = ask.Loads()
		b.in, b.jars = ask.In(b.loads), amount.Whole(int64(jars))
	} else {
		b.known, b.jars = false, amount.Whole(1)
		if f, jar := v.FinishedGrams(), v.JarGrams(); f.IsPositive() && jar.IsPositive() {
			b.jars = f.Over(jar)
		}
	}
	b.good = b.jars.Times(amount.Rest(v.RejectPercent))
	if total.IsPositive() {
		b.mixed = v.MixedGrams().Exact().Times(b.in).Over(total)
		b.finished = b.mixed.Times(amount.Rest(v.LossPercent))
	}
	return b
}

// grams are those of each line.
func (b batch) grams(v formula.Version) []amount.Exact {
	if !v.GramsIn().IsPositive() {
		return make([]amount.Exact, len(v.Lines))
	}
	return v.Sized(b.in)
}
