package production

import (
	"context"
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/formula"
)

// BatchCost is what a batch's ingredients cost by its lots and today; per jar once it is filled.
type BatchCost struct {
	costing.BatchCost
	Jars        int           `json:"jars"`
	PerJar      *amount.Exact `json:"per_jar_by_lots"`
	PerJarToday *amount.Exact `json:"per_jar_today"`
}

// CostOfBatch shows what a batch cost by the lots it was made of, beside today's prices.
func (a *Room) CostOfBatch(ctx context.Context, id int64) (BatchCost, error) {
	l, err := a.Load(a.On(ctx), id)
	if err != nil {
		return BatchCost{}, err
	}
	out := BatchCost{BatchCost: l.costByLots()}
	if f := l.Record.Fill; f != nil && f.Jars > 0 {
		out.Jars = f.Jars
		own, today := out.ByLots.Over(amount.Whole(int64(f.Jars))), out.Today.Over(amount.Whole(int64(f.Jars)))
		out.PerJar, out.PerJarToday = &own, &today
	}
	return out, nil
}

// costByLots is what the ingredients of the batch cost by its lots. Lines that were not weighed yet count as planned.
func (l Loaded) costByLots() costing.BatchCost {
	nodes := l.asMade()
	if nodes == nil {
		return costing.BatchCost{Missing: []string{l.name}}
	}
	took := map[string][]costing.OfLot{}
	for _, t := range l.Record.Draws() {
		took[t.Line] = append(took[t.Line], costing.OfLot{Grams: t.Grams, PerGram: l.Needs.Lots[t.Lot].PerGram})
	}
	return costing.ByLots(nodes, took, l.Book.Terms)
}

// asMade are the lines of the batch as weighed, with additions and with what went onto the jars; nil where they cannot
// be expanded.
func (l Loaded) asMade() []formula.Node {
	made, err := AsWeighed(l.Version, l.Record).Resolve(l.Record.Uses())
	if err != nil {
		made = l.Version
	}
	nodes, err := l.Lib.Expand(made)
	if err != nil {
		return nil
	}
	return append(nodes, l.onTopAsWeighed()...)
}

// onTopAsWeighed is what went onto the jars, in the grams that were weighed, or planned before that.
func (l Loaded) onTopAsWeighed() []formula.Node {
	onTop, err := l.Lib.OnTop(l.Version)
	if err != nil {
		return nil
	}
	out := make([]formula.Node, 0, len(onTop))
	for _, n := range onTop {
		at := slices.IndexFunc(l.Record.Lines, func(s bench.LineState) bool { return s.Line == n.Line.ID })
		if at < 0 {
			continue
		}
		line := *n.Line
		if line.Grams = l.Record.Lines[at].Grams; l.Record.Lines[at].Actual != nil {
			line.Grams = *l.Record.Lines[at].Actual
		}
		n.Line, n.Grams = &line, line.Grams.Float()
		out = append(out, n)
	}
	return out
}
