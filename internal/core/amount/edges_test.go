package amount

import (
	"encoding/json"
	"math"
	"math/big"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestEveryUnitSaysWhatItHolds(t *testing.T) {
	assert.Equal(t, 12.345, MustGrams("12.345").Float())
	assert.Equal(t, "12.345", MustGrams("12.345").Exact().String())
	assert.Equal(t, "1.5", ML(1.5).String())
	assert.Equal(t, 1.5, ML(1.5).Float())
	assert.Equal(t, 7.25, MustMoney("7.25").Float())
	assert.Equal(t, "7.25", MustMoney("7.25").Exact().String())
	assert.Equal(t, "7.25", MustMoney("7.25").String())
	assert.Equal(t, "7.3", MustMoney("7.25").Fixed(1))
	assert.Equal(t, 5000.5, MustQuantity("5000.5").Float())
	assert.Equal(t, "5000.5", MustQuantity("5000.5").Exact().String())
	assert.Equal(t, "2.5", Pct(2.5).String())
	assert.Equal(t, 0.75, Min(0.75).Float())
	assert.Equal(t, "0.75", Min(0.75).Exact().String())
	assert.Equal(t, "0.75", Min(0.75).String())
	assert.Equal(t, G(6), G(2).Times(3))
	assert.Equal(t, G(-1), G(2).Minus(G(3)))
	assert.Equal(t, MustMoney("3.5"), MustMoney("1.25").Plus(MustMoney("2.25")))
	assert.Equal(t, MustMoney("-1"), MustMoney("1.25").Minus(MustMoney("2.25")))
	assert.Equal(t, Pct(4), Pct(1.5).Plus(Pct(2.5)))
	for i, sign := range []string{"-0.001", "0", "0.001"} {
		below, none, above := i == 0, i == 1, i == 2
		g, q, m := MustGrams(sign), MustQuantity(sign), Min(float64(i-1)/1000)
		assert.Equal(t, []bool{below, none, above}, []bool{g.IsNegative(), g.IsZero(), g.IsPositive()}, sign)
		assert.Equal(t, above, q.IsPositive(), sign)
		assert.Equal(t, []bool{below, none}, []bool{m.IsNegative(), m.IsZero()}, sign)
		p, c := Pct(float64(i-1)/10_000), MustMoney([]string{"-0.000001", "0", "0.000001"}[i])
		assert.Equal(t, []bool{below, none}, []bool{c.IsNegative(), c.IsZero()}, sign)
		assert.Equal(t, below, p.IsNegative())
		assert.Equal(t, i-1, g.Cmp(Grams{}))
		assert.Equal(t, i-1, c.Cmp(Money{}))
		assert.Equal(t, i-1, p.Cmp(Percent{}))
	}
}

func TestWhatNoUnitHoldsBecomesTheNearestEnd(t *testing.T) {
	assert.Equal(t, int64(math.MaxInt64), G(1e300).steps)
	assert.Equal(t, int64(math.MinInt64), G(-1e300).steps)
	assert.Equal(t, int64(math.MaxInt64), Ratio(math.MaxInt64, 2).Grams().steps)
	assert.Equal(t, int64(math.MinInt64), Ratio(math.MinInt64, 2).Grams().steps)
	huge := Whole(math.MaxInt64).Times(Whole(9))
	assert.Equal(t, int64(math.MaxInt64), huge.Floor())
	assert.Equal(t, int64(math.MinInt64), huge.negative().Floor())
	assert.Equal(t, []int{1, -1}, []int{huge.Sign(), huge.negative().Sign()})
	least := Whole(math.MinInt64).negative()
	assert.Equal(t, "9223372036854775808", least.String())
	assert.Equal(t, "-9223372036854775808", least.negative().String())
	assert.Equal(t, "-0.5", Ratio(1, -2).String())
	assert.Equal(t, "-4", Whole(8).Over(Whole(-2)).String())
	assert.Equal(t, "-1", Whole(math.MinInt64).Over(least).String())
	for mL, want := range map[float64]string{0.499: "0", 0.5: "1", 1.5: "2", -0.499: "0", -0.5: "-1", -1.5: "-2"} {
		assert.Equal(t, want, ML(mL).Whole().String(), "%g mL", mL)
	}
	assert.Equal(t, "0.001", G(0.0004999999999).String(), "a half that binary left below")
	assert.Equal(t, "0", G(0.0004999).String())
}

func TestEveryFloatBecomesItsShortestDecimal(t *testing.T) {
	same := func(t assert.TestingT, f float64) {
		want, _ := new(big.Rat).SetString(strconv.FormatFloat(f, 'g', -1, 64))
		assert.Zero(t, ExactFloat(f).rat().Cmp(want), "%g", f)
	}
	for _, f := range []float64{1e-17, 1e-18, 1.5e-18, 1e-19, 12345678901234567e-18, 1e18, 1.5e22, 9007199254740991,
		9007199254740992, -9007199254740993, 0.1 + 0.2, 123456.7890123, math.MaxFloat64, math.SmallestNonzeroFloat64} {
		same(t, f)
		same(t, -f)
	}
	rapid.Check(t, func(t *rapid.T) {
		same(t, rapid.Float64Range(-1, 1).Draw(t, "small"))
		same(t, rapid.Float64().Draw(t, "any"))
	})
}

func TestNumbersAreTakenAtTheirBoundsAndRefusedBeside(t *testing.T) {
	for text, fits := range map[string]bool{
		strings.Repeat("1", 24): true, strings.Repeat("1", 25): false, "1.2": true, "1.2.3": false, "-1": true,
		"--1": false,
		"1-1": false, "-": false, "": false, ".": false, "5.": true, ".5": true, "1 000": true, "1\u202f000,5": true,
		"1e3": false, "1/3": false, "+1": false,
	} {
		_, err := ParseNumber(text)
		assert.Equal(t, fits, err == nil, "%q: %v", text, err)
	}
	_, err := ParseNumber(strings.Repeat("é", 30))
	assert.ErrorContains(t, err, strings.Repeat("é", 30)+`"`)
	_, err = ParseNumber(strings.Repeat("é", 31))
	assert.ErrorContains(t, err, strings.Repeat("é", 30)+"…")
	for text, fits := range map[string]bool{
		"1000000000000": true, "1000000000000.001": false, "-1000000000000": true, "-1000000000000.001": false,
		"1e12": true, "1.0001e12": false, "-1e12": true, "-1.0001e12": false, "123456789012.345": true,
		"0." + strings.Repeat("0", 38): true, "0." + strings.Repeat("0", 39): false, "0e40": true, "0e41": false,
		"0e-40": true, "0e-41": false, "1e": false, "0.00000001": true, "0.0000001": false, "2.00000001": true,
		"2.00000002": false,
	} {
		var g Grams
		err := g.UnmarshalJSON([]byte(text))
		assert.Equal(t, fits, err == nil, "%q: %v", text, err)
	}
	assert.EqualError(t, LiteralError{"7x", "not a number"}, "7x: not a number")
	assert.Panics(t, func() { MustGrams("seven") })
}

func TestANumberThatIsTooFineForItsUnitSaysSo(t *testing.T) {
	q, ok := Ratio(12345, 1000).Quantity()
	assert.True(t, ok)
	assert.Equal(t, MustQuantity("12.345"), q)
	_, ok = Ratio(123456, 10_000).Quantity()
	assert.False(t, ok)
	m, ok := Ratio(1, 1_000_000).ExactMoney()
	assert.True(t, ok)
	assert.Equal(t, MustMoney("0.000001"), m)
	_, ok = Ratio(1, 3).ExactMoney()
	assert.False(t, ok)
	x := Whole(7)
	require.NoError(t, json.Unmarshal([]byte("null"), &x))
	assert.Equal(t, "7", x.String(), "nothing was sent, nothing changes")
	require.NoError(t, json.Unmarshal([]byte("0.125"), &x))
	assert.Zero(t, x.Cmp(Ratio(1, 8)))
	assert.Error(t, json.Unmarshal([]byte(`"half"`), &x))
	assert.Zero(t, x.Cmp(Ratio(1, 8)))
	raw, err := json.Marshal(Ratio(1, 3))
	require.NoError(t, err)
	assert.Equal(t, "0.333333333333", string(raw))
}

// TestTheArithmeticOfASheetStaysSmall holds that what fits 64 bits takes no memory: a sheet does it for every line.
func TestTheArithmeticOfASheetStaysSmall(t *testing.T) {
	var out Exact
	var g Grams
	minus := []byte("-12.5")
	for name, f := range map[string]func(){
		"a sum of like parts":     func() { out = Ratio(1, 1000).Plus(Ratio(7, 1000)) },
		"a sum to be reduced":     func() { out = Ratio(3<<40, 3<<30).Plus(Ratio(5<<40, 5<<31)) },
		"a product to be reduced": func() { out = Ratio(7<<40, 5<<40).Times(Ratio(5<<40, 7<<40)) },
		"a product reduced once":  func() { out = Ratio(1, 3<<40).Times(Ratio(3<<40, 7<<30)) },
		"and the other way round": func() { out = Ratio(3<<40, 7<<30).Times(Ratio(1, 3<<40)) },
		"a quotient":              func() { out = Whole(1).Over(Ratio(3, 7)) },
		"a quotient by less":      func() { out = Whole(1).Over(Ratio(-3, 7)) },
		"rounding":                func() { out = Ratio(-2, 3).Round(6) },
		"a decimal of a float":    func() { out = ExactFloat(0.123456789) },
		"a figure":                func() { HalfUp(12.3456789, 2) },
		"shares of one":           func() { out = More(Pct(2.5)).Times(Rest(Pct(2.5))) },
	} {
		assert.LessOrEqual(t, testing.AllocsPerRun(20, f), 0.0, name)
	}
	reading := testing.AllocsPerRun(20, func() { _ = readJSON(minus, places[gram](), &g.steps) })
	assert.LessOrEqual(t, reading, 1.0, "the text, and nothing else")
	assert.Nil(t, out.big)
	assert.Equal(t, "-12.5", g.String())
}
