// Package draft turns a reading into the first draft of a formula.
package draft

import (
	"fmt"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/reader"
	"strings"
)

// From is the first draft of a formula from a reading of somebody's words, whose questions are answered. Lines that are
// still to weigh come with the grams that could be found, or none.
func From(r reader.Reading, words, id string) formula.Version {
	v := formula.Blank(id)
	v.Words = words
	if r.ClaimDays != nil {
		v.ClaimDays = *r.ClaimDays
	}
	v.Lines, v.Steps = linesOf(r), stepsOf(r)
	v.Toppings = toppingsOf(r, max(1, v.Jars()))
	return v
}

// deciding are the questions whose answer decides what a line is.
var deciding = map[string]bool{"ingredient": true, "unread": true, "serving": true, "units": true, "also": true}

// Undecided are the lines and notices of a reading that have to be answered before it becomes a draft, so that nothing
// is dropped, and a reading without any line.
func Undecided(r reader.Reading) []field.Error {
	var errs field.Errors
	lines := 0
	for i, l := range r.Lines {
		if l.As == reader.AsLeft {
			continue
		}
		if l.Kind == reader.Weighed && l.Ingredient != "" {
			lines++
		}
		if _, _, made := reader.MadeOf(l.Ingredient); made && l.As == reader.AsTopping {
			errs.Bad(fmt.Sprintf("lines[%d]", i), l.Name+" is a product of yours: it goes into the mix, or is left out")
		}
		for _, q := range l.Questions {
			if deciding[q.Code] {
				errs.Bad(fmt.Sprintf("lines[%d]", i), "“%s”: %s", field.Clip(strings.TrimSpace(l.Words)), q.Text)
				break
			}
		}
	}
	for _, n := range r.Notices {
		if len(n.Options) > 0 {
			errs.Bad("notices."+n.Code, n.Text)
		}
	}
	if len(errs) == 0 && lines == 0 {
		errs.Bad("words", "no ingredient was read yet")
	}
	return errs
}

func linesOf(r reader.Reading) []formula.Line {
	out := []formula.Line{}
	for i, l := range r.Lines {
		if l.Kind != reader.Weighed || l.As != reader.AsBowl || l.Ingredient == "" {
			continue
		}
		line := formula.Line{ID: fmt.Sprintf("r%d", i+1), Words: field.Cut(spokenWords(l), 2000),
			Preparation: l.Preparation, Phase: field.Cut(l.Section, 120), Note: l.Remark}
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

// thawAndFinish is what is done with a product of the shop that comes out of the freezer (handbook 06, rule 10).
const thawAndFinish = "Thaw and finish: thaw the %s at or below 5 °C and stir it. Within four days, or less where " +
	"less was left; never freeze it again. What is added after thawing calls for a new reading."

func stepsOf(r reader.Reading) []formula.Step {
	var out []formula.Step
	for _, l := range r.Lines {
		if l.Thaw && l.As == reader.AsBowl {
			out = append(out, formula.Step{Text: field.Cut(fmt.Sprintf(thawAndFinish, l.Name), 2000)})
		}
	}
	for _, l := range r.Lines {
		if l.Kind == reader.Step && len(out) < 60 {
			out = append(out, formula.Step{Text: field.Cut(strings.TrimSpace(l.Words), 2000)})
		}
	}
	return out
}
