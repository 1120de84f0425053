package labelart

import (
	"image/color"
	"strings"

	"github.com/tdewolff/canvas"
)

// flow sets blocks down a panel.
type flow struct {
	l  *Layout
	p  *Piece
	in panel
	y  float64
}

// put sets a text at the place the flow has come to.
func (f *flow) put(part string, t *canvas.Text, pt, gap float64) {
	if t == nil {
		return
	}
	f.l.add(f.p, part, t, pt, f.in.x, f.y, f.in.width)
	f.y += high(t) + gap
}

// rule draws a hairline across the panel.
func (f *flow) rule() {
	ink := color.RGBA{0x12, 0x1c, 0x33, 0xff}
	if f.l.design.Form != Plain {
		ink, _ = f.l.design.paint()
	}
	f.y += ruleAirMM
	f.p.Boxes = append(f.p.Boxes, Box{Part: "rule", X: f.in.x, Y: f.y, Width: f.in.width, Height: lineMM, fill: &ink})
	f.y += lineMM + gapMM
}

const (
	ruleAirMM     = 0.6 // over a hairline
	nameOverWords = 1.5
)

func high(t *canvas.Text) float64 {
	if t == nil {
		return 0
	}
	return t.Bounds().H()
}

// add puts words on a piece, and notes a word that is wider than its place.
func (l *Layout) add(p *Piece, part string, t *canvas.Text, pt, x, y, width float64) {
	if t == nil {
		return
	}
	l.WideMM = max(l.WideMM, over(t.Bounds().X1-width))
	p.Boxes = append(p.Boxes, Box{Part: part, X: x, Y: y, Width: width, Height: high(t), Pt: pt, text: t})
}

// over is how much is over, leaving out what rounding makes.
func over(mm float64) float64 {
	if mm < 0.05 {
		return 0
	}
	return mm
}

// band draws the band across a piece with the shop's mark or name in it, centred on a place (0: on the piece; less: no
// shop), a word at the left, and returns where it ends.
func (l *Layout) band(p *Piece, in panel, middle float64, word string) float64 {
	fill, _ := l.design.paint()
	p.Boxes = append(p.Boxes, Box{Part: "band", Width: l.Size.WidthMM, Height: bandMM, fill: &fill})
	if word != "" {
		l.bandWord(p, word, in.x)
	}
	if middle < 0 {
		return bandMM
	}
	if middle == 0 {
		middle = l.Size.WidthMM / 2
	}
	if l.design.Mark != nil {
		l.mark(p, middle)
		return bandMM
	}
	_, on := l.design.paint()
	name := strings.ToUpper(l.content.Shop)
	for pt := 8.0; pt >= 4.5; pt -= 0.5 {
		face := l.faces.text.Face(pt, on, canvas.FontBold)
		if w := face.TextWidth(name); w <= in.width {
			t := canvas.NewTextLine(face, name, canvas.Left)
			l.add(p, "shop", t, pt, middle-w/2, (bandMM-high(t))/2, w+0.1)
			break
		}
	}
	return bandMM
}

// bandWord sets a heading in the band.
func (l *Layout) bandWord(p *Piece, word string, x float64) {
	_, on := l.design.paint()
	pt := min(9.5, max(l.BodyPt, 8))
	t := canvas.NewTextLine(l.faces.text.Face(pt, on, canvas.FontBold), word, canvas.Left)
	l.add(p, "heading", t, pt, x, (bandMM-high(t))/2, t.Bounds().W()+0.2)
}

// front sets name, descriptive name, and at the foot the quantity with the directions. It returns the height it needs.
func (l *Layout) front(p *Piece, in panel, align canvas.TextAlign) float64 {
	c := l.content
	pt := l.BodyPt
	legal := l.faces.rich(c.LegalName, pt, in.width, align)
	foot, footHigh := l.foot(in)
	fixed := high(legal) + footHigh + lineMM + ruleAirMM + 4*gapMM
	name, namePt := l.faces.name(c.ProductName, in.width, max(0, in.bottom-in.y-fixed), titleMaxPt*l.growth(),
		l.leastName(), align)
	f := flow{l, p, in, in.y}
	needs := high(name) + fixed
	if air := in.bottom - in.y - needs; air > 0 {
		f.y += min(air*0.45, 8)
	}
	f.put("name", name, namePt, gapMM*1.4)
	f.put("legal name", legal, pt, gapMM)
	foot(p, max(in.bottom, in.y+needs))
	return in.y + needs + l.margin()
}

