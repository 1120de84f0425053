package interchange

import (
	"encoding/csv"
	"fmt"
	"io"

	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
)

// WriteShopping writes what is to be got for a batch as CSV: a row an ingredient, grams as they are bought, packs and
// what they cost in the shop's currency. A missing price leaves its cell empty.
func WriteShopping(w io.Writer, v production.PlanView, currency string) error {
	out := csv.NewWriter(w)
	rows := [][]string{{"ingredient", "needed g", "on the shelf g", "short g", "pieces", "packs", "pack", "supplier",
		"cost " + currency, "left over g"}}
	count := func(n int) string {
		if n == 0 {
			return ""
		}
		return fmt.Sprint(n)
	}
	for _, b := range v.Shopping.Buy {
		cost := ""
		if b.Cost != nil {
			cost = b.Cost.Fixed(2)
		}
		rows = append(rows, []string{plainCell(b.Name), whole(b.Need), whole(b.There), whole(b.Short), count(b.Pieces),
			count(b.Packs), b.Pack, plainCell(b.Supplier), cost, whole(b.Over)})
	}
	for _, m := range v.Made {
		rows = append(rows, []string{plainCell(m.Name), whole(m.Need), whole(m.There), whole(m.Need.Minus(m.There)), "",
			"",
			"made here", "", "", ""})
	}
	if err := out.WriteAll(rows); err != nil {
		return err
	}
	return out.Error()
}

func whole(g amount.Grams) string {
	if g.IsNegative() {
		return "0"
	}
	return g.Exact().Fixed(1)
}
