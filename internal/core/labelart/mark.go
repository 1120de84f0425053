package labelart

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/png"

	"github.com/tdewolff/canvas"
	"github.com/tdewolff/canvas/renderers/svg"
)

// Mark is the shop's own mark: a drawing, or a picture.
type Mark struct {
	drawing       *canvas.Canvas
	picture       image.Image
	width, height float64
}

// Limits of a mark.
const (
	MostMarkBytes  = 300_000
	mostMarkPixels = 2400
	mostMarkRatio  = 12
)

// CleanMark reads an SVG or PNG that somebody uploaded and writes it anew with nothing in it but what is drawn: no
// scripts, links or foreign content. The kind is "svg" or "png".
func CleanMark(raw []byte) (clean []byte, kind string, err error) {
	if len(raw) > MostMarkBytes {
		return nil, "", fmt.Errorf("a mark has at most %d kB", MostMarkBytes/1000)
	}
	if config, err := png.DecodeConfig(bytes.NewReader(raw)); err == nil {
		if config.Width > mostMarkPixels || config.Height > mostMarkPixels {
			return nil, "", fmt.Errorf("a picture has at most %d pixels a side", mostMarkPixels)
		}
		picture, err := png.Decode(bytes.NewReader(raw))
		if err != nil {
			return nil, "", errors.New("this PNG cannot be read")
		}
		var b bytes.Buffer
		if err := png.Encode(&b, picture); err != nil {
			return nil, "", fmt.Errorf("mark: %w", err)
		}
		return b.Bytes(), "png", nil
	}
	m, err := drawn(raw)
	if err != nil {
		return nil, "", err
	}
	var b bytes.Buffer
	s := svg.New(&b, m.width, m.height, nil)
	m.drawing.RenderTo(s)
	if err := s.Close(); err != nil {
		return nil, "", fmt.Errorf("mark: %w", err)
	}
	return b.Bytes(), "svg", nil
}

// drawn reads an SVG.
func drawn(raw []byte) (m *Mark, err error) {
	wrong := errors.New("a mark is an SVG drawing or a PNG picture; this cannot be read as either")
	defer func() {
		if recover() != nil { // the reader of drawings gives up on what it does not know
			m, err = nil, wrong
		}
	}()
	if !bytes.Contains(raw, []byte("<svg")) {
		return nil, wrong
	}
	c, err := canvas.ParseSVG(bytes.NewReader(raw))
	if err != nil || c.Empty() {
		return nil, wrong
	}
	c.Fit(0)
	if !(c.W > 0 && c.H > 0) || max(c.W/c.H, c.H/c.W) > mostMarkRatio {
		return nil, errors.New("this drawing is empty, or far too long for its height")
	}
	return &Mark{drawing: c, width: c.W, height: c.H}, nil
}

// ReadMark reads a clean mark.
func ReadMark(clean []byte, kind string) (*Mark, error) {
	if kind == "svg" {
		return drawn(clean)
	}
	picture, err := png.Decode(bytes.NewReader(clean))
	if err != nil {
		return nil, fmt.Errorf("mark: %w", err)
	}
	size := picture.Bounds().Size()
	return &Mark{picture: picture, width: float64(size.X), height: float64(size.Y)}, nil
}

// mark sets the mark in the band on a patch of white.
func (l *Layout) mark(p *Piece, middle float64) {
	const inset = 0.6
	m := l.design.Mark
	tall := bandMM - 2*inset
	wide := min(tall*m.width/m.height, l.Size.WidthMM*0.4)
	tall = wide * m.height / m.width
	white := canvas.White
	p.Boxes = append(p.Boxes, Box{Part: "patch", X: middle - wide/2 - 1.5, Y: 0, Width: wide + 3, Height: bandMM,
		fill: &white}, Box{Part: "mark", X: middle - wide/2, Y: (bandMM - tall) / 2, Width: wide, Height: tall,
		art: func(ctx *canvas.Context, b Box, high float64) { m.draw(ctx, b, high) }})
}

func (m *Mark) draw(ctx *canvas.Context, b Box, high float64) {
	at := canvas.Identity.Translate(b.X, high-b.Y-b.Height)
	if m.drawing != nil {
		k := b.Width / m.width
		m.drawing.RenderViewTo(ctx, at.Scale(k, k))
		return
	}
	ctx.DrawImage(b.X, high-b.Y-b.Height, m.picture, canvas.DPMM(m.width/b.Width))
}
