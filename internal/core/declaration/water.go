package declaration

import "gallipot/internal/core/law"

// weights are the grams that entries come to, and the grams of water that leave while they are mixed.
type weights struct{ mixing, off float64 }

func (w weights) finished() float64 { return w.mixing - w.off }

// keptWhole is the water driven off in components that stand as compounds: their grams are without it already.
func keptWhole(items []Item) float64 {
	off := 0.0
	for i := range items {
		switch it := &items[i]; {
		case len(it.Parts) == 0:
		case it.Disperse:
			off += keptWhole(it.Parts)
		default:
			off += it.DrivenOff
		}
	}
	return off
}

// water has added water stand where the law puts it.
func water(entries []*entry, w weights, l *law.Law) []*entry {
	if l.WaterByFinished {
		return waterByFinished(entries, w.finished())
	}
	return waterByAdded(entries, w.off)
}

// waterByFinished: added water counts as finished weight minus all other ingredients at mixing, and is left out at or
// under 5 % of the finished weight (Regulation 1169/2011 annex VII part A 1).
func waterByFinished(entries []*entry, finished float64) []*entry {
	others, counted := 0.0, false
	for _, e := range entries {
		if !e.water {
			others += e.grams
		}
	}
	added := finished - others
	out := make([]*entry, 0, len(entries))
	for _, e := range entries {
		if e.water {
			if added <= 0.05*finished+1e-9 || counted {
				continue
			}
			shown := *e
			shown.grams, counted = added, true
			e = &shown
		}
		out = append(out, e)
	}
	return out
}

// waterByAdded: water is listed by the weight added, unless all of it is removed in making (21 CFR 101.4).
func waterByAdded(entries []*entry, drivenOff float64) []*entry {
	if drivenOff <= 0 {
		return entries
	}
	out := entries[:0:0]
	for _, e := range entries {
		if e.water && drivenOff >= e.grams-1e-9 {
			continue
		}
		out = append(out, e)
	}
	return out
}
