// Package judge derives what follows from what went in: a batch's composition as weighed, which allergens only one line
// brings, what ingredients gained and lost, how full a jar must be.
package judge

import (
	"slices"
	"strings"

	"gallipot/internal/core/allergen"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// Carries is what an ingredient carries at a moment: allergens under each law, and flags of hazard.
type Carries struct {
	Name      string
	Allergens law.Each[[]string]
	Flags     []string
}

// Carried returns what an ingredient carries.
func Carried(g *pantry.Ingredient) Carries {
	c := Carries{g.Name, law.Each[[]string]{}, pantry.Hazards(g.AllFlags())}
	for _, l := range law.All() {
		c.Allergens[l.Regime] = g.AllergensUnder(l)
	}
	return c
}

// Change is what one ingredient gained and lost.
type Change struct {
	ID        string             `json:"id"`
	Name      string             `json:"name"`
	Gained    law.Each[[]string] `json:"gained"`
	Lost      law.Each[[]string] `json:"lost"`
	FlagsGain []string           `json:"flags_gained"`
	FlagsLost []string           `json:"flags_lost"`
}

// Loses reports whether an allergen or a hazard flag is gone.
func (c Change) Loses() bool { return len(c.FlagsLost) > 0 || AnyCode(c.Lost) }

// Gains reports whether an allergen was gained.
func (c Change) Gains() bool { return AnyCode(c.Gained) }

// Moved returns what ingredients gained and lost between two moments, by name. A new ingredient gained nothing.
func Moved(before, now map[string]Carries) []Change {
	var out []Change
	for id, was := range before {
		ok, there := now[id]
		if !there {
			continue
		}
		c := Change{ID: id, Name: ok.Name, Gained: law.Each[[]string]{}, Lost: law.Each[[]string]{},
			FlagsGain: Without(ok.Flags, was.Flags), FlagsLost: Without(was.Flags, ok.Flags)}
		for _, l := range law.All() {
			c.Gained[l.Regime] = closer(ok.Allergens[l.Regime], was.Allergens[l.Regime])
			c.Lost[l.Regime] = closer(was.Allergens[l.Regime], ok.Allergens[l.Regime])
		}
		if c.Gains() || c.Loses() || len(c.FlagsGain) > 0 {
			out = append(out, c)
		}
	}
	slices.SortFunc(out, func(a, b Change) int { return strings.Compare(a.Name, b.Name) })
	return out
}

// closer returns the codes of a that b lacks, except those that b has in a more general or a more specific word: milk
// for goat milk, or a fish whose species is named by now.
func closer(a, b []string) []string {
	return slices.DeleteFunc(Without(a, b), func(code string) bool {
		base, kind, _ := strings.Cut(code, ":")
		return (kind == "" || kind == law.UnnamedSpecies) &&
			slices.ContainsFunc(b, func(o string) bool { return o == base || strings.HasPrefix(o, base+":") })
	})
}

// Without returns what one list has and another lacks.
func Without(a, b []string) []string {
	out := []string{}
	for _, x := range a {
		if !slices.Contains(b, x) {
			out = append(out, x)
		}
	}
	return out
}

// AnyCode reports whether there is any code under any law.
func AnyCode(each law.Each[[]string]) bool {
	for _, list := range each {
		if len(list) > 0 {
			return true
		}
	}
	return false
}

// InWords words the codes of all laws, each allergen once.
func InWords(each law.Each[[]string]) string {
	var out []string
	for _, l := range law.All() {
		for _, code := range each[l.Regime] {
			if word := pantry.PlainAllergens([]string{code}); !slices.Contains(out, word) {
				out = append(out, word)
			}
		}
	}
	return strings.Join(out, ", ")
}

// Gained returns the allergens that any of the ingredients gained.
func Gained(list []Change) law.Each[[]string] {
	all := law.Each[[]string]{}
	for _, c := range list {
		for r, codes := range c.Gained {
			all[r] = allergen.Tidy(slices.Concat(all[r], codes))
		}
	}
	return all
}

// Names returns the names of what changed.
func Names(list []Change) string {
	names := make([]string, len(list))
	for i, c := range list {
		names[i] = c.Name
	}
	return strings.Join(names, ", ")
}

func tidy(codes []string) []string {
	slices.Sort(codes)
	return slices.Compact(codes)
}
