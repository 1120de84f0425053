package catalog

import (
	"context"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
)

// FormulaRow is a formula in the list, told by its newest version.
type FormulaRow struct {
	ID        string         `json:"id"`
	Name      string         `json:"name"`
	Retired   bool           `json:"retired"`
	Version   int            `json:"version"`
	State     string         `json:"state"`
	Locked    int            `json:"locked"` // newest locked version, 0 for none
	Style     string         `json:"style"`
	Jars      int            `json:"jars"`
	Fill      amount.Grams   `json:"fill_g"`
	PerJar    amount.Exact   `json:"per_jar"`
	AtLeast   bool           `json:"at_least"`
	MakeUp    formula.MakeUp `json:"make_up"`
	PH        assess.PH      `json:"ph"`
	PHTarget  float64        `json:"ph_target"`
	PHLimit   float64        `json:"ph_limit"`
	Allergens []string       `json:"allergens"`
	Open      int            `json:"open"` // ingredients that nobody has looked at: the allergens are "at least" these
	Batches   int            `json:"batches"`
	Component bool           `json:"component"` // used inside another formula
	Problem   string         `json:"problem"`
}

// Formulas lists all formulas by name.
func (a *Room) Formulas(ctx context.Context) ([]FormulaRow, error) {
	st := a.On(ctx)
	lib, formulas, versions, err := kernel.Everything(st)
	if err != nil {
		return nil, err
	}
	b, in, err := a.assessing(st, lib)
	if err != nil {
		return nil, err
	}
	newest, locked, component := map[string]kernel.Version{}, map[string]int{}, map[string]bool{}
	for _, v := range versions {
		newest[v.FormulaID] = v
		if v.State == formula.Locked {
			locked[v.FormulaID] = v.Number
		}
		for _, l := range v.Data.Lines {
			if l.Component != nil {
				component[l.Component.Formula] = true
			}
		}
	}
	out := make([]FormulaRow, 0, len(formulas))
	for _, f := range formulas {
		v := newest[f.ID].Core()
		row := FormulaRow{ID: f.ID, Name: f.Name, Retired: f.Retired, Version: v.Number, State: v.State,
			Locked: locked[f.ID], Style: v.ProductStyle,
			Fill: v.FillGrams, Batches: f.Batches, Component: component[f.ID], PHTarget: v.PHTarget, PHLimit: v.PHLimit,
			Allergens: []string{}, PH: assess.PH{Missing: []string{}}}
		p, err := assess.Version(v, in)
		if err != nil {
			row.Problem = field.Sentence(err.Error())
		} else {
			row.Jars, row.PerJar, row.AtLeast, row.MakeUp, row.PH = p.Jars, p.Cost.PerJar, p.Cost.AtLeast, p.MakeUp,
				p.PH
			row.Allergens, row.Open = p.Allergens[b.Law.Regime], len(p.Open)
		}
		out = append(out, row)
	}
	return out, nil
}

// AddFormula starts a formula with an empty first draft.
func (a *Room) AddFormula(ctx context.Context, name string) (SheetView, error) {
	return a.startFormula(ctx, name, func(st kernel.Store, name, by string) (SheetView, error) {
		var v SheetView
		id, err := newFormula(st, name, by, nil)
		if err != nil {
			return v, err
		}
		s, _, err := a.Settings(st)
		if err != nil {
			return v, err
		}
		draft := formula.Blank(id)
		draft.LabourPerHour = s.LabourPerHour
		if err := st.AddVersion(draft, nil, by); err != nil {
			return v, err
		}
		v, err = a.sheet(st, formula.Ref{Formula: id, Version: 1})
		return v, err
	})
}

// startFormula is the only way to make a new formula: it needs a person and a name, and happens once for each key.
func (a *Room) startFormula(ctx context.Context, name string,
	f func(st kernel.Store, name, by string) (SheetView, error)) (SheetView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return SheetView{}, err
	}
	if name, err = FormulaName(name); err != nil {
		return SheetView{}, err
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (SheetView, error) { return f(st, name, by) })
}

// newFormula stores a formula without versions, a variant where it has a parent, and returns its id.
func newFormula(st kernel.Store, name, by string, parent *formula.Ref) (string, error) {
	id, err := kernel.FreshID(name, func(id string) error {
		_, err := st.Formula(id)
		return err
	})
	if err != nil {
		return "", err
	}
	return id, Taken(st.AddFormula(kernel.Formula{ID: id, Name: name, CreatedBy: by, Parent: parent}), name)
}

// FormulaName is the name of a formula.
func FormulaName(name string) (string, error) {
	name = strings.TrimSpace(name)
	if n := len([]rune(name)); n == 0 || n > 120 {
		return "", kernel.Mistake("name", "a name has 1 to 120 characters; this has %d", n)
	}
	return name, nil
}

// RenameFormula renames or retires a formula.
func (a *Room) RenameFormula(ctx context.Context, id, name string, retired bool) error {
	if _, err := kernel.Signed(ctx); err != nil {
		return err
	}
	name, err := FormulaName(name)
	if err != nil {
		return err
	}
	return a.In(ctx, func(st kernel.Store) error {
		old, err := st.Formula(id)
		if err != nil {
			return err
		}
		if err := a.Retires(ctx, old.Retired, retired); err != nil {
			return err
		}
		return Taken(st.SaveFormula(id, name, retired), name)
	})
}
