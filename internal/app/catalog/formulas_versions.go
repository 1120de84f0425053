package catalog

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
	"gallipot/internal/core/shop"
)

// LockSheet makes a draft immutable. confirmed holds the keys of the points on the list before the lock that ask but do
// not block; if one is missing, the lock is refused with the list.
func (a *Room) LockSheet(ctx context.Context, ref formula.Ref, rev int, confirmed []string) (SheetView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return SheetView{}, err
	}
	var out SheetView
	err = a.In(ctx, func(st kernel.Store) error {
		row, err := st.Version(ref)
		if err != nil {
			return err
		}
		v := row.Core()
		if err := allWeighed(v); err != nil {
			return err
		}
		f, err := st.Formula(v.Formula)
		if err != nil {
			return err
		}
		in, s, err := a.desk(st, f, v)
		if err != nil {
			return err
		}
		if err := componentsLocked(in.Library, v); err != nil {
			return err
		}
		points, err := beforeLock(v, in, s)
		if err != nil {
			return err
		}
		if err := lockable(points, confirmed); err != nil {
			return err
		}
		if slices.Contains(confirmed, "quid") {
			v.Wording.StressesNothing = true
		}
		now := a.Now().UTC().Truncate(time.Second)
		v.State, v.LockedAt = formula.Locked, &now
		if err := st.LockVersion(v, rev, now, by); err != nil {
			return a.versionClash(st, ref, err)
		}
		if err := a.keepLock(st, v, false, a.Stamp(ctx)); err != nil {
			return err
		}
		out, err = a.sheet(st, ref)
		return err
	})
	return out, err
}

// beforeLock is the list before the lock of a draft.
func beforeLock(v formula.Version, in assess.Inputs, s shop.Settings) ([]assess.Point, error) {
	p, err := assess.Version(v, in)
	if err != nil {
		return nil, LineProblem(err)
	}
	if err := assess.DrivenOff(v, in); err != nil {
		return nil, kernel.MistakeOf(err)
	}
	under, err := law.Of(s.Regime)
	if err != nil {
		return nil, err
	}
	return assess.BeforeLock(v, in.Library.Name(v.Formula), p, under), nil
}

// LockList is the list before a lock, as a refusal carries it.
type LockList struct {
	Points []assess.Point `json:"points"`
}

// lockable refuses a lock if something blocks it, or if something was not confirmed.
func lockable(points []assess.Point, confirmed []string) error {
	var titles []string
	code := "confirm"
	for _, p := range points {
		if p.Blocks {
			code = "blocked"
		}
		if p.Blocks || !slices.Contains(confirmed, p.Key) {
			titles = append(titles, p.Title)
		}
	}
	if len(titles) == 0 {
		return nil
	}
	return kernel.Problem{Kind: kernel.Refused, Code: code, Current: LockList{points},
		Message: fmt.Sprintf("Not locked yet. Look at this first: %s.", strings.Join(titles, "; "))}
}

// BeforeLock returns what is better put right before a draft is locked.
func (a *Room) BeforeLock(ctx context.Context, ref formula.Ref) ([]assess.Point, error) {
	st := a.On(ctx)
	row, err := st.Version(ref)
	if err != nil {
		return nil, err
	}
	v := row.Core()
	f, err := st.Formula(v.Formula)
	if err != nil {
		return nil, err
	}
	in, s, err := a.desk(st, f, v)
	if err != nil {
		return nil, err
	}
	points := []assess.Point{}
	for _, x := range unweighed(v) {
		title := "Weigh " + nameIn(in.Library, x.of)
		if x.of.Ingredient == "" && x.of.Component == nil {
			title = "There is nothing in it"
		}
		points = append(points, assess.Point{Key: x.Field, Blocks: true, Title: title, Text: field.Sentence(x.Message)})
	}
	rest, err := beforeLock(v, in, s)
	return append(points, rest...), err
}

func nameIn(lib formula.Library, l formula.Line) string {
	if l.Component != nil {
		return lib.Name(l.Component.Formula)
	}
	if g := lib.Ingredients[l.Ingredient]; g != nil {
		return g.Name
	}
	return l.Ingredient
}

// unready is a fault that keeps a draft from being locked, and its line.
type unready struct {
	pantry.FieldError
	of formula.Line
}

