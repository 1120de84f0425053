package pantry

import (
	"slices"
	"strings"
)

// USAllergens are the nine major food allergens of US law (21 U.S.C. 321(qq), with sesame since 2023),
// in the order the Contains line uses. A kind may follow a colon: tree_nut:walnut, fish:anchovy.
var USAllergens = []string{"milk", "egg", "fish", "crustacean", "tree_nut", "wheat", "peanut", "soy", "sesame"}

// GBAllergens are the fourteen of Regulation (EU) 1169/2011 annex II as kept in GB.
var GBAllergens = []string{"gluten", "crustacean", "egg", "fish", "peanut", "soy", "milk", "nut", "celery", "mustard", "sesame", "sulphites", "lupin", "mollusc"}

// KnownAllergen reports whether the code names an allergen of the regime ("US" or "GB").
// A tree nut (US: 21 U.S.C. 343(w)), a fish or crustacean (US) and a gluten cereal or nut (GB) must name their kind.
func KnownAllergen(regime, code string) bool {
	base, kind, hasKind := strings.Cut(code, ":")
	if hasKind && strings.TrimSpace(kind) == "" {
		return false
	}
	if regime == "US" {
		needsKind := base == "tree_nut" || base == "fish" || base == "crustacean"
		return slices.Contains(USAllergens, base) && (!needsKind || hasKind)
	}
	needsKind := base == "gluten" || base == "nut"
	return slices.Contains(GBAllergens, base) && (!needsKind || hasKind)
}

// PlainAllergens writes codes as words: the kind where there is one.
func PlainAllergens(codes []string) string {
	words := make([]string, len(codes))
	for i, c := range codes {
		base, kind, kinded := strings.Cut(c, ":")
		words[i] = strings.ReplaceAll(base, "_", " ")
		if kinded {
			words[i] = kind
		}
	}
	return strings.Join(words, ", ")
}
