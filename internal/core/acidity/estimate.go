// Package acidity estimates the pH of a mix by charge balance, its water activity and its strength of acid and
// salt in the water phase, judges meter checks, and turns readings into a decision. Estimates plan; only
// measurements by a person with a checked meter can release a batch.
package acidity

import (
	"math"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// acid is one weak acid: molar mass in g/mol and its pKa values at 25 °C (handbook 05, standard tables).
type acid struct {
	molar float64
	pKa   []float64
}

const (
	acetic = iota
	lactic
	malic
	citric
	tartaric
	sorbic
	benzoic
	acidCount
)

var acids = [acidCount]acid{
	acetic:   {60.052, []float64{4.756}},
	lactic:   {90.078, []float64{3.860}},
	malic:    {134.087, []float64{3.40, 5.11}},
	citric:   {192.124, []float64{3.128, 4.761, 6.396}},
	tartaric: {150.087, []float64{3.036, 4.366}},
	sorbic:   {112.127, []float64{4.76}},
	benzoic:  {122.121, []float64{4.20}},
}

// Molar masses in g/mol of salts that bring a strong positive charge (handbook 05).
const (
	molarBakingSoda       = 84.01
	molarPotassiumSorbate = 150.22
	molarSodiumBenzoate   = 144.11
)

// Where an ingredient has a water phase but no known pH (handbook 05): centre, ends and buffering in mmol/kg/pH.
const (
	unknownPH       = 5.5
	unknownPHLow    = 4.0
	unknownPHHigh   = 7.0
	unknownBuffer   = 15.0
	neutral         = 7.0
	bisectionEnd    = 1e-9
	titrationEnd    = 8.1 // total titratable acidity is taken to this pH
	stepOfBand      = 0.05
	gramsPerKg      = 1000.0
	molPerKgPer100g = 10.0 // g/100 g to g/kg
)

// tenToMinus holds 10^-pKa of each acid, so that a charge costs no power.
var tenToMinus = func() (out [acidCount][]float64) {
	for k, a := range acids {
		for _, pKa := range a.pKa {
			out[k] = append(out[k], math.Pow(10, -pKa))
		}
	}
	return out
}()

// charge returns the mean charge per molecule at h = 10^-pH: sum(j T_j) / sum(T_j) with T_j = T_(j-1) 10^-K_j / h.
func charge(k int, h float64) float64 {
	t, sum, weighted := 1.0, 1.0, 0.0
	for j, dissociation := range tenToMinus[k] {
		t *= dissociation / h
		sum += t
		weighted += float64(j+1) * t
	}
	return weighted / sum
}

// Part is one ingredient of a mix as the charge balance sees it.
type Part struct {
	Name       string
	Grams      float64
	Ingredient *pantry.Ingredient
}

// Estimate is a predicted pH with its band; the band is an envelope of the stated ranges.
// Incomplete names ingredients with a water phase but no known pH. NoWater is set where there is no water phase,
// and then no pH exists.
type Estimate struct {
	PH      float64  `json:"estimate"`
	Low     float64  `json:"low"`
	High    float64  `json:"high"`
	Missing []string `json:"missing"`
	NoWater bool     `json:"no_water"`
}

// Incomplete reports whether the estimate rests on a guessed pH.
func (e Estimate) Incomplete() bool { return len(e.Missing) > 0 }

// Shown returns the band rounded outward to 0.05, as it is shown and as rules use it.
func (e Estimate) Shown() (low, high float64) {
	const guard = 1e-9
	low = math.Floor(e.Low/stepOfBand+guard) * stepOfBand
	high = math.Ceil(e.High/stepOfBand-guard) * stepOfBand
	return math.Round(low*100) / 100, math.Round(high*100) / 100
}

// term is one part prepared for the balance: molar amounts per kg of the part.
type term struct {
	kg, water     float64
	acid          [acidCount]float64
	hasAcid       bool
	ph, low, high float64
	buffer        float64 // mol per kg and pH
	strong        float64 // fixed strong positive charge in mol per kg
	pure, ownPH   bool
	own           [modes]atOwn
}

// atOwn is what a part carries at its own pH, at the centre and at the ends of its range.
type atOwn struct {
	water   float64 // 10^-p - 10^(p-14)
	charges [acidCount]float64
}

// settle computes atOwn once, because the balance is taken many times.
func (t *term) settle() {
	for at, p := range [...]float64{centre: t.ph, highEnd: t.high, lowEnd: t.low} {
		h := math.Pow(10, -p)
		t.own[at].water = h - math.Pow(10, p-14)
		if !t.hasAcid {
			continue
		}
		for k := range acids {
			t.own[at].charges[k] = charge(k, h)
		}
	}
}

// mode says at which end of the ranges the balance is solved.
type mode int

const (
	centre mode = iota
	highEnd
	lowEnd
	modes
)

// Parts turns the leaves of a formula into parts of a mix.
func Parts(leaves []formula.Leaf) []Part {
	out := make([]Part, len(leaves))
	for i, l := range leaves {
		out[i] = Part{l.Ingredient.Name, l.Grams, l.Ingredient}
	}
	return out
}

// EstimatePH solves the charge balance of the mix for pH, and for the ends of its band. drivenOff is grams of
// water that leave in making. The order and the scale of the parts do not matter.
func EstimatePH(parts []Part, drivenOff float64) Estimate {
	m := prepare(parts, drivenOff)
	if m.water <= 0 {
		return Estimate{NoWater: true, Missing: []string{}}
	}
	return Estimate{PH: m.solve(centre), Low: m.solve(lowEnd), High: m.solve(highEnd), Missing: m.missing}
}

// TitratableAcidity returns the acid that a strong base must neutralise to bring the mix to pH 8.1, in grams as acetic acid.
func TitratableAcidity(parts []Part, drivenOff float64) float64 {
	m := prepare(parts, drivenOff)
	if m.water <= 0 {
		return 0
	}
	return max(0, -m.balance(titrationEnd, centre)) * acids[acetic].molar
}

type mix struct {
	terms   []term
	water   float64 // kg
	missing []string
}

func prepare(parts []Part, drivenOff float64) mix {
	m := mix{missing: []string{}, terms: make([]term, 0, len(parts))}
	seen := map[string]bool{}
	for _, p := range gather(parts) {
		if p.Grams <= 0 || p.Ingredient == nil || p.Ingredient.Dry() {
			continue
		}
		t, known := termOf(p)
		if !known && !seen[p.Name] {
			seen[p.Name] = true
			m.missing = append(m.missing, p.Name)
		}
		if t.ownPH {
			t.settle()
		}
		m.terms = append(m.terms, t)
		m.water += t.kg * t.water
	}
	m.water -= drivenOff / gramsPerKg
	return m
}

// gather adds up parts of the same ingredient, which components bring in more than once.
func gather(parts []Part) []Part {
	out := make([]Part, 0, len(parts))
	at := make(map[string]int, len(parts))
	for _, p := range parts {
		if p.Ingredient == nil {
			continue
		}
		if k, dup := at[p.Ingredient.ID]; dup && p.Ingredient.ID != "" {
			out[k].Grams += p.Grams
			continue
		}
		at[p.Ingredient.ID] = len(out)
		out = append(out, p)
	}
	return out
}

// termOf prepares one ingredient. known is false where the pH had to be guessed.
func termOf(p Part) (t term, known bool) {
	g := p.Ingredient
	t = term{kg: p.Grams / gramsPerKg, water: g.Composition.Water / 100, buffer: g.BufferMmol / 1000}
	for k, g100 := range [...]float64{acetic: g.Acids.Acetic, lactic: g.Acids.Lactic, malic: g.Acids.Malic, citric: g.Acids.Citric, tartaric: g.Acids.Tartaric} {
		if g100 > 0 {
			t.acid[k] = molPerKgPer100g * g100 / acids[k].molar
			t.hasAcid = true
		}
	}
	switch g.Chemistry {
	case pantry.ChemistryPureAcid:
		t.pure, t.buffer = true, 0
		return t, true
	case pantry.ChemistryBakingSoda:
		// Only its strong charge stays: the carbonate leaves as gas.
		return term{kg: t.kg, strong: gramsPerKg / molarBakingSoda}, true
	case pantry.ChemistrySorbateSalt:
		return saltTerm(t.kg, sorbic, gramsPerKg/molarPotassiumSorbate), true
	case pantry.ChemistryBenzoateSalt:
		return saltTerm(t.kg, benzoic, gramsPerKg/molarSodiumBenzoate), true
	case pantry.ChemistryWater:
		t.ownPH, t.ph, t.low, t.high, t.buffer = true, neutral, neutral, neutral, 0
		return t, true
	}
	if g.Has(pantry.FlagWater) {
		t.ownPH, t.ph, t.low, t.high, t.buffer = true, neutral, neutral, neutral, 0
		return t, true
	}
	if g.PH != nil {
		t.ownPH, t.ph, t.low, t.high = true, g.PH.Typical, g.PH.Low, g.PH.High
		return t, true
	}
	if t.water == 0 {
		// Nothing dissolved, nothing known: a dry acid would be listed as a pure acid.
		return term{}, true
	}
	t.ownPH, t.ph, t.low, t.high, t.buffer = true, unknownPH, unknownPHLow, unknownPHHigh, unknownBuffer/1000
	return t, false
}

func saltTerm(kg float64, which int, mol float64) term {
	t := term{kg: kg, strong: mol, hasAcid: true}
	t.acid[which] = mol
	return t
}

// How far the stated acids and buffering may be off at the ends of the band (handbook 05).
const (
	acidsMore, acidsLess   = 1.1, 0.9
	bufferMore, bufferLess = 1.4, 0.6
)

// balance is F(x): net charge in mol at pH x. It falls strictly in x.
func (m mix) balance(x float64, at mode) float64 {
	h := math.Pow(10, -x)
	var charges [acidCount]float64
	for k := range acids {
		charges[k] = charge(k, h)
	}
	sum := m.water * (h - math.Pow(10, x-14))
	for i := range m.terms {
		t := &m.terms[i]
		if !t.ownPH {
			sum += t.fixed(charges, at)
			continue
		}
		p, acidFactor, bufferFactor := t.endPoint(x, at)
		own := &t.own[at]
		s := -t.water * own.water
		if t.hasAcid {
			for k := range acids {
				if t.acid[k] > 0 {
					s += acidFactor * t.acid[k] * (own.charges[k] - charges[k])
				}
			}
		}
		sum += t.kg * (s - bufferFactor*t.buffer*(x-p))
	}
	return sum
}

// fixed is the charge of a part without a pH of its own: a pure acid, or a salt with its strong charge.
func (t *term) fixed(charges [acidCount]float64, at mode) float64 {
	factor := 1.0
	if t.pure && at == highEnd {
		factor = acidsLess
	}
	if t.pure && at == lowEnd {
		factor = acidsMore
	}
	s := t.strong
	for k := range acids {
		s -= factor * t.acid[k] * charges[k]
	}
	return t.kg * s
}

// endPoint returns the pH of the part and the factors on its acids and buffering for the end of the band.
// At the high end a part above x pulls up with more acid salts and buffer, one below pulls down with less; mirrored at the low end.
func (t *term) endPoint(x float64, at mode) (p, acidFactor, bufferFactor float64) {
	switch at {
	case highEnd:
		if t.high > x {
			return t.high, acidsMore, bufferMore
		}
		return t.high, acidsLess, bufferLess
	case lowEnd:
		if t.low < x {
			return t.low, acidsMore, bufferMore
		}
		return t.low, acidsLess, bufferLess
	}
	return t.ph, 1, 1
}

func (m mix) solve(at mode) float64 {
	low, high := 0.0, 14.0
	for high-low > bisectionEnd {
		mid := (low + high) / 2
		if m.balance(mid, at) > 0 {
			low = mid
		} else {
			high = mid
		}
	}
	return (low + high) / 2
}
