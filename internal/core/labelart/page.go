package labelart

import (
	"fmt"
	"io"

	"github.com/tdewolff/canvas"
	"github.com/tdewolff/canvas/renderers/pdf"
)

// Page is a record set on A4: a title and parts, each a table. Type shrinks until all of it stands on one page; a very
// long record goes on over more of them instead of becoming too small to read.
type Page struct {
	Title string
	Sub   string
	Parts []PagePart
	Foot  string
}

// PagePart is a table: its head, how its columns share the width, and its rows. Strong columns are set bold.
type PagePart struct {
	Head   string
	Shares []float64
	Strong []bool
	Rows   [][]string
}

// The sheet in mm, and type sizes in points.
const (
	pageWidthMM  = 210.0
	pageHeightMM = 297.0
	pageEdgeMM   = 13.0
	pageFootMM   = 7.0
	pageMostPt   = 9.0
	pageLeastPt  = 5.0
	pageStepPt   = 0.25
	pageCellMM   = 2.0 // between columns
	pageHeadPt   = 2.0 // by which heads are larger
	pageTitlePt  = 19.0
)

// placed is a block of text on a page, from its top left.
type placed struct {
	page int
	x, y float64
	text *canvas.Text
}

// PDF writes the record with embedded fonts and returns how many pages it took.
func (p Page) PDF(w io.Writer) (pages int, err error) {
	f, err := loadFaces()
	if err != nil {
		return 0, err
	}
	drawing.Lock()
	defer drawing.Unlock()
	var blocks []placed
	for pt := pageMostPt; ; pt -= pageStepPt {
		blocks, pages = p.lay(f, pt)
		if pages == 1 || pt <= pageLeastPt {
			break
		}
	}
	out := pdf.New(w, pageWidthMM, pageHeightMM, nil)
	out.SetInfo(p.Title, "", "", "", "Gallipot")
	for n := range pages {
		if n > 0 {
			out.NewPage(pageWidthMM, pageHeightMM)
		}
		c := canvas.New(pageWidthMM, pageHeightMM)
		ctx := canvas.NewContext(c)
		for _, b := range blocks {
			if b.page == n {
				ctx.DrawText(b.x, pageHeightMM-b.y, b.text)
			}
		}
		foot := fmt.Sprintf("%s   %d / %d", p.Foot, n+1, pages)
		ctx.DrawText(pageEdgeMM, pageEdgeMM-pageFootMM/2,
			canvas.NewTextLine(f.text.Face(7, canvas.Black, canvas.FontRegular), foot, canvas.Left))
		c.RenderTo(out)
	}
	return pages, out.Close()
}

// lay sets the record at a size and says how many pages it takes.
func (p Page) lay(f faces, pt float64) (blocks []placed, pages int) {
	const width = pageWidthMM - 2*pageEdgeMM
	page, y := 0, pageEdgeMM
	lead := pt / ptPerMM * 0.34
	put := func(height float64, row ...placed) {
		if y+height > pageHeightMM-pageEdgeMM-pageFootMM {
			page, y = page+1, pageEdgeMM
		}
		for _, b := range row {
			b.page, b.y = page, y
			blocks = append(blocks, b)
		}
		y += height
	}
	one := func(face *canvas.FontFace, s string) {
		t := box(face, s, width)
		put(t.Bounds().H()+lead, placed{x: pageEdgeMM, text: t})
	}
	one(f.title.Face(pageTitlePt, canvas.Black, canvas.FontSemiBold), p.Title)
	one(f.text.Face(pt+1, canvas.Black, canvas.FontRegular), p.Sub)
	regular, bold := f.text.Face(pt, canvas.Black, canvas.FontRegular), f.text.Face(pt, canvas.Black, canvas.FontBold)
	for _, part := range p.Parts {
		y += 2 * lead
		one(f.text.Face(pt+pageHeadPt, canvas.Black, canvas.FontBold), part.Head)
		for _, cells := range part.Rows {
			var row []placed
			x, tallest := pageEdgeMM, 0.0
			for i, cell := range cells {
				face := regular
				if i < len(part.Strong) && part.Strong[i] {
					face = bold
				}
				t := box(face, cell, width*part.Shares[i]-pageCellMM)
				row = append(row, placed{x: x, text: t})
				x += width * part.Shares[i]
				tallest = max(tallest, t.Bounds().H())
			}
			put(tallest+lead, row...)
		}
	}
	return blocks, page + 1
}

func box(face *canvas.FontFace, s string, width float64) *canvas.Text {
	if s == "" {
		s = " "
	}
	return canvas.NewTextBox(face, s, width, 0, canvas.Left, canvas.Top, nil)
}
