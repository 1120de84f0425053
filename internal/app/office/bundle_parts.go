package office

import (
	"errors"
	"fmt"
	"slices"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
)

// checkKitchen checks measures, preparations, trials, recipes and parents against the bundle's ingredients and
// formulas.
func (b Bundle) checkKitchen(ingredients, formulas map[string]bool, found *findings) {
	here := func(at, id string) {
		if id != "" && !ingredients[id] {
			found.Bad(at, "no ingredient %q in this bundle", id)
		}
	}
	for i, m := range b.Measures {
		at := fmt.Sprintf("measures[%d]", i)
		here(at+".ingredient", m.Ingredient)
		var wrong pantry.FieldError
		if _, err := pantry.HouseMeasure(m.Ingredient, m.Measure, m.Note, m.Weighings); errors.As(err, &wrong) {
			found.Bad(at+"."+wrong.Field, "%s", wrong.Message)
		}
	}
	b.checkSteps(here, found)
	for i, w := range b.Words {
		at := fmt.Sprintf("words[%d]", i)
		here(at+".ingredient", w.Ingredient)
		found.Under(at, w.Check())
	}
	for i, t := range b.Trials {
		at := fmt.Sprintf("trials[%d]", i)
		if !formulas[t.Formula] {
			found.Bad(at+".formula", "no formula %q in this bundle", t.Formula)
		}
		if _, err := pantry.ParseDay(t.MadeOn); err != nil {
			found.Bad(at+".made_on", "a day as in 2026-11-25")
		}
		for k, l := range t.Lines {
			here(fmt.Sprintf("%s.lines[%d]", at, k), l.Ingredient)
		}
		found.Under(at, t.Check())
	}
	for i, r := range b.Recipes {
		if _, _, err := catalog.CheckRecipe(r.Name, r.Words, r.Answers); err != nil {
			found.Bad(fmt.Sprintf("recipes[%d]", i), "%s", err.Error())
		}
		if r.Made != nil && !formulas[r.Made.Formula] {
			found.Bad(fmt.Sprintf("recipes[%d].made", i), "no formula %q in this bundle", r.Made.Formula)
		}
	}
	lib := b.library()
	for i, f := range b.Formulas {
		if f.Parent != nil && (f.Parent.Formula == f.ID || lib.Versions[*f.Parent].State != formula.Locked) {
			found.Bad(fmt.Sprintf("formulas[%d].parent", i),
				"a variant's parent is a locked version of another formula in this bundle")
		}
	}
}

func (b Bundle) checkSteps(here func(at, id string), found *findings) {
	steps := map[string]bool{}
	for i, p := range b.Preparations {
		at := fmt.Sprintf("preparations[%d]", i)
		if p.ID == "" || steps[p.ID] {
			found.Bad(at+".id", "every preparation needs an id of its own (%q)", p.ID)
		}
		steps[p.ID] = true
		here(at+".input", p.Input)
		here(at+".output", p.Output)
		here(at+".co_output", p.CoOutput)
		for k, e := range p.Extras {
			here(fmt.Sprintf("%s.extras[%d].ingredient", at, k), e.Ingredient)
		}
		found.Under(at, p.Check())
	}
}

func exportKitchen(st kernel.Store, b *Bundle) error {
	measures, err := st.HouseMeasures("")
	if err != nil {
		return err
	}
	for _, m := range measures {
		b.Measures = append(b.Measures, BundleMeasure{m.IngredientID, m.Measure, m.Weighings, m.Note})
	}
	steps, err := st.Preparations()
	if err != nil {
		return err
	}
	for _, p := range steps {
		p.Data.ID = p.ID
		b.Preparations = append(b.Preparations, p.Data)
	}
	trials, err := st.Trials("")
	if err != nil {
		return err
	}
	for _, t := range trials {
		core := t.Core()
		core.ID = 0 // a row's number means nothing elsewhere
		b.Trials = append(b.Trials, BundleTrial{t.FormulaID, core})
	}
	recipes, err := st.Recipes(nil, 0)
	if err != nil {
		return err
	}
	for _, r := range slices.Backward(recipes) {
		b.Recipes = append(b.Recipes, BundleRecipe{r.Name, r.Words, r.Answers, r.Made})
	}
	words, err := st.ShopWords()
	if err != nil {
		return err
	}
	for _, w := range words {
		w.ID = 0
		b.Words = append(b.Words, w.Learned)
	}
	return nil
}

