package pantry

import (
	"regexp"
	"slices"
	"strings"

	"gallipot/internal/core/allergen"
	"gallipot/internal/core/law"
)

// PlainAllergens writes codes as words: the kind where there is one.
func PlainAllergens(codes []string) string {
	words := make([]string, len(codes))
	for i, c := range codes {
		base, kind, kinded := strings.Cut(c, ":")
		words[i] = strings.ReplaceAll(base, "_", " ")
		if kinded {
			words[i] = kind
		}
		if kind == law.UnnamedSpecies {
			words[i] = base + ", " + kind
		}
	}
	return strings.Join(words, ", ")
}

// Words are what an ingredient's texts are read by: the shop's lexicon, or the shipped one.
func (g *Ingredient) Words() *allergen.Lexicon {
	if g.Lexicon != nil {
		return g.Lexicon
	}
	return allergen.Shipped()
}

// between parts texts that are read together, so that no term reaches from one into the next.
const between = " ; "

func (g *Ingredient) names() string {
	var out strings.Builder
	out.WriteString(g.Name)
	for _, l := range law.All() {
		if s := g.Labels[l.Regime]; s != "" {
			out.WriteString(between)
			out.WriteString(s)
		}
	}
	return out.String()
}

func (g *Ingredient) lists() string {
	var out strings.Builder
	lists := g.SupplierLists
	if len(lists) == 0 {
		lists = g.Inherited.Lists
	}
	for _, l := range law.All() {
		if s := lists[l.Regime]; s != "" {
			out.WriteString(s)
			out.WriteString(between)
		}
	}
	return out.String()
}

// Reading is what the names and lists of the ingredient, in the wording of every law, name, betray and leave open.
func (g *Ingredient) Reading() allergen.Reading { return g.Words().Read(g.Texts()) }

// known is what an ingredient's texts and ticks come to.
type known struct {
	allergens law.Each[[]string]
	asks      []string
}

// knownBy is all that known follows from: the texts, ticks and flags as one text, and what they are read by.
type knownBy struct {
	words *allergen.Lexicon
	told  string
}

var knowns allergen.Memo[knownBy, known]

// known works out what the ingredient's texts and ticks come to, once for the same ones: a panel asks on every edit of
// a gram. Callers do not change what it returns.
func (g *Ingredient) known() known {
	return knowns.Get(knownBy{g.Words(), g.told()}, func() known {
		out := known{law.Each[[]string]{}, g.Reading().Asks()}
		for _, l := range law.All() {
			out.allergens[l.Regime] = g.allergensUnder(l)
		}
		return out
	})
}

// laws are those that an ingredient's words stand under.
var laws = law.All()

// told writes down all that the allergens of the ingredient follow from.
func (g *Ingredient) told() string {
	b := make([]byte, 0, 256)
	add := func(parts ...string) {
		for _, s := range parts {
			b = append(append(b, s...), 0)
		}
		b = append(b, 1)
	}
	add(g.Name)
	lists := g.SupplierLists
	if len(lists) == 0 {
		lists = g.Inherited.Lists
	}
	for _, l := range laws {
		r := l.Regime
		add(g.Labels[r], lists[r])
		add(g.Allergens[r]...)
		add(g.Inherited.Allergens[r]...)
	}
	if g.Has(FlagRefinedOil) {
		b = append(b, 'r')
	}
	if g.Has(FlagVirginOil) {
		b = append(b, 'v')
	}
	if g.SulphitesMgKg != nil && *g.SulphitesMgKg > 0 {
		b = append(b, 's')
	}
	return string(b)
}

// AllergensUnder are the allergens of the ingredient under a law, sulphites that it only discloses among them: those
// ticked, those its names or lists say, those it was made of, and those found for another law where both have them.
// What one law exempts is never filled from another (handbook 08). Callers do not change what it returns.
func (g *Ingredient) AllergensUnder(l *law.Law) []string { return g.Carries()[l.Regime] }

