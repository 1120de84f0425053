package declaration

import (
	"fmt"
	"math"
	"strconv"

	"gallipot/internal/core/formula"
)

// SaltPerSodium is the factor of the label: salt = sodium x 2.5 (Regulation 1169/2011 annex I 11).
const SaltPerSodium = 2.5

// Nutrition holds unrounded figures per 100 g: g, sodium and minerals in mg, vitamin D in µg, energy in kJ and kcal.
type Nutrition struct {
	EnergyKJ, EnergyKcal, CaloriesUS                                            float64
	Fat, Saturates, Trans, Carbohydrate, AvailableCarbohydrate, Sugars, Fibre   float64
	Protein, Salt, SodiumMg, CholesterolMg, CalciumMg, IronMg, PotassiumMg, VDg float64
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
		acids += k * l.Ingredient.Acids.Total()
		alcohol += k * c.Alcohol
	}
	if total <= 0 {
		return Nutrition{}
	}
	per := 100 / total
	for _, f := range []*float64{&n.Fat, &n.Saturates, &n.Trans, &n.Carbohydrate, &n.Sugars, &n.Fibre, &n.Protein,
		&n.SodiumMg, &n.CholesterolMg, &n.CalciumMg, &n.IronMg, &n.PotassiumMg, &n.VDg, &acids, &alcohol} {
		*f *= per
	}
	n.AvailableCarbohydrate = max(0, n.Carbohydrate-n.Fibre-acids)
	n.Salt = n.SodiumMg / 1000 * SaltPerSodium
	n.EnergyKJ = kjFat*n.Fat + kjCarb*n.AvailableCarbohydrate + kjProtein*n.Protein + kjFibre*n.Fibre + kjAlcohol*alcohol + kjAcid*acids
	n.EnergyKcal = kcalFat*n.Fat + kcalCarb*n.AvailableCarbohydrate + kcalProtein*n.Protein + kcalFibre*n.Fibre + kcalAlcohol*alcohol + kcalAcid*acids
	n.CaloriesUS = kcalFat*n.Fat + kcalCarb*n.Carbohydrate + kcalProtein*n.Protein + kcalAlcohol*alcohol
	return n
}

// Figure is one row of a nutrition table as it would be printed.
type Figure struct {
	Name    string `json:"name"`
	Printed string `json:"printed"`
}

// Figures returns the rows in the regime's order, rounded as the regime rounds, per 100 g.
func (n Nutrition) Figures(regime string) []Figure {
	type row struct {
		name, nutrient string
		value          float64
	}
	rows := []row{
		{"Energy", "energy_kj", n.EnergyKJ}, {"Energy", "energy_kcal", n.EnergyKcal}, {"Fat", "fat_g", n.Fat},
		{"of which saturates", "saturates_g", n.Saturates}, {"Carbohydrate", "carbohydrate_g", n.AvailableCarbohydrate},
		{"of which sugars", "sugars_g", n.Sugars}, {"Fibre", "fibre_g", n.Fibre}, {"Protein", "protein_g", n.Protein}, {"Salt", "salt_g", n.Salt},
	}
	if regime == US {
		rows = []row{
			{"Calories", "calories", n.CaloriesUS}, {"Total Fat", "fat_g", n.Fat}, {"Saturated Fat", "saturates_g", n.Saturates},
			{"Trans Fat", "trans_g", n.Trans}, {"Cholesterol", "cholesterol_mg", n.CholesterolMg}, {"Sodium", "sodium_mg", n.SodiumMg},
			{"Total Carbohydrate", "carbohydrate_g", n.Carbohydrate}, {"Dietary Fiber", "fibre_g", n.Fibre}, {"Total Sugars", "sugars_g", n.Sugars},
			{"Protein", "protein_g", n.Protein}, {"Vitamin D", "vitamin_d_ug", n.VDg}, {"Calcium", "calcium_mg", n.CalciumMg},
			{"Iron", "iron_mg", n.IronMg}, {"Potassium", "potassium_mg", n.PotassiumMg},
		}
	}
	out := make([]Figure, 0, len(rows))
	for _, r := range rows {
		printed, err := Round(regime, r.nutrient, r.value)
		if err != nil {
			continue
		}
		out = append(out, Figure{r.name, printed})
	}
	return out
}

