package assess

import (
	"regexp"
	"slices"
	"strings"

	"gallipot/internal/core/declaration"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// Claims that have a rule (handbook 08).
const (
	Vegan        = "vegan"
	Vegetarian   = "vegetarian"
	GlutenFree   = "gluten_free"
	DairyFree    = "dairy_free"
	NoAddedSugar = "no_added_sugar"
	Organic      = "organic"
)

// ClaimRule is how a claim reads, what would break it in words, and what must be shown for it, where that is not in the
// formula.
type ClaimRule struct {
	Key     string `json:"key"`
	Words   string `json:"words"`
	Because string `json:"because"` // why an ingredient breaks it
	Shows   string `json:"shows"`   // the evidence it needs; empty: the formula is enough
	breaks  func(g *pantry.Ingredient) bool
}

// ClaimRules are the claims that a label may make, each with its rule.
func ClaimRules() []ClaimRule {
	return []ClaimRule{
		{Vegan, "Vegan", "it comes from an animal", "", isAnimal},
		{Vegetarian, "Suitable for vegetarians", "it is meat, fish, or made with animal rennet", "", isFlesh},
		{GlutenFree, "Gluten-free", "it is or may hold a cereal with gluten",
			"suppliers' statements or a test: under 20 ppm in the US (21 CFR 101.91), at most 20 mg/kg in GB " +
				"(Regulation 828/2014)", hasGluten},
		{DairyFree, "Dairy-free", "it is or holds milk", "", carrying("milk")},
		{NoAddedSugar, "No added sugar", "it is sugar, or its list has some", "", isSweetened},
		{Organic, "Organic", "its name or list does not say that it is organic",
			"the certificate's number and the control body", notOrganic},
	}
}

// sugarsNote is what GB asks beside "no added sugar" where sugar is there by nature (Regulation 1924/2006 annex).
const sugarsNote = "Contains naturally occurring sugars"

// ClaimBreaks names the ingredients that break a claim.
func (p Panel) ClaimBreaks(rule ClaimRule) []string {
	out := []string{}
	for _, l := range p.leaves {
		if l.Grams > 0 && rule.breaks(l.Ingredient) && !slices.Contains(out, l.Ingredient.Name) {
			out = append(out, l.Ingredient.Name)
		}
	}
	return out
}

// ClaimWords are the words of a claim on a label, with what the law asks beside them.
func (p Panel) ClaimWords(rule ClaimRule, l *law.Law) string {
	if rule.Key == NoAddedSugar && !l.Servings && p.Nutrients.Sugars > 0 {
		return rule.Words + ". " + sugarsNote
	}
	return rule.Words
}

func carrying(codes ...string) func(g *pantry.Ingredient) bool {
	return func(g *pantry.Ingredient) bool {
		for _, carried := range g.Carries() {
			for _, code := range carried {
				if base, _, _ := strings.Cut(code, ":"); slices.Contains(codes, base) {
					return true
				}
			}
		}
		return false
	}
}

func isAnimal(g *pantry.Ingredient) bool {
	return slices.ContainsFunc(g.AllFlags(), func(f string) bool { return f == "animal" || f == "honey" }) ||
		isFlesh(g) || carrying("milk", "egg")(g)
}

var (
	rennet    = regexp.MustCompile(`(?i)\brennet\b`)
	noAnimal  = regexp.MustCompile(`(?i)\b(vegetarian|vegetable|microbial|non-animal)\b`)
	organicly = regexp.MustCompile(`(?i)\borganic\b`)
	sweet     = regexp.MustCompile(
		`(?i)\b(sugars?|syrup|honey|dextrose|glucose|fructose|molasses|treacle|sucrose|juice concentrate)\b`)
)

// said are an ingredient's name and its lists under every law.
func said(g *pantry.Ingredient) []string {
	out := []string{g.Name}
	for _, l := range law.All() {
		out = append(out, g.LabelFor(l.Regime), g.ListFor(l.Regime))
	}
	return out
}

func isFlesh(g *pantry.Ingredient) bool {
	if slices.Contains(g.AllFlags(), "meat_or_fish") || carrying("fish", "crustacean", "mollusc")(g) {
		return true
	}
	animalRennet := func(s string) bool { return rennet.MatchString(s) && !noAnimal.MatchString(s) }
	return slices.ContainsFunc(said(g), animalRennet)
}

func hasGluten(g *pantry.Ingredient) bool {
	if carrying("gluten", "wheat")(g) {
		return true
	}
	if g.MayContain == nil {
		return false
	}
	for _, codes := range g.MayContain.Allergens {
		for _, code := range codes {
			if base, _, _ := strings.Cut(code, ":"); base == "gluten" || base == "wheat" {
				return true
			}
		}
	}
	return false
}

func isSweetened(g *pantry.Ingredient) bool {
	return g.Has(pantry.FlagSugar) || g.Role == pantry.RoleSweetener || slices.ContainsFunc(said(g), sweet.MatchString)
}

// notOrganic: water and salt are no farm products.
func notOrganic(g *pantry.Ingredient) bool {
	return !g.Has(pantry.FlagWater) && !g.Has(pantry.FlagSalt) && !slices.ContainsFunc(said(g), organicly.MatchString)
}

// Stressed names what a product's name features under a law and has no percent.
func (p Panel) Stressed(name string, l *law.Law) []string {
	return declaration.Stressed(name, p.items, l)
}

// MayName are the names of what weighs most, to offer where a picture or a name features something.
func (p Panel) MayName(l *law.Law, most int) []string { return declaration.Heaviest(p.items, l, most) }
