package amount

import (
	"encoding/json"
	"errors"
	"math"
	"math/big"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestParseNumberReadsWhatPeopleType(t *testing.T) {
	for text, want := range map[string]string{"12": "12", " 12.50 ": "12.5", "12,5": "12.5", "1 002.0": "1002",
		"1\u2009002": "1002", "-3": "-3", ".5": "0.5"} {
		x, err := ParseNumber(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, x.String(), text)
	}
	for _, text := range []string{"", "abc", "1.2.3", "1,2,3", "1e9", "NaN", "twelve", "12 g",
		"99999999999999999999999999", "--3", "1/2", "0x10", "+4", "-", "."} {
		_, err := ParseNumber(text)
		assert.ErrorIs(t, err, ErrNotANumber, text)
	}
}

func TestAmountsTravelAsPlainNumbers(t *testing.T) {
	type all struct {
		G Grams
		V Millilitres
		M Money
		Q Quantity
		P Percent
		T Minutes
		X Exact
	}
	in := all{MustGrams("12.50"), ML(0.25), MustMoney("4.100001"), MustQuantity("-3.007"), Pct(2.5), Min(1.125),
		Ratio(1, 3)}
	raw, err := json.Marshal(in)
	require.NoError(t, err)
	assert.Equal(t, `{"G":12.5,"V":0.25,"M":4.100001,"Q":-3.007,"P":2.5,"T":1.125,"X":0.333333333333}`, string(raw))
	var out all
	require.NoError(t, json.Unmarshal(raw, &out))
	out.X = in.X
	assert.Equal(t, in, out)
}

func TestReadingFromJSON(t *testing.T) {
	for text, want := range map[string]string{"0": "0", "0.1": "0.1", `"0.1"`: "0.1", "1e3": "1000", "1.5E-2": "0.015",
		"null": "0", "12.400000000000002": "12.4", "0.30000000000000004": "0.3",
		"-0.001": "-0.001", "1000000000000": "1000000000000", "123456789.123": "123456789.123"} {
		var g Grams
		require.NoError(t, json.Unmarshal([]byte(text), &g), text)
		assert.Equal(t, want, g.String(), text)
	}
	for _, text := range []string{"0.0001", "1.23456", "1000000000001", "1e16", "1e999999999", "1e-5", `"abc"`, `"1/3"`,
		`"NaN"`} {
		var g Grams
		err := json.Unmarshal([]byte(text), &g)
		var literal LiteralError
		require.True(t, errors.As(err, &literal), "%s: %v", text, err)
		assert.NotEmpty(t, literal.Message)
	}
	for _, text := range []string{"-", ".", "--1", "1..2", "0x1", "1_000"} {
		var g Grams
		assert.Error(t, g.UnmarshalJSON([]byte(text)), "%q is no number", text)
	}
	var m Money
	require.NoError(t, json.Unmarshal([]byte("0.000001"), &m))
	assert.Equal(t, "0.000001", m.String())
	assert.Error(t, json.Unmarshal([]byte("0.0000001"), &m))
}

func TestWholeUnitsAddExactly(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := rapid.Int64Range(-1e12, 1e12).Draw(t, "a"), rapid.Int64Range(-1e12, 1e12).Draw(t, "b")
		g, h := Grams{a}, Grams{b}
		assert.Equal(t, g, g.Plus(h).Minus(h))
		assert.Equal(t, order(a, b), g.Cmp(h))
		assert.Equal(t, -h.Cmp(g), g.Cmp(h))
		assert.Zero(t, g.Plus(h).Exact().Cmp(g.Exact().Plus(h.Exact())))
		assert.Equal(t, g, g.Exact().Grams())
		m, n := Money{a}, Money{b}
		assert.Equal(t, m, m.Plus(n).Minus(n))
		assert.Equal(t, m, m.Exact().Money())
		assert.Equal(t, m.Cmp(n), m.Exact().Cmp(n.Exact()))
	})
	assert.Equal(t, "7.5", MustGrams("2.5").Times(3).String())
	assert.True(t, G(0.001).IsPositive())
	assert.False(t, Grams{}.IsPositive())
	assert.True(t, G(-0.001).IsNegative())
	assert.False(t, Grams{}.IsNegative())
	assert.True(t, Grams{}.IsZero())
	assert.True(t, MustMoney("0").IsZero())
	assert.True(t, MustMoney("-0.000001").IsNegative())
}

// oracle is the same number as a big rational.
func oracle(n, d int64) *big.Rat { return big.NewRat(n, d) }

