// Package acidity estimates the pH of a mix by charge balance, its water activity and its strength of acid and
// salt in the water phase, judges meter checks, and turns readings into a decision. Estimates plan; only
// measurements by a person with a checked meter can release a batch.
package acidity

import (
	"cmp"
	"math"
	"slices"

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
	highestPH       = 14.0
	bisectionEnd    = 1e-9
	titrationEnd    = 8.1 // total titratable acidity is taken to this pH
	bicarbonateEnd  = 8.5 // soda beyond what the acids take stays as bicarbonate, at about this pH
	stepOfBand      = 0.05
	gramsPerKg      = 1000.0
	molPerKgPer100g = 10.0 // g/100 g to g/kg
)

// tenToMinus holds 10^-pKa of each acid, so that a charge costs no power.
var tenToMinus = func() (out [acidCount][3]float64) {
	for k, a := range acids {
		for j, pKa := range a.pKa {
			out[k][j] = math.Pow(10, -pKa)
		}
	}
	return out
}()

// charge returns the mean charge per molecule at h = 10^-pH: sum(j T_j) / sum(T_j) with T_j = T_(j-1) 10^-K_j / h.
func charge(k int, h float64) float64 {
	t, sum, weighted := 1.0, 1.0, 0.0
	for j := range acids[k].pKa {
		t *= tenToMinus[k][j] / h
		sum += t
		weighted += float64(j+1) * t
	}
	return weighted / sum
}

// tenTo is 10^x.
func tenTo(x float64) float64 { return math.Exp(x * math.Ln10) }

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
	const guard = 1e-6 / stepOfBand // tolerances of the solver are no reason for a wider band
	low = math.Floor(e.Low/stepOfBand+guard) * stepOfBand
	high = math.Ceil(e.High/stepOfBand-guard) * stepOfBand
	return math.Round(low*100) / 100, math.Round(high*100) / 100
}

// term is one part prepared for the balance: molar amounts per kg of the part.
type term struct {
	kg, water     float64
	acid          [acidCount]float64
	ph, low, high float64
	buffer        float64 // mol per kg and pH
	strong        float64 // fixed strong positive charge in mol per kg
	pure, ownPH   bool
	soda          bool
}

// mode says at which end of their ranges the values are taken when the balance is solved.
type mode int

