package catalog

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/day"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pack"
	"gallipot/internal/core/shop"
)

// SheetView is a version with its live panel. Effect is what the last edit changed.
type SheetView struct {
	Formula  string                  `json:"formula"`
	Name     string                  `json:"name"`
	Rev      int                     `json:"rev"`
	Version  formula.Version         `json:"version"`
	Panel    assess.Panel            `json:"panel"`
	Effect   *assess.Effect          `json:"effect"`
	Versions []kernel.VersionSummary `json:"versions"`
	Problem  string                  `json:"problem"`

	Recompute []Recompute  `json:"recompute"` // lines that a measure weighed since would change
	Parent    *formula.Ref `json:"parent"`    // of a variant
	Trials    int          `json:"trials"`

	JarFill pack.Fullness `json:"jar_fill"` // of the jar that the version names
}

// Sheet returns a version with its panel; number 0 is the newest.
func (a *Room) Sheet(ctx context.Context, ref formula.Ref) (SheetView, error) {
	st := a.On(ctx)
	if ref.Version == 0 {
		versions, err := st.VersionHeads(ref.Formula)
		if err != nil {
			return SheetView{}, err
		}
		if len(versions) == 0 {
			return SheetView{}, fmt.Errorf("formula %q: %w", ref.Formula, kernel.ErrNotFound)
		}
		ref.Version = versions[len(versions)-1].Number
	}
	return a.sheet(st, ref)
}

func (a *Room) sheet(st kernel.Store, ref formula.Ref) (SheetView, error) {
	d := kernel.NewDesk()
	s, err := st.Sheet(ref, &d, kernel.Named{})
	if err != nil {
		return SheetView{}, err
	}
	v, err := a.sheetHead(st, s.Formula, d.Settings, s.Heads, s.Version.Core(), s.Version.Rev)
	if err != nil {
		return v, err
	}
	in, err := a.inputs(st, d, s.Formula, v.Version)
	if err != nil {
		return v, err
	}
	if in.Library, err = Frozen(st, in.Library, v.Version); err != nil {
		return v, err
	}
	v.Panel, err = assess.Version(v.Version, in)
	if isMistake(err) {
		v.Problem = field.Sentence(err.Error())
		err = nil
	}
	return v, err
}

// sheetHead is the view of a version without its panel.
func (a *Room) sheetHead(st kernel.Store, f kernel.Formula, s shop.Settings, versions []kernel.VersionSummary,
	version formula.Version,
	rev int) (SheetView, error) {
	s.Jars = shop.WithJars(s.Jars)
	v := SheetView{Formula: f.ID, Name: f.Name, Rev: rev, Version: version, Versions: versions, Parent: f.Parent,
		Trials: f.Trials, JarFill: s.Jar(version.Jar).Filled(version.FillVolume())}
	var err error
	v.Recompute, err = a.recomputes(st, v.Version)
	return v, err
}

// isMistake reports whether an error of the core was caused by what the version refers to.
func isMistake(err error) bool {
	var line formula.LineError
	var ways formula.TooManyWaysError
	return errors.As(err, &line) || errors.As(err, &ways)
}

// desk loads what is needed to assess these versions of one formula.
func (a *Room) desk(st kernel.Store, f kernel.Formula, versions ...formula.Version) (assess.Inputs, shop.Settings,
	error) {
	d := kernel.NewDesk()
	if err := st.Desk(&d, kernel.NamedBy(versions...)); err != nil {
		return assess.Inputs{}, shop.Settings{}, err
	}
	in, err := a.inputs(st, d, f, versions...)
	return in, d.Settings, err
}

// inputs adds to a desk whatever is still needed to assess these versions of one formula.
func (a *Room) inputs(st kernel.Store, d kernel.Desk, f kernel.Formula, versions ...formula.Version) (assess.Inputs,
	error) {
	b, err := a.bookOf(st, d)
	if err != nil {
		return assess.Inputs{}, err
	}
	d.Library.Names[f.ID] = f.Name
	if err := kernel.Extend(st, &d.Library, versions...); err != nil {
		return assess.Inputs{}, err
	}
	if d.MadeIn == nil {
		if d.MadeIn, err = st.MadeIn(f.ID); err != nil {
			return assess.Inputs{}, err
		}
	}
	return assess.Inputs{Library: d.Library, Terms: b.Terms, Made: b.Settings.MadeIn(d.MadeIn), Rules: b.Rules,
		Documents: kernel.InForce(f.Evidence)}, nil
}

