package app

import (
	"context"
	"strings"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/formula"
)

// Formula is a product. Its versions are kept by themselves. Parent names the locked version that a variant is stated
// against; Batches counts what was made of it, Trials its trials.
type Formula struct {
	ID        string
	Name      string
	Retired   bool
	CreatedAt time.Time
	CreatedBy string
	Parent    *formula.Ref
	Batches   int
	Trials    int
	Evidence  []Evidence // of each its kind, days and whether it was withdrawn, where one formula was asked for
}

// Version is a version of a formula as it is kept.
type Version struct {
	FormulaID string
	Name      string // of the formula, where one version was asked for
	Number    int
	Rev       int
	State     string
	Data      formula.Version
	LockedAt  *time.Time
	UpdatedAt time.Time
	UpdatedBy string
}

// Core returns the version with its identity.
func (v Version) Core() formula.Version {
	c := v.Data
	c.Formula, c.Number, c.State = v.FormulaID, v.Number, v.State
	return c
}

// Ref names the version.
func (v Version) Ref() formula.Ref { return formula.Ref{Formula: v.FormulaID, Version: v.Number} }

// FormulaStore keeps formulas and their versions.
type FormulaStore interface {
	Formulas() ([]Formula, error)
	Formula(id string) (Formula, error)
	AddFormula(f Formula) error
	SaveFormula(id, name string, retired bool) error
	SetParent(formulaID string, parent formula.Ref) error
	Versions(formulaID string) ([]Version, error)
	CurrentVersions() ([]Version, error)
	NewestLocked(formulaIDs ...string) ([]Version, error)
	VersionHeads(formulaID string) ([]VersionSummary, error)
	Sheet(ref formula.Ref, d *Desk, named Named) (Sheet, error)
	Version(ref formula.Ref) (Version, error)
	AddVersion(v formula.Version, lockedAt *time.Time, by string) error
	KeepLock(ref formula.Ref, k LockKept) error
	Locks(refs ...formula.Ref) (map[formula.Ref]LockKept, error)
	LocksTouched(day string) ([]LockTouched, error)
	LocksMissing() ([]formula.Ref, error)
	LockVersion(v formula.Version, rev int, lockedAt time.Time, by string) error
	SaveDraft(v formula.Version, rev int, changed any, by Stamp) error
	DropDraft(ref formula.Ref, rev int) error
}

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

// VersionSummary is a version in the list of versions.
type VersionSummary struct {
	Number    int        `json:"version"`
	State     string     `json:"state"`
	From      int        `json:"from"`
	Note      string     `json:"note"`
	LockedAt  *time.Time `json:"locked_at"`
	UpdatedAt time.Time  `json:"updated_at"`
	UpdatedBy string     `json:"updated_by"`
}

// Formulas lists all formulas by name.
func (a *App) Formulas(ctx context.Context) ([]FormulaRow, error) {
	st := a.on(ctx)
	lib, formulas, versions, err := everything(st)
	if err != nil {
		return nil, err
	}
	b, in, err := a.assessing(st, lib)
	if err != nil {
		return nil, err
	}
	newest, locked, component := map[string]Version{}, map[string]int{}, map[string]bool{}
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
			row.Problem = sentence(err.Error())
		} else {
			row.Jars, row.PerJar, row.AtLeast, row.MakeUp, row.PH = p.Jars, p.Cost.PerJar, p.Cost.AtLeast, p.MakeUp,
				p.PH
			row.Allergens, row.Open = p.Allergens[b.law.Regime], len(p.Open)
		}
		out = append(out, row)
	}
	return out, nil
}

// AddFormula starts a formula with an empty first draft.
func (a *App) AddFormula(ctx context.Context, name string) (SheetView, error) {
	return a.startFormula(ctx, name, func(st Store, name, by string) (SheetView, error) {
		var v SheetView
		id, err := newFormula(st, name, by, nil)
		if err != nil {
			return v, err
		}
		s, _, err := a.settings(st)
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

// startFormula is the door through which a new formula is made: with a person, a name, and once.
func (a *App) startFormula(ctx context.Context, name string,
	f func(st Store, name, by string) (SheetView, error)) (SheetView, error) {
	by, err := person(ctx)
	if err != nil {
		return SheetView{}, err
	}
	if name, err = formulaName(name); err != nil {
		return SheetView{}, err
	}
	return once(ctx, a, func(st Store) (SheetView, error) { return f(st, name, by) })
}

// newFormula stores a formula without versions, a variant where it has a parent, and returns its id.
func newFormula(st Store, name, by string, parent *formula.Ref) (string, error) {
	id, err := freshID(name, func(id string) error {
		_, err := st.Formula(id)
		return err
	})
	if err != nil {
		return "", err
	}
	return id, taken(st.AddFormula(Formula{ID: id, Name: name, CreatedBy: by, Parent: parent}), name)
}

func formulaName(name string) (string, error) {
	name = strings.TrimSpace(name)
	if n := len([]rune(name)); n == 0 || n > 120 {
		return "", field("name", "a name has 1 to 120 characters; this has %d", n)
	}
	return name, nil
}

// RenameFormula renames or retires a formula.
func (a *App) RenameFormula(ctx context.Context, id, name string, retired bool) error {
	if _, err := person(ctx); err != nil {
		return err
	}
	name, err := formulaName(name)
	if err != nil {
		return err
	}
	return a.in(ctx, func(st Store) error {
		old, err := st.Formula(id)
		if err != nil {
			return err
		}
		if err := a.retires(ctx, old.Retired, retired); err != nil {
			return err
		}
		return taken(st.SaveFormula(id, name, retired), name)
	})
}
