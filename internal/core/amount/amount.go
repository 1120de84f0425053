// Package amount holds the quantities of the kitchen and the shop. What is weighed, typed, priced and stored is a whole
// number of a small unit (Grams, Millilitres, Money, Quantity, Percent, Minutes), so that a sum on paper and a sum on
// screen agree. What is worked out of them (a rate per gram, a share of a batch) is an Exact, a rational number that is
// never rounded between steps; it is rounded once, where it is shown. Chemistry elsewhere uses float64.
package amount

import (
	"math"
	"slices"
)

// MaxGrams is the largest mass in grams that a line, pack or batch may carry: 10 000 kg (handbook 02, bad input).
const MaxGrams = 10_000_000

// MaxMoney bounds a price so that a slipped key is noticed.
const MaxMoney = 10_000_000

// Fixed is a decimal number of a unit with a fixed number of places, held as a whole number of its least steps, so that
// a sum is exact. Two of different units do not mix. The zero value is nothing.
type Fixed[U Kind] struct{ steps int64 }

// Kind is what a Fixed is of: an array of nothing that is as long as the unit has decimal places, so that the compiler
// knows them.
type Kind interface {
	~[3]struct{} | ~[4]struct{} | ~[6]struct{}
}

type (
	gram       [3]struct{}
	millilitre [3]struct{}
	coin       [6]struct{}
	each       [3]struct{}
	percent    [4]struct{}
	minute     [3]struct{}
)

type (
	// Grams is a mass, to the milligram.
	Grams = Fixed[gram]
	// Millilitres is a volume, to the microlitre.
	Millilitres = Fixed[millilitre]
	// Money is an amount in the shop's one currency, to a millionth. What a gram or a jar costs is an Exact.
	Money = Fixed[coin]
	// Quantity is what a pack holds, in the pack's own unit (grams, millilitres or pieces), to a thousandth.
	Quantity = Fixed[each]
	// Percent is a typed or shown percentage, to a ten-thousandth of a percent.
	Percent = Fixed[percent]
	// Minutes is a time of hands or machines, to a thousandth of a minute.
	Minutes = Fixed[minute]
)

const (
	thousand = 1_000
	million  = 1_000_000
)

// places is how many decimal places a unit has.
func places[U Kind]() int {
	var u U
	return len(u)
}

// rounded is the nearest a float comes to in steps.
func rounded[U Kind](x float64) Fixed[U] { return Fixed[U]{nearest(x * float64(powers[places[U]()]))} }

// must reads a plain decimal; it panics on a malformed constant and is meant for constants and fixtures.
func must[U Kind](s string) Fixed[U] { return Fixed[U]{mustFixed(s, places[U]())} }

// G rounds a float of grams to the milligram, for results of float computations.
func G(g float64) Grams { return rounded[gram](g) }

// MustGrams reads plain decimal grams; it panics on a malformed constant and is meant for constants and fixtures.
func MustGrams(s string) Grams { return must[gram](s) }

// ML rounds a float of millilitres to the microlitre.
func ML(ml float64) Millilitres { return rounded[millilitre](ml) }

// MustMoney reads plain decimal money; it panics on a malformed constant and is meant for constants and fixtures.
func MustMoney(s string) Money { return must[coin](s) }

// MustQuantity reads a plain decimal; it panics on a malformed constant and is meant for constants and fixtures.
func MustQuantity(s string) Quantity { return must[each](s) }

// Pct rounds a float of percent.
func Pct(p float64) Percent { return rounded[percent](p) }

// Min rounds a float of minutes.
func Min(m float64) Minutes { return rounded[minute](m) }

// nearest rounds half away from zero, shielded against binary fractions; what no int64 holds becomes the nearest end.
func nearest(x float64) int64 {
	x = math.Round(x + math.Copysign(1e-7, x))
	switch {
	case x >= math.MaxInt64:
		return math.MaxInt64
	case x <= math.MinInt64:
		return math.MinInt64
	case math.IsNaN(x):
		return 0
	}
	return int64(x)
}

// Milligrams is a mass of so many milligrams.
func Milligrams(mg int64) Grams { return Grams{mg} }

// Steps is the amount in whole least steps, as it is stored where amounts are summed: milligrams of a mass.
func (x Fixed[U]) Steps() int64 { return x.steps }

// Plus is the sum.
func (x Fixed[U]) Plus(y Fixed[U]) Fixed[U] { return Fixed[U]{x.steps + y.steps} }

// Minus is the difference.
func (x Fixed[U]) Minus(y Fixed[U]) Fixed[U] { return Fixed[U]{x.steps - y.steps} }

// Times is n such.
func (x Fixed[U]) Times(n int) Fixed[U] { return Fixed[U]{x.steps * int64(n)} }

