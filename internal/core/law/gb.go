package law

import (
	"fmt"
	"math"
	"strconv"
	"time"

	"gallipot/internal/core/amount"
)

// GB is the regime of Great Britain and the EU: Regulation 1169/2011 as kept in GB.
const GB Regime = "GB"

var gb = Law{
	Regime: GB, Title: "GB", Locale: "en-GB", Currency: "GBP", Gallon: amount.Imperial,
	English: "en-GB", Best: "best before", TimeZone: "Europe/London",
	// The fourteen of Regulation (EU) 1169/2011 annex II.
	Allergens: []Allergen{
		{Code: "gluten", Kinded: true}, {Code: "crustacean", Word: "crustaceans"}, {Code: "egg"}, {Code: "fish"},
		{Code: "peanut", Word: "peanuts"}, {Code: "soy", Word: "soya"}, {Code: "milk"},
		{Code: "nut", Kinded: true}, {Code: "celery"}, {Code: "mustard"}, {Code: "sesame"}, {Code: "sulphites"},
		{Code: "lupin"}, {Code: "mollusc", Word: "molluscs"},
	},
	NutCode: "nut", Nuts: []string{"walnut", "almond", "hazelnut", "cashew", "pecan", "pistachio", "macadamia",
		"brazil nut"}, // annex II 8
	CerealCode: "gluten", Cereals: []string{"wheat", "barley", "rye", "oats"}, // annex II 1
	Sulphites:       "sulphites",
	RefinedExempt:   []string{"soy"}, // fully refined soybean oil, annex II 6(a)
	WaterByFinished: true,            // annex VII part A 1
	HerbsApart:      true,
	SpiceShare:      0.02, // annex VII part B
	ClassFirst:      true, // annex VII part C
	Quid:            true, // annex VIII
	Country:         "United Kingdom",
	HomeAddress:     true, // article 8(1), as kept in GB
	Exemptions: []Exemption{
		{Key: "small_pack", Title: "The pack is under 25 cm²", Source: "Regulation 1169/2011 annex V 18",
			Condition: "The largest surface of the pack is under 25 cm². No nutrition or health claim is made.",
			PackUnder: 25},
		{Key: "local", Title: "Small quantities sold directly or nearby", Source: "Regulation 1169/2011 annex V 19",
			Condition: "You make small quantities and hand them to the person who eats them, or to local shops that do. " +
				"No nutrition or health claim is made. Ask your authority what counts as small and local."},
	},
	Nutrition: []Row{
		{Name: "Energy", Figure: "energy_kj", Rounds: "energy_kj"},
		{Name: "Energy", Figure: "energy_kcal", Rounds: "energy_kcal"},
		{Name: "Fat", Figure: "fat_g", Rounds: "fat_g"},
		{Name: "of which saturates", Figure: "saturates_g", Rounds: "saturates_g", Indent: 1},
		{Name: "Carbohydrate", Figure: "available_carbohydrate_g", Rounds: "carbohydrate_g"},
		{Name: "of which sugars", Figure: "sugars_g", Rounds: "sugars_g", Indent: 1},
		{Name: "Fibre", Figure: "fibre_g", Rounds: "fibre_g"},
		{Name: "Protein", Figure: "protein_g", Rounds: "protein_g"}, {Name: "Salt", Figure: "salt_g", Rounds: "salt_g"},
	},
	Round:       roundGB,
	NetQuantity: func(amount float64, unit string) string { return metric(amount, unit, "ml", "l") }, // annex IX
	NetVolume:   func(ml float64) string { return metric(math.Floor(ml+0.5), "ml", "ml", "l") },
	FigureMM:    func(nominal, _ float64) float64 { return figureGB(nominal) },
	XHeightMM: func(areaCM2 float64) float64 { // article 13(2), and 13(3) where the largest surface is under 80 cm²
		if areaCM2 < smallSurfaceCM2 {
			return 0.9
		}
		return 1.2
	},
	SmallCM2:         10, // article 16(2)
	DateLine:         dateLineGB,
	Cold:             "Keep refrigerated at or below 5 °C.",
	Frozen:           "Keep frozen at or below -18 °C. Thaw in the fridge; do not refreeze.",
	LotPrefix:        "L", // Food (Lot Marking) Regulations 1996
	AmbientDocument:  "validated hazard plan",
	KeepingRules:     []int{1, 2, 4, 5, 6, 7, 8, 9, 10, 11},
	UnpasteurisedEgg: true,
	ArrivalC:         8, // Food Safety and Hygiene (England) Regulations 2013 schedule 4
	Shortage: Shortage{Steps: tolerable, Twice: true,
		Source: "Weights and Measures (Packaged Goods) Regulations 2006; Directive 76/211/EEC"},
	// Good practice under the Food Safety and Hygiene Regulations: to 8 °C or below within 90 min (handbook 06).
	Cooling: []CoolStep{{0, 8, 90}},
}

const smallSurfaceCM2 = 80

// monthOnlyAfter is the life in months from which month and year are enough (Regulation 1169/2011 annex X 1(c)).
const monthOnlyAfter = 3

// dateLineGB writes the date. A month is never later than the last day: its own end, else that of the month before, and
// it is used only where that end lies over three calendar months after making.
func dateLineGB(kind string, made, last time.Time) string {
	threeOn := months(made, monthOnlyAfter)
	switch end := monthEnd(last); {
	case kind == UseBy:
		return "Use by " + last.Format("2 January")
	case end.After(threeOn):
		return "Best before end " + end.Format("January 2006")
	case last.After(threeOn):
		return "Best before " + last.Format("2 January 2006")
	}
	return "Best before " + last.Format("2 January")
}

// monthEnd is the newest end of a month that is not later than a day.
func monthEnd(day time.Time) time.Time {
	if next := day.AddDate(0, 0, 1); next.Day() == 1 {
		return day
	}
	return day.AddDate(0, 0, -day.Day())
}

// months adds calendar months, which end with the month: 30 November and three are 28 February.
func months(day time.Time, n int) time.Time {
	first := day.AddDate(0, n, 1-day.Day())
	last := first.AddDate(0, 1, -1).Day()
	return first.AddDate(0, 0, min(day.Day(), last)-1)
}

// figureGB is the least height in mm of the net quantity's figures by nominal grams or mL (Weights and Measures
// (Packaged Goods) Regulations 2006 schedule 2).
func figureGB(nominal float64) float64 {
	switch {
	case nominal <= 50:
		return 2
	case nominal <= 200:
		return 3
	case nominal <= 1000:
		return 4
	}
	return 6
}

// gbBands are the marks of the EU guidance on rounding: at or above whole to the coarse step, above small to the fine
// step, else "<small".
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

// roundGB rounds a figure of the nutrition declaration. A result that reaches the next band prints as that band.
func roundGB(nutrient string, x float64) (string, error) {
	switch nutrient {
	case "energy_kj":
		return trimmed(toStep(x, 1)) + " kJ", nil
	case "energy_kcal":
		return trimmed(toStep(x, 1)) + " kcal", nil
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
	if fine := toStep(x, b.fine); x < b.whole && fine < b.whole-1e-9 {
		return strconv.FormatFloat(fine, 'f', b.finePlaces, 64) + " g", nil
	}
	return strconv.FormatFloat(toStep(x, b.coarse), 'f', b.coarsePlaces, 64) + " g", nil
}
