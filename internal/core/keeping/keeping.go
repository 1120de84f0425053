package keeping

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"gallipot/internal/core/law"
)

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
	ruleKillStep   = 11
)

// AsksKillStep reports whether rule 11 is in force under a law: each lot of a dry low-acid ingredient needs its proof.
func AsksKillStep(l *law.Law, rules []Rule) bool {
	return slices.ContainsFunc(rules, func(r Rule) bool { return r.ID == ruleKillStep && r.On && l.Applies(r.ID) })
}

// Conditions a product may be kept in.
const (
	Frozen  = law.Frozen
	Chilled = law.Chilled
	Ambient = law.Ambient
)

// Date kinds.
const (
	UseBy      = law.UseBy
	BestBefore = law.BestBefore
)

// What an ambient wish lacks until a batch is made.
const (
	NoReading = "no reading"
	NotMet    = "no heat step met on the coldest jar"
)

// NoDocument is what an ambient wish lacks where the document that a law asks for is not there.
func NoDocument(l *law.Law) string { return "no " + l.AmbientDocument }

// Facts are what the rules look at. Absent facts are false or unknown. Days count from the day of making.
type Facts struct {
	DecisionPH        *float64 `json:"decision_ph"`
	Provisional       bool     `json:"provisional,omitempty"` // DecisionPH is the estimate's high end
	AW                *float64 `json:"aw,omitempty"`          // the value the rules use
	LaboratoryAW      *float64 `json:"laboratory_aw,omitempty"`
	SaltInWater       float64  `json:"salt_in_water_percent,omitempty"`
	Limit             float64  `json:"limit,omitempty"`
	NoWaterPhase      bool     `json:"no_water_phase,omitempty"`
	ReducedOxygen     bool     `json:"reduced_oxygen,omitempty"`
	PlantsInOil       bool     `json:"plants_in_oil,omitempty"`
	OilShare          float64  `json:"oil_share,omitempty"`
	RawEgg            bool     `json:"raw_egg,omitempty"`
	Dairy             bool     `json:"dairy,omitempty"`
	HeatStepMet       bool     `json:"heat_step_met,omitempty"`
	HeatInPackC       float64  `json:"heat_in_pack_c,omitempty"`
	HeatInPackMinutes float64  `json:"heat_in_pack_min,omitempty"`
	Step              *Step    `json:"heat_step,omitempty"` // that the version states; nil: not told
	AuthorityDocument bool     `json:"authority_document,omitempty"`
	Document          *Step    `json:"document_step,omitempty"` // that the authority's document asks for; nil: not told
	ProductAssessment *int     `json:"product_assessment_days,omitempty"`
	ListeriaStudy     bool     `json:"listeria_study,omitempty"`
	ListeriaDays      *int     `json:"listeria_study_days,omitempty"`
	PerishableDays    *int     `json:"shortest_perishable_days,omitempty"`
	QualityCapDays    *int     `json:"quality_cap_days,omitempty"` // the maker's own study
	Styles            []string `json:"styles,omitempty"`
	Unfit             []string `json:"unfit_styles,omitempty"`   // chosen styles that do not fit, each with why
	StrainedClear     bool     `json:"strained_clear,omitempty"` // an infused oil: no piece and no watery layer is left
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
	AmbientLacks     []string  `json:"ambient_lacks"` // what it was refused for, in words
	Applied          []Applied `json:"applied"`
	Reason           string    `json:"reason"`
	Refused          bool      `json:"refused"`
	Provisional      bool      `json:"provisional"`
}

type judge struct {
	law     *law.Law
	facts   Facts
	rules   [ruleKillStep + 1]*Rule // those in force, by number
	ambient bool
	frozen  bool
	v       Verdict
}

// Judge applies the rules of a law to the facts for the condition that was asked. Precedence: refused, not yet, then
// days.
func Judge(l *law.Law, asked string, f Facts, rules []Rule) Verdict {
	j := judge{law: l, facts: f, frozen: asked == Frozen}
	for i := range rules {
		if r := &rules[i]; r.On && r.ID > 0 && r.ID < len(j.rules) && l.Applies(r.ID) {
			j.rules[r.ID] = r
		}
	}
	j.v = Verdict{Condition: Chilled, Binding: []int{}, AmbientRefusedBy: []int{}, AmbientLacks: []string{},
		Applied:     []Applied{},
		Provisional: f.Provisional}
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
		if j.facts.NoWaterPhase {
			j.v.Reason = "No storage life yet: whoever strains the oil says first that it is clear, with no watery layer."
		}
		return j.v
	}
	j.applyAll()
	j.bind()
	return j.v
}

