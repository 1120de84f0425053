package lots

import (
	"cmp"
	"fmt"
	"regexp"
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
)

const number = `[0-9]+(?:[.,'\x{a0}\x{202f} ][0-9]+)*`

var pack = regexp.MustCompile(`^(?:(` + number + `)\s*[x×*]\s*)?(` + number + `)\s*([\pL][\pL_ ]*)$`)

// twoWays matches a figure that some read as thousands and others as a fraction: 1,432 or 5.000.
var twoWays = regexp.MustCompile(`^[1-9][0-9]{0,2}[.,][0-9]{3}$`)

// Weigher returns what a measure of an ingredient, such as a tin or a bunch, weighs in grams; ok is false if nobody
// knows.
type Weigher func(measure string) (grams float64, ok bool)

// ReadPack reads how much came in, as it stands on a delivery note: "2 kg", "6 x 750 ml", "12 pieces", "3 tins".
// A gallon is the shop's own. Volumes go by the ingredient's density, pieces by what one weighs, other words by
// measures. Nothing of the text is left over, and a figure that can be read two ways is asked. Errors: FieldError
// without a field.
func ReadPack(text string, g *pantry.Ingredient, gallon amount.Gallon, measure Weigher) (amount.Grams, error) {
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
	one, err := gramsOf(m[3], g, gallon, measure)
	if err != nil {
		return amount.Grams{}, err
	}
	all := count.Times(one)
	if all.Float() > amount.MaxGrams || !all.Grams().IsPositive() {
		return ask("above zero and at most 10 000 kg")
	}
	return all.Grams(), nil
}

// gramsOf returns what one unit of an ingredient weighs in grams, with the shop's own gallon.
func gramsOf(word string, g *pantry.Ingredient, gallon amount.Gallon, measure Weigher) (amount.Exact, error) {
	word = strings.TrimSpace(word)
	unit, _ := amount.WrittenUnit(word)
	switch {
	case unit.Of == amount.OfMass:
		return unit.In(gallon), nil
	case unit.Of == amount.OfVolume && g.DensityGPerML <= 0:
		return amount.Exact{}, pantry.FieldError{Message: fmt.Sprintf(
			"a volume of %s needs its density: put it on the ingredient's page, or say how much it weighs", g.Name)}
	case unit.Of == amount.OfVolume:
		return unit.In(gallon).Times(amount.ExactFloat(g.DensityGPerML)), nil
	case unit.Of == amount.OfCount && g.PieceGrams > 0:
		return amount.ExactFloat(g.PieceGrams), nil
	}
	for _, name := range []string{word, strings.TrimSuffix(word, "s"), strings.ReplaceAll(word, " ", "_"), unit.Name} {
		if name == "" {
			continue
		}
		if grams, ok := measure(name); ok {
			return amount.ExactFloat(grams), nil
		}
	}
	return amount.Exact{}, pantry.FieldError{Message: fmt.Sprintf(
		"nobody has weighed “%s” of %s: weigh it as a measure on its page, or say how much it weighs",
		cmp.Or(unit.Name, word), g.Name)}
}
