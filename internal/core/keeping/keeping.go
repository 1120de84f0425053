// Package keeping decides how long a product keeps and how: storage condition, last day, date kind, and the
// sentence that explains it. The rules are data (rules.json); this package knows how to apply them to facts.
package keeping

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
)

//go:embed rules.json
var rulesJSON []byte

// Rule is one rule as data. Params hold its days, pH and water-activity marks.
type Rule struct {
	ID           int                `json:"id"`
	Title        string             `json:"title"`
	Jurisdiction string             `json:"jurisdiction"` // US, GB or any
	On           bool               `json:"on"`
	Params       map[string]float64 `json:"params"`
	Text         string             `json:"text"`
	Source       string             `json:"source"`
}

// Rules returns the rules as shipped, in order of their numbers.
func Rules() []Rule {
	var rules []Rule
	if err := json.Unmarshal(rulesJSON, &rules); err != nil {
		panic("keeping: rules.json: " + err.Error()) // shipped with the program and covered by a test
	}
	return rules
}

// The numbers of the rules, as in handbook 06.
const (
	ruleMeasure    = 1
	ruleAmbient    = 2
	ruleTimeTemp   = 3
	ruleListeria   = 4
	ruleOxygen     = 5
	rulePlantsOil  = 6
	ruleEgg        = 7
	rulePerishable = 8
	ruleQuality    = 9
	ruleFrozen     = 10
)

// Conditions a product may be kept in.
const (
	Frozen  = "frozen"
	Chilled = "chilled"
	Ambient = "ambient"
)

// Date kinds.
const (
	UseBy      = "use_by"
	BestBefore = "best_before"
)

// Facts are what the rules look at. Absent facts are false or unknown. Days count from the day of making.
type Facts struct {
	Regime            string   `json:"regime"`
	DecisionPH        *float64 `json:"decision_ph"`
	Provisional       bool     `json:"provisional,omitempty"` // DecisionPH is the estimate's high end
	AW                *float64 `json:"aw,omitempty"`          // the value the rules use
	LaboratoryAW      *float64 `json:"laboratory_aw,omitempty"`
	SaltInWater       float64  `json:"salt_in_water_percent,omitempty"`
	Limit             float64  `json:"limit,omitempty"`
	NoWaterPhase      bool     `json:"no_water_phase,omitempty"`
	ReducedOxygen     bool     `json:"reduced_oxygen,omitempty"`
	PlantsInOil       bool     `json:"plants_in_oil,omitempty"`
	RawEgg            bool     `json:"raw_egg,omitempty"`
	Dairy             bool     `json:"dairy,omitempty"`
	HeatStepMet       bool     `json:"heat_step_met,omitempty"`
	HeatInPackC       float64  `json:"heat_in_pack_c,omitempty"`
	HeatInPackMinutes float64  `json:"heat_in_pack_min,omitempty"`
	AuthorityDocument bool     `json:"authority_document,omitempty"`
	ProductAssessment *int     `json:"product_assessment_days,omitempty"`
	ListeriaStudy     bool     `json:"listeria_study,omitempty"`
	ListeriaDays      *int     `json:"listeria_study_days,omitempty"`
	PerishableDays    *int     `json:"shortest_perishable_days,omitempty"`
	QualityCapDays    *int     `json:"quality_cap_days,omitempty"` // the maker's own study
	Styles            []string `json:"styles,omitempty"`
}

// Applied is one rule that gave a last day, or refused.
type Applied struct {
	Rule     int    `json:"rule"`
	Title    string `json:"title"`
	Days     *int   `json:"days"`
	Sentence string `json:"sentence"`
}

// Verdict is the storage condition and life with the reasons. Days is nil where none may be given.
type Verdict struct {
	Condition        string    `json:"condition"`
	Days             *int      `json:"days"`
	Binding          []int     `json:"binding"`
	DateKind         *string   `json:"date_kind"`
	AmbientRefusedBy []int     `json:"ambient_refused_by"`
	Applied          []Applied `json:"applied"`
	Reason           string    `json:"reason"`
	Refused          bool      `json:"refused"`
	Provisional      bool      `json:"provisional"`
}

