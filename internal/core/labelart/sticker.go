package labelart

import (
	"fmt"
	"image/color"
	"io"

	"github.com/boombuler/barcode/code128"
	"github.com/tdewolff/canvas"
	"github.com/tdewolff/canvas/renderers/pdf"
)

// Sticker is what goes onto a sack, tub or tin: the lot's code, large and as bars for a scanner, what it is, and when
// it ends. Warn is set in a black band: it may not be used.
type Sticker struct {
	Code  string
	Name  string
	Words []string // the supplier's words for it, when it came in
	Ends  string
	Warn  string
}

// The size of a sticker in mm, a common roll of small labels.
const (
	StickerWidthMM  = 62.0
	StickerHeightMM = 29.0
)

const (
	stickerEdgeMM   = 2.5
	stickerModuleMM = 0.33 // least width of a bar that cheap scanners read (ISO/IEC 15417 leaves it to the application)
	stickerBarsMM   = 7.5
	stickerQuietMM  = 10 * stickerModuleMM // left of the bars (ISO/IEC 15417)
)

// PDF writes the sticker count times, a page each, at its real size with embedded fonts.
func (s Sticker) PDF(w io.Writer, count int) error {
	if count < 1 {
		return fmt.Errorf("print: %d stickers", count)
	}
	f, err := loadFaces()
	if err != nil {
		return err
	}
	drawing.Lock()
	defer drawing.Unlock()
	c := canvas.New(StickerWidthMM, StickerHeightMM)
	ctx := canvas.NewContext(c)
	if err := s.bars(ctx); err != nil {
		return err
	}
	s.words(ctx, f)
	p := pdf.New(w, StickerWidthMM, StickerHeightMM, nil)
	p.SetInfo(s.Code+" "+s.Name, "", "", "", "Gallipot")
	for i := range count {
		if i > 0 {
			p.NewPage(StickerWidthMM, StickerHeightMM)
		}
		c.RenderTo(p)
	}
	return p.Close()
}

// bars draws the code as Code 128 (ISO/IEC 15417) along the foot.
func (s Sticker) bars(ctx *canvas.Context) error {
	code, err := code128.Encode(s.Code)
	if err != nil {
		return fmt.Errorf("bars of %q: %w", s.Code, err)
	}
	ctx.SetFillColor(canvas.Black)
	for x := range code.Bounds().Dx() {
		if isDark(code.At(x, 0)) {
			ctx.DrawPath(stickerQuietMM+float64(x)*stickerModuleMM, stickerEdgeMM,
				canvas.Rectangle(stickerModuleMM, stickerBarsMM))
		}
	}
	return nil
}

func isDark(c color.Color) bool {
	r, _, _, _ := c.RGBA()
	return r < 0x8000
}

// words sets the code, what it is, and when it ends; what does not fit is cut with a mark.
func (s Sticker) words(ctx *canvas.Context, f faces) {
	width := StickerWidthMM - 2*stickerEdgeMM
	top := StickerHeightMM - stickerEdgeMM
	strong, plain := f.text.Face(18, canvas.Black, canvas.FontBold), f.text.Face(7.5, canvas.Black, canvas.FontRegular)
	bolder := f.text.Face(10, canvas.Black, canvas.FontBold)
	line := func(face *canvas.FontFace, text string, x, down, room float64) {
		ctx.DrawText(x, top-down, canvas.NewTextLine(face, cut(face, text, room), canvas.Left))
	}
	line(strong, s.Code, stickerEdgeMM, 5.2, width)
	after := strong.TextWidth(s.Code) + 3
	if s.Ends != "" {
		line(bolder, s.Ends, stickerEdgeMM+after, 5.2, width-after)
	}
	line(bolder, s.Name, stickerEdgeMM, 10, width)
	if s.Warn == "" {
		for i, w := range s.Words {
			line(plain, w, stickerEdgeMM, 13.6+float64(i)*3, width)
		}
		return
	}
	ctx.SetFillColor(canvas.Black) // in the place of the words: what matters is that it is not used
	const foot, band = 11.0, 4.6
	ctx.DrawPath(stickerEdgeMM, foot, canvas.Rectangle(width, band))
	white := f.text.Face(9.5, canvas.White, canvas.FontBold)
	ctx.DrawText(stickerEdgeMM+1.5, foot+1.3, canvas.NewTextLine(white, cut(white, s.Warn, width-3), canvas.Left))
}

// cut shortens a text to a width.
func cut(face *canvas.FontFace, text string, width float64) string {
	if face.TextWidth(text) <= width {
		return text
	}
	r := []rune(text)
	for len(r) > 1 && face.TextWidth(string(r)+"…") > width {
		r = r[:len(r)-1]
	}
	return string(r) + "…"
}
