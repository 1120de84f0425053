package judge

import (
	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/lots"
)

// CostByLots returns what the batch's ingredients cost by its lots. Lines not weighed yet count as planned; a batch
// that cannot be expanded is itself listed as missing, by its name.
func (b Batch) CostByLots(name string, terms costing.Terms) costing.BatchCost {
	nodes := b.Nodes()
	if nodes == nil {
		return costing.BatchCost{Missing: []string{name}}
	}
	took := map[string][]costing.OfLot{}
	for _, t := range b.Record.Draws() {
		took[t.Line] = append(took[t.Line], costing.OfLot{Grams: t.Grams, PerGram: b.Lots[t.Lot].PerGram})
	}
	return costing.ByLots(nodes, took, terms)
}

// PerGram returns what a gram of the batch cost in ingredients (by its lots, or today's price for a lot without one)
// and in labour; nil if a price is missing, or before the batch is weighed and filled.
func (b Batch) PerGram(terms costing.Terms) *amount.Exact {
	if !b.Record.Weighed || b.Record.Fill == nil || b.Record.Fill.Jars == 0 {
		return nil
	}
	c := b.CostByLots("", terms)
	made := b.Version.FillGrams.Times(b.Record.Fill.Jars)
	if len(c.Missing) > 0 || !made.IsPositive() {
		return nil
	}
	nodes, err := b.Lib.Expand(b.Version)
	if err != nil {
		return nil
	}
	per := c.ByLots.Over(made.Exact()).Plus(costing.HandsPerGram(b.Version, nodes, terms)).Round(lots.CostPlaces)
	return &per
}

// Against compares a filled batch with its standard. today holds today's terms, standard those of the day it was made;
// hour is what an hour of labour costs today.
func (b Batch) Against(name string, today, standard costing.Terms, hour amount.Money) costing.Variance {
	out := costing.Against(b.met(b.CostByLots(name, today), standard), b.Jars, b.Record.Fill.Jars)
	pack := b.pack(standard)
	out.Packaging, out.Hands = &pack, b.hands(standard, hour)
	return out.Named()
}

// pack compares the packaging of a batch: planned for its good jars with the usual spoilage, and as filled.
func (b Batch) pack(terms costing.Terms) costing.TwoWays {
	rest := amount.Rest(b.Version.RejectPercent)
	bare := costing.Jar(b.Version, nil, nil, terms).Packaging.Times(rest)
	good := amount.Whole(int64(b.Record.Fill.Jars))
	used := amount.Whole(int64(b.Record.Fill.Jars + b.Record.Fill.Rejected))
	return costing.Between(good.Over(rest), used, bare, bare)
}

// hands compares the labour of a batch: planned for its good jars, and as written down, at today's cost of an hour; nil
// if nobody wrote it down.
func (b Batch) hands(terms costing.Terms, hourToday amount.Money) *costing.TwoWays {
	w := b.Record.Worked
	nodes, err := b.Lib.Expand(b.Version)
	if w == nil || err != nil || b.Jars == 0 {
		return nil
	}
	onTop, err := b.Lib.OnTop(b.Version)
	if err != nil {
		return nil
	}
	if p := b.Planned; p != nil {
		terms.Made = costing.Made{Vessel: p.Vessel, Samples: p.Samples}
	}
	v := b.Version
	v.CostingJars = b.Jars
	hour := amount.Whole(60)
	each := costing.Jar(v, nodes, onTop, terms).Minutes.Over(amount.Whole(int64(b.Jars)))
	out := costing.Between(each.Times(amount.Whole(int64(b.Record.Fill.Jars))), amount.ExactFloat(w.Minutes),
		v.LabourPerHour.Exact().Over(hour), hourToday.Exact().Over(hour))
	return &out
}

// met returns the lines of a batch as planned and as weighed, with their standard and what their lots cost.
func (b Batch) met(byLots costing.BatchCost, terms costing.Terms) []costing.Met {
	planned := map[string]amount.Grams{}
	for _, t := range b.Targets {
		planned[t.Line] = t.Grams
	}
	paid := map[string]costing.Paid{}
	for _, p := range byLots.Lines {
		paid[p.Line] = p
	}
	priced := func(m costing.Met, n *formula.Node) costing.Met {
		if per, complete := costing.PerGram(n, terms); complete {
			m.PerGram = &per
		}
		return m
	}
	out := []costing.Met{}
	seen := map[string]bool{}
	for _, n := range b.Nodes() {
		base, _ := formula.Whole(n.Line.ID)
		seen[base] = true
		out = append(out, priced(costing.Met{Line: base, Name: n.Name, Planned: planned[n.Line.ID],
			Actual: n.Line.Grams, Paid: paid[n.Line.ID].ByLots}, &n))
	}
	whole, err := b.Lib.Expand(b.Version)
	if err != nil {
		return out
	}
	for _, n := range whole { // what was left out
		if !seen[n.Line.ID] {
			out = append(out, priced(costing.Met{Line: n.Line.ID, Name: n.Name, Planned: planned[n.Line.ID]}, &n))
		}
	}
	return out
}