func (j *judge) rule(id int) (Rule, bool) {
	if r := j.rules[id]; r != nil {
		return *r, true
	}
	return Rule{}, false
}

// measured is rule 1: a decision value exists, or the goods are exempt.
func (j *judge) measured() bool {
	r, on := j.rule(ruleMeasure)
	f := j.facts
	if f.DecisionPH != nil || !on {
		return true
	}
	return f.NoWaterPhase && (!f.PlantsInOil || f.StrainedClear) || f.LaboratoryAW != nil &&
		*f.LaboratoryAW <= r.Params["exempt_aw"]
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
		if lacks := f.ambientLacks(limit, j.law); !dry && len(lacks) > 0 {
			j.v.AmbientRefusedBy = append(j.v.AmbientRefusedBy, ruleAmbient)
			j.v.AmbientLacks = append(j.v.AmbientLacks, lacks...)
		}
	}
	if j.plantsInOilApply() {
		j.v.AmbientRefusedBy = append(j.v.AmbientRefusedBy, rulePlantsOil)
		j.v.AmbientLacks = append(j.v.AmbientLacks, "plants in oil")
	}
	if len(j.v.AmbientRefusedBy) == 0 {
		j.ambient = true
		j.v.Condition = Ambient
	}
}

// ambientLacks is what an ambient wish lacks under rule 2.
func (f Facts) ambientLacks(limit float64, l *law.Law) []string {
	var out []string
	switch {
	case f.DecisionPH == nil || f.Provisional:
		out = append(out, NoReading)
	case *f.DecisionPH > limit:
		out = append(out, fmt.Sprintf("a decision value over %.2f", limit))
	}
	if heat := f.ambientHeat(); heat != "" {
		out = append(out, heat)
	}
	if !f.AuthorityDocument {
		out = append(out, NoDocument(l))
	}
	return out
}

func (j *judge) rawEggRefused() bool {
	r, on := j.rule(ruleEgg)
	if !on || !j.facts.RawEgg {
		return false
	}
	return !j.law.UnpasteurisedEgg || j.facts.DecisionPH != nil && *j.facts.DecisionPH > r.Params["max_ph"]
}

func (j *judge) refuse(id int) Verdict {
	r := j.rules[id]
	j.v.Refused = true
	j.v.Binding = []int{id}
	j.v.Applied = append(j.v.Applied, Applied{id, r.Title, nil, r.Told()})
	j.v.Reason = "Refused. " + r.Told()
	return j.v
}

func (j *judge) plantsInOilApply() bool {
	r, on := j.rule(rulePlantsOil)
	if !on || !j.facts.PlantsInOil {
		return false
	}
	return j.facts.DecisionPH == nil || *j.facts.DecisionPH > r.Params["max_ph"]
}

// give takes a rule's own days with its own sentence.
func (j *judge) give(id int) {
	r := j.rules[id]
	j.giveDays(id, int(r.Params["days"]), r.fill(r.Sentence, j.told))
}

func (j *judge) giveDays(id, days int, sentence string) {
	j.v.Applied = append(j.v.Applied, Applied{id, j.rules[id].Title, &days, sentence})
}

// told are the facts that sentences name.
func (j *judge) told(name string) string {
	switch name {
	case "ph":
		return j.ph()
	case "aw":
		return strconv.FormatFloat(j.aw(), 'f', 3, 64)
	case "salt":
		return strconv.FormatFloat(j.facts.SaltInWater, 'f', 1, 64)
	}
	return ""
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
		j.givePlantsInOil()
	}
	if _, on := j.rule(ruleEgg); on && j.facts.RawEgg {
		j.give(ruleEgg)
	}
	if r, on := j.rule(rulePerishable); on && j.facts.PerishableDays != nil {
		j.giveDays(rulePerishable, max(0, *j.facts.PerishableDays), r.Sentence)
	}
	j.applyQuality()
}

// givePlantsInOil takes rule 6's days; an oil without a water phase has no pH to name.
func (j *judge) givePlantsInOil() {
	if j.facts.NoWaterPhase {
		r := j.rules[rulePlantsOil]
		j.giveDays(rulePlantsOil, int(r.Params["days"]),
			r.fill("oil in which plants were kept, strained or not: {days} days after making", nil))
		return
	}
	j.give(rulePlantsOil)
}

