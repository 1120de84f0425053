package kernel

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/field"
	"gallipot/internal/core/judge"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// allergenStore keeps what ingredients gained and lost, and the vessels that products share.
type allergenStore interface {
	AllergenChanges(gained bool, most int) ([]AllergenChange, error)
	AllergenChange(id int64) (AllergenChange, error)
	AddAllergenChange(c *AllergenChange) error
	BatchesLacking() (map[int64]bool, error)

	Vessels() ([]Vessel, error)
	AddVessel(v *Vessel) error
	PutVessel(v Vessel, rev int) error
	VesselEntries(vessels ...int64) ([]VesselEntry, error)
	VesselsOf(batch int64) ([]VesselTurns, error)
	AddVesselEntry(e VesselEntry) error
}

// AllergenChange is one act by which ingredients gained or lost allergens or hazard flags, with everything it touched
// that day.
type AllergenChange struct {
	ID     int64     `json:"id"`
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	Reason string    `json:"reason"`
	ChangeWhat
}

// ChangeWhat is what changed, and what it touches.
type ChangeWhat struct {
	Ingredients []judge.Change   `json:"ingredients"`
	Products    []TouchedProduct `json:"products"`
	Labels      []TouchedLabel   `json:"labels"`
	Batches     []int64          `json:"batches"` // called back
}

// Gained reports whether an allergen was gained, so that labels and batches must be dealt with.
func (w ChangeWhat) Gained() bool {
	return slices.ContainsFunc(w.Ingredients, func(c judge.Change) bool { return c.Gains() })
}

// TouchedProduct is a version that an ingredient is in.
type TouchedProduct struct {
	Formula string `json:"formula"`
	Name    string `json:"name"`
	Version int    `json:"version"`
	State   string `json:"state"`
}

// TouchedLabel is a label of such a product.
type TouchedLabel struct {
	ID      int64      `json:"id"`
	Formula string     `json:"formula"`
	Name    string     `json:"name"`
	Regime  law.Regime `json:"regime"`
}

// ProductsIn names the products of a change, each once.
func (w ChangeWhat) ProductsIn() string {
	var names []string
	for _, p := range w.Products {
		if !slices.Contains(names, p.Name) {
			names = append(names, p.Name)
		}
	}
	if len(names) == 0 {
		return "no product"
	}
	return strings.Join(names, ", ")
}

// Vessel is a bowl, blender or line that products share. Least and Greatest bound what it works with, Residue is what
// stays in it; zero means that nobody has said.
type Vessel struct {
	ID       int64        `json:"id"`
	Name     string       `json:"name"`
	Rev      int          `json:"rev"`
	Retired  bool         `json:"retired"`
	Least    amount.Grams `json:"least_g"`
	Greatest amount.Grams `json:"greatest_g"`
	Residue  amount.Grams `json:"residue_g"`
}

// Check says what is wrong with a vessel's figures.
func (v Vessel) Check() error {
	for name, g := range map[string]amount.Grams{"least_g": v.Least, "greatest_g": v.Greatest, "residue_g": v.Residue} {
		if g.IsNegative() || g.Float() > amount.MaxGrams {
			return Mistake(name, "between 0 and 10 000 kg")
		}
	}
	switch {
	case v.Greatest.IsPositive() && v.Least.Cmp(v.Greatest) >= 0:
		return Mistake("least_g", "less than the %s g that it takes", v.Greatest)
	case v.Greatest.IsPositive() && v.Residue.Cmp(v.Greatest) >= 0:
		return Mistake("residue_g", "less than the %s g that it takes", v.Greatest)
	case !v.Greatest.IsPositive() && v.Least.IsPositive():
		return Mistake("greatest_g", "say what it takes at most, too")
	}
	return nil
}

// VesselEntry is one entry of a vessel. Allergens are those of what was in it.
type VesselEntry struct {
	ID        int64              `json:"id"`
	Vessel    int64              `json:"vessel"`
	Kind      string             `json:"kind"` // used or cleaned
	Batch     int64              `json:"batch"`
	What      string             `json:"what"`
	Allergens law.Each[[]string] `json:"allergens"`
	At        time.Time          `json:"at"`
	EnteredAt time.Time          `json:"entered_at"`
	By        string             `json:"by"`
}

// VesselTurns is a vessel that a batch was or will be made in, with its entries since the last clean-down before that,
// in order.
type VesselTurns struct {
	ID    int64
	Name  string
	Turns []VesselEntry
}

// Held reports whether a batch was in it.
func (v VesselTurns) Held(batch int64) bool {
	return slices.ContainsFunc(v.Turns, func(e VesselEntry) bool { return e.Batch == batch })
}

// Check names what is wrong with an entry of a vessel.
func (e VesselEntry) Check(now time.Time) []pantry.FieldError {
	var errs field.Errors
	bad := errs.Bad
	if e.Kind != bench.VesselUsed && e.Kind != bench.VesselCleaned {
		bad("kind", "was something in it, or was it cleaned down?")
	}
	if n := len([]rune(e.What)); n > 120 || n == 0 && e.Batch == 0 {
		bad("what", "say in at most 120 characters what was in it, or how it was cleaned")
	}
	if e.At.After(now.Add(time.Minute)) {
		bad("at", "this time has not come yet")
	}
	if e.Kind == bench.VesselCleaned && (e.Batch != 0 || judge.AnyCode(e.Allergens)) {
		bad("kind", "a clean-down brings nothing in")
	}
	for r, codes := range e.Allergens {
		l, err := law.Of(r)
		for _, code := range codes {
			if err != nil || !l.Known(code) {
				bad("allergens", fmt.Sprintf("%q is no allergen that Gallipot knows", code))
			}
		}
	}
	return errs
}
