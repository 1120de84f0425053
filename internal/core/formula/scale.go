package formula

import (
	"fmt"
	"math"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
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
		case g.Has(pantry.FlagSugar) && percents[i].Float() > sugarThatPreserves:
			why = "over 5 % of sugar preserves"
		default:
			continue
		}
		errs = append(errs, pantry.FieldError{Field: fmt.Sprintf("lines[%d].scale_exponent", i),
			Message: "this line grows with the batch: " + why})
	}
	return errs
}

// AtSize returns the version at a batch of that many grams in. Lines grow linearly, or with their exponent; one common
// ratio makes them add up, so that the rest takes what a line that scales less leaves.
func (v Version) AtSize(in amount.Exact) Version {
	out := v
	out.Lines = make([]Line, len(v.Lines))
	copy(out.Lines, v.Lines)
	total := v.GramsIn()
	if !total.IsPositive() || !in.IsPositive() {
		return out
	}
	out.WaterDrivenOff = v.WaterDrivenOff.Exact().Times(in.Over(total.Exact())).Grams()
	for i, g := range amount.SpreadToDivision(v.Sized(in), amount.Grams{}) {
		out.Lines[i].Grams = g
	}
	return out
}

// Sized returns the grams of each line at a batch of that many grams in, not rounded. The version has grams.
func (v Version) Sized(in amount.Exact) []amount.Exact {
	out := make([]amount.Exact, len(v.Lines))
	if !v.ScalesLess() {
		linear := in.Over(v.GramsIn().Exact())
		for i, l := range v.Lines {
			out[i] = l.Grams.Exact().Times(linear)
		}
		return out
	}
	ratio, rest, largest := v.commonRatio(in.Float()), in, 0
	for i, l := range v.Lines {
		out[i] = amount.ExactFloat(l.Grams.Float() * math.Pow(ratio, l.Exponent())).Round(6)
		rest = rest.Minus(out[i])
		if l.Grams.Cmp(v.Lines[largest].Grams) > 0 {
			largest = i
		}
	}
	out[largest] = out[largest].Plus(rest) // the powers are rounded; what that leaves over goes to the largest line
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