type judge struct {
	facts   Facts
	rules   map[int]Rule
	ambient bool
	frozen  bool
	v       Verdict
}

// Judge applies the rules to the facts for the condition that was asked. Precedence: refused, not yet, then days.
func Judge(asked string, f Facts, rules []Rule) Verdict {
	j := judge{facts: f, rules: map[int]Rule{}, frozen: asked == Frozen}
	for _, r := range rules {
		if r.On && (r.Jurisdiction == "any" || r.Jurisdiction == f.Regime) {
			j.rules[r.ID] = r
		}
	}
	j.v = Verdict{Condition: Chilled, Binding: []int{}, AmbientRefusedBy: []int{}, Applied: []Applied{}, Provisional: f.Provisional}
	if j.frozen {
		j.v.Condition = Frozen
	}
	if asked == Ambient {
		j.judgeAmbient()
	}
	if j.rawEggRefused() {
		return j.refuse(ruleEgg)
	}
	if !j.measured() {
		j.v.Binding = []int{ruleMeasure}
		j.v.Reason = "No storage life yet: the deciding reading comes first."
		return j.v
	}
	j.applyAll()
	j.bind()
	return j.v
}

func (j *judge) rule(id int) (Rule, bool) {
	r, ok := j.rules[id]
	return r, ok
}

// measured is rule 1: a decision value exists, or the goods are exempt.
func (j *judge) measured() bool {
	r, on := j.rule(ruleMeasure)
	f := j.facts
	if f.DecisionPH != nil || !on {
		return true
	}
	return f.NoWaterPhase && !f.PlantsInOil || f.LaboratoryAW != nil && *f.LaboratoryAW <= r.Params["exempt_aw"]
}

// judgeAmbient is rule 2, and rule 6's refusal of anything ambient.
func (j *judge) judgeAmbient() {
	f := j.facts
	if r, on := j.rule(ruleAmbient); on {
		dry := f.LaboratoryAW != nil && *f.LaboratoryAW <= r.Params["exempt_aw"]
		limit := r.Params["max_ph"]
		if f.Limit > 0 {
			limit = min(limit, f.Limit)
		}
		acid := f.DecisionPH != nil && !f.Provisional && *f.DecisionPH <= limit
		if !dry && (!acid || !f.HeatStepMet || !f.AuthorityDocument) {
			j.v.AmbientRefusedBy = append(j.v.AmbientRefusedBy, ruleAmbient)
		}
	}
	if j.plantsInOilApply() {
		j.v.AmbientRefusedBy = append(j.v.AmbientRefusedBy, rulePlantsOil)
	}
	if len(j.v.AmbientRefusedBy) == 0 {
		j.ambient = true
		j.v.Condition = Ambient
	}
}

func (j *judge) rawEggRefused() bool {
	r, on := j.rule(ruleEgg)
	if !on || !j.facts.RawEgg {
		return false
	}
	return j.facts.Regime == "US" || j.facts.DecisionPH != nil && *j.facts.DecisionPH > r.Params["max_ph"]
}

func (j *judge) refuse(id int) Verdict {
	r := j.rules[id]
	j.v.Refused = true
	j.v.Binding = []int{id}
	j.v.Applied = append(j.v.Applied, Applied{id, r.Title, nil, r.Text})
	j.v.Reason = "Refused. " + r.Text
	return j.v
}

func (j *judge) plantsInOilApply() bool {
	r, on := j.rule(rulePlantsOil)
	if !on || !j.facts.PlantsInOil {
		return false
	}
	return j.facts.DecisionPH == nil || *j.facts.DecisionPH > r.Params["max_ph"]
}

func (j *judge) give(id, days int, sentence string) {
	j.v.Applied = append(j.v.Applied, Applied{id, j.rules[id].Title, &days, sentence})
}

