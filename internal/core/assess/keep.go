package assess

import (
	"slices"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// oilShare is the share of oil from which plants count as under oil (handbook 06 rule 6).
const oilShare = 0.30

// factsOf gathers what the rules look at from the version itself; a batch adds its measurements.
func factsOf(v formula.Version, leaves []formula.Leaf, e acidity.Estimate) keeping.Facts {
	f := keeping.Facts{Limit: v.PHLimit, ReducedOxygen: true,
		Step: &keeping.Step{C: v.Keeping.HeatMinC, Min: v.Keeping.HeatMinMinutes}}
	total, oil, plants, watery := 0.0, 0.0, false, slices.ContainsFunc(leaves, isWatery)
	for _, l := range leaves {
		if l.Grams <= 0 {
			continue
		}
		total += l.Grams
		if l.Ingredient.IsOil() {
			oil += l.Grams
		}
		// a dry spice with something watery beside it is wetted by it
		plants = plants || l.Ingredient.Plant() || l.Ingredient.Dried() && watery
		f.RawEgg = f.RawEgg || l.Ingredient.Has(pantry.FlagRawEgg)
		f.Dairy = f.Dairy || l.Ingredient.HasAny(dairy...)
	}
	if total > 0 {
		f.OilShare = oil / total
	}
	f.PlantsInOil = plants && (v.Keeping.ToppedWithOil || oilOnTop(v, leaves) || total > 0 && oil >= oilShare*total)
	f.NoWaterPhase = e.NoWater
	f.Styles, f.Unfit = fitting(v.Keeping.Styles, leaves)
	return f
}

// leastWater is the water in 100 g from which something wets a dry spice beside it.
const leastWater = 15.0

func isWatery(l formula.Leaf) bool {
	return l.Grams > 0 && l.Ingredient.Composition.Water >= leastWater && !l.Ingredient.Dried()
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
	if f.NoWaterPhase && f.PlantsInOil { // as if it were strained clear, which a batch must say
		f.StrainedClear, f.Provisional = true, true
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
	StrainedClear  bool
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
	f.StrainedClear = m.StrainedClear
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

// Infused reports whether the product is an oil that plants were kept in, without a water phase: there is nothing to
// measure, and somebody must have strained it clear (handbook 06 rule 6).
func (p Panel) Infused() bool { return p.facts.NoWaterPhase && p.facts.PlantsInOil }
