package declaration

import (
	"fmt"

	"gallipot/internal/core/law"
)

// NetQuantity writes the net quantity statement as the law words it; unit is "g" or "ml".
func NetQuantity(l *law.Law, amount float64, unit string) (string, error) {
	if !(amount > 0 && amount <= mostStated) || unit != "g" && unit != "ml" {
		return "", fmt.Errorf("net quantity: %g %s cannot be stated", amount, unit)
	}
	return l.NetQuantity(amount, unit), nil
}

const mostStated = 1e6 // g or mL

// NetVolume writes the net quantity of a volume that was computed from a weight: whole millilitres, and ounces of the
// volume itself.
func NetVolume(l *law.Law, ml float64) (string, error) {
	if !(ml > 0 && ml <= mostStated) {
		return "", fmt.Errorf("net quantity: %g ml cannot be stated", ml)
	}
	return l.NetVolume(ml), nil
}