// leastName is the least size of the name: well over the words, but where those are at their least already.
func (l *Layout) leastName() float64 {
	if l.XHeightMM < l.LeastMM*1.05 {
		return max(titleMinPt, l.BodyPt)
	}
	return max(titleMinPt, nameOverWords*l.BodyPt)
}

// foot is the quantity at its legal height at the left with the directions beside it, or over it where both do not fit
// on a line. It returns how to draw it down to a place, and its height with the hairline over it.
func (l *Layout) foot(in panel) (draw func(p *Piece, bottom float64), footHigh float64) {
	c := l.content
	size := l.FigureMM / capShare * ptPerMM
	qty := l.faces.line(c.NetQuantity, size, true)
	qw := 0.0
	if qty != nil {
		if qw = qty.Bounds().W(); qw > in.width { // over more than one line
			qty = l.faces.rich("**"+c.NetQuantity+"**", size, in.width, canvas.Left)
			qw = in.width
		}
	}
	const leastBeside = 18.0
	beside := in.width - qw - 3
	var says *canvas.Text
	apart := false
	if c.Directions != "" {
		if beside >= leastBeside {
			says = l.faces.rich(c.Directions, l.BodyPt, beside, canvas.Right)
		}
		if says == nil || says.Lines() > 2 {
			apart = true
			says = l.faces.rich(c.Directions, l.BodyPt, in.width, canvas.Left)
		}
	}
	footHigh = max(high(qty), high(says))
	if apart {
		footHigh = high(qty) + gapMM + high(says)
	}
	return func(p *Piece, bottom float64) {
		f := flow{l, p, in, bottom - footHigh - gapMM - lineMM - ruleAirMM}
		f.rule()
		if qty != nil {
			l.add(p, "net quantity", qty, size, in.x, bottom-high(qty), min(in.width, qw+0.2))
		}
		switch {
		case says == nil:
		case apart:
			l.add(p, "directions", says, l.BodyPt, in.x, bottom-footHigh, in.width)
		default:
			l.add(p, "directions", says, l.BodyPt, in.x+in.width-beside, bottom-high(says), beside)
		}
	}, footHigh
}

// back sets the list unbroken, a hairline, and under it date and storage side by side, with name and address at the
// foot. headed: the band says "Ingredients" already.
func (l *Layout) back(p *Piece, in panel, headed bool) float64 {
	f := flow{l, p, in, in.y}
	l.list(&f, headed)
	f.y = l.counted(p, in, f.y)
	f.rule()
	l.dated(&f)
	f.y += gapMM
	business := l.faces.rich(l.content.Business, l.smallest(), in.width, canvas.Left)
	if business != nil {
		l.add(p, "business", business, l.smallest(), in.x, max(f.y, in.bottom-high(business)), in.width)
		f.y += high(business)
	}
	return f.y + l.margin()
}

// list sets the ingredient list with what belongs to it.
func (l *Layout) list(f *flow, headed bool) {
	c, pt := l.content, l.BodyPt
	words := c.List
	if words != "" && !headed {
		words = "**Ingredients:** " + words
	}
	text := func(s string) *canvas.Text { return l.faces.rich(s, pt, f.in.width, canvas.Left) }
	f.put("ingredients", text(words), pt, gapMM/2)
	f.put("contains", text(bold(c.Contains)), pt, gapMM/2)
	f.put("may contain", text(c.MayContain), pt, gapMM/2)
	f.put("claims", text(c.Claims), pt, gapMM/2)
}

func bold(s string) string {
	if s == "" {
		return ""
	}
	return "**" + s + "**"
}

// The place for date and lot: a fixed share of the width, so that stock printed before takes them in the same place.
const datedShare = 0.46

