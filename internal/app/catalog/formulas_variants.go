package catalog

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// Glance is what is shown of a version beside others.
type Glance struct {
	Formula     string         `json:"formula"`
	Name        string         `json:"name"`
	Version     int            `json:"version"`
	State       string         `json:"state"`
	Grams       amount.Grams   `json:"grams"`
	MakeUp      formula.MakeUp `json:"make_up"`
	PerJar      amount.Exact   `json:"per_jar"`
	AtLeast     bool           `json:"at_least"`
	PH          assess.PH      `json:"ph"`
	PHTarget    float64        `json:"ph_target"`
	PHLimit     float64        `json:"ph_limit"`
	Salt        float64        `json:"salt_in_water_percent"`
	Allergens   []string       `json:"allergens"`
	Open        int            `json:"open"` // ingredients that nobody has looked at
	Claims      []string       `json:"claims"`
	Declaration string         `json:"declaration"`
	Keeping     string         `json:"keeping"`
}

func glanceOf(v formula.Version, name string, p assess.Panel, regime law.Regime) Glance {
	g := Glance{Formula: v.Formula, Name: name, Version: v.Number, State: v.State, Grams: p.Grams, MakeUp: p.MakeUp,
		PerJar: p.Cost.PerJar, AtLeast: p.Cost.AtLeast,
		PH: p.PH, PHTarget: v.PHTarget, PHLimit: v.PHLimit, Salt: p.SaltInWater, Allergens: p.Allergens[regime],
		Open: len(p.Open), Claims: p.Claims, Declaration: p.DeclaredList(regime)}
	verdict := p.Keeping[regime]
	switch {
	case verdict.Refused:
		g.Keeping = "refused"
	case verdict.Days != nil:
		g.Keeping = fmt.Sprintf("%s, %d days", verdict.Condition, *verdict.Days)
	default:
		g.Keeping = verdict.Condition
	}
	return g
}

// VariantRow is a member of a family: the parent, or a variant with what differs.
type VariantRow struct {
	Glance
	Lines  []formula.LineDifference `json:"differences"`
	Fields []formula.FieldChange    `json:"settings"`
	Parent *formula.Ref             `json:"parent"`
	// the parent's newest locked version where it moved on, else 0
	Newer int `json:"parent_newer"`
}

// Family is a parent with its variants.
type Family struct {
	Parent   *Glance      `json:"parent"` // nil where the formula stands alone and has nothing locked
	Variants []VariantRow `json:"variants"`
}

// FamilyOf returns the family that a formula belongs to, as parent or as variant.
func (a *Room) FamilyOf(ctx context.Context, id string) (Family, error) {
	st := a.On(ctx)
	f, err := st.Formula(id)
	if err != nil {
		return Family{}, err
	}
	head := id
	if p := f.Parent; p != nil {
		head = p.Formula
	}
	lib, formulas, versions, err := kernel.Everything(st)
	if err != nil {
		return Family{}, err
	}
	b, in, err := a.assessing(st, lib)
	if err != nil {
		return Family{}, err
	}
	newest, locked := newestOf(versions)
	look := func(v formula.Version) (Glance, error) { return glance(v, in, b.Settings.Regime) }
	out := Family{Variants: []VariantRow{}}
	if v, ok := locked[head]; ok {
		g, err := look(v)
		if err != nil {
			return out, err
		}
		out.Parent = &g
	}
	for _, child := range formulas {
		parent := child.Parent
		if parent == nil || parent.Formula != head || child.Retired {
			continue
		}
		v := newest[child.ID]
		g, err := look(v)
		if err != nil {
			return out, err
		}
		row := VariantRow{Glance: g, Parent: parent}
		row.Lines, row.Fields = lib.Differences(lib.Versions[*parent], v)
		if l := locked[head]; l.Number > parent.Version {
			row.Newer = l.Number
		}
		out.Variants = append(out.Variants, row)
	}
	return out, nil
}

// glance assesses a version for its Glance.
func glance(v formula.Version, in assess.Inputs, r law.Regime) (Glance, error) {
	p, err := assess.Version(v, in)
	if err != nil {
		return Glance{}, LineProblem(err)
	}
	return glanceOf(v, in.Library.Name(v.Formula), p, r), nil
}

// newestOf picks the newest version of each formula and the newest locked one. Versions are given oldest first.
func newestOf(versions []kernel.Version) (newest, locked map[string]formula.Version) {
	newest, locked = map[string]formula.Version{}, map[string]formula.Version{}
	for _, v := range versions {
		newest[v.FormulaID] = v.Core()
		if v.State == formula.Locked {
			locked[v.FormulaID] = v.Core()
		}
	}
	return newest, locked
}

