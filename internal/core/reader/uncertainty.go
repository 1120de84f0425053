package reader

import (
	"cmp"
	"math"
	"slices"
)

// Rank is a line with the share of the uncertainty that it causes: percent of the variance of the total mass, of the
// acid and of the salt of the whole. Percent is how far the line's own percent of the formula may be off.
type Rank struct {
	Key     string  `json:"key"`
	Name    string  `json:"name"`
	Mass    float64 `json:"mass_percent"`
	Acid    float64 `json:"acid_percent"`
	Salt    float64 `json:"salt_percent"`
	Percent float64 `json:"of_formula_percent"`
}

// weighFirst is how many lines are named to be weighed first.
const weighFirst = 3

// sum adds the lines in the bowl, deviations in quadrature, and ranks what makes the whole uncertain (handbook 02).
func (r *Reading) sum(b *Book) {
	var mass, acid, salt float64 // variances, grams squared
	type part struct {
		at               int
		mass, acid, salt float64
	}
	var parts []part
	for i, l := range r.Lines {
		if l.Open() {
			r.StillOpen++
		}
		if l.Kind != Weighed || l.As != AsBowl || l.Grams == nil {
			continue
		}
		r.Total += *l.Grams
		deviation := *l.Grams * l.Spread / 100
		p := part{at: i, mass: deviation * deviation}
		if g := b.Ingredients[l.Ingredient]; g != nil {
			p.acid = p.mass * math.Pow(g.Acids.Total()/100, 2)
			p.salt = p.mass * math.Pow(g.Composition.Salt()/100, 2)
		}
		mass, acid, salt = mass+p.mass, acid+p.acid, salt+p.salt
		parts = append(parts, p)
	}
	r.Deviation = math.Sqrt(mass)
	share := func(x, of float64) float64 {
		if of <= 0 {
			return 0
		}
		return 100 * x / of
	}
	for _, p := range parts {
		if p.mass == 0 || r.Lines[p.at].Source == FromScale {
			continue
		}
		l := r.Lines[p.at]
		r.WeighFirst = append(r.WeighFirst, Rank{Key: l.Key, Name: l.Name, Mass: share(p.mass, mass),
			Acid: share(p.acid, acid), Salt: share(p.salt, salt),
			Percent: share(math.Sqrt(p.mass)*(r.Total-*l.Grams), r.Total*r.Total)})
	}
	slices.SortStableFunc(r.WeighFirst, func(x, y Rank) int {
		return cmp.Compare(y.Mass+y.Acid+y.Salt, x.Mass+x.Acid+x.Salt)
	})
	r.WeighFirst = r.WeighFirst[:min(weighFirst, len(r.WeighFirst))]
}
