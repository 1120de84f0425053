package labelart

import "github.com/tdewolff/canvas"

// hold sets a HOLD sticker: the word as large as the paper allows, product and lot below.
func (l *Layout) hold() *Layout {
	const smallPt = 8.0
	m := l.margin()
	width := l.Size.WidthMM - 2*m
	pt := 10.0
	for ; pt < 200; pt++ {
		face := l.faces.text.Face(pt+1, canvas.Black, canvas.FontBold)
		if face.TextWidth("HOLD") > width || (pt+1)/ptPerMM > l.Size.HeightMM*0.45 {
			break
		}
	}
	p := Piece{Name: "hold"}
	f := flow{l, &p, panel{m, m, width, l.Size.HeightMM - m}, m}
	word := canvas.NewTextBox(l.faces.text.Face(pt, canvas.Black, canvas.FontBold), "HOLD", width, 0, canvas.Center,
		canvas.Top, nil)
	f.put("hold", word, pt, gapMM)
	f.put("name", l.faces.rich(l.content.ProductName, smallPt, width, canvas.Left), smallPt, gapMM/2)
	f.put("lot", l.faces.rich(l.content.Lot, smallPt, width, canvas.Left), smallPt, gapMM/2)
	f.put("words", l.faces.rich("Not for sale until released.", smallPt, width, canvas.Left), smallPt, gapMM/2)
	l.ShortMM = over(f.y + m - l.Size.HeightMM)
	p.HighMM = l.Size.HeightMM + l.ShortMM
	l.BodyPt, l.XHeightMM = smallPt, smallPt*xHeightPerPt(l.faces)
	l.Pieces = []Piece{p}
	return l
}