func TestExactAgreesWithBigRationals(t *testing.T) {
	sizes := rapid.OneOf(rapid.Int64Range(-1000, 1000), rapid.Int64Range(-1<<40, 1<<40), rapid.Int64())
	dens := rapid.OneOf(rapid.Int64Range(1, 1000), rapid.Int64Range(1, math.MaxInt64))
	rapid.Check(t, func(t *rapid.T) {
		a, b, c, d := sizes.Draw(t, "a"), dens.Draw(t, "b"), sizes.Draw(t, "c"), dens.Draw(t, "d")
		x, y := Ratio(a, b), Ratio(c, d)
		p, q := oracle(a, b), oracle(c, d)
		check := func(what string, got Exact, want *big.Rat) {
			assert.Zero(t, got.rat().Cmp(want), "%s of %v and %v: %v", what, p, q, got.rat())
		}
		check("sum", x.Plus(y), new(big.Rat).Add(p, q))
		check("difference", x.Minus(y), new(big.Rat).Sub(p, q))
		check("product", x.Times(y), new(big.Rat).Mul(p, q))
		if c != 0 {
			check("quotient", x.Over(y), new(big.Rat).Quo(p, q))
		}
		assert.Equal(t, p.Cmp(q), x.Cmp(y))
		assert.Equal(t, p.Sign(), x.Sign())
		assert.Equal(t, p.Sign() > 0, x.IsPositive())
		f, _ := p.Float64()
		assert.InEpsilon(t, 1+math.Abs(f), 1+math.Abs(x.Float()), 1e-12)
		for _, places := range []int{0, 2, 6} {
			want := p.FloatString(places) // half away from zero
			if zero, _ := new(big.Rat).SetString(want); zero.Sign() == 0 {
				want = new(big.Rat).FloatString(places)
			}
			assert.Equal(t, want, x.Fixed(places), "%v to %d places", p, places)
			rounded, _ := new(big.Rat).SetString(want)
			check("rounding", x.Round(places), rounded)
		}
		floor := new(big.Int).Div(p.Num(), p.Denom())
		assert.Equal(t, floor.Int64(), x.Floor())
	})
}

func TestAThirdIsNotRoundedOnTheWay(t *testing.T) {
	third := Whole(1).Over(Whole(3))
	assert.Zero(t, third.Plus(third).Plus(third).Cmp(Whole(1)))
	tie := third.Times(Ratio(3, 20_000)) // 0.00005 exactly
	assert.Equal(t, "0.0001", tie.Fixed(4), "half up, though a third has no decimals")
	sum := Exact{}
	for _, p := range []int64{3, 7, 11, 13, 17, 19, 23, 29, 31, 37, 41, 43, 47, 53, 59, 61, 67} {
		sum = sum.Plus(Ratio(1, p))
	}
	for _, p := range []int64{3, 7, 11, 13, 17, 19, 23, 29, 31, 37, 41, 43, 47, 53, 59, 61, 67} {
		sum = sum.Minus(Ratio(1, p))
	}
	assert.Zero(t, sum.Sign(), "a common denominator beyond 64 bits")
}

func TestFloatsBecomeTheirShortestDecimal(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := rapid.Float64Range(-1e15, 1e15).Draw(t, "f")
		want, _ := new(big.Rat).SetString(strconv.FormatFloat(f, 'g', -1, 64))
		assert.Zero(t, ExactFloat(f).rat().Cmp(want))
	})
	assert.Equal(t, "0.1", ExactFloat(0.1).String())
	assert.Equal(t, "0", ExactFloat(math.NaN()).String())
	assert.Equal(t, "0", ExactFloat(math.Inf(1)).String())
	assert.Equal(t, G(12.345), MustGrams("12.345"))
	assert.Equal(t, "2.501", G(2.5005).String(), "half up")
	assert.Equal(t, "-2.501", G(-2.5005).String())
	assert.Equal(t, Grams{}, G(math.NaN()))
	assert.True(t, G(math.Inf(1)).IsPositive())
}

func TestPercentages(t *testing.T) {
	p := Pct(2.5)
	assert.Equal(t, "0.025", Share(p).String())
	assert.Equal(t, "0.975", Rest(p).String())
	assert.Equal(t, "1.025", More(p).String())
	assert.Equal(t, "2.50", p.Fixed(2))
	assert.Equal(t, 2.5, p.Float())
	assert.Equal(t, p, Pct(-2.5).Abs())
	assert.Equal(t, -1, Pct(1).Cmp(p))
	assert.True(t, Pct(-1).IsNegative())
	assert.Equal(t, "12.3457", Ratio(1234567, 10_000_000).Percent().String())
}

func TestVolumeOfAMass(t *testing.T) {
	assert.Equal(t, "206.522", VolumeOf(MustGrams("190"), 0.92).String())
	assert.Equal(t, "207", VolumeOf(MustGrams("190"), 0.92).Whole().String())
	assert.Equal(t, "206", ML(206.4).Whole().String())
}

func TestPercentSharesAlwaysAddToAHundred(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 40).Draw(t, "lines")
		grams := make([]Grams, n)
		for i := range grams {
			grams[i] = Grams{rapid.Int64Range(0, 10_000_000_000).Draw(t, "mg")}
		}
		grams[0] = grams[0].Plus(G(1))
		sum := Percent{}
		for i, p := range PercentShares(grams) {
			exact := 100 * grams[i].Float() / Sum(grams).Float()
			assert.InDelta(t, exact, p.Float(), 0.01001)
			assert.Zero(t, p.steps%percentUnit, "to 0.01")
			sum = sum.Plus(p)
		}
		assert.Equal(t, Pct(100), sum)
	})
}

