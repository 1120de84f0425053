package reader_test

import (
	"fmt"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
)

// A recipe becomes lines; words that name nothing in the pantry stay, with a question.
func ExampleBook_Read() {
	all := map[string]*pantry.Ingredient{
		"lime_juice": {ID: "lime_juice", Name: "Lime juice"},
		"salt":       {ID: "salt", Name: "Fine sea salt"},
	}
	b := &reader.Book{Index: reader.NewIndex(all, nil), Ingredients: all, Spoons: amount.USSpoons}
	for _, l := range b.Read("120 g lime juice\na handful of quark powder", nil).Lines {
		if l.Grams != nil {
			fmt.Printf("%s: %.0f g\n", l.Name, *l.Grams)
		} else {
			fmt.Printf("%q has %d open question\n", l.Words, len(l.Questions))
		}
	}
	// Output:
	// Lime juice: 120 g
	// "a handful of quark powder" has 1 open question
}
