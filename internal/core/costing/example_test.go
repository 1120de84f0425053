package costing_test

import (
	"fmt"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"
)

// A margin is a share of the price, a mark-up one of the cost: the same percent are not the same price.
func ExamplePriceAtMargin() {
	cost := amount.MustMoney("3.00").Exact()
	at, err := costing.PriceAtMargin(cost, amount.Pct(40))
	fmt.Println(at.Fixed(2), err)
	fmt.Println(costing.PriceAtMarkUp(cost, amount.Pct(40)).Fixed(2))
	_, err = costing.PriceAtMargin(cost, amount.Pct(100))
	fmt.Println(err)
	// Output:
	// 5.00 <nil>
	// 4.20
	// a margin lies between 0 and 100 %, not 100
}
