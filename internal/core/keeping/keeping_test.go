package keeping

import (
	"testing"

	"gallipot/internal/cases"
	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestJudgeReproducesWorkedCases(t *testing.T) {
	var file struct {
		Cases []struct {
			Name  string
			Asked string
			Facts struct {
				Facts
				Regime law.Regime
			}
			Want struct {
				Condition string
				Days      *int
				Binding   []int
				DateKind  *string `json:"date_kind"`
				Refused   []int   `json:"ambient_refused_by"`
			}
		}
	}
	cases.Load(t, "keeping.json", &file)
	require.NotEmpty(t, file.Cases)
	for _, c := range file.Cases {
		t.Run(c.Name, func(t *testing.T) {
			v := Judge(of(t, c.Facts.Regime), c.Asked, c.Facts.Facts, Rules())
			assert.Equal(t, c.Want.Condition, v.Condition)
			assert.Equal(t, c.Want.Days, v.Days)
			assert.Equal(t, c.Want.Binding, v.Binding)
			assert.Equal(t, c.Want.DateKind, v.DateKind)
			assert.Equal(t, c.Want.Refused, v.AmbientRefusedBy)
			assert.NotEmpty(t, v.Reason)
		})
	}
}

func of(t testing.TB, r law.Regime) *law.Law {
	t.Helper()
	l, err := law.Of(r)
	require.NoError(t, err)
	return l
}

func f64(x float64) *float64 { return &x }
func days(x int) *int        { return &x }

func TestRules(t *testing.T) {
	for _, c := range []struct {
		name    string
		asked   string
		regime  law.Regime
		facts   Facts
		days    *int
		binding []int
		refused bool
	}{
		{"raw egg is refused in the US", Chilled, law.US, Facts{DecisionPH: f64(3.8), RawEgg: true}, nil, []int{7},
			true},
		{"raw egg in GB keeps two days at 4.1", Chilled, law.GB,
			Facts{DecisionPH: f64(4.0), AW: f64(0.95), RawEgg: true}, days(2), []int{7}, false},
		{"raw egg in GB is refused above 4.1", Chilled, law.GB, Facts{DecisionPH: f64(4.3), RawEgg: true}, nil,
			[]int{7}, true},
		{"reduced oxygen binds where US control does not", Chilled, law.US,
			Facts{DecisionPH: f64(5.2), AW: f64(0.985), ReducedOxygen: true, ProductAssessment: days(40),
				QualityCapDays: days(60)}, days(10), []int{5}, false},
		{"salt of 3.5 % in the water lifts the oxygen rule", Chilled, law.US,
			Facts{DecisionPH: f64(5.2), AW: f64(0.985), SaltInWater: 3.5, ReducedOxygen: true,
				ProductAssessment: days(40), QualityCapDays: days(60)}, days(40), []int{3}, false},
		{"an exempt oil needs no reading", Chilled, law.US,
			Facts{NoWaterPhase: true, Styles: []string{"shaken_nothing_fresh"}}, days(180), []int{9}, false},
		{"an oil that plants touched is not exempt", Chilled, law.US, Facts{NoWaterPhase: true, PlantsInOil: true}, nil,
			[]int{1}, false},
		{"a cap that wants a lower pH does not fit", Chilled, law.GB,
			Facts{DecisionPH: f64(4.3), AW: f64(0.9), Styles: []string{"yolk_bound"}}, days(7), []int{9}, false},
		{"ties name all", Chilled, law.GB, Facts{DecisionPH: f64(5.5), AW: f64(0.99), QualityCapDays: days(4)}, days(4),
			[]int{4, 9}, false},
		{"frozen dairy keeps 90 days", Frozen, law.GB,
			Facts{DecisionPH: f64(5.5), AW: f64(0.99), Dairy: true, Styles: []string{"leafy_puree"}}, days(90),
			[]int{10}, false},
		{"a frozen purée without dairy keeps 180", Frozen, law.GB,
			Facts{DecisionPH: f64(5.5), AW: f64(0.99), Styles: []string{"leafy_puree"}}, days(180), []int{10}, false},
		{"a missing water activity counts as wet", Chilled, law.US,
			Facts{DecisionPH: f64(4.5), QualityCapDays: days(60)}, days(6), []int{3}, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			v := Judge(of(t, c.regime), c.asked, c.facts, Rules())
			assert.Equal(t, c.days, v.Days, v.Reason)
			assert.Equal(t, c.binding, v.Binding)
			assert.Equal(t, c.refused, v.Refused)
		})
	}
}

func TestAProvisionalPHNeverGrantsAmbient(t *testing.T) {
	v := Judge(of(t, law.US), Ambient, Facts{DecisionPH: f64(3.5), Provisional: true, AW: f64(0.95), HeatStepMet: true,
		AuthorityDocument: true, QualityCapDays: days(90)}, Rules())
	assert.Equal(t, Chilled, v.Condition)
	assert.Equal(t, []int{2}, v.AmbientRefusedBy)
}

func TestInteractionTables(t *testing.T) {
	for _, c := range []struct {
		ph, aw float64
		heat   bool
		want   bool
	}{
		{4.1, 0.99, false, false}, {4.2, 0.93, false, true}, {4.6, 0.91, false, false}, {4.7, 0.91, false, true},
		{5.0, 0.89, false, false},
		{5.1, 0.89, false, true}, {6.5, 0.87, false, false}, {4.6, 0.99, true, false}, {5.5, 0.95, true, false},
		{5.5, 0.96, true, true}, {5.7, 0.93, true, true}, {6.5, 0.92, true, false},
	} {
		assert.Equal(t, c.want, needsControl(c.ph, c.aw, c.heat), "pH %g aw %g heat %v", c.ph, c.aw, c.heat)
	}
}

func TestHeatInThePackGivesNoExtraCreditAboveNinety(t *testing.T) {
	assert.True(t, heatInPackControls(Facts{HeatInPackC: 90, HeatInPackMinutes: 10}, Rules()[4].Params))
	assert.True(t, heatInPackControls(Facts{HeatInPackC: 85, HeatInPackMinutes: 52}, Rules()[4].Params))
	assert.False(t, heatInPackControls(Facts{HeatInPackC: 98, HeatInPackMinutes: 5}, Rules()[4].Params))
}
