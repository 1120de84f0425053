package acidity_test

import (
	"fmt"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/pantry"
)

// Vinegar that is thinned with water weakens less than its acid does.
func ExampleEstimatePH() {
	vinegar := &pantry.Ingredient{ID: "vinegar", Name: "Cider vinegar", Composition: pantry.Composition{Water: 95},
		Acids: pantry.Acids{Acetic: 5}, PH: &pantry.PHRange{Typical: 2.8, Low: 2.6, High: 3.0}}
	water := &pantry.Ingredient{ID: "water", Name: "Water", Composition: pantry.Composition{Water: 100},
		PH: &pantry.PHRange{Typical: 7, Low: 6.5, High: 7.5}}
	e := acidity.EstimatePH([]acidity.Part{{Name: "vinegar", Grams: 100, Ingredient: vinegar},
		{Name: "water", Grams: 100, Ingredient: water}}, 0)
	low, high := e.Shown()
	fmt.Printf("%.2f, between %.2f and %.2f\n", e.PH, low, high)
	// Output: 2.86, between 2.65 and 3.05
}

// A reading counts with its uncertainty: at the limit itself nothing passes.
func ExampleBounds_Over() {
	b := acidity.Bounds{Limit: 4.2}
	fmt.Println(b.Over(4.05), b.Over(4.2))
	// Output: false true
}
