package assess

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
)

// oilShare is the share of oil from which plants count as under oil (handbook 06 rule 6).
const oilShare = 0.30

// plantFlags are garlic, herbs, chillies and other vegetables, raw or cooked. Dried spices are not among them.
var plantFlags = []string{"raw_vegetable", "raw_herb", "raw_allium", "cooked_vegetable"}

// factsOf gathers what the rules look at from the version itself; a batch adds its measurements.
func factsOf(v formula.Version, leaves []formula.Leaf, e acidity.Estimate) keeping.Facts {
	f := keeping.Facts{Limit: v.PHLimit, ReducedOxygen: true, Styles: v.Keeping.Styles,
		Step: &keeping.Step{C: v.Keeping.HeatMinC, Min: v.Keeping.HeatMinMinutes}}
	total, oil, plants := 0.0, 0.0, false
	for _, l := range leaves {
		total += l.Grams
		if l.Ingredient.IsOil() {
			oil += l.Grams
		}
		plants = plants || l.Ingredient.HasAny(plantFlags...)
		f.RawEgg = f.RawEgg || l.Ingredient.Has("raw_egg")
		f.Dairy = f.Dairy || l.Ingredient.HasAny("fresh_dairy", "soft_cheese", "hard_cheese")
	}
	if total > 0 {
		f.OilShare = oil / total
	}
	f.PlantsInOil = plants && (v.Keeping.ToppedWithOil || oilOnTop(v, leaves) || total > 0 && oil >= oilShare*total)
	f.NoWaterPhase = e.NoWater
	return f
}

// oilOnTop reports whether an oil goes onto each jar: it keeps the air out like any layer of oil.
func oilOnTop(v formula.Version, leaves []formula.Leaf) bool {
	for _, t := range v.Toppings {
		for _, l := range leaves {
			if l.Ingredient.ID == t.Ingredient && l.Ingredient.IsOil() && t.Grams.IsPositive() {
				return true
			}
		}
	}
	return false
}

// keep judges the version provisionally, on the high end of the estimate.
func (p *Panel) keep(v formula.Version, leaves []formula.Leaf, e acidity.Estimate, in Inputs) {
	aw := p.facts.AW
	p.facts, p.documents = factsOf(v, leaves, e), in.Documents
	p.facts.AW, p.facts.SaltInWater = aw, p.SaltInWater
	p.OilShare = p.facts.OilShare
	f := p.facts
	if p.PH.High != nil {
		f.DecisionPH, f.Provisional = p.PH.High, true
	}
	p.Keeping = law.Each[keeping.Verdict]{}
	for _, l := range law.All() {
		own := f
		own.Believe(p.documents, l, SubjectOf(v))
		p.Keeping[l.Regime] = keeping.Judge(l, v.Keeping.Asked, own, in.Rules)
	}
}

// Measured are a batch's facts that replace the version's estimates.
type Measured struct {
	DecisionPH     *float64
	LaboratoryAW   *float64
	PerishableDays *int
	HeatStepMet    bool
	HeatC, HeatMin float64
}

// SubjectOf is what documents are held against.
func SubjectOf(v formula.Version) keeping.Subject {
	return keeping.Subject{Version: v.Number, Limit: v.PHLimit, Asked: v.Keeping.Asked, HeatC: v.Keeping.HeatMinC,
		HeatMin: v.Keeping.HeatMinMinutes}
}

// FactsOf are the facts of a batch of the assessed version under a law, with what was measured and what documents say.
func (p Panel) FactsOf(l *law.Law, v formula.Version, m Measured) keeping.Facts {
	f := p.facts
	f.DecisionPH, f.LaboratoryAW, f.PerishableDays = m.DecisionPH, m.LaboratoryAW, m.PerishableDays
	f.HeatStepMet, f.HeatInPackC, f.HeatInPackMinutes = m.HeatStepMet, m.HeatC, m.HeatMin
	f.Believe(p.documents, l, SubjectOf(v))
	return f
}

// Keep judges a batch of the assessed version on what was measured.
func (p Panel) Keep(l *law.Law, v formula.Version, m Measured, rules []keeping.Rule) keeping.Verdict {
	return keeping.Judge(l, v.Keeping.Asked, p.FactsOf(l, v, m), rules)
}

// Needed are the documents of safety that a batch's verdict under a law rests on: the newest that counts of each kind
// without which it would be judged more strictly. An older one of the kind is no reason to rest on none.
func (p Panel) Needed(l *law.Law, v formula.Version, m Measured, rules []keeping.Rule) []keeping.Document {
	var out []keeping.Document
	with := p.Keep(l, v, m, rules)
	seen := []string{}
	for _, d := range p.documents {
		if !d.OfSafety() || d.WhyNot(l, SubjectOf(v)) != "" || slices.Contains(seen, d.Kind) {
			continue
		}
		seen = append(seen, d.Kind)
		other := p
		other.documents = slices.DeleteFunc(slices.Clone(p.documents),
			func(o keeping.Document) bool { return o.Kind == d.Kind })
		without := other.Keep(l, v, m, rules)
		if without.Refused != with.Refused || without.Condition != with.Condition ||
			without.Days == nil != (with.Days == nil) ||
			with.Days != nil && *without.Days < *with.Days {
			out = append(out, d)
		}
	}
	return out
}

// caution lists the short warnings that belong beside this sheet.
func (p *Panel) caution(v formula.Version, leaves []formula.Leaf) {
	add := func(level, title, text string) { p.Cautions = append(p.Cautions, Caution{level, title, text}) }
	high := p.PH.High
	if p.facts.PlantsInOil && (high == nil || *high > v.PHTarget) {
		level := "needs_you"
		if high == nil || *high > 4.6 {
			level = "danger"
		}
		add(level, "Plants under oil.",
			fmt.Sprintf("Spores live through cooking and oil keeps the air out. The target of %.1f must be met through and through; the top of the band is above it. Never keep it on the counter.", v.PHTarget))
	} else if high != nil && *high > v.PHLimit {
		add("needs_you", "Above the limit.",
			fmt.Sprintf("The top of the band is over %.2f. Only a reading can tell; plan for more acid or a short, cold life.", v.PHLimit))
	}
	if len(p.PH.Missing) > 0 {
		add("needs_you", "Estimate incomplete.",
			"No pH is known for "+strings.Join(p.PH.Missing, ", ")+"; anything from 4.0 to 7.0 was allowed for.")
	}
	if p.facts.RawEgg {
		add("danger", "Unpasteurised egg.",
			"Refused under US rules; in GB two days, assured eggs, pH 4.1 or less, not for vulnerable eaters.")
	}
	if v.Keeping.HeatMinC > 0 {
		add("needs_you", "Hot filling.", "Warm the jars, wear gloves and a visor; cold glass cracks.")
	}
	for _, l := range leaves {
		if strings.Contains(strings.ToLower(l.Ingredient.Name), "chilli") {
			add("needs_you", "Chilli on skin.", "Gloves on, hands off eyes.")
			break
		}
	}
}
