package judge

import (
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
)

// Stated is the net quantity on a label, in "g" or "ml".
type Stated struct {
	Amount float64
	Unit   string
}

// grams converts a quantity in the label's unit to grams of a version.
func (s Stated) grams(x float64, v formula.Version) amount.Grams {
	if s.Unit == "ml" {
		x *= v.DensityGPerML
	}
	return amount.G(x)
}

// NetRule is what the label's law asks of the net weights of a version's jars that are filled by so much over, in
// grams. Where the law leaves the variation to a table that is entered, it is the shop's own, with its source.
func NetRule(v formula.Version, over amount.Percent, s Stated, own []law.ShortStep, source string,
	under *law.Law) bench.NetRule {
	r := bench.NetRule{Nominal: v.NetGrams(), Twice: under.Shortage.Twice, Source: under.Shortage.Source}
	if s.Unit == "ml" {
		r.Nominal = s.grams(s.Amount, v)
	}
	r.Aim = v.NetGrams().Minus(v.FillGrams).Plus(v.FillGrams.Exact().Times(amount.More(over)).Grams())
	steps := under.Shortage.Steps
	if len(steps) == 0 && len(own) > 0 {
		steps = own
		r.Source += "; " + source
	}
	if short, ok := law.Allowed(steps, s.Amount); ok {
		r.Short = s.grams(short, v)
	}
	return r
}

// Overfill is by how much over jars of a version are planned: the version's own, or more since somebody raised what
// they are filled to, in grams with what goes on top.
func Overfill(v formula.Version, aim amount.Grams) amount.Percent {
	bowl := aim.Minus(v.NetGrams().Minus(v.FillGrams))
	if !v.FillGrams.IsPositive() || bowl.Cmp(v.JarGrams().Grams()) <= 0 {
		return v.OverfillPercent
	}
	return bowl.Minus(v.FillGrams).Exact().Over(v.FillGrams.Exact()).Round(4).Percent()
}
