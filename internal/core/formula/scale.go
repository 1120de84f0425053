package formula

import (
	"fmt"
	"math"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"

	"github.com/shopspring/decimal"
)

// sugarThatPreserves is the percent of a formula above which a sugar counts among what preserves (handbook 03).
const sugarThatPreserves = 5.0

// Exponent is how a line grows with the batch: 1 unless it is marked "scales less".
func (l Line) Exponent() float64 {
	if l.ScaleExponent == 0 {
		return 1
	}
	return l.ScaleExponent
}

// ScalesLess reports whether any line grows less than the batch, so that percents depend on its size.
func (v Version) ScalesLess() bool {
	for _, l := range v.Lines {
		if l.Exponent() != 1 {
			return true
		}
	}
	return false
}

// CheckScaling refuses "scales less" on whatever sours or preserves: acids, salt, sugar over 5 %, preservatives
// (handbook 03).
func (l Library) CheckScaling(v Version) []pantry.FieldError {
	var errs []pantry.FieldError
	percents := v.Percents()
	for i, line := range v.Lines {
		if line.Exponent() == 1 {
			continue
		}
		g := l.Ingredients[line.Ingredient]
		why := ""
		switch {
		case g == nil:
			why = "a component scales with the batch"
		case g.HasAny("acidulant", "additive:acidity regulator"):
			why = "it sours"
		case g.HasAny("additive:preservative"):
			why = "it preserves"
		case g.Has(pantry.FlagSalt):
			why = "salt preserves"
		case g.Has(pantry.FlagSugar) && percents[i].InexactFloat64() > sugarThatPreserves:
			why = "over 5 % of sugar preserves"
		default:
			continue
		}
		errs = append(errs, pantry.FieldError{Field: fmt.Sprintf("lines[%d].scale_exponent", i), Message: "this line grows with the batch: " + why})
	}
	return errs
}

// AtSize returns the version at a batch of that many grams in. Lines grow linearly, or with their exponent; one common
// ratio makes them add up, so that the rest takes what a line that scales less leaves.
func (v Version) AtSize(in amount.Grams) Version {
	out := v
	out.Lines = make([]Line, len(v.Lines))
	copy(out.Lines, v.Lines)
	total := v.GramsIn()
	if !total.IsPositive() || !in.IsPositive() {
		return out
	}
	linear := in.DivRound(total.Decimal, 16)
	out.WaterDrivenOff = amount.Grams{Decimal: v.WaterDrivenOff.Mul(linear)}
	if !v.ScalesLess() {
		for i := range out.Lines {
			out.Lines[i].Grams = amount.Grams{Decimal: v.Lines[i].Grams.Mul(linear)}
		}
		return out
	}
	target, ratio := in.Float(), v.commonRatio(in.Float())
	rest := target
	largest := 0
	for i, l := range v.Lines {
		g := l.Grams.Float() * math.Pow(ratio, l.Exponent())
		out.Lines[i].Grams = amount.Grams{Decimal: decimal.NewFromFloat(g).Round(6)}
		rest -= out.Lines[i].Grams.Float()
		if l.Grams.GreaterThan(v.Lines[largest].Grams.Decimal) {
			largest = i
		}
	}
	out.Lines[largest].Grams = amount.Grams{Decimal: out.Lines[largest].Grams.Add(decimal.NewFromFloat(rest).Round(6))}
	return out
}

// commonRatio finds r with sum(g_i r^e_i) = target; the sum grows with r.
func (v Version) commonRatio(target float64) float64 {
	sum := func(r float64) float64 {
		s := 0.0
		for _, l := range v.Lines {
			s += l.Grams.Float() * math.Pow(r, l.Exponent())
		}
		return s
	}
	low, high := 0.0, 1.0
	for sum(high) < target {
		high *= 2
	}
	for range 200 {
		mid := (low + high) / 2
		if sum(mid) < target {
			low = mid
		} else {
			high = mid
		}
	}
	return (low + high) / 2
}