// Cmp orders amounts: -1, 0 or 1.
func (x Fixed[U]) Cmp(y Fixed[U]) int { return order(x.steps, y.steps) }

// IsPositive reports whether there is any.
func (x Fixed[U]) IsPositive() bool { return x.steps > 0 }

// IsNegative reports whether it is below nothing.
func (x Fixed[U]) IsNegative() bool { return x.steps < 0 }

// IsZero reports whether there is none.
func (x Fixed[U]) IsZero() bool { return x.steps == 0 }

// Abs is the amount without its sign.
func (x Fixed[U]) Abs() Fixed[U] { return Fixed[U]{max(x.steps, -x.steps)} }

// Whole rounds to whole units, half away from zero.
func (x Fixed[U]) Whole() Fixed[U] { return Fixed[U]{roundTo(x.steps, powers[places[U]()])} }

// Exact is the amount in its unit for further arithmetic: 2.5 for 2.5 %.
func (x Fixed[U]) Exact() Exact { return Ratio(x.steps, powers[places[U]()]) }

// Float is the amount in its unit for chemistry, ratios and drawings.
func (x Fixed[U]) Float() float64 { return float64(x.steps) / float64(powers[places[U]()]) }

func (x Fixed[U]) String() string { return string(appendFixed(nil, x.steps, places[U](), true)) }

// Fixed writes the amount with so many places, half up.
func (x Fixed[U]) Fixed(places int) string { return x.Exact().Fixed(places) }

// VolumeOf is what a mass fills at a density in g/mL, which must be above zero.
func VolumeOf(g Grams, density float64) Millilitres { return ML(g.Float() / density) }

// Share is a percentage as a part of one.
func Share(p Percent) Exact { return Ratio(p.steps, million) }

// Rest is what a percentage leaves of one.
func Rest(p Percent) Exact { return Ratio(million-p.steps, million) }

// More is one and a percentage on top.
func More(p Percent) Exact { return Ratio(million+p.steps, million) }

func order(a, b int64) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

// roundTo rounds half away from zero to whole multiples of unit.
func roundTo(n, unit int64) int64 {
	half := unit / 2
	if n < 0 {
		return (n - half) / unit * unit
	}
	return (n + half) / unit * unit
}

// Sum adds masses.
func Sum(grams []Grams) Grams {
	total := Grams{}
	for _, g := range grams {
		total = total.Plus(g)
	}
	return total
}

// HalfUp rounds half away from zero to the given decimal places, as every figure on a label or a screen is rounded.
// Twelve places are taken first, so that 0.285 stored as 0.28499999… still counts as a half.
func HalfUp(x float64, places int) float64 {
	return ExactFloat(x).Round(12).Round(places).Float()
}

// Shown writes a float rounded half up with so many places.
func Shown(x float64, places int) string { return ExactFloat(x).Round(12).Fixed(places) }

// percentUnit is the step of PercentShares: 0.01 % in millionths.
const percentUnit = 100

// PercentShares returns each mass as a percent of their sum, to 0.01, adding to exactly 100.00
// by the largest-remainder method (handbook 03). All zero when the sum is not positive or a mass is negative.
func PercentShares(grams []Grams) []Percent {
	out := make([]Percent, len(grams))
	total := Sum(grams).steps
	if total <= 0 || slices.ContainsFunc(grams, Grams.IsNegative) {
		return out
	}
	const units = 10_000 // hundredths of a percent in 100 %
	rests := make([]int64, len(grams))
	byRest := make([]int, len(grams))
	given := int64(0)
	for i, g := range grams {
		whole, rest := mulDiv(g.steps, units, total)
		given += whole
		out[i] = Percent{whole * percentUnit}
		rests[i], byRest[i] = rest, i
	}
	slices.SortStableFunc(byRest, func(a, b int) int { return order(rests[b], rests[a]) })
	for k := 0; given < units && k < len(byRest); k++ {
		out[byRest[k]].steps += percentUnit
		given++
	}
	return out
}

// SpreadToDivision rounds parts in grams to whole divisions of a scale so that they add up to the total rounded the
// same way; what rounding leaves over goes to the largest part (handbook 03). Without a division parts are rounded to
// the milligram.
func SpreadToDivision(parts []Exact, division Grams) []Grams {
	if !division.IsPositive() {
		division = Grams{1}
	}
	out := make([]Grams, len(parts))
	if len(parts) == 0 {
		return out
	}
	biggest, sum, total := 0, Grams{}, Exact{}
	for i, p := range parts {
		out[i] = p.divisions(division)
		sum = sum.Plus(out[i])
		total = total.Plus(p)
		if p.Cmp(parts[biggest]) > 0 {
			biggest = i
		}
	}
	out[biggest] = out[biggest].Plus(total.divisions(division).Minus(sum))
	return out
}
