package judge

import (
	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/lots"
)

// CostByLots is what the ingredients of the batch cost by its lots. Lines that were not weighed yet count as planned; a
// batch that cannot be expanded misses itself, by its name.
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

// PerGram is what a gram of the batch cost in ingredients, by the lots it was made of and today's price where a lot
// tells none, and in hands; nil where a price is missing, or before it was weighed and filled.
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

// Against sets what a filled batch met against its standard. today are the terms of today, standard those of the day
// that it was made; hour is what an hour of hands costs today.
func (b Batch) Against(name string, today, standard costing.Terms, hour amount.Money) costing.Variance {
	out := costing.Against(b.met(b.CostByLots(name, today), standard), b.Jars, b.Record.Fill.Jars)
	pack := b.pack(standard)
	out.Packaging, out.Hands = &pack, b.hands(standard, hour)
	return out.Named()
}

// pack is the packaging of a batch: planned for its good jars with what is usually spoilt, and what was filled.
func (b Batch) pack(terms costing.Terms) costing.TwoWays {
	rest := amount.Rest(b.Version.RejectPercent)
	bare := costing.Jar(b.Version, nil, nil, terms).Packaging.Times(rest)
	good := amount.Whole(int64(b.Record.Fill.Jars))
	used := amount.Whole(int64(b.Record.Fill.Jars + b.Record.Fill.Rejected))
	return costing.Between(good.Over(rest), used, bare, bare)
}

// hands are the hands of a batch: planned for its good jars, and as somebody wrote down at what an hour costs today;
// nil where nobody did.
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

// met are the lines of a batch as planned and as weighed, with their standard and what their lots cost.
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
