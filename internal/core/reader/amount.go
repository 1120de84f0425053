package reader

import (
	"gallipot/internal/core/amount"
)

// Amount is a quantity as the maker said it. Low and High differ only for a range.
type Amount struct {
	Low        float64 `json:"low"`
	High       float64 `json:"high"`
	Unit       string  `json:"unit"`             // as measures are named; "" for pieces
	Pack       float64 `json:"pack_g,omitempty"` // grams that the tin or jar says
	Size       string  `json:"size,omitempty"`
	Heap       string  `json:"heap,omitempty"`
	Fill       string  `json:"fill,omitempty"`
	Plus       *Amount `json:"plus,omitempty"` // 1 cup plus 2 tbsp
	packVolume bool
	asMuch     bool // so many times of what was said before, where nothing else is named behind
}

// Middle is what counts of a range.
func (a Amount) Middle() float64 { return (a.Low + a.High) / 2 }

// halfRange is how far the ends lie from the middle, in percent of it.
func (a Amount) halfRange() float64 {
	if m := a.Middle(); m > 0 {
		return 100 * (a.High - a.Low) / 2 / m
	}
	return 0
}

// found is an amount in a segment with the tokens it took.
type found struct {
	Amount
	from, to int // tokens
}

// maxQuantity keeps a slipped key from becoming a number: nothing in a kitchen is counted beyond it.
const maxQuantity = 10_000_000

func (c cursor) skipAbout(i int) int {
	for c.free(i) && c[i].traits&tellsAbout != 0 {
		i++
		i += btoi(c.is(i, "."))
		i += btoi(c.is(i, "over", "under"))
	}
	return i
}

// fill reads how a cup is filled: loosely packed, firmly packed.
func (c cursor) fill(i int, a *Amount) int {
	switch {
	case c.is(i, "loosely", "lightly") && c.is(i+1, "packed", "filled"):
		a.Fill, i = "loose", i+2
	case c.is(i, "firmly", "tightly", "well") && c.is(i+1, "packed"):
		a.Fill, i = "packed", i+2
	case c.is(i, "packed", "loose"):
		a.Fill, i = c[i].low, i+1
	}
	return i
}

// qualifiers reads size, heap and fill words in any order.
func (c cursor) qualifiers(i int, a *Amount) int {
	for c.free(i) {
		w := c[i].low
		switch {
		case c.run(i, "extra", "large"), c.run(i, "extra", "small"):
			a.Size, i = c[i+1].low, i+2
		case c.fill(i, a) > i:
			i = c.fill(i, a)
		case heaps[w].times != 0:
			if w == "heaped" {
				w = "heaping"
			}
			a.Heap, i = w, i+1
		case sizeWords[w] != "" && !(w == "little" && c.is(i-1, "a")):
			a.Size, i = sizeWords[w], i+1
		default:
			return i
		}
	}
	return i
}

// amountAt reads an amount at i. bare says that the start of the segment is here, where "a lemon", "juice of a lemon"
// or "handful of dill" count as well.
func (c cursor) amountAt(i int, bare bool) (found, bool) {
	if i < 0 || i >= len(c) || c[i].traits&opensAmount == 0 || c[i].role != Unread {
		return found{}, false
	}
	start := i
	var a Amount
	i = c.skipAbout(i)
	if as, next, ok := c.reference(i); ok {
		return found{as, start, next}, true
	}
	i += btoi(c.is(i, "a", "an", "one") && c.isQualifier(i+1)) // a good pinch, a scant cup
	article := i > start && c.is(i-1, "a", "an", "one")
	i = c.qualifiers(i, &a)
	v, next, ok := c.number(i)
	switch {
	case ok:
		a.Low, a.High = v, v
		i = c.rangeEnd(next, &a)
	case article:
		a.Low, a.High = 1, 1
	case c.is(i, "a", "an") && (bare || c.startsUnit(i+1)):
		a.Low, a.High = 1, 1
		i++
	case bare && c.startsUnit(i) && i+1 < len(c) && !(c.is(i, "can") && !c.is(i+1, "of")): // you can use
		a.Low, a.High = 1, 1
	default:
		return found{}, false
	}
	if a.High > maxQuantity || a.High <= 0 {
		return found{}, false
	}
	i = c.ours(i)
	i = c.qualifiers(i, &a)
	i = c.unitBehind(i, &a)
	i = c.andAPart(i, &a)
	i = c.fill(i, &a)
	if !ok && !article && a.Unit == "" && !bare {
		return found{}, false
	}
	i += btoi(c.is(i, "of") && a.Unit != "")
	if a.Fill == "" {
		i = c.fill(i, &a)
	}
	if i == start {
		return found{}, false
	}
	f := found{a, start, i}
	c.plus(&f)
	return f, true
}

