package labelart

import (
	"io"
	"slices"
	"strings"
	"testing"

	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestSheetsAreFilledFromTheirFirstFreePlace(t *testing.T) {
	eight := UsualStocks()[2]
	l := lay(t, dip(law.GB), Plain, eight.WidthMM, eight.HeightMM)
	file, run := written(t, l, eight, 12, 4)
	assert.Equal(t, Run{Pages: 2, Next: 8, Blank: 1}, run, "places 4 to 8 and 1 to 7")
	assert.Regexp(t, `Page size:\s+595\.2[0-9]* x 841\.[0-9]* pts`, output(t, "pdfinfo", file))
	found := places(t, file, "L26-329-B")
	require.Len(t, found, 12)
	first, next := found[0], found[2]
	assert.InDelta(t, 1, first[0], 0)
	second := 0
	for _, f := range found {
		if f[0] == 2 {
			second++
		}
	}
	assert.Equal(t, 7, second)
	var xs []float64
	for _, f := range found[:5] {
		xs = append(xs, f[1])
	}
	assert.InDelta(t, eight.WidthMM+eight.GapXMM, slices.Max(xs)-slices.Min(xs), 0.05, "a column apart")
	assert.NotEqual(t, first, next)

	whole, run := written(t, l, eight, 16, 1)
	assert.Equal(t, Run{Pages: 2, Next: 1, Blank: 0}, run)
	assert.Len(t, places(t, whole, "L26-329-B"), 16)
	two := lay(t, dip(law.GB), Two, eight.WidthMM, eight.HeightMM)
	_, run = written(t, two, eight, 6, 1)
	assert.Equal(t, Run{Pages: 2, Next: 5, Blank: 4}, run, "six fronts and six backs")
	for _, wrong := range [][2]int{{0, 1}, {1, 0}, {1, 9}} {
		_, err := l.Print(io.Discard, eight, wrong[0], wrong[1], "label")
		assert.Error(t, err, "%v", wrong)
	}
}

func TestAStockThatCannotBe(t *testing.T) {
	for _, s := range UsualStocks() {
		assert.Empty(t, s.Check(""), s.Name)
	}
	for field, change := range map[string]func(*Stock){
		"columns": func(s *Stock) { s.Columns = 3 }, "rows": func(s *Stock) { s.Rows = 5 },
		"page": func(s *Stock) { s.Page = "A3" }, "kind": func(s *Stock) { s.Kind = "cloth" },
		"name": func(s *Stock) { s.Name = "" }, "width_mm": func(s *Stock) { s.WidthMM = 5 },
		"gap_x_mm": func(s *Stock) { s.GapXMM = -1 },
	} {
		s := UsualStocks()[2]
		change(&s)
		errs := s.Check("")
		require.NotEmpty(t, errs, field)
		assert.Equal(t, field, errs[0].Field)
	}
}

func TestStockPrintedBeforeTakesItsDateInItsPlace(t *testing.T) {
	for _, form := range Forms {
		c := dip(law.GB)
		c.DateLine, c.Lot = "", ""
		stock := lay(t, c, form, 120, 64)
		require.True(t, stock.Fits())
		over, err := stock.Overprint("Best before 30 September 2026", "L26-329-B")
		require.NoError(t, err)
		text, _ := pdftotext(t, over, 2)
		assert.Contains(t, text, "L26-329-B")
		assert.NotContains(t, text, "yogurt", "nothing else is printed again")
		var kept Box
		for _, p := range stock.Pieces {
			for _, b := range p.Boxes {
				if b.Part == placePart {
					kept = b
				}
			}
		}
		require.Len(t, over.Pieces, 1)
		for _, b := range over.Pieces[0].Boxes {
			assert.GreaterOrEqual(t, b.X, kept.X-1e-9)
			assert.GreaterOrEqual(t, b.Y, kept.Y-1e-9)
			assert.LessOrEqual(t, b.X+b.Width, kept.X+kept.Width+1e-9)
			assert.LessOrEqual(t, b.Y+b.Height, kept.Y+kept.Height+1e-6)
		}
		_, err = stock.Overprint(strings.Repeat("Best before a very long day ", 6), "L1")
		assert.ErrorContains(t, err, "taller than the place")
		_, err = stock.Overprint("Use by 1 May", "L"+strings.Repeat("26329B", 20))
		assert.ErrorContains(t, err, "wider than the place")
		assert.True(t, stock.Fits(), "the stock itself is as it was")
	}
	_, err := lay(t, dip(law.GB), Plain, 95, 65).Overprint("Use by 1 May", "L1")
	assert.ErrorContains(t, err, "no place")
}
