// Package labelart lays a label out in millimetres with measured text and draws the one layout to SVG for the
// screen and to PDF for print, so that what is seen is what is printed.
package labelart

import (
	_ "embed"
	"fmt"
	"math"
	"regexp"
	"strings"
	"sync"

	"github.com/tdewolff/canvas"
)

//go:embed fonts/commissioner-latin-400-normal.woff2
var fontText []byte

//go:embed fonts/commissioner-latin-700-normal.woff2
var fontBold []byte

//go:embed fonts/literata-latin-600-normal.woff2
var fontTitle []byte

// faces are the fonts of a label. Ligatures are off so that text taken out of the PDF reads as it was written. Rough
// ones measure only: as high as the fine setting, without its care for last lines and for the size of a name.
type faces struct {
	text, title *canvas.FontFamily
	rough       bool
}

// drawing serialises use of the shared fonts: shaping keeps state inside a font.
var drawing sync.Mutex

var loadFaces = sync.OnceValues(func() (faces, error) {
	f := faces{text: canvas.NewFontFamily("Commissioner"), title: canvas.NewFontFamily("Literata")}
	if err := f.text.LoadFont(fontText, 0, canvas.FontRegular); err != nil {
		return f, fmt.Errorf("label font: %w", err)
	}
	if err := f.text.LoadFont(fontBold, 0, canvas.FontBold); err != nil {
		return f, fmt.Errorf("label font: %w", err)
	}
	if err := f.title.LoadFont(fontTitle, 0, canvas.FontSemiBold); err != nil {
		return f, fmt.Errorf("label font: %w", err)
	}
	// Neither ligatures nor letters that change beside others: what is copied from the PDF would lack them.
	f.text.SetFeatures("-liga,-calt")
	f.title.SetFeatures("-liga,-calt")
	return f, nil
})

const (
	ptPerMM      = 72 / 25.4
	capShare     = 0.70 // figures of Commissioner: height by size; checked by a test against the font
	bodyLeading  = 0.04
	titleLeading = 0.0
)

func xHeightPerPt(f faces) float64 {
	face := f.text.Face(100.0, canvas.Black, canvas.FontRegular)
	return face.Metrics().XHeight / 100
}

// rich sets text with ** around bold words. No line of it ends in a word alone where a narrower setting of as many
// lines avoids it.
func (f faces) rich(s string, pt, width float64, align canvas.TextAlign) *canvas.Text {
	if strings.TrimSpace(s) == "" {
		return nil
	}
	s = withUnit.ReplaceAllString(s, "$1\u00a0$2")
	regular := f.text.Face(pt, canvas.Black, canvas.FontRegular)
	strong := f.text.Face(pt, canvas.Black, canvas.FontBold)
	set := func(w float64) *canvas.Text {
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
		return rt.ToText(w, 0, align, canvas.Top, &canvas.TextOptions{LineStretch: bodyLeading})
	}
	if f.rough || align != canvas.Left {
		return set(width)
	}
	return unorphaned(width, set)
}

// withUnit finds a number with its unit, which stay on a line.
var withUnit = regexp.MustCompile(`([0-9]) (°[CF]|days?|min|g|kg|mg|ml|mL|l|L|oz|lb)\b`)

// Shares of the width: a last line shorter than orphanShare is set again in columns down to narrowest.
const (
	orphanShare = 0.22
	narrowest   = 0.72
	narrowStep  = 0.02
)

// unorphaned sets text again, narrower, while its last line is a word alone and the number of lines stays.
func unorphaned(width float64, set func(width float64) *canvas.Text) *canvas.Text {
	t := set(width)
	lines := t.Lines()
	if lines < 2 || lastLine(t) >= orphanShare*width {
		return t
	}
	for share := 1 - narrowStep; share >= narrowest; share -= narrowStep {
		next := set(width * share)
		if next.Lines() > lines {
			break
		}
		if lastLine(next) >= orphanShare*width && next.Bounds().H() <= t.Bounds().H()+1e-6 {
			return next
		}
	}
	return t
}

// lastLine is how wide the last line of a text is.
func lastLine(t *canvas.Text) float64 {
	low, high, at := math.Inf(1), math.Inf(-1), math.Inf(-1)
	t.WalkSpans(func(_, y float64, span canvas.TextSpan) {
		if math.Abs(y-at) > 1e-6 {
			low, high, at = math.Inf(1), math.Inf(-1), y
		}
		low, high = min(low, span.X), max(high, span.X+span.Width)
	})
	return high - low
}

// title sets a name as large as its words allow in a box, from most down to least, with at most three lines.
func (f faces) name(s string, width, height, most, least float64, align canvas.TextAlign) (t *canvas.Text, pt float64) {
	if strings.TrimSpace(s) == "" {
		return nil, least
	}
	if f.rough {
		most = least
	}
	for pt = most; ; pt -= 0.5 {
		pt = max(pt, least)
		face := f.title.Face(pt, canvas.Black, canvas.FontSemiBold)
		t = canvas.NewTextBox(face, s, width, 0, align, canvas.Top, &canvas.TextOptions{LineStretch: titleLeading})
		if pt <= least || t.Lines() <= 3 && !t.Overflows && widest(face, s) <= width && t.Bounds().H() <= height {
			if f.rough {
				return t, pt
			}
			return balanced(t, face, s, width, align), pt
		}
	}
}

// balanced breaks a name into lines of like length.
func balanced(t *canvas.Text, face *canvas.FontFace, s string, width float64, align canvas.TextAlign) *canvas.Text {
	lines := t.Lines()
	if lines < 2 {
		return t
	}
	best := t
	for share := 0.95; share > 0.5; share -= 0.05 {
		next := canvas.NewTextBox(face, s, width*share, 0, align, canvas.Top,
			&canvas.TextOptions{LineStretch: titleLeading})
		if next.Lines() > lines || next.Overflows || widest(face, s) > width*share ||
			next.Bounds().H() > t.Bounds().H()+1e-6 {
			break
		}
		best = next
	}
	return best
}

func widest(face *canvas.FontFace, s string) float64 {
	w := 0.0
	for _, word := range strings.Fields(s) {
		w = max(w, face.TextWidth(word))
	}
	return w
}

func (f faces) line(s string, pt float64, strong bool) *canvas.Text {
	if s == "" {
		return nil
	}
	style := canvas.FontRegular
	if strong {
		style = canvas.FontBold
	}
	return canvas.NewTextLine(f.text.Face(pt, canvas.Black, style), s, canvas.Left)
}

// missing lists characters that the label fonts do not hold, so that nothing is printed as a blank box.
func (f faces) missing(words string) []string {
	var out []string
	seen := map[rune]bool{}
	sfnt := f.text.Face(10.0, canvas.Black, canvas.FontRegular).Font.SFNT
	for _, r := range words {
		if r == '\n' || seen[r] {
			continue
		}
		seen[r] = true
		if sfnt.GlyphIndex(r) == 0 {
			out = append(out, string(r))
		}
	}
	return out
}
