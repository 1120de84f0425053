package bench

import (
	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// Classes of what is poured: a scale's reading trails each of them in its own way.
const (
	PoursOil   = "oil"
	PoursThin  = "thin liquid"
	PoursPaste = "paste"
	PoursDry   = "dry"
)

// ClassOf returns how a line pours, judged by what it is made of.
func ClassOf(n formula.Node) string {
	g := n.Ingredient
	switch {
	case g == nil:
		return PoursPaste
	case g.IsOil():
		return PoursOil
	case g.Has(pantry.FlagWater) || g.Composition.Water > 85 && g.HasAny("acidulant"):
		return PoursThin
	case g.Composition.Water < 15:
		return PoursDry
	case g.Has("acidulant"):
		return PoursThin
	}
	return PoursPaste
}

// A lag is learned from the last ten pours of a class and shown from three on (handbook 04).
const (
	LagPours      = 10
	leastLagPours = 3
)

// Pour is one pour: the stable weight that was captured, and the reading when the pour stopped.
type Pour struct {
	Stopped  amount.Grams
	Captured amount.Grams
}

// Lag returns how many grams a class runs on after a pour stops: the mean over the last pours, given newest last. ok is
// false with fewer than three.
func Lag(pours []Pour) (lag amount.Grams, ok bool) {
	if len(pours) > LagPours {
		pours = pours[len(pours)-LagPours:]
	}
	if len(pours) < leastLagPours {
		return amount.Grams{}, false
	}
	sum := amount.Grams{}
	for _, p := range pours {
		sum = sum.Plus(p.Captured.Minus(p.Stopped))
	}
	return sum.Exact().Over(amount.Whole(int64(len(pours)))).Round(1).Grams(), true
}
