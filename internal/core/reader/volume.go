package reader

import (
	"fmt"
	"math"
)

// volumeNames are measures that stand for a volume, to work one out from another.
var volumeNames = []string{"cup", "tbsp", "tsp"}

// byVolume uses the density; else another volume of the same ingredient; else water, which counts as still to weigh.
func (b *Book) byVolume(a Amount, id string) (Weight, bool) {
	v, ok := b.Spoons.Volume(a.Unit)
	if !ok && a.Unit == "spoon" {
		v, ok = b.Spoons.Volume("tbsp")
		v.Spread = spoonSpread
	}
	if !ok {
		return Weight{}, false
	}
	heap := heaps[a.Heap]
	if heap.times == 0 {
		heap.times = 1
	}
	times := a.Middle() * heap.times * sizeFactor(a.Size)
	spread := math.Hypot(v.Spread, heap.spread)
	if g := b.Ingredients[id]; g != nil && g.DensityGPerML > 0 {
		return Weight{Grams: times * v.ML * g.DensityGPerML, Spread: spread, Source: FromDensity, Measure: a.Unit,
			Times: times,
			How:   fmt.Sprintf("%s mL × %s g/mL", figure(times*v.ML), figure(g.DensityGPerML))}, true
	}
	for _, other := range volumeNames {
		m, ok := b.Measures.House(id, other)
		source := FromHouse
		if !ok {
			m, ok = b.Measures.Reference(id, other)
			source = FromReference
		}
		if o, _ := b.Spoons.Volume(other); ok && o.ML > 0 {
			k := times * v.ML / o.ML
			return Weight{Grams: k * m.Grams, Spread: math.Hypot(math.Hypot(spread, m.Spread), widenVolume),
				Source: source, Measure: other, Of: id, Times: k,
				How: fmt.Sprintf("%s × %s g, %s", figure(k), figure(m.Grams), measureWords(other))}, true
		}
	}
	return Weight{Grams: times * v.ML, Spread: math.Hypot(spread, 30), Source: FromAssumed, Measure: a.Unit,
		Times: times,
		How:   fmt.Sprintf("%s mL, assumed water-like", figure(times*v.ML))}, true
}
