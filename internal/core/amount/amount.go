// Package amount holds the quantities of the kitchen and the shop: exact grams,
// exact money, and percents that add up. Grams and money are decimals, so that a
// sum on paper and a sum on screen agree; chemistry elsewhere uses float64.
package amount

import (
	"errors"
	"fmt"
	"sort"
	"strings"

	"github.com/shopspring/decimal"
)

func init() {
	// Amounts travel as JSON numbers, not as strings, in the bundle and in the API.
	decimal.MarshalJSONWithoutQuotes = true
}

// Grams is a mass in grams, exact.
type Grams struct{ decimal.Decimal }

// Money is an amount in the shop's one currency, exact and never rounded between steps.
type Money struct{ decimal.Decimal }

// MaxGrams is the largest mass that a line, pack or batch may carry: 10 000 kg (handbook 02, bad input).
const MaxGrams = 10_000_000

// MaxMoney bounds a price so that a slipped key is noticed.
const MaxMoney = 10_000_000

// G makes grams from a float, for tests and for results of float computations.
func G(g float64) Grams { return Grams{decimal.NewFromFloat(g)} }

// GramsFromString reads plain decimal grams; it panics on a malformed constant and is meant for fixtures.
func GramsFromString(s string) Grams { return Grams{decimal.RequireFromString(s)} }

// M makes money from a plain decimal string; it panics on a malformed constant and is meant for fixtures.
func M(s string) Money { return Money{decimal.RequireFromString(s)} }

// Float returns the mass as a float64 for chemistry.
func (g Grams) Float() float64 { return g.InexactFloat64() }

// Float returns the amount as a float64, for ratios and drawings only.
func (m Money) Float() float64 { return m.InexactFloat64() }

// ErrNotANumber is returned for text that is no plain decimal number.
var ErrNotANumber = errors.New("not a number")

// ParseDecimal reads a typed number: surrounding blanks, a thin or plain space between thousands,
// and one decimal point or comma are accepted. It returns ErrNotANumber for anything else.
func ParseDecimal(text string) (decimal.Decimal, error) {
	s := strings.Map(func(r rune) rune {
		switch r {
		case ' ', '\u00a0', '\u2009', '\u202f':
			return -1
		case ',':
			return '.'
		}
		return r
	}, strings.TrimSpace(text))
	if s == "" || strings.Count(s, ".") > 1 || strings.ContainsAny(s, "eE+") || len(s) > 24 {
		return decimal.Zero, fmt.Errorf("%q: %w", clip(text), ErrNotANumber)
	}
	d, err := decimal.NewFromString(s)
	if err != nil {
		return decimal.Zero, fmt.Errorf("%q: %w", clip(text), ErrNotANumber)
	}
	return d, nil
}

func clip(s string) string {
	if r := []rune(s); len(r) > 30 {
		return string(r[:30]) + "…"
	}
	return s
}

// HalfUp rounds half away from zero to the given decimal places, as every figure on a label or a screen is rounded.
func HalfUp(x float64, places int32) decimal.Decimal {
	// Twelve places first, so that 0.285 stored as 0.28499999… still counts as a half.
	return decimal.NewFromFloat(x).Round(12).Round(places)
}

// PercentShares returns each mass as a percent of their sum, to 0.01, adding to exactly 100.00
// by the largest-remainder method (handbook 03). All zero when the sum is not positive.
func PercentShares(grams []Grams) []decimal.Decimal {
	out := make([]decimal.Decimal, len(grams))
	total := Sum(grams)
	if !total.IsPositive() {
		return out
	}
	const units = 10_000 // hundredths of a percent in 100 %
	type rest struct {
		at   int
		left decimal.Decimal
	}
	rests := make([]rest, len(grams))
	given := int64(0)
	for i, g := range grams {
		exact := g.Mul(decimal.NewFromInt(units)).DivRound(total.Decimal, 16)
		whole := exact.Floor()
		given += whole.IntPart()
		out[i] = whole
		rests[i] = rest{i, exact.Sub(whole)}
	}
	sort.SliceStable(rests, func(a, b int) bool { return rests[a].left.GreaterThan(rests[b].left) })
	for k := 0; given < units && k < len(rests); k++ {
		out[rests[k].at] = out[rests[k].at].Add(decimal.NewFromInt(1))
		given++
	}
	for i := range out {
		out[i] = out[i].Shift(-2)
	}
	return out
}

// Sum adds masses exactly.
func Sum(grams []Grams) Grams {
	total := decimal.Zero
	for _, g := range grams {
		total = total.Add(g.Decimal)
	}
	return Grams{total}
}

// SpreadToDivision rounds parts to whole divisions of a scale so that they add up to the
// total rounded the same way; what rounding leaves over goes to the largest part (handbook 03).
func SpreadToDivision(parts []Grams, division Grams) []Grams {
	out := make([]Grams, len(parts))
	if !division.IsPositive() || len(parts) == 0 {
		copy(out, parts)
		return out
	}
	toDivision := func(d decimal.Decimal) decimal.Decimal {
		return d.DivRound(division.Decimal, 16).Round(0).Mul(division.Decimal)
	}
	largest, sum := 0, decimal.Zero
	for i, p := range parts {
		out[i] = Grams{toDivision(p.Decimal)}
		sum = sum.Add(out[i].Decimal)
		if p.GreaterThan(parts[largest].Decimal) {
			largest = i
		}
	}
	total := toDivision(Sum(parts).Decimal)
	out[largest] = Grams{out[largest].Add(total.Sub(sum))}
	return out
}
