package interchange

import (
	"encoding/csv"
	"fmt"
	"io"
	"strconv"

	"gallipot/internal/app/release"
	"gallipot/internal/core/trace"
)

// WriteTrace writes a trace as rows: what went from where to where, with what is known of both ends.
func WriteTrace(w io.Writer, v release.TraceView) error {
	out := csv.NewWriter(w)
	nodes := map[string]trace.Node{}
	for _, n := range v.Nodes {
		nodes[n.Key] = n
	}
	rows := [][]string{{"from", "from_code", "from_name", "supplier", "suppliers_lot", "day", "grams", "jars", "to",
		"to_code", "to_name", "to_state", "to_by"}}
	for _, f := range v.Flows {
		a, b := nodes[f.From], nodes[f.To]
		grams, jars := "", ""
		if f.Jars > 0 {
			jars = strconv.Itoa(f.Jars)
		} else {
			grams = f.Grams.String()
		}
		rows = append(rows, []string{a.Kind, a.Code, a.Name, a.Supplier, a.Said, string(a.Day), grams, jars, b.Kind,
			b.Code,
			b.Name,
			b.State, b.By})
	}
	for _, row := range rows {
		for i := range row {
			row[i] = plainCell(row[i])
		}
	}
	if err := out.WriteAll(rows); err != nil {
		return fmt.Errorf("trace: %w", err)
	}
	return nil
}
