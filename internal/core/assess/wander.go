package assess

import (
	"math"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// Wander is what the spread of one line does to the product: the greatest move of pH, of salt in percentage points of
// the mass and of the cost of a jar in percent, when the line is one standard deviation heavier or lighter. Care
// names what moves too far. Tolerance is the percent within which the line is to be weighed.
type Wander struct {
	PH        *float64 `json:"ph"`
	Salt      float64  `json:"salt_pp"`
	Cost      *float64 `json:"cost_percent"`
	Care      []string `json:"care"`
	Tolerance float64  `json:"tolerance_percent"`
}

// From when a line asks for care, and how wide a tolerance may be (handbook 03).
const (
	movesPH       = 0.1
	movesSalt     = 0.1 // percentage points
	movesCost     = 2.0 // percent of a jar
	toleratedPH   = 0.05
	leastDivision = 2.0 // divisions of the scale
)

// Wanders tells for every line of a proposed version what its deviation does; deviations are in percentage points of
// the formula, by line. Errors are those of formula.Library.Expand.
func Wanders(v formula.Version, deviations []float64, division amount.Grams, in Inputs) ([]Wander, error) {
	nodes, err := in.Library.Expand(v)
	if err != nil {
		return nil, err
	}
	base := look(v, nodes, in)
	total := v.GramsIn().Float()
	out := make([]Wander, len(v.Lines))
	for i, n := range nodes {
		w := Wander{Care: []string{}}
		grams := v.Lines[i].Grams.Float()
		for _, side := range []float64{1, -1} {
			moved, err := shifted(v, i, grams+side*deviations[i]*total/100, in)
			if err != nil {
				return nil, err
			}
			w.widen(base, moved)
		}
		if w.PH != nil && *w.PH > movesPH {
			w.Care = append(w.Care, "pH")
		}
		if w.Salt > movesSalt {
			w.Care = append(w.Care, "salt")
		}
		if w.Cost != nil && *w.Cost > movesCost {
			w.Care = append(w.Care, "cost")
		}
		if w.Tolerance, err = tolerance(v, n, i, base, division, in); err != nil {
			return nil, err
		}
		out[i] = w
	}
	return out, nil
}

// glance is the little that a spread is judged by.
type glance struct {
	ph     *float64
	salt   float64
	perJar float64
	priced bool
}

func look(v formula.Version, nodes []formula.Node, in Inputs) glance {
	leaves, off := formula.Leaves(nodes)
	off += v.WaterDrivenOff.Float()
	var g glance
	if e := acidity.EstimatePH(acidity.Parts(leaves), off); !e.NoWater {
		g.ph = &e.PH
	}
	if m := formula.MakeUpOf(leaves, off); m.Total() > 0 {
		g.salt = 100 * m.Salt / m.Total()
	}
	cost := costing.Jar(v, nodes, nil, in.terms(v.Formula))
	g.perJar, g.priced = cost.PerJar.Float(), len(cost.Missing) == 0
	return g
}

func shifted(v formula.Version, line int, grams float64, in Inputs) (glance, error) {
	moved := v
	moved.Lines = append([]formula.Line{}, v.Lines...)
	moved.Lines[line].Grams = amount.G(max(0, grams))
	nodes, err := in.Library.Expand(moved)
	if err != nil {
		return glance{}, err
	}
	return look(moved, nodes, in), nil
}

func (w *Wander) widen(base, moved glance) {
	further := func(have *float64, d float64) *float64 {
		if have != nil && *have >= d {
			return have
		}
		return &d
	}
	if base.ph != nil && moved.ph != nil {
		w.PH = further(w.PH, math.Abs(*moved.ph-*base.ph))
	}
	w.Salt = max(w.Salt, math.Abs(moved.salt-base.salt))
	if base.priced && moved.priced && base.perJar > 0 {
		w.Cost = further(w.Cost, 100*math.Abs(moved.perJar-base.perJar)/base.perJar)
	}
}

// tolerance is the greater of two divisions of the scale and the default of the line's kind; for acids and salt never
// so wide that the predicted pH moves more than 0.05 (handbook 03).
func tolerance(v formula.Version, n formula.Node, line int, base glance, division amount.Grams, in Inputs) (float64,
	error) {
	grams := v.Lines[line].Grams.Float()
	if grams <= 0 {
		return 0, nil
	}
	wide := max(100*leastDivision*division.Float()/grams, bench.DefaultTolerance(n))
	wide = min(wide, 50)
	if n.Ingredient == nil || !n.Ingredient.HasAny("acidulant", pantry.FlagSalt) || base.ph == nil {
		return wide, nil
	}
	moves := func(percent float64) (float64, error) {
		far := 0.0
		for _, side := range []float64{1, -1} {
			g, err := shifted(v, line, grams*(1+side*percent/100), in)
			if err != nil {
				return 0, err
			}
			if g.ph != nil {
				far = max(far, math.Abs(*g.ph-*base.ph))
			}
		}
		return far, nil
	}
	far, err := moves(wide)
	if err != nil || far <= toleratedPH {
		return wide, err
	}
	low, high := 0.0, wide
	for range 30 {
		mid := (low + high) / 2
		if far, err = moves(mid); err != nil {
			return 0, err
		}
		if far > toleratedPH {
			high = mid
		} else {
			low = mid
		}
	}
	return low, nil
}

// Titratable is what an ingredient brings of titratable acid, in grams as acetic acid per 100 g, in plenty of water.
func Titratable(g pantry.Ingredient) float64 {
	water := pantry.Ingredient{ID: "water", Name: "water", Chemistry: pantry.ChemistryWater,
		Composition: pantry.Composition{Water: 100}}
	return acidity.TitratableAcidity(acidity.Parts([]formula.Leaf{{Ingredient: &g, Grams: 100},
		{Ingredient: &water, Grams: 900}}), 0)
}
