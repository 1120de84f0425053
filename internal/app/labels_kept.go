package app

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/declaration"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pack"
	"gallipot/internal/core/pantry"
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
	UseBy       bool       `json:"use_by,omitempty"`
	Directions  string     `json:"directions"`
	Lot         string     `json:"lot"`
	Business    string     `json:"business"`
	Hold        bool       `json:"hold"`
	// how it looked; a print from before that was kept is drawn plain
	Shop      string                      `json:"shop,omitempty"`
	Claims    string                      `json:"claims,omitempty"`
	Nutrition *declaration.NutritionPanel `json:"nutrition,omitempty"`
	Barcode   string                      `json:"barcode,omitempty"`
	QR        string                      `json:"qr,omitempty"`
	Form      string                      `json:"form,omitempty"`
	Colour    string                      `json:"colour,omitempty"`
	Mono      bool                        `json:"mono,omitempty"`
	Jar       *pack.Jar                   `json:"jar,omitempty"`
}

// keptLabel takes the words of a label as it is set.
func keptLabel(v LabelView) LabelKept {
	c := v.content
	return LabelKept{Regime: v.Regime, Version: v.set.version, WidthMM: v.WidthMM, HeightMM: v.HeightMM,
		ProductName: c.ProductName, LegalName: c.LegalName, List: c.List, Contains: c.Contains,
		MayContain: c.MayContain,
		Allergens:  v.set.allergens, NetQuantity: c.NetQuantity, Nominal: c.Nominal, DateLine: c.DateLine,
		Storage: c.Storage, UseBy: c.UseBy, Directions: c.Directions, Lot: c.Lot, Business: c.Business, Hold: c.Hold,
		Shop: c.Shop, Claims: c.Claims, Nutrition: c.Nutrition, Barcode: c.Barcode, QR: c.QR,
		Form: v.Design.Form, Colour: v.Tint,
		Mono: v.Design.Mono, Jar: v.Jar}
}

// facts are the words that a difference is told over.
func (k LabelKept) facts() LabelFacts {
	return LabelFacts{Name: k.ProductName, LegalName: k.LegalName, List: k.List, Contains: k.Contains,
		NetQuantity: k.NetQuantity, Directions: k.Directions, Allergens: k.Allergens}
}

// drawn is the label as it was printed.
func (k LabelKept) drawn(under *law.Law, mark *labelart.Mark) (*labelart.Layout, error) {
	design := labelart.Design{Form: cmp.Or(k.Form, labelart.Plain), Colour: k.Colour, Mono: k.Mono, Mark: mark}
	jar := pack.Jar{}
	if k.Jar != nil {
		jar = *k.Jar
	}
	return labelart.Lay(labelart.Content{Law: under, Shop: k.Shop, ProductName: k.ProductName, LegalName: k.LegalName,
		List: k.List, Contains: k.Contains, MayContain: k.MayContain, Claims: k.Claims, NetQuantity: k.NetQuantity,
		Allergens: pantry.PlainAllergens(k.Allergens), Nominal: k.Nominal, DateLine: k.DateLine, Storage: k.Storage,
		UseBy:      k.UseBy,
		Directions: k.Directions, Lot: k.Lot, Business: k.Business, Nutrition: k.Nutrition, Barcode: k.Barcode,
		QR: k.QR, Hold: k.Hold}, design, labelart.Size{WidthMM: k.WidthMM, HeightMM: k.HeightMM}, jar)
}

// PrintView is a print as it was made: who, when, how many, and the label drawn from what was kept.
type PrintView struct {
	LabelKept
	At    time.Time `json:"at"`
	By    string    `json:"by"`
	Count int       `json:"count"`
	SVG   []string  `json:"svg"` // a drawing for each piece of paper
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
	mark, err := drawnMark(a.on(ctx))
	if err != nil {
		return out, err
	}
	layout, err := out.drawn(under, mark)
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