// measures are the bundle's own.
func (b Bundle) measures() pantry.Measures {
	own := []pantry.Measure{}
	for _, m := range b.Measures {
		if x, err := pantry.HouseMeasure(m.Ingredient, m.Measure, m.Note, m.Weighings); err == nil {
			own = append(own, x)
		}
	}
	return pantry.NewMeasures(nil, own)
}

// importKitchen takes over measures, preparations, trials and recipes. What is already there word for word counts as
// the same; a trial or recipe that differs is added.
func importKitchen(st kernel.Store, b Bundle, plan *ImportPlan, by kernel.Stamp) error {
	if err := importMeasures(st, b, plan, by); err != nil {
		return err
	}
	if err := importSteps(st, b, plan, by); err != nil {
		return err
	}
	if err := importTrials(st, b, plan, by); err != nil {
		return err
	}
	return importRecipes(st, b, plan, by)
}

func importTrials(st kernel.Store, b Bundle, plan *ImportPlan, by kernel.Stamp) error {
	trials, err := st.Trials("")
	if err != nil {
		return err
	}
	for _, t := range b.Trials {
		if slices.ContainsFunc(trials, func(have kernel.Trial) bool {
			core := have.Core()
			core.ID = 0
			return have.FormulaID == t.Formula && match.SameJSON(core, t.Trial)
		}) {
			plan.Same++
			continue
		}
		day, err := pantry.ParseDay(t.MadeOn)
		if err != nil {
			return kernel.Mistake("trials", "a day as in 2026-11-25")
		}
		plan.New = append(plan.New, "trial of "+string(t.MadeOn))
		if err := st.AddTrial(&kernel.Trial{FormulaID: t.Formula, MadeOn: day, Data: t.Trial,
			UpdatedBy: by.By}); err != nil {
			return err
		}
	}
	return nil
}

func importRecipes(st kernel.Store, b Bundle, plan *ImportPlan, by kernel.Stamp) error {
	recipes, err := st.Recipes(nil, 0)
	if err != nil {
		return err
	}
	for _, r := range b.Recipes {
		if slices.ContainsFunc(recipes, func(have kernel.Recipe) bool {
			return have.Name == r.Name &&
				have.Words == r.Words
		}) {
			plan.Same++
			continue
		}
		row := kernel.Recipe{Name: r.Name, Words: r.Words, Answers: r.Answers, UpdatedBy: by.By}
		if row.Answers == nil {
			row.Answers = map[string]reader.Answer{}
		}
		row.Made = r.Made
		plan.New = append(plan.New, r.Name)
		if err := st.AddRecipe(&row); err != nil {
			return err
		}
	}
	return nil
}

func importMeasures(st kernel.Store, b Bundle, plan *ImportPlan, by kernel.Stamp) error {
	have, err := st.HouseMeasures("")
	if err != nil {
		return err
	}
	for _, m := range b.Measures {
		row := kernel.HouseMeasure{IngredientID: m.Ingredient, Measure: m.Measure, Weighings: m.Weighings, Note: m.Note,
			UpdatedBy: by.By}
		i := slices.IndexFunc(have, func(x kernel.HouseMeasure) bool {
			return x.IngredientID == m.Ingredient &&
				x.Measure == m.Measure
		})
		name := "measure " + m.Measure + " of " + m.Ingredient
		switch {
		case i < 0:
			plan.New = append(plan.New, name)
		case slices.Equal(have[i].Weighings, m.Weighings) && have[i].Note == m.Note:
			plan.Same++
			continue
		default:
			plan.Different = append(plan.Different, name)
		}
		if err := st.PutHouseMeasure(row); err != nil {
			return err
		}
	}
	return nil
}

func importSteps(st kernel.Store, b Bundle, plan *ImportPlan, by kernel.Stamp) error {
	have, err := st.Preparations()
	if err != nil {
		return err
	}
	for _, p := range b.Preparations {
		i := slices.IndexFunc(have, func(x kernel.Preparation) bool { return x.ID == p.ID })
		switch {
		case i < 0:
			plan.New = append(plan.New, "preparation "+p.ID)
			err = st.AddPreparation(kernel.Preparation{ID: p.ID, Data: p, UpdatedBy: by.By})
		case match.SameJSON(have[i].Data, p):
			plan.Same++
		default:
			plan.Different = append(plan.Different, "preparation "+p.ID)
			err = st.SavePreparation(kernel.Preparation{ID: p.ID, Data: p, UpdatedBy: by.By}, have[i].Rev)
		}
		if err != nil {
			return err
		}
	}
	return nil
}
