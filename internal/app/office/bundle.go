package office

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
	"gallipot/internal/core/reader"
	"gallipot/internal/core/shop"
)

// The name and version of the bundle format; docs/formats has its schema.
const (
	BundleFormat        = "gallipot-bundle"
	BundleFormatVersion = 2
)

// BundleIngredient is an ingredient in a bundle.
type BundleIngredient struct {
	pantry.Ingredient
	Retired bool `json:"retired,omitempty"`
}

// BundleLabel is a label's size and design in a bundle.
type BundleLabel struct {
	Formula string     `json:"formula"`
	Regime  law.Regime `json:"regime"`
	labelart.Size
	Design *kernel.LabelDesign `json:"design,omitempty"`
}

// Bundle holds formulas with everything they depend on, in one file.
type Bundle struct {
	Format        string             `json:"format"`
	FormatVersion int                `json:"format_version"`
	Shop          shop.Settings      `json:"shop"`
	Ingredients   []BundleIngredient `json:"ingredients"`
	Formulas      []formula.Formula  `json:"formulas"`
	Labels        []BundleLabel      `json:"labels"`

	Measures []BundleMeasure `json:"measures,omitempty"`
	// the shop's own, and typical ones with what it recorded
	Preparations []pantry.Preparation `json:"preparations,omitempty"`
	Trials       []BundleTrial        `json:"trials,omitempty"`
	Recipes      []BundleRecipe       `json:"recipes,omitempty"`
	Words        []reader.Learned     `json:"words,omitempty"` // what the shop's own words mean
}

// BundleMeasure is a measure that the maker weighed.
type BundleMeasure struct {
	Ingredient string    `json:"ingredient"`
	Measure    string    `json:"measure"`
	Weighings  []float64 `json:"weighings"`
	Note       string    `json:"note,omitempty"`
}

// BundleTrial is a trial of a formula in the bundle.
type BundleTrial struct {
	Formula string `json:"formula"`
	formula.Trial
}

// BundleRecipe is a maker's words with the answers.
type BundleRecipe struct {
	Name    string                   `json:"name"`
	Words   string                   `json:"words"`
	Answers map[string]reader.Answer `json:"answers,omitempty"`
	Made    *formula.Ref             `json:"made,omitempty"`
}

// Check lists what is wrong with a bundle beyond its shape: amounts, references, cycles, duplicate names. It stops when
// the context ends, and lists nothing more then.
func (b Bundle) Check(ctx context.Context) []pantry.FieldError {
	var found findings
	found.Under("shop", b.Shop.Check())
	seen := map[string]bool{}
	for i, g := range b.Ingredients {
		at := fmt.Sprintf("ingredients[%d]", i)
		if g.ID == "" || seen[g.ID] {
			found.Bad(at+".id", "every ingredient needs an id of its own (%q)", g.ID)
		}
		seen[g.ID] = true
		found.Under(at, g.Check())
	}
	ids := map[string]bool{}
	lib := b.library()
	for i, f := range b.Formulas {
		at := fmt.Sprintf("formulas[%d]", i)
		if f.ID == "" || ids[f.ID] {
			found.Bad(at+".id", "every formula needs an id of its own (%q)", f.ID)
		}
		ids[f.ID] = true
		found.formula(ctx, at, f, lib)
	}
	if ctx.Err() != nil {
		return found.Errors
	}
	b.checkKitchen(seen, ids, &found)
	for i, l := range b.Labels {
		at := fmt.Sprintf("labels[%d]", i)
		if !ids[l.Formula] {
			found.Bad(at+".formula", "no formula %q in this bundle", l.Formula)
		}
		if err := l.Size.Check(); err != nil {
			found.Bad(at+".width_mm", "%s", err.Error())
		}
		if _, err := law.Of(l.Regime); err != nil {
			found.Bad(at+".regime", "%s", err.Error())
		}
	}
	return found.Errors
}

// findings are the mistakes of a bundle, each at its place.
type findings struct{ field.Errors }

