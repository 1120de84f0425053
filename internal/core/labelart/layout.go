// Package labelart lays a label out in millimetres with measured text and draws the one layout to SVG for the
// screen and to PDF for print, so that what is seen is what is printed.
package labelart

import (
	_ "embed"
	"fmt"
	"math"
	"strings"
	"sync"
	"unicode/utf8"

	"gallipot/internal/core/law"

	"github.com/tdewolff/canvas"
)

//go:embed fonts/commissioner-latin-400-normal.woff2
var fontText []byte

//go:embed fonts/commissioner-latin-700-normal.woff2
var fontBold []byte

//go:embed fonts/literata-latin-600-normal.woff2
var fontTitle []byte

// faces are the fonts of a label. Ligatures are off so that text taken out of the PDF reads as it was written.
type faces struct{ text, title *canvas.FontFamily }

// drawing serialises use of the shared fonts: shaping keeps state inside a font.
var drawing sync.Mutex

var loadFaces = sync.OnceValues(func() (faces, error) {
	f := faces{canvas.NewFontFamily("Commissioner"), canvas.NewFontFamily("Literata")}
	if err := f.text.LoadFont(fontText, 0, canvas.FontRegular); err != nil {
		return f, fmt.Errorf("label font: %w", err)
	}
	if err := f.text.LoadFont(fontBold, 0, canvas.FontBold); err != nil {
		return f, fmt.Errorf("label font: %w", err)
	}
	if err := f.title.LoadFont(fontTitle, 0, canvas.FontSemiBold); err != nil {
		return f, fmt.Errorf("label font: %w", err)
	}
	f.text.SetFeatures("-liga")
	f.title.SetFeatures("-liga")
	return f, nil
})

// Content is what a label says.
type Content struct {
	Law         *law.Law
	ProductName string
	LegalName   string
	List        string // ** around emphasised words
	Contains    string
	MayContain  string // by the cross-contact assessment
	NetQuantity string
	Nominal     float64 // net grams or mL, for the least height of the figures
	DateLine    string
	Storage     string
	Directions  string // shake well, let stand …
	Lot         string
	Business    string // name and address, a line each
	Hold        bool   // a batch on hold prints HOLD stickers only
}

// Stock is a label stock in millimetres.
type Stock struct {
	WidthMM  float64 `json:"width_mm"`
	HeightMM float64 `json:"height_mm"`
}

// Limits of a stock that can be drawn.
const (
	MinSideMM = 20
	MaxSideMM = 300
)

// Check reports why a stock cannot be used.
func (s Stock) Check() error {
	for _, side := range []float64{s.WidthMM, s.HeightMM} {
		if math.IsNaN(side) || side < MinSideMM || side > MaxSideMM {
			return fmt.Errorf("a label side lies between %d and %d mm", MinSideMM, MaxSideMM)
		}
	}
	return nil
}

// AreaCM2 is the label's surface.
func (s Stock) AreaCM2() float64 { return s.WidthMM * s.HeightMM / 100 }

// Box is one block of text with its place in mm from the top left.
type Box struct {
	Part                string
	X, Y, Width, Height float64
	text                *canvas.Text
}

// Layout is a label set on a stock.
type Layout struct {
	Stock       Stock
	Boxes       []Box
	BodyPt      float64 // size of the ingredient list
	XHeightMM   float64 // its lower-case height
	FigureMM    float64 // height of the net quantity figures
	LeastMM     float64 // what the law asks of the lower-case height
	LeastFigure float64
	ShortMM     float64 // by how much it does not fit; 0 when it fits
	Unprintable []string
	content     Content
	faces       faces
}

// Type sizes in points and spaces in mm. Legal minima come from the law.
const (
	marginMM     = 3.0
	gapMM        = 1.2
	ruleGapMM    = 1.0
	bodyMaxPt    = 9.5
	titleMaxPt   = 19.0
	titleMinPt   = 8.0
	smallestStep = 0.1
	ptPerMM      = 72 / 25.4
	capShare     = 0.70 // figures of Commissioner: height by size; checked by a test against the font
	titleLeading = 0.02
	bodyLeading  = 0.06
)

