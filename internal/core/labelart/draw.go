package labelart

import (
	"bytes"
	"fmt"
	"html"
	"image"
	"image/color"
	"io"
	"strings"

	"github.com/tdewolff/canvas"
	"github.com/tdewolff/canvas/renderers/pdf"
	"github.com/tdewolff/canvas/renderers/svg"
)

// Colours of what lies beyond the paper, on the screen only.
var (
	beyond = color.RGBA{0xf6, 0xe3, 0xe3, 0xff}
	cutInk = color.RGBA{0xa1, 0x2a, 0x3a, 0xff}
)

// A drawing tells places to six digits: finer than paper, and shorter.
func init() { canvas.Precision = 6 }

// draw puts the boxes of a piece on a canvas, which counts y upwards from the foot.
func (p Piece) draw(ctx *canvas.Context, high float64) {
	for _, b := range p.Boxes {
		switch {
		case b.art != nil:
			b.art(ctx, b, high)
		case b.fill != nil:
			ctx.SetFillColor(*b.fill)
			ctx.DrawPath(b.X, high-b.Y-b.Height, canvas.Rectangle(b.Width, b.Height))
		default:
			// A line of text hangs from its own top, which canvas places at the baseline for single lines.
			ctx.DrawText(b.X, high-b.Y-b.text.Bounds().Y1, b.text)
		}
	}
}

// pages writes the distinct pages that draw is called for, each of a size in mm, with embedded fonts.
func pages(w io.Writer, title string, wide, high float64, count int, draw func(page int, ctx *canvas.Context)) error {
	out := pdf.New(w, wide, high, nil)
	out.SetInfo(title, "", "", "", "Gallipot")
	for n := range count {
		if n > 0 {
			out.NewPage(wide, high)
		}
		c := canvas.New(wide, high)
		draw(n, canvas.NewContext(c))
		c.RenderTo(out)
	}
	return out.Close()
}

// SVG returns a piece as a drawing with text as paths, at real size in mm, and the label's words as accessible text.
// What does not fit is drawn beyond the edge of the paper and marked, never over anything.
func (l *Layout) SVG(piece int) (string, error) {
	drawing.Lock()
	defer drawing.Unlock()
	p := l.Pieces[piece]
	var b bytes.Buffer
	s := svg.New(&b, l.Size.WidthMM, p.HighMM, &svg.Options{SizeUnits: "mm"})
	c := canvas.New(l.Size.WidthMM, p.HighMM)
	ctx := canvas.NewContext(c)
	if short := p.HighMM - l.Size.HeightMM; short > 0 {
		ctx.SetFillColor(beyond)
		ctx.DrawPath(0, 0, canvas.Rectangle(l.Size.WidthMM, short))
		ctx.SetFillColor(cutInk)
		for x := 0.0; x < l.Size.WidthMM; x += 4 {
			ctx.DrawPath(x, short-0.2, canvas.Rectangle(2, 0.4))
		}
	}
	p.draw(ctx, p.HighMM)
	c.RenderTo(outlines{s})
	if err := s.Close(); err != nil {
		return "", fmt.Errorf("label drawing: %w", err)
	}
	out := b.String()
	at := strings.Index(out, "<svg ")
	if at < 0 {
		return "", fmt.Errorf("label drawing: no svg element")
	}
	end := at + strings.Index(out[at:], ">")
	title := "<title>" + html.EscapeString(l.words()) + "</title>"
	return out[at:end] + ` role="img">` + title + out[end+1:], nil
}

func (l *Layout) words() string {
	c := l.content
	if c.Hold {
		return "HOLD. " + c.ProductName + ". " + c.Lot
	}
	return strings.ReplaceAll(strings.Join(c.every(), " "), "**", "")
}

// outlines draws text as paths, so that the screen shows exactly what the PDF prints without shipping fonts in the
// drawing.
type outlines struct{ *svg.SVG }

func (o outlines) RenderText(t *canvas.Text, m canvas.Matrix) {
	t.RenderAsPath(o.SVG, m, canvas.DPMM(20))
}

func (o outlines) RenderImage(img image.Image, m canvas.Matrix) { o.SVG.RenderImage(img, m) }
