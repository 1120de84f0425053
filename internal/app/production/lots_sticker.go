package production

import (
	"bytes"
	"context"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/day"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/lots"
)

// Sticker draws stickers for a lot as a PDF of small pages.
func (a *Room) Sticker(ctx context.Context, id int64, count int) (kernel.PrintRun, error) {
	if count < 1 || count > 200 {
		return kernel.PrintRun{}, kernel.Mistake("count", "between 1 and 200 stickers")
	}
	l, err := a.LotOf(a.On(ctx), id)
	if err != nil {
		return kernel.PrintRun{}, err
	}
	settings, _, err := a.Settings(a.On(ctx))
	if err != nil {
		return kernel.PrintRun{}, err
	}
	tongue := settings.Tongue()
	f := l.standing.Facts
	s := labelart.Sticker{Code: l.row.Code, Name: f.Name}
	if f.Ends != "" {
		s.Ends = map[string]string{lots.UseBy: "use by ", lots.BestBefore: tongue.Best() + " "}[f.EndKind] +
			plainDay(f.Ends, tongue)
	}
	var from []string
	if f.Supplier != "" {
		from = append(from, f.Supplier)
	}
	if f.Text != "" {
		from = append(from, "lot "+f.Text)
	}
	if day := l.record.CameIn.Day; day != "" {
		from = append(from, "in "+plainDay(day, tongue))
	}
	if x := l.record.Froze; x != nil {
		from = append(from, "frozen "+plainDay(x.Day, tongue))
	}
	s.Words = []string{strings.Join(from, ", ")}
	switch {
	case f.State == lots.Waiting:
		s.Warn = "NOT ACCEPTED YET"
	case f.State == lots.Refused:
		s.Warn = "REFUSED"
	case f.Bar != "":
		s.Warn = "HOLD"
	}
	var b bytes.Buffer
	if err := s.PDF(&b, count); err != nil {
		return kernel.PrintRun{}, err
	}
	return kernel.PrintRun{PDF: b.Bytes(), Name: "sticker-" + l.row.Code + ".pdf"}, nil
}

// plainDay is a day as it is said on paper.
func plainDay(on day.Day, t law.Tongue) string {
	d, err := day.Parse(on)
	if err != nil {
		return string(on)
	}
	return t.DayYear(d)
}
