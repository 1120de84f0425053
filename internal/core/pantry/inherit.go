package pantry

import (
	"cmp"
	"maps"
	"slices"
	"strings"

	"gallipot/internal/core/day"
	"gallipot/internal/core/law"
)

// Inherited is what an ingredient carries because of what it was made from: allergens by law, hazard flags, and the
// names of the ingredients they come from. Straining, frying and freezing remove none of it (handbook 06).
type Inherited struct {
	Allergens law.Each[[]string] `json:"allergens"`
	Flags     []string           `json:"flags"`
	From      []string           `json:"from"`
	// what went into it and stays, where it has no list of its own
	Lists law.Each[string] `json:"lists,omitempty"`
}

// Has reports whether an allergen of any law or a flag is inherited.
func (x Inherited) Has(what string) bool {
	for _, codes := range x.Allergens {
		if slices.Contains(codes, what) {
			return true
		}
	}
	return slices.Contains(x.Flags, what)
}

// Lifted is an allergen or a flag that an owner took off what it was inherited by, with the reason.
type Lifted struct {
	What   string  `json:"what"` // a code of any law, or a flag
	Reason string  `json:"reason"`
	By     string  `json:"by"`
	On     day.Day `json:"on"`
}

// Hazards that pass on, by kind: an output that states one of a kind itself answers for the others of it, as roasted
// garlic that is a cooked vegetable does for raw garlic.
var kinds = [][]string{
	{"raw_vegetable", "raw_allium", "raw_herb", "cooked_vegetable", FlagDriedPlant},
	{"raw_fruit"},
	{"raw_egg", "pasteurised_egg"},
	{"fresh_dairy", "soft_cheese", "hard_cheese"},
	{"cooked_legume"}, {"canned_low_acid"}, {"nut_or_seed"},
	{FlagPlantsInOil},
	{"animal"}, {"meat_or_fish"}, {"honey"},
}

// Flags of hazard that rules ask for by name.
const (
	FlagDriedPlant  = "dried_spice"      // a dry low-acid ingredient: rule 11
	FlagPlantsInOil = "plants_under_oil" // made by keeping plants under oil, strained or not: rule 6
)

// Inherit fills in what each ingredient carries because of the steps that make it, through any number of them. all must
// hold the inputs and extras; what it lacks is passed over.
func Inherit(all map[string]*Ingredient, steps []Preparation) {
	makers := map[string][]Preparation{}
	for _, p := range steps {
		makers[p.Output] = append(makers[p.Output], p)
		if p.CoOutput != "" {
			makers[p.CoOutput] = append(makers[p.CoOutput], p)
		}
	}
	done, open := map[string]bool{}, map[string]bool{}
	var settle func(id string)
	settle = func(id string) {
		g := all[id]
		if g == nil || done[id] || open[id] {
			return // what leads back to itself brings nothing of its own
		}
		open[id] = true
		g.Inherited = Inherited{Allergens: law.Each[[]string]{}}
		for _, p := range makers[id] {
			for _, from := range p.Inputs() {
				settle(from)
				if in := all[from]; in != nil && from != id {
					g.inherit(in)
				}
			}
			if p.UnderOil(all) {
				g.inheritFlag(FlagPlantsInOil)
			}
			if g.Inherited.Lists == nil && len(g.SupplierLists) == 0 {
				g.Inherited.Lists = p.listOf(id, all)
			}
		}
		done[id] = true
	}
	for _, id := range slices.Sorted(maps.Keys(all)) {
		settle(id)
	}
}

// listOf is the list of what stays in an output of a step, under each law, in falling order. A step of one input is
// that ingredient in another state, with the list it has, if any.
func (p Preparation) listOf(output string, all map[string]*Ingredient) law.Each[string] {
	beside := output == p.CoOutput
	type part struct {
		id    string
		grams float64
	}
	left, several := p.Expected().Percent, false
	if beside {
		left = p.Expected().Co
	}
	var parts []part
	for _, e := range p.Extras {
		if grams := e.Stays(beside); grams > 0 && all[e.Ingredient] != nil {
			parts = append(parts, part{e.Ingredient, grams})
			left, several = left-grams, true
		}
	}
	if all[p.Input] == nil {
		return nil
	}
	if !several {
		return all[p.Input].lawfulLists()
	}
	parts = append(parts, part{p.Input, left})
	slices.SortStableFunc(parts, func(x, y part) int { return cmp.Compare(y.grams, x.grams) })
	out := law.Each[string]{}
	for _, l := range law.All() {
		items := make([]ListItem, len(parts))
		for i, x := range parts {
			items[i].Name = strings.NewReplacer("(", "", ")", "", ",", " –", ";",
				" –").Replace(all[x.id].LabelFor(l.Regime))
			items[i].Parts, _ = ParseSupplierList(all[x.id].ListFor(l.Regime))
		}
		out[l.Regime] = PrintList(items)
	}
	return out
}

