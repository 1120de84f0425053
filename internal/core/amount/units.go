package amount

import (
	_ "embed"
	"encoding/json"
	"maps"
	"strings"
)

// Gallon says whose gallon, quart, pint and fluid ounce are meant.
type Gallon string

// The gallons that there are: the US liquid gallon of 231 in³ (NIST SP 811 appendix B) and the imperial one of 4.54609
// L (Weights and Measures Act 1985 schedule 1).
const (
	USGallon Gallon = "us"
	Imperial Gallon = "imperial"
)

// Kinds of units. Custom is what kitchens are used to; what one of an ingredient
// weighs, only that ingredient knows.
const (
	OfMass       = "mass"
	OfVolume     = "volume"
	OfCustom     = "custom"
	OfCount      = "count"
	OfIngredient = "ingredient"
)

// Unit is one unit of the table, with the words that stand for it where people speak and, besides, where they write:
// on notes, price lists and in fields. US and Imperial are how many g, mL or mm one is; empty where that depends.
type Unit struct {
	Name     string   `json:"unit"`
	Of       string   `json:"of"`
	US       string   `json:"us"`
	Imperial string   `json:"imperial"`
	Spread   float64  `json:"spread"` // of a hand that measures with it: one standard deviation, %
	Spoken   []string `json:"spoken"`
	Written  []string `json:"written"`

	us, imperial Exact // read once
	float        [2]float64
}

// In is how many g, mL or mm one is; nothing where that depends on the shop or the ingredient.
func (u Unit) In(whose Gallon) Exact {
	if whose == Imperial {
		return u.imperial
	}
	return u.us
}

// TwoWays reports whether the unit is another in the US than in Britain.
func (u Unit) TwoWays() bool { return u.US != u.Imperial }

// units is the one table of units (mass and length: NIST SP 811 appendix B; volumes: see Gallon; custom volumes and
// all spreads: handbook 02). The web reads the same file.
//
//go:embed units.json
var unitsJSON []byte

var units, spoken, written = readUnits()

func readUnits() (byName map[string]Unit, spoken, written map[string]string) {
	var list []Unit
	if err := json.Unmarshal(unitsJSON, &list); err != nil {
		panic(err)
	}
	byName, spoken, written = map[string]Unit{}, map[string]string{}, map[string]string{}
	for _, u := range list {
		u.us, u.imperial = inTable(u.US), inTable(u.Imperial)
		u.float = [2]float64{u.us.Float(), u.imperial.Float()}
		byName[u.Name] = u
		for _, w := range u.Spoken {
			spoken[w], written[w] = u.Name, u.Name
		}
		for _, w := range u.Written {
			written[w] = u.Name
		}
	}
	return byName, spoken, written
}

// inTable is a figure of the table; nothing where there is none. The table is the program's own: a figure that cannot
// be read is a mistake of the program.
func inTable(text string) Exact {
	if text == "" {
		return Exact{}
	}
	x, err := ParseNumber(text)
	if err != nil {
		panic(err)
	}
	return x
}

// SpokenUnits are the words of speech that stand for a unit, with the unit's name. It is the caller's own copy.
func SpokenUnits() map[string]string { return maps.Clone(spoken) }

// WrittenUnit is the unit that a word on a note or price list stands for, in any case, with or without points.
func WrittenUnit(word string) (Unit, bool) {
	w := strings.Join(strings.Fields(strings.ToLower(strings.ReplaceAll(word, ".", " "))), " ")
	u, ok := units[written[w]]
	return u, ok
}

// Spoons are the volumes in mL that a shop means by its measures. US spoons are the default; a shop may choose the
// metric cup or the Australian tablespoon (handbook 02). Gallon is whose pint it is; empty: the US one.
type Spoons struct {
	Teaspoon   float64
	Tablespoon float64
	Cup        float64
	Gallon     Gallon
}

// USSpoons: tsp 4.93 mL, tbsp 14.79 mL, cup 236.6 mL (handbook 02; NIST SP 811 appendix B).
var USSpoons = Spoons{4.93, 14.79, 236.6, USGallon}

// UsualSpoon is the name of the tablespoon and the cup that a shop starts with.
const UsualSpoon = "US"

// Tablespoons and Cups are the volumes in mL that a shop may choose, by name (handbook 02).
var (
	Tablespoons = map[string]float64{UsualSpoon: USSpoons.Tablespoon, "AU": 20}
	Cups        = map[string]float64{UsualSpoon: USSpoons.Cup, "metric": 250}
)

// GramsPerOunce and MLPerFluidOunce are the avoirdupois ounce and the US fluid ounce.
var (
	GramsPerOunce   = units["oz"].In(USGallon).Float()
	MLPerFluidOunce = units["fl_oz"].In(USGallon).Float()
)

// MassUnit returns the grams in one unit of mass; ok is false for what is no unit of mass.
func MassUnit(unit string) (grams float64, ok bool) {
	u := units[unit]
	return u.float[0], u.Of == OfMass
}

// Volume is a unit of volume in mL with how far the hand strays from it: one standard deviation in percent.
type Volume struct {
	ML     float64
	Spread float64
}

// Volume returns what a unit of volume means in this shop; ok is false for what is no unit of volume. Splash, glug,
// shot, dash, pinch and drop are kitchen custom, hence their wide spread.
func (s Spoons) Volume(unit string) (v Volume, ok bool) {
	u := units[unit]
	v.Spread = u.Spread
	switch {
	case unit == "tsp":
		v.ML = s.Teaspoon
	case unit == "dessertspoon":
		v.ML = 2 * s.Teaspoon
	case unit == "tbsp":
		v.ML = s.Tablespoon
	case unit == "cup":
		v.ML = s.Cup
	case u.Of != OfVolume && u.Of != OfCustom:
		return Volume{}, false
	case s.Gallon == Imperial:
		v.ML = u.float[1]
	default:
		v.ML = u.float[0]
	}
	return v, true
}
