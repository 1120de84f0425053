package declaration

import (
	"fmt"
	"math"
	"regexp"
	"slices"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// SaltPerSodium is the factor of the label: salt = sodium x 2.5 (Regulation 1169/2011 annex I 11).
const SaltPerSodium = 2.5

// Nutrition holds unrounded figures per 100 g: g, sodium and minerals in mg, vitamin D in µg, energy in kJ and kcal.
type Nutrition struct {
	EnergyKJ, EnergyKcal, CaloriesUS                                            float64
	Fat, Saturates, Trans, Carbohydrate, AvailableCarbohydrate, Sugars, Fibre   float64
	Protein, Salt, SodiumMg, CholesterolMg, CalciumMg, IronMg, PotassiumMg, VDg float64

	AddedSugars float64
	Unknown     []string // compounds with sugar in their lists of which nobody said how much of theirs was added
}

// Energy factors in kJ and kcal per g (Regulation 1169/2011 annex XIV; US 21 CFR 101.9(c)(1)).
const (
	kjFat, kcalFat         = 37, 9
	kjCarb, kcalCarb       = 17, 4
	kjProtein, kcalProtein = 17, 4
	kjFibre, kcalFibre     = 8, 2
	kjAlcohol, kcalAlcohol = 29, 7
	kjAcid, kcalAcid       = 13, 3
)

// NutritionOf sums the leaves and gives the figures per 100 g of what is left after drivenOff grams of water.
func NutritionOf(leaves []formula.Leaf, drivenOff float64) Nutrition {
	var n Nutrition
	total, acids, alcohol := -drivenOff, 0.0, 0.0
	n.Unknown = []string{}
	for _, l := range leaves {
		k, c := l.Grams/100, l.Ingredient.Composition
		total += l.Grams
		n.Fat += k * c.Fat
		n.Saturates += k * c.Saturates
		n.Trans += k * c.Trans
		n.Carbohydrate += k * c.Carbohydrate
		n.Sugars += k * c.Sugars
		n.Fibre += k * c.Fibre
		n.Protein += k * c.Protein
		n.SodiumMg += k * c.SodiumMg
		n.CholesterolMg += k * c.CholesterolMg
		n.CalciumMg += k * c.CalciumMg
		n.IronMg += k * c.IronMg
		n.PotassiumMg += k * c.PotassiumMg
		n.VDg += k * c.VitaminDUg
		n.addSugars(l.Ingredient, k)
		acids += k * l.Ingredient.Acids.Total()
		alcohol += k * c.Alcohol
	}
	if total <= 0 {
		return Nutrition{}
	}
	per := 100 / total
	for _, f := range []*float64{&n.Fat, &n.Saturates, &n.Trans, &n.Carbohydrate, &n.Sugars, &n.Fibre, &n.Protein,
		&n.AddedSugars, &n.SodiumMg, &n.CholesterolMg, &n.CalciumMg, &n.IronMg, &n.PotassiumMg, &n.VDg,
		&acids, &alcohol} {
		*f *= per
	}
	n.AvailableCarbohydrate = max(0, n.Carbohydrate-n.Fibre-acids)
	n.Salt = n.SodiumMg / 1000 * SaltPerSodium
	n.EnergyKJ = kjFat*n.Fat + kjCarb*n.AvailableCarbohydrate + kjProtein*n.Protein + kjFibre*n.Fibre +
		kjAlcohol*alcohol + kjAcid*acids
	n.EnergyKcal = kcalFat*n.Fat + kcalCarb*n.AvailableCarbohydrate + kcalProtein*n.Protein + kcalFibre*n.Fibre +
		kcalAlcohol*alcohol + kcalAcid*acids
	n.CaloriesUS = kcalFat*n.Fat + kcalCarb*n.Carbohydrate + kcalProtein*n.Protein + kcalAlcohol*alcohol
	return n
}

// Figure is one row of a nutrition table as it would be printed.
type Figure struct {
	Name    string `json:"name"`
	Printed string `json:"printed"`
}

// sweetened are words on a list which show that sugar was added.
var sweetened = regexp.MustCompile(`(?i)\b(sugars?|syrup|honey|dextrose|glucose|fructose|molasses|treacle|sucrose)\b`)

// addSugars counts the sugars of sweeteners as added, for k hundred grams (21 CFR 101.9(c)(6)(iii)). For a compound
// that contains sugar only its maker can say.
func (n *Nutrition) addSugars(g *pantry.Ingredient, k float64) {
	switch {
	case g.Has(pantry.FlagSugar) || g.Role == pantry.RoleSweetener:
		n.AddedSugars += k * g.Composition.Sugars
	case k <= 0 || g.Composition.Sugars <= 0 || slices.Contains(n.Unknown, g.Name):
	case slices.ContainsFunc(law.All(), func(l *law.Law) bool { return sweetened.MatchString(g.ListFor(l.Regime)) }):
		n.Unknown = append(n.Unknown, g.Name)
	}
}

// values are the figures by the names that the law's rows ask for.
func (n Nutrition) values() map[string]float64 {
	return map[string]float64{
		"energy_kj": n.EnergyKJ, "energy_kcal": n.EnergyKcal, "calories": n.CaloriesUS, "fat_g": n.Fat,
		"saturates_g": n.Saturates, "trans_g": n.Trans, "carbohydrate_g": n.Carbohydrate,
		"available_carbohydrate_g": n.AvailableCarbohydrate, "sugars_g": n.Sugars, "added_sugars_g": n.AddedSugars,
		"fibre_g": n.Fibre, "protein_g": n.Protein, "salt_g": n.Salt, "sodium_mg": n.SodiumMg,
		"cholesterol_mg": n.CholesterolMg, "vitamin_d_ug": n.VDg, "calcium_mg": n.CalciumMg, "iron_mg": n.IronMg,
		"potassium_mg": n.PotassiumMg,
	}
}

// Figures returns the rows in the law's order, rounded as the law rounds, per 100 g.
func (n Nutrition) Figures(l *law.Law) []Figure {
	values := n.values()
	out := make([]Figure, 0, len(l.Nutrition))
	for _, r := range l.Nutrition {
		if printed, err := Round(l, r.Rounds, values[r.Figure]); err == nil {
			out = append(out, Figure{r.Name, printed})
		}
	}
	return out
}

// Round prints an exact figure as the law rounds it; nutrient as fat_g, sodium_mg, energy_kj … Half up everywhere; a
// result that reaches the next band prints as that band.
func Round(l *law.Law, nutrient string, x float64) (string, error) {
	if math.IsNaN(x) || math.IsInf(x, 0) || x < 0 {
		return "", fmt.Errorf("round %s: %g is no amount", nutrient, x)
	}
	return l.Round(nutrient, x)
}
