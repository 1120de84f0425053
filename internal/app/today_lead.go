package app

import "fmt"

// Lead is what a new shop has done of what comes before its first label, and what comes next: one step at a time.
type Lead struct {
	Done []string `json:"done"` // in order: recipe, price, lock, batch, reading, label
	Next string   `json:"next"`
	Link string   `json:"link"` // where the next is done
	Name string   `json:"name"` // of the product it is about; empty before there is one
}

// Begun is how far a shop has come. Formula is the product that was worked on last that has lines.
type Begun struct {
	Formula  string
	Name     string
	Version  int    // its newest
	Priced   bool   // somebody noted a price
	Unpriced string // an ingredient of it without a price
	Locked   int    // its newest locked version; 0 for none
	Batch    int64  // its newest batch
	Released bool   // that was read and released
	Label    int64  // its newest label
	Printed  bool   // labels of any batch were printed
}

// leadSteps are what leads to a first label, in order.
var leadSteps = []string{"recipe", "price", "lock", "batch", "reading", "label"}

// lead says what a new shop does next; nil once a label was printed, or where the shop wants no lead.
func (a *App) lead(st Store, s Settings) (*Lead, error) {
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
	out := Lead{Done: []string{}, Name: b.Name}
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