// formula checks one formula with its versions. It stops when the request is cancelled.
func (found *findings) formula(ctx context.Context, at string, f formula.Formula, lib formula.Library) {
	if _, err := catalog.FormulaName(f.Name); err != nil {
		found.Bad(at+".name", "a name has 1 to 120 characters")
	}
	if len(f.Versions) == 0 {
		found.Bad(at+".versions", "a formula has at least one version")
	}
	drafts := 0
	for j, v := range f.Versions {
		if ctx.Err() != nil {
			return
		}
		at := fmt.Sprintf("%s.versions[%d]", at, j)
		if v.State == formula.Draft {
			drafts++
		}
		if v.Formula != f.ID || v.Number < 1 || j > 0 && v.Number <= f.Versions[j-1].Number {
			found.Bad(at, "versions carry their formula's id and rising numbers")
		}
		found.Under(at, v.Check())
		var apart kernel.Problem
		if errors.As(catalog.PackApart(lib, v), &apart) {
			found.Under(at, apart.Fields)
		}
		for k, l := range v.Lines {
			if l.Component != nil && lib.Versions[*l.Component].State == formula.Draft {
				found.Bad(fmt.Sprintf("%s.lines[%d]", at, k), "a component must be a locked version; %s is a draft",
					l.Component)
			}
		}
		if _, err := lib.Expand(v); err != nil {
			var line formula.LineError
			if errors.As(err, &line) {
				at = fmt.Sprintf("%s.lines[%d]", at, line.Line)
				err = line.Err
			}
			found.Bad(at, "%s", err.Error())
		}
	}
	if drafts > 1 {
		found.Bad(at+".versions", "a formula has at most one draft")
	}
}

func (b Bundle) library() formula.Library {
	lib := formula.Library{Ingredients: map[string]*pantry.Ingredient{}, Versions: map[formula.Ref]formula.Version{},
		Names: map[string]string{}}
	for i := range b.Ingredients {
		lib.Ingredients[b.Ingredients[i].ID] = &b.Ingredients[i].Ingredient
	}
	for _, f := range b.Formulas {
		lib.Names[f.ID] = f.Name
		for _, v := range f.Versions {
			lib.Versions[formula.Ref{Formula: f.ID, Version: v.Number}] = v
		}
	}
	return lib
}

// Export gathers the whole shop into a bundle.
func (a *Room) Export(ctx context.Context) (Bundle, error) {
	st := a.On(ctx)
	b := Bundle{Format: BundleFormat, FormatVersion: BundleFormatVersion, Ingredients: []BundleIngredient{},
		Formulas: []formula.Formula{}, Labels: []BundleLabel{}}
	var err error
	b.Shop, _, err = a.Settings(st)
	b.Shop.Devices = nil // where its devices are is no part of what is shared
	b.Shop = b.Shop.Own()
	if err != nil {
		return b, err
	}
	rows, err := st.Ingredients()
	if err != nil {
		return b, err
	}
	for _, r := range rows {
		g := r.Data
		for i := range g.Offers {
			g.Offers[i].ID = "" // a row's number means nothing elsewhere
		}
		b.Ingredients = append(b.Ingredients, BundleIngredient{g, r.Retired})
	}
	formulas, err := st.Formulas()
	if err != nil {
		return b, err
	}
	for _, f := range formulas {
		versions, err := st.Versions(f.ID)
		if err != nil {
			return b, err
		}
		out := formula.Formula{ID: f.ID, Name: f.Name, Retired: f.Retired, Parent: f.Parent}
		for _, v := range versions {
			out.Versions = append(out.Versions, v.Core())
		}
		b.Formulas = append(b.Formulas, out)
	}
	labels, err := st.Labels()
	if err != nil {
		return b, err
	}
	for _, l := range labels {
		b.Labels = append(b.Labels, BundleLabel{l.FormulaID, l.Regime,
			labelart.Size{WidthMM: l.WidthMM, HeightMM: l.HeightMM}, &l.Design})
	}
	return b, exportKitchen(st, &b)
}

