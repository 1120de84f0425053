package bench

import "gallipot/internal/core/amount"

// Rebalance is what an over-pour asks of the whole load: its factor, each line's new target, what is topped up of lines
// that are weighed (nil for lines to come), and what would then be in the vessel.
type Rebalance struct {
	Factor   amount.Exact
	Targets  []amount.Exact
	TopUp    []*amount.Exact
	NewTotal amount.Exact
}

// Over reports whether this much of a line exceeds its tolerance, in percent.
func Over(actual, target amount.Exact, tolerance float64) bool {
	return actual.Cmp(target.Plus(target.Times(amount.Share(amount.Pct(tolerance))))) > 0
}

// Rebalanced computes how to restore the ratio after an over-pour: the factor is the greatest actual / target among the
// weighed lines beyond their tolerance, or 1 without any (handbook 04). weighed is nil for a line still to come.
func Rebalanced(targets []amount.Exact, weighed []*amount.Exact, tolerance []float64) Rebalance {
	r := Rebalance{Factor: amount.Whole(1), Targets: make([]amount.Exact, len(targets)),
		TopUp: make([]*amount.Exact, len(targets))}
	for i, w := range weighed {
		if w == nil || !targets[i].IsPositive() || !Over(*w, targets[i], tolerance[i]) {
			continue
		}
		if k := w.Over(targets[i]); k.Cmp(r.Factor) > 0 {
			r.Factor = k
		}
	}
	for i, t := range targets {
		now := t.Times(r.Factor)
		r.Targets[i] = now
		if w := weighed[i]; w != nil {
			more := now.Minus(*w)
			if !more.IsPositive() || r.Factor.Cmp(amount.Whole(1)) == 0 {
				more = amount.Exact{}
			}
			r.TopUp[i] = &more
			if w.Cmp(now) > 0 {
				now = *w
			}
		}
		r.NewTotal = r.NewTotal.Plus(now)
	}
	return r
}
