package labelart

import (
	"fmt"
	"image/color"
	"math"
	"strings"

	"gallipot/internal/core/pack"

	"github.com/tdewolff/canvas"
)

// Box is one thing on a piece with its place in mm from the top left. Words lie over nothing but a band.
type Box struct {
	Part                string
	X, Y, Width, Height float64
	Pt                  float64 // of words
	text                *canvas.Text
	fill                *color.RGBA
	art                 func(ctx *canvas.Context, b Box, high float64)
}

// Words reports whether the box holds text.
func (b Box) Words() bool { return b.text != nil }

// Piece is one label of paper. HighMM is how high it would have to be for all that is on it.
type Piece struct {
	Name   string // label, front or back
	Boxes  []Box
	HighMM float64
}

// Face is a part of a piece that faces one way on the jar: where its middle lies from the left.
type Face struct {
	Name   string  `json:"name"` // front or back
	Piece  int     `json:"piece"`
	X      float64 `json:"x_mm"`
	Width  float64 `json:"width_mm"`
	panelY float64
}

// Layout is a label set on paper of a size.
type Layout struct {
	Size        Size
	Pieces      []Piece
	Faces       []Face
	BodyPt      float64 // size of the ingredient list
	XHeightMM   float64 // its lower-case height
	FigureMM    float64 // height of the net quantity figures
	LeastMM     float64 // what the law asks of the lower-case height
	LeastFigure float64
	Reduced     bool    // the pack is so small that the list is kept at hand instead
	ShortMM     float64 // by how much it does not fit; 0 when it fits
	ShortOn     string  // the piece that it is short on
	WideMM      float64 // by how much the widest word is too wide
	Unprintable []string
	symbolScale float64 // of the barcode, by its nominal size
	jar         pack.Jar
	content     Content
	design      Design
	faces       faces
}

// The grid in mm, and type sizes in points. Legal minima come from the law.
const (
	marginMM      = 3.0
	smallMarginMM = 2.0
	smallSideMM   = 38.0 // under which the margin is the small one
	bandMM        = 6.0
	gutterMM      = 5.0
	gapMM         = 1.2
	lineMM        = 0.25
	sideBySideMM  = 104.0 // from which a label has its front and back beside each other
	threeMM       = 150.0 // from which what is counted stands beside them
	usualAreaCM2  = 62.0  // 95 x 65 mm, to which the sizes below belong
	bodyMaxPt     = 9.5
	titleMaxPt    = 22.0
	titleMinPt    = 9.0
	largestGrowth = 1.7
	stepPt        = 0.1
	figureRoom    = 1.12 // the figures stand a little over the least
)

// Lay sets the content on paper of a size, for a jar whose size tells the least type: type shrinks from comfortable to
// the legal least, never under. Where it still does not fit, ShortMM says by how much. It returns an error for what
// cannot be drawn.
func Lay(c Content, d Design, s Size, jar pack.Jar) (*Layout, error) {
	if err := s.Check(); err != nil {
		return nil, err
	}
	if err := d.Check(); err != nil {
		return nil, err
	}
	f, err := loadFaces()
	if err != nil {
		return nil, err
	}
	drawing.Lock()
	defer drawing.Unlock()
	surface, display := s.AreaCM2(), s.AreaCM2()
	if jar.Sized() {
		surface, display = jar.SurfaceCM2(), jar.DisplayCM2()
	}
	l := &Layout{Size: s, content: c, design: d, faces: f, jar: jar, LeastMM: c.Law.XHeightMM(surface),
		LeastFigure: c.Law.FigureMM(c.Nominal, display), Reduced: c.Law.Reduced(surface)}
	if c.Hold {
		return l.hold(), nil
	}
	l.Unprintable = f.missing(strings.Join(c.every(), "") + c.Shop)
	if l.Reduced {
		l.content = reduced(c)
	}
	l.fit()
	return l, nil
}

// reduced leaves what a very small pack must bear: name, quantity, date and allergens (Regulation 1169/2011 article
// 16(2)). Its list is kept at hand.
func reduced(c Content) Content {
	c.List, c.MayContain, c.Claims, c.Directions, c.Nutrition = "", "", "", "", nil
	c.Lot, c.Business, c.Barcode, c.QR = "", "", "", ""
	if !c.UseBy {
		c.Storage = ""
	}
	if c.Contains == "" && c.Allergens != "" {
		c.Contains = "Contains: " + c.Allergens + "."
	}
	return c
}

// fit finds the greatest size of type that fits, by halves.
func (l *Layout) fit() {
	per := xHeightPerPt(l.faces)
	least := math.Ceil(l.LeastMM/per*10-1e-9) / 10
	most := max(least, math.Round(bodyMaxPt*l.growth()*10)/10)
	low, high := 0, int(math.Round((most-least)/stepPt))
	at := func(step int) float64 { return math.Round((least+float64(step)*stepPt)*10) / 10 }
	l.faces.rough = true
	for low < high {
		mid := (low + high + 1) / 2
		if l.set(at(mid)); l.ShortMM == 0 && l.WideMM == 0 {
			low = mid
		} else {
			high = mid - 1
		}
	}
	l.faces.rough = false
	l.set(at(low))
}

// growth is by how much type may grow on a large label.
func (l *Layout) growth() float64 {
	return min(largestGrowth, max(1, math.Sqrt(l.Size.AreaCM2()/usualAreaCM2)))
}