// dated sets storage at the left, date and lot at the right. Where the date is not known yet its place is kept.
func (l *Layout) dated(f *flow) {
	c, pt := l.content, l.BodyPt
	if l.Reduced {
		f.put("date", l.faces.rich(bold(c.DateLine), pt, f.in.width, canvas.Left), pt, 0)
		f.put("storage", l.faces.rich(c.Storage, pt, f.in.width, canvas.Left), pt, 0)
		return
	}
	right := max(min(f.in.width, leastDatedMM), f.in.width*datedShare)
	left := f.in.width - right - 2
	beside := left >= leastStorageMM
	if !beside {
		left, right = f.in.width, f.in.width
	}
	storage := l.faces.rich(c.Storage, pt, left, canvas.Left)
	date, lot := l.faces.rich(bold(c.DateLine), pt, right, canvas.Left), l.faces.rich(c.Lot, pt, right, canvas.Left)
	l.add(f.p, "storage", storage, pt, f.in.x, f.y, left)
	x, y := f.in.x+f.in.width-right, f.y
	if !beside {
		y += high(storage) + gapMM/2
	}
	kept := l.keptForDate(right)
	if c.DateLine != "" && c.Lot != "" {
		kept = high(date) + gapMM/4 + high(lot)
	} else {
		f.p.Boxes = append(f.p.Boxes, Box{Part: placePart, X: x, Y: y, Width: right, Height: kept, art: place})
	}
	l.add(f.p, "date", date, pt, x, y, right)
	l.add(f.p, "lot", lot, pt, x, y+kept-high(lot), right)
	f.y = max(f.y+high(storage), y+kept)
}

const (
	leastDatedMM   = 30.0
	leastStorageMM = 26.0
)

// keptForDate is the height of the place for date and lot: that of the longest date of the law over a line of lot.
func (l *Layout) keptForDate(width float64) float64 {
	date := l.faces.rich(bold(l.content.Law.LongestDate()), l.BodyPt, width, canvas.Left)
	own := l.faces.rich(bold(l.content.DateLine), l.BodyPt, width, canvas.Left)
	return max(high(date), high(own)) + gapMM/2 + l.lotHigh()
}

func (l *Layout) lotHigh() float64 {
	return high(l.faces.rich("L26-3", l.BodyPt, 100, canvas.Left))
}

// smallest is the least size for words outside the list: never under the legal least either.
func (l *Layout) smallest() float64 {
	return max(l.LeastMM/xHeightPerPt(l.faces), l.BodyPt*0.9)
}

// tall sets front and back over each other on one face, the quantity at the foot. The name takes what room is left.
func (l *Layout) tall(p *Piece, in panel, align canvas.TextAlign) float64 {
	least, _ := l.faces.name(l.content.ProductName, in.width, 0, titleMinPt, l.leastName(), align)
	room := high(least)
	if !l.faces.rough {
		fine := l.faces
		l.faces.rough = true
		air := in.bottom + l.margin() - l.tallIn(&Piece{}, in, align, 0)
		l.faces = fine
		room += max(0, air*0.6)
	}
	return l.tallIn(p, in, align, room)
}

func (l *Layout) tallIn(p *Piece, in panel, align canvas.TextAlign, nameRoom float64) float64 {
	c, pt := l.content, l.BodyPt
	foot, footHigh := l.foot(in)
	f := flow{l, p, in, in.y}
	name, namePt := l.faces.name(c.ProductName, in.width, nameRoom, titleMaxPt*l.growth(), l.leastName(), align)
	f.put("name", name, namePt, gapMM)
	f.put("legal name", l.faces.rich(c.LegalName, pt, in.width, align), pt, gapMM)
	f.rule()
	l.list(&f, false)
	f.y = l.counted(p, in, f.y)
	f.rule()
	l.dated(&f)
	f.y += gapMM
	f.put("business", l.faces.rich(c.Business, l.smallest(), in.width, canvas.Left), l.smallest(), gapMM)
	needs := f.y + ruleAirMM + lineMM + gapMM + footHigh
	foot(p, max(in.bottom, needs))
	return needs + l.margin()
}
