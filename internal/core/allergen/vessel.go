package allergen

import (
	"slices"

	"gallipot/internal/core/law"
)

// Turn is one thing that happened to a vessel: something was in it, or it was cleaned down.
type Turn struct {
	Cleaned   bool
	Batch     int64  // of ours; 0 where it was something else
	What      string // that was in it
	Allergens law.Each[[]string]
}

// Carry is an allergen that a vessel carried over, with what left it there.
type Carry struct {
	Code string `json:"code"`
	From string `json:"from"`
}

// CarriedInto is what a vessel carried into a batch, by law: all that was in it before since its last clean-down, in
// the order of its turns. What the batch itself contains is not taken out.
func CarriedInto(turns []Turn, batch int64) law.Each[[]Carry] {
	out, held := law.Each[[]Carry]{}, law.Each[[]Carry]{}
	for _, t := range turns {
		if t.Cleaned {
			held = law.Each[[]Carry]{}
			continue
		}
		for _, l := range law.All() {
			if t.Batch == batch {
				for _, c := range held[l.Regime] {
					if !slices.Contains(out[l.Regime], c) {
						out[l.Regime] = append(out[l.Regime], c)
					}
				}
				continue // what it leaves to itself is no contact
			}
			for _, code := range t.Allergens[l.Regime] {
				if c := (Carry{code, t.What}); !slices.Contains(held[l.Regime], c) {
					held[l.Regime] = append(slices.Clone(held[l.Regime]), c)
				}
			}
		}
	}
	return out
}
