package law

import (
	"fmt"
	"math"
	"strconv"
	"time"

	"gallipot/internal/core/amount"
)

// US is the regime of the United States: 21 CFR 101 and the federal allergen law.
const US Regime = "US"

var us = Law{
	Regime: US, Title: "US", Locale: "en-US", Currency: "USD", Gallon: amount.USGallon, English: "en-US",
	TimeZone: "America/New_York", Best: "best if used by", MonthFirst: true,
	Ounces: true,
	// The nine major food allergens (21 U.S.C. 321(qq), with sesame since 2023), in the order the Contains line uses.
	Allergens: []Allergen{
		{Code: "milk", Contains: "Milk", Usual: "cow", Animals: []string{"goat", "sheep", "ewe", "buffalo", "camel"}},
		{Code: "egg", Contains: "Egg", Usual: "hen", Animals: []string{"duck", "quail", "goose", "turkey"}},
		{Code: "fish", Kinded: true, Contains: "Fish"},
		{Code: "crustacean", Kinded: true, Contains: "Crustacean shellfish"},
		{Code: "tree_nut", Kinded: true, Contains: "Tree nuts"}, {Code: "wheat", Contains: "Wheat"},
		{Code: "peanut", Contains: "Peanut"}, {Code: "soy", Contains: "Soy"}, {Code: "sesame", Contains: "Sesame"},
	},
	NutCode: "tree_nut", Nuts: []string{"walnut", "almond", "hazelnut", "cashew", "pecan", "pistachio", "macadamia",
		"brazil nut", "pine nut"},
	Sulphites: "sulfites", SulphitesAt: true, // 21 CFR 101.100(a)(4): in the list from 10 ppm
	RefinedExempt: []string{"*"}, // highly refined oils, 21 U.S.C. 321(qq)(2)(A)
	ContainsLine:  true,
	Country:       "United States",
	Exemptions: []Exemption{
		{Key: "small_business", Title: "A small business", Source: "21 CFR 101.9(j)(1)",
			Condition: "The seller's sales lie under the amounts of the rule, in all and of food. No nutrition or health " +
				"claim is made on the label or beside it. No notice is asked."},
		{Key: "low_volume", Title: "A low-volume product with a notice", Source: "21 CFR 101.9(j)(18)",
			Condition: "Fewer than 100 people work for you and fewer than 100,000 units of this product are sold in the " +
				"US a year, and a notice is filed each year (none under 10 people and 10,000 units). No nutrition or " +
				"health claim is made."},
	},
	Tail: true,
	// In the order of 21 CFR 101.9(c), with the daily values of 101.9(c)(8)(iv) and (9).
	Nutrition: []Row{
		{Name: "Calories", Figure: "calories", Rounds: "calories", Strong: true},
		{Name: "Total Fat", Figure: "fat_g", Rounds: "fat_g", Strong: true, Daily: 78},
		{Name: "Saturated Fat", Figure: "saturates_g", Rounds: "saturates_g", Indent: 1, Daily: 20},
		{Name: "Trans Fat", Figure: "trans_g", Rounds: "trans_g", Indent: 1},
		{Name: "Cholesterol", Figure: "cholesterol_mg", Rounds: "cholesterol_mg", Strong: true, Daily: 300},
		{Name: "Sodium", Figure: "sodium_mg", Rounds: "sodium_mg", Strong: true, Daily: 2300},
		{Name: "Total Carbohydrate", Figure: "carbohydrate_g", Rounds: "carbohydrate_g", Strong: true, Daily: 275},
		{Name: "Dietary Fiber", Figure: "fibre_g", Rounds: "fibre_g", Indent: 1, Daily: 28},
		{Name: "Total Sugars", Figure: "sugars_g", Rounds: "sugars_g", Indent: 1},
		{Name: "Added Sugars", Figure: "added_sugars_g", Rounds: "added_sugars_g", Indent: 2, Daily: 50},
		{Name: "Protein", Figure: "protein_g", Rounds: "protein_g", Strong: true},
		{Name: "Vitamin D", Figure: "vitamin_d_ug", Rounds: "vitamin_d_ug", Daily: 20, Mineral: true},
		{Name: "Calcium", Figure: "calcium_mg", Rounds: "calcium_mg", Daily: 1300, Mineral: true},
		{Name: "Iron", Figure: "iron_mg", Rounds: "iron_mg", Daily: 18, Mineral: true},
		{Name: "Potassium", Figure: "potassium_mg", Rounds: "potassium_mg", Daily: 4700, Mineral: true},
	},
	Servings:    true,
	Round:       roundUS,
	NetQuantity: netQuantityUS,
	NetVolume:   func(ml float64) string { return usVolume(ml, math.Floor(ml+0.5)) },
	FigureMM:    func(_, areaCM2 float64) float64 { return figureUS(areaCM2) },
	XHeightMM:   func(float64) float64 { return mmPerInch / 16 }, // 1/16 in by the lower-case o, 21 CFR 101.2(c)
	DateLine: func(kind string, _, last time.Time) string {
		words := map[string]string{UseBy: "Use by", BestBefore: "Best if used by"}[kind]
		return words + " " + last.Format("Jan 2, 2006")
	},
	Cold:            "Keep refrigerated at or below 41 °F.",
	Frozen:          "Keep frozen at or below 0 °F. Thaw in the refrigerator; do not refreeze.",
	LotPrefix:       "Lot ",
	AmbientDocument: "process authority's letter",
	KeepingRules:    []int{1, 2, 3, 5, 6, 7, 8, 9, 10, 11},
	ArrivalC:        5, // FDA Food Code 3-202.11(A): 41 °F
	// 21 CFR 101.7(q): the average as stated, no unreasonable shortage; the variations are NIST Handbook 133's.
	Shortage: Shortage{Source: "21 CFR 101.7(q)"},
	// FDA Food Code 3-501.14(A): 135 to 70 °F within 2 h, to 41 °F within a total of 6 h.
	Cooling: []CoolStep{{57, 21, 120}, {0, 5, 240}},
}

