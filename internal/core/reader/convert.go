package reader

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
)

// Where the grams of a line come from, in order of preference (handbook 02).
const (
	FromScale     = "weighed"   // the maker put it on the scale
	FromGuess     = "guessed"   // the maker thinks so
	FromWords     = "stated"    // grams were said
	FromHouse     = "house"     // the maker's own measure
	FromReference = "reference" // the typical measure
	FromDensity   = "density"
	FromAssumed   = "assumed" // water-like: counts as still to weigh
)

// Weight is an amount in grams with one standard deviation in percent, and how it was found.
type Weight struct {
	Grams   float64
	Spread  float64
	Source  string
	Measure string // the measure used, where there was one
	Of      string // the ingredient whose measure it is
	Times   float64
	How     string
	Ask     *Question
	heard   int64 // what it rests on of what the shop has told
}

// widenGuess is added where a qualifier had to be guessed, and where one volume was worked out from another.
const (
	widenGuess  = 20.0 // percent
	widenVolume = 10.0
	spoonSpread = 25.0  // a spoon that is not said to be a tablespoon
	swells      = 130.0 // percent of yield from which a measure of the outcome is none of what went in
	guessSpread = 20.0  // of grams that the maker guessed; ours, as a guessed qualifier
)

// weigh converts an amount of an ingredient; ok is false where nobody can know it without a scale.
func (b *Book) weigh(a Amount, id string, prep prepared, drained bool) (w Weight, ok bool) {
	w, ok = b.weighOne(a, id, prep, drained)
	if !ok || a.Plus == nil {
		return w, ok
	}
	rest := *a.Plus
	if rest.Fill == "" {
		rest.Fill = a.Fill
	}
	second, ok := b.weighOne(rest, id, prep, drained)
	if !ok {
		return w, false
	}
	deviation := math.Hypot(w.Grams*w.Spread, second.Grams*second.Spread)
	w.Grams += second.Grams
	if w.Grams > 0 {
		w.Spread = deviation / w.Grams
	}
	w.How += " + " + second.How
	return w, true
}

func (b *Book) weighOne(a Amount, id string, prep prepared, drained bool) (Weight, bool) {
	a, heard := b.told(a, prep.id, id)
	w, ok := b.asSaid(a, id, prep, drained)
	w.heard = heard
	return w, ok
}

func (b *Book) asSaid(a Amount, id string, prep prepared, drained bool) (Weight, bool) {
	n := a.Middle()
	if grams, mass := amount.MassUnit(a.Unit); mass {
		w := Weight{Grams: n * grams, Source: FromWords, How: fmt.Sprintf("%s %s", figure(n), a.Unit)}
		if prep.before && prep.via != nil {
			w.through(prep.via)
		}
		return w.ranged(a), true
	}
	if isContainer(a.Unit) {
		w, ok := b.container(a, id, prep, drained)
		return w.ranged(a), ok
	}
	if w, ok := b.measured(a, id, prep); ok {
		return w.ranged(a), true
	}
	return Weight{}, false
}

// measured goes through the ingredient and its relatives until one has the measure.
func (b *Book) measured(a Amount, id string, prep prepared) (Weight, bool) {
	type relative struct {
		id  string
		via *pantry.Preparation
	}
	family := []relative{{prep.id, nil}}
	if prep.via != nil {
		input := relative{prep.via.Input, prep.via}
		raw := relative{id, prep.via}
		if prep.before {
			family = []relative{input, raw, {prep.id, nil}}
			if prep.via.Expected().Percent > swells && prep.id != id { // a cup of the dry is no cup of the cooked
				family = []relative{input, raw}
			}
			if prep.id == id { // the reference measures the prepared form itself: two peeled carrots
				family = []relative{{id, nil}, input}
			}
		} else {
			family = append(family, input, raw)
		}
	}
	for _, p := range b.makers(prep.id) {
		family = append(family, relative{p.Input, p})
	}
	if s := b.stateOf(prep.id); s != "" {
		family = append(family, relative{s, nil})
	}
	for _, r := range family {
		if r.via != nil && r.id == prep.id {
			continue
		}
		if w, ok := b.named(a, r.id); ok {
			if r.via != nil {
				w.through(r.via)
			}
			return w, true
		}
	}
	if prep.before && prep.via != nil && prep.via.Expected().Percent > swells {
		w, ok := b.byVolume(a, id)
		if ok {
			w.through(prep.via)
		}
		return w, ok
	}
	return b.byVolume(a, prep.id)
}

// through takes a preparation's yield off, adding its spread in quadrature.
func (w *Weight) through(p *pantry.Preparation) {
	y := p.Expected()
	w.Grams *= y.Percent / 100
	w.Spread = math.Hypot(w.Spread, y.Spread)
	w.How += fmt.Sprintf(", %s leaves %s %%", strings.ReplaceAll(p.Name, "_", " "), figure(y.Percent))
}

// ranged widens the spread so that it covers both ends of a range (handbook 02).
func (w Weight) ranged(a Amount) Weight {
	w.Spread = math.Hypot(w.Spread, a.halfRange())
	return w
}

