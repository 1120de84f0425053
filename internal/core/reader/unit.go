package reader

import (
	"strings"
)

// unitWords are the ways people write units, by the name the measures use.
var unitWords = unitNames()

func unitNames() map[string]string {
	all := map[string]string{}
	for name, words := range map[string]string{
		"g": "g gr gm gms gram grams gramme grammes", "kg": "kg kgs kilo kilos kilogram kilograms kilogramme",
		"mg": "mg milligram milligrams",
		"oz": "oz ounce ounces ozs", "lb": "lb lbs pound pounds",
		"ml": "ml mls mil mils millilitre millilitres milliliter milliliters cc", "cl": "cl", "dl": "dl",
		"l":            "l litre litres liter liters",
		"tsp":          "tsp tsps teaspoon teaspoons teaspoonful teaspoonfuls",
		"tbsp":         "tbsp tbsps tbs tbl tblsp tablespoon tablespoons tablespoonful tablespoonfuls",
		"dessertspoon": "dessertspoon dessertspoons dsp", "spoon": "spoon spoons spoonful spoonfuls",
		"cup": "cup cups cupful cupfuls", "pint": "pint pints pt pts", "quart": "quart quarts qt qts",
		"splash": "splash splashes", "glug": "glug glugs", "shot": "shot shots", "pinch": "pinch pinches",
		"dash": "dash dashes", "drop": "drop drops",
		"handful": "handful handfuls", "bunch": "bunch bunches", "sprig": "sprig sprigs",
		"stalk": "stalk stalks rib ribs", "leaf": "leaf leaves", "clove": "clove cloves",
		"head": "head heads", "bulb": "bulb bulbs", "slice": "slice slices", "stick": "stick sticks",
		"can": "can cans tin tins", "jar": "jar jars",
		"packet": "packet packets pack packs pkg package packages bag bags sachet sachets pouch pouches tub tubs pot pots carton cartons bottle bottles",
		"piece":  "piece pieces knob knobs thumb", "grind": "grind grinds twist twists turn turns",
		"part": "part parts", "glass": "glass glasses glassful", "mug": "mug mugs mugful", "scoop": "scoop scoops",
		"ladle": "ladle ladles ladleful ladlefuls", "teacup": "teacup teacups", "eggcup": "eggcup eggcups",
		"fillet": "fillet fillets", "squeeze": "squeeze",
	} {
		for _, w := range strings.Fields(words) {
			all[w] = name
		}
	}
	return all
}

// vague are measures that give way to any other that is said beside them.
var vague = map[string]bool{"glug": true, "splash": true, "handful": true, "pinch": true, "dash": true, "squeeze": true,
	"spoon": true, "glass": true, "mug": true, "scoop": true, "ladle": true}

// counted are units that may follow the ingredient: three garlic cloves, ten basil leaves.
var counted = map[string]bool{"clove": true, "leaf": true, "stalk": true, "stick": true, "sprig": true, "head": true,
	"bulb": true, "slice": true, "fillet": true, "bunch": true}

// heaps multiply a measure and widen it (handbook 02: heaping x1.35 with a spread of 20 %, rounded x1.2, scant x0.9,
// generous and good x1.15). The spreads of the others are ours: half of what they change.
var heaps = map[string]struct{ times, spread float64 }{
	"heaping": {1.35, 20}, "heaped": {1.35, 20}, "rounded": {1.2, 12}, "scant": {0.9, 6}, "generous": {1.15, 10},
	"good": {1.15, 10}, "level": {1, 0}, "full": {1, 0},
}

// sizeTimes apply where the ingredient has no measure of that size (handbook 02).
var sizeTimes = map[string]float64{"small": 0.75, "medium": 1, "large": 1.3}

var sizeWords = map[string]string{"small": "small", "smallish": "small", "little": "small", "baby": "small",
	"medium": "medium", "average": "medium", "large": "large", "big": "large", "fat": "large", "jumbo": "large"}

// fills pick the qualifier of a cup.
var fills = map[string]string{"packed": "packed", "loose": "loose", "chopped": "chopped", "diced": "chopped",
	"sliced": "chopped", "crumbled": "loose", "grated": "grated", "shredded": "grated", "whole": "whole"}

// unitAt reads a unit word at i. A capital T is a tablespoon, a small t a teaspoon.
func (c cursor) unitAt(i int) (name string, next int, ok bool) {
	if !c.free(i) {
		return "", i, false
	}
	dot := func(n int) int { return n + btoi(c.is(n, ".") && c[n].from == c[n-1].to) }
	switch {
	case c[i].text == "T":
		return "tbsp", dot(i + 1), true
	case c[i].text == "t":
		return "tsp", dot(i + 1), true
	case c.is(i, "c") && !c.is(i+1, "'"):
		return "cup", dot(i + 1), true
	case c.run(i, "fl", "oz"), c.run(i, "fluid", "ounce"), c.run(i, "fluid", "ounces"):
		return "fl_oz", dot(i + 2), true
	case c.run(i, "fl", ".", "oz"):
		return "fl_oz", dot(i + 3), true
	case c.run(i, "table", "spoon"), c.run(i, "table", "spoons"):
		return "tbsp", i + 2, true
	case c.run(i, "tea", "spoon"), c.run(i, "tea", "spoons"):
		return "tsp", i + 2, true
	}
	if name, ok := unitWords[c[i].low]; ok {
		return name, dot(i + 1), true
	}
	return "", i, false
}