// roundUS rounds a figure of the nutrition panel (21 CFR 101.9(c)).
func roundUS(nutrient string, x float64) (string, error) {
	switch nutrient {
	case "calories":
		return calories(x), nil
	case "fat_g", "saturates_g", "saturated_g", "trans_g":
		switch {
		case x < 0.5:
			return "0 g", nil
		case x < 5:
			return trimmed(toStep(x, 0.5)) + " g", nil
		}
		return trimmed(toStep(x, 1)) + " g", nil
	case "cholesterol_mg":
		switch {
		case x < 2:
			return "0 mg", nil
		case x <= 5:
			return "less than 5 mg", nil
		}
		return trimmed(toStep(x, 5)) + " mg", nil
	case "sodium_mg":
		switch {
		case x < 5:
			return "0 mg", nil
		case x <= 140:
			return trimmed(toStep(x, 5)) + " mg", nil
		}
		return trimmed(toStep(x, 10)) + " mg", nil
	case "carbohydrate_g", "fibre_g", "fiber_g", "sugars_g", "added_sugars_g", "protein_g":
		switch {
		case x < 0.5:
			return "0 g", nil
		case x < 1:
			return "less than 1 g", nil
		}
		return trimmed(toStep(x, 1)) + " g", nil
	case "vitamin_d_ug":
		return trimmed(toStep(x, 0.1)) + " mcg", nil
	case "iron_mg":
		return trimmed(toStep(x, 0.1)) + " mg", nil
	case "calcium_mg", "potassium_mg":
		return trimmed(toStep(x, 10)) + " mg", nil
	}
	return "", fmt.Errorf("round: %q is no US nutrient", nutrient)
}

// calories are told by fives up to 50 and by tens above, under 5 as none (21 CFR 101.9(c)(1)).
func calories(x float64) string {
	switch {
	case x < 5:
		return "0"
	case x <= 50:
		return trimmed(toStep(x, 5))
	}
	return trimmed(toStep(x, 10))
}

