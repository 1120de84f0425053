package keeping

import (
	"fmt"
	"math"
	"testing"

	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestTheRulesAsShipped pins every figure of the rules. A change of one is a decision, and is written here too.
func TestTheRulesAsShipped(t *testing.T) {
	both, us, gb := []law.Regime{law.US, law.GB}, []law.Regime{law.US}, []law.Regime{law.GB}
	for i, want := range []struct {
		id     int
		title  string
		kind   string
		laws   []law.Regime
		params map[string]float64
	}{
		{1, "No measurement, no life", "safety", both, map[string]float64{"exempt_aw": 0.85}},
		{2, "Ambient only with proof", "safety", both, map[string]float64{"max_ph": 4.6, "exempt_aw": 0.85}},
		{3, "Time and temperature control", "safety", us, map[string]float64{"days": 6}},
		{4, "Listeria may grow", "safety", gb,
			map[string]float64{"days": 4, "max_ph": 4.4, "max_aw": 0.92, "both_ph": 5.0, "both_aw": 0.94}},
		{5, "Reduced oxygen, chilled", "safety", both,
			map[string]float64{"days": 10, "max_ph": 5.0, "min_salt": 3.5, "max_aw": 0.97,
				"heat_c": 90, "heat_min": 10, "milder_heat_c": 85, "milder_heat_min": 52}},
		{6, "Plants in oil", "safety", both, map[string]float64{"days": 4, "max_ph": 4.6}},
		{7, "Egg", "safety", both, map[string]float64{"days": 2, "max_ph": 4.1}},
		{8, "Perishable in, perishable out", "safety", both, map[string]float64{}},
		{9, "Quality", "quality", both, map[string]float64{"none": 7, "leafy_puree": 10, "nut_based": 60,
			"dairy_based": 21, "yolk_bound": 60,
			"yolk_bound_max_ph": 4.0, "shaken_nothing_fresh": 180, "pulse_or_root_dip": 21,
			"pulse_or_root_dip_max_ph": 4.4}},
		{10, "Frozen", "quality", both, map[string]float64{"days": 90, "puree_without_dairy": 180}},
		{11, "Dry low-acid ingredients", "safety", both, map[string]float64{}},
	} {
		r := Rules()[i]
		t.Run(want.title, func(t *testing.T) {
			assert.Equal(t, want.id, r.ID)
			assert.Equal(t, want.title, r.Title)
			assert.Equal(t, want.kind, r.Kind)
			assert.ElementsMatch(t, want.laws, r.Laws)
			assert.NotNil(t, r.Laws, "a list, also where it is empty")
			assert.Equal(t, want.params, r.Params)
			assert.True(t, r.On)
			assert.NotEmpty(t, r.Source)
			assert.NotContains(t, r.Told(), "{", "every figure of the text has its value")
		})
	}
	assert.Len(t, Rules(), 11)
}

// step is the least difference two readings can have here.
const step = 0.001

// plain are facts at which no rule but the one tried has anything to say: dry, acid, nothing fresh.
func plain(ph, aw float64) Facts {
	return Facts{DecisionPH: &ph, AW: &aw, QualityCapDays: days(700)}
}

// gives reports whether a rule gave a last day.
func gives(v Verdict, rule int) bool {
	for _, a := range v.Applied {
		if a.Rule == rule && a.Days != nil {
			return true
		}
	}
	return false
}

// TestTheInteractionTables tries each cell of the two tables of rule 3 at its corners and just beside them.
func TestTheInteractionTables(t *testing.T) {
	type span struct{ from, to float64 } // both ends belong to it
	type row struct {
		aw    span
		needs []bool
	}
	raw := []span{{3, 4.2 - step}, {4.2, 4.6}, {4.6 + step, 5.0}, {5.0 + step, 7}}
	heated := []span{{3, 4.6}, {4.6 + step, 5.6}, {5.6 + step, 7}}
	for _, table := range []struct {
		name string
		heat bool
		cols []span
		rows []row
	}{
		{"not heat-treated in the pack", false, raw, []row{
			{span{0.5, 0.88 - step}, []bool{false, false, false, false}},
			{span{0.88, 0.90}, []bool{false, false, false, true}},
			{span{0.90 + step, 0.92}, []bool{false, false, true, true}},
			{span{0.92 + step, 1}, []bool{false, true, true, true}},
		}},
		{"heat-treated in the pack", true, heated, []row{
			{span{0.5, 0.92}, []bool{false, false, false}},
			{span{0.92 + step, 0.95}, []bool{false, false, true}},
			{span{0.95 + step, 1}, []bool{false, true, true}},
		}},
	} {
		for _, r := range table.rows {
			for c, col := range table.cols {
				for _, ph := range []float64{col.from, col.to} {
					for _, aw := range []float64{r.aw.from, r.aw.to} {
						t.Run(fmt.Sprintf("%s, pH %g, a_w %g", table.name, ph, aw), func(t *testing.T) {
							f := plain(ph, aw)
							f.HeatStepMet = table.heat
							assert.Equal(t, r.needs[c], gives(Judge(of(t, law.US), Chilled, f, Rules()), ruleTimeTemp))
						})
					}
				}
			}
		}
	}
}

// limit is a mark of a rule: at it the rule holds back, one step beyond it speaks.
type limit struct {
	name  string
	rule  int
	law   law.Regime
	facts func(beyond float64) Facts // beyond is 0 at the mark, one step past it else
}

func TestEachMarkOfARuleAtItAndBesideIt(t *testing.T) {
	sealed := func(f Facts) Facts { f.ReducedOxygen = true; return f }
	for _, c := range []limit{
		{"Listeria, pH 4.4", ruleListeria, law.GB, func(x float64) Facts { return plain(4.4+x, 0.99) }},
		{"Listeria, a_w 0.92", ruleListeria, law.GB, func(x float64) Facts { return plain(6, 0.92+x) }},
		{"Listeria, pH 5.0 with a_w 0.94", ruleListeria, law.GB, func(x float64) Facts { return plain(5.0+x, 0.94) }},
		{"Listeria, a_w 0.94 with pH 5.0", ruleListeria, law.GB, func(x float64) Facts { return plain(5.0, 0.94+x) }},
		{"reduced oxygen, pH 5.0", ruleOxygen, law.GB, func(x float64) Facts { return sealed(plain(5.0+x, 0.99)) }},
		{"reduced oxygen, a_w 0.97", ruleOxygen, law.US, func(x float64) Facts { return sealed(plain(6, 0.97+x)) }},
		{"reduced oxygen, salt 3.5 %", ruleOxygen, law.US, func(x float64) Facts {
			f := sealed(plain(6, 0.99))
			f.SaltInWater = 3.5 - x
			return f
		}},
		{"reduced oxygen, 90 °C", ruleOxygen, law.US, func(x float64) Facts {
			f := sealed(plain(6, 0.99))
			f.HeatInPackC, f.HeatInPackMinutes = 90-x, 10
			return f
		}},
		{"reduced oxygen, 10 minutes", ruleOxygen, law.US, func(x float64) Facts {
			f := sealed(plain(6, 0.99))
			f.HeatInPackC, f.HeatInPackMinutes = 90, 10-x
			return f
		}},
		{"reduced oxygen, 85 °C", ruleOxygen, law.US, func(x float64) Facts {
			f := sealed(plain(6, 0.99))
			f.HeatInPackC, f.HeatInPackMinutes = 85-x, 52
			return f
		}},
		{"reduced oxygen, 52 minutes", ruleOxygen, law.US, func(x float64) Facts {
			f := sealed(plain(6, 0.99))
			f.HeatInPackC, f.HeatInPackMinutes = 85, 52-x
			return f
		}},
		{"plants in oil, pH 4.6", rulePlantsOil, law.US, func(x float64) Facts {
			f := plain(4.6+x, 0.8)
			f.PlantsInOil = true
			return f
		}},
	} {
		t.Run(c.name, func(t *testing.T) {
			assert.False(t, gives(Judge(of(t, c.law), Chilled, c.facts(0), Rules()), c.rule), "at the mark")
			assert.True(t, gives(Judge(of(t, c.law), Chilled, c.facts(step), Rules()), c.rule), "one step beyond it")
		})
	}
}

func TestTheLastDayOfEachRule(t *testing.T) {
	wet := func() Facts { return plain(6, 0.99) }
	with := func(f Facts, change func(*Facts)) Facts { change(&f); return f }
	for _, c := range []struct {
		name  string
		asked string
		law   law.Regime
		facts Facts
		days  int
		rule  int
		kind  string
	}{
		{"control of time and temperature", Chilled, law.US, wet(), 6, 3, UseBy},
		{"the product assessment's own days", Chilled, law.US,
			with(wet(), func(f *Facts) { f.ProductAssessment = days(33) }), 33, 3, UseBy},
		{"Listeria", Chilled, law.GB, wet(), 4, 4, UseBy},
		{"the Listeria study's own days", Chilled, law.GB, with(wet(), func(f *Facts) { f.ListeriaDays = days(31) }),
			31, 4, UseBy},
		{"reduced oxygen", Chilled, law.GB, with(wet(),
			func(f *Facts) { f.ReducedOxygen, f.ListeriaStudy = true, true }), 10, 5, UseBy},
		{"plants in oil", Chilled, law.US, with(wet(), func(f *Facts) { f.PlantsInOil = true }), 4, 6, UseBy},
		{"plants in oil and nothing to measure", Chilled, law.US,
			Facts{DecisionPH: nil, NoWaterPhase: true, PlantsInOil: true, LaboratoryAW: f64(0.5),
				QualityCapDays: days(700)}, 4, 6, UseBy},
		{"raw egg in GB", Chilled, law.GB, with(plain(4.1, 0.9), func(f *Facts) { f.RawEgg = true }), 2, 7, UseBy},
		{"the earliest perishable", Chilled, law.GB,
			with(plain(4.0, 0.9), func(f *Facts) { f.PerishableDays = days(3) }), 3, 8, UseBy},
		{"a perishable past its end", Chilled, law.GB,
			with(plain(4.0, 0.9), func(f *Facts) { f.PerishableDays = days(-2) }), 0, 8, UseBy},
		{"your own study", Chilled, law.GB, plain(4.0, 0.9), 700, 9, BestBefore},
		{"leafy purée", Chilled, law.GB, Facts{DecisionPH: f64(4), AW: f64(0.9), Styles: []string{"leafy_puree"}}, 10,
			9, BestBefore},
		{"nut-based", Chilled, law.GB, Facts{DecisionPH: f64(4), AW: f64(0.9), Styles: []string{"nut_based"}}, 60, 9,
			BestBefore},
		{"dairy-based", Chilled, law.GB, Facts{DecisionPH: f64(4), AW: f64(0.9), Styles: []string{"dairy_based"}}, 21,
			9, BestBefore},
		{"yolk-bound at pH 4.0", Chilled, law.GB,
			Facts{DecisionPH: f64(4), AW: f64(0.9), Styles: []string{"yolk_bound"}}, 60, 9, BestBefore},
		{"yolk-bound just above", Chilled, law.GB,
			Facts{DecisionPH: f64(4 + step), AW: f64(0.9), Styles: []string{"yolk_bound"}}, 7, 9, BestBefore},
		{"shaken, nothing fresh", Chilled, law.GB,
			Facts{DecisionPH: f64(4), AW: f64(0.9), Styles: []string{"shaken_nothing_fresh"}}, 180, 9, BestBefore},
		{"a dip at pH 4.4", Chilled, law.GB,
			Facts{DecisionPH: f64(4.4), AW: f64(0.9), Styles: []string{"pulse_or_root_dip"}}, 21, 9, BestBefore},
		{"a dip just above", Chilled, law.GB,
			Facts{DecisionPH: f64(4.4 + step), AW: f64(0.9), Styles: []string{"pulse_or_root_dip"}}, 7, 9, BestBefore},
		{"no style", Chilled, law.GB, Facts{DecisionPH: f64(4), AW: f64(0.9)}, 7, 9, BestBefore},
		{"the least of two styles", Chilled, law.GB,
			Facts{DecisionPH: f64(4), AW: f64(0.9), Styles: []string{"nut_based", "leafy_puree"}}, 10, 9, BestBefore},
		{"frozen", Frozen, law.GB, wet(), 90, 10, BestBefore},
		{"frozen purée", Frozen, law.US, with(wet(), func(f *Facts) { f.Styles = []string{"leafy_puree"} }), 180, 10,
			BestBefore},
		{"frozen purée with dairy", Frozen, law.US,
			with(wet(), func(f *Facts) { f.Styles, f.Dairy = []string{"leafy_puree"}, true }), 90, 10, BestBefore},
	} {
		t.Run(c.name, func(t *testing.T) {
			v := Judge(of(t, c.law), c.asked, c.facts, Rules())
			require.NotNil(t, v.Days, v.Reason)
			assert.Equal(t, c.days, *v.Days, v.Reason)
			assert.Equal(t, []int{c.rule}, v.Binding)
			assert.Equal(t, &c.kind, v.DateKind)
			assert.NotContains(t, v.Reason, "{")
		})
	}
}

func TestAmbientNeedsEachProofAndOwnsItsMarks(t *testing.T) {
	proven := func(ph float64) Facts {
		return Facts{DecisionPH: &ph, AW: f64(0.95), HeatStepMet: true, AuthorityDocument: true,
			QualityCapDays: days(90)}
	}
	ambient := func(f Facts) bool { return Judge(of(t, law.US), Ambient, f, Rules()).Condition == Ambient }
	assert.True(t, ambient(proven(4.6)))
	assert.False(t, ambient(proven(4.6+step)))
	for name, take := range map[string]func(*Facts){
		"the heat step":                   func(f *Facts) { f.HeatStepMet = false },
		"the document":                    func(f *Facts) { f.AuthorityDocument = false },
		"a measurement":                   func(f *Facts) { f.Provisional = true },
		"a reading":                       func(f *Facts) { f.DecisionPH = nil },
		"a reading under a tighter limit": func(f *Facts) { f.Limit = 4.2 },
	} {
		f := proven(4.5)
		take(&f)
		assert.False(t, ambient(f), "without %s", name)
	}
	within := proven(4.2)
	within.Limit = 4.2
	assert.True(t, ambient(within))
	loose := proven(4.6 + step)
	loose.Limit = 5
	assert.False(t, ambient(loose), "a looser limit of the version lifts nothing")
	assert.True(t, ambient(Facts{LaboratoryAW: f64(0.85), QualityCapDays: days(9)}),
		"a laboratory's 0.85 needs no more")
	assert.False(t, ambient(Facts{DecisionPH: f64(6), LaboratoryAW: f64(0.85 + step), QualityCapDays: days(9)}))
	oil := proven(4.7)
	oil.PlantsInOil, oil.LaboratoryAW = true, f64(0.8)
	v := Judge(of(t, law.US), Ambient, oil, Rules())
	assert.Equal(t, Chilled, v.Condition)
	assert.Equal(t, []int{6}, v.AmbientRefusedBy)
	assert.Contains(t, v.Reason, "ambient was refused: plants in oil")
}

func TestWithoutAReadingThereIsNoLife(t *testing.T) {
	for _, c := range []struct {
		name  string
		facts Facts
		life  bool
	}{
		{"nothing is known", Facts{}, false},
		{"an estimated water activity is no reading", Facts{AW: f64(0.5)}, false},
		{"a laboratory's water activity of 0.85", Facts{LaboratoryAW: f64(0.85)}, true},
		{"a laboratory's just above", Facts{LaboratoryAW: f64(0.85 + step)}, false},
		{"oil that nothing fresh touched", Facts{NoWaterPhase: true}, true},
		{"oil that plants touched", Facts{NoWaterPhase: true, PlantsInOil: true}, false},
		{"a reading", Facts{DecisionPH: f64(4)}, true},
	} {
		t.Run(c.name, func(t *testing.T) {
			v := Judge(of(t, law.GB), Chilled, c.facts, Rules())
			assert.Equal(t, c.life, v.Days != nil)
			assert.Equal(t, c.life, v.DateKind != nil)
			if !c.life {
				assert.Equal(t, []int{1}, v.Binding)
			}
		})
	}
}

// TestATightenedRuleSaysItsOwnDays changes one rule's days and reads them in the sentence a maker would repeat.
func TestATightenedRuleSaysItsOwnDays(t *testing.T) {
	rules := Rules()
	rules[2].Params["days"] = 4
	rules[3].Params["days"] = 3
	us := Judge(of(t, law.US), Chilled, plain(6, 0.99), rules)
	assert.Equal(t, 4, *us.Days)
	assert.Contains(t, us.Reason, "5 days with the day of making as day 1")
	assert.NotContains(t, us.Reason, "7 days")
	gb := Judge(of(t, law.GB), Chilled, plain(6, 0.99), rules)
	assert.Equal(t, 3, *gb.Days)
	assert.Contains(t, gb.Reason, "supports Listeria growth: 3 days after making")
	assert.Equal(t, 6.0, Rules()[2].Params["days"], "the shipped rules stay as they were")
}

// TestUseByFollowsFromTheRulesKind moves the kind of a rule and sees the date follow, whatever the rule's number.
func TestUseByFollowsFromTheRulesKind(t *testing.T) {
	rules := Rules()
	rules[8].Kind = Safety
	v := Judge(of(t, law.GB), Chilled, plain(4, 0.9), rules)
	assert.Equal(t, UseBy, *v.DateKind)
	rules = Rules()
	rules[2].Kind = Quality
	v = Judge(of(t, law.US), Chilled, plain(6, 0.99), rules)
	assert.Equal(t, BestBefore, *v.DateKind)
}

func TestARuleThatIsOffSaysNothing(t *testing.T) {
	for _, id := range []int{3, 5, 6} {
		rules := Rules()
		rules[id-1].On = false
		f := plain(6, 0.99)
		f.ReducedOxygen, f.PlantsInOil = true, true
		assert.True(t, gives(Judge(of(t, law.US), Chilled, f, Rules()), id))
		assert.False(t, gives(Judge(of(t, law.US), Chilled, f, rules), id), "rule %d", id)
	}
	rules := Rules()
	rules[10].On = false
	assert.True(t, AsksKillStep(of(t, law.US), Rules()))
	assert.False(t, AsksKillStep(of(t, law.US), rules))
}

// TestEveryKeepingStyleHasItsDaysAndItsWords reads the list of styles from the outside.
func TestEveryKeepingStyleHasItsDaysAndItsWords(t *testing.T) {
	assert.Equal(t, []string{"leafy_puree", "nut_based", "dairy_based", "yolk_bound", "shaken_nothing_fresh",
		"pulse_or_root_dip"}, Styles)
	for _, s := range Styles {
		assert.NotEmpty(t, StyleNames[s])
		assert.Greater(t, Rules()[8].Params[s], 0.0)
	}
	assert.Len(t, StyleNames, len(Styles))
}

// TestMoreNeverKeepsLonger: a higher pH or water activity never lengthens a life, under either law.
func TestMoreNeverKeepsLonger(t *testing.T) {
	for _, l := range law.All() {
		last := map[float64]int{}
		for ph := 3.5; ph <= 7; ph += 0.05 {
			before := math.MaxInt
			for aw := 0.8; aw <= 1.0001; aw += 0.005 {
				f := plain(math.Round(ph*1000)/1000, math.Round(aw*1000)/1000)
				f.ReducedOxygen = true
				d := *Judge(l, Chilled, f, Rules()).Days
				assert.LessOrEqual(t, d, before, "%s pH %g a_w %g", l.Regime, ph, aw)
				if was, seen := last[*f.AW]; seen {
					assert.LessOrEqual(t, d, was, "%s pH %g a_w %g", l.Regime, ph, aw)
				}
				before, last[*f.AW] = d, d
			}
		}
	}
}
