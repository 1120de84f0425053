package labelart

import (
	"fmt"
	"image/color"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"gallipot/internal/core/declaration"
	"gallipot/internal/core/law"
)

// Content is what a label says.
type Content struct {
	Law         *law.Law
	Shop        string // that stands in the band
	ProductName string
	LegalName   string
	List        string // ** around emphasised words
	Contains    string
	Allergens   string // in plain words, for a pack too small for the list
	MayContain  string // by the cross-contact assessment
	Claims      string
	NetQuantity string
	Nominal     float64 // net grams or mL, for the least height of the figures
	DateLine    string
	Storage     string
	UseBy       bool   // the storage sentence belongs to the date (Regulation 1169/2011 annex X 2(c))
	Directions  string // shake well, let stand …
	Lot         string
	Business    string // name and address, a line each
	Nutrition   *declaration.NutritionPanel
	Barcode     string // EAN-13 or UPC-A with its check digit
	QR          string // words or an address for a telephone
	Hold        bool   // a batch on hold prints HOLD stickers only
}

// Forms of a label.
const (
	Plain  = "plain"  // all on one face, in black
	Banded = "banded" // a strip around the jar with a band of the product's colour
	Two    = "two"    // a label for the front and one for the back
)

// Forms lists them.
var Forms = []string{Plain, Banded, Two}

// Design is how a label looks.
type Design struct {
	Form   string
	Colour string // of the band as #rrggbb; empty for ink
	Mark   *Mark  // the shop's, or none
	Mono   bool   // printed in black alone
}

var hexColour = regexp.MustCompile(`^#[0-9a-f]{6}$`)

// Check reports why a design cannot be drawn.
func (d Design) Check() error {
	switch {
	case !slices.Contains(Forms, d.Form):
		return fmt.Errorf("a label is %s", strings.Join(Forms, ", "))
	case d.Colour != "" && !hexColour.MatchString(d.Colour):
		return fmt.Errorf("a colour is written #rrggbb")
	}
	return nil
}

// paint is the colour of the band, and the colour of letters on it that reads best.
func (d Design) paint() (band, on color.RGBA) {
	ink := color.RGBA{0x12, 0x1c, 0x33, 0xff}
	if d.Mono {
		return color.RGBA{A: 0xff}, color.RGBA{0xff, 0xff, 0xff, 0xff}
	}
	band = ink
	if hexColour.MatchString(d.Colour) {
		n, err := strconv.ParseUint(d.Colour[1:], 16, 32)
		if err == nil {
			band = color.RGBA{uint8(n >> 16), uint8(n >> 8), uint8(n), 0xff} //nolint:gosec // masked by the type
		}
	}
	white := color.RGBA{0xff, 0xff, 0xff, 0xff}
	if contrast(band, white) >= contrast(band, ink) {
		return band, white
	}
	return band, ink
}

// Tint is the colour of the band as #rrggbb.
func (d Design) Tint() string {
	band, _ := d.paint()
	return fmt.Sprintf("#%02x%02x%02x", band.R, band.G, band.B)
}

// contrast is that of WCAG 2.2 (relative luminance).
func contrast(a, b color.RGBA) float64 {
	x, y := luminance(a), luminance(b)
	return (max(x, y) + 0.05) / (min(x, y) + 0.05)
}

func luminance(c color.RGBA) float64 {
	linear := func(v uint8) float64 {
		x := float64(v) / 255
		if x <= 0.04045 {
			return x / 12.92
		}
		return math.Pow((x+0.055)/1.055, 2.4)
	}
	return 0.2126*linear(c.R) + 0.7152*linear(c.G) + 0.0722*linear(c.B)
}

// Size is that of one label in millimetres.
type Size struct {
	WidthMM  float64 `json:"width_mm"`
	HeightMM float64 `json:"height_mm"`
}

// Limits of a label that can be drawn.
const (
	MinSideMM = 20
	MaxSideMM = 300
)

// Check reports why a size cannot be used.
func (s Size) Check() error {
	for _, side := range []float64{s.WidthMM, s.HeightMM} {
		if math.IsNaN(side) || side < MinSideMM || side > MaxSideMM {
			return fmt.Errorf("a label side lies between %d and %d mm", MinSideMM, MaxSideMM)
		}
	}
	return nil
}

// AreaCM2 is the label's surface.
func (s Size) AreaCM2() float64 { return s.WidthMM * s.HeightMM / 100 }

// every joins all words, for what is drawn and for what a reader hears.
func (c Content) every() []string {
	out := []string{c.ProductName, c.LegalName, c.NetQuantity, c.Directions, "Ingredients: " + c.List, c.Contains,
		c.MayContain, c.Claims, c.Storage, c.DateLine, c.Lot, c.Business}
	if c.List == "" {
		out[4] = ""
	}
	if c.Nutrition != nil {
		out = append(out, c.Nutrition.Words()...)
	}
	return slices.DeleteFunc(out, func(s string) bool { return s == "" })
}
