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

// Grams is a mass, to the milligram. The zero value is no mass.
type Grams struct{ milligrams int64 }

// Millilitres is a volume, to the microlitre.
type Millilitres struct{ microlitres int64 }

// Money is an amount in the shop's one currency, to a millionth. What a gram or a jar costs is an Exact.
type Money struct{ millionths int64 }

// Quantity is what a pack holds, in the pack's own unit (grams, millilitres or pieces), to a thousandth.
type Quantity struct{ thousandths int64 }

// Percent is a typed or shown percentage, to a ten-thousandth of a percent.
type Percent struct{ perMillion int64 }

// Minutes is a time of hands or machines, to a thousandth of a minute.
type Minutes struct{ thousandths int64 }

// Decimal places of each unit.
const (
	gramPlaces    = 3
	moneyPlaces   = 6
	percentPlaces = 4
	minutePlaces  = 3
)

const (
	thousand = 1_000
	million  = 1_000_000
)

// G rounds a float of grams to the milligram, for results of float computations.
func G(g float64) Grams { return Grams{nearest(g * thousand)} }

// GramsOf reads plain decimal grams; it panics on a malformed constant and is meant for constants and fixtures.
func GramsOf(s string) Grams { return Grams{mustFixed(s, gramPlaces)} }

// ML rounds a float of millilitres to the microlitre.
func ML(ml float64) Millilitres { return Millilitres{nearest(ml * thousand)} }

// M reads plain decimal money; it panics on a malformed constant and is meant for constants and fixtures.
func M(s string) Money { return Money{mustFixed(s, moneyPlaces)} }

// QuantityOf reads a plain decimal; it panics on a malformed constant and is meant for constants and fixtures.
func QuantityOf(s string) Quantity { return Quantity{mustFixed(s, gramPlaces)} }

// Pct rounds a float of percent.
func Pct(p float64) Percent { return Percent{nearest(p * 10_000)} }

// Min rounds a float of minutes.
func Min(m float64) Minutes { return Minutes{nearest(m * thousand)} }

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

// Milligrams returns the mass in whole milligrams, as it is stored where masses are summed.
func (g Grams) Milligrams() int64 { return g.milligrams }

// Milligrams is a mass of so many milligrams.
func Milligrams(mg int64) Grams { return Grams{mg} }

// Plus is the sum of two masses.
func (g Grams) Plus(h Grams) Grams { return Grams{g.milligrams + h.milligrams} }

// Minus is the difference of two masses.
func (g Grams) Minus(h Grams) Grams { return Grams{g.milligrams - h.milligrams} }

// Times is the mass of n such.
func (g Grams) Times(n int) Grams { return Grams{g.milligrams * int64(n)} }

// Cmp orders masses: -1, 0 or 1.
func (g Grams) Cmp(h Grams) int { return order(g.milligrams, h.milligrams) }

// IsPositive reports whether there is any mass.
func (g Grams) IsPositive() bool { return g.milligrams > 0 }

// IsNegative reports whether the mass is below nothing.
func (g Grams) IsNegative() bool { return g.milligrams < 0 }

// IsZero reports whether there is none.
func (g Grams) IsZero() bool { return g.milligrams == 0 }

// Abs is the amount without its sign.
func (g Grams) Abs() Grams { return Grams{max(g.milligrams, -g.milligrams)} }

// Exact returns the mass in grams for further arithmetic.
func (g Grams) Exact() Exact { return Ratio(g.milligrams, thousand) }

// Float returns the mass in grams for chemistry.
func (g Grams) Float() float64 { return float64(g.milligrams) / thousand }

func (g Grams) String() string { return fixedText(g.milligrams, gramPlaces) }

// Volume is what the mass fills at a density in g/mL, which must be above zero.
func (g Grams) Volume(density float64) Millilitres { return ML(g.Float() / density) }

// Float returns the volume in mL.
func (v Millilitres) Float() float64 { return float64(v.microlitres) / thousand }

// Whole rounds the volume to whole millilitres.
func (v Millilitres) Whole() Millilitres { return Millilitres{roundTo(v.microlitres, thousand)} }

func (v Millilitres) String() string { return fixedText(v.microlitres, gramPlaces) }

