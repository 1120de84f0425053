package amount

import (
	"encoding/json"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestParseDecimalReadsWhatPeopleType(t *testing.T) {
	for text, want := range map[string]string{"12": "12", " 12.50 ": "12.5", "12,5": "12.5", "1 002.0": "1002", "1\u2009002": "1002", "-3": "-3", ".5": "0.5"} {
		d, err := ParseDecimal(text)
		require.NoError(t, err, text)
		assert.True(t, decimal.RequireFromString(want).Equal(d), "%s gave %s", text, d)
	}
	for _, text := range []string{"", "abc", "1.2.3", "1,2,3", "1e9", "NaN", "twelve", "12 g", "99999999999999999999999999"} {
		_, err := ParseDecimal(text)
		assert.ErrorIs(t, err, ErrNotANumber, text)
	}
}

func TestPercentSharesAlwaysAddToAHundred(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 40).Draw(t, "lines")
		grams := make([]Grams, n)
		for i := range grams {
			grams[i] = Grams{decimal.New(rapid.Int64Range(0, 1_000_000).Draw(t, "g"), -1)}
		}
		grams[0] = Grams{grams[0].Add(decimal.NewFromInt(1))}
		sum := decimal.Zero
		for i, p := range PercentShares(grams) {
			exact := grams[i].Mul(decimal.NewFromInt(100)).Div(Sum(grams).Decimal)
			assert.True(t, p.Sub(exact).Abs().LessThan(decimal.RequireFromString("0.0100001")), "share %s of exact %s", p, exact)
			sum = sum.Add(p)
		}
		assert.True(t, sum.Equal(decimal.NewFromInt(100)), "sum %s", sum)
	})
}

func TestPercentSharesOfNothingAreZero(t *testing.T) {
	assert.True(t, PercentShares([]Grams{{}, {}})[0].IsZero())
}

func TestSpreadToDivisionKeepsTheTotal(t *testing.T) {
	parts := []Grams{G(333.34), G(333.33), G(333.33), G(0.04)}
	out := SpreadToDivision(parts, G(0.1))
	assert.Equal(t, "1000", Sum(out).Round(1).String())
	for _, p := range out {
		assert.True(t, p.Mod(decimal.RequireFromString("0.1")).IsZero(), p.String())
	}
	assert.Equal(t, parts, SpreadToDivision(parts, Grams{}), "no division leaves the parts alone")
}

func TestHalfUpShieldsBinaryFractions(t *testing.T) {
	assert.Equal(t, "0.29", HalfUp(0.285, 2).String())
	assert.Equal(t, "2.68", HalfUp(2.675, 2).String())
}

func TestAmountsTravelAsPlainNumbers(t *testing.T) {
	raw, err := json.Marshal(struct {
		G Grams
		M Money
	}{GramsFromString("12.50"), M("4.10")})
	require.NoError(t, err)
	assert.JSONEq(t, `{"G":12.5,"M":4.1}`, string(raw))
	var back struct{ G Grams }
	require.NoError(t, json.Unmarshal([]byte(`{"G":0.1}`), &back))
	assert.Equal(t, "0.1", back.G.String())
}
