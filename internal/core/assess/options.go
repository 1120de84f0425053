package assess

import (
	"slices"
	"strings"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
)

// Resolution is one way of making up the "any of" groups, with what it does to the product.
type Resolution struct {
	Used        []string           `json:"used"` // names of what is taken of each group
	PH          PH                 `json:"ph"`
	Allergens   law.Each[[]string] `json:"allergens"`
	Declaration law.Each[string]   `json:"declaration"`
}

// Version assesses a version. Where it or a component of it has "any of" groups every way of making them up is
// assessed: the pH band spans all of them, allergens are the union, and the keeping is that of the worst, because any
// of them may be in the jar. Errors are those of formula.Library.Expand and EachResolution.
func Version(v formula.Version, in Inputs) (Panel, error) {
	ways, err := in.Library.EachResolution(v)
	if err != nil {
		return Panel{}, err
	}
	var out Panel
	for i, r := range ways {
		own := in
		own.Library = r.Library
		nodes, err := own.Library.Expand(r.Version)
		if err != nil {
			return Panel{}, err
		}
		p, err := Nodes(r.Version, nodes, own)
		if err != nil {
			return Panel{}, err
		}
		if i == 0 {
			out = p
			out.Resolutions = []Resolution{}
		} else {
			out.span(p)
		}
		if len(r.Used) > 0 {
			out.Resolutions = append(out.Resolutions, p.resolution(r))
		}
	}
	return out, nil
}

func (p Panel) resolution(way formula.Resolved) Resolution {
	r := Resolution{Used: []string{}, PH: p.PH, Allergens: p.Allergens, Declaration: law.Each[string]{}}
	for regime, d := range p.Declaration {
		r.Declaration[regime] = d.List
	}
	for _, id := range way.Used {
		r.Used = append(r.Used, way.Library.Ingredients[id].Name)
	}
	return r
}

// span widens the panel so that it holds for the other resolution as well.
func (p *Panel) span(q Panel) {
	if p.PH.Low != nil && q.PH.Low != nil {
		low, high := min(*p.PH.Low, *q.PH.Low), max(*p.PH.High, *q.PH.High)
		p.PH.Low, p.PH.High = &low, &high
	}
	p.PH.Incomplete = p.PH.Incomplete || q.PH.Incomplete
	p.PH.Missing = union(p.PH.Missing, q.PH.Missing)
	for _, o := range q.Open {
		if !slices.ContainsFunc(p.Open, func(have Open) bool { return have.Ingredient == o.Ingredient }) {
			p.Open = append(p.Open, o)
		}
	}
	for r := range q.Allergens {
		p.MayContain[r] = union(p.MayContain[r], q.MayContain[r])
		p.Allergens[r] = union(p.Allergens[r], q.Allergens[r])
		if worse(q.Keeping[r], p.Keeping[r]) {
			p.Keeping[r] = q.Keeping[r]
		}
	}
	for _, c := range q.Cautions {
		if !slices.Contains(p.Cautions, c) {
			p.Cautions = append(p.Cautions, c)
		}
	}
}

func union(a, b []string) []string {
	out := slices.Clone(a)
	for _, s := range b {
		if !slices.Contains(out, s) {
			out = append(out, s)
		}
	}
	if len(out) > len(a) {
		slices.Sort(out)
	}
	return out
}

// worse reports whether a verdict is stricter: refused, then no days yet, then fewer days.
func worse(a, b keeping.Verdict) bool {
	rank := func(v keeping.Verdict) int {
		switch {
		case v.Refused:
			return -2
		case v.Days == nil:
			return -1
		}
		return *v.Days
	}
	return rank(a) < rank(b)
}

// Claims lists what the ingredients allow to be said: nothing in the list speaks against it. Whether a claim may stand
// on a label is for the local rules, and for what the kitchen keeps apart.
func Claims(leaves []formula.Leaf) []string {
	animal, flesh, gluten, milk, egg, nuts, sugar := false, false, false, false, false, false, false
	for i, l := range leaves {
		g := l.Ingredient
		if i > 0 && g == leaves[i-1].Ingredient {
			continue
		}
		for _, flag := range g.AllFlags() {
			animal = animal || flag == "animal" || flag == "meat_or_fish" || flag == "honey"
			flesh = flesh || flag == "meat_or_fish"
			sugar = sugar || flag == "sugar"
		}
		for _, codes := range g.Carries() {
			for _, code := range codes {
				switch base, _, _ := strings.Cut(code, ":"); base {
				case "milk":
					milk, animal = true, true
				case "egg":
					egg, animal = true, true
				case "fish", "crustacean", "mollusc":
					flesh, animal = true, true
				case "gluten", "wheat":
					gluten = true
				case "nut", "tree_nut", "peanut":
					nuts = true
				}
			}
		}
	}
	out := []string{}
	for _, c := range []struct {
		against bool
		name    string
	}{{animal, "vegan"}, {flesh, "vegetarian"}, {gluten, "no gluten cereals"}, {milk, "no milk"}, {egg, "no egg"},
		{nuts, "no nuts"}, {sugar, "no added sugar"}} {
		if !c.against {
			out = append(out, c.name)
		}
	}
	return out
}

// Without lists what is in a and not in b.
func Without(a, b []string) []string {
	out := []string{}
	for _, s := range a {
		if !slices.Contains(b, s) {
			out = append(out, s)
		}
	}
	return out
}

// DeclaredList is the list under a law in words.
func (p Panel) DeclaredList(regime law.Regime) string {
	d := p.Declaration[regime]
	if d.Contains != "" {
		return d.List + " " + d.Contains
	}
	return d.List
}
