package formula_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
)

func TestALogBecomesTheLinesOfATrial(t *testing.T) {
	log := formula.Trial{MadeOn: "2026-11-20", Log: []formula.Logged{
		{Kind: formula.WentIn, Ingredient: "tahini", Grams: amount.G(200)},
		{Kind: formula.WentIn, Ingredient: "lime_juice", Grams: amount.G(60)},
		{Kind: formula.WasTasted, Words: "flat"},
		{Kind: formula.WasAdded, Ingredient: "lime_juice", Grams: amount.G(12), Reason: "too flat"},
		{Kind: formula.WentIn, Ingredient: "pecan", Instead: "walnut", Grams: amount.G(50)},
		{Kind: formula.WasAdded, Ingredient: "lime_juice", Grams: amount.G(3), Reason: "still"},
	}}
	require.Empty(t, log.OfLog().Check())
	lines := log.OfLog().Lines
	require.Len(t, lines, 3)
	assert.Equal(t, "tahini", lines[0].Ingredient)
	assert.Equal(t, amount.G(75), lines[1].Grams)
	assert.Equal(t, amount.G(15), lines[1].Added)
	assert.Equal(t, "too flat; still", lines[1].Reason)
	assert.Equal(t, "walnut", lines[2].Counts())
}

func TestALogIsCheckedWhereItWasTyped(t *testing.T) {
	for field, e := range map[string]formula.Logged{
		"log[0].kind":   {Kind: "wished"},
		"log[0]":        {Kind: formula.WentIn, Grams: amount.G(1)},
		"log[0].grams":  {Kind: formula.WentIn, Ingredient: "tahini"},
		"log[0].reason": {Kind: formula.WasAdded, Ingredient: "tahini", Grams: amount.G(1)},
		"log[0].words":  {Kind: formula.WasTasted},
	} {
		errs := formula.Trial{Open: true, Log: []formula.Logged{e}}.Check()
		require.NotEmpty(t, errs, field)
		assert.Equal(t, field, errs[0].Field)
	}
	assert.Empty(t, formula.Trial{Open: true}.Check(), "a making that only just began")
	assert.NotEmpty(t, formula.Trial{}.Check())
}

// TestWhatStoodInCountsForWhatItReplaced: a making with pecan in walnut's place makes no standard with both.
func TestWhatStoodInCountsForWhatItReplaced(t *testing.T) {
	trial := func(nut, instead string) formula.Trial {
		return formula.Trial{MadeOn: "2026-11-20", Lines: []formula.TrialLine{
			{Ingredient: "tahini", Grams: amount.G(100)}, {Ingredient: nut, Instead: instead, Grams: amount.G(100)}}}
	}
	lines, err := formula.Standardise([]formula.Trial{trial("walnut", ""), trial("pecan", "walnut")}, amount.G(1000),
		amount.G(1), false)
	require.NoError(t, err)
	require.Len(t, lines, 2)
	assert.Equal(t, "walnut", lines[1].Key)
	assert.Zero(t, lines[1].AbsentIn)
	assert.Equal(t, amount.G(500), lines[1].Grams)
}

// TestEveryGramOfALogIsInALine: of whatever was logged, the lines have all grams and no more.
func TestEveryGramOfALogIsInALine(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var log []formula.Logged
		sum := amount.Grams{}
		for range rapid.IntRange(0, 20).Draw(t, "entries") {
			kinds := []string{formula.WentIn, formula.WasAdded, formula.WasTasted}
			e := formula.Logged{Kind: rapid.SampledFrom(kinds).Draw(t, "kind"), Words: "x", Reason: "y"}
			if e.Kind != formula.WasTasted {
				e.Ingredient = rapid.SampledFrom([]string{"tahini", "lime_juice", "honey"}).Draw(t, "what")
				e.Grams = amount.G(float64(rapid.IntRange(1, 500).Draw(t, "grams")))
				sum = sum.Plus(e.Grams)
			}
			log = append(log, e)
		}
		got := amount.Grams{}
		for _, l := range (formula.Trial{Log: log}).OfLog().Lines {
			got = got.Plus(l.Grams)
			require.LessOrEqual(t, l.Added.Float(), l.Grams.Float())
		}
		require.Zero(t, sum.Cmp(got))
	})
}