// Plus is the sum of two amounts.
func (m Money) Plus(n Money) Money { return Money{m.millionths + n.millionths} }

// Minus is the difference of two amounts.
func (m Money) Minus(n Money) Money { return Money{m.millionths - n.millionths} }

// Cmp orders amounts: -1, 0 or 1.
func (m Money) Cmp(n Money) int { return order(m.millionths, n.millionths) }

// IsPositive reports whether the amount is above nothing.
func (m Money) IsPositive() bool { return m.millionths > 0 }

// IsNegative reports whether the amount is below nothing.
func (m Money) IsNegative() bool { return m.millionths < 0 }

// IsZero reports whether there is none.
func (m Money) IsZero() bool { return m.millionths == 0 }

// Exact returns the amount for further arithmetic.
func (m Money) Exact() Exact { return Ratio(m.millionths, million) }

// Float returns the amount for ratios and drawings only.
func (m Money) Float() float64 { return float64(m.millionths) / million }

func (m Money) String() string { return fixedText(m.millionths, moneyPlaces) }

// Fixed writes the amount with so many places, half up.
func (m Money) Fixed(places int) string { return m.Exact().Fixed(places) }

// IsPositive reports whether the pack holds anything.
func (q Quantity) IsPositive() bool { return q.thousandths > 0 }

// Exact returns the quantity for further arithmetic.
func (q Quantity) Exact() Exact { return Ratio(q.thousandths, thousand) }

// Float returns the quantity as a float64.
func (q Quantity) Float() float64 { return float64(q.thousandths) / thousand }

func (q Quantity) String() string { return fixedText(q.thousandths, gramPlaces) }

// Share is the percentage as a part of one.
func (p Percent) Share() Exact { return Ratio(p.perMillion, million) }

// Rest is what the percentage leaves of one.
func (p Percent) Rest() Exact { return Ratio(million-p.perMillion, million) }

// More is one and the percentage on top.
func (p Percent) More() Exact { return Ratio(million+p.perMillion, million) }

// Float returns the percentage as a float64: 2.5 for 2.5 %.
func (p Percent) Float() float64 { return float64(p.perMillion) / 10_000 }

// Plus is the sum of two percentages.
func (p Percent) Plus(q Percent) Percent { return Percent{p.perMillion + q.perMillion} }

// Abs is the percentage without its sign.
func (p Percent) Abs() Percent { return Percent{max(p.perMillion, -p.perMillion)} }

// Cmp orders percentages: -1, 0 or 1.
func (p Percent) Cmp(q Percent) int { return order(p.perMillion, q.perMillion) }

// IsNegative reports whether the percentage is below zero.
func (p Percent) IsNegative() bool { return p.perMillion < 0 }

// Fixed writes the percentage with so many places, half up.
func (p Percent) Fixed(places int) string { return p.Share().Times(Whole(100)).Fixed(places) }

func (p Percent) String() string { return fixedText(p.perMillion, percentPlaces) }

// Exact returns the minutes for further arithmetic.
func (m Minutes) Exact() Exact { return Ratio(m.thousandths, thousand) }

// Float returns the minutes as a float64.
func (m Minutes) Float() float64 { return float64(m.thousandths) / thousand }

// IsNegative reports whether the time is below nothing.
func (m Minutes) IsNegative() bool { return m.thousandths < 0 }

// IsZero reports whether there is none.
func (m Minutes) IsZero() bool { return m.thousandths == 0 }

func (m Minutes) String() string { return fixedText(m.thousandths, minutePlaces) }

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
	total := Sum(grams).milligrams
	if total <= 0 || slices.ContainsFunc(grams, Grams.IsNegative) {
		return out
	}
	const units = 10_000 // hundredths of a percent in 100 %
	rests := make([]int64, len(grams))
	byRest := make([]int, len(grams))
	given := int64(0)
	for i, g := range grams {
		whole, rest := mulDiv(g.milligrams, units, total)
		given += whole
		out[i] = Percent{whole * percentUnit}
		rests[i], byRest[i] = rest, i
	}
	slices.SortStableFunc(byRest, func(a, b int) int { return order(rests[b], rests[a]) })
	for k := 0; given < units && k < len(byRest); k++ {
		out[byRest[k]].perMillion += percentUnit
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
