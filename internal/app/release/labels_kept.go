package release

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/law"
)

// keptLabel keeps the words of a label as it is set now.
func keptLabel(v LabelView) kernel.LabelKept {
	c := v.content
	return kernel.LabelKept{Regime: v.Regime, Version: v.set.version, WidthMM: v.WidthMM, HeightMM: v.HeightMM,
		ProductName: c.ProductName, LegalName: c.LegalName, List: c.List, Contains: c.Contains,
		MayContain: c.MayContain,
		Allergens:  v.set.allergens, NetQuantity: c.NetQuantity, Nominal: c.Nominal, DateLine: c.DateLine,
		Storage: c.Storage, UseBy: c.UseBy, Directions: c.Directions, Lot: c.Lot, Business: c.Business, Hold: c.Hold,
		Shop: c.Shop, Claims: c.Claims, Nutrition: c.Nutrition, Barcode: c.Barcode, QR: c.QR,
		Form: v.Design.Form, Colour: v.Tint,
		Mono: v.Design.Mono, Jar: v.Jar}
}

// PrintView is a print as it was made: who, when, how many, and the label drawn from what was kept.
type PrintView struct {
	kernel.LabelKept
	At    time.Time `json:"at"`
	By    string    `json:"by"`
	Count int       `json:"count"`
	SVG   []string  `json:"svg"` // a drawing for each piece of paper
}

// Printed returns what a printed label said, drawn from what was kept. Errors: ErrNotFound where the entry is no print,
// or kept nothing.
func (a *Room) Printed(ctx context.Context, batch, entry int64) (PrintView, error) {
	e, err := a.Production.EntryOf(ctx, batch, entry)
	if err != nil {
		return PrintView{}, err
	}
	p, ok := e.Body.(*bench.Print)
	if !ok || len(p.Kept) == 0 {
		return PrintView{}, fmt.Errorf("entry %d kept no label: %w", entry, kernel.ErrNotFound)
	}
	out := PrintView{At: e.At, By: e.By, Count: p.Count}
	if err := json.Unmarshal(p.Kept, &out.LabelKept); err != nil {
		return out, fmt.Errorf("what entry %d printed: %w", entry, err)
	}
	under, err := law.Of(out.Regime)
	if err != nil {
		return out, err
	}
	mark, err := drawnMark(a.On(ctx))
	if err != nil {
		return out, err
	}
	layout, err := out.Drawn(under, mark)
	if err != nil {
		return out, err
	}
	for i := range layout.Pieces {
		svg, err := layout.SVG(i)
		if err != nil {
			return out, err
		}
		out.SVG = append(out.SVG, svg)
	}
	return out, nil
}
