package reader

import "gallipot/internal/core/amount"

// unitWords are the ways people say units, by the name the measures use.
var unitWords = amount.SpokenUnits()

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