// Lay sets the content on the stock: type shrinks from comfortable to the legal least, never under. Where it still
// does not fit, ShortMM says by how much. It returns an error for an impossible stock.
func Lay(c Content, s Stock) (*Layout, error) {
	if err := s.Check(); err != nil {
		return nil, err
	}
	f, err := loadFaces()
	if err != nil {
		return nil, err
	}
	drawing.Lock()
	defer drawing.Unlock()
	l := &Layout{Stock: s, content: c, faces: f, LeastMM: c.Law.XHeightMM(s.AreaCM2()),
		LeastFigure: c.Law.FigureMM(c.Nominal, s.AreaCM2())}
	l.Unprintable = l.missingGlyphs(c)
	if c.Hold {
		l.layHold()
		return l, nil
	}
	per := xHeightPerPt(f)
	least := math.Ceil(l.LeastMM/per*10) / 10
	for pt := max(bodyMaxPt, least); ; pt -= smallestStep {
		pt = math.Round(max(pt, least)*10) / 10
		needed := l.stack(pt, pt/max(bodyMaxPt, least))
		l.BodyPt, l.XHeightMM = pt, pt*per
		l.ShortMM = max(0, needed-s.HeightMM)
		if l.ShortMM == 0 || pt <= least {
			return l, nil
		}
	}
}

func xHeightPerPt(f faces) float64 {
	face := f.text.Face(100.0, canvas.Black, canvas.FontRegular)
	return face.Metrics().XHeight / 100
}

// stack sets all blocks from the top and the foot from below, and returns the height that the label would need.
func (l *Layout) stack(pt, generosity float64) float64 {
	l.Boxes = l.Boxes[:0]
	width := l.Stock.WidthMM - 2*marginMM
	y := marginMM
	put := func(part string, t *canvas.Text, gap float64) {
		if t == nil {
			return
		}
		h := t.Bounds().H()
		l.Boxes = append(l.Boxes, Box{part, marginMM, y, width, h, t})
		y += h + gap
	}
	put("name", l.title(l.content.ProductName, width, generosity), ruleGapMM)
	l.Boxes = append(l.Boxes, Box{Part: "rule", X: marginMM, Y: y, Width: width, Height: 0.3})
	y += 0.3 + ruleGapMM
	put("legal name", l.rich(l.content.LegalName, pt, width), gapMM)
	put("ingredients", l.rich("**Ingredients:** "+l.content.List, pt, width), gapMM/2)
	put("contains", l.rich(bold(l.content.Contains), pt, width), gapMM)
	put("may contain", l.rich(l.content.MayContain, pt, width), gapMM)
	put("directions", l.rich(l.content.Directions, pt, width), gapMM/2)
	put("storage", l.rich(l.content.Storage, pt, width), gapMM/2)
	put("date", l.rich(bold(l.content.DateLine), pt, width), gapMM/2)
	put("lot", l.rich(l.content.Lot, pt, width), gapMM/2)
	body := y
	foot := l.foot(pt, width)
	return body + foot + marginMM
}

func bold(s string) string {
	if s == "" {
		return ""
	}
	return "**" + s + "**"
}

// foot sets the net quantity in the lowest part of the panel with the maker's name and address beside it, or above it
// where the label is narrow, and returns its height.
func (l *Layout) foot(pt, width float64) float64 {
	l.FigureMM = l.LeastFigure
	qty := l.line(l.content.NetQuantity, max(pt, l.LeastFigure/capShare*ptPerMM))
	business := l.rich(l.content.Business, l.smallest(pt), width)
	bottom := l.Stock.HeightMM - marginMM
	qh, qw := 0.0, 0.0
	if qty != nil {
		qh, qw = qty.Bounds().H(), qty.Bounds().W()
		l.FigureMM = max(pt, l.LeastFigure/capShare*ptPerMM) / ptPerMM * capShare
		l.Boxes = append(l.Boxes, Box{"net quantity", marginMM, bottom - qh, qw, qh, qty})
	}
	if business == nil {
		return qh
	}
	const leastBeside = 24.0
	if beside := width - qw - 3; beside >= leastBeside {
		if t := l.rich(l.content.Business, l.smallest(pt), beside); !t.Overflows {
			bh := t.Bounds().H()
			l.Boxes = append(l.Boxes, Box{"business", marginMM + qw + 3, bottom - bh, beside, bh, t})
			return max(qh, bh)
		}
	}
	bh := business.Bounds().H()
	l.Boxes = append(l.Boxes, Box{"business", marginMM, bottom - qh - gapMM/2 - bh, width, bh, business})
	return qh + gapMM/2 + bh
}

// smallest is the least size for words outside the list: never under the legal least either.
func (l *Layout) smallest(pt float64) float64 {
	return max(l.LeastMM/xHeightPerPt(l.faces), pt*0.9)
}

