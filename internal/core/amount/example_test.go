package amount_test

import (
	"fmt"

	"gallipot/internal/core/amount"
)

// Amounts are whole numbers of their smallest unit, so they add up exactly.
func ExampleSum() {
	fmt.Println(amount.Sum([]amount.Grams{amount.MustGrams("0.1"), amount.MustGrams("0.2")}))
	// Output: 0.3
}

// A third stays a third until it is shown.
func ExampleRatio() {
	third := amount.Ratio(1, 3)
	fmt.Println(third.Times(amount.Whole(3)).Fixed(2), third.Fixed(4))
	// Output: 1.00 0.3333
}

// People type a comma or a point, and fractions.
func ExampleParseNumber() {
	for _, typed := range []string{"1,5", "2.25", "many"} {
		x, err := amount.ParseNumber(typed)
		fmt.Println(x.Fixed(2), err)
	}
	// Output:
	// 1.50 <nil>
	// 2.25 <nil>
	// 0.00 "many": not a number
}

// The printed percentages of a formula always add up to 100.
func ExamplePercentShares() {
	fmt.Println(amount.PercentShares([]amount.Grams{amount.G(1), amount.G(1), amount.G(1)}))
	// Output: [33.34 33.33 33.33]
}
