package catalog

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/day"
	"gallipot/internal/core/field"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pantry"
)

// PreparationView is a kitchen step with what to expect of it and what its outputs cost.
type PreparationView struct {
	pantry.Preparation
	Rev        int           `json:"rev"` // 0 for a typical step that the shop has not touched
	InputName  string        `json:"input_name"`
	OutputName string        `json:"output_name"`
	CoName     string        `json:"co_output_name"`
	Expected   pantry.Yield  `json:"expected"`
	InPerKg    *amount.Exact `json:"in_per_kg"`
	OutPerKg   *amount.Exact `json:"out_per_kg"`
	CoPerKg    *amount.Exact `json:"co_per_kg"`
}

// Steps merges the typical steps with the shop's own. A stored step replaces the typical one of the same id.
func (a *Room) Steps(st kernel.Store) ([]pantry.Preparation, map[string]int, error) {
	rows, err := st.Preparations()
	if err != nil {
		return nil, nil, err
	}
	all, revs := a.StepsAmong(rows)
	return all, revs, nil
}

// Preparations lists the steps by what goes in.
func (a *Room) Preparations(ctx context.Context) ([]PreparationView, error) {
	return a.preparationViews(a.On(ctx), func(pantry.Preparation) bool { return true })
}

// Preparation returns one.
func (a *Room) Preparation(ctx context.Context, id string) (PreparationView, error) {
	return a.preparationView(a.On(ctx), id)
}

func (a *Room) preparationView(st kernel.Store, id string) (PreparationView, error) {
	list, err := a.preparationViews(st, func(p pantry.Preparation) bool { return p.ID == id })
	if err != nil {
		return PreparationView{}, err
	}
	if len(list) == 0 {
		return PreparationView{}, fmt.Errorf("preparation %q: %w", id, kernel.ErrNotFound)
	}
	return list[0], nil
}

// preparationViews returns the views of the steps that are wanted; of the pantry it reads only what these name.
func (a *Room) preparationViews(st kernel.Store, wanted func(pantry.Preparation) bool) ([]PreparationView, error) {
	steps, revs, err := a.Steps(st)
	if err != nil {
		return nil, err
	}
	steps = slices.DeleteFunc(slices.Clone(steps), func(p pantry.Preparation) bool { return !wanted(p) })
	out := []PreparationView{}
	if len(steps) == 0 {
		return out, nil
	}
	b, err := a.Book(st)
	if err != nil {
		return nil, err
	}
	var ids []string
	for _, p := range steps {
		ids = append(ids, p.Names()...)
	}
	slices.Sort(ids)
	rows, err := st.Ingredients(slices.Compact(ids)...)
	if err != nil {
		return nil, err
	}
	shelf := pricedShelf{map[string]pantry.Ingredient{}, b.Terms.Rate}
	for _, r := range rows {
		shelf.ingredients[r.ID] = r.Data
	}
	for _, p := range steps {
		out = append(out, shelf.view(p, revs[p.ID]))
	}
	slices.SortStableFunc(out, func(x, y PreparationView) int {
		if c := strings.Compare(strings.ToLower(x.InputName), strings.ToLower(y.InputName)); c != 0 {
			return c
		}
		return strings.Compare(x.Name, y.Name)
	})
	return out, nil
}

// pricedShelf is the pantry with what its things cost.
type pricedShelf struct {
	ingredients map[string]pantry.Ingredient
	rate        costing.Rate
}

func (s pricedShelf) name(id string) string {
	if g, ok := s.ingredients[id]; ok {
		return g.Name
	}
	return id
}

// perKg is nil where no price is known.
func (s pricedShelf) perKg(id string) *amount.Exact {
	g, ok := s.ingredients[id]
	if !ok {
		return nil
	}
	c, err := s.rate(&g, "")
	if err != nil {
		return nil
	}
	x := c.PerGram.Times(match.GramsInKilo)
	return &x
}

