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
// the order of its turns, but for what the batch has of its own.
func CarriedInto(turns []Turn, batch int64, own law.Each[[]string]) law.Each[[]Carry] {
	out := law.Each[[]Carry]{}
	for _, l := range law.All() {
		r := l.Regime
		var held []Carry
		met := map[Carry]bool{}
		for _, t := range turns {
			switch {
			case t.Cleaned:
				held = nil
			case t.Batch == batch: // what it leaves to itself is no contact
				for _, c := range held {
					if !met[c] {
						met[c], out[r] = true, append(out[r], c)
					}
				}
			default:
				for _, code := range t.Allergens[r] {
					if !slices.Contains(own[r], code) {
						held = append(held, Carry{code, t.What})
					}
				}
			}
		}
	}
	return out
}