// unweighed is what a draft may contain but nothing that is cooked from: grams that are missing or guessed.
func unweighed(v formula.Version) []unready {
	var out []unready
	add := func(of formula.Line, at, why string) {
		out = append(out, unready{pantry.FieldError{Field: at, Message: why}, of})
	}
	for i, l := range v.Lines {
		at := fmt.Sprintf("lines[%d].grams", i)
		if !l.Grams.IsPositive() {
			add(l, at, "this line has no grams yet; weigh it or take it out before locking")
		} else if l.Said != nil && l.Said.Source == reader.FromAssumed && l.Grams.Float() == l.Said.Grams {
			add(l, at, "these grams assume that it weighs like water; weigh it before locking")
		}
	}
	for i, t := range v.Toppings {
		if !t.Grams.IsPositive() {
			add(formula.Line{Ingredient: t.Ingredient}, fmt.Sprintf("toppings[%d].grams_per_jar", i),
				"this topping has no grams yet; weigh it or take it out before locking")
		}
	}
	if len(out) == 0 && !v.FinishedGrams().IsPositive() {
		add(formula.Line{}, "lines", "an empty version cannot be locked: enter at least one line with grams")
	}
	return out
}

// allWeighed refuses to lock lines that are not weighed.
func allWeighed(v formula.Version) error {
	var errs []pantry.FieldError
	for _, x := range unweighed(v) {
		errs = append(errs, x.FieldError)
	}
	if len(errs) == 0 {
		return nil
	}
	return kernel.Mistakes(errs...)
}

// NextDraft starts the next version from an existing one. body, where given, is what the maker has typed already.
func (a *Room) NextDraft(ctx context.Context, from formula.Ref, body *formula.Version) (SheetView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return SheetView{}, err
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (SheetView, error) {
		var out SheetView
		source, err := st.Version(from)
		if err != nil {
			return out, err
		}
		all, err := st.Versions(from.Formula)
		if err != nil {
			return out, err
		}
		last := all[len(all)-1]
		if last.State == formula.Draft {
			return out, kernel.Problem{Kind: kernel.Clash, Code: "draft_exists",
				Message: fmt.Sprintf("Version %d is a draft already; go on with that one.", last.Number)}
		}
		v := source.Core()
		if body != nil {
			v = *body
			v.Formula = from.Formula
			if errs := v.Check(); len(errs) > 0 {
				return out, kernel.Mistakes(errs...)
			}
		}
		v.State, v.LockedAt, v.Number, v.From, v.Note = formula.Draft, nil, last.Number+1, from.Version, ""
		if err := st.AddVersion(v, nil, by); err != nil {
			return out, err
		}
		out, err = a.sheet(st, formula.Ref{Formula: from.Formula, Version: v.Number})
		return out, err
	})
}

// DropDraft discards a draft. A formula's first version stays.
func (a *Room) DropDraft(ctx context.Context, ref formula.Ref, rev int) error {
	if _, err := kernel.Signed(ctx); err != nil {
		return err
	}
	return a.In(ctx, func(st kernel.Store) error {
		all, err := st.Versions(ref.Formula)
		if err != nil {
			return err
		}
		if len(all) == 1 {
			return kernel.Refuse("only_version",
				"The only version of a formula cannot be thrown away; retire the formula instead.")
		}
		if err := st.DropDraft(ref, rev); err != nil {
			return a.versionClash(st, ref, err)
		}
		return nil
	})
}

// CompareVersions says what changed between two versions of a formula, and with what effect.
func (a *Room) CompareVersions(ctx context.Context, id string, before, after int) (ComparisonView, error) {
	st := a.On(ctx)
	x, err := st.Version(formula.Ref{Formula: id, Version: before})
	if err != nil {
		return ComparisonView{}, err
	}
	y, err := st.Version(formula.Ref{Formula: id, Version: after})
	if err != nil {
		return ComparisonView{}, err
	}
	lib, err := kernel.Library(st, x.Core(), y.Core())
	if err != nil {
		return ComparisonView{}, err
	}
	out := ComparisonView{Comparison: lib.Compare(x.Core(), y.Core()), Before: before, After: after}
	px, err := a.Panel(st, x.Core())
	if err != nil {
		return out, LineProblem(err)
	}
	py, err := a.Panel(st, y.Core())
	if err != nil {
		return out, LineProblem(err)
	}
	s, _, err := a.Settings(st)
	if err != nil {
		return out, err
	}
	out.Effect = assess.Compare(px, py, s.Regime)
	return out, nil
}

// ComparisonView is two versions side by side.
type ComparisonView struct {
	formula.Comparison
	Before int           `json:"before"`
	After  int           `json:"after"`
	Effect assess.Effect `json:"effect"`
}
