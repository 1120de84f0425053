package labelart

import (
	"errors"
	"fmt"
	"image/color"
	"regexp"

	"gallipot/internal/core/declaration"

	"github.com/boombuler/barcode/ean"
	"github.com/boombuler/barcode/qr"
	"github.com/tdewolff/canvas"
)

// counted sets what is counted and scanned: the nutrition panel and the barcode. It returns where they end.
func (l *Layout) counted(p *Piece, in panel, y float64) float64 {
	if n := l.content.Nutrition; n != nil {
		y = l.nutrition(p, panel{in.x, y + gapMM, in.width, in.bottom}, n) + gapMM
	}
	bottom := y
	left := in.width
	if l.content.Barcode != "" {
		bottom = l.bars(p, panel{in.x, y, in.width, in.bottom}) + gapMM
		left = in.width - p.Boxes[len(p.Boxes)-1].Width - gapMM
	}
	if l.content.QR != "" {
		bottom = max(bottom, l.square(p, panel{in.x, y, in.width, in.bottom}, left, bottom)+gapMM)
	}
	return bottom
}

// The module of a QR code that telephones read, and its quiet zone in modules (ISO/IEC 18004).
const (
	qrModuleMM = 0.42
	qrQuiet    = 4
)

// CheckQR reports why a text cannot stand in a QR code of a label.
func CheckQR(s string) error {
	if s == "" {
		return nil
	}
	if len(s) > mostQR {
		return fmt.Errorf("at most %d characters, so that the squares stay large enough to read", mostQR)
	}
	_, err := qr.Encode(s, qr.M, qr.Auto)
	return err
}

const mostQR = 120

// square draws a QR code beside the barcode where so much is left, else under it. It returns where it ends.
func (l *Layout) square(p *Piece, in panel, left, under float64) float64 {
	code, err := qr.Encode(l.content.QR, qr.M, qr.Auto)
	if err != nil {
		return in.y // CheckQR let nothing through that cannot be drawn
	}
	n := code.Bounds().Dx()
	side := float64(n+2*qrQuiet) * qrModuleMM
	y := in.y
	if side > left {
		y = under
	}
	l.WideMM = max(l.WideMM, over(side-in.width))
	p.Boxes = append(p.Boxes, Box{Part: "qr", X: in.x, Y: y, Width: side, Height: side,
		art: func(ctx *canvas.Context, b Box, high float64) {
			ctx.SetFillColor(canvas.Black)
			for x := range n {
				for row := range n {
					if isDark(code.At(x, row)) {
						ctx.DrawPath(b.X+float64(x+qrQuiet)*qrModuleMM, high-b.Y-float64(row+qrQuiet+1)*qrModuleMM,
							canvas.Rectangle(qrModuleMM, qrModuleMM))
					}
				}
			}
		}})
	return y + side
}

// nutrition sets the panel in a frame, a row a line, amounts at the right.
func (l *Layout) nutrition(p *Piece, in panel, n *declaration.NutritionPanel) float64 {
	const inset, rowGap = 1.2, 0.5
	pt := l.smallest()
	f := flow{l, p, panel{in.x + inset, in.y + inset, in.width - 2*inset, in.bottom}, in.y + inset}
	text := func(s string, strong bool) *canvas.Text {
		if strong {
			s = bold(s)
		}
		return l.faces.rich(s, pt, f.in.width, canvas.Left)
	}
	f.put("nutrition title", l.faces.line(n.Title, pt*titleGrowth(n), true), pt*titleGrowth(n), rowGap)
	for _, s := range n.Serving {
		f.put("serving", text(s, false), pt, rowGap)
	}
	thin := func(high float64) {
		p.Boxes = append(p.Boxes, Box{Part: "rule", X: f.in.x, Y: f.y, Width: f.in.width, Height: high, fill: black()})
		f.y += high + rowGap
	}
	thin(lineMM)
	rows := append([]declaration.NutritionRow{{Values: n.Columns}}, n.Rows...)
	columns := l.columns(n.Width(), rows)
	for i, r := range rows {
		if i > 0 {
			thin(lineMM / 2)
		}
		own := columns
		if len(columns) == 1 { // a name takes what its own figure leaves
			own = l.columns(1, rows[i:i+1])
		}
		f.y = l.nutritionRow(p, f.in, f.y, r, own) + rowGap
	}
	if n.Foot != "" {
		thin(lineMM)
		f.put("nutrition foot", text(n.Foot, false), pt, rowGap)
	}
	bottom := f.y - rowGap + inset
	p.Boxes = append(p.Boxes, Box{Part: "frame", X: in.x, Y: in.y, Width: in.width, Height: bottom - in.y, art: frame})
	return bottom
}

