package declaration

import (
	"fmt"

	"gallipot/internal/core/law"
)

// NetQuantity writes the net quantity statement as the law words it; unit is "g" or "ml".
func NetQuantity(l *law.Law, amount float64, unit string) (string, error) {
	if !(amount > 0 && amount <= 1e6) || unit != "g" && unit != "ml" {
		return "", fmt.Errorf("net quantity: %g %s cannot be stated", amount, unit)
	}
	return l.NetQuantity(amount, unit), nil
}
