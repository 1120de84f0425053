package lots

import (
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func measures(name string) (float64, bool) {
	g, ok := map[string]float64{"tin": 240, "bunch": 85}[name]
	return g, ok
}

func TestHowMuchCameInIsReadAsItStandsOnTheNote(t *testing.T) {
	for text, want := range map[string]string{
		"2 kg": "2000", "2,5 kg": "2500", "250g": "250", "6 x 750 ml": "4140", "6x0.75 L": "4140", "1 lb": "453.592",
		"12 pieces": "14.4", "3 tins": "720", "2 bunches": "170", "1 000 g": "1000", "2 × 2500 g": "5000",
		"4 oz":     "113.398",
		" 10  KG ": "10000", "1 gal": "3482.579",
	} {
		g := oil
		if text == "12 pieces" {
			g = nuts
		}
		got, err := ReadPack(text, g, amount.USGallon, measures)
		if assert.NoError(t, err, text) {
			assert.Equal(t, want, got.String(), text)
		}
	}
}

func TestWhatCannotBeReadIsAsked(t *testing.T) {
	for text, says := range map[string]string{
		"": "with its unit", "2": "with its unit", "kg": "with its unit", "2 kg and more": "nobody has weighed",
		"1,432 g": "two ways", "5.000 kg": "two ways", "0 kg": "above zero",
		"2 crates":  "nobody has weighed “crates” of Oil",
		"12 pieces": "nobody has weighed “piece”", "2 kg 3": "with its unit", "-2 kg": "with its unit",
		"100000 kg": "10 000 kg",
	} {
		_, err := ReadPack(text, oil, amount.USGallon, measures)
		assert.ErrorContains(t, err, says, "%q", text)
	}
	_, err := ReadPack("1 l", nuts, amount.USGallon, measures)
	require.ErrorContains(t, err, "needs its density")
	_, err = ReadPack("1 kg", nil, amount.USGallon, measures)
	require.Error(t, err)
}

func TestALotsOwnStrengthAndPHCount(t *testing.T) {
	vinegar := pantry.Ingredient{ID: "v", DensityGPerML: 1.01, Acids: pantry.Acids{Acetic: 5},
		PH: &pantry.PHRange{Typical: 2.6, Low: 2.4, High: 2.9}}
	lot := func(strength, ph *float64, grams float64) Taken {
		return Taken{Facts{Strength: strength, PH: ph}, amount.G(grams)}
	}
	assert.Equal(t, vinegar, AsStated(vinegar, []Taken{lot(nil, nil, 100)}), "nothing is stated")
	got := AsStated(vinegar, []Taken{lot(value(6), nil, 300), lot(nil, nil, 100)})
	assert.InDelta(t, (300*6/1.01+100*5)/400, got.Acids.Acetic, 1e-9, "by what was taken of each")
	assert.InDelta(t, 2.6, got.PH.Typical, 0)
	got = AsStated(vinegar, []Taken{lot(nil, value(2.3), 900), lot(nil, value(3.1), 1)})
	assert.Equal(t, pantry.PHRange{Typical: 3.1, Low: 3.0, High: 3.2}, *got.PH,
		"the highest counts, however little of it")
	assert.InDelta(t, 5, got.Acids.Acetic, 1e-9)
	got = AsStated(vinegar, []Taken{lot(nil, value(2.3), 900), lot(nil, nil, 1)})
	assert.InDelta(t, 2.6, got.PH.Typical, 0, "a lot that states none counts as it is known")
	assert.InDelta(t, 5, vinegar.Acids.Acetic, 0, "the ingredient itself stays")
	weak := AsStated(vinegar, []Taken{lot(value(0), nil, 10)})
	assert.InDelta(t, 0, weak.Acids.Total(), 0)
}

func TestLotsBehindAPreparation(t *testing.T) {
	steps := []pantry.Preparation{
		{ID: "whole.juice", Input: "whole", Output: "juice", YieldPercent: 40, CoOutput: "zest", CoYield: 5},
		{ID: "crate.sort", Input: "crate", Output: "whole", YieldPercent: 80},
		{ID: "juice.boil", Input: "juice", Output: "syrup", YieldPercent: 50},
		{ID: "loop", Input: "juice", Output: "crate", YieldPercent: 100},
	}
	usable := func(id string) float64 { return map[string]float64{"crate": 50}[id] + 100*one(id != "crate") }
	got := Sources("zest", usable, steps)
	require.Len(t, got, 3+1)
	shares := map[string]float64{}
	for _, s := range got {
		shares[s.Ingredient] = s.Share.Float()
	}
	assert.InDelta(t, 1, shares["zest"], 0)
	assert.InDelta(t, 20, shares["whole"], 1e-9)
	assert.InDelta(t, 20/0.8/0.5, shares["crate"], 1e-9, "yields multiply, and what is usable of what is bought")
	assert.Equal(t, "", got[0].Step)
	for _, s := range got[1:] {
		assert.Equal(t, "whole.juice", s.Step, "the step that makes what reaches the bowl")
	}
	assert.Len(t, Sources("syrup", usable, steps), 4)
	assert.Len(t, Sources("nothing", usable, steps), 1)
}

func one(b bool) float64 {
	if b {
		return 1
	}
	return 0
}
