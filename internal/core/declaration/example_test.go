package declaration_test

import (
	"fmt"

	"gallipot/internal/core/declaration"
	"gallipot/internal/core/law"
)

// The list falls by weight; what a law counts as an allergen stands out in it.
func ExampleDeclare() {
	gb, err := law.Of(law.GB)
	if err != nil {
		fmt.Println(err)
		return
	}
	d, err := declaration.Declare([]declaration.Item{
		{Name: "rapeseed oil", Grams: 60},
		{Name: "tahini", Grams: 110, Allergens: []string{"sesame"}, SupplierList: "sesame seeds"},
		{Name: "salt", Grams: 4},
	}, declaration.Options{Law: gb})
	fmt.Println(d.List, err)
	fmt.Println(d.Allergens)
	// Output:
	// Tahini (**sesame** seeds), rapeseed oil, salt. <nil>
	// [sesame]
}

// Each law rounds a figure of the nutrition table by its own steps.
func ExampleRound() {
	for _, l := range law.All() {
		text, err := declaration.Round(l, "fat_g", 4.74)
		fmt.Println(l.Regime, text, err)
	}
	// Output:
	// GB 4.7 g <nil>
	// US 4.5 g <nil>
}