// AddVariant starts a formula described by how it differs from a locked version of another.
func (a *Room) AddVariant(ctx context.Context, parent formula.Ref, name string) (SheetView, error) {
	return a.startFormula(ctx, name, func(st kernel.Store, name, by string) (SheetView, error) {
		var out SheetView
		source, err := st.Version(parent)
		if err != nil {
			return out, err
		}
		if source.State != formula.Locked {
			return out, kernel.Mistake("parent", "a variant is stated against a locked version; lock version %d first",
				parent.Version)
		}
		f, err := st.Formula(parent.Formula)
		if err != nil {
			return out, err
		}
		if f.Parent != nil {
			return out, kernel.Mistake("parent", "this is a variant itself; state the new one against its parent")
		}
		id, err := newFormula(st, name, by, &parent)
		if err != nil {
			return out, err
		}
		v := source.Core()
		v.Formula, v.Number, v.From, v.State, v.LockedAt, v.Note = id, 1, 0, formula.Draft, nil, ""
		v.Wording.Names = nil
		if err := st.AddVersion(v, nil, by); err != nil {
			return out, err
		}
		out, err = a.sheet(st, formula.Ref{Formula: id, Version: 1})
		return out, err
	})
}

// RebaseView is what carrying a variant over to its parent's newest version would change.
type RebaseView struct {
	From       formula.Ref        `json:"from"`
	To         formula.Ref        `json:"to"`
	Conflicts  []formula.Conflict `json:"conflicts"`
	Comparison formula.Comparison `json:"comparison"`
	Effect     assess.Effect      `json:"effect"`
	Sheet      *SheetView         `json:"sheet"` // once applied
}

// Rebase shows what changes when a variant is carried over to its parent's newest locked version. Where asked to, it
// does so: the result is the variant's draft.
func (a *Room) Rebase(ctx context.Context, id string, apply bool) (RebaseView, error) {
	if _, err := kernel.Signed(ctx); err != nil {
		return RebaseView{}, err
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (RebaseView, error) {
		var out RebaseView
		f, err := st.Formula(id)
		if err != nil {
			return out, err
		}
		parent := f.Parent
		now, err := movedOn(st, parent)
		if err != nil {
			return out, err
		}
		base, err := st.Version(*parent)
		if err != nil {
			return out, err
		}
		all, err := st.Versions(id)
		if err != nil {
			return out, err
		}
		last := all[len(all)-1]
		own := last.Core()
		lib, err := kernel.Library(st, base.Core(), now, own)
		if err != nil {
			return out, err
		}
		next, conflicts := lib.Rebase(base.Core(), now, own)
		out = RebaseView{From: *parent, To: formula.Ref{Formula: parent.Formula, Version: now.Number},
			Conflicts: conflicts, Comparison: lib.Compare(own, next)}
		if out.Effect, err = a.effect(st, own, next); err != nil {
			return out, err
		}
		if !apply {
			return out, nil
		}
		if err := a.storeRebased(st, last, next, a.Stamp(ctx)); err != nil {
			return out, err
		}
		out.Sheet, err = a.reparent(st, id, out.To)
		return out, err
	})
}

// movedOn is the newest locked version of a variant's parent, if it is newer than the one the variant is based on.
func movedOn(st kernel.Store, parent *formula.Ref) (formula.Version, error) {
	if parent == nil {
		return formula.Version{}, kernel.Mistake("formula", "this formula is no variant")
	}
	now, err := kernel.NewestLocked(st, parent.Formula)
	if err == nil && now.Number <= parent.Version {
		err = kernel.Refuse("nothing_to_rebase", "Its parent has not moved on since version %d.", parent.Version)
	}
	return now, err
}

// reparent bases a variant on another version, and returns its newest sheet.
func (a *Room) reparent(st kernel.Store, id string, to formula.Ref) (*SheetView, error) {
	if err := st.SetParent(id, to); err != nil {
		return nil, err
	}
	newest, err := st.Versions(id)
	if err != nil {
		return nil, err
	}
	s, err := a.sheet(st, newest[len(newest)-1].Ref())
	return &s, err
}

func (a *Room) storeRebased(st kernel.Store, last kernel.Version, next formula.Version, by kernel.Stamp) error {
	next.State, next.LockedAt = formula.Draft, nil
	if last.State == formula.Draft {
		next.Number = last.Number
		if err := a.SaveDraft(st, last, next, by); err != nil {
			return a.versionClash(st, last.Ref(), err)
		}
		return nil
	}
	next.Number, next.From, next.Note = last.Number+1, last.Number, ""
	return st.AddVersion(next, nil, by.By)
}

func (a *Room) effect(st kernel.Store, before, after formula.Version) (assess.Effect, error) {
	f, err := st.Formula(after.Formula)
	if err != nil {
		return assess.Effect{}, err
	}
	in, s, err := a.desk(st, f, after, before)
	if err != nil {
		return assess.Effect{}, err
	}
	x, err := assess.Version(before, in)
	if err != nil {
		return assess.Effect{}, LineProblem(err)
	}
	y, err := assess.Version(after, in)
	if err != nil {
		return assess.Effect{}, LineProblem(err)
	}
	return assess.Compare(x, y, s.Regime), nil
}

// SideView is up to three versions held side by side.
type SideView struct {
	Columns []Glance             `json:"columns"`
	Rows    []formula.SideBySide `json:"rows"`
}

