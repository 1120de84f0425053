package interchange

import (
	"encoding/csv"
	"fmt"
	"io"

	"gallipot/internal/app/catalog"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"

	"github.com/xuri/excelize/v2"
)

// costLine is a row of a cost sheet: a part of the jar, the head or the sum of a group, or the jar itself. From and to
// are the rows, counted from 1, that a sum adds up.
type costLine struct {
	group string
	name  string
	money *amount.Exact // nil: there is no price
	how   string
	sums  []int // rows that it adds up
}

// costPlaces is to how many places costs stand in files: two more than are shown, so that rounded parts add up to a
// jar that is right.
const costPlaces = 6

// costTop is how many rows stand above the parts.
const costTop = 4

// costLines are the parts of a jar in the order they are spent, each group with its sum, and the jar last.
func costLines(v catalog.CostView) []costLine {
	var out []costLine
	var groups []int
	for _, g := range []struct {
		name  string
		parts []costing.Part
	}{{"ingredients", v.Stack.Lines}, {"on top of each jar", v.Stack.Toppings}, {"the pack", v.Stack.Items},
		{"hands", v.Stack.Hands}, {"kitchen", v.Stack.Rooms}} {
		if len(g.parts) == 0 {
			continue
		}
		sum := costLine{group: g.name, money: new(amount.Exact)}
		for i := range g.parts {
			p := &g.parts[i]
			x := costLine{group: g.name, name: p.Name, how: p.How}
			if !p.Missing {
				shown := p.PerJar.Round(costPlaces)
				x.money = &shown
				*sum.money = sum.money.Plus(shown)
			}
			out = append(out, x)
			sum.sums = append(sum.sums, costTop+len(out))
		}
		out = append(out, sum)
		groups = append(groups, costTop+len(out))
	}
	total := costLine{group: "a jar", money: new(amount.Exact), sums: groups}
	if v.Stack.AtLeast {
		total.group = "a jar, at least"
	}
	for _, at := range groups {
		*total.money = total.money.Plus(*out[at-costTop-1].money)
	}
	return append(out, total)
}

// costHead are the rows above the parts.
func costHead(v catalog.CostView, currency string) [][]any {
	return [][]any{{plainCell(v.Name), "version", v.Version},
		{"a jar of", v.Fill.Float(), "g, in a batch of", v.Jars, "jars"}, {},
		{"group", "part", "in a jar, " + currency, "where it comes from"}}
}

// costFoot are the rows below the jar: what is lost, and what is not known.
func costFoot(v catalog.CostView) [][]any {
	rows := [][]any{{"of it lost on the way", nil, v.Stack.Losses.Round(costPlaces).Float()}}
	for _, p := range v.Stack.Lost {
		rows = append(rows, []any{"lost", p.Name, p.PerJar.Round(costPlaces).Float(), p.How})
	}
	for _, missing := range v.Stack.Missing {
		rows = append(rows, []any{"no price for " + missing})
	}
	for _, unsaid := range v.Stack.Unsaid {
		rows = append(rows, []any{"nothing is said of " + unsaid})
	}
	return rows
}

// WriteCostCSV writes what a jar costs as a table: a row a part, then its group, then the jar. Amounts are in the
// shop's currency, rounded to a millionth; a missing price leaves its cell empty.
func WriteCostCSV(w io.Writer, v catalog.CostView, currency string) error {
	c := csv.NewWriter(w)
	text := func(row []any) []string {
		out := make([]string, len(row))
		for i, x := range row {
			if x != nil {
				out[i] = guard(fmt.Sprint(x))
			}
		}
		return out
	}
	for _, row := range costHead(v, currency) {
		if err := c.Write(text(row)); err != nil {
			return err
		}
	}
	for _, l := range costLines(v) {
		money := ""
		if l.money != nil {
			money = l.money.Fixed(costPlaces)
		}
		if err := c.Write([]string{l.group, guard(l.name), money, guard(l.how)}); err != nil {
			return err
		}
	}
	for _, row := range costFoot(v) {
		if err := c.Write(text(row)); err != nil {
			return err
		}
	}
	c.Flush()
	return c.Error()
}