// ours passes "of our" between a number and a measure: one of our small spoons.
func (c cursor) ours(i int) int {
	if !c.is(i, "of") || !c.is(i+1, "our", "my", "those", "these", "the", "your") {
		return i
	}
	var of Amount
	if c.startsUnit(c.qualifiers(i+2, &of)) {
		return i + 2
	}
	return i
}

// andAPart reads "and a half" behind a unit: a cup and a half of lentils.
func (c cursor) andAPart(i int, a *Amount) int {
	if a.Unit == "" || !c.is(i, "and", "&") {
		return i
	}
	f, next, ok := c.partOfOne(i + 1)
	if !ok || c.startsUnit(next) || c.is(next, "of") && c.is(next+1, "a", "an") {
		return i
	}
	a.Low, a.High = a.Low+f, a.High+f
	return next
}

func (c cursor) isQualifier(i int) bool {
	if !c.free(i) {
		return false
	}
	w := c[i].low
	return heaps[w].times != 0 || sizeWords[w] != "" && w != "little" || w == "packed" || w == "loose" ||
		c.is(i, "loosely", "lightly", "firmly", "tightly")
}

func (c cursor) startsUnit(i int) bool {
	_, _, ok := c.unitAt(i)
	return ok
}

// rangeEnd reads "-3", "to 3", "or 3" behind the first number.
func (c cursor) rangeEnd(i int, a *Amount) int {
	if !c.is(i, "-", "–", "—", "‐", "‑", "to", "or") {
		return i
	}
	if v, next, ok := c.number(i + 1); ok && v > a.Low && (v <= a.Low*10 || c.is(i, "to")) {
		a.High = v
		return next
	}
	return i
}

// unitBehind reads the unit behind a quantity, with the size of a tin: 1 400 g tin, 2 (15 oz) cans, 1 tin (400 g).
func (c cursor) unitBehind(i int, a *Amount) int {
	at := i
	at += btoi(c.is(at, "x", "×"))
	open := c.is(at, "(")
	at += btoi(open)
	if v, next, ok := c.number(at); ok {
		next += btoi(c.is(next, "-"))
		if unit, behind, isUnit := c.unitAt(next); isUnit {
			grams, mass := amount.MassUnit(unit)
			ml, volume := amount.USSpoons.Volume(unit)
			behind += btoi(open && c.is(behind, ")"))
			if pack, end, isPack := c.unitAt(behind); isPack && isContainer(pack) && (mass || volume) {
				a.Unit, a.Pack = pack, v*grams
				if volume {
					a.Pack, a.packVolume = v*ml.ML, true
				}
				return end
			}
		}
	}
	hyphen := i + btoi(c.is(i, "-"))
	unit, next, ok := c.unitAt(hyphen)
	if !ok {
		return i
	}
	// "400 g tin": what looked like the amount is the size of one tin.
	if grams, mass := amount.MassUnit(unit); mass {
		behind := next + btoi(c.is(next, "-"))
		if pack, end, isPack := c.unitAt(behind); isPack && isContainer(pack) {
			a.Pack, a.Unit = a.Middle()*grams, pack
			a.Low, a.High = 1, 1
			return end
		}
	}
	a.Unit = unit
	i = next
	if isContainer(unit) && c.is(i, "(") {
		if v, n, ok := c.number(i + 1); ok {
			if u, n, ok := c.unitAt(n); ok && c.is(n, ")") {
				if grams, mass := amount.MassUnit(u); mass {
					a.Pack = v * grams
					return n + 1
				}
			}
		}
	}
	return i
}

func isContainer(unit string) bool { return unit == "can" || unit == "jar" || unit == "packet" }

// plus joins "1 cup plus 2 tbsp", "1 lb 4 oz".
func (c cursor) plus(f *found) {
	if f.Unit == "" || f.Unit == "clove" {
		return
	}
	i := f.to
	joined := c.is(i, "plus", "+", "and", "&")
	pair := f.Unit == "lb" || f.Unit == "kg"
	if !joined && !pair {
		return
	}
	i += btoi(joined)
	second, ok := c.amountAt(i, false)
	if !ok || second.Unit == "" || counted[second.Unit] || isContainer(second.Unit) {
		return
	}
	if _, m := amount.MassUnit(f.Unit); m {
		if _, m2 := amount.MassUnit(second.Unit); !m2 {
			return
		}
	} else if _, v := amount.USSpoons.Volume(second.Unit); !v {
		return
	}
	rest := second.Amount
	f.Plus = &rest
	f.to = second.to
}
