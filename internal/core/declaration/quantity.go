package declaration

import (
	"fmt"
	"math"
	"strconv"
)

// Exact conversions of US customary units (NIST Handbook 44 appendix C), and how much too much a rounded
// statement may claim before it is lowered by a tenth (handbook 08).
const (
	gramsPerOunce     = 28.349523
	mlPerFluidOunce   = 29.573530
	mostOverclaim     = 0.5
	ouncesPerPound    = 16
	fluidOuncesPerPt  = 16
	fluidOuncesPerQt  = 32
	fluidOuncesPerGal = 128
	leadPoundsFromOz  = 64
)

// NetQuantity writes the net quantity statement: regime US or GB, unit "g" or "ml".
// US: 21 CFR 101.7, both systems; GB: Regulation 1169/2011 annex IX.
func NetQuantity(regime string, amount float64, unit string) (string, error) {
	if amount <= 0 || amount > 1e6 || unit != "g" && unit != "ml" {
		return "", fmt.Errorf("net quantity: %g %s cannot be stated", amount, unit)
	}
	if regime == GB {
		return metric(amount, unit, "ml", "l"), nil
	}
	if unit == "ml" {
		return usVolume(amount), nil
	}
	return usWeight(amount), nil
}

func metric(amount float64, unit, ml, l string) string {
	if amount >= 1000 {
		big := map[string]string{"g": "kg", "ml": l}[unit]
		return number(math.Round(amount/10)/100) + " " + big
	}
	small := map[string]string{"g": "g", "ml": ml}[unit]
	return number(math.Round(amount*10)/10) + " " + small
}

func number(x float64) string { return strconv.FormatFloat(x, 'f', -1, 64) }

// ounces converts and rounds to 0.1 half up, 0.1 less where that would claim over 0.5 g or mL too much. It returns tenths.
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
	t := ounces(g, gramsPerOunce)
	m := metric(g, "g", "mL", "L")
	switch {
	case t < ouncesPerPound*10:
		return fmt.Sprintf("Net Wt %s oz (%s)", tenthsText(t), m)
	case t < leadPoundsFromOz*10:
		return fmt.Sprintf("Net Wt %s oz (%s) %s", tenthsText(t), mixed(t, ouncesPerPound, "lb", "oz"), m)
	}
	return fmt.Sprintf("Net Wt %s (%s)", mixed(t, ouncesPerPound, "lb", "oz"), m)
}

func usVolume(ml float64) string {
	t := ounces(ml, mlPerFluidOunce)
	m := metric(ml, "ml", "mL", "L")
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

// MinFigureHeightMM is the least height of the net quantity figures on a GB label (Weights and Measures
// (Packaged Goods) Regulations 2006 schedule 2): by nominal grams or mL.
func MinFigureHeightMM(nominal float64) float64 {
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

// MinUSTypeMM is the least height of the US net quantity statement by panel area in cm² (21 CFR 101.7(h)).
func MinUSTypeMM(areaCM2 float64) float64 {
	const cm2PerSquareInch, mmPerInch = 6.4516, 25.4
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