func (s pricedShelf) view(p pantry.Preparation, rev int) PreparationView {
	v := PreparationView{Preparation: p, Rev: rev, InputName: s.name(p.Input), OutputName: s.name(p.Output),
		Expected: p.Expected(), InPerKg: s.perKg(p.Input)}
	if p.CoOutput != "" {
		v.CoName = s.name(p.CoOutput)
	}
	if v.InPerKg == nil {
		return v
	}
	extra := func(id string) amount.Exact {
		if c := s.perKg(id); c != nil {
			return *c
		}
		return amount.Exact{}
	}
	out := p.OutCost(*v.InPerKg, extra)
	v.OutPerKg = &out
	if p.CoOutput != "" {
		co := p.CoCost(*v.InPerKg, extra)
		v.CoPerKg = &co
	}
	return v
}

// SavePreparation stores a step: a new one if its id is empty, otherwise over revision rev. Revision 0 is a typical
// step that is changed for the first time.
func (a *Room) SavePreparation(ctx context.Context, p pantry.Preparation, rev int) (PreparationView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return PreparationView{}, err
	}
	p.Name = strings.TrimSpace(p.Name)
	if errs := p.Check(); len(errs) > 0 {
		return PreparationView{}, kernel.Mistakes(errs...)
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (PreparationView, error) {
		if err := a.ingredientsThere(st, p); err != nil {
			return PreparationView{}, err
		}
		_, revs, err := a.Steps(st)
		if err != nil {
			return PreparationView{}, err
		}
		if p.ID == "" {
			if p.ID, err = a.freshStep(st, p.Input+" "+p.Name); err != nil {
				return PreparationView{}, err
			}
			p.Typical = false
		}
		var out PreparationView
		err = a.Guard.Guarded(ctx, st, func() error {
			if out, err = a.storeStep(st, p, rev, revs, by); err != nil {
				return err
			}
			return a.onlyPreferred(st, p, by)
		})
		if err == nil {
			err = a.judgeMade(ctx, st, p)
		}
		return out, err
	})
}

// judgeMade re-judges the batches that contain what a step makes, since hazards pass from what goes in to what comes
// out.
func (a *Room) judgeMade(ctx context.Context, st kernel.Store, p pantry.Preparation) error {
	for _, id := range []string{p.Output, p.CoOutput} {
		if id == "" {
			continue
		}
		if err := a.JudgeIngredient(ctx, st, id); err != nil {
			return err
		}
	}
	return nil
}

func (a *Room) freshStep(st kernel.Store, name string) (string, error) {
	steps, _, err := a.Steps(st)
	if err != nil {
		return "", err
	}
	return kernel.FreshID(name, func(id string) error {
		if slices.ContainsFunc(steps, func(p pantry.Preparation) bool { return p.ID == id }) {
			return nil
		}
		return kernel.ErrNotFound
	})
}

func (a *Room) storeStep(st kernel.Store, p pantry.Preparation, rev int, revs map[string]int,
	by string) (PreparationView,
	error) {
	var err error
	switch have := revs[p.ID]; {
	case have == 0 && rev == 0:
		err = st.AddPreparation(kernel.Preparation{ID: p.ID, Data: p, UpdatedBy: by})
		if errors.Is(err, kernel.ErrTaken) {
			err = kernel.ErrConflict
		}
	default:
		err = st.SavePreparation(kernel.Preparation{ID: p.ID, Data: p, UpdatedBy: by}, rev)
	}
	if errors.Is(err, kernel.ErrConflict) {
		current, err := a.preparationView(st, p.ID)
		if err != nil {
			return PreparationView{}, err
		}
		return PreparationView{}, kernel.Problem{Kind: kernel.Clash, Code: "changed_meanwhile",
			Message: "This preparation was changed meanwhile; what you typed is kept here until you choose.",
			Current: current}
	}
	if err != nil {
		return PreparationView{}, err
	}
	return a.preparationView(st, p.ID)
}

// onlyPreferred clears the preference of the other steps with the same output.
func (a *Room) onlyPreferred(st kernel.Store, p pantry.Preparation, by string) error {
	if !p.Preferred {
		return nil
	}
	rows, err := st.Preparations()
	if err != nil {
		return err
	}
	for _, r := range rows {
		if r.ID != p.ID && r.Data.Output == p.Output && r.Data.Preferred {
			r.Data.Preferred = false
			r.UpdatedBy = by
			if err := st.SavePreparation(r, r.Rev); err != nil {
				return err
			}
		}
	}
	return nil
}