// lawfulLists are the lists that the ingredient states or inherited, under each law; nil where there is none.
func (g *Ingredient) lawfulLists() law.Each[string] {
	out := law.Each[string]{}
	for _, l := range law.All() {
		if list := g.ListFor(l.Regime); list != "" {
			out[l.Regime] = list
		}
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

// Inputs are the ids of everything that goes into a step.
func (p Preparation) Inputs() []string {
	out := []string{p.Input}
	for _, e := range p.Extras {
		if !slices.Contains(out, e.Ingredient) {
			out = append(out, e.Ingredient)
		}
	}
	return out
}

// underOil is the share of oil among what goes in from which plants count as kept under oil (handbook 06 rule 6).
const underOil = 0.30

// UnderOil reports whether the step keeps plants under oil: a plant goes in, and oil enough to cover it.
func (p Preparation) UnderOil(all map[string]*Ingredient) bool {
	oil, total, plant := 0.0, 0.0, false
	add := func(id string, grams float64) {
		if g := all[id]; g != nil && grams > 0 {
			total += grams
			plant = plant || g.Plant()
			if g.IsOil() {
				oil += grams
			}
		}
	}
	add(p.Input, 100)
	for _, e := range p.Extras {
		add(e.Ingredient, e.PerHundred)
	}
	return plant && oil >= underOil*total
}

// plantRoles are roles of plants whose record states no flag, as dried tomatoes and olives.
var plantRoles = []string{"vegetable", "allium", "herb", "legume", "mushroom"}

// Plant reports whether the ingredient is a garlic, herb, chilli, pulse, zest or other vegetable, raw, cooked or dried,
// or was made of one: what spores come with. Juices that only sour are none, nor are dry spices by themselves.
func (g *Ingredient) Plant() bool {
	switch {
	case g.HasAny("raw_vegetable", "raw_allium", "raw_herb", "cooked_vegetable", "cooked_legume", FlagPlantsInOil):
		return true
	case g.Dried() || g.Has("acidulant"):
		return false
	}
	return g.Has("raw_fruit") || slices.Contains(plantRoles, g.Role)
}

// Dried reports whether the ingredient is a spice, herb or powder that is dry by its specification.
func (g *Ingredient) Dried() bool { return g.HasAny(FlagDriedPlant, FlagSpice) }

// Ancestors are the ids of what ingredients are made of, through any number of steps, without themselves.
func Ancestors(ids []string, steps []Preparation) []string {
	seen := map[string]bool{}
	var out []string
	queue := slices.Clone(ids)
	for _, id := range ids {
		seen[id] = true
	}
	for len(queue) > 0 {
		id := queue[0]
		queue = queue[1:]
		for _, p := range steps {
			if p.Output != id && p.CoOutput != id {
				continue
			}
			for _, from := range p.Inputs() {
				if !seen[from] {
					seen[from] = true
					out, queue = append(out, from), append(queue, from)
				}
			}
		}
	}
	return out
}

// AllFlags are the flags that the ingredient states and those it inherited.
func (g *Ingredient) AllFlags() []string { return slices.Concat(g.Flags, g.Inherited.Flags) }

// Whole is the ingredient with what it inherited as its own, and without its offers: what it is made of, whatever
// becomes of the steps that made it.
func (g *Ingredient) Whole() Ingredient {
	out := *g
	out.Offers, out.Flags = nil, g.AllFlags()
	out.Allergens = law.Each[[]string]{}
	if len(g.SupplierLists) == 0 {
		out.SupplierLists = g.Inherited.Lists
	}
	for _, l := range law.All() {
		out.Allergens[l.Regime] = slices.Concat(g.Allergens[l.Regime], g.Inherited.Allergens[l.Regime])
	}
	out.Inherited = Inherited{}
	return out
}

func (g *Ingredient) inherit(in *Ingredient) {
	before := len(g.Inherited.Flags)
	gained := false
	for _, l := range law.All() {
		had := g.AllergensUnder(l)
		for _, code := range in.AllergensUnder(l) {
			if !slices.Contains(had, code) && !slices.Contains(g.Inherited.Allergens[l.Regime], code) &&
				!g.lifted(code) {
				g.Inherited.Allergens[l.Regime] = append(g.Inherited.Allergens[l.Regime], code)
				gained = true
			}
		}
	}
	for _, f := range slices.Concat(in.Flags, in.Inherited.Flags) {
		g.inheritFlag(f)
	}
	if (gained || len(g.Inherited.Flags) > before) && !slices.Contains(g.Inherited.From, in.Name) {
		g.Inherited.From = append(g.Inherited.From, in.Name)
	}
}

// inheritFlag takes a flag of hazard over, unless the ingredient itself states one of its kind or it was lifted.
func (g *Ingredient) inheritFlag(flag string) {
	i := slices.IndexFunc(kinds, func(k []string) bool { return slices.Contains(k, flag) })
	if i < 0 || g.lifted(flag) || slices.Contains(g.Inherited.Flags, flag) ||
		slices.ContainsFunc(kinds[i], func(f string) bool { return slices.Contains(g.Flags, f) }) {
		return
	}
	g.Inherited.Flags = append(g.Inherited.Flags, flag)
}

func (g *Ingredient) lifted(what string) bool {
	return slices.ContainsFunc(g.Lifted, func(x Lifted) bool { return x.What == what })
}

// Hazards are the flags of hazard among flags: those that pass on to whatever is made of the ingredient.
func Hazards(flags []string) []string {
	out := []string{}
	for _, f := range flags {
		if slices.ContainsFunc(kinds, func(k []string) bool { return slices.Contains(k, f) }) &&
			!slices.Contains(out, f) {
			out = append(out, f)
		}
	}
	return out
}
