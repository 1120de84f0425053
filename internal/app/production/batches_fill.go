package production

import (
	"fmt"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
)

// netRule is what the label's law asks of the net weights of a version's jars, in grams. Where the law leaves the
// variation to a table that is entered, it is the shop's.
func netRule(v formula.Version, over amount.Percent, s kernel.Settings, under *law.Law) bench.NetRule {
	stated, unit := kernel.Nominal(v)
	inGrams := func(x float64) amount.Grams {
		if unit == "ml" {
			x *= v.DensityGPerML
		}
		return amount.G(x)
	}
	r := bench.NetRule{Nominal: v.NetGrams(), Twice: under.Shortage.Twice, Source: under.Shortage.Source}
	if unit == "ml" {
		r.Nominal = inGrams(stated)
	}
	r.Aim = v.NetGrams().Minus(v.FillGrams).Plus(v.FillGrams.Exact().Times(amount.More(over)).Grams())
	steps := under.Shortage.Steps
	if len(steps) == 0 {
		if steps = s.Allowable; len(steps) > 0 {
			r.Source += "; " + s.AllowableSource
		}
	}
	if short, ok := law.Allowed(steps, stated); ok {
		r.Short = inGrams(short)
	}
	return r
}

// gramsIn are the grams that a batch had for its jars: what was weighed, less the water that was driven off, with what
// an owner put in from a batch before and what goes onto the jars. Spills are in it.
func (l Loaded) gramsIn() amount.Grams {
	made := AsWeighed(l.Version, l.Record)
	in := made.GramsIn().Minus(made.WaterDrivenOff)
	for _, x := range l.Record.Added {
		if x.Purpose == bench.Leftover {
			in = in.Plus(x.Grams)
		}
	}
	for i := len(l.Version.Lines); i < len(l.Record.Lines); i++ { // what goes onto the jars fills them too
		in = in.Plus(*l.Record.Lines[i].Actual)
	}
	return in
}

// balance is where the grams of a batch went, by the jars that were weighed or else by its label; nil before it was
// weighed and filled.
func (l Loaded) balance(c *bench.Counted) *bench.Balance {
	f := l.Record.Fill
	if !l.Record.Weighed || f == nil {
		return nil
	}
	mean := l.Version.NetGrams()
	if n := l.Record.Net; n != nil {
		mean = n.Mean
	}
	b := bench.BalanceOf(l.gramsIn(), l.Record.TakenOut, l.Record.Elsewhere(), mean, f.Jars+f.Rejected, c)
	return &b
}

// unexplained is what stands in the way of a release by the balance; empty where nothing does.
func (l Loaded) unexplained() string {
	c := l.Record.Counted
	b := l.balance(c)
	switch {
	case c == nil || b == nil:
		return ""
	case b.Impossible:
		return fmt.Sprintf("the grams: the jars hold %s g more than was weighed", amount.Grams{}.Minus(b.Unexplained))
	case b.AsksReason && c.Reason == "":
		return fmt.Sprintf("the reason why %s %% of the grams are missing", b.Share)
	}
	return ""
}

// checkCounted asks where the grams went.
func (l Loaded) checkCounted(c *bench.Counted) error {
	b := l.balance(c)
	switch {
	case b == nil:
		return nil // the release asks for the weights first, and then looks again
	case b.Impossible:
		return kernel.Mistake("counted",
			"the jars, what was left over and the samples come to %s g more than was weighed: weigh jars "+
				"again, count again, or weigh in what is missing", amount.Grams{}.Minus(b.Unexplained))
	case b.AsksReason && c.Reason == "":
		return kernel.Mistake("counted.reason", "%s g of %s g are missing, %s %%: say where they went", b.Unexplained,
			b.In,
			b.Share)
	}
	return nil
}

// asAimed is the overfill with which jars of a version are planned: the version's, or more since somebody raised what
// they are filled to.
func asAimed(v formula.Version, aim kernel.AimedAt) amount.Percent {
	own := v.OverfillPercent
	bowl := aim.Grams.Minus(v.NetGrams().Minus(v.FillGrams))
	if !v.FillGrams.IsPositive() || bowl.Cmp(v.JarGrams().Grams()) <= 0 {
		return own
	}
	return bowl.Minus(v.FillGrams).Exact().Over(v.FillGrams.Exact()).Round(4).Percent()
}