const maxSides = 3

// SideBySide compares up to three versions.
func (a *Room) SideBySide(ctx context.Context, refs []formula.Ref) (SideView, error) {
	out := SideView{Columns: []Glance{}, Rows: []formula.SideBySide{}}
	if len(refs) == 0 || len(refs) > maxSides {
		return out, kernel.Mistake("versions", "choose 1 to %d versions", maxSides)
	}
	st := a.On(ctx)
	var versions []formula.Version
	for i, r := range refs {
		v, err := st.Version(r)
		if errors.Is(err, kernel.ErrNotFound) {
			return out, kernel.Mistake(fmt.Sprintf("versions[%d]", i), "%s is not there", r)
		}
		if err != nil {
			return out, err
		}
		versions = append(versions, v.Core())
	}
	lib, err := kernel.Library(st, versions...)
	if err != nil {
		return out, err
	}
	b, in, err := a.assessing(st, lib)
	if err != nil {
		return out, err
	}
	for _, v := range versions {
		p, err := assess.Version(v, in)
		if err != nil {
			return out, LineProblem(err)
		}
		out.Columns = append(out.Columns, glanceOf(v, lib.Name(v.Formula), p, b.Settings.Regime))
	}
	out.Rows = lib.Align(versions)
	return out, nil
}

// SwapView is a substitution that has not been applied or discarded yet.
type SwapView struct {
	Version      formula.Version `json:"version"` // with the other ingredient
	From         string          `json:"from"`
	To           string          `json:"to"`
	Before       Glance          `json:"before"`
	After        Glance          `json:"after"`
	Effect       assess.Effect   `json:"effect"`
	ClaimsGained []string        `json:"claims_gained"`
	ClaimsLost   []string        `json:"claims_lost"`
	Purpose      string          `json:"purpose_lost"` // what the line did that the other may not
	Spoons       string          `json:"spoons"`       // how the spoon changes, for salts
	GramsBefore  amount.Grams    `json:"grams_before"`
	GramsAfter   amount.Grams    `json:"grams_after"`
}

// Swap shows a version with another ingredient in a line's place; it stores nothing.
func (a *Room) Swap(ctx context.Context, v formula.Version, line, to, keep string) (SwapView, error) {
	st := a.On(ctx)
	if errs := v.Check(); len(errs) > 0 {
		return SwapView{}, kernel.Mistakes(errs...)
	}
	into, err := st.Ingredient(to)
	if errors.Is(err, kernel.ErrNotFound) {
		return SwapView{}, kernel.Mistake("to", "choose another ingredient")
	}
	if err != nil {
		return SwapView{}, err
	}
	f, err := st.Formula(v.Formula)
	if err != nil && !errors.Is(err, kernel.ErrNotFound) {
		return SwapView{}, err
	}
	f.ID = v.Formula
	in, s, err := a.desk(st, f, v)
	if err != nil {
		return SwapView{}, err
	}
	in.Library.Ingredients[to] = &into.Data
	next, err := in.Library.Swap(v, line, to, keep, assess.Titratable)
	var wrong pantry.FieldError
	if errors.As(err, &wrong) {
		return SwapView{}, kernel.Mistakes(wrong)
	}
	if err != nil {
		return SwapView{}, err
	}
	before, err := assess.Version(v, in)
	if err != nil {
		return SwapView{}, LineProblem(err)
	}
	after, err := assess.Version(next, in)
	if err != nil {
		return SwapView{}, LineProblem(err)
	}
	at := slices.IndexFunc(v.Lines, func(l formula.Line) bool { return l.ID == line })
	from := in.Library.Ingredients[v.Lines[at].Ingredient]
	name := in.Library.Name(v.Formula)
	return SwapView{Version: next, From: from.Name, To: into.Name, Before: glanceOf(v, name, before, s.Regime),
		After:  glanceOf(next, name, after, s.Regime),
		Effect: assess.Compare(before, after, s.Regime), ClaimsGained: assess.Without(after.Claims, before.Claims),
		ClaimsLost: assess.Without(before.Claims, after.Claims),
		Purpose:    v.Lines[at].Purpose, Spoons: spoonsOf(*from, into.Data, s.Spoons()), GramsBefore: v.Lines[at].Grams,
		GramsAfter: next.Lines[at].Grams}, nil
}

// spoonsOf says how a spoon of one salt compares with a spoon of another: grams stay, spoons do not (handbook 02).
func spoonsOf(from, to pantry.Ingredient, spoons amount.Spoons) string {
	if !from.Has(pantry.FlagSalt) || !to.Has(pantry.FlagSalt) || from.DensityGPerML <= 0 || to.DensityGPerML <= 0 {
		return ""
	}
	tsp := spoons.Teaspoon
	return fmt.Sprintf(
		"A teaspoon holds %.1f g of %s and %.1f g of %s: the same grams take %.1f teaspoons for each one before.",
		tsp*from.DensityGPerML, from.Name, tsp*to.DensityGPerML, to.Name, from.DensityGPerML/to.DensityGPerML)
}
