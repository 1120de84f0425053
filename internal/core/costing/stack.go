package costing

import (
	"fmt"
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// Part is one figure in the stack of a jar. How tells where it comes from; Of is the ingredient that is paid for, or
// Component the formula that was made.
type Part struct {
	Key       string        `json:"key"`
	Name      string        `json:"name"`
	PerJar    amount.Exact  `json:"per_jar"`
	Missing   bool          `json:"missing,omitempty"`
	How       string        `json:"how,omitempty"`
	Of        string        `json:"of,omitempty"`
	Component *formula.Ref  `json:"component,omitempty"`
	Minutes   *amount.Exact `json:"minutes,omitempty"` // of hands, a jar
}

// Stack is the cost of one jar. Losses is the part of Ingredients and Packaging that process loss, overfill, residues,
// samples, broken packaging and rejected jars carve out; it is never added on top. AtLeast is set where a price is
// missing, or where nothing is said of something that always costs. Lines, Toppings, Items, Hands and Rooms add up to
// Ingredients, Packaging, Labour and Overhead.
type Stack struct {
	PerKgIngredients amount.Exact `json:"per_kg_ingredients"`
	Ingredients      amount.Exact `json:"ingredients"`
	Packaging        amount.Exact `json:"packaging"`
	Labour           amount.Exact `json:"labour"`
	Overhead         amount.Exact `json:"overhead"`
	Losses           amount.Exact `json:"losses"`
	PerJar           amount.Exact `json:"per_jar"`
	AtLeast          bool         `json:"at_least"`
	Missing          []string     `json:"missing"` // without a price
	Unsaid           []string     `json:"unsaid"`  // of what nothing is said
	Stale            []string     `json:"stale"`
	Lines            []Part       `json:"lines"`
	Toppings         []Part       `json:"toppings"`
	Items            []Part       `json:"items"`
	Hands            []Part       `json:"hands"`
	Rooms            []Part       `json:"rooms"` // kitchen, oven, overhead
	Lost             []Part       `json:"lost"`  // what Losses is made of
	Jars             int          `json:"jars"`  // a batch
	Loads            int          `json:"loads"`
	Shifts           int          `json:"shifts"`
	Minutes          amount.Exact `json:"minutes"` // of hands, a batch
}

// Jar computes the cost of one jar of a version whose lines, and what goes onto its jars, were expanded to nodes.
func Jar(v formula.Version, nodes, onTop []formula.Node, t Terms) Stack {
	return jarOf(v, nodes, onTop, t, v.CostingJars)
}

// jarOf is Jar at another size of batch.
func jarOf(v formula.Version, nodes, onTop []formula.Node, t Terms, jars int) Stack {
	c := collector{terms: t, version: v}
	b := batchOf(v, t.Made, jars)
	in := inBowl{rows: make([]Part, 0, len(nodes))}
	grams := b.grams(v)
	for i := range nodes {
		x := c.node(&nodes[i])
		cost := x.perGram.Times(grams[i])
		in.cost = in.cost.Plus(cost)
		in.rows = append(in.rows, c.line(&nodes[i], x, grams[i].Over(b.good), cost.Over(b.good)))
		if x.minutes.IsPositive() {
			in.steps = append(in.steps, c.step(&nodes[i], x, grams[i]))
		}
	}
	return c.stack(b, in, onTop)
}

// inBowl is what the ingredients of a batch cost, line by line where that is wanted, and the steps before the bowl with
// their minutes.
type inBowl struct {
	cost  amount.Exact
	rows  []Part
	steps []Part
}

// stack puts the parts of a jar together.
func (c *collector) stack(b batch, in inBowl, onTop []formula.Node) Stack {
	v := c.version
	s := Stack{Missing: []string{}, Unsaid: []string{}, Stale: []string{}, Lines: in.rows, Toppings: []Part{},
		Items: []Part{}, Hands: []Part{}, Rooms: []Part{}, Lost: []Part{}, Jars: b.asked,
		Loads: b.loads}
	if !b.known {
		s.Unsaid = append(s.Unsaid, "how many jars a batch makes")
	}
	s.Ingredients = in.cost.Over(b.good)
	if b.finished.IsPositive() {
		s.PerKgIngredients = in.cost.Times(gramsInKilo).Over(b.finished)
	}
	more := amount.Whole(1).Over(amount.Rest(v.RejectPercent)) // jars filled for one that is good
	rejected := amount.Exact{}                                 // what goes onto jars and is rejected with them
	for i := range onTop {
		n := &onTop[i]
		x := c.node(n)
		once := x.perGram.Times(n.Line.Grams.Exact())
		p := c.line(n, x, n.Line.Grams.Exact().Times(more), once.Times(more))
		s.Toppings, s.Ingredients = append(s.Toppings, p), s.Ingredients.Plus(p.PerJar)
		rejected = rejected.Plus(p.PerJar.Minus(once))
		if x.minutes.IsPositive() {
			in.steps = append(slices.Clip(in.steps), c.step(n, x, n.Line.Grams.Exact().Times(b.jars)))
		}
	}
	spoilt, around := s.pack(c, more)
	if !c.brief {
		s.lose(c, b, in.cost, spoilt, rejected.Plus(around))
	}
	s.work(c, b, in.steps)
	s.rooms(c, b)
	s.PerJar = s.Ingredients.Plus(s.Packaging).Plus(s.Labour).Plus(s.Overhead)
	s.Missing, s.Stale = append(s.Missing, c.missing...), append(s.Stale, c.stale...)
	s.Unsaid = append(s.Unsaid, c.unsaid...)
	s.AtLeast = len(s.Missing) > 0 || len(s.Unsaid) > 0
	return s
}

// line is one ingredient, or component, in the stack.
func (c *collector) line(n *formula.Node, x gram, grams, perJar amount.Exact) Part {
	p := Part{Key: n.Line.ID, Name: n.Name, PerJar: perJar, Missing: !x.complete, Of: x.cost.Bought,
		Component: n.Line.Component}
	if !c.terms.Told {
		return p
	}
	switch g := n.Ingredient; {
	case g == nil:
		p.How = fmt.Sprintf("%s g x %s a gram: what a gram of its own batch costs, with its hands", grams.Fixed(2),
			x.perGram.Fixed(5))
	case p.Missing:
		p.How = fmt.Sprintf("%s g, and no price", grams.Fixed(2))
	case x.cost.Bought == "":
		p.How = fmt.Sprintf("%s g of water from the tap", grams.Fixed(2))
	case x.cost.Through != "":
		p.How = fmt.Sprintf("%s g x %s a gram, through %s", grams.Fixed(2), x.perGram.Fixed(5), x.cost.via())
	default:
		p.How = fmt.Sprintf("%s g x %s a gram: %s", grams.Fixed(2), x.perGram.Fixed(5), g.Arithmetic(x.cost.UnitCost))
	}
	if o := x.cost.Offer; o.Supplier != "" {
		p.How += fmt.Sprintf("; %s, %s", o.Supplier, o.Date)
	}
	return p
}

// step is the work that a line asks for before it goes into the bowl.
func (c *collector) step(n *formula.Node, x gram, grams amount.Exact) Part {
	minutes := x.minutes.Times(grams)
	return Part{Key: "step:" + n.Line.ID, Name: fmt.Sprintf("%s: %s", n.Name, x.cost.via()), Minutes: &minutes}
}

// lose tells what losses carve out of ingredients and packaging: grams that are in no good jar at what a gram of the
// mix costs, what of the pack is spoilt, and what is rejected with the jars.
func (s *Stack) lose(c *collector, b batch, cost, spoilt, rejected amount.Exact) {
	v := c.version
	add := func(key, name string, grams, money amount.Exact) {
		if b.mixed.IsPositive() {
			money = money.Plus(grams.Times(cost).Over(b.mixed).Over(b.good))
		}
		if money.Sign() == 0 {
			return
		}
		p := Part{Key: "lost:" + key, Name: name, PerJar: money}
		if c.terms.Told && grams.IsPositive() {
			p.How = fmt.Sprintf("%s g of a batch of %s g", grams.Fixed(1), b.mixed.Fixed(1))
		} else if c.terms.Told {
			p.How = "of the pack, for one jar that is good"
		}
		s.Losses, s.Lost = s.Losses.Plus(money), append(s.Lost, p)
	}
	fill, samples := v.FillGrams.Exact(), c.terms.Made.Samples.Exact()
	vessel := c.terms.Made.Vessel.Residue.Exact().Times(amount.Whole(int64(b.loads)))
	if !b.known {
		vessel, samples = amount.Exact{}, amount.Exact{} // the grams of the sheet are all that is known
	}
	add("making", "lost in making", b.mixed.Minus(vessel).Times(amount.Share(v.LossPercent)), amount.Exact{})
	add("over", "filled over", fill.Times(amount.Share(v.OverfillPercent)).Times(b.jars), amount.Exact{})
	add("samples", "kept as samples", samples, amount.Exact{})
	add("vessel", "stays in the vessel", vessel, amount.Exact{})
	add("spoilt", "spoilt of the pack", amount.Exact{}, spoilt)
	add("rejects", "jars rejected", fill.Times(b.jars.Minus(b.good)), rejected)
}

// pack adds the cost of the pack, and returns how much of it is spoilt and how much goes with rejected jars.
func (s *Stack) pack(c *collector, more amount.Exact) (spoilt, rejected amount.Exact) {
	if len(c.version.Packaging) == 0 {
		c.unsaid = note(c.unsaid, "packaging")
	}
	for i, item := range c.version.Packaging {
		p := Part{Key: fmt.Sprintf("item:%d", i), Name: item.Name, Of: item.Item}
		bare, how := item.Price.Exact(), "typed on the sheet"
		if item.Item != "" {
			bare, how, p.Missing = c.item(item)
		} else if !item.Price.IsPositive() {
			p.Missing = true
			c.unsaid = note(c.unsaid, item.Name)
		}
		if item.PerPiece > 1 {
			bare = bare.Over(amount.Whole(int64(item.PerPiece)))
		}
		filled := bare.Times(amount.More(item.LossPercent))
		p.PerJar = filled.Times(more)
		if c.terms.Told && !p.Missing {
			p.How = fmt.Sprintf("%s a jar + %s %% spoilt; %s", bare.Fixed(4), item.LossPercent, how)
		}
		spoilt, rejected = spoilt.Plus(filled.Minus(bare)), rejected.Plus(p.PerJar.Minus(filled))
		s.Packaging, s.Items = s.Packaging.Plus(p.PerJar), append(s.Items, p)
	}
	return spoilt, rejected
}

// item is what a piece of a part of the pack costs that is bought.
func (c *collector) item(item formula.PackagingItem) (each amount.Exact, how string, missing bool) {
	var g *pantry.Ingredient
	if c.terms.Item != nil {
		g = c.terms.Item(item.Item)
	}
	if g == nil {
		c.missing = note(c.missing, item.Name)
		return each, "", true
	}
	u, err := c.terms.Rate(g, "")
	if err != nil {
		c.missing = note(c.missing, g.Name)
		return each, "", true
	}
	c.old(g, u)
	return u.PerGram, fmt.Sprintf("%s for %s, %s, %s", u.PackCost.Fixed(2), u.PackGrams, u.Offer.Supplier,
		u.Offer.Date), false
}

// work adds the hands: by batch and shift, by load, by step, by jar.
func (s *Stack) work(c *collector, b batch, steps []Part) {
	v := c.version
	rate := c.terms.labour(v).Over(minutesInHour)
	loads := v.MinutesPerLoad.Exact().Times(amount.Whole(int64(b.loads)))
	jars := v.MinutesPerJar.Exact().Times(b.jars)
	rest := loads.Plus(jars)
	for _, p := range steps {
		rest = rest.Plus(*p.Minutes)
	}
	s.Shifts = shifts(v.MinutesPerBatch.Exact(), rest, c.terms.Day.Exact())
	setUp := v.MinutesPerBatch.Exact()
	if b.known {
		setUp = setUp.Times(amount.Whole(int64(s.Shifts)))
	} else {
		setUp = amount.Exact{} // nobody said over how many jars it is spread
	}
	s.Minutes = setUp.Plus(rest)
	add := func(p Part, minutes amount.Exact, how string) {
		if !minutes.IsPositive() {
			return
		}
		p.PerJar = minutes.Times(rate).Over(b.good)
		each := minutes.Over(b.good)
		p.Minutes = &each
		if c.terms.Told {
			p.How = fmt.Sprintf("%s = %s min x %s an hour / 60 / %s jars", how, minutes.Fixed(1),
				c.terms.labour(v).Fixed(2), b.good.Round(1))
		}
		s.Labour, s.Hands = s.Labour.Plus(p.PerJar), append(s.Hands, p)
	}
	add(Part{Key: "hands:batch", Name: "set up and clean"}, setUp, times(v.MinutesPerBatch, s.Shifts, "shifts"))
	add(Part{Key: "hands:load", Name: "each load"}, loads, times(v.MinutesPerLoad, b.loads, "loads"))
	for _, p := range steps {
		add(p, *p.Minutes, "by the kilo that goes in")
	}
	add(Part{Key: "hands:jar", Name: "fill, cap, label"}, jars, fmt.Sprintf("%s min a jar", v.MinutesPerJar))
	if v.MinutesPerBatch.IsZero() && v.MinutesPerLoad.IsZero() && v.MinutesPerJar.IsZero() {
		c.unsaid = note(c.unsaid, "hands")
	} else if !v.LabourPerHour.IsPositive() {
		c.unsaid = note(c.unsaid, "what an hour of work costs")
	}
}

func times(minutes amount.Minutes, n int, of string) string {
	if n == 1 {
		return fmt.Sprintf("%s min", minutes)
	}
	return fmt.Sprintf("%s min x %d %s", minutes, n, of)
}

// mostShifts ends the search for shifts where setting up leaves hardly any time in a day.
const mostShifts = 60

// shifts is in how many days so much work is done, where each begins with setting up; 1 where no day's length is said.
func shifts(setUp, rest, day amount.Exact) int {
	if !day.IsPositive() || setUp.Cmp(day) >= 0 {
		return 1
	}
	left := day.Minus(setUp)
	n := rest.Over(left)
	whole := n.Floor()
	if n.Cmp(amount.Whole(whole)) > 0 {
		whole++
	}
	return int(min(max(1, whole), mostShifts))
}

// rooms adds kitchen, oven and overhead.
func (s *Stack) rooms(c *collector, b batch) {
	v := c.version
	add := func(key, name string, batch amount.Exact, how string) {
		if !batch.IsPositive() {
			return
		}
		p := Part{Key: key, Name: name, PerJar: batch.Times(once(c.terms.room)).Over(b.good)}
		if c.terms.Told {
			p.How = fmt.Sprintf("%s / %s jars", how, b.good.Round(1))
		}
		s.Overhead, s.Rooms = s.Overhead.Plus(p.PerJar), append(s.Rooms, p)
	}
	if b.known {
		add("room:batch", "overhead a batch", v.OverheadPerBatch.Exact(), v.OverheadPerBatch.Fixed(2)+" a batch")
	}
	add("room:jar", "overhead a jar", v.OverheadPerJar.Exact().Times(b.jars), v.OverheadPerJar.Fixed(4)+" a jar")
	add("room:kitchen", "kitchen by the hour", c.terms.Kitchen.Exact().Times(s.Minutes).Over(minutesInHour),
		fmt.Sprintf("%s an hour x %s min / 60", c.terms.Kitchen.Fixed(2), s.Minutes.Fixed(1)))
	oven := v.OvenMinutes.Exact().Times(amount.Whole(int64(b.loads)))
	add("room:oven", "oven", c.terms.Oven.Exact().Times(oven).Over(minutesInHour),
		fmt.Sprintf("%s an hour x %s min / 60", c.terms.Oven.Fixed(2), oven.Fixed(0)))
}
