package keeping

import (
	"encoding/json"
	"os"
	"testing"

	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAVerdictIsToldWhole holds all that a verdict says against testdata/verdicts.json, for each way it may go.
func TestAVerdictIsToldWhole(t *testing.T) {
	raw, err := os.ReadFile("testdata/verdicts.json")
	require.NoError(t, err)
	var told map[string]Verdict
	require.NoError(t, json.Unmarshal(raw, &told))
	wet := func(change func(*Facts)) Facts {
		f := Facts{DecisionPH: f64(4.75), AW: f64(0.985), SaltInWater: 1.26, Styles: []string{"pulse_or_root_dip"}}
		change(&f)
		return f
	}
	for _, c := range []struct {
		name, asked string
		law         law.Regime
		facts       Facts
	}{
		{"chilled", Chilled, law.GB, wet(func(f *Facts) { f.ReducedOxygen = true })},
		{"two rules with one day", Chilled, law.GB, wet(func(f *Facts) { f.PerishableDays = days(4) })},
		{"chilled in the US, one day", Chilled, law.US, wet(func(f *Facts) { f.PerishableDays = days(1) })},
		{"frozen", Frozen, law.GB, wet(func(f *Facts) { f.Provisional = true })},
		{"frozen, not measured", Frozen, law.GB, wet(func(f *Facts) { f.DecisionPH = nil })},
		{"refused", Chilled, law.US, wet(func(f *Facts) { f.RawEgg = true })},
		{"refused frozen", Frozen, law.GB, wet(func(f *Facts) { f.RawEgg = true })},
		{"ambient refused twice", Ambient, law.GB, wet(func(f *Facts) { f.PlantsInOil = true })},
		{"ambient", Ambient, law.GB, wet(func(f *Facts) {
			f.DecisionPH, f.HeatStepMet, f.AuthorityDocument, f.QualityCapDays = f64(3.9), true, true, days(300)
		})},
		{"nothing to say", Chilled, law.GB, Facts{NoWaterPhase: true}},
	} {
		t.Run(c.name, func(t *testing.T) {
			rules := Rules()
			if c.name == "nothing to say" {
				rules[ruleQuality-1].On = false
			}
			require.Contains(t, told, c.name)
			assert.Equal(t, told[c.name], Judge(of(t, c.law), c.asked, c.facts, rules))
		})
	}
}
