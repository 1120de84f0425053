package production

import (
	"context"
	"strings"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"
)

// checkAdded refuses an addition that would put an allergen into jars whose labels do not name it, and computes what
// the addition does to the pH.
func (a *Room) checkAdded(st kernel.Store, l Loaded, x *bench.Added) error {
	x.PHBefore, x.PHAfter, x.Name = nil, nil, ""
	if x.Grams.Float() > amount.MaxGrams {
		return kernel.Mistake("added.grams", "at most 10 000 kg")
	}
	w := l.desk.larder()
	if x.Purpose == bench.Leftover {
		x.Name = "leftover of " + l.name
		want := wanted{component: &formula.Ref{Formula: l.Row.FormulaID, Version: l.Row.Version}}
		if len(x.Draws) != 1 {
			return kernel.Mistake("added.draws", "which batch is it left over from? Give its lot")
		}
		return w.nameAdded(a, st, l, want, x)
	}
	row, err := st.Ingredient(x.Ingredient)
	if err != nil {
		return kernel.Mistake("added.ingredient", "choose what goes in")
	}
	g := row.Data
	x.Name = g.Name
	if lacks := l.Made().Lacks(&g); len(lacks) > 0 {
		return kernel.Mistake("added.ingredient",
			"%s brings %s, which the labels of this product do not name: make a new version",
			g.Name, strings.Join(lacks, ", "))
	}
	if len(x.Draws) == 0 && !g.Has(pantry.FlagWater) {
		return kernel.Mistake("added.draws", "which lot is it from?")
	}
	sources := lots.Sources(g.ID, w.usable, w.steps)
	stands := map[string]int{}
	for _, s := range sources {
		stands[s.Ingredient] = 0
	}
	if err := w.nameAdded(a, st, l, wanted{ids: []string{g.ID}, sources: sources, stands: stands}, x); err != nil {
		return err
	}
	before, after, err := a.phOfAddition(st, l, x.Load, &g, x.Grams)
	x.PHBefore, x.PHAfter = before.High, after.High
	return err
}

func (w *larder) nameAdded(a *Room, st kernel.Store, l Loaded, want wanted, x *bench.Added) error {
	if err := w.name(st, l, want, "added", x.Draws); err != nil {
		return err
	}
	x.Complete(l.Needs.Lots, a.Now(), l.Book.Settings.Zone())
	return nil
}

// phOfAddition returns the pH band of the bowl of a load before and after an addition.
func (a *Room) phOfAddition(st kernel.Store, l Loaded, load int, g *pantry.Ingredient, grams amount.Grams) (before,
	after assess.PH,
	err error) {
	made, err := l.Made().InLoad(load)
	if err != nil {
		return before, after, RefusalOf(err, nil)
	}
	in := assess.Inputs{Library: l.Lib, Terms: l.Book.Terms, Rules: l.Book.Rules, Documents: l.documents}
	in.Library.Ingredients = map[string]*pantry.Ingredient{g.ID: g}
	for id, x := range l.Lib.Ingredients {
		in.Library.Ingredients[id] = x
	}
	panel, err := assess.Version(made, in)
	if err != nil {
		return before, after, catalog.LineProblem(err)
	}
	made.Lines = append(made.Lines, formula.Line{ID: "added", Ingredient: g.ID, Grams: grams})
	then, err := assess.Version(made, in)
	return panel.PH, then.PH, catalog.LineProblem(err)
}

// AdditionView shows what an addition would do.
type AdditionView struct {
	Before assess.PH   `json:"before"`
	After  assess.PH   `json:"after"`
	Raises bool        `json:"raises"` // the band's high end
	Over   bool        `json:"over"`   // and over the target
	Lacks  []string    `json:"lacks"`  // allergens that it would bring
	Lots   []Candidate `json:"lots"`
}

// PreviewAddition shows what an addition at the bench would do, before it goes in.
func (a *Room) PreviewAddition(ctx context.Context, id int64, load int, ingredient string,
	grams amount.Grams) (AdditionView,
	error) {
	st := a.On(ctx)
	out := AdditionView{Lacks: []string{}, Lots: []Candidate{}}
	l, err := a.Load(st, id)
	if err != nil {
		return out, err
	}
	row, err := st.Ingredient(ingredient)
	if err != nil {
		return out, kernel.Mistake("ingredient", "choose what goes in")
	}
	if !grams.IsPositive() || grams.Float() > amount.MaxGrams {
		return out, kernel.Mistake("grams", "above zero and at most 10 000 kg")
	}
	if out.Before, out.After, err = a.phOfAddition(st, l, load, &row.Data, grams); err != nil {
		return out, err
	}
	if b, c := out.Before.High, out.After.High; b != nil && c != nil {
		out.Raises, out.Over = *c > *b+0.005, *c > *b+0.005 && *c > l.Version.PHTarget
	}
	out.Lacks = append(out.Lacks, l.Made().Lacks(&row.Data)...)
	w := l.desk.larder()
	if err := w.know(st, []string{ingredient}); err != nil {
		return out, err
	}
	sources := lots.Sources(ingredient, w.usable, w.steps)
	stands := map[string]int{}
	for _, s := range sources {
		stands[s.Ingredient] = 0
	}
	list, err := w.there(st, wanted{ids: []string{ingredient}, sources: sources, stands: stands})
	if err == nil && len(list) > 0 {
		out.Lots = append(out.Lots, list[0]...)
	}
	return out, err
}
