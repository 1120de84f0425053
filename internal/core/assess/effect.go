package assess

import (
	"math"
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/law"
)

// Effect is what an edit did to the product: differences, after minus before.
type Effect struct {
	// nil where a price is missing before or after: then nothing is saved and nothing added (handbook 07)
	PerJar      *amount.Exact `json:"per_jar"`
	Unpriced    []string      `json:"unpriced"` // for which a price is missing after
	Jars        int           `json:"jars"`
	PH          *float64      `json:"ph"`
	Salt        float64       `json:"salt_in_water_percent"`
	Acetic      float64       `json:"acetic_in_water_percent"`
	Water       *float64      `json:"water_activity"`
	Gained      []string      `json:"allergens_gained"`
	Lost        []string      `json:"allergens_lost"`
	Declaration bool          `json:"declaration_changed"`
}

// Compare tells what changed from one panel to the next under a regime.
func Compare(before, after Panel, regime law.Regime) Effect {
	e := Effect{Jars: after.Jars - before.Jars, Salt: after.SaltInWater - before.SaltInWater,
		Acetic: after.AceticInWater - before.AceticInWater,
		Gained: []string{}, Lost: []string{}, Unpriced: after.Cost.Missing}
	if more, comparable := costing.Saves(before.Cost, after.Cost); comparable {
		e.PerJar = &more
	}
	e.PH = difference(before.PH.Estimate, after.PH.Estimate)
	e.Water = difference(before.WaterActivity, after.WaterActivity)
	was, now := before.Allergens[regime], after.Allergens[regime]
	for _, a := range now {
		if !slices.Contains(was, a) {
			e.Gained = append(e.Gained, a)
		}
	}
	for _, a := range was {
		if !slices.Contains(now, a) {
			e.Lost = append(e.Lost, a)
		}
	}
	x, y := before.Declaration[regime], after.Declaration[regime]
	e.Declaration = x.List != y.List || x.Contains != y.Contains
	return e
}

func difference(before, after *float64) *float64 {
	if before == nil || after == nil {
		return nil
	}
	d := *after - *before
	return &d
}

// mostEstimateMoves is the pH by which a correction moves the estimate and counts as an addition (handbook 05).
const mostEstimateMoves = 0.05

// Moved reports whether the estimate, or an end of its band, is no longer there, came, or moved by more than the mark.
func (a PH) Moved(b PH) bool {
	far := func(x, y *float64) bool {
		return (x == nil) != (y == nil) || x != nil && math.Abs(*x-*y) > mostEstimateMoves+1e-9
	}
	return far(a.Estimate, b.Estimate) || far(a.Low, b.Low) || far(a.High, b.High)
}
