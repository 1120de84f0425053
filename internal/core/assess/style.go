package assess

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/pantry"
)

var (
	dairy = []string{"fresh_dairy", "soft_cheese", "hard_cheese"}
	egg   = []string{"pasteurised_egg", pantry.FlagRawEgg}
	fresh = []string{"raw_vegetable", "raw_allium", "raw_herb", "raw_fruit"}
	nuts  = []string{"nut_or_seed"}
	pulse = []string{"cooked_legume"}
)

// style says what a keeping style must have in it, one of each list, and what it must not (handbook 06, "A style must
// fit its lines").
type style struct {
	has   func(*pantry.Ingredient) bool
	named string // what it must have, in words
	never func(*pantry.Ingredient) bool
}

func flagged(lists ...[]string) func(*pantry.Ingredient) bool {
	all := slices.Concat(lists...)
	return func(g *pantry.Ingredient) bool { return g.HasAny(all...) }
}

// perishing is anything that was fresh or would feed what spoils.
func perishing(g *pantry.Ingredient) bool {
	return g.Plant() || g.HasAny(slices.Concat(fresh, dairy, egg, pulse, nuts)...)
}

var styles = map[string]style{
	"leafy_puree": {has: (*pantry.Ingredient).Plant, named: "leaves or vegetables"},
	"nut_based": {has: flagged(nuts), named: "nuts or seeds", never: func(g *pantry.Ingredient) bool {
		return g.HasAny(slices.Concat(fresh, pulse, egg, []string{"fresh_dairy", "soft_cheese"})...)
	}},
	"dairy_based": {has: flagged(dairy), named: "dairy"},
	"yolk_bound": {has: flagged(egg), named: "yolk",
		never: flagged([]string{"raw_vegetable", "raw_allium", "raw_herb"})},
	"shaken_nothing_fresh": {never: perishing},
	"pulse_or_root_dip":    {has: (*pantry.Ingredient).Plant, named: "pulses or roots"},
}

// fitting parts the keeping styles that were chosen into those that fit what is in the product, and why others do not.
func fitting(chosen []string, leaves []formula.Leaf) (fit, unfit []string) {
	fit = []string{}
	for _, name := range chosen {
		s, known := styles[name]
		if !known {
			continue
		}
		has, against := s.has == nil, []string(nil)
		for _, l := range leaves {
			g := l.Ingredient
			has = has || s.has(g)
			if s.never != nil && s.never(g) && !slices.Contains(against, g.Name) {
				against = append(against, g.Name)
			}
		}
		what := keeping.StyleNames[name]
		switch {
		case !has:
			unfit = append(unfit, fmt.Sprintf("%s have %s in them, and here are none", what, s.named))
		case len(against) > 0:
			unfit = append(unfit, fmt.Sprintf("%s have no %s in them", what, few(against)))
		default:
			fit = append(fit, name)
		}
	}
	return fit, unfit
}

// few names the first of many.
func few(names []string) string {
	const most = 3
	if n := len(names) - most; n > 0 {
		return strings.Join(names[:most], ", ") + fmt.Sprintf(" and %d more", n)
	}
	return strings.Join(names, ", ")
}

// shares are how much of a mix is of a kind, in percent.
type shares struct{ oil, thin, pulse, dairy, egg, nuts, leaves, plants float64 }

func sharesOf(leaves []formula.Leaf) shares {
	var s shares
	total := 0.0
	for _, l := range leaves {
		total += l.Grams
	}
	if total <= 0 {
		return s
	}
	for _, l := range leaves {
		g, percent := l.Ingredient, 100*l.Grams/total
		add := func(to *float64, is bool) {
			if is {
				*to += percent
			}
		}
		add(&s.oil, g.IsOil())
		add(&s.thin, g.IsOil() || g.Has(pantry.FlagWater) || g.Has("acidulant") || g.Role == "sweetener")
		add(&s.pulse, g.HasAny(pulse...))
		add(&s.dairy, g.HasAny(dairy...))
		add(&s.egg, g.HasAny(egg...))
		add(&s.nuts, g.HasAny(nuts...))
		add(&s.leaves, g.Has("raw_herb") || g.Role == "herb")
		add(&s.plants, g.Plant() && !g.Has("raw_herb"))
	}
	return s
}

// From when a part of the mix makes its style, in percent.
const (
	bindsFrom = 3.0  // egg
	marksFrom = 10.0 // pulses, dairy, nuts, leaves
	thinFrom  = 60.0 // oil, water and sour liquids pour
	freshFrom = 1.0
)

// productWords are words of a name that tell its style.
var productWords = []struct{ word, style string }{
	{"marinade", "marinade"}, {"pesto", "pesto"}, {"spread", "spread"}, {"butter", "spread"}, {"dip", "dip"},
	{"mayo", "spoonable dressing"}, {"dressing", ""}, {"vinaigrette", "pourable dressing"},
}

// Styled gives a version the style, the way it holds together and the keeping styles that follow from what is in it
// and from its name (handbook 03).
func Styled(v formula.Version, name string, leaves []formula.Leaf) formula.Version {
	s := sharesOf(leaves)
	v.ProductStyle = s.product(name)
	v.EmulsionStyle = s.emulsion(v.ProductStyle, leaves)
	v.Keeping.Styles = s.keeping(leaves)
	return v
}

func (s shares) product(name string) string {
	lower := strings.ToLower(name)
	for _, p := range productWords {
		if strings.Contains(lower, p.word) && p.style != "" {
			return p.style
		}
	}
	switch {
	case s.thin >= thinFrom && s.egg < bindsFrom:
		return "pourable dressing"
	case s.egg >= bindsFrom, strings.Contains(lower, "dressing"):
		return "spoonable dressing"
	case s.leaves >= marksFrom && s.oil >= marksFrom:
		return "pesto"
	}
	return "dip"
}

func (s shares) emulsion(product string, leaves []formula.Leaf) string {
	binds := slices.ContainsFunc(leaves, func(l formula.Leaf) bool {
		return l.Grams > 0 && (l.Ingredient.HasAny("additive:thickener", "nut_or_seed", "pasteurised_egg") ||
			strings.Contains(strings.ToLower(l.Ingredient.Name), "mustard"))
	})
	switch {
	case s.egg >= bindsFrom && s.oil >= marksFrom:
		return "yolk-bound"
	case product == "dip" || product == "pesto" || product == "spread":
		return "purée"
	case binds || product == "spoonable dressing":
		return "bound"
	}
	return "shaken"
}

func (s shares) keeping(leaves []formula.Leaf) []string {
	var out []string
	for _, c := range []struct {
		style string
		is    bool
	}{
		{"leafy_puree", s.leaves >= marksFrom}, {"nut_based", s.nuts >= marksFrom},
		{"dairy_based", s.dairy >= freshFrom},
		{"yolk_bound", s.egg >= freshFrom},
		{"pulse_or_root_dip", s.pulse >= freshFrom || s.plants >= thinFrom/2},
	} {
		if c.is {
			out = append(out, c.style)
		}
	}
	if out == nil {
		out = []string{"shaken_nothing_fresh"}
	}
	fit, _ := fitting(out, leaves)
	return fit
}

// Separates reports whether what was shaken parts again: a thin dressing of oil and something watery.
func Separates(v formula.Version, oilShare float64) bool {
	pours := v.ProductStyle == "pourable dressing" || v.ProductStyle == "marinade"
	return pours && v.EmulsionStyle == "shaken" && oilShare > 0.02 && oilShare < 0.98
}
