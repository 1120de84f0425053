package production

import (
	"context"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"
)

// BatchCost is what a batch's ingredients cost by its lots and at today's prices; per jar once it is filled.
type BatchCost struct {
	costing.BatchCost
	Jars        int           `json:"jars"`
	PerJar      *amount.Exact `json:"per_jar_by_lots"`
	PerJarToday *amount.Exact `json:"per_jar_today"`
}

// CostOfBatch returns what a batch cost by its lots, beside today's prices.
func (a *Room) CostOfBatch(ctx context.Context, id int64) (BatchCost, error) {
	l, err := a.Load(a.On(ctx), id)
	if err != nil {
		return BatchCost{}, err
	}
	out := BatchCost{BatchCost: l.Made().CostByLots(l.name, l.Book.Terms)}
	if f := l.Record.Fill; f != nil && f.Jars > 0 {
		out.Jars = f.Jars
		own, today := out.ByLots.Over(amount.Whole(int64(f.Jars))), out.Today.Over(amount.Whole(int64(f.Jars)))
		out.PerJar, out.PerJarToday = &own, &today
	}
	return out, nil
}
