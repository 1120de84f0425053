package amount_test

import (
	"go/ast"
	"go/importer"
	"go/parser"
	"go/token"
	"go/types"
	"testing"

	"gallipot/internal/core/amount"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestUnitsCannotBeMixed compiles lines that add one unit to another.
func TestUnitsCannotBeMixed(t *testing.T) {
	files := token.NewFileSet()
	from := importer.ForCompiler(files, "source", nil)
	compiles := func(line string) bool {
		src := "package p\nimport \"gallipot/internal/core/amount\"\nvar _ = " + line
		file, err := parser.ParseFile(files, "p.go", src, 0)
		require.NoError(t, err)
		config := types.Config{Importer: from}
		_, err = config.Check("p", files, []*ast.File{file}, nil)
		return err == nil
	}
	for _, line := range []string{
		`amount.G(1).Plus(amount.G(2))`,
		`amount.MustMoney("1").Exact().Over(amount.G(2).Exact())`,
		`amount.G(1).Exact().Times(amount.Share(amount.Pct(2)))`,
	} {
		assert.True(t, compiles(line), line)
	}
	for _, line := range []string{
		`amount.G(1) + amount.MustMoney("1")`,
		`amount.G(1).Plus(amount.MustMoney("1"))`,
		`amount.MustMoney("1").Plus(amount.G(1))`,
		`amount.G(1).Minus(amount.ML(1))`,
		`amount.G(1).Cmp(amount.MustQuantity("1"))`,
		`amount.Pct(1).Plus(amount.Min(1))`,
		`amount.G(1).Plus(amount.Whole(1))`,
		`amount.Grams(5)`,
		`amount.Share(amount.G(1))`,
		`amount.VolumeOf(amount.Pct(1), 1)`,
		`amount.Money{5}`,
	} {
		assert.False(t, compiles(line), line)
	}
}

// TestWhatUnitsHold pins what a unit of mass is in grams and one of volume in mL: a price by the pound or by the fluid
// ounce rests on it (NIST SP 811 appendix B).
func TestWhatUnitsHold(t *testing.T) {
	for unit, want := range map[string]float64{"mg": 0.001, "g": 1, "kg": 1000, "oz": 28.349523125, "lb": 453.59237} {
		g, ok := amount.MassUnit(unit)
		assert.True(t, ok, unit)
		assert.InDelta(t, want, g, 1e-9, unit)
	}
	for unit, want := range map[string]float64{"ml": 1, "cl": 10, "dl": 100, "l": 1000, "fl_oz": 29.5735295625,
		"pint": 473.176473, "quart": 946.352946} {
		v, ok := amount.USSpoons.Volume(unit)
		assert.True(t, ok, unit)
		assert.InDelta(t, want, v.ML, 1e-6, unit)
	}
}