// columns are as wide as the widest value of each.
func (l *Layout) columns(n int, rows []declaration.NutritionRow) []float64 {
	const apart = 1.5
	out := make([]float64, n)
	for _, r := range rows {
		for i, v := range r.Values {
			if t := l.faces.line(v, l.smallest(), r.Strong || r.Name == ""); t != nil {
				out[i] = max(out[i], t.Bounds().W()+apart)
			}
		}
	}
	return out
}

// titleGrowth is by how much the panel's title stands out.
func titleGrowth(n *declaration.NutritionPanel) float64 {
	if n.Heavy {
		return 1.5
	}
	return 1.05
}

func (l *Layout) nutritionRow(p *Piece, in panel, y float64, r declaration.NutritionRow, columns []float64) float64 {
	const indent = 2.0
	pt, room := l.smallest(), in.width
	for _, c := range columns {
		room -= c
	}
	x := in.x + indent*float64(r.Indent)
	width := room - indent*float64(r.Indent)
	name := r.Name
	if r.Strong {
		name = bold(name)
	}
	label := l.faces.rich(name, pt, width, canvas.Left)
	l.add(p, "nutrition", label, pt, x, y, width)
	tallest := high(label)
	at := in.x + room
	for i, v := range r.Values {
		if t := l.faces.line(v, pt, r.Strong || r.Name == ""); t != nil {
			l.add(p, "nutrition", t, pt, at+columns[i]-t.Bounds().W()-0.1, y, t.Bounds().W()+0.1)
			tallest = max(tallest, high(t))
		}
		at += columns[i]
	}
	return y + tallest
}

func black() *color.RGBA { return &color.RGBA{A: 0xff} }

// frame strokes a box.
func frame(ctx *canvas.Context, b Box, high float64) {
	ctx.SetFillColor(canvas.Transparent)
	ctx.SetStrokeColor(canvas.Black)
	ctx.SetStrokeWidth(lineMM)
	ctx.DrawPath(b.X, high-b.Y-b.Height, canvas.Rectangle(b.Width, b.Height))
	ctx.SetStrokeColor(canvas.Transparent)
}

// place marks the corners of a place that is printed into later.
func place(ctx *canvas.Context, b Box, high float64) {
	const arm = 2.0
	ctx.SetFillColor(color.RGBA{0x9a, 0xa6, 0xb8, 0xff})
	for _, right := range []float64{0, 1} {
		for _, foot := range []float64{0, 1} {
			x, y := b.X+right*b.Width, high-b.Y-foot*b.Height
			ctx.DrawPath(x-right*arm, y-(1-foot)*lineMM, canvas.Rectangle(arm, lineMM))
			ctx.DrawPath(x-right*lineMM, y-(1-foot)*arm, canvas.Rectangle(lineMM, arm))
		}
	}
}

// Dimensions of an EAN-13 symbol at its nominal size (GS1 General Specifications 5.2): 95 modules with quiet zones of
// 11 and 7, in mm; it may be printed from 80 % on. UPC-A is an EAN-13 that begins with 0, with 9 modules at each side.
const (
	moduleMM     = 0.33
	symbolMod    = 95
	quietLeft    = 11
	quietRight   = 9
	barsHighMM   = 22.85
	guardMM      = 5 * moduleMM
	digitsMM     = 3.4
	leastSymbol  = 0.8
	upcDigits    = 12
	digitsEAN    = 13
	symbolDigits = 7.5 // size of the digits in points at the nominal size
)

