package reader

import (
	"fmt"
	"math"
	"strings"

	"gallipot/internal/core/pantry"
)

// The tins that measures name, in grams.
var tinSizes = []struct {
	name  string
	grams float64
}{{"can_400g", 400}, {"can_15oz", 425}}

// usualPacks are the sizes of tins to choose from, in grams.
func usualPacks() []float64 {
	out := make([]float64, len(tinSizes))
	for i, t := range tinSizes {
		out[i] = t.grams
	}
	return out
}

// container weighs tins, jars and packets: what they say, or what is left when drained.
func (b *Book) container(a Amount, id string, prep prepared, drained bool) (Weight, bool) {
	n := a.Middle()
	whole := strings.Contains(prep.id, "undrained") && prep.via == nil
	if whole && a.Pack == 0 && a.Unit == "can" {
		tin := tinSizes[0]
		return Weight{Grams: n * tin.grams, Spread: 10, Source: FromReference, Times: n,
			How: fmt.Sprintf("%s × %s g, a tin with its liquid", figure(n), figure(tin.grams)),
			Ask: &Question{Code: "pack", Packs: usualPacks(), Text: fmt.Sprintf(
				"What size is the tin? It was taken as a %s g tin.", figure(tin.grams))}}, true
	}
	asked := !whole && (drained || strings.Contains(prep.id, "drained"))
	if asked || a.Pack == 0 {
		for _, ingredient := range []string{prep.id, id} {
			if w, ok := b.drainedTin(a, ingredient); ok {
				if !drained && a.Pack > 0 {
					w.Ask = &Question{Code: "drained", Text: "Drained, or with its liquid? It was taken as drained."}
				}
				return w, true
			}
		}
	}
	if a.Pack == 0 {
		return Weight{}, false
	}
	w := Weight{Grams: n * a.Pack, Spread: 2, Source: FromWords,
		How: fmt.Sprintf("%s × %s g on the %s", figure(n), figure(a.Pack), a.Unit)}
	if a.packVolume {
		w.Source, w.Spread = FromAssumed, 15
		w.How += ", assumed water-like"
	}
	if drained && prep.via != nil {
		w.through(prep.via)
	}
	return w, true
}

func (b *Book) drainedTin(a Amount, id string) (Weight, bool) {
	type choice struct {
		name  string
		scale float64
	}
	choices := []choice{{"jar_drained", 1}}
	if a.Unit != "jar" {
		choices = nil
		for _, t := range tinSizes {
			scale, far := 1.0, 0.0
			if a.Pack > 0 {
				scale = a.Pack / t.grams
				far = math.Abs(scale - 1)
			}
			c := choice{t.name + "_drained", scale}
			if len(choices) > 0 && far < math.Abs(choices[0].scale-1) {
				choices = append([]choice{c}, choices...)
				continue
			}
			choices = append(choices, c)
		}
	}
	for _, find := range []func(string, string) (pantry.Measure, bool){b.Measures.House, b.Measures.Reference} {
		for _, c := range choices {
			m, ok := find(id, c.name)
			if !ok {
				continue
			}
			times := a.Middle() * c.scale
			w := Weight{Grams: times * m.Grams, Spread: m.Spread, Source: m.Source, Measure: m.Name, Of: id,
				Times: times,
				How:   fmt.Sprintf("%s × %s g, %s", figure(times), figure(m.Grams), measureWords(m.Name))}
			if a.Pack == 0 {
				w.Spread = math.Hypot(w.Spread, 10)
				w.Ask = &Question{Code: "pack", Packs: usualPacks(), Text: fmt.Sprintf(
					"What size is the %s? It was taken as %s.", unitSaid(a.Unit), measureWords(c.name))}
			}
			return w, true
		}
	}
	return Weight{}, false
}

// measureWords is a measure as people say it.
func measureWords(name string) string {
	switch name {
	case "can_400g_drained":
		return "a 400 g tin, drained"
	case "can_15oz_drained":
		return "a 15 oz can, drained"
	case "jar_drained":
		return "a jar, drained"
	case "juice_of_one", "juice_of":
		return "the juice of one"
	case "zest_of_one", "zest_of":
		return "the zest of one"
	}
	first, rest, has := strings.Cut(name, "_")
	article := "a "
	if has {
		return article + strings.ReplaceAll(rest, "_", " ") + " " + first
	}
	return article + first
}

// unitSaid is a container as people say it.
func unitSaid(unit string) string {
	if unit == "can" {
		return "tin"
	}
	return unit
}
