package costing

import (
	"slices"

	"gallipot/internal/core/amount"
)

// Point is the cost of a jar at a size of batch.
type Point struct {
	Jars    int          `json:"jars"`
	PerJar  amount.Exact `json:"per_jar"`
	Loads   int          `json:"loads"`
	Shifts  int          `json:"shifts"`
	Minutes amount.Exact `json:"minutes"` // of hands
}

// Step is a size from which a batch takes another load or another shift.
type Step struct {
	Jars int    `json:"jars"`
	What string `json:"what"` // load or shift
	N    int    `json:"n"`
}

// Curve is what a jar costs by size of batch. Day is the cheapest size that fits one day's work, or nil if not even the
// smallest does.
type Curve struct {
	Points []Point `json:"points"`
	Steps  []Step  `json:"steps"`
	Day    *Point  `json:"day"`
}

// The sizes that a curve runs over, and how many points it has at first.
const (
	CurveFrom   = 20
	CurveTo     = 400
	CurvePoints = 60
)

// Curve works out what a jar costs between two sizes, at so many of them and on both sides of each step.
func (p Product) Curve(from, to, count int) Curve {
	sizes := make([]int, count)
	for i := range sizes {
		sizes[i] = from + i*(to-from)/max(1, count-1)
	}
	c := Curve{Points: make([]Point, 0, count), Steps: []Step{}}
	w := p.bowl()
	at := func(jars int) Point {
		s := p.at(w, jars)
		return Point{jars, s.PerJar, s.Loads, s.Shifts, s.Minutes}
	}
	for _, n := range sizes {
		x := at(n)
		if k := len(c.Points); k > 0 {
			c.between(c.Points[k-1], x, at)
		}
		c.Points = append(c.Points, x)
	}
	slices.SortFunc(c.Points, func(a, b Point) int { return a.Jars - b.Jars })
	c.Points = slices.CompactFunc(c.Points, func(a, b Point) bool { return a.Jars == b.Jars })
	for i, x := range c.Points {
		if x.Shifts == 1 && (c.Day == nil || x.PerJar.Cmp(c.Day.PerJar) < 0) {
			c.Day = &c.Points[i]
		}
	}
	return c
}

// between finds each size between two points at which loads or shifts grow, and adds the points on both sides of it.
func (c *Curve) between(low, high Point, at func(int) Point) {
	if low.Loads == high.Loads && low.Shifts == high.Shifts {
		return
	}
	if high.Jars-low.Jars > 1 {
		mid := at((low.Jars + high.Jars) / 2)
		c.between(low, mid, at)
		c.between(mid, high, at)
		return
	}
	c.Points = append(c.Points, low, high)
	if high.Loads != low.Loads {
		c.Steps = append(c.Steps, Step{high.Jars, "load", high.Loads})
	}
	if high.Shifts != low.Shifts {
		c.Steps = append(c.Steps, Step{high.Jars, "shift", high.Shifts})
	}
}