// ImportPlan says what a bundle would do, or did: what is new, the same or different, and what forbids the import.
type ImportPlan struct {
	New       []string `json:"new"`
	Same      int      `json:"same"`
	Different []string `json:"different"`
	Forbidden []string `json:"forbidden"`
	Applied   bool     `json:"applied"`
}

// Import plans a bundle and, where asked, applies it: all or nothing. A locked version that differs from the shop's
// forbids it. Settings are taken over only if the shop is not set up yet.
func (a *Room) Import(ctx context.Context, b Bundle, apply bool) (ImportPlan, error) {
	plan := ImportPlan{New: []string{}, Different: []string{}, Forbidden: []string{}}
	if err := kernel.May(ctx, people.Owner, "Taking a bundle in"); err != nil {
		return plan, err
	}
	by := a.Stamp(ctx)
	if errs := b.Check(ctx); len(errs) > 0 {
		return plan, kernel.Mistakes(errs...)
	}
	if err := ctx.Err(); err != nil {
		return plan, err
	}
	var err error
	if !apply { // done and rolled back, so that the plan is what would happen
		err = a.In(ctx, func(st kernel.Store) error {
			if err := a.importAll(ctx, st, b, &plan, by, false); err != nil {
				return err
			}
			return errPlanned
		})
		if errors.Is(err, errPlanned) {
			err = nil
		}
		return plan, err
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (ImportPlan, error) {
		if err := a.importAll(ctx, st, b, &plan, by, true); err != nil {
			return plan, err
		}
		if len(plan.Forbidden) > 0 {
			return plan, kernel.Refuse("locked_differs", "Nothing was imported. %s.", plan.Forbidden[0])
		}
		plan.Applied = true
		if err := a.importLabels(st, b, by); err != nil {
			return plan, err
		}
		return plan, a.Production.JudgeThose(ctx, st, production.Every)
	})
}

