// Package bench plans a batch from a locked version and reads its record: what was weighed, filled and measured,
// what still stands in the way of a release, and how long the jars keep.
package bench

import (
	"math"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"
)

// Need is what a batch asks for besides its jars: the fill of a jar with what it is filled over, what is lost, grams
// kept for pH and retained jars, and what it is made in and weighed on.
type Need struct {
	Jars    int
	Fill    amount.Grams
	Over    amount.Percent
	Loss    amount.Percent
	Samples amount.Grams
	Vessel  Vessel
	Scale   Scale
	Fine    Scale
}

// Target is one line of the weigh sheet.
type Target struct {
	Line      string       `json:"line"`
	Name      string       `json:"name"`
	Phase     string       `json:"phase,omitempty"`
	Grams     amount.Grams `json:"target_g"`
	Tolerance float64      `json:"tolerance_percent"`
	HoldBack  amount.Grams `json:"hold_back_g"` // kept for later in the making
	AnyOf     []string     `json:"any_of,omitempty"`
	NeedsDate bool         `json:"needs_use_by"`
	NeedsKill bool         `json:"needs_kill_step"`
	NeedsLot  bool         `json:"needs_lot,omitempty"` // of the book; planned before lots were kept: not asked
	Hold      float64      `json:"hold_back_percent,omitempty"`
	Optional  bool         `json:"optional,omitempty"`
	Class     string       `json:"class,omitempty"` // how it pours
	Hot       string       `json:"hot,omitempty"`   // the preparation it comes hot from; its cooling is logged
}

// Limits of a batch.
const maxJars = 100_000

// OntoJars is the phase of what goes onto the jars after filling, which no bowl holds.
const OntoJars = "Onto the jars"

// Plan scales a version to the jars wanted, in loads that suit the vessel: what goes in, and the target of each line,
// in whole divisions of the scale that weighs it. Errors name the field that is wrong.
func Plan(v formula.Version, nodes []formula.Node, n Need) ([]Target, *Planned, Size, error) {
	ask, err := AskOf(v, n.Jars, n)
	if err != nil {
		return nil, nil, Size{}, err
	}
	size, err := ask.Size()
	if err != nil {
		return nil, nil, size, err
	}
	p := &Planned{Vessel: n.Vessel, Scale: n.Scale, Fine: n.Fine, Fill: n.Fill, Over: n.Over, Loss: n.Loss,
		Samples: n.Samples, Grow: ask.grow(), Loads: Sheets(v, size, n), Errands: []Errand{}}
	out := make([]Target, len(v.Lines))
	for i, l := range v.Lines {
		grams := amount.Grams{}
		for _, load := range p.Loads {
			grams = grams.Plus(load[i])
		}
		out[i] = Target{Line: l.ID, Name: nodes[i].Name, Phase: l.Phase, Grams: grams,
			Tolerance: toleranceOf(l, nodes[i]),
			HoldBack:  holdBack(l, grams), AnyOf: l.AnyOf, NeedsDate: needsDate(nodes[i]),
			NeedsKill: needsKillStep(nodes[i]), NeedsLot: needsLot(nodes[i]), Hold: l.HoldBackPercent,
			Optional: l.Optional && !keepsSafe(nodes[i]), Class: ClassOf(nodes[i])}
	}
	return out, p, size, nil
}

// keepsSafe reports whether a line sours or preserves: that is never left out (handbook 04).
func keepsSafe(n formula.Node) bool {
	return n.Ingredient == nil || n.Ingredient.HasAny("acidulant", "additive:acidity regulator",
		"additive:preservative", pantry.FlagSalt)
}

// OnTop are the targets of what goes onto the jars after filling.
func OnTop(onTop []formula.Node, jars int) []Target {
	var out []Target
	for _, n := range onTop {
		out = append(out, Target{Line: n.Line.ID, Name: n.Name, Phase: OntoJars, Grams: n.Line.Grams.Times(jars),
			Tolerance: DefaultTolerance(n), NeedsDate: needsDate(n), NeedsKill: needsKillStep(n),
			NeedsLot: needsLot(n)})
	}
	return out
}

// WidenGroups asks of an "any of" line what any of its ingredients would need, because any may go in.
func WidenGroups(targets []Target, v formula.Version, lib formula.Library) {
	for _, i := range v.Groups() {
		for _, id := range v.Lines[i].AnyOf {
			n := formula.Node{Ingredient: lib.Ingredients[id]}
			if n.Ingredient == nil {
				continue
			}
			targets[i].NeedsDate = targets[i].NeedsDate || needsDate(n)
			targets[i].NeedsKill = targets[i].NeedsKill || needsKillStep(n)
			targets[i].Tolerance = min(targets[i].Tolerance, toleranceOf(v.Lines[i], n))
		}
	}
}

// toleranceOf is the line's own tolerance, or the default of its kind.
func toleranceOf(l formula.Line, n formula.Node) float64 {
	if l.TolerancePercent > 0 {
		return l.TolerancePercent
	}
	return DefaultTolerance(n)
}

func holdBack(l formula.Line, grams amount.Grams) amount.Grams {
	return grams.Exact().Times(amount.Share(amount.Pct(l.HoldBackPercent))).Round(1).Grams()
}

// DefaultTolerance is the default weighing tolerance in percent: 1 for oil, water and bulk, 2 for acid and salt, 5 for
// herbs, alliums and spices (handbook 03).
func DefaultTolerance(n formula.Node) float64 {
	if n.Ingredient == nil {
		return 1
	}
	switch g := n.Ingredient; {
	case g.HasAny("acidulant", pantry.FlagSalt):
		return 2
	case g.HasAny("raw_herb", "raw_allium", "dried_spice", pantry.FlagSpice):
		return 5
	}
	return 1
}

// needsDate: a component is a lot of its own, with its own last day; else by what the ingredient is.
func needsDate(n formula.Node) bool { return n.Ingredient == nil || lots.NeedsEnd(n.Ingredient) }

func needsKillStep(n formula.Node) bool { return lots.NeedsProof(n.Ingredient) }

// needsLot: whatever goes in is named by its lot, but water from the tap.
func needsLot(n formula.Node) bool { return n.Ingredient == nil || !n.Ingredient.Has(pantry.FlagWater) }

// mostMore is how much more may be in the jars than was weighed, in shares (handbook 04).
const mostMore = 1.02

// MostJars is how many jars of so many grams what was weighed can fill.
func MostJars(weighed, jar amount.Grams) int {
	if !jar.IsPositive() {
		return 0
	}
	return int(weighed.Float()*mostMore/jar.Float() + 1e-9)
}

// mostLineMoves is the share of a line from which a correction counts as an addition (handbook 05).
const mostLineMoves = 0.10

// LineMoves reports whether a correction moves a line so far that it counts as an addition.
func LineMoves(before, after amount.Grams) bool {
	return math.Abs(after.Float()-before.Float()) > mostLineMoves*before.Float()+1e-9
}
