package bench

import (
	"fmt"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// Scale is what is weighed on: its division, and what it takes at most (nothing: not stated).
type Scale struct {
	Name     string       `json:"name"`
	Division amount.Grams `json:"division_g"`
	Capacity amount.Grams `json:"capacity_g"`
}

// leastDivisions is how many of its divisions a scale weighs at least (handbook 04).
const leastDivisions = 20

// Least is the least that the scale weighs well.
func (s Scale) Least() amount.Grams { return s.Division.Times(leastDivisions) }

// Vessel is what a batch is made in. Least and Greatest are its working mass, Residue stays in it at each load.
type Vessel struct {
	ID       int64        `json:"id"`
	Name     string       `json:"name"`
	Least    amount.Grams `json:"least_g"`
	Greatest amount.Grams `json:"greatest_g"`
	Residue  amount.Grams `json:"residue_g"`
}

// Errand is a step that somebody ticks for each load, or once for the batch: with how long it takes, how hot it is, and
// what to look for.
type Errand struct {
	Key     string  `json:"key"`
	Text    string  `json:"text"`
	Look    string  `json:"look,omitempty"`
	Vessel  string  `json:"vessel,omitempty"`
	Minutes float64 `json:"minutes,omitempty"`
	Celsius float64 `json:"celsius,omitempty"`
	Once    bool    `json:"once,omitempty"`  // for the batch, with its first load
	First   bool    `json:"first,omitempty"` // before anything goes into the bowl
}

// CleanDown is the key of the errand that cleans the vessel of what it carries.
const CleanDown = "clean-down"

// Planned is how a batch was planned to be made, as it was decided on the day: everything the bench goes by.
type Planned struct {
	Vessel  Vessel           `json:"vessel"`
	Scale   Scale            `json:"scale"`
	Fine    Scale            `json:"fine_scale"` // for lines under the scale's least; no division: there is none
	Fill    amount.Grams     `json:"fill_g"`
	Over    amount.Percent   `json:"overfill_percent"`
	Loss    amount.Percent   `json:"loss_percent"`
	Samples amount.Grams     `json:"samples_g"`
	Grow    amount.Exact     `json:"grow"`
	Loads   [][]amount.Grams `json:"loads"` // by load, the targets of the lines in the bowl
	Errands []Errand         `json:"errands"`
	StartAt string           `json:"start_at"` // on the bench, by the shop's clock: 09:30
	// from before loads were kept: an over-pour on its sheet asks nothing
	Old       bool `json:"-"`
	HotFilled bool `json:"hot_filled,omitempty"` // and chilled after: the cooling of its jars is logged
}

// ask is the plan as a question of size.
func (p *Planned) ask() Ask {
	return Ask{Fill: p.Fill, Over: p.Over, Loss: p.Loss, Samples: p.Samples, Residue: p.Vessel.Residue,
		Least: p.Vessel.Least, Greatest: p.Vessel.Greatest, Division: p.Scale.Division, Grow: p.Grow}
}

// AsOneLoad is how a batch is made whose plan is from before loads were kept.
func AsOneLoad(targets []Target) *Planned {
	p := &Planned{Old: true, Scale: Scale{Division: amount.MustGrams("0.1")}, Errands: []Errand{}}
	load := []amount.Grams{}
	for _, t := range targets {
		if t.Phase != OntoJars {
			load = append(load, t.Grams)
		}
	}
	p.Loads = [][]amount.Grams{load}
	return p
}

// NeedOf is what a version asks by itself for so many jars.
func NeedOf(v formula.Version, jars int) Need {
	return Need{Jars: jars, Fill: v.FillGrams, Over: v.OverfillPercent, Loss: v.LossPercent}
}

// AskOf is what a version asks for so many jars.
func AskOf(v formula.Version, jars int, n Need) (Ask, error) {
	if jars < 1 || jars > maxJars {
		return Ask{}, pantry.FieldError{Field: "jars", Message: fmt.Sprintf("between 1 and %d jars", maxJars)}
	}
	if !v.FinishedGrams().IsPositive() || !v.JarGrams().IsPositive() {
		return Ask{}, pantry.FieldError{Field: "version", Message: "the version has no grams or no fill"}
	}
	a := Ask{Jars: jars, Fill: n.Fill, Over: n.Over, Loss: n.Loss, Samples: n.Samples,
		Residue: n.Vessel.Residue, Least: n.Vessel.Least, Greatest: n.Vessel.Greatest, Division: n.Scale.Division}
	if v.WaterDrivenOff.IsPositive() {
		a.Grow = v.GramsIn().Exact().Over(v.MixedGrams().Exact())
	}
	return a, nil
}

// Sheets spreads a batch over its loads: by load, the target of each line in whole divisions of the scale that weighs
// it. What a line of the bench scale rounds off goes to the largest line of its load, so that each load adds up to its
// size; lines of the fine scale add their own smaller divisions.
func Sheets(v formula.Version, s Size, n Need) [][]amount.Grams {
	lines := v.Sized(s.Total.Exact())
	out := make([][]amount.Grams, s.Loads)
	for k, load := range s.Load {
		share := load.Exact().Over(s.Total.Exact())
		out[k] = make([]amount.Grams, len(lines))
		var bulk []amount.Exact
		var at []int
		for i, g := range lines {
			g = g.Times(share)
			if n.Fine.Division.IsPositive() && g.Cmp(n.Scale.Least().Exact()) < 0 {
				out[k][i] = amount.SpreadToDivision([]amount.Exact{g}, n.Fine.Division)[0]
				continue
			}
			bulk, at = append(bulk, g), append(at, i)
		}
		for j, g := range amount.SpreadToDivision(bulk, n.Scale.Division) {
			out[k][at[j]] = g
		}
	}
	return out
}

// WeighedOn is the scale that weighs so much of a line, and why the plan doubts it; empty where it does not.
func (p *Planned) WeighedOn(g amount.Grams) (Scale, string) {
	s := p.Scale
	if g.Cmp(s.Least()) < 0 && p.Fine.Division.IsPositive() {
		s = p.Fine
	}
	if s.Division.IsPositive() && g.Cmp(s.Least()) < 0 {
		return s, fmt.Sprintf("under the %s g that the scale weighs well: a larger batch, or a finer scale", s.Least())
	}
	return s, ""
}

// Sized is a plan read back as what was asked, and its loads.
func Sized(p *Planned, jars int) (Ask, Size) {
	a := p.ask()
	a.Jars = jars
	s := Size{Loads: len(p.Loads)}
	for _, load := range p.Loads {
		g := amount.Sum(load)
		s.Load, s.Total = append(s.Load, g), s.Total.Plus(g)
	}
	s.BelowLeast = s.Loads > 0 && s.Load[s.Loads-1].Cmp(p.Vessel.Least) < 0
	return a, s
}