// WriteCost writes what a jar costs as a spreadsheet: the parts with sums that are formulas, so that a figure can be
// tried; the sizes of batch; what moves it; and the prices to ask. The figures are those of WriteCostCSV.
func WriteCost(w io.Writer, v catalog.CostView, currency string) error {
	f := excelize.NewFile()
	defer f.Close()
	b := book{f: f}
	b.sheet("Cost", costHead(v, currency))
	for i, l := range costLines(v) {
		row := costTop + i + 1
		cells := []any{l.group, plainCell(l.name), nil, plainCell(l.how)}
		if l.money != nil {
			cells[2] = l.money.Float()
		}
		b.row("Cost", row, cells)
		b.sums("Cost", row, l.sums)
	}
	for i, row := range costFoot(v) {
		b.row("Cost", costTop+len(costLines(v))+1+i, row)
	}
	b.width("Cost", "A", 24)
	b.width("Cost", "B", 44)
	b.width("Cost", "D", 80)
	sizes := [][]any{{"jars", "a jar, " + currency, "loads", "shifts", "hours of hands"}}
	for _, p := range v.Curve.Points {
		sizes = append(sizes, []any{p.Jars, p.PerJar.Round(costPlaces).Float(), p.Loads, p.Shifts,
			p.Minutes.Over(amount.Whole(60)).Round(2).Float()})
	}
	b.sheet("Sizes", sizes)
	moves := [][]any{{"by a tenth", "less", "more"}}
	for _, m := range v.Moves {
		moves = append(moves, []any{plainCell(m.Kind + " " + m.Name), m.Less.Round(costPlaces).Float(),
			m.More.Round(costPlaces).Float()})
	}
	b.sheet("What moves it", moves)
	b.width("What moves it", "A", 44)
	ask := [][]any{{"way", "you get, " + currency, "without tax", "tax in it", "to ask", "left of a jar", "margin, %",
		"mark-up, %"}}
	for _, r := range v.Ladder {
		ask = append(ask, []any{r.Key, r.Ours.Round(costPlaces).Float(), r.Net.Round(costPlaces).Float(),
			r.Tax.Round(costPlaces).Float(), r.Point.Round(2).Float(), r.Left.Round(costPlaces).Float(),
			r.Margin.Float(), r.MarkUp.Float()})
	}
	b.sheet("What to ask", ask)
	if b.err != nil {
		return b.err
	}
	return f.Write(w)
}

// book writes into a spreadsheet until something goes wrong.
type book struct {
	f     *excelize.File
	begun bool
	err   error
}

func (b *book) sheet(name string, rows [][]any) {
	if b.err != nil {
		return
	}
	if !b.begun {
		b.begun, b.err = true, b.f.SetSheetName("Sheet1", name)
	} else {
		_, b.err = b.f.NewSheet(name)
	}
	for i, row := range rows {
		b.row(name, i+1, row)
	}
}

func (b *book) row(sheet string, row int, cells []any) {
	if b.err == nil {
		b.err = b.f.SetSheetRow(sheet, fmt.Sprintf("A%d", row), &cells)
	}
}

// sums makes a cost the sum of other rows.
func (b *book) sums(sheet string, row int, of []int) {
	if b.err != nil || len(of) == 0 {
		return
	}
	formula := ""
	for _, r := range of {
		formula += fmt.Sprintf(",C%d", r)
	}
	b.err = b.f.SetCellFormula(sheet, fmt.Sprintf("C%d", row), "SUM("+formula[1:]+")")
}

func (b *book) width(sheet, column string, wide float64) {
	if b.err == nil {
		b.err = b.f.SetColWidth(sheet, column, column, wide)
	}
}
