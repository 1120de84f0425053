package app

import (
	"fmt"
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// AimedAt is what jars of a version are filled to since a batch, and why.
type AimedAt struct {
	Grams  amount.Grams `json:"grams"`
	Reason string       `json:"reason"`
	Batch  int64        `json:"batch"`
	Code   string       `json:"code"`
	By     string       `json:"by"`
}

// netRule is what the label's law asks of the net weights of a version's jars, in grams. Where the law leaves the
// variation to a table that is entered, it is the shop's.
func netRule(v formula.Version, over amount.Percent, s Settings, under *law.Law) bench.NetRule {
	stated, unit := nominal(v)
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
	r.Aim = v.NetGrams().Minus(v.FillGrams).Plus(v.FillGrams.Exact().Times(over.More()).Grams())
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
func (l loaded) gramsIn() amount.Grams {
	made := asWeighed(l.version, l.record)
	in := made.GramsIn().Minus(made.WaterDrivenOff)
	for _, x := range l.record.Added {
		if x.Purpose == bench.Leftover {
			in = in.Plus(x.Grams)
		}
	}
	for i := len(l.version.Lines); i < len(l.record.Lines); i++ { // what goes onto the jars fills them too
		in = in.Plus(*l.record.Lines[i].Actual)
	}
	return in
}

// balance is where the grams of a batch went, by the jars that were weighed or else by its label; nil before it was
// weighed and filled.
func (l loaded) balance(c *bench.Counted) *bench.Balance {
	f := l.record.Fill
	if !l.record.Weighed || f == nil {
		return nil
	}
	mean := l.version.NetGrams()
	if n := l.record.Net; n != nil {
		mean = n.Mean
	}
	b := bench.BalanceOf(l.gramsIn(), l.record.TakenOut, l.record.Elsewhere(), mean, f.Jars+f.Rejected, c)
	return &b
}

// unexplained is what stands in the way of a release by the balance; empty where nothing does.
func (l loaded) unexplained() string {
	c := l.record.Counted
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
func (l loaded) checkCounted(c *bench.Counted) error {
	c.Reason = strings.TrimSpace(c.Reason)
	if err := atMost("counted.reason", c.Reason, 500); err != nil {
		return err
	}
	b := l.balance(c)
	switch {
	case b == nil:
		return nil // the release asks for the weights first, and then looks again
	case b.Impossible:
		return field("counted",
			"the jars, what was left over and the samples come to %s g more than was weighed: weigh jars "+
				"again, count again, or weigh in what is missing", amount.Grams{}.Minus(b.Unexplained))
	case b.AsksReason && c.Reason == "":
		return field("counted.reason", "%s g of %s g are missing, %s %%: say where they went", b.Unexplained, b.In,
			b.Share)
	}
	return nil
}

// checkNetWeights refuses what is no list of jars.
func checkNetWeights(x *bench.NetWeights) error {
	x.Scale = strings.TrimSpace(x.Scale)
	return atMost("net_weights.scale", x.Scale, 100)
}

func checkAimed(x *bench.Aimed) error {
	x.Reason = strings.TrimSpace(x.Reason)
	return atMost("aimed.reason", x.Reason, 300)
}

// asAimed is the overfill with which jars of a version are planned: the version's, or more since somebody raised what
// they are filled to.
func asAimed(v formula.Version, aim AimedAt) amount.Percent {
	own := v.OverfillPercent
	bowl := aim.Grams.Minus(v.NetGrams().Minus(v.FillGrams))
	if !v.FillGrams.IsPositive() || bowl.Cmp(v.JarGrams().Grams()) <= 0 {
		return own
	}
	return bowl.Minus(v.FillGrams).Exact().Over(v.FillGrams.Exact()).Round(4).Percent()
}

// checkAllowable refuses a table of variations that is none.
func (s Settings) checkAllowable() []pantry.FieldError {
	var errs []pantry.FieldError
	bad := func(at, message string) { errs = append(errs, pantry.FieldError{Field: at, Message: message}) }
	before := 0.0
	for i, step := range s.Allowable {
		at := fmt.Sprintf("allowable.%d", i)
		switch {
		case !(step.To > before && step.To <= 100_000):
			bad(at, "the steps rise, up to 100 kg")
		case (step.Fixed > 0) == (step.Percent > 0):
			bad(at, "a share or an amount, one of them")
		case !(step.Percent >= 0 && step.Percent <= 50 && step.Fixed >= 0 && step.Fixed < step.To):
			bad(at, "less than the jar holds")
		}
		before = step.To
	}
	if n := len([]rune(strings.TrimSpace(s.AllowableSource))); len(s.Allowable) > 0 && (n == 0 || n > 200) {
		bad("allowable_source", "say where the table stands, in at most 200 characters")
	}
	return errs
}