// named tries the house measures and then the reference under every name the amount may go by.
func (b *Book) named(a Amount, id string) (Weight, bool) {
	keys := measureKeys(a)
	for _, find := range []func(string, string) (pantry.Measure, bool){b.Measures.House, b.Measures.Reference} {
		for _, k := range keys {
			m, ok := find(id, k.name)
			if !ok {
				continue
			}
			times := a.Middle() * k.times
			w := Weight{Grams: times * m.Grams, Spread: math.Hypot(m.Spread, k.widen), Source: FromReference,
				Measure: m.Name, Of: id, Times: times}
			if m.Source == pantry.HouseSource {
				w.Source = FromHouse
			}
			w.How = fmt.Sprintf("%s × %s g, %s", figure(times), figure(m.Grams), measureWords(m.Name))
			if k.ask != "" && w.Source != FromHouse { // who weighed it knows which it is
				w.Ask = &Question{Code: "measure", Text: k.ask, Spoon: a.Unit == "spoon", Fills: b.fillsOf(a, id)}
			}
			return w, true
		}
	}
	if a.Unit == "" {
		if g := b.Ingredients[id]; g != nil && g.PieceGrams > 0 {
			times := a.Middle() * sizeFactor(a.Size)
			return Weight{Grams: times * g.PieceGrams, Spread: 20, Source: FromHouse, Measure: "piece", Of: id,
				Times: times,
				How:   fmt.Sprintf("%s × %s g, a piece by the pantry", figure(times), figure(g.PieceGrams))}, true
		}
	}
	return Weight{}, false
}

// fillsOf are the ways a cup of an ingredient may be filled, that somebody has weighed.
func (b *Book) fillsOf(a Amount, id string) []string {
	if a.Unit != "cup" {
		return nil
	}
	var out []string
	for _, fill := range []string{"loose", "packed", "chopped", "grated", "whole"} {
		if _, ok := b.Measures.Reference(id, "cup_"+fill); ok {
			out = append(out, fill)
		}
	}
	return out
}

func sizeFactor(size string) float64 {
	if f := sizeTimes[size]; f != 0 {
		return f
	}
	return 1
}

// key is a name a measure may go by, with what to multiply and widen by.
type key struct {
	name         string
	times, widen float64
	ask          string
}

// measureKeys lists the names an amount may go by, best first.
func measureKeys(a Amount) []key {
	heap := heaps[a.Heap]
	if heap.times == 0 {
		heap.times = 1
	}
	var out []key
	add := func(name string, times, widen float64, ask string) {
		if a.Heap != "" && a.Heap != "level" {
			out = append(out, key{name + "_" + a.Heap, times, widen, ask}) // the maker weighed it heaped
		}
		out = append(out, key{name, times * heap.times, math.Hypot(widen, heap.spread), ask})
	}
	sized := func(name string, ask string, widen float64) {
		if a.Size != "" && a.Size != "medium" {
			add(name+"_"+a.Size, 1, widen, ask)
			add(name, sizeTimes[a.Size], math.Hypot(widen, 10), ask)
			return
		}
		add(name, 1, widen, ask)
	}
	switch a.Unit {
	case "":
		sized("piece", "", 0)
		for _, other := range []string{"stalk", "fillet", "bulb", "head"} {
			sized(other, "", 0)
		}
	case "juice_of", "zest_of":
		sized(a.Unit, "", 0)
		sized(a.Unit+"_one", "", 0)
	case "head", "bulb":
		sized(a.Unit, "", 0)
		sized(map[string]string{"head": "bulb", "bulb": "head"}[a.Unit], "", 0)
		sized("piece", "", 0)
	case "stick", "stalk":
		sized(a.Unit, "", 0)
		sized(map[string]string{"stick": "stalk", "stalk": "stick"}[a.Unit], "", 0)
	case "cup":
		cupKeys(a, sized)
	case "spoon":
		sized("spoon", "", 0)
		sized("tbsp", "Which spoon? A tablespoon was assumed; weigh yours once.", spoonSpread)
	default:
		sized(a.Unit, "", 0)
	}
	return out
}

func cupKeys(a Amount, sized func(name, ask string, widen float64)) {
	if a.Fill != "" {
		sized("cup_"+a.Fill, "", 0)
	}
	sized("cup", "", 0)
	if a.Fill == "" {
		sized("cup_whole", "", 0)
	}
	for _, other := range []string{"cup_loose", "cup_chopped", "cup_whole", "cup_grated", "cup_packed"} {
		if a.Fill == "" || other != "cup_"+a.Fill {
			word := strings.TrimPrefix(other, "cup_")
			sized(other, fmt.Sprintf("Loose, packed or chopped? It was taken as %s.", word), widenGuess)
		}
	}
}

// figure writes a number with at most two decimals and no trailing zeros.
func figure(x float64) string {
	return strconv.FormatFloat(math.Round(x*100)/100, 'f', -1, 64)
}