func (j *judge) ph() string {
	if j.facts.DecisionPH == nil {
		return "unknown"
	}
	return strconv.FormatFloat(*j.facts.DecisionPH, 'f', 2, 64)
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
	_, on := j.rule(ruleTimeTemp)
	if !on || j.facts.NoWaterPhase || !needsControl(j.pH(), j.aw(), j.facts.HeatStepMet) {
		return
	}
	if d := j.facts.ProductAssessment; d != nil {
		j.giveDays(ruleTimeTemp, *d, "the attached product assessment")
		return
	}
	j.give(ruleTimeTemp)
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
		j.giveDays(ruleListeria, *j.facts.ListeriaDays, "the attached study with Listeria counts")
		return
	}
	if j.facts.ListeriaStudy {
		return
	}
	j.give(ruleListeria)
}

func (j *judge) applyOxygen() {
	r, on := j.rule(ruleOxygen)
	if !on || j.ambient || !j.facts.ReducedOxygen || j.facts.NoWaterPhase {
		return
	}
	p, f := r.Params, j.facts
	if j.pH() <= p["max_ph"] || f.SaltInWater >= p["min_salt"] || j.aw() <= p["max_aw"] || heatInPackControls(f, p) {
		return
	}
	j.give(ruleOxygen)
}

// heatInPackControls: 90 °C for 10 min or 85 °C for 52 min in the pack; no extra credit above 90 °C
// (handbook 06 rule 5).
func heatInPackControls(f Facts, p map[string]float64) bool {
	return f.HeatInPackC >= p["heat_c"] && f.HeatInPackMinutes >= p["heat_min"] ||
		f.HeatInPackC >= p["milder_heat_c"] && f.HeatInPackMinutes >= p["milder_heat_min"]
}

func (j *judge) applyFrozen() {
	if _, on := j.rule(ruleEgg); on && j.facts.RawEgg { // the cold kills nothing
		j.give(ruleEgg)
	}
	r, on := j.rule(ruleFrozen)
	if !on {
		return
	}
	if slices.Contains(j.facts.Styles, "leafy_puree") && !j.facts.Dairy {
		r.Params = map[string]float64{"days": r.Params["puree_without_dairy"]}
	}
	j.giveDays(ruleFrozen, int(r.Params["days"]), r.fill(r.Sentence, nil))
}

// Styles are the keeping styles of rule 9.
var Styles = []string{"leafy_puree", "nut_based", "dairy_based", "yolk_bound", "shaken_nothing_fresh",
	"pulse_or_root_dip"}

// StyleNames are the keeping styles in words.
var StyleNames = map[string]string{"leafy_puree": "leafy purées", "nut_based": "nut-based products",
	"dairy_based": "dairy-based products",
	"yolk_bound":  "yolk-bound dressings", "shaken_nothing_fresh": "shaken dressings with nothing fresh",
	"pulse_or_root_dip": "pulse and root dips"}

func (j *judge) applyQuality() {
	r, on := j.rule(ruleQuality)
	if !on {
		return
	}
	if d := j.facts.QualityCapDays; d != nil {
		j.giveDays(ruleQuality, *d, fmt.Sprintf("your own study, %d days", *d))
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
	if none := int(r.Params["none"]); best < 0 || len(j.facts.Unfit) > 0 && none < best {
		best = none
		why = fmt.Sprintf("quality: no keeping style fits, so %d days", best)
		if len(j.facts.Unfit) > 0 {
			why += " (" + strings.Join(j.facts.Unfit, "; ") + ")"
		}
	}
	j.giveDays(ruleQuality, best, why)
}

// bind picks the earliest last day; ties name all. A use by whenever any rule of safety gives a finite day.
func (j *judge) bind() {
	kind := BestBefore
	for _, a := range j.v.Applied {
		if j.rules[a.Rule].Kind == Safety {
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
	where := map[string]string{Chilled: "Chilled at or below 5 °C", Ambient: "Ambient",
		Frozen: "Frozen at or below -18 °C"}[j.v.Condition]
	days := fmt.Sprintf("%d days after making", *j.v.Days)
	if *j.v.Days == 1 {
		days = "1 day after making"
	}
	s := fmt.Sprintf("%s, last day %s, because of %s", where, days, strings.Join(because, " and "))
	if len(j.v.AmbientRefusedBy) > 0 {
		s += "; ambient was refused: " + strings.Join(j.v.AmbientLacks, ", ")
	}
	return s + "."
}
