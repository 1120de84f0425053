package amount

// Spoons are the volumes in mL that a shop means by its measures. US spoons are the default; a shop may choose the
// metric cup or the Australian tablespoon (handbook 02).
type Spoons struct {
	Teaspoon   float64
	Tablespoon float64
	Cup        float64
}

// USSpoons: tsp 4.93 mL, tbsp 14.79 mL, cup 236.6 mL (handbook 02; NIST SP 811 appendix B).
var USSpoons = Spoons{4.93, 14.79, 236.6}

// UsualSpoon is the name of the tablespoon and the cup that a shop starts with.
const UsualSpoon = "US"

// Tablespoons and Cups are the volumes in mL that a shop may choose, by name (handbook 02).
var (
	Tablespoons = map[string]float64{UsualSpoon: USSpoons.Tablespoon, "AU": 20}
	Cups        = map[string]float64{UsualSpoon: USSpoons.Cup, "metric": 250}
)

// massUnits are grams in one of each (NIST SP 811: avoirdupois ounce 28.349523 g, pound 453.59237 g).
var massUnits = map[string]float64{"g": 1, "kg": 1000, "mg": 0.001, "oz": 28.349523, "lb": 453.59237}

// MassUnit returns the grams in one unit of mass; ok is false for what is no unit of mass.
func MassUnit(unit string) (grams float64, ok bool) {
	grams, ok = massUnits[unit]
	return grams, ok
}

// Volume is a unit of volume in mL with how far the hand strays from it: one standard deviation in percent.
type Volume struct {
	ML     float64
	Spread float64
}

// Volume returns what a unit of volume means in this shop; ok is false for what is no unit of volume. Splash, glug,
// shot, dash, pinch and drop are kitchen custom, hence their wide spread.
func (s Spoons) Volume(unit string) (v Volume, ok bool) {
	const fluidOunce = 29.5735 // mL, NIST SP 811
	switch unit {
	case "tsp":
		return Volume{s.Teaspoon, 10}, true
	case "dessertspoon":
		return Volume{2 * s.Teaspoon, 12}, true
	case "tbsp":
		return Volume{s.Tablespoon, 8}, true
	case "cup":
		return Volume{s.Cup, 4}, true
	case "ml":
		return Volume{1, 3}, true
	case "cl":
		return Volume{10, 3}, true
	case "dl":
		return Volume{100, 3}, true
	case "l":
		return Volume{1000, 2}, true
	case "fl_oz":
		return Volume{fluidOunce, 4}, true
	case "pint":
		return Volume{16 * fluidOunce, 4}, true
	case "quart":
		return Volume{32 * fluidOunce, 3}, true
	case "splash":
		return Volume{5, 40}, true
	case "glug":
		return Volume{20, 40}, true
	case "shot":
		return Volume{30, 25}, true
	case "dash":
		return Volume{0.6, 40}, true
	case "pinch":
		return Volume{0.3, 40}, true
	case "drop":
		return Volume{0.05, 40}, true
	}
	return Volume{}, false
}