func TestTheLargestRemainderIsRoundedUpFirst(t *testing.T) {
	assert.Equal(t, []Percent{Pct(33.34), Pct(33.33), Pct(33.33)}, PercentShares([]Grams{G(1), G(1), G(1)}))
	assert.Equal(t, []Percent{Pct(14.28), Pct(28.56), Pct(57.16)}, PercentShares([]Grams{G(1), G(2), G(4.002)}))
	assert.Equal(t, []Percent{{}, {}}, PercentShares([]Grams{{}, {}}), "shares of nothing")
	assert.Equal(t, []Percent{{}, {}}, PercentShares([]Grams{G(-1), G(5)}), "a mistake has no shares")
}

func TestSpreadToDivisionKeepsTheTotal(t *testing.T) {
	exact := func(grams ...float64) (out []Exact) {
		for _, g := range grams {
			out = append(out, ExactFloat(g))
		}
		return out
	}
	out := SpreadToDivision(exact(333.34, 333.33, 333.33, 0.04), G(0.1))
	assert.Equal(t, []Grams{G(333.4), G(333.3), G(333.3), G(0)}, out)
	assert.Equal(t, []Grams{G(1.235), G(2)}, SpreadToDivision(exact(1.2345, 2), Grams{}),
		"no division: to the milligram")
	assert.Equal(t, []Grams{G(0.5), G(1.0)}, SpreadToDivision(exact(0.25, 1.2), G(0.5)),
		"half of a division counts as one, and the largest gives way")
	assert.Empty(t, SpreadToDivision(nil, G(1)))
	rapid.Check(t, func(t *rapid.T) {
		division := rapid.SampledFrom([]Grams{G(0.01), G(0.1), G(0.5), G(1), G(5)}).Draw(t, "division")
		parts := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) Exact {
			return Ratio(rapid.Int64Range(0, 1e9).Draw(t, "n"), rapid.Int64Range(1, 999).Draw(t, "d"))
		}), 1, 20).Draw(t, "parts")
		total := Exact{}
		for _, p := range parts {
			total = total.Plus(p)
		}
		sum := Sum(SpreadToDivision(parts, division))
		assert.Equal(t, total.divisions(division), sum)
		assert.Zero(t, sum.steps%division.steps)
	})
}

func TestHalfUpShieldsBinaryFractions(t *testing.T) {
	assert.Equal(t, 0.29, HalfUp(0.285, 2))
	assert.Equal(t, 2.68, HalfUp(2.675, 2))
	assert.Equal(t, -2.68, HalfUp(-2.675, 2))
	assert.Equal(t, "4.60", Shown(4.595, 2))
	assert.Equal(t, "4.59", Shown(4.5949, 2))
	assert.Equal(t, "5", Shown(4.5, 0))
	assert.Equal(t, "-0.05", Shown(-0.045, 2))
}

func TestUnitsOfMassAndVolume(t *testing.T) {
	for unit, want := range map[string]float64{"g": 1, "kg": 1000, "mg": 0.001, "oz": 28.349523125, "lb": 453.59237} {
		got, ok := MassUnit(unit)
		assert.True(t, ok)
		assert.Equal(t, want, got, unit)
	}
	_, ok := MassUnit("stone")
	assert.False(t, ok)
	for unit, want := range map[string]Volume{
		"tsp": {4.93, 10}, "dessertspoon": {9.86, 12}, "tbsp": {14.79, 8}, "cup": {236.6, 4}, "ml": {1, 3},
		"cl": {10, 3}, "dl": {100, 3}, "l": {1000, 2},
		"fl_oz": {29.5735295625, 4}, "pint": {473.176473, 4}, "quart": {946.352946, 3}, "splash": {5, 40},
		"glug": {20, 40},
		"shot": {30, 25}, "dash": {0.6, 40},
		"pinch": {0.3, 40}, "drop": {0.05, 40},
	} {
		got, ok := USSpoons.Volume(unit)
		assert.True(t, ok, unit)
		assert.InDelta(t, want.ML, got.ML, 1e-9, unit)
		assert.Equal(t, want.Spread, got.Spread, unit)
	}
	_, ok = USSpoons.Volume("bucket")
	assert.False(t, ok)
	british := Spoons{Gallon: Imperial}
	for unit, want := range map[string]float64{"fl_oz": 28.4130625, "pint": 568.26125, "quart": 1136.5225, "l": 1000} {
		got, _ := british.Volume(unit)
		assert.InDelta(t, want, got.ML, 1e-9, unit)
	}
	own := Spoons{Teaspoon: 5, Tablespoon: Tablespoons["AU"], Cup: Cups["metric"]}
	for unit, want := range map[string]float64{"tsp": 5, "tbsp": 20, "cup": 250, "pint": 473.176473} {
		got, _ := own.Volume(unit)
		assert.InDelta(t, want, got.ML, 1e-9, unit)
	}
}