// Exact conversions of US customary units (NIST Handbook 44 appendix C), and how much too much a rounded
// statement may claim before it is lowered by a tenth (handbook 08).
const (
	mostOverclaim     = 0.5
	ouncesPerPound    = 16
	fluidOuncesPerPt  = 16
	fluidOuncesPerQt  = 32
	fluidOuncesPerGal = 128
	leadPoundsFromOz  = 64
	mmPerInch         = 25.4
	cm2PerSquareInch  = 6.4516
)

// netQuantityUS states both systems (21 CFR 101.7).
func netQuantityUS(amount float64, unit string) string {
	if unit == "ml" {
		return usVolume(amount, amount)
	}
	return usWeight(amount)
}

// ounces converts and rounds to 0.1 half up, 0.1 less where that would claim over 0.5 g or mL too much. It returns
// tenths.
func ounces(amount, per float64) int {
	tenths := int(math.Floor(amount/per*10 + 0.5 + 1e-9))
	if float64(tenths)/10*per-amount > mostOverclaim {
		tenths--
	}
	return tenths
}

func tenthsText(t int) string { return number(float64(t) / 10) }

// mixed writes tenths of an ounce as a larger unit with its rest: "1 lb 8 oz".
func mixed(tenths, per int, big, small string) string {
	whole, rest := tenths/(per*10), tenths%(per*10)
	if rest == 0 {
		return fmt.Sprintf("%d %s", whole, big)
	}
	return fmt.Sprintf("%d %s %s %s", whole, big, tenthsText(rest), small)
}

func usWeight(g float64) string {
	t := ounces(g, amount.GramsPerOunce)
	m := metric(g, "g", "mL", "L")
	switch {
	case t < ouncesPerPound*10:
		return fmt.Sprintf("Net Wt %s oz (%s)", tenthsText(t), m)
	case t < leadPoundsFromOz*10:
		return fmt.Sprintf("Net Wt %s oz (%s) %s", tenthsText(t), mixed(t, ouncesPerPound, "lb", "oz"), m)
	}
	return fmt.Sprintf("Net Wt %s (%s)", mixed(t, ouncesPerPound, "lb", "oz"), m)
}

// usVolume states ounces of a volume and the millilitres that are told of it.
func usVolume(ml, told float64) string {
	t := ounces(ml, amount.MLPerFluidOunce)
	m := metric(told, "ml", "mL", "L")
	switch {
	case t < fluidOuncesPerPt*10:
		return fmt.Sprintf("%s fl oz (%s)", tenthsText(t), m)
	case t < fluidOuncesPerQt*10:
		return fmt.Sprintf("%s fl oz (%s) %s", tenthsText(t), mixed(t, fluidOuncesPerPt, "pt", "fl oz"), m)
	case t < fluidOuncesPerGal*10:
		return fmt.Sprintf("%s fl oz (%s) %s", tenthsText(t), mixed(t, fluidOuncesPerQt, "qt", "fl oz"), m)
	}
	return fmt.Sprintf("%s (%s)", mixed(t, fluidOuncesPerGal, "gal", "fl oz"), m)
}

// figureUS is the least height of the net quantity statement in mm by panel area (21 CFR 101.7(h)).
func figureUS(areaCM2 float64) float64 {
	switch in := areaCM2 / cm2PerSquareInch; {
	case in <= 5:
		return mmPerInch / 16
	case in <= 25:
		return mmPerInch / 8
	case in <= 100:
		return mmPerInch * 3 / 16
	case in <= 400:
		return mmPerInch / 4
	}
	return mmPerInch / 2
}

// toStep rounds half up to a step, shielded against binary fractions such as 0.285.
func toStep(x, step float64) float64 { return math.Floor(x/step+0.5+1e-9) * step }

func trimmed(x float64) string { return number(math.Round(x*1e6) / 1e6) }

func number(x float64) string { return strconv.FormatFloat(x, 'f', -1, 64) }

// metric writes grams or millilitres, from 1000 on in the large unit to 0.01.
func metric(amount float64, unit, ml, l string) string {
	if amount >= 1000 {
		big := map[string]string{"g": "kg", "ml": l}[unit]
		return number(math.Round(amount/10)/100) + " " + big
	}
	small := map[string]string{"g": "g", "ml": ml}[unit]
	return number(math.Round(amount*10)/10) + " " + small
}
