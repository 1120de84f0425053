package office

import (
	"fmt"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/shop"
)

// leadSteps are what leads to a first label, in order.
var leadSteps = []string{"recipe", "price", "lock", "batch", "reading", "label"}

// lead says what a new shop does next; nil once a label was printed, or where the shop wants no lead.
func (a *Room) lead(st kernel.Store, s shop.Settings) (*kernel.Lead, error) {
	if s.LeadLeft {
		return nil, nil
	}
	b, err := st.Begun()
	if err != nil || b.Printed {
		return nil, err
	}
	done := map[string]bool{"recipe": b.Formula != "", "price": b.Priced && b.Unpriced == "", "lock": b.Locked > 0,
		"batch": b.Batch > 0, "reading": b.Released}
	sheet := "/formulas/" + b.Formula
	links := map[string]string{"recipe": "/reader", "price": sheet, "lock": sheet,
		"batch": fmt.Sprintf("%s/%d", sheet, b.Locked), "reading": fmt.Sprintf("/batches/%d", b.Batch),
		"label": "/labels?make=" + b.Formula}
	if b.Unpriced != "" {
		links["price"] = "/pantry/" + b.Unpriced
	}
	if b.Label > 0 {
		links["label"] = fmt.Sprintf("/labels/%d?batch=%d", b.Label, b.Batch)
	}
	out := kernel.Lead{Done: []string{}, Name: b.Name}
	for _, step := range leadSteps {
		switch {
		case done[step]:
			out.Done = append(out.Done, step)
		case out.Next == "":
			out.Next, out.Link = step, links[step]
		}
	}
	return &out, nil
}
