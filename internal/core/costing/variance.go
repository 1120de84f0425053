package costing

import (
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
)

// PerGram is what a gram of a line costs: of an ingredient, or of a component with its hands; complete where no price
// is missing.
func PerGram(n *formula.Node, t Terms) (perGram amount.Exact, complete bool) {
	c := collector{terms: t}
	g := c.node(n)
	return g.perGram, g.complete
}

// Met is one line of a batch as planned and as it went: its standard price per gram, or nil, and what its grams cost by
// their lots, or nil if no lot says. Several with the same Line are parts of a group and count as one.
type Met struct {
	Line    string
	Name    string
	Planned amount.Grams
	Actual  amount.Grams
	PerGram *amount.Exact
	Paid    *amount.Exact
}

// LineVariance is what one line cost more than its standard: by grams and by price.
type LineVariance struct {
	Line    string       `json:"line"`
	Name    string       `json:"name"`
	Planned amount.Grams `json:"planned_g"`
	Actual  amount.Grams `json:"actual_g"`
	Usage   amount.Exact `json:"usage"`
	Price   amount.Exact `json:"price"`
	Said    string       `json:"said,omitempty"` // what stands in for a figure that is missing
}

// TwoWays is what packaging or hands cost more than their standard: by how much was used, and by what that cost.
type TwoWays struct {
	Standard amount.Exact `json:"standard"`
	Actual   amount.Exact `json:"actual"`
	Usage    amount.Exact `json:"usage"`
	Rate     amount.Exact `json:"rate"`
}

// Between is a pair of ways: used and priced as planned, and as met.
func Between(usedPlanned, used, ratePlanned, rate amount.Exact) TwoWays {
	return TwoWays{Standard: usedPlanned.Times(ratePlanned), Actual: used.Times(rate),
		Usage: used.Minus(usedPlanned).Times(ratePlanned), Rate: rate.Minus(ratePlanned).Times(used)}
}

// Variance is what a batch cost against its standard. Ingredients: the standard is of its good jars; usage is what the
// grams made of it at standard prices, price what the lots made of it, yield what the jars that are short made of it.
// The three add up exactly to the difference (handbook 07). AtLeast names lines that nothing tells the cost of: they
// are in neither side.
type Variance struct {
	Planned   int            `json:"jars_planned"`
	Good      int            `json:"jars_good"`
	Standard  amount.Exact   `json:"standard"`
	Actual    amount.Exact   `json:"actual"`
	Usage     amount.Exact   `json:"usage"`
	Price     amount.Exact   `json:"price"`
	Yield     amount.Exact   `json:"yield"`
	Lines     []LineVariance `json:"lines"`
	Missing   []string       `json:"missing"`
	Packaging *TwoWays       `json:"packaging"`
	Hands     *TwoWays       `json:"hands"` // nil where nobody wrote down how long it took
	Cause     Cause          `json:"cause"`
}

// Cause is what moved a batch most. Kind is usage, price, yield, packaging, hands or nothing; Line is of the first two.
type Cause struct {
	Kind  string       `json:"kind"`
	Line  string       `json:"line,omitempty"`
	Name  string       `json:"name,omitempty"`
	Money amount.Exact `json:"money"`
}

// Difference is what the ingredients cost more than their standard.
func (v Variance) Difference() amount.Exact { return v.Actual.Minus(v.Standard) }

// Against sets what a batch met against its standard for so many planned jars, of which so many are good.
func Against(met []Met, planned, good int) Variance {
	v := Variance{Planned: planned, Good: good, Lines: []LineVariance{}, Missing: []string{}}
	forPlanned := amount.Exact{}
	for _, m := range whole(met) {
		l := LineVariance{Line: m.Line, Name: m.Name, Planned: m.Planned, Actual: m.Actual}
		std, paid := m.PerGram, m.Paid
		switch {
		case std == nil && (paid == nil || !m.Actual.IsPositive()):
			if m.Actual.IsPositive() || m.Planned.IsPositive() {
				v.Missing = append(v.Missing, m.Name)
			}
			continue
		case std == nil:
			per := paid.Over(m.Actual.Exact())
			std, l.Said = &per, "no standard price that day: what its lots cost"
		case paid == nil:
			cost := std.Times(m.Actual.Exact())
			paid = &cost
			if cost.IsPositive() {
				l.Said = "no lot tells its cost: the standard price"
			}
		}
		l.Usage = m.Actual.Exact().Minus(m.Planned.Exact()).Times(*std)
		l.Price = paid.Minus(std.Times(m.Actual.Exact()))
		forPlanned = forPlanned.Plus(std.Times(m.Planned.Exact()))
		v.Actual, v.Usage, v.Price = v.Actual.Plus(*paid), v.Usage.Plus(l.Usage), v.Price.Plus(l.Price)
		v.Lines = append(v.Lines, l)
	}
	each := amount.Exact{}
	if planned > 0 {
		each = forPlanned.Over(amount.Whole(int64(planned)))
	}
	v.Standard = each.Times(amount.Whole(int64(good)))
	v.Yield = each.Times(amount.Whole(int64(planned - good)))
	return v
}

// whole puts the parts of each group together: their grams and what was paid add up, and a gram costs by its standard
// what the parts cost in the shares that were used.
func whole(met []Met) []Met {
	var out []Met
	at := map[string]int{}
	for _, m := range met {
		i, seen := at[m.Line]
		if !seen {
			at[m.Line] = len(out)
			out = append(out, m)
			continue
		}
		out[i] = out[i].with(m)
	}
	return out
}

func (m Met) with(part Met) Met {
	both := m
	both.Name += " and " + part.Name
	both.Planned, both.Actual = m.Planned.Plus(part.Planned), m.Actual.Plus(part.Actual)
	both.PerGram, both.Paid = nil, nil
	if m.PerGram != nil && part.PerGram != nil && both.Actual.IsPositive() {
		per := m.PerGram.Times(m.Actual.Exact()).Plus(part.PerGram.Times(part.Actual.Exact())).Over(both.Actual.Exact())
		both.PerGram = &per
	}
	if m.Paid != nil && part.Paid != nil {
		paid := m.Paid.Plus(*part.Paid)
		both.Paid = &paid
	}
	return both
}

// Named is the variance with its greatest cause; it is asked once packaging and hands are in.
func (v Variance) Named() Variance {
	causes := []Cause{{Kind: "yield", Money: v.Yield}}
	for _, l := range v.Lines {
		causes = append(causes, Cause{"usage", l.Line, l.Name, l.Usage}, Cause{"price", l.Line, l.Name, l.Price})
	}
	if p := v.Packaging; p != nil {
		causes = append(causes, Cause{Kind: "packaging", Money: p.Actual.Minus(p.Standard)})
	}
	if h := v.Hands; h != nil {
		causes = append(causes, Cause{Kind: "hands", Money: h.Actual.Minus(h.Standard)})
	}
	v.Cause = slices.MaxFunc(causes, func(a, b Cause) int { return size(a.Money).Cmp(size(b.Money)) })
	if v.Cause.Money.Sign() == 0 {
		v.Cause = Cause{Kind: "nothing"}
	}
	return v
}

// size is an amount without its sign.
func size(x amount.Exact) amount.Exact {
	if x.Sign() < 0 {
		return amount.Exact{}.Minus(x)
	}
	return x
}