// Carries are the allergens of the ingredient under every law, as AllergensUnder tells them.
func (g *Ingredient) Carries() law.Each[[]string] { return g.known().allergens }

func (g *Ingredient) allergensUnder(l *law.Law) []string {
	names, lists := g.Words().Read(g.names()), g.Words().Read(g.lists())
	refined := g.refined()
	out := slices.Clone(g.Allergens[l.Regime])
	for _, code := range names.Codes(l) {
		if !refined || !l.OilExempt(code) {
			out = append(out, code)
		}
	}
	out = append(out, lists.Codes(l)...)
	out = append(out, g.Inherited.Allergens[l.Regime]...)
	for _, other := range law.All() {
		if other == l {
			continue
		}
		for _, code := range slices.Concat(g.Allergens[other.Regime], g.Inherited.Allergens[other.Regime]) {
			carried, has := law.Carry(code, other, l)
			if !has || refined && l.OilExempt(carried) || exempted(code, carried, other, l, names, lists) {
				continue
			}
			out = append(out, carried)
		}
	}
	if g.SulphitesMgKg != nil && *g.SulphitesMgKg > 0 && l.Sulphites != "" {
		out = append(out, l.Sulphites)
	}
	return g.withAnimals(l, allergen.Tidy(out))
}

// exempted reports whether the words account for a code under one law only: each term that says it there says nothing
// of the kind here, as wheat glucose syrup.
func exempted(code, carried string, from, to *law.Law, readings ...allergen.Reading) bool {
	said := false
	for _, r := range readings {
		for _, f := range r.Finds {
			for _, t := range f.Terms {
				there := says(t, from, code)
				if there && says(t, to, carried) {
					return false
				}
				said = said || there
			}
		}
	}
	return said
}

func says(t *allergen.Term, l *law.Law, code string) bool {
	return slices.ContainsFunc(t.Says[l.Regime], func(s allergen.Saying) bool { return s.Code == code })
}

// coldPressed are words of oils that are never highly refined.
var coldPressed = regexp.MustCompile(`(?i)\b(?:cold[\s-]*press(?:ed)?|extra[\s-]+virgin|virgin|unrefined|crude)\b`)

// refined reports whether the ingredient is a highly refined oil on the supplier's statement, and nothing said of it
// speaks against that.
func (g *Ingredient) refined() bool {
	return g.Has(FlagRefinedOil) && !g.Has(FlagVirginOil) && !coldPressed.MatchString(g.names()+between+g.lists())
}

// withAnimals names the animal of milk and egg where the law asks and it is not the usual one: milk:goat.
func (g *Ingredient) withAnimals(l *law.Law, codes []string) []string {
	out := make([]string, 0, len(codes))
	for _, code := range codes {
		rank := l.Rank(code)
		if rank < 0 || l.Allergens[rank].Usual == "" || strings.Contains(code, ":") {
			out = append(out, code)
			continue
		}
		animals := g.animals(l, l.Allergens[rank])
		if len(animals) == 0 {
			out = append(out, code)
		}
		for _, a := range animals {
			if a == l.Allergens[rank].Usual {
				out = append(out, code)
			} else {
				out = append(out, code+":"+a)
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// animals are those that entries naming the allergen name too; none where no unusual one is.
func (g *Ingredient) animals(l *law.Law, a law.Allergen) []string {
	var out []string
	unusual := false
	for _, entry := range strings.FieldsFunc(g.names()+between+g.lists(), func(r rune) bool {
		return strings.ContainsRune(",;()[]", r)
	}) {
		if !slices.Contains(g.Words().Read(entry).Codes(l), a.Code) {
			continue
		}
		for _, animal := range append([]string{a.Usual}, a.Animals...) {
			if allergen.Mentions(entry, animal) && !slices.Contains(out, animal) {
				out, unusual = append(out, animal), unusual || animal != a.Usual
			}
		}
	}
	if !unusual {
		return nil
	}
	return out
}
