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

var ruleInk = color.RGBA{0x1f, 0x3f, 0x93, 0xff}

// draw puts the boxes on a canvas; canvas counts y upwards from the foot.
func (l *Layout) draw(ctx *canvas.Context) {
	for _, b := range l.Boxes {
		if b.text == nil {
			ctx.SetFillColor(ruleInk)
			ctx.DrawPath(b.X, l.Stock.HeightMM-b.Y-b.Height, canvas.Rectangle(b.Width, b.Height))
			continue
		}
		// A line of text hangs from its own top, which canvas places at the baseline for single lines.
		top := b.text.Bounds().Y1
		ctx.DrawText(b.X, l.Stock.HeightMM-b.Y-top, b.text)
	}
}

// PDF writes the label count times, a page each, at the stock's real size with embedded fonts.
func (l *Layout) PDF(w io.Writer, count int, title string) error {
	if count < 1 {
		return fmt.Errorf("print: %d labels", count)
	}
	drawing.Lock()
	defer drawing.Unlock()
	p := pdf.New(w, l.Stock.WidthMM, l.Stock.HeightMM, nil)
	p.SetInfo(title, "", "", "", "Gallipot")
	c := canvas.New(l.Stock.WidthMM, l.Stock.HeightMM)
	l.draw(canvas.NewContext(c))
	for i := range count {
		if i > 0 {
			p.NewPage(l.Stock.WidthMM, l.Stock.HeightMM)
		}
		c.RenderTo(p)
	}
	return p.Close()
}

// SVG returns the label as a drawing with text as paths, at real size in mm, and its words as accessible text.
func (l *Layout) SVG() (string, error) {
	drawing.Lock()
	defer drawing.Unlock()
	var b bytes.Buffer
	s := svg.New(&b, l.Stock.WidthMM, l.Stock.HeightMM, &svg.Options{SizeUnits: "mm"})
	c := canvas.New(l.Stock.WidthMM, l.Stock.HeightMM)
	l.draw(canvas.NewContext(c))
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
	title := "<title>" + html.EscapeString(strings.ReplaceAll(l.words(), "**", "")) + "</title>"
	return out[at:end] + ` role="img">` + title + out[end+1:], nil
}

func (l *Layout) words() string {
	c := l.content
	if c.Hold {
		return "HOLD. " + c.ProductName + ". " + c.Lot
	}
	var parts []string
	for _, s := range []string{c.ProductName, c.LegalName, "Ingredients: " + c.List, c.Contains, c.MayContain,
		c.Directions,
		c.Storage, c.DateLine, c.Lot, c.NetQuantity, c.Business} {
		if s != "" {
			parts = append(parts, s)
		}
	}
	return strings.Join(parts, " ")
}

// outlines draws text as paths, so that the screen shows exactly what the PDF prints without shipping fonts in the
// drawing.
type outlines struct{ *svg.SVG }

func (o outlines) RenderText(t *canvas.Text, m canvas.Matrix) {
	t.RenderAsPath(o.SVG, m, canvas.DPMM(20))
}

func (o outlines) RenderImage(img image.Image, m canvas.Matrix) { o.SVG.RenderImage(img, m) }
