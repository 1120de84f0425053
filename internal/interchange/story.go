package interchange

import (
	"fmt"
	"io"
	"strings"
	"time"

	"gallipot/internal/app/production"
	"gallipot/internal/core/day"
	"gallipot/internal/core/labelart"
)

// WriteStory writes the record of a batch as a PDF, on one page where it fits, and returns how many it took. Times are
// told where the shop is, days and hours in its own way.
func WriteStory(w io.Writer, s production.Story, moment func(time.Time) string, on func(day.Day) string) (pages int,
	err error) {
	p := labelart.Page{Title: s.Name + ", " + s.Code,
		Sub: fmt.Sprintf("Version %d, made %s, %d jars planned by %s. %s.", s.Version, on(s.MadeOn), s.Planned, s.By,
			stateWord(s.State)),
		Foot: fmt.Sprintf("%s, batch record %s, drawn %s", s.Shop, s.Code, moment(s.Drawn))}
	facts := labelart.PagePart{Head: "What stands of it", Shares: []float64{0.15, 0.85}, Strong: []bool{true}}
	for _, f := range s.Facts {
		facts.Rows = append(facts.Rows, []string{f.What, f.Says})
	}
	facts.Rows = append(facts.Rows, []string{"Head of the book", s.Head})
	lines := labelart.PagePart{Head: "What went in", Shares: []float64{0.3, 0.1, 0.1, 0.4, 0.1}}
	lines.Rows = append(lines.Rows, []string{"Line", "Target g", "Weighed g", "From lots", "By"})
	for _, l := range s.Lines {
		actual := ""
		if l.Actual != nil {
			actual = l.Actual.String()
		}
		var lots []string
		for _, x := range l.Lots {
			lots = append(lots, strings.TrimSpace(fmt.Sprintf("%s (%s g) %s %s", x.Code, x.Grams, x.Supplier, x.Said)))
		}
		lines.Rows = append(lines.Rows, []string{l.Name, l.Target.String(), actual, strings.Join(lots, "; "), l.By})
	}
	acts := labelart.PagePart{Head: "Everything that happened, in its order", Shares: []float64{0.05, 0.17, 0.1, 0.68}}
	for _, a := range s.Acts {
		acts.Rows = append(acts.Rows, []string{fmt.Sprint(a.Seq), moment(a.At), a.By, saidOf(a)})
	}
	p.Parts = []labelart.PagePart{facts, lines, acts}
	if len(s.Label) > 0 {
		label := labelart.PagePart{Head: "What the label said", Shares: []float64{0.15, 0.85}, Strong: []bool{true}}
		for _, f := range s.Label {
			label.Rows = append(label.Rows, []string{f.What, f.Says})
		}
		p.Parts = append(p.Parts, label)
	}
	return p.PDF(w)
}

// saidOf is what an act says, with what it puts right.
func saidOf(a production.StoryAct) string {
	if a.Corrects == 0 {
		return a.Said
	}
	return fmt.Sprintf("%s (in the place of no. %d)", a.Said, a.Corrects)
}

func stateWord(state string) string {
	return strings.ToUpper(state[:1]) + strings.ReplaceAll(state[1:], "_", " ")
}
