package labelart

import (
	"bytes"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"sync"

	"gallipot/internal/core/field"
	"gallipot/internal/core/pantry"

	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
	"github.com/tdewolff/canvas"
)

// Kinds of label stock.
const (
	Single = "single"
	Sheet  = "sheet"
	Roll   = "roll"
)

// Stock is paper that labels come on: single ones, a roll, or a sheet of rows and columns. Lengths are in mm.
type Stock struct {
	ID       string  `json:"id"`
	Name     string  `json:"name"`
	Kind     string  `json:"kind"`
	WidthMM  float64 `json:"width_mm"` // of one label
	HeightMM float64 `json:"height_mm"`
	Page     string  `json:"page,omitempty"` // of a sheet: A4 or Letter
	Columns  int     `json:"columns,omitempty"`
	Rows     int     `json:"rows,omitempty"`
	LeftMM   float64 `json:"left_mm,omitempty"` // to the first column
	TopMM    float64 `json:"top_mm,omitempty"`
	GapXMM   float64 `json:"gap_x_mm,omitempty"`
	GapYMM   float64 `json:"gap_y_mm,omitempty"`
}

// pageSizes are those of sheets in mm (ISO 216, ANSI/ASME Y14.1).
var pageSizes = map[string][2]float64{"A4": {210, 297}, "Letter": {215.9, 279.4}}

// UsualStocks are what a new shop starts with.
func UsualStocks() []Stock {
	return []Stock{
		{ID: "single-95", Name: "Single, 95 × 65 mm", Kind: Single, WidthMM: 95, HeightMM: 65},
		{ID: "roll-190", Name: "Roll, 190 × 48 mm", Kind: Roll, WidthMM: 190, HeightMM: 48},
		{ID: "sheet-8", Name: "A4 sheet of 8", Kind: Sheet, WidthMM: 95, HeightMM: 65, Page: "A4", Columns: 2, Rows: 4,
			LeftMM: 8, TopMM: 12, GapXMM: 4, GapYMM: 4},
		{ID: "sheet-12", Name: "A4 sheet of 12", Kind: Sheet, WidthMM: 64, HeightMM: 62, Page: "A4", Columns: 3,
			Rows: 4, LeftMM: 6, TopMM: 14, GapXMM: 3, GapYMM: 5},
		{ID: "sheet-6", Name: "Letter sheet of 6", Kind: Sheet, WidthMM: 101.6, HeightMM: 76.2, Page: "Letter",
			Columns: 2, Rows: 3, LeftMM: 4.5, TopMM: 19, GapXMM: 3.7, GapYMM: 6},
	}
}

// Size is that of one label.
func (s Stock) Size() Size { return Size{s.WidthMM, s.HeightMM} }

// PerSheet is how many labels a sheet has; one where there is no sheet.
func (s Stock) PerSheet() int {
	if s.Kind != Sheet {
		return 1
	}
	return s.Columns * s.Rows
}

const (
	mostRows     = 40
	mostMarginMM = 100
)

// Check lists what is wrong in a stock, at places that start with at.
func (s Stock) Check(at string) []pantry.FieldError {
	var errs field.Errors
	bad := errs.At(at)
	if n := len([]rune(strings.TrimSpace(s.Name))); n == 0 || n > 60 {
		bad("name", "a name of 1 to 60 characters")
	}
	if err := s.Size().Check(); err != nil {
		bad("width_mm", "%s", err.Error())
	}
	if !slices.Contains([]string{Single, Sheet, Roll}, s.Kind) {
		bad("kind", "labels are single, on sheets or on a roll")
	}
	if s.Kind != Sheet {
		return errs
	}
	page, known := pageSizes[s.Page]
	if !known {
		bad("page", "a sheet is A4 or Letter")
		return errs
	}
	if s.Columns < 1 || s.Rows < 1 || s.Columns > mostRows || s.Rows > mostRows {
		bad("columns", "1 to %d columns and rows", mostRows)
		return errs
	}
	for field, x := range map[string]float64{"left_mm": s.LeftMM, "top_mm": s.TopMM, "gap_x_mm": s.GapXMM,
		"gap_y_mm": s.GapYMM} {
		if !(x >= 0 && x <= mostMarginMM) {
			bad(field, "between 0 and %d mm", mostMarginMM)
		}
	}
	wide := s.LeftMM + float64(s.Columns)*s.WidthMM + float64(s.Columns-1)*s.GapXMM
	high := s.TopMM + float64(s.Rows)*s.HeightMM + float64(s.Rows-1)*s.GapYMM
	if wide > page[0]+0.05 {
		bad("columns", "%d columns come to %.1f mm; %s is %.1f mm wide", s.Columns, wide, s.Page, page[0])
	}
	if high > page[1]+0.05 {
		bad("rows", "%d rows come to %.1f mm; %s is %.1f mm high", s.Rows, high, s.Page, page[1])
	}
	return errs
}

