package lots

import (
	"fmt"
	"regexp"
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
)

// volumes are mL in one of each unit in which goods are bought. A gallon is the US liquid gallon, 231 in³ (NIST SP
// 811).
var volumes = map[string]float64{"ml": 1, "cl": 10, "dl": 100, "l": 1000, "gal": 3785.412}

// unitWords are how packs are written, beside the units themselves.
var unitWords = map[string]string{"gram": "g", "grams": "g", "gr": "g", "kilo": "kg", "kilos": "kg", "kgs": "kg",
	"lbs": "lb", "litre": "l", "litres": "l", "liter": "l", "liters": "l", "ltr": "l", "mls": "ml", "floz": "fl_oz",
	"fl oz": "fl_oz", "gallon": "gal", "gallons": "gal", "pc": "piece", "pcs": "piece", "pieces": "piece",
	"ea":   "piece",
	"tins": "tin", "cans": "can", "bunches": "bunch"}

const number = `[0-9]+(?:[.,'\x{a0}\x{202f} ][0-9]+)*`

var pack = regexp.MustCompile(`^(?:(` + number + `)\s*[x×*]\s*)?(` + number + `)\s*([\pL][\pL_ ]*)$`)

// twoWays is a figure that one reads as a thousand and another as a fraction: 1,432 or 5.000.
var twoWays = regexp.MustCompile(`^[1-9][0-9]{0,2}[.,][0-9]{3}$`)

// Weigher answers what a measure of an ingredient weighs in grams, as a tin or a bunch; ok is false where nobody knows.
type Weigher func(measure string) (grams float64, ok bool)

// ReadPack reads how much came in, as it stands on a delivery note: "2 kg", "6 x 750 ml", "12 pieces", "3 tins".
// Volumes go by the ingredient's density, pieces by what one weighs, other words by measures. Nothing of the text is
// left over, and a figure that can be read two ways is asked. Errors: FieldError without a field.
func ReadPack(text string, g *pantry.Ingredient, measure Weigher) (amount.Grams, error) {
	ask := func(format string, args ...any) (amount.Grams, error) {
		return amount.Grams{}, pantry.FieldError{Message: fmt.Sprintf(format, args...)}
	}
	m := pack.FindStringSubmatch(strings.ToLower(strings.Join(strings.Fields(text), " ")))
	if m == nil || g == nil {
		return ask("how much came in, with its unit: 2 kg, 6 x 750 ml, 12 pieces")
	}
	count := amount.Whole(1)
	for i, n := range []string{m[1], m[2]} {
		if n == "" {
			continue
		}
		if twoWays.MatchString(n) {
			return ask("%s can be read two ways: write %s or %s", n, strings.NewReplacer(",", "", ".", "").Replace(n),
				strings.TrimRight(strings.Replace(n, ",", ".", 1), "0"))
		}
		x, err := amount.ParseNumber(strings.ReplaceAll(n, "'", ""))
		if err != nil || !x.IsPositive() {
			return ask("%q is no number above zero", []string{m[1], m[2]}[i])
		}
		count = count.Times(x)
	}
	one, err := gramsOf(m[3], g, measure)
	if err != nil {
		return amount.Grams{}, err
	}
	all := count.Times(one)
	if all.Float() > amount.MaxGrams || !all.Grams().IsPositive() {
		return ask("above zero and at most 10 000 kg")
	}
	return all.Grams(), nil
}

// gramsOf is what one of a unit weighs of an ingredient.
func gramsOf(unit string, g *pantry.Ingredient, measure Weigher) (amount.Exact, error) {
	unit = strings.TrimSpace(unit)
	if plain, is := unitWords[unit]; is {
		unit = plain
	}
	if grams, is := amount.MassUnit(unit); is {
		return amount.ExactFloat(grams), nil
	}
	ml, isVolume := volumes[unit]
	if !isVolume {
		if v, is := amount.USSpoons.Volume(unit); is && (unit == "fl_oz" || unit == "pint" || unit == "quart") {
			ml, isVolume = v.ML, true
		}
	}
	switch {
	case isVolume && g.DensityGPerML <= 0:
		return amount.Exact{}, pantry.FieldError{Message: fmt.Sprintf(
			"a volume of %s needs its density: put it on the ingredient's page, or say how much it weighs", g.Name)}
	case isVolume:
		return amount.ExactFloat(ml).Times(amount.ExactFloat(g.DensityGPerML)), nil
	case unit == "piece" && g.PieceGrams > 0:
		return amount.ExactFloat(g.PieceGrams), nil
	}
	for _, name := range []string{unit, strings.TrimSuffix(unit, "s"), strings.ReplaceAll(unit, " ", "_")} {
		if grams, is := measure(name); is {
			return amount.ExactFloat(grams), nil
		}
	}
	return amount.Exact{}, pantry.FieldError{Message: fmt.Sprintf(
		"nobody has weighed “%s” of %s: weigh it as a measure on its page, or say how much it weighs", unit, g.Name)}
}