func (a *Room) ingredientsThere(st kernel.Store, p pantry.Preparation) error {
	want := map[string]string{"input": p.Input, "output": p.Output, "co_output": p.CoOutput}
	for i, e := range p.Extras {
		want[fmt.Sprintf("extras[%d].ingredient", i)] = e.Ingredient
	}
	var errs []pantry.FieldError
	for name, id := range want {
		if id == "" {
			continue
		}
		if _, err := st.Ingredient(id); errors.Is(err, kernel.ErrNotFound) {
			errs = append(errs, pantry.FieldError{Field: name,
				Message: fmt.Sprintf("there is no ingredient %q", field.Clip(id))})
		} else if err != nil {
			return err
		}
	}
	if len(errs) > 0 {
		return kernel.Mistakes(errs...)
	}
	return nil
}

// AddYield records a real making of a step.
func (a *Room) AddYield(ctx context.Context, id string, t pantry.YieldTrial, rev int) (PreparationView,
	error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return PreparationView{}, err
	}
	if errs := t.Check(); len(errs) > 0 {
		return PreparationView{}, kernel.Mistakes(errs...)
	}
	t.Who = by
	if t.Day == "" {
		s, _, err := a.Settings(a.On(ctx))
		if err != nil {
			return PreparationView{}, err
		}
		t.Day = day.Of(a.TodayIn(s))
	}
	if _, err := pantry.ParseDay(t.Day); err != nil {
		return PreparationView{}, kernel.Mistake("day", "a day as in 2026-11-25")
	}
	return a.changeStep(ctx, id, rev, by, func(p *pantry.Preparation) error {
		if t.Co > 0 && p.CoOutput == "" {
			return kernel.Mistake("co_out_g", "this preparation has no co-output")
		}
		p.Records = append(p.Records, t)
		return nil
	})
}

// DropYield takes a recorded making out again.
func (a *Room) DropYield(ctx context.Context, id string, index, rev int) (PreparationView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return PreparationView{}, err
	}
	return a.changeStep(ctx, id, rev, by, func(p *pantry.Preparation) error {
		if index < 0 || index >= len(p.Records) {
			return kernel.Mistake("index", "there is no such making")
		}
		p.Records = slices.Delete(slices.Clone(p.Records), index, index+1)
		return nil
	})
}

func (a *Room) changeStep(ctx context.Context, id string, rev int, by string,
	change func(*pantry.Preparation) error) (PreparationView, error) {
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (PreparationView, error) {
		steps, revs, err := a.Steps(st)
		if err != nil {
			return PreparationView{}, err
		}
		i := slices.IndexFunc(steps, func(p pantry.Preparation) bool { return p.ID == id })
		if i < 0 {
			return PreparationView{}, fmt.Errorf("preparation %q: %w", id, kernel.ErrNotFound)
		}
		p := steps[i]
		if err := change(&p); err != nil {
			return PreparationView{}, err
		}
		return a.storeStep(st, p, rev, revs, by)
	})
}

// LessWater works out the composition of the output of a step that only drives off water. It is offered; the maker
// decides.
func (a *Room) LessWater(ctx context.Context, id string) (pantry.Ingredient, error) {
	st := a.On(ctx)
	steps, _, err := a.Steps(st)
	if err != nil {
		return pantry.Ingredient{}, err
	}
	i := slices.IndexFunc(steps, func(p pantry.Preparation) bool { return p.ID == id })
	if i < 0 {
		return pantry.Ingredient{}, fmt.Errorf("preparation %q: %w", id, kernel.ErrNotFound)
	}
	in, err := st.Ingredient(steps[i].Input)
	if err != nil {
		return pantry.Ingredient{}, err
	}
	out, err := st.Ingredient(steps[i].Output)
	if err != nil {
		return pantry.Ingredient{}, err
	}
	g := out.Data
	g.Composition, g.Acids, err = steps[i].LessWater(in.Data, func(id string) (pantry.Ingredient, bool) {
		row, err := st.Ingredient(id)
		return row.Data, err == nil
	})
	var wrong pantry.FieldError
	if errors.As(err, &wrong) {
		return g, kernel.Mistakes(wrong)
	}
	return g, err
}