// Run is a print as it came out.
type Run struct {
	Pages int
	Next  int // the place on the sheet that is free next, from 1; 1 where a new sheet begins
	Blank int // places left on the last sheet
}

// Print writes the label count times on a stock, with embedded fonts; on a sheet from a place on, counted from 1. A
// label in two prints all fronts, then all backs. Errors: for what is no count or no place.
func (l *Layout) Print(w io.Writer, s Stock, count, from int, title string) (Run, error) {
	per := s.PerSheet()
	if count < 1 || from < 1 || from > per {
		return Run{}, fmt.Errorf("print: %d labels from place %d of %d", count, from, per)
	}
	places := make([]int, 0, from-1+count*len(l.Pieces))
	for range from - 1 {
		places = append(places, blank)
	}
	for piece := range l.Pieces {
		for range count {
			places = append(places, piece)
		}
	}
	var distinct [][]int
	var sequence []int
	for sheet := range slices.Chunk(places, per) {
		at := slices.IndexFunc(distinct, func(d []int) bool { return slices.Equal(d, sheet) })
		if at < 0 {
			at = len(distinct)
			distinct = append(distinct, sheet)
		}
		sequence = append(sequence, at)
	}
	last := (len(places)-1)%per + 1
	run := Run{Pages: len(sequence), Next: last%per + 1, Blank: per - last}
	return run, l.print(w, s, distinct, sequence, title)
}

const blank = -1

// print draws the distinct pages once and repeats them.
func (l *Layout) print(w io.Writer, s Stock, distinct [][]int, sequence []int, title string) error {
	wide, high := l.Size.WidthMM, l.Size.HeightMM
	if s.Kind == Sheet {
		wide, high = pageSizes[s.Page][0], pageSizes[s.Page][1]
	}
	var once bytes.Buffer
	drawing.Lock()
	err := pages(&once, title, wide, high, len(distinct), func(page int, ctx *canvas.Context) {
		for at, piece := range distinct[page] {
			if piece == blank {
				continue
			}
			x, y := s.place(at, high)
			ctx.Push()
			ctx.SetView(canvas.Identity.Translate(x, y))
			l.Pieces[piece].draw(ctx, l.Size.HeightMM)
			ctx.Pop()
		}
	})
	drawing.Unlock()
	if err != nil {
		return err
	}
	if len(sequence) == 1 {
		_, err = once.WriteTo(w)
		return err
	}
	return repeated(w, once.Bytes(), sequence)
}

// repeated writes a document whose pages are those of another in a sequence, counted from 0: a page that comes again
// shares what it draws with its first.
func repeated(w io.Writer, once []byte, sequence []int) error {
	withoutConfig()
	doc, err := api.ReadContext(bytes.NewReader(once), model.NewDefaultConfiguration())
	if err != nil {
		return fmt.Errorf("print: %w", err)
	}
	root, err := doc.Pages()
	if err != nil {
		return fmt.Errorf("print: %w", err)
	}
	tree, err := doc.DereferenceDict(*root)
	if err != nil {
		return fmt.Errorf("print: %w", err)
	}
	first, err := doc.DereferenceArray(tree["Kids"])
	if err != nil {
		return fmt.Errorf("print: %w", err)
	}
	kids := make(types.Array, 0, len(sequence))
	used := map[int]bool{}
	for _, page := range sequence {
		if !used[page] {
			used[page] = true
			kids = append(kids, first[page])
			continue
		}
		dict, err := doc.DereferenceDict(first[page])
		if err != nil {
			return fmt.Errorf("print: %w", err)
		}
		again := make(types.Dict, len(dict))
		maps.Copy(again, dict)
		ref, err := doc.IndRefForNewObject(again)
		if err != nil {
			return fmt.Errorf("print: %w", err)
		}
		kids = append(kids, *ref)
	}
	tree["Kids"], tree["Count"] = kids, types.Integer(len(kids))
	doc.PageCount = len(kids)
	return api.WriteContext(doc, w)
}

// withoutConfig keeps the library that repeats pages from writing a folder of settings for the user.
var withoutConfig = sync.OnceFunc(api.DisableConfigDir)

// place is the lower left corner of a place on a page.
func (s Stock) place(at int, pageHigh float64) (x, y float64) {
	if s.Kind != Sheet {
		return 0, 0
	}
	column, row := at%s.Columns, at/s.Columns
	return s.LeftMM + float64(column)*(s.WidthMM+s.GapXMM),
		pageHigh - s.TopMM - float64(row)*(s.HeightMM+s.GapYMM) - s.HeightMM
}