// title sets the product name as large as its words allow in at most two lines.
func (l *Layout) title(s string, width, generosity float64) *canvas.Text {
	if strings.TrimSpace(s) == "" {
		return nil
	}
	for pt := titleMaxPt * generosity; ; pt -= 0.5 {
		face := l.faces.title.Face(max(pt, titleMinPt), canvas.Black, canvas.FontSemiBold)
		t := canvas.NewTextBox(face, s, width, 0, canvas.Left, canvas.Top,
			&canvas.TextOptions{LineStretch: titleLeading})
		if pt <= titleMinPt || t.Lines() <= 2 && !t.Overflows && widest(face, s) <= width {
			return t
		}
	}
}

func widest(face *canvas.FontFace, s string) float64 {
	w := 0.0
	for _, word := range strings.Fields(s) {
		w = max(w, face.TextWidth(word))
	}
	return w
}

// rich sets text with ** around bold words.
func (l *Layout) rich(s string, pt, width float64) *canvas.Text {
	if strings.TrimSpace(s) == "" {
		return nil
	}
	regular := l.faces.text.Face(pt, canvas.Black, canvas.FontRegular)
	strong := l.faces.text.Face(pt, canvas.Black, canvas.FontBold)
	rt := canvas.NewRichText(regular)
	for i, run := range strings.Split(s, "**") {
		if run == "" {
			continue
		}
		if i%2 == 1 {
			rt.WriteFace(strong, run)
		} else {
			rt.WriteFace(regular, run)
		}
	}
	return rt.ToText(width, 0, canvas.Left, canvas.Top, &canvas.TextOptions{LineStretch: bodyLeading})
}

func (l *Layout) line(s string, pt float64) *canvas.Text {
	if s == "" {
		return nil
	}
	return canvas.NewTextLine(l.faces.text.Face(pt, canvas.Black, canvas.FontBold), s, canvas.Left)
}

// layHold sets a HOLD sticker: the word as large as the stock allows, product and lot below.
func (l *Layout) layHold() {
	width := l.Stock.WidthMM - 2*marginMM
	pt := 10.0
	for ; pt < 200; pt++ {
		face := l.faces.text.Face(pt+1, canvas.Black, canvas.FontBold)
		if face.TextWidth("HOLD") > width || (pt+1)/ptPerMM > l.Stock.HeightMM*0.45 {
			break
		}
	}
	word := canvas.NewTextBox(l.faces.text.Face(pt, canvas.Black, canvas.FontBold), "HOLD", width, 0, canvas.Center,
		canvas.Top, nil)
	y := marginMM
	h := word.Bounds().H()
	l.Boxes = append(l.Boxes, Box{"hold", marginMM, y, width, h, word})
	y += h + gapMM
	for _, part := range []struct{ name, text string }{
		{"name", l.content.ProductName}, {"lot", l.content.Lot}, {"words", "Not for sale until released."},
	} {
		if t := l.rich(part.text, 8, width); t != nil {
			l.Boxes = append(l.Boxes, Box{part.name, marginMM, y, width, t.Bounds().H(), t})
			y += t.Bounds().H() + gapMM/2
		}
	}
	l.ShortMM = max(0, y+marginMM-l.Stock.HeightMM)
	l.BodyPt, l.XHeightMM = 8, 8*xHeightPerPt(l.faces)
}

// missingGlyphs lists characters that the label fonts do not hold, so that nothing is printed as a blank box.
func (l *Layout) missingGlyphs(c Content) []string {
	var out []string
	seen := map[rune]bool{}
	all := strings.Join([]string{c.ProductName, c.LegalName, c.List, c.Contains, c.MayContain, c.NetQuantity,
		c.DateLine, c.Storage,
		c.Directions, c.Lot, c.Business}, "")
	sfnt := l.faces.text.Face(10.0, canvas.Black, canvas.FontRegular).Font.SFNT
	for _, r := range all {
		if r == '\n' || seen[r] || r == utf8.RuneError {
			continue
		}
		seen[r] = true
		if sfnt.GlyphIndex(r) == 0 {
			out = append(out, string(r))
		}
	}
	return out
}

// Fits reports whether everything is on the label at a legal size.
func (l *Layout) Fits() bool { return l.ShortMM == 0 && len(l.Unprintable) == 0 }

// Advice says what could go where a label does not fit.
func (l *Layout) Advice() string {
	if l.ShortMM == 0 {
		return ""
	}
	return fmt.Sprintf("It is %.1f mm too tall at the least legal type: take a stock %.0f mm high, a second panel, or a shorter list wording.",
		l.ShortMM, math.Ceil(l.Stock.HeightMM+l.ShortMM))
}