// Panel works out the live panel of a version.
func (a *Room) Panel(st kernel.Store, v formula.Version) (assess.Panel, error) {
	f, err := st.Formula(v.Formula)
	if err != nil {
		return assess.Panel{}, err
	}
	in, _, err := a.desk(st, f, v)
	if err != nil {
		return assess.Panel{}, err
	}
	if in.Library, err = Frozen(st, in.Library, v); err != nil {
		return assess.Panel{}, err
	}
	return assess.Version(v, in)
}

// LineProblem reports an error of expansion at the line it came from.
func LineProblem(err error) error {
	var line formula.LineError
	if !errors.As(err, &line) {
		var ways formula.TooManyWaysError
		if errors.As(err, &ways) {
			return kernel.Mistake("lines", "%s", ways.Error())
		}
		var onTop formula.MissingError
		if errors.As(err, &onTop) {
			return kernel.Mistake("toppings", "%s is not there", onTop.What)
		}
		return err
	}
	name := fmt.Sprintf("lines[%d]", line.Line)
	var missing formula.MissingError
	if errors.As(err, &missing) {
		return kernel.Mistake(name, "%s is not there", missing.What)
	}
	return kernel.Mistake(name, "%s", line.Err.Error())
}

// measured notes who measured a changed density, and when.
func (a *Room) measured(v, old formula.Version, by string, s shop.Settings) formula.Version {
	switch {
	case v.DensityGPerML == old.DensityGPerML:
		v.DensityBy, v.DensityOn = old.DensityBy, old.DensityOn
	case v.DensityGPerML > 0:
		v.DensityBy, v.DensityOn = by, day.Of(a.TodayIn(s))
	default:
		v.DensityBy, v.DensityOn = "", ""
	}
	return v
}

// SaveSheet stores a draft over revision rev, and returns it with its panel and the effect of the edit. A mistake
// stores nothing. It runs for every gram that is typed, so everything is read once, and the only write is a single
// statement, a transaction of its own.
func (a *Room) SaveSheet(ctx context.Context, v formula.Version, rev int) (SheetView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return SheetView{}, err
	}
	if errs := v.Check(); len(errs) > 0 {
		return SheetView{}, kernel.Mistakes(errs...)
	}
	st, ref := a.On(ctx), formula.Ref{Formula: v.Formula, Version: v.Number}
	d := kernel.NewDesk()
	sheet, err := st.Sheet(ref, &d, kernel.NamedBy(v))
	if err != nil {
		return SheetView{}, err
	}
	old := sheet.Version.Core()
	v.State, v.LockedAt, v.From = formula.Draft, nil, old.From
	in, err := a.inputs(st, d, sheet.Formula, v, old)
	if err != nil {
		return SheetView{}, err
	}
	v = a.measured(v, old, by, d.Settings).Filled()
	v = styled(v, sheet.Formula.Name, in)
	after, err := assessDraft(v, in)
	if err != nil {
		return SheetView{}, err
	}
	differs := kernel.Changed(in.Library, old, v)
	before := make(chan *assess.Panel, 1)
	go func() { before <- assessed(old, in) }() // while the database writes
	if err := st.SaveDraft(v, rev, differs, a.Stamp(ctx)); err != nil {
		return SheetView{}, a.versionClash(st, ref, err)
	}
	for i := range sheet.Heads {
		if h := &sheet.Heads[i]; h.Number == v.Number {
			h.Note, h.UpdatedAt, h.UpdatedBy = v.Note, a.Now(), by
		}
	}
	was := <-before
	out, err := a.sheetHead(st, sheet.Formula, d.Settings, sheet.Heads, v, rev+1)
	if err != nil {
		return out, err
	}
	out.Panel = after
	if was != nil {
		e := assess.Compare(*was, after, d.Settings.Regime)
		out.Effect = &e
	}
	return out, nil
}

// styled sets a version's styles from what is in it, unless the maker has chosen them.
func styled(v formula.Version, name string, in assess.Inputs) formula.Version {
	nodes, err := in.Library.Expand(v)
	if !v.StyleByLines || err != nil {
		return v // what cannot be expanded is told by assessing it
	}
	leaves, _ := formula.Leaves(nodes)
	return assess.Styled(v, name, leaves)
}