func (j *judge) applyAll() {
	if j.frozen {
		j.applyFrozen()
		return
	}
	j.applyTimeTemperature()
	j.applyListeria()
	j.applyOxygen()
	if j.plantsInOilApply() {
		r := j.rules[rulePlantsOil]
		j.give(rulePlantsOil, int(r.Params["days"]), fmt.Sprintf("plants in oil at pH %s, above %g: %g days after making", j.ph(), r.Params["max_ph"], r.Params["days"]))
	}
	if r, on := j.rule(ruleEgg); on && j.facts.RawEgg {
		j.give(ruleEgg, int(r.Params["days"]), fmt.Sprintf("unpasteurised egg: %g days after making, assured eggs only, not for vulnerable eaters", r.Params["days"]))
	}
	if _, on := j.rule(rulePerishable); on && j.facts.PerishableDays != nil {
		j.give(rulePerishable, max(0, *j.facts.PerishableDays), "the earliest end among the perishable ingredients and components")
	}
	j.applyQuality()
}

func (j *judge) ph() string {
	if j.facts.DecisionPH == nil {
		return "unknown"
	}
	return fmt.Sprintf("%.2f", *j.facts.DecisionPH)
}

// unknownAW stands in for a missing water activity: as wet as can be, the cautious side.
const unknownAW = 1.0

func (j *judge) aw() float64 {
	if j.facts.LaboratoryAW != nil {
		return *j.facts.LaboratoryAW
	}
	if j.facts.AW != nil {
		return *j.facts.AW
	}
	return unknownAW
}

// neutralPH stands in where no pH exists because there is no water phase to measure.
const neutralPH = 7.0

func (j *judge) pH() float64 {
	if j.facts.DecisionPH == nil {
		return neutralPH
	}
	return *j.facts.DecisionPH
}

func (j *judge) applyTimeTemperature() {
	r, on := j.rule(ruleTimeTemp)
	if !on || j.facts.NoWaterPhase || !needsControl(j.pH(), j.aw(), j.facts.HeatStepMet) {
		return
	}
	if d := j.facts.ProductAssessment; d != nil {
		j.give(ruleTimeTemp, *d, "the attached product assessment")
		return
	}
	j.give(ruleTimeTemp, int(r.Params["days"]), fmt.Sprintf("pH %s with water activity %.3f needs time and temperature control: 7 days with the day of making as day 1", j.ph(), j.aw()))
}

// needsControl reads the interaction tables of rule 3 (US FDA Food Code 1-201.10, tables A and B);
// "assess" counts as yes unless a product assessment is attached.
func needsControl(pH, aw float64, heatTreated bool) bool {
	if heatTreated {
		switch {
		case pH <= 4.6 || aw <= 0.92:
			return false
		case pH <= 5.6:
			return aw > 0.95
		}
		return true
	}
	switch {
	case aw < 0.88:
		return false
	case aw <= 0.90:
		return pH > 5.0
	case aw <= 0.92:
		return pH > 4.6
	}
	return pH >= 4.2
}

func (j *judge) applyListeria() {
	r, on := j.rule(ruleListeria)
	if !on || j.facts.NoWaterPhase {
		return
	}
	p := r.Params
	pH, aw := j.pH(), j.aw()
	if pH <= p["max_ph"] || aw <= p["max_aw"] || pH <= p["both_ph"] && aw <= p["both_aw"] {
		return
	}
	if j.facts.ListeriaDays != nil {
		j.give(ruleListeria, *j.facts.ListeriaDays, "the attached study with Listeria counts")
		return
	}
	if j.facts.ListeriaStudy {
		return
	}
	j.give(ruleListeria, int(p["days"]), fmt.Sprintf("pH %s with water activity %.3f supports Listeria growth: %g days after making", j.ph(), aw, p["days"]))
}

func (j *judge) applyOxygen() {
	r, on := j.rule(ruleOxygen)
	if !on || j.ambient || !j.facts.ReducedOxygen || j.facts.NoWaterPhase {
		return
	}
	p, f := r.Params, j.facts
	if j.pH() <= p["max_ph"] || f.SaltInWater >= p["min_salt"] || j.aw() <= p["max_aw"] || heatInPackControls(f) {
		return
	}
	j.give(ruleOxygen, int(p["days"]), fmt.Sprintf("sealed from air with no controlling factor (pH %s, salt in water %.1f %%, water activity %.3f): %g days after making", j.ph(), f.SaltInWater, j.aw(), p["days"]))
}