func (a *Room) importAll(ctx context.Context, st kernel.Store, b Bundle, plan *ImportPlan, by kernel.Stamp,
	apply bool) error {
	if err := a.importShop(st, b, by, apply); err != nil {
		return err
	}
	parts := []func(kernel.Store, Bundle, *ImportPlan, kernel.Stamp) error{importIngredients, a.importFormulas,
		importKitchen, a.importWords}
	there, err := st.Versions("")
	if err != nil {
		return err
	}
	guard := a.Release.Guarded
	if len(there) == 0 { // nothing is made of anything yet: what the bundle brings was gained by nobody
		guard = func(_ context.Context, _ kernel.Store, act func() error) error { return act() }
	}
	err = guard(ctx, st, func() error {
		for _, part := range parts {
			if err := ctx.Err(); err != nil {
				return err
			}
			if err := part(st, b, plan, by); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	return a.Catalog.KeepMissing(st, false, by)
}

// errPlanned rolls back an import that was only planned.
var errPlanned = errors.New("planned only")

func (a *Room) importShop(st kernel.Store, b Bundle, by kernel.Stamp, apply bool) error {
	var have shop.Settings
	if _, err := st.Shop(&have); !errors.Is(err, kernel.ErrNotFound) || !apply {
		return nil
	}
	return st.AddShop(b.Shop.Own(), by.By)
}

func (a *Room) importFormulas(st kernel.Store, b Bundle, plan *ImportPlan, by kernel.Stamp) error {
	for _, f := range b.Formulas {
		_, err := st.Formula(f.ID)
		if errors.Is(err, kernel.ErrNotFound) {
			plan.New = append(plan.New, f.Name)
			if err := st.AddFormula(kernel.Formula{ID: f.ID, Name: f.Name, Retired: f.Retired,
				CreatedBy: by.By}); err != nil {
				return catalog.Taken(err, f.Name)
			}
		} else if err != nil {
			return err
		}
		for _, v := range f.Versions {
			if err := a.importVersion(st, f, v, plan, by); err != nil {
				return err
			}
		}
	}
	for _, f := range b.Formulas { // once all versions are there
		if f.Parent == nil {
			continue
		}
		if err := st.SetParent(f.ID, *f.Parent); err != nil {
			return err
		}
	}
	return nil
}

func (a *Room) importVersion(st kernel.Store, f formula.Formula, v formula.Version, plan *ImportPlan,
	by kernel.Stamp) error {
	name := fmt.Sprintf("%s version %d", f.Name, v.Number)
	old, err := st.Version(formula.Ref{Formula: f.ID, Version: v.Number})
	switch {
	case errors.Is(err, kernel.ErrNotFound):
		plan.New = append(plan.New, name)
		if err := st.AddVersion(v, v.LockedAt, by.By); errors.Is(err, kernel.ErrTaken) {
			plan.Forbidden = append(plan.Forbidden, f.Name+" has a draft here already")
			return kernel.Refuse("draft_exists",
				"Nothing was imported. %s has a draft here already; lock it or throw it away first.", f.Name)
		} else if err != nil {
			return err
		}
	case err != nil:
		return err
	case match.SameJSON(old.Core(), v):
		plan.Same++
	case old.State == formula.Locked:
		plan.Forbidden = append(plan.Forbidden, name+" is locked here and differs")
	default:
		plan.Different = append(plan.Different, name)
		if v.State == formula.Locked && v.LockedAt != nil {
			return st.LockVersion(v, old.Rev, *v.LockedAt, by.By)
		}
		return a.SaveDraft(st, old, v, by)
	}
	return nil
}

func (a *Room) importLabels(st kernel.Store, b Bundle, by kernel.Stamp) error {
	have, err := st.Labels()
	if err != nil {
		return err
	}
	for _, l := range b.Labels {
		if slices.ContainsFunc(have, func(x kernel.Label) bool {
			return x.FormulaID == l.Formula &&
				x.Regime == l.Regime
		}) {
			continue
		}
		v, err := kernel.NewestLocked(st, l.Formula)
		if err != nil {
			return err
		}
		under, err := law.Of(l.Regime)
		if err != nil {
			return kernel.Mistake("labels", "%s", err.Error())
		}
		row := kernel.Label{FormulaID: l.Formula, Regime: l.Regime, WidthMM: l.WidthMM, HeightMM: l.HeightMM,
			Version: v.Number, UpdatedBy: by.By}
		if l.Design != nil {
			row.Design = *l.Design
		}
		if row.Facts, err = a.Release.LabelFacts(st, v, row, under); err != nil {
			return err
		}
		if err := st.AddLabel(&row); err != nil {
			return err
		}
	}
	return nil
}

// importWords takes over the meanings of the shop's own words. One that would hide an allergen is refused, just as if
// it had been typed.
func (a *Room) importWords(st kernel.Store, b Bundle, plan *ImportPlan, by kernel.Stamp) error {
	if len(b.Words) == 0 {
		return nil
	}
	book, err := a.Catalog.ReaderBook(st)
	if err != nil {
		return err
	}
	rows, err := st.ShopWords()
	if err != nil {
		return err
	}
	for i, x := range b.Words {
		x.ID = 0
		if hidden := book.Hides(x); len(hidden) > 0 {
			return kernel.Mistake(fmt.Sprintf("words[%d]", i), "“%s” brings %s, and what it would mean does not",
				x.Words,
				strings.Join(hidden, ", "))
		}
		at := slices.IndexFunc(rows, func(w kernel.ShopWord) bool { return w.Same(x) })
		if at < 0 {
			plan.New = append(plan.New, "word "+x.Words)
		} else {
			w := rows[at].Learned
			if w.ID = 0; w == x {
				plan.Same++
				continue
			}
			plan.Different = append(plan.Different, "word "+x.Words)
			if err := st.DropShopWord(rows[at].ID, "replaced by a bundle", by); err != nil {
				return err
			}
		}
		if err := st.AddShopWord(&kernel.ShopWord{Learned: x, By: by.By, At: by.At}); err != nil {
			return err
		}
	}
	return nil
}
