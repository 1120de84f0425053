package amount

import (
	"bytes"
	"math"
	"math/big"
	"math/bits"
	"strconv"
)

// Exact is a rational number: what is worked out of weighed and priced amounts and must not be rounded on the way.
// Small ones are a pair of 64-bit integers, so that a sheet is fast; where those do not reach, big ones take over. The
// zero value is 0. Compare with Cmp, not with ==.
type Exact struct {
	num, den int64    // den 0 stands for 1
	big      *big.Rat // where set, the number
}

// Ratio is num / den; den must not be zero.
func Ratio(num, den int64) Exact {
	if den < 0 {
		num, den = -num, -den
	}
	return Exact{num: num, den: den}
}

// Whole is a whole number.
func Whole(n int64) Exact { return Exact{num: n, den: 1} }

// ExactFloat is the shortest decimal that stands for the float: 0.1 is a tenth. What is no number is 0.
func ExactFloat(x float64) Exact {
	if n := int64(x); float64(n) == x && n > -1<<53 && n < 1<<53 {
		return Whole(n)
	}
	scaled := x * million
	if n := math.Round(scaled); math.Abs(n) < 1<<53 && n/million == x {
		return Ratio(int64(n), million)
	}
	if e, ok := decimalSmall(x); ok {
		return e
	}
	r, ok := new(big.Rat).SetString(strconv.FormatFloat(x, 'g', -1, 64))
	if !ok {
		return Exact{}
	}
	return small(r)
}

// decimalSmall is the shortest decimal of a float where its digits and its power of ten fit.
func decimalSmall(x float64) (Exact, bool) {
	var room [32]byte
	mantissa, exponent, found := bytes.Cut(strconv.AppendFloat(room[:0], x, 'e', -1, 64), []byte{'e'})
	if !found {
		return Exact{}, false // NaN or infinite
	}
	tens, err := strconv.Atoi(string(exponent))
	if err != nil {
		return Exact{}, false
	}
	digits := int64(0) // at most 17 of them
	for i, c := range bytes.TrimPrefix(mantissa, []byte{'-'}) {
		if c != '.' {
			digits = 10*digits + int64(c-'0')
		}
		if i > 1 {
			tens--
		}
	}
	if x < 0 {
		digits = -digits
	}
	if tens > 0 || -tens >= len(powers) {
		return Exact{}, false
	}
	return Ratio(digits, powers[-tens]), true
}

// small takes a big number back to the small form where it fits.
func small(r *big.Rat) Exact {
	if r.Num().IsInt64() && r.Denom().IsInt64() {
		return Exact{num: r.Num().Int64(), den: r.Denom().Int64()}
	}
	return Exact{big: r}
}

func (x Exact) denominator() int64 {
	if x.den == 0 {
		return 1
	}
	return x.den
}

func (x Exact) rat() *big.Rat {
	if x.big != nil {
		return x.big
	}
	return big.NewRat(x.num, x.denominator())
}

// Plus is the sum.
func (x Exact) Plus(y Exact) Exact {
	if x.big == nil && y.big == nil {
		if z, ok := plusSmall(x.num, x.denominator(), y.num, y.denominator()); ok {
			return z
		}
		x, y = x.reduced(), y.reduced()
		if z, ok := plusSmall(x.num, x.denominator(), y.num, y.denominator()); ok {
			return z
		}
	}
	return small(new(big.Rat).Add(x.rat(), y.rat()))
}

// reduced is the same number in lowest terms, where it is small.
func (x Exact) reduced() Exact {
	if x.big != nil || x.den <= 1 {
		return x
	}
	if g := gcd(x.num, x.den); g > 1 {
		return Exact{num: x.num / g, den: x.den / g}
	}
	return x
}

func plusSmall(a, b, c, d int64) (Exact, bool) {
	if b == d {
		n, ok := add(a, c)
		return Exact{num: n, den: b}, ok
	}
	g := gcd(b, d)
	left, ok1 := mul(a, d/g)
	right, ok2 := mul(c, b/g)
	n, ok3 := add(left, right)
	den, ok4 := mul(b, d/g)
	return Exact{num: n, den: den}, ok1 && ok2 && ok3 && ok4
}

// Minus is the difference.
func (x Exact) Minus(y Exact) Exact { return x.Plus(y.negative()) }

func (x Exact) negative() Exact {
	if x.big == nil && x.num != math.MinInt64 {
		return Exact{num: -x.num, den: x.den}
	}
	return small(new(big.Rat).Neg(x.rat()))
}

// Times is the product.
func (x Exact) Times(y Exact) Exact {
	if x.big == nil && y.big == nil {
		if z, ok := timesSmall(x.num, x.denominator(), y.num, y.denominator()); ok {
			return z
		}
	}
	return small(new(big.Rat).Mul(x.rat(), y.rat()))
}

func timesSmall(a, b, c, d int64) (Exact, bool) {
	n, ok1 := mul(a, c)
	den, ok2 := mul(b, d)
	if ok1 && ok2 {
		return Exact{num: n, den: den}, true
	}
	if g := gcd(a, d); g > 1 {
		a, d = a/g, d/g
	}
	if g := gcd(c, b); g > 1 {
		c, b = c/g, b/g
	}
	n, ok1 = mul(a, c)
	den, ok2 = mul(b, d)
	return Exact{num: n, den: den}, ok1 && ok2
}

