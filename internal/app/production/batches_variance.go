package production

import (
	"cmp"
	"context"
	"slices"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/day"
	"gallipot/internal/core/pantry"
)

// BatchVariance is what a batch cost against its standard.
type BatchVariance struct {
	costing.Variance
	Batch      int64        `json:"batch"`
	Code       string       `json:"code"`
	MadeOn     day.Day      `json:"made_on"`
	Difference amount.Exact `json:"difference"`
}

// VarianceOf is what a batch cost against its standard on the day it was made. Errors: ErrNotFound, and Problem where
// it was not weighed and filled yet.
func (a *Room) VarianceOf(ctx context.Context, id int64) (BatchVariance, error) {
	st := a.On(ctx)
	l, err := a.Load(st, id)
	if err != nil {
		return BatchVariance{}, err
	}
	return a.variance(st, l, map[string]pantry.Ingredient{})
}

// standardOf are the terms of a batch's standard: by the offers of the day it was made, whatever the lots cost that are
// on hand now.
func (a *Room) standardOf(st kernel.Store, l Loaded, behind map[string]pantry.Ingredient) costing.Terms {
	s := l.Book.Settings
	if s.PriceRule == pantry.LotsPrice {
		s.PriceRule = pantry.NewestPrice
	}
	terms, _ := a.Catalog.TermsOn(st, s, l.Book.Steps, behind, l.Row.MadeOn)
	terms.Item = func(id string) *pantry.Ingredient { return l.Lib.Ingredients[id] }
	return terms
}

// variance sets what a batch met against its standard. behind are ingredients behind steps that are known.
func (a *Room) variance(st kernel.Store, l Loaded, behind map[string]pantry.Ingredient) (BatchVariance, error) {
	out := BatchVariance{Batch: l.Row.ID, Code: l.Row.Code, MadeOn: day.Of(l.Row.MadeOn)}
	if !l.Record.Weighed || l.Record.Fill == nil {
		return out, kernel.Refuse("not_filled",
			"What it cost against its standard is known once it is weighed and filled.")
	}
	if len(l.Record.Splits) > 0 {
		return out, kernel.Refuse("split",
			"Part of its bowl went into other jars: what it cost against its standard cannot be told apart.")
	}
	terms := a.standardOf(st, l, behind)
	out.Variance = l.Made().Against(l.name, l.Book.Terms, terms, l.Book.Settings.LabourPerHour)
	out.Difference = out.Variance.Difference()
	return out, nil
}

// FormulaVariances are the last filled batches of a formula against their standards, the oldest first.
type FormulaVariances struct {
	Batches []BatchVariance `json:"batches"`
}

// mostVariances is how many batches stand in the line of a formula.
const mostVariances = 12

// VariancesOf sets the last batches of a formula against their standards.
func (a *Room) VariancesOf(ctx context.Context, id string) (FormulaVariances, error) {
	st := a.On(ctx)
	out := FormulaVariances{Batches: []BatchVariance{}}
	if _, err := st.Formula(id); err != nil {
		return out, err
	}
	rows, err := st.BatchesFilled(id, mostVariances)
	if err != nil || len(rows) == 0 {
		return out, err
	}
	desk, err := a.Judging(st)
	if err != nil {
		return out, err
	}
	list, err := desk.Read(st, rows)
	if err != nil {
		return out, err
	}
	behind := map[string]pantry.Ingredient{}
	for _, l := range list {
		if !l.Record.Weighed || l.Record.Fill == nil || len(l.Record.Splits) > 0 {
			continue
		}
		v, err := a.variance(st, l, behind)
		if err != nil {
			return out, err
		}
		out.Batches = append(out.Batches, v)
	}
	slices.SortStableFunc(out.Batches, func(x, y BatchVariance) int {
		if x.MadeOn != y.MadeOn {
			return cmp.Compare(x.MadeOn, y.MadeOn)
		}
		return int(x.Batch - y.Batch)
	})
	return out, nil
}