var digitsOnly = regexp.MustCompile(`^[0-9]+$`)

// CheckBarcode reports why a number is no EAN-13 or UPC-A: one is 12 or 13 digits, and its last one is computed from
// the others.
func CheckBarcode(s string) error {
	if s == "" {
		return nil
	}
	if !digitsOnly.MatchString(s) || len(s) != upcDigits && len(s) != digitsEAN {
		return errors.New("an EAN-13 has 13 digits, a UPC-A 12")
	}
	if want := checkDigit(s[:len(s)-1]); want != s[len(s)-1] {
		return fmt.Errorf("the last digit does not check: by the others it is %c", want)
	}
	return nil
}

// checkDigit is that of GS1: digits counted from the right by 3 and 1 in turn, up to the next ten.
func checkDigit(s string) byte {
	sum := 0
	for i := range len(s) {
		d := int(s[len(s)-1-i] - '0')
		if i%2 == 0 {
			d *= 3
		}
		sum += d
	}
	return byte('0' + (10-sum%10)%10) //nolint:gosec // one digit
}

// bars draws the barcode at its real size with its quiet zones. It returns where it ends.
func (l *Layout) bars(p *Piece, in panel) float64 {
	scale := 1.0
	full := float64(symbolMod+quietLeft+quietRight) * moduleMM
	if in.width < full {
		scale = max(leastSymbol, in.width/full)
	}
	l.symbolScale = scale
	l.WideMM = max(l.WideMM, over(full*scale-in.width))
	width, tall := full*scale, (barsHighMM+digitsMM-guardMM)*scale
	code := l.content.Barcode
	p.Boxes = append(p.Boxes, Box{Part: "barcode", X: in.x + in.width - width, Y: in.y, Width: width, Height: tall,
		art: func(ctx *canvas.Context, b Box, high float64) { l.symbol(ctx, b, high, code, scale) }})
	return in.y + tall
}

// barcodeSize says at which size the barcode stands.
func (l *Layout) barcodeSize() string {
	if l.symbolScale == 1 {
		return "at its nominal size"
	}
	return fmt.Sprintf("at %.0f %% of its nominal size, 80 %% being the least that is read", 100*l.symbolScale)
}

// symbol draws the bars and the digits under them.
func (l *Layout) symbol(ctx *canvas.Context, b Box, high float64, code string, scale float64) {
	shown := code
	if len(code) == upcDigits {
		code = "0" + code
	}
	bars, err := ean.Encode(code)
	if err != nil {
		return // CheckBarcode let nothing through that cannot be drawn
	}
	ctx.SetFillColor(canvas.Black)
	module := moduleMM * scale
	left := b.X + quietLeft*module
	for x := range bars.Bounds().Dx() {
		if !isDark(bars.At(x, 0)) {
			continue
		}
		tall := barsHighMM * scale
		if x > 2 && x < 92 && (x < 45 || x > 49) { // between the guards
			tall -= guardMM * scale
		}
		ctx.DrawPath(left+float64(x)*module, high-b.Y-tall, canvas.Rectangle(module, tall))
	}
	face := l.faces.text.Face(symbolDigits*scale, canvas.Black, canvas.FontRegular)
	y := high - b.Y - b.Height + 0.3
	digit := func(s string, x, width float64) {
		each := width / float64(max(1, len(s)))
		for i := range len(s) {
			w := face.TextWidth(s[i : i+1])
			ctx.DrawText(x+each*(float64(i)+0.5)-w/2, y, canvas.NewTextLine(face, s[i:i+1], canvas.Left))
		}
	}
	if len(shown) == upcDigits {
		digit(shown[:1], b.X, quietLeft*module*0.8)
		digit(shown[1:6], left+11*module, 34*module)
		digit(shown[6:11], left+50*module, 34*module)
		digit(shown[11:], left+(symbolMod+2)*module, 7*module)
		return
	}
	digit(shown[:1], b.X, quietLeft*module*0.8)
	digit(shown[1:7], left+3*module, 42*module)
	digit(shown[7:], left+50*module, 42*module)
}
