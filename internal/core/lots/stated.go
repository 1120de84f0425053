package lots

import (
	"maps"
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
)

// Taken is grams taken from a lot, as it was bought.
type Taken struct {
	Lot   Facts
	Grams amount.Grams
}

// States reports whether a lot states its own acid strength or pH.
func (f Facts) States() bool { return f.Strength != nil || f.PH != nil }

// AsStated returns an ingredient with the acid strength and pH that its lots state, weighted by the grams taken.
// Strength is in grams per 100 mL; lots that state none count with the ingredient's own. Of the pH values the highest
// counts, which is the cautious side. If no lot states anything, the ingredient is unchanged.
func AsStated(g pantry.Ingredient, taken []Taken) pantry.Ingredient {
	if !slices.ContainsFunc(taken, func(t Taken) bool { return t.Lot.States() }) {
		return g
	}
	density := g.DensityGPerML
	if density <= 0 {
		density = 1
	}
	total, acid := 0.0, 0.0
	typical := g.Acids.Total()
	var ph *pantry.PHRange
	for _, t := range taken {
		share := typical
		if t.Lot.Strength != nil {
			share = *t.Lot.Strength / density
		}
		total, acid = total+t.Grams.Float(), acid+t.Grams.Float()*share
		ph = higher(ph, phOf(g, t.Lot))
	}
	if typical > 0 && total > 0 {
		g.Acids = g.Acids.Scaled(acid / total / typical)
	}
	if ph != nil {
		g.PH = ph
	}
	return g
}

// statedSpread is how far the pH of the contents may lie from the pH on the packet.
const statedSpread = 0.1

func phOf(g pantry.Ingredient, f Facts) *pantry.PHRange {
	if f.PH == nil {
		return g.PH
	}
	return &pantry.PHRange{Typical: *f.PH, Low: max(0, *f.PH-statedSpread), High: min(14, *f.PH+statedSpread)}
}

func higher(a, b *pantry.PHRange) *pantry.PHRange {
	if a == nil || b != nil && b.Typical > a.Typical {
		return b
	}
	return a
}

// Source is an ingredient whose lots may be drawn for another: the ingredient itself, or the input of a preparation
// that makes it. Share is how many grams of it give one gram in the bowl.
type Source struct {
	Ingredient string       `json:"ingredient"`
	Share      amount.Exact `json:"share"`
	Step       string       `json:"step,omitempty"` // the last preparation, which makes the one that reaches the bowl
}

// deepestStep bounds the number of preparations between what is bought and what goes into the bowl.
const deepestStep = 4

// Sources returns the ingredients whose lots may stand behind one, nearest first. An ingredient with a usable share
// takes more from its lot than reaches the bowl.
func Sources(id string, usable func(id string) float64, steps []pantry.Preparation) []Source {
	direct := amount.Whole(100).Over(amount.ExactFloat(usable(id)))
	out, seen := []Source{{id, direct, ""}}, map[string]bool{id: true}
	level := map[string]Source{id: {id, amount.Whole(1), ""}}
	for range deepestStep {
		next := map[string]Source{}
		for _, from := range slices.Sorted(maps.Keys(level)) {
			for _, p := range steps {
				share, makes := takes(p, from)
				if !makes || seen[p.Input] {
					continue
				}
				seen[p.Input] = true
				s := Source{p.Input, level[from].Share.Times(share), level[from].Step}
				if s.Step == "" {
					s.Step = p.ID
				}
				next[p.Input] = s
				s.Share = s.Share.Times(amount.Whole(100).Over(amount.ExactFloat(usable(p.Input))))
				out = append(out, s)
			}
		}
		level = next
	}
	return out
}

// takes returns how many grams of its input a preparation needs for one gram of output.
func takes(p pantry.Preparation, makes string) (amount.Exact, bool) {
	y := p.Expected()
	percent := y.Percent
	if p.CoOutput != "" && p.CoOutput == makes {
		percent = y.Co
	} else if p.Output != makes {
		return amount.Exact{}, false
	}
	if percent <= 0 {
		return amount.Exact{}, false
	}
	return amount.Whole(100).Over(amount.ExactFloat(percent)), true
}