const (
	centre mode = iota
	highEnd
	lowEnd
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
func EstimatePH(parts []Part, drivenOff float64) Estimate { return MixOf(parts, drivenOff).Estimate() }

// TitratableAcidity returns the acid that a strong base must neutralise to bring the mix to pH 8.1, in grams as acetic
// acid.
func TitratableAcidity(parts []Part, drivenOff float64) float64 {
	return MixOf(parts, drivenOff).Titratable()
}

// Mix is a mix prepared for the charge balance.
type Mix struct {
	terms   []term
	water   float64 // kg
	wet     bool    // has a water phase of its own, whatever is driven off
	missing []string
	middle  balance // at the typical values
}

// MixOf prepares a mix. drivenOff is grams of water that leave in making.
func MixOf(parts []Part, drivenOff float64) Mix {
	m := Mix{missing: []string{}, terms: make([]term, 0, len(parts))}
	for _, p := range parts {
		if p.Grams <= 0 || p.Ingredient == nil || p.Ingredient.Dry() && !p.Ingredient.UnlistedAcid() {
			continue
		}
		t, known := termOf(p)
		if !known && !slices.Contains(m.missing, p.Name) {
			m.missing = append(m.missing, p.Name)
		}
		m.terms = append(m.terms, t)
		m.water += t.kg * t.water
	}
	m.wet = m.water > 0
	m.water = max(0, m.water-drivenOff/gramsPerKg)
	m.middle = m.typical()
	return m
}

// Estimate solves the balance for pH and for the ends of its band.
func (m Mix) Estimate() Estimate {
	if !m.wet {
		return Estimate{NoWater: true, Missing: []string{}}
	}
	room, most := m.room(), m.most()
	return Estimate{PH: min(most, m.middle.solve()), Low: min(most, m.end(lowEnd, room).solve()),
		High: min(most, m.end(highEnd, room).solve()), Missing: m.missing}
}

// most is the highest pH that an estimate may reach: with baking soda that of bicarbonate, or of a part that lies above
// it by itself.
func (m Mix) most() float64 {
	soda, own := false, bicarbonateEnd
	for i := range m.terms {
		soda = soda || m.terms[i].soda
		own = max(own, m.terms[i].high)
	}
	if !soda {
		return highestPH
	}
	return own
}

// Titratable is the titratable acidity to pH 8.1 in grams as acetic acid.
func (m Mix) Titratable() float64 {
	if !m.wet {
		return 0
	}
	return max(0, -m.middle.balance(titrationEnd)) * acids[acetic].molar
}

// termOf prepares one ingredient. known is false where the pH had to be guessed.
func termOf(p Part) (t term, known bool) {
	g := p.Ingredient
	t = term{kg: p.Grams / gramsPerKg, water: g.Composition.Water / 100, buffer: g.BufferMmol / 1000}
	for k, g100 := range [...]float64{acetic: g.Acids.Acetic, lactic: g.Acids.Lactic, malic: g.Acids.Malic,
		citric: g.Acids.Citric, tartaric: g.Acids.Tartaric} {
		if g100 > 0 {
			t.acid[k] = molPerKgPer100g * g100 / acids[k].molar
		}
	}
	switch g.Chemistry {
	case pantry.ChemistryPureAcid:
		t.pure, t.buffer = true, 0
		return t, true
	case pantry.ChemistryBakingSoda:
		// Only its strong charge stays: the carbonate leaves as gas.
		return term{kg: t.kg, strong: gramsPerKg / molarBakingSoda, soda: true}, true
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
	if t.water == 0 && !g.UnlistedAcid() {
		// Nothing dissolved, nothing known: a dry acid would be listed as a pure acid.
		return term{}, true
	}
	t.ownPH, t.ph, t.low, t.high, t.buffer = true, unknownPH, unknownPHLow, unknownPHHigh, unknownBuffer/1000
	return t, false
}

func saltTerm(kg float64, which int, mol float64) term {
	t := term{kg: kg, strong: mol}
	t.acid[which] = mol
	return t
}

// How far the stated acids and buffering may be off at the ends of the band (handbook 05).
const (
	acidsMore, acidsLess   = 1.1, 0.9
	bufferMore, bufferLess = 1.4, 0.6
)

// shares are what terms bring to the balance: F(x) gains fixed - sum(acid_k n_k(x)) - buffer x.
type shares struct {
	fixed  float64
	acid   [acidCount]float64
	buffer float64
}

func (s *shares) add(t shares) {
	s.fixed += t.fixed
	s.buffer += t.buffer
	for k := range s.acid {
		s.acid[k] += t.acid[k]
	}
}

// part is a term at its own pH, with what it contributes there: the ions of its water and the charge of its acids, in
// mol per kg.
type part struct {
	term          *term
	p             float64
	ions, charged float64
}

func (t *term) at(p float64) part {
	h := tenTo(-p)
	out := part{term: t, p: p, ions: -t.water * (h - 1e-14/h)}
	for k, a := range t.acid {
		if a > 0 {
			out.charged += a * charge(k, h)
		}
	}
	return out
}

// share is what a part brings when its acids and its buffering are off by these factors; what it carries at its own pH
// is fixed.
func (p *part) share(f factors) shares {
	t := p.term
	s := shares{buffer: t.kg * f.buffer * t.buffer}
	s.fixed = t.kg*(p.ions+f.acid*p.charged) + s.buffer*p.p
	for k, a := range t.acid {
		s.acid[k] = t.kg * f.acid * a
	}
	return s
}

// balance is F(x), the net charge in mol at pH x, at one end of the ranges. It falls strictly in x. What a part brings
// depends on whether its own pH lies above or below x; the sums over both kinds are kept for every place x may have
// among the parts' own pHs.
type balance struct {
	water float64
	own   []float64 // the parts' pHs, rising
	below []shares  // below[i]: of the first i parts, as parts below x
	above []shares  // above[i]: of the parts from i on, as parts above x
}

// typical prepares the balance at the typical values, where it does not matter on which side of x a part lies.
func (m Mix) typical() balance {
	sums := make([]shares, 2)
	for i := range m.terms {
		if t := &m.terms[i]; t.ownPH {
			own := t.at(t.ph)
			sums[0].add(own.share(factors{1, 1}))
		} else {
			sums[0].add(t.lone(centre))
		}
	}
	return balance{water: m.water, below: sums[:1], above: sums[1:]}
}

// room is the memory in which an end of the ranges is prepared; one end after the other uses it.
type room struct {
	parts []part
	own   []float64
	sums  []shares
}

func (m Mix) room() room {
	n := len(m.terms)
	return room{make([]part, 0, n), make([]float64, n), make([]shares, 2*(n+1))}
}

// end prepares the balance for one end of the ranges. At the high end a part above x pulls up with more acid salts and
// buffer, one below pulls down with less; mirrored at the low end.
func (m Mix) end(end mode, in room) balance {
	parts := in.parts[:0]
	var rest shares
	for i := range m.terms {
		t := &m.terms[i]
		if t.ownPH {
			p := t.high
			if end == lowEnd {
				p = t.low
			}
			parts = append(parts, t.at(p))
		} else {
			rest.add(t.lone(end))
		}
	}
	slices.SortFunc(parts, func(a, b part) int { return cmp.Compare(a.p, b.p) })
	n := len(parts)
	b := balance{water: m.water, own: in.own[:n], below: in.sums[:n+1], above: in.sums[n+1 : 2*(n+1)]}
	low, high := factorsAt(end)
	b.below[0], b.above[n] = rest, shares{}
	for i := range parts {
		b.own[i] = parts[i].p
		b.below[i+1] = b.below[i]
		b.below[i+1].add(parts[i].share(low))
	}
	for i := n - 1; i >= 0; i-- {
		b.above[i] = b.above[i+1]
		b.above[i].add(parts[i].share(high))
	}
	return b
}

type factors struct{ acid, buffer float64 }

// factorsAt are how far acids and buffering are off for parts whose own pH lies below x, and above it.
func factorsAt(end mode) (below, above factors) {
	more, less := factors{acidsMore, bufferMore}, factors{acidsLess, bufferLess}
	if end == highEnd {
		return less, more
	}
	return more, less
}

// lone is what a part without a pH of its own contributes: a pure acid, or a salt with its strong charge.
func (t *term) lone(end mode) shares {
	factor := 1.0
	if t.pure && end == highEnd {
		factor = acidsLess
	}
	if t.pure && end == lowEnd {
		factor = acidsMore
	}
	s := shares{fixed: t.kg * t.strong}
	for k, a := range t.acid {
		s.acid[k] = t.kg * factor * a
	}
	return s
}

func (b balance) balance(x float64) float64 {
	i := 0
	for i < len(b.own) && b.own[i] < x {
		i++
	}
	below, above := &b.below[i], &b.above[i]
	h := tenTo(-x)
	sum := b.water*(h-1e-14/h) + below.fixed + above.fixed - (below.buffer+above.buffer)*x
	for k := range acids {
		if a := below.acid[k] + above.acid[k]; a != 0 {
			sum -= a * charge(k, h)
		}
	}
	return sum
}

func (b balance) solve() float64 {
	low, high := 0.0, highestPH
	for high-low > bisectionEnd {
		mid := (low + high) / 2
		if b.balance(mid) > 0 {
			low = mid
		} else {
			high = mid
		}
	}
	return (low + high) / 2
}
