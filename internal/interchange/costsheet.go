package interchange

import (
	"io"

	"gallipot/internal/app"

	"github.com/xuri/excelize/v2"
)

// WriteCost writes what a jar of a version costs as a spreadsheet: a row a line with grams, percent and cost in a jar,
// then the stack. Amounts are numbers in the shop's currency, rounded to 0.0001; a missing price leaves its cell empty.
func WriteCost(w io.Writer, v app.SheetView, currency string) error {
	f := excelize.NewFile()
	defer f.Close()
	const sheet = "Cost"
	if err := f.SetSheetName("Sheet1", sheet); err != nil {
		return err
	}
	for i, row := range costRows(v, currency) {
		cell, err := excelize.CoordinatesToCellName(1, i+1)
		if err != nil {
			return err
		}
		if err := f.SetSheetRow(sheet, cell, &row); err != nil {
			return err
		}
	}
	if err := f.SetColWidth(sheet, "A", "A", 42); err != nil {
		return err
	}
	return f.Write(w)
}

// costRows are the cells, row by row.
func costRows(v app.SheetView, currency string) [][]any {
	cost := v.Panel.Cost
	rows := [][]any{
		{v.Name, "version", v.Version.Number},
		{"a jar of", v.Version.NetGrams().Float(), "g", "costed at", v.Version.CostingJars, "jars"},
		{},
		{"line", "grams", "percent", "cost in a jar, " + currency},
	}
	for _, l := range v.Panel.Lines {
		row := []any{plainCell(l.Name), l.Grams.Float(), l.Percent.Float(), nil}
		if !l.NoPrice {
			row[3] = l.PerJar.Round(4).Float()
		}
		rows = append(rows, row)
	}
	rows = append(rows, []any{})
	for _, part := range []struct {
		name  string
		money float64
	}{{"ingredients", cost.Ingredients.Round(4).Float()}, {"jar, lid, label", cost.Packaging.Round(4).Float()},
		{"hands", cost.Labour.Round(4).Float()}, {"kitchen", cost.Overhead.Round(4).Float()}} {
		rows = append(rows, []any{part.name, nil, nil, part.money})
	}
	total := "a jar"
	if cost.AtLeast {
		total = "a jar, at least"
	}
	rows = append(rows, []any{total, nil, nil, cost.PerJar.Round(4).Float()},
		[]any{"of it lost on the way", nil, nil, cost.Losses.Round(4).Float()})
	for _, missing := range cost.Missing {
		rows = append(rows, []any{"no price for " + missing})
	}
	return rows
}
