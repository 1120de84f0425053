package catalog

import (
	"context"
	"fmt"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
)

// DraftFromRecipe turns a reading into the first draft of a new formula. Lines that are still to weigh come with the
// grams that could be found, or none; such a draft cannot be locked. A line without an ingredient, or with a question
// that decides what it is, must be answered first, so that nothing is dropped.
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
		if err := undecided(reading); err != nil {
			return out, err
		}
		formulaID, err := newFormula(st, name, by, nil)
		if err != nil {
			return out, err
		}
		s, _, err := a.Settings(st)
		if err != nil {
			return out, err
		}
		draft := formula.Blank(formulaID)
		draft.LabourPerHour, draft.Words = s.LabourPerHour, r.Words
		if reading.ClaimDays != nil {
			draft.ClaimDays = *reading.ClaimDays
		}
		draft.Lines, draft.Steps = linesOf(reading), stepsOf(reading)
		draft.Toppings = toppingsOf(reading, max(1, draft.Jars()))
		if errs := draft.Check(); len(errs) > 0 {
			return out, kernel.Mistakes(errs...)
		}
		if err := st.AddVersion(draft, nil, by); err != nil {
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

// deciding are the questions whose answer decides what a line is.
var deciding = map[string]bool{"ingredient": true, "unread": true, "serving": true, "units": true, "also": true}

func undecided(r reader.Reading) error {
	var errs []pantry.FieldError
	lines := 0
	for i, l := range r.Lines {
		if l.As == reader.AsLeft {
			continue
		}
		if l.Kind == reader.Weighed && l.Ingredient != "" {
			lines++
		}
		if _, _, made := reader.MadeOf(l.Ingredient); made && l.As == reader.AsTopping {
			errs = append(errs, pantry.FieldError{Field: fmt.Sprintf("lines[%d]", i),
				Message: l.Name + " is a product of yours: it goes into the mix, or is left out"})
		}
		for _, q := range l.Questions {
			if deciding[q.Code] {
				errs = append(errs, pantry.FieldError{Field: fmt.Sprintf("lines[%d]", i),
					Message: fmt.Sprintf("“%s”: %s", field.Clip(strings.TrimSpace(l.Words)), q.Text)})
				break
			}
		}
	}
	for _, n := range r.Notices {
		if len(n.Options) > 0 {
			errs = append(errs, pantry.FieldError{Field: "notices." + n.Code, Message: n.Text})
		}
	}
	if len(errs) > 0 {
		return kernel.Mistakes(errs...)
	}
	if lines == 0 {
		return kernel.Mistake("words", "no ingredient was read yet")
	}
	return nil
}

func linesOf(r reader.Reading) []formula.Line {
	out := []formula.Line{}
	for i, l := range r.Lines {
		if l.Kind != reader.Weighed || l.As != reader.AsBowl || l.Ingredient == "" {
			continue
		}
		line := formula.Line{ID: fmt.Sprintf("r%d", i+1), Words: clipTo(spokenWords(l), 2000),
			Preparation: l.Preparation, Phase: clipTo(l.Section, 120), Note: l.Remark}
		if of, version, made := reader.MadeOf(l.Ingredient); made {
			line.Component = &formula.Ref{Formula: of, Version: version}
		} else {
			line.Ingredient = l.Ingredient
		}
		if len(l.AnyOf) > 1 {
			line.AnyOf = l.AnyOf
		}
		if l.Fixed {
			line.Note = strings.TrimPrefix(line.Note+"; stays as it is when the rest is doubled", "; ")
		}
		if l.HoldBack {
			line.HoldBackPercent = 50
		}
		if l.Grams != nil {
			places := 0
			if *l.Grams < 20 {
				places = 1
			}
			if *l.Grams < 1 {
				places = 2
			}
			line.Grams = amount.G(amount.HalfUp(*l.Grams, places))
			line.Said = &formula.Said{Source: l.Source, Measure: l.Measure, Of: l.MeasureOf, Times: l.Times,
				Grams: line.Grams.Float(), Spread: l.Spread, How: l.How}
		}
		out = append(out, line)
	}
	return out
}

// spokenWords are the words of a line without the mark of the list in front.
func spokenWords(l reader.Line) string {
	words := []rune(l.Words)
	if len(l.Marks) > 0 && l.Marks[0].Role == reader.Layout && l.Marks[0].From == 0 && l.Marks[0].To < len(words) {
		words = words[l.Marks[0].To:]
	}
	return strings.TrimSpace(string(words))
}

// toppingsOf spreads what goes on top over the jars that the draft fills. What nobody knows the grams of comes with
// none.
func toppingsOf(r reader.Reading, jars int) []formula.Topping {
	var out []formula.Topping
	for i, l := range r.Lines {
		if l.Kind != reader.Weighed || l.As != reader.AsTopping || l.Ingredient == "" || len(out) == 10 {
			continue
		}
		t := formula.Topping{ID: fmt.Sprintf("t%d", i+1), Ingredient: l.Ingredient}
		if l.Grams != nil {
			t.Grams = amount.G(amount.HalfUp(*l.Grams/float64(jars), 1))
		}
		out = append(out, t)
	}
	return out
}

func clipTo(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n])
	}
	return s
}

// thawAndFinish is what is done with a product of the shop that comes out of the freezer (handbook 06, rule 10).
const thawAndFinish = "Thaw and finish: thaw the %s at or below 5 °C and stir it. Within four days, or less where " +
	"less was left; never freeze it again. What is added after thawing calls for a new reading."

func stepsOf(r reader.Reading) []formula.Step {
	var out []formula.Step
	for _, l := range r.Lines {
		if l.Thaw && l.As == reader.AsBowl {
			out = append(out, formula.Step{Text: clipTo(fmt.Sprintf(thawAndFinish, l.Name), 2000)})
		}
	}
	for _, l := range r.Lines {
		if l.Kind == reader.Step && len(out) < 60 {
			out = append(out, formula.Step{Text: clipTo(strings.TrimSpace(l.Words), 2000)})
		}
	}
	return out
}