// assessed is the panel of a version, or nil where it cannot be assessed.
func assessed(v formula.Version, in assess.Inputs) *assess.Panel {
	p, err := assess.Version(v, in)
	if err != nil {
		return nil
	}
	return &p
}

// assessDraft assesses what a maker typed, and refuses what a draft may not hold.
func assessDraft(v formula.Version, in assess.Inputs) (assess.Panel, error) {
	if err := componentsLocked(in.Library, v); err != nil {
		return assess.Panel{}, err
	}
	p, err := assess.Version(v, in)
	if err != nil {
		return p, LineProblem(err)
	}
	if errs := in.Library.CheckScaling(v); len(errs) > 0 {
		return p, kernel.Mistakes(errs...)
	}
	if err := assess.DrivenOff(v, in); err != nil {
		return p, kernel.MistakeOf(err)
	}
	if err := PackApart(in.Library, v); err != nil {
		return p, err
	}
	return p, groupsThere(in.Library, v)
}

// PackApart refuses packaging among the lines, and food among the packaging.
func PackApart(lib formula.Library, v formula.Version) error {
	packs := func(id string) bool { g := lib.Ingredients[id]; return g != nil && g.IsPackaging() }
	for i, l := range v.Lines {
		if packs(l.Ingredient) || slices.ContainsFunc(l.AnyOf, packs) {
			return kernel.Mistake(fmt.Sprintf("lines[%d]", i), "a part of the pack stands under Pack, not in the bowl")
		}
	}
	for i, t := range v.Toppings {
		if packs(t.Ingredient) {
			return kernel.Mistake(fmt.Sprintf("toppings[%d].ingredient", i), "a part of the pack stands under Pack")
		}
	}
	for i, p := range v.Packaging {
		if p.Item != "" && !packs(p.Item) {
			return kernel.Mistake(fmt.Sprintf("packaging[%d].item", i), "choose a part of the pack from the pantry")
		}
	}
	return nil
}

// groupsThere refuses groups that name an ingredient the pantry does not have.
func groupsThere(lib formula.Library, v formula.Version) error {
	for _, i := range v.Groups() {
		for _, id := range v.Lines[i].AnyOf {
			if lib.Ingredients[id] == nil {
				return kernel.Mistake(fmt.Sprintf("lines[%d].any_of", i), "there is no ingredient %q", field.Clip(id))
			}
		}
	}
	return nil
}

// componentsLocked refuses lines that use a draft: a component is a locked version.
func componentsLocked(lib formula.Library, v formula.Version) error {
	for i, l := range v.Lines {
		if l.Component == nil {
			continue
		}
		c, there := lib.Versions[*l.Component]
		if !there {
			return kernel.Mistake(fmt.Sprintf("lines[%d]", i), "%s is not there", l.Component)
		}
		if c.State != formula.Locked && l.Component.Formula != v.Formula {
			return kernel.Mistake(fmt.Sprintf("lines[%d]", i),
				"a component must be a locked version; lock version %d of it first", l.Component.Version)
		}
	}
	return nil
}

// versionClash says what happened to a version in the meantime, with the other side's state.
func (a *Room) versionClash(st kernel.Store, ref formula.Ref, err error) error {
	if !errors.Is(err, kernel.ErrConflict) && !errors.Is(err, kernel.ErrLocked) {
		return err
	}
	current, err := a.sheet(st, ref)
	if err != nil {
		return err
	}
	who := ""
	for _, x := range current.Versions {
		if x.Number == ref.Version {
			who = x.UpdatedBy
		}
	}
	if current.Version.State == formula.Locked {
		return kernel.Problem{Kind: kernel.Clash, Code: "locked_meanwhile", Current: current,
			Message: fmt.Sprintf(
				"Version %d was locked meanwhile by %s. It never changes now; what you typed can go into the next draft.", ref.Version, who)}
	}
	return kernel.Problem{Kind: kernel.Clash, Code: "changed_meanwhile", Current: current,
		Message: fmt.Sprintf("Version %d was changed meanwhile by %s. What you typed is kept here until you choose.",
			ref.Version, who)}
}
