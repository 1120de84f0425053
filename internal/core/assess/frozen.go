package assess

import (
	"maps"
	"slices"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// Frozen is what a version was made of when it was locked: its ingredients, all the way down, and the names of the
// formulas it uses, as they were (handbook 06).
type Frozen struct {
	Ingredients []pantry.Ingredient `json:"ingredients"`
	Names       map[string]string   `json:"names"`
}

// Freeze keeps of a library what a version refers to. Offers are no facts of a version and stay behind.
func Freeze(v formula.Version, lib formula.Library) Frozen {
	f := Frozen{Ingredients: []pantry.Ingredient{}, Names: map[string]string{v.Formula: lib.Name(v.Formula)}}
	seen := map[string]bool{}
	keep := func(id string) {
		if g := lib.Ingredients[id]; g != nil && !seen[id] {
			seen[id] = true
			f.Ingredients = append(f.Ingredients, g.Whole())
		}
	}
	walked := map[formula.Ref]bool{}
	var walk func(v formula.Version)
	walk = func(v formula.Version) {
		for _, l := range v.Lines {
			keep(l.Ingredient)
			for _, id := range l.AnyOf {
				keep(id)
			}
			if c := l.Component; c != nil && !walked[*c] {
				walked[*c] = true
				f.Names[c.Formula] = lib.Name(c.Formula)
				walk(lib.Versions[*c])
			}
		}
		for _, t := range v.Toppings {
			keep(t.Ingredient)
		}
	}
	walk(v)
	return f
}

// Over is the library as it was when the version was locked, with every stricter change since: an allergen or a flag of
// hazard that the pantry gained counts at once; what it lost waits for a new version.
func (f Frozen) Over(lib formula.Library) formula.Library {
	out := formula.Library{Ingredients: maps.Clone(lib.Ingredients), Versions: lib.Versions,
		Names: maps.Clone(lib.Names)}
	maps.Copy(out.Names, f.Names)
	for i := range f.Ingredients {
		g := f.Ingredients[i]
		if now := lib.Ingredients[g.ID]; now != nil {
			g = Stricter(g, *now)
			g.AsToday(now)
			g.Offers = now.Offers // what it costs is today's
		}
		out.Ingredients[g.ID] = &g
	}
	return out
}

// excusing are flags that take something off: an allergen by refining, a word by its purpose. They count only while
// both sides have them.
var excusing = []string{pantry.FlagRefinedOil, pantry.FlagProcessingAid}

// plain are flags without a hazard, by which a sheet sorts and words.
var plain = []string{pantry.FlagSalt, pantry.FlagSugar, pantry.FlagSpice, pantry.FlagColouringSpice, pantry.FlagWater,
	pantry.FlagVirginOil}

// Stricter is an ingredient as it was with the allergens, the sulphites and the flags of hazard that it gained since.
func Stricter(was, now pantry.Ingredient) pantry.Ingredient {
	out := was
	out.Flags = slices.DeleteFunc(slices.Clone(was.Flags), func(f string) bool {
		return slices.Contains(excusing, f) && !slices.Contains(now.Flags, f)
	})
	for _, f := range now.AllFlags() {
		if !slices.Contains(out.Flags, f) && !slices.Contains(excusing, f) && !slices.Contains(plain, f) {
			out.Flags = append(out.Flags, f)
		}
	}
	out.Lexicon = now.Lexicon
	out.SulphitesMgKg = moreSulphites(was, now)
	out.Allergens = law.Each[[]string]{}
	maps.Copy(out.Allergens, was.Allergens)
	for _, l := range law.All() {
		had := out.AllergensUnder(l)
		for _, a := range now.AllergensUnder(l) {
			if !slices.Contains(had, a) {
				out.Allergens[l.Regime] = append(slices.Clone(out.Allergens[l.Regime]), a)
			}
		}
	}
	return out
}

// moreSulphites is the stricter level of sulphites, in mg/kg: unknown where they are told of counts as the most.
func moreSulphites(was, now pantry.Ingredient) *float64 {
	unknown := func(g pantry.Ingredient) bool {
		return g.SulphitesMgKg == nil && slices.ContainsFunc(law.All(),
			func(l *law.Law) bool { return slices.Contains(g.AllergensUnder(l), l.Sulphites) })
	}
	switch {
	case unknown(was) || unknown(now):
		return nil
	case was.SulphitesMgKg == nil || now.SulphitesMgKg != nil && *now.SulphitesMgKg > *was.SulphitesMgKg:
		return now.SulphitesMgKg
	}
	return was.SulphitesMgKg
}

// Gained are the allergens, by law, and the flags of hazard that today's pantry has and the version had not.
type Gained struct {
	Allergens law.Each[[]string] `json:"allergens"`
	Flags     []string           `json:"flags"`
	In        []string           `json:"in"` // names of the ingredients that gained them
}

// Any reports whether anything was gained.
func (g Gained) Any() bool {
	return len(g.Flags) > 0 ||
		slices.ContainsFunc(slices.Collect(maps.Values(g.Allergens)), func(a []string) bool { return len(a) > 0 })
}

// Since tells what became stricter since the version was locked, over all its ingredients.
func (f Frozen) Since(lib formula.Library) Gained {
	out := Gained{Allergens: law.Each[[]string]{}, Flags: []string{}, In: []string{}}
	over := f.Over(lib)
	for i := range f.Ingredients {
		was, now := &f.Ingredients[i], over.Ingredients[f.Ingredients[i].ID]
		flags := lacking(was.Flags, now.Flags)
		out.Flags = append(out.Flags, lacking(out.Flags, flags)...)
		stricter := len(flags) > 0
		for _, l := range law.All() {
			gained := lacking(was.AllergensUnder(l), now.AllergensUnder(l))
			if l.Sulphites != "" && !sameLevel(was.SulphitesMgKg, now.SulphitesMgKg) &&
				!slices.Contains(gained, l.Sulphites) {
				gained = append(gained, l.Sulphites)
			}
			stricter = stricter || len(gained) > 0
			if more := lacking(out.Allergens[l.Regime], gained); len(more) > 0 {
				out.Allergens[l.Regime] = append(out.Allergens[l.Regime], more...)
			}
		}
		if stricter {
			out.In = append(out.In, now.Name)
		}
	}
	return out
}

func sameLevel(a, b *float64) bool { return a == b || a != nil && b != nil && *a == *b }

// lacking is what of one list the other has not.
func lacking(in, of []string) []string {
	return slices.DeleteFunc(slices.Clone(of), func(x string) bool { return slices.Contains(in, x) })
}
