package costing

import (
	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
)

// Paid is what one line of a batch cost: by the lots that it was weighed from, and by today's prices. Missing: neither
// a lot nor a price tells.
type Paid struct {
	Line    string        `json:"line"`
	Name    string        `json:"name"`
	ByLots  *amount.Exact `json:"by_lots"`
	Today   *amount.Exact `json:"today"`
	Missing bool          `json:"missing"`
}

// OfLot is grams taken from a lot, with what a gram cost, or nil if the lot does not say.
type OfLot struct {
	Grams   amount.Grams
	PerGram *amount.Exact
}

// BatchCost is what the ingredients of a batch cost by its lots, beside what they would cost today. A line whose lots
// tell no cost counts at today's price; where that is missing too, the sum is at least.
type BatchCost struct {
	Lines   []Paid       `json:"lines"`
	ByLots  amount.Exact `json:"by_lots"`
	Today   amount.Exact `json:"today"`
	Missing []string     `json:"missing"`  // lines that nothing tells the cost of
	NoPrice []string     `json:"no_price"` // lines without a price today
	AtToday []string     `json:"at_today"` // lines counted at today's price in the place of their lots'
}

// ByLots works out what a batch cost. nodes are its lines as weighed, took what each line took of lots, by line.
func ByLots(nodes []formula.Node, took map[string][]OfLot, t Terms) BatchCost {
	out := BatchCost{Lines: []Paid{}, Missing: []string{}, NoPrice: []string{}, AtToday: []string{}}
	for i := range nodes {
		n := &nodes[i]
		p := Paid{Line: n.Line.ID, Name: n.Name}
		c := collector{terms: t}
		if x := c.node(n); x.complete {
			cost := x.perGram.Times(n.Line.Grams.Exact())
			p.Today, out.Today = &cost, out.Today.Plus(cost)
		} else {
			out.NoPrice = append(out.NoPrice, n.Name)
		}
		base, part := formula.Whole(n.Line.ID)
		p.ByLots = spent(took[base])
		if part && p.ByLots != nil {
			p.ByLots = new(amount.Exact) // a further part of a group: its lots count with the first
		}
		switch {
		case p.ByLots != nil:
			out.ByLots = out.ByLots.Plus(*p.ByLots)
		case p.Today != nil:
			out.ByLots = out.ByLots.Plus(*p.Today)
			if p.Today.IsPositive() {
				out.AtToday = append(out.AtToday, n.Name)
			}
		default:
			p.Missing = true
			out.Missing = append(out.Missing, n.Name)
		}
		out.Lines = append(out.Lines, p)
	}
	return out
}

// spent is what was taken of lots in money; nil where there are none, or one tells no cost.
func spent(list []OfLot) *amount.Exact {
	if len(list) == 0 {
		return nil
	}
	sum := amount.Exact{}
	for _, t := range list {
		if t.PerGram == nil {
			return nil
		}
		sum = sum.Plus(t.PerGram.Times(t.Grams.Exact()))
	}
	return &sum
}
