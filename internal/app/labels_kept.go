package app

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
)

// LabelKept is what a printed label said, word for word, with the stock it stood on.
type LabelKept struct {
	Regime      law.Regime `json:"regime"`
	Version     int        `json:"version"`
	WidthMM     float64    `json:"width_mm"`
	HeightMM    float64    `json:"height_mm"`
	ProductName string     `json:"product_name"`
	LegalName   string     `json:"legal_name"`
	List        string     `json:"list"`
	Contains    string     `json:"contains"`
	MayContain  string     `json:"may_contain,omitempty"`
	Allergens   []string   `json:"allergens"`
	NetQuantity string     `json:"net_quantity"`
	Nominal     float64    `json:"nominal"`
	DateLine    string     `json:"date_line"`
	Storage     string     `json:"storage"`
	Directions  string     `json:"directions"`
	Lot         string     `json:"lot"`
	Business    string     `json:"business"`
	Hold        bool       `json:"hold"`
}

// keptLabel takes the words of a label as it is set.
func keptLabel(v LabelView) LabelKept {
	c := v.content
	return LabelKept{Regime: v.Regime, Version: v.set.version, WidthMM: v.WidthMM, HeightMM: v.HeightMM,
		ProductName: c.ProductName, LegalName: c.LegalName, List: c.List, Contains: c.Contains,
		MayContain: c.MayContain,
		Allergens:  v.set.allergens, NetQuantity: c.NetQuantity, Nominal: c.Nominal, DateLine: c.DateLine,
		Storage: c.Storage, Directions: c.Directions, Lot: c.Lot, Business: c.Business, Hold: c.Hold}
}

// PrintView is a print as it was made: who, when, how many, and the label drawn from what was kept.
type PrintView struct {
	LabelKept
	At    time.Time `json:"at"`
	By    string    `json:"by"`
	Count int       `json:"count"`
	SVG   string    `json:"svg"`
}

// Printed returns what a printed label said, drawn from what was kept. Errors: ErrNotFound where the entry is no print,
// or kept nothing.
func (a *App) Printed(ctx context.Context, batch, entry int64) (PrintView, error) {
	e, err := a.entryOf(ctx, batch, entry)
	if err != nil {
		return PrintView{}, err
	}
	p, is := e.Body.(*bench.Print)
	if !is || len(p.Kept) == 0 {
		return PrintView{}, fmt.Errorf("entry %d kept no label: %w", entry, ErrNotFound)
	}
	out := PrintView{At: e.At, By: e.By, Count: p.Count}
	if err := json.Unmarshal(p.Kept, &out.LabelKept); err != nil {
		return out, fmt.Errorf("what entry %d printed: %w", entry, err)
	}
	under, err := law.Of(out.Regime)
	if err != nil {
		return out, err
	}
	layout, err := labelart.Lay(labelart.Content{Law: under, ProductName: out.ProductName, LegalName: out.LegalName,
		List: out.List, Contains: out.Contains, MayContain: out.MayContain, NetQuantity: out.NetQuantity,
		Nominal:  out.Nominal,
		DateLine: out.DateLine, Storage: out.Storage, Directions: out.Directions, Lot: out.Lot, Business: out.Business,
		Hold: out.Hold}, labelart.Stock{WidthMM: out.WidthMM, HeightMM: out.HeightMM})
	if err != nil {
		return out, err
	}
	out.SVG, err = layout.SVG()
	return out, err
}