// Round prints an exact figure as the label law rounds it: regime US (21 CFR 101.9(c)) or GB (EU guidance on
// rounding, kept in GB); nutrient as fat_g, sodium_mg, energy_kj … Half up everywhere; a result that reaches the next band prints as that band.
func Round(regime, nutrient string, x float64) (string, error) {
	if math.IsNaN(x) || math.IsInf(x, 0) || x < 0 {
		return "", fmt.Errorf("round %s: %g is no amount", nutrient, x)
	}
	if regime == US {
		return roundUS(nutrient, x)
	}
	return roundGB(nutrient, x)
}

// to rounds half up to a step, shielded against binary fractions such as 0.285.
func to(x, step float64) float64 {
	return math.Floor(x/step+0.5+1e-9) * step
}

func trimmed(x float64) string { return strconv.FormatFloat(math.Round(x*1e6)/1e6, 'f', -1, 64) }

func roundUS(nutrient string, x float64) (string, error) {
	switch nutrient {
	case "calories":
		switch {
		case x < 5:
			return "0", nil
		case x <= 50:
			return trimmed(to(x, 5)), nil
		}
		return trimmed(to(x, 10)), nil
	case "fat_g", "saturates_g", "saturated_g", "trans_g":
		switch {
		case x < 0.5:
			return "0 g", nil
		case x < 5:
			return trimmed(to(x, 0.5)) + " g", nil
		}
		return trimmed(to(x, 1)) + " g", nil
	case "cholesterol_mg":
		switch {
		case x < 2:
			return "0 mg", nil
		case x <= 5:
			return "less than 5 mg", nil
		}
		return trimmed(to(x, 5)) + " mg", nil
	case "sodium_mg":
		switch {
		case x < 5:
			return "0 mg", nil
		case x <= 140:
			return trimmed(to(x, 5)) + " mg", nil
		}
		return trimmed(to(x, 10)) + " mg", nil
	case "carbohydrate_g", "fibre_g", "fiber_g", "sugars_g", "added_sugars_g", "protein_g":
		switch {
		case x < 0.5:
			return "0 g", nil
		case x < 1:
			return "less than 1 g", nil
		}
		return trimmed(to(x, 1)) + " g", nil
	case "vitamin_d_ug":
		return trimmed(to(x, 0.1)) + " mcg", nil
	case "iron_mg":
		return trimmed(to(x, 0.1)) + " mg", nil
	case "calcium_mg", "potassium_mg":
		return trimmed(to(x, 10)) + " mg", nil
	}
	return "", fmt.Errorf("round: %q is no US nutrient", nutrient)
}

// gbBands are the marks of the EU guidance: at or above whole to 1, above small to the fine step, else "<small".
var gbBands = map[string]struct {
	whole, small, coarse, fine float64
	coarsePlaces, finePlaces   int
	below                      string
}{
	"fat_g":          {10, 0.5, 1, 0.1, 0, 1, "<0.5 g"},
	"carbohydrate_g": {10, 0.5, 1, 0.1, 0, 1, "<0.5 g"},
	"sugars_g":       {10, 0.5, 1, 0.1, 0, 1, "<0.5 g"},
	"protein_g":      {10, 0.5, 1, 0.1, 0, 1, "<0.5 g"},
	"fibre_g":        {10, 0.5, 1, 0.1, 0, 1, "<0.5 g"},
	"saturates_g":    {10, 0.1, 1, 0.1, 0, 1, "<0.1 g"},
	"salt_g":         {1, 0.0125, 0.1, 0.01, 1, 2, "<0.01 g"},
}

func roundGB(nutrient string, x float64) (string, error) {
	switch nutrient {
	case "energy_kj":
		return trimmed(to(x, 1)) + " kJ", nil
	case "energy_kcal":
		return trimmed(to(x, 1)) + " kcal", nil
	}
	b, ok := gbBands[nutrient]
	if !ok {
		return "", fmt.Errorf("round: %q is no GB nutrient", nutrient)
	}
	if x == 0 {
		return "0 g", nil
	}
	if x <= b.small {
		return b.below, nil
	}
	if fine := to(x, b.fine); x < b.whole && fine < b.whole-1e-9 {
		return strconv.FormatFloat(fine, 'f', b.finePlaces, 64) + " g", nil
	}
	return strconv.FormatFloat(to(x, b.coarse), 'f', b.coarsePlaces, 64) + " g", nil
}
