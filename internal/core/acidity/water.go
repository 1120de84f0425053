package acidity

import (
	"errors"
	"math"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// Solutes are grams dissolved in the water phase.
type Solutes struct {
	Water        float64 `json:"water"`
	Salt         float64 `json:"salt"`
	Disaccharide float64 `json:"disac"`
	Hexose       float64 `json:"hexose"`
	Acetic       float64 `json:"acetic"`
	Lactic       float64 `json:"lactic"`
	Malic        float64 `json:"malic"`
	Citric       float64 `json:"citric"`
	Tartaric     float64 `json:"tartaric"`
	Alcohol      float64 `json:"alcohol"`
}

// Molar masses in g/mol (handbook 05).
const (
	molarWater        = 18.015
	molarSalt         = 58.443
	molarDisaccharide = 342.30
	molarHexose       = 180.16
	molarEthanol      = 46.07
)

// Norrish constants (handbook 05).
const (
	norrishDisaccharide = 6.47
	norrishHexose       = 2.25
)

// maxSaltMolality is where the salt polynomial ends.
const maxSaltMolality = 6

// ErrNoWaterActivity means the estimate does not reach: no water, or brine over 6 mol/kg.
var ErrNoWaterActivity = errors.New("water activity cannot be estimated")

// SolutesOf sums what is dissolved in the leaves. Sugars not known as hexose count as disaccharide.
func SolutesOf(leaves []formula.Leaf, drivenOff float64) Solutes {
	var s Solutes
	for _, l := range leaves {
		k, c, a := l.Grams/100, l.Ingredient.Composition, l.Ingredient.Acids
		s.Water += k * c.Water
		s.Salt += k * c.SodiumMg / 1000 * pantry.SaltPerSodium
		s.Hexose += k * c.Hexose
		s.Disaccharide += k * (c.Sugars - c.Hexose)
		s.Alcohol += k * c.Alcohol
		s.Acetic += k * a.Acetic
		s.Lactic += k * a.Lactic
		s.Malic += k * a.Malic
		s.Citric += k * a.Citric
		s.Tartaric += k * a.Tartaric
	}
	s.Water = max(0, s.Water-drivenOff)
	return s
}

// Aqueous is the mass of the water phase: water, salt, sugars, organic acids and alcohol.
func (s Solutes) Aqueous() float64 {
	return s.Water + s.Salt + s.Disaccharide + s.Hexose + s.Alcohol + s.Acetic + s.Lactic + s.Malic + s.Citric +
		s.Tartaric
}

// SaltInWater is 100 x salt / (salt + water), in percent.
func (s Solutes) SaltInWater() float64 {
	if s.Salt+s.Water <= 0 {
		return 0
	}
	return 100 * s.Salt / (s.Salt + s.Water)
}

// AceticInWater is acetic acid in percent of the aqueous phase.
func (s Solutes) AceticInWater() float64 {
	if s.Aqueous() <= 0 {
		return 0
	}
	return 100 * s.Acetic / s.Aqueous()
}

// WaterActivity estimates a_w by the product (Ross) rule: each solute as if alone in all the water, salt by a
// polynomial in molality, sugars and small solutes after Norrish. It returns ErrNoWaterActivity without water or over 6
// mol/kg salt.
func (s Solutes) WaterActivity() (float64, error) {
	if s.Water <= 0 {
		return 0, ErrNoWaterActivity
	}
	molality := s.Salt / molarSalt / (s.Water / gramsPerKg)
	if molality > maxSaltMolality {
		return 0, ErrNoWaterActivity
	}
	aw := 1 - 0.03112*molality - 0.001482*molality*molality
	for _, n := range []struct{ grams, molar, k float64 }{
		{s.Disaccharide, molarDisaccharide, norrishDisaccharide},
		{s.Hexose, molarHexose, norrishHexose},
		{s.Acetic, acids[acetic].molar, 0}, {s.Lactic, acids[lactic].molar, 0}, {s.Malic, acids[malic].molar, 0},
		{s.Citric, acids[citric].molar, 0}, {s.Tartaric, acids[tartaric].molar, 0}, {s.Alcohol, molarEthanol, 0},
	} {
		if n.grams <= 0 {
			continue
		}
		water := s.Water / molarWater
		x := n.grams / n.molar / (n.grams/n.molar + water)
		aw *= (1 - x) * math.Exp(-n.k*x*x)
	}
	return aw, nil
}

// ShownWaterActivity rounds an estimate up to 0.005, the side on which it does no harm.
func ShownWaterActivity(aw float64) float64 {
	return min(1, math.Round(math.Ceil(aw/0.005-1e-9)*5)/1000)
}

// RuleWaterActivity is the value that rules use where no laboratory value is recorded: the estimate + 0.02 (handbook
// 05).
func RuleWaterActivity(estimate float64) float64 { return min(1, estimate+0.02) }

// PreservationIndex is 15.75 u acetic + 3.08 salt + hexose + 0.5 disaccharide, all in percent of the aqueous phase,
// u = undissociated share of acetic acid at the pH (handbook 05). 63 is the mark for intrinsic safety in the European
// industry code for mayonnaise and condiment sauces: an indicator, never permission.
func (s Solutes) PreservationIndex(pH float64) float64 {
	aq := s.Aqueous()
	if aq <= 0 {
		return 0
	}
	u := 1 / (1 + math.Pow(10, pH-acids[acetic].pKa[0]))
	percent := func(g float64) float64 { return 100 * g / aq }
	return 15.75*u*percent(s.Acetic) + 3.08*percent(s.Salt) + percent(s.Hexose) + 0.5*percent(s.Disaccharide)
}

// QuestionedUnder is how far a laboratory's water activity may lie under the estimate before an owner answers for it
// (handbook 06).
const QuestionedUnder = 0.10

// FarUnder reports whether a laboratory's water activity lies so far under the estimate that it is questioned.
func FarUnder(measured, estimate float64) bool { return measured < estimate-QuestionedUnder-floatGuard }