// set lays all pieces out at a size of type.
func (l *Layout) set(pt float64) {
	l.BodyPt, l.XHeightMM = pt, pt*xHeightPerPt(l.faces)
	l.ShortMM, l.WideMM, l.ShortOn, l.Pieces, l.Faces = 0, 0, "", nil, nil
	l.FigureMM = max(l.LeastFigure*figureRoom, pt/ptPerMM*capShare)
	switch w := l.Size.WidthMM; {
	case l.design.Form == Two:
		l.piece("front", l.frontOnly)
		l.piece("back", l.backOnly)
	case w >= sideBySideMM:
		l.piece("label", l.beside)
	default:
		l.piece("label", l.stacked)
	}
}

func (l *Layout) margin() float64 {
	if min(l.Size.WidthMM, l.Size.HeightMM) < smallSideMM {
		return smallMarginMM
	}
	return marginMM
}

// panel is a column of a piece that words flow down.
type panel struct{ x, y, width, bottom float64 }

// piece sets one piece of paper; what lies lower than its edge counts as short.
func (l *Layout) piece(name string, set func(p *Piece) (needs float64)) {
	p := Piece{Name: name}
	needs := set(&p)
	p.HighMM = max(l.Size.HeightMM, needs)
	if short := needs - l.Size.HeightMM; short > 1e-6 && short > l.ShortMM {
		l.ShortMM, l.ShortOn = short, name
	}
	l.Pieces = append(l.Pieces, p)
}

func (l *Layout) whole() panel {
	m := l.margin()
	return panel{m, m, l.Size.WidthMM - 2*m, l.Size.HeightMM - m}
}

// frontOnly and backOnly are the two pieces of a label in two.
func (l *Layout) frontOnly(p *Piece) float64 {
	in := l.whole()
	in.y = l.band(p, in, 0, "") + gapMM
	l.Faces = append(l.Faces, Face{Name: "front", Piece: 0, X: 0, Width: l.Size.WidthMM})
	return l.front(p, in, canvas.Center)
}

func (l *Layout) backOnly(p *Piece) float64 {
	in := l.whole()
	in.y = l.band(p, in, -1, "Ingredients") + gapMM
	l.Faces = append(l.Faces, Face{Name: "back", Piece: 1, X: 0, Width: l.Size.WidthMM})
	return l.back(p, in, true)
}

// beside sets front and back next to each other; on a long strip what is counted stands in a column of its own.
func (l *Layout) beside(p *Piece) float64 {
	m, w := l.margin(), l.Size.WidthMM
	c := l.content
	counted := (c.Nutrition != nil || c.Barcode != "" || c.QR != "") && w >= threeMM
	columns := 2
	if counted {
		columns = 3
	}
	room := w - 2*m - gutterMM*float64(columns-1)
	first := min(room/float64(columns), l.seen())
	each := (room - first) / float64(columns-1)
	front := panel{m, m, first, l.Size.HeightMM - m}
	back := panel{m + first + gutterMM, m, each, l.Size.HeightMM - m}
	if l.design.Form == Banded {
		y := l.band(p, front, front.x+front.width/2, "")
		l.bandWord(p, "Ingredients", back.x)
		front.y, back.y = y+gapMM, y+gapMM
	}
	l.Faces = append(l.Faces, Face{Name: "front", X: front.x, Width: front.width},
		Face{Name: "back", X: back.x, Width: back.width})
	needs := l.front(p, front, canvas.Center)
	if !counted {
		return max(needs, l.back(p, back, l.design.Form == Banded))
	}
	third := back
	third.x += each + gutterMM
	l.content.Nutrition, l.content.Barcode, l.content.QR = nil, "", ""
	needs = max(needs, l.back(p, back, l.design.Form == Banded))
	l.content = c
	return max(needs, l.counted(p, third, third.y)+l.margin())
}

// seenShare is the part of the way around a jar that is read without turning it.
const seenShare = 0.30

// seen is how wide a front may be to be read at once on the jar.
func (l *Layout) seen() float64 {
	if !l.jar.Sized() {
		return math.Inf(1)
	}
	return max(leastFrontMM, min(l.jar.FrontMM(), seenShare*l.jar.AroundMM()))
}

const leastFrontMM = 40

// stacked sets the front over the back on one face.
func (l *Layout) stacked(p *Piece) float64 {
	in := l.whole()
	align := canvas.Left
	if l.design.Form == Banded {
		in.y = l.band(p, in, 0, "") + gapMM
		align = canvas.Center
	}
	l.Faces = append(l.Faces, Face{Name: "front", X: 0, Width: l.Size.WidthMM})
	return l.tall(p, in, align)
}

// Fits reports whether everything is on the label at a legal size.
func (l *Layout) Fits() bool { return l.ShortMM == 0 && l.WideMM == 0 && len(l.Unprintable) == 0 }

// Advice says what could go where a label does not fit.
func (l *Layout) Advice() string {
	switch {
	case l.WideMM > 0:
		return fmt.Sprintf(
			"Its widest word is %.1f mm wider than the column at the least legal type: take a wider label.",
			l.WideMM)
	case l.ShortMM > 0:
		on := ""
		if len(l.Pieces) > 1 {
			on = "The " + l.ShortOn + ": "
		}
		way := fmt.Sprintf("take a label %.0f mm high, a label in two, or a shorter wording of the list",
			math.Ceil(l.Size.HeightMM+l.ShortMM))
		if l.design.Form == Two {
			way = fmt.Sprintf("take labels %.0f mm high, or a shorter wording of the list",
				math.Ceil(l.Size.HeightMM+l.ShortMM))
		}
		return fmt.Sprintf("%sIt is %.1f mm too tall at the least legal type: %s.", on, l.ShortMM, way)
	}
	return ""
}
