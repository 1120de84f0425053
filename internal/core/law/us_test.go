package law

import (
	"testing"

	"gallipot/internal/core/amount"

	"github.com/stretchr/testify/assert"
)

func TestNetQuantityNeverClaimsTooMuch(t *testing.T) {
	for g := 20.0; g < 3000; g += 7 {
		assert.LessOrEqual(t, float64(ounces(g, amount.GramsPerOunce))/10*amount.GramsPerOunce, g+mostOverclaim+1e-9,
			netQuantityUS(g, "g"))
	}
}