// heatInPackControls: 90 °C for 10 min or 85 °C for 52 min in the pack; no extra credit above 90 °C (handbook 06 rule 5).
func heatInPackControls(f Facts) bool {
	return f.HeatInPackC >= 90 && f.HeatInPackMinutes >= 10 || f.HeatInPackC >= 85 && f.HeatInPackMinutes >= 52
}

func (j *judge) applyFrozen() {
	r, on := j.rule(ruleFrozen)
	if !on {
		return
	}
	days := int(r.Params["days"])
	if slices.Contains(j.facts.Styles, "leafy_puree") && !j.facts.Dairy {
		days = int(r.Params["puree_without_dairy"])
	}
	j.give(ruleFrozen, days, fmt.Sprintf("frozen at or below -18 °C: %d days", days))
}

// Styles are the keeping styles of rule 9.
var Styles = []string{"leafy_puree", "nut_based", "dairy_based", "yolk_bound", "shaken_nothing_fresh", "pulse_or_root_dip"}

// StyleNames are the keeping styles in words.
var StyleNames = map[string]string{"leafy_puree": "leafy purées", "nut_based": "nut-based products", "dairy_based": "dairy-based products",
	"yolk_bound": "yolk-bound dressings", "shaken_nothing_fresh": "shaken dressings with nothing fresh", "pulse_or_root_dip": "pulse and root dips"}

func (j *judge) applyQuality() {
	r, on := j.rule(ruleQuality)
	if !on {
		return
	}
	if d := j.facts.QualityCapDays; d != nil {
		j.give(ruleQuality, *d, fmt.Sprintf("your own study, %d days", *d))
		return
	}
	best, why := -1, ""
	for _, s := range Styles {
		if !slices.Contains(j.facts.Styles, s) {
			continue
		}
		if m, has := r.Params[s+"_max_ph"]; has && j.pH() > m {
			continue
		}
		if d := int(r.Params[s]); best < 0 || d < best {
			best, why = d, fmt.Sprintf("the quality cap for %s, %d days", StyleNames[s], d)
		}
	}
	if best < 0 {
		best = int(r.Params["none"])
		why = fmt.Sprintf("quality: no keeping style fits, so %d days", best)
	}
	j.give(ruleQuality, best, why)
}

// bind picks the earliest last day; ties name all. A use by whenever any safety rule (3 to 8) gives a finite day.
func (j *judge) bind() {
	kind := BestBefore
	for _, a := range j.v.Applied {
		if a.Rule >= ruleTimeTemp && a.Rule <= rulePerishable {
			kind = UseBy
		}
		switch {
		case j.v.Days == nil || *a.Days < *j.v.Days:
			d := *a.Days
			j.v.Days, j.v.Binding = &d, []int{a.Rule}
		case *a.Days == *j.v.Days:
			j.v.Binding = append(j.v.Binding, a.Rule)
		}
	}
	if j.v.Days == nil {
		j.v.Reason = "No rule gives a last day; set a keeping style."
		return
	}
	j.v.DateKind = &kind
	j.v.Reason = j.reason()
}

func (j *judge) reason() string {
	var because []string
	for _, a := range j.v.Applied {
		if slices.Contains(j.v.Binding, a.Rule) {
			because = append(because, a.Sentence)
		}
	}
	where := map[string]string{Chilled: "Chilled at or below 5 °C", Ambient: "Ambient", Frozen: "Frozen at or below -18 °C"}[j.v.Condition]
	days := fmt.Sprintf("%d days after making", *j.v.Days)
	if *j.v.Days == 1 {
		days = "1 day after making"
	}
	s := fmt.Sprintf("%s, last day %s, because of %s", where, days, strings.Join(because, " and "))
	if len(j.v.AmbientRefusedBy) > 0 {
		s += "; ambient was refused by rule " + strings.Trim(strings.Join(strings.Fields(fmt.Sprint(j.v.AmbientRefusedBy)), " and "), "[]")
	}
	return s + "."
}
