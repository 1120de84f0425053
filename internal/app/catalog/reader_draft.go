package catalog

import (
	"context"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/draft"
	"gallipot/internal/core/formula"
)

// DraftFromRecipe turns a reading into the first draft of a new formula. Lines still to be weighed come with the grams
// that could be worked out, or none, and such a draft cannot be locked. A line without an ingredient, or with an open
// question about what it is, must be answered first, so that nothing is dropped.
func (a *Room) DraftFromRecipe(ctx context.Context, id int64, name string) (SheetView, error) {
	return a.startFormula(ctx, name, func(st kernel.Store, name, by string) (SheetView, error) {
		var out SheetView
		r, err := st.Recipe(id)
		if err != nil {
			return out, err
		}
		b, err := a.ReaderBook(st)
		if err != nil {
			return out, err
		}
		reading := b.Read(r.Words, r.Answers)
		if errs := draft.Undecided(reading); len(errs) > 0 {
			return out, kernel.Mistakes(errs...)
		}
		formulaID, err := newFormula(st, name, by, nil)
		if err != nil {
			return out, err
		}
		s, _, err := a.Settings(st)
		if err != nil {
			return out, err
		}
		v := draft.From(reading, r.Words, formulaID)
		v.LabourPerHour = s.LabourPerHour
		if errs := v.Check(); len(errs) > 0 {
			return out, kernel.Mistakes(errs...)
		}
		if err := st.AddVersion(v, nil, by); err != nil {
			return out, err
		}
		r.Made, r.UpdatedBy = &formula.Ref{Formula: formulaID, Version: 1}, by
		if err := st.SaveRecipe(r, r.Rev); err != nil {
			return out, err
		}
		out, err = a.sheet(st, formula.Ref{Formula: formulaID, Version: 1})
		return out, err
	})
}
