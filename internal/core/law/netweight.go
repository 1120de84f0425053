package law

import "math"

// ShortStep is how much a jar may be short of what its label states, for statements up to so many grams or millilitres:
// a share of the statement in percent, or a fixed amount.
type ShortStep struct {
	To      float64 `json:"to"`
	Percent float64 `json:"percent,omitempty"`
	Fixed   float64 `json:"fixed,omitempty"`
}

// Directive 76/211/EEC annex I 2.4; in Great Britain the Weights and Measures (Packaged Goods) Regulations 2006
// schedule 4: the tolerable negative error of a package, in grams or millilitres.
var tolerable = []ShortStep{{50, 9, 0}, {100, 0, 4.5}, {200, 4.5, 0}, {300, 0, 9}, {500, 3, 0}, {1000, 0, 15},
	{10_000, 1.5, 0}}

// Shortage is what a law asks of jars that are short of their label.
type Shortage struct {
	Steps  []ShortStep // empty: the shop enters them, with their source
	Twice  bool        // no jar may be short by more than twice as much
	Source string      // of the rule, and of the steps where the law has them
}

// Allowed is by how much a jar may be short of a statement of grams or millilitres; ok is false outside the steps.
// Shares are rounded up to 0.1 (annex I 2.4).
func Allowed(steps []ShortStep, nominal float64) (short float64, ok bool) {
	for _, s := range steps {
		if nominal > s.To {
			continue
		}
		if s.Percent > 0 {
			return math.Ceil(math.Round(nominal*s.Percent*1e6)/1e8*10-1e-9) / 10, true
		}
		return s.Fixed, true
	}
	return 0, false
}