// Over is the quotient; y must not be zero.
func (x Exact) Over(y Exact) Exact {
	if y.big == nil && y.num != math.MinInt64 {
		n, d := y.num, y.denominator()
		if n < 0 {
			n, d = -n, -d
		}
		if n != 0 {
			return x.Times(Exact{num: d, den: n}).reduced()
		}
	}
	return small(new(big.Rat).Quo(x.rat(), y.rat()))
}

// Sign is -1, 0 or 1.
func (x Exact) Sign() int {
	if x.big != nil {
		return x.big.Sign()
	}
	return order(x.num, 0)
}

// IsPositive reports whether the number is above zero.
func (x Exact) IsPositive() bool { return x.Sign() > 0 }

// Cmp orders numbers: -1, 0 or 1.
func (x Exact) Cmp(y Exact) int {
	if x.big == nil && y.big == nil {
		left, ok1 := mul(x.num, y.denominator())
		right, ok2 := mul(y.num, x.denominator())
		if ok1 && ok2 {
			return order(left, right)
		}
	}
	return x.rat().Cmp(y.rat())
}

// Float is the nearest float64, for chemistry, ratios and drawings.
func (x Exact) Float() float64 {
	if x.big == nil && x.num > -1<<53 && x.num < 1<<53 && x.den < 1<<53 {
		return float64(x.num) / float64(x.denominator())
	}
	f, _ := x.rat().Float64()
	return f
}

// scaled is the number times 10^places, rounded half away from zero.
func (x Exact) scaled(places int) *big.Int {
	r := x.rat()
	n := new(big.Int).Mul(r.Num(), new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(places)), nil))
	n.Lsh(n, 1)
	if r.Sign() < 0 {
		n.Sub(n, r.Denom())
	} else {
		n.Add(n, r.Denom())
	}
	return n.Quo(n, new(big.Int).Lsh(r.Denom(), 1))
}

// scaledSmall is scaled where everything fits.
func (x Exact) scaledSmall(places int) (int64, bool) {
	if x.big != nil || places >= len(powers) {
		return 0, false
	}
	d := x.denominator()
	whole, rest := x.num/d, x.num%d
	n, ok := mul(whole, powers[places])
	if !ok {
		return 0, false
	}
	part, left := mulDiv(max(rest, -rest), powers[places], d)
	if left >= d-left {
		part++
	}
	if x.num < 0 {
		part = -part
	}
	return add(n, part)
}

var powers = func() (out [19]int64) {
	out[0] = 1
	for i := 1; i < len(out); i++ {
		out[i] = out[i-1] * 10
	}
	return out
}()

// Round rounds half away from zero to so many decimal places.
func (x Exact) Round(places int) Exact {
	if n, ok := x.scaledSmall(places); ok {
		return Ratio(n, powers[places])
	}
	unit := new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(places)), nil)
	return small(new(big.Rat).SetFrac(x.scaled(places), unit))
}

// Floor is the greatest whole number not above x; what no int64 holds becomes the nearest end.
func (x Exact) Floor() int64 {
	r := x.rat()
	return clamp(new(big.Int).Div(r.Num(), r.Denom()))
}

func clamp(n *big.Int) int64 {
	switch {
	case n.IsInt64():
		return n.Int64()
	case n.Sign() < 0:
		return math.MinInt64
	}
	return math.MaxInt64
}

// Fixed writes the number with exactly so many places, half up.
func (x Exact) Fixed(places int) string {
	if n, ok := x.scaledSmall(places); ok {
		return string(appendFixed(nil, n, places, false))
	}
	unit := new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(places)), nil)
	return new(big.Rat).SetFrac(x.scaled(places), unit).FloatString(places)
}

func (x Exact) String() string { return trimZeros(x.Fixed(wirePlaces)) }

// whole rounds x / 10^-places to an int64.
func (x Exact) whole(places int) int64 {
	if n, ok := x.scaledSmall(places); ok {
		return n
	}
	return clamp(x.scaled(places))
}

// Grams rounds grams to the milligram.
func (x Exact) Grams() Grams { return Grams{x.whole(places[gram]())} }

// Money rounds an amount to a millionth.
func (x Exact) Money() Money { return Money{x.whole(places[coin]())} }

// Percent rounds a part of one to a percentage.
func (x Exact) Percent() Percent { return Percent{x.whole(places[percent]() + 2)} }

// divisions rounds grams to whole divisions of a scale.
func (x Exact) divisions(division Grams) Grams {
	n := x.Over(division.Exact()).whole(0)
	return Grams{n * division.steps}
}

func add(a, b int64) (int64, bool) {
	s := a + b
	return s, (s > a) == (b > 0)
}

func mul(a, b int64) (int64, bool) {
	high, low := bits.Mul64(magnitude(a), magnitude(b))
	if high != 0 || low > math.MaxInt64 {
		return 0, false
	}
	if (a < 0) != (b < 0) {
		return -int64(low), true
	}
	return int64(low), true
}

func magnitude(a int64) uint64 {
	if a < 0 {
		return uint64(-(a + 1)) + 1
	}
	return uint64(a)
}

// mulDiv is a x b / c with its rest, through 128 bits; a and b are not negative, c is above zero, and the quotient
// fits.
func mulDiv(a, b, c int64) (quotient, rest int64) {
	high, low := bits.Mul64(uint64(a), uint64(b))
	q, r := bits.Div64(high%uint64(c), low, uint64(c))
	return int64(q), int64(r)
}

func gcd(a, b int64) int64 {
	x, y := magnitude(a), magnitude(b)
	for y != 0 {
		x, y = y, x%y
	}
	return int64(x)
}
