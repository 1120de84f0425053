package labelart

import (
	"errors"
	"fmt"

	"github.com/tdewolff/canvas"
)

// placePart is the box that a label without its date keeps for date and lot.
const placePart = "date place"

// Overprint is date and lot alone, in the place that this label keeps for them: for stock that was printed before. The
// label must be laid without either. Errors: where it keeps no place, or the words do not fit into it.
func (l *Layout) Overprint(date, lot string) (*Layout, error) {
	drawing.Lock()
	defer drawing.Unlock()
	out := *l
	out.Pieces, out.WideMM = nil, 0
	for _, p := range l.Pieces {
		for _, b := range p.Boxes {
			if b.Part != placePart {
				continue
			}
			only := Piece{Name: p.Name, HighMM: p.HighMM}
			d := l.faces.rich(bold(date), l.BodyPt, b.Width, canvas.Left)
			t := l.faces.rich(lot, l.BodyPt, b.Width, canvas.Left)
			if need := high(d) + high(t); need > b.Height+1e-6 {
				return nil, fmt.Errorf("date and lot are %.1f mm taller than the place that is kept for them",
					need-b.Height)
			}
			out.add(&only, "date", d, l.BodyPt, b.X, b.Y, b.Width)
			out.add(&only, "lot", t, l.BodyPt, b.X, b.Y+b.Height-high(t), b.Width)
			if out.WideMM > 0 {
				return nil, fmt.Errorf("date and lot are %.1f mm wider than the place that is kept for them",
					out.WideMM)
			}
			out.Pieces = append(out.Pieces, only)
		}
	}
	if len(out.Pieces) == 0 {
		return nil, errors.New("this label keeps no place for a date")
	}
	return &out, nil
}
