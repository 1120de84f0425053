package production

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"
)

// Candidate is a lot that may stand behind a line of a batch. Reaches is what is left of it, as it reaches the bowl.
type Candidate struct {
	kernel.LotStanding
	For     string       `json:"for"` // the ingredient of the line that it stands for; empty for a component
	Reaches amount.Grams `json:"reaches_g"`
	Step    string       `json:"step"`
	WhyNot  string       `json:"why_not"`
	share   amount.Exact
}

// LineLots are the lots for one line, what is to be used first first.
type LineLots struct {
	Line string      `json:"line"`
	Of   []string    `json:"of"` // ingredients that may go in; none for a component
	Lots []Candidate `json:"lots"`
}

// wanted is what a line asks for: an ingredient, any of several, or a component.
type wanted struct {
	ids       []string
	component *formula.Ref
	sources   []lots.Source
	stands    map[string]int // which of ids a source stands for, by its place in sources
}

func (w wanted) key() string {
	if w.component != nil {
		return fmt.Sprintf("%s/%d", w.component.Formula, w.component.Version)
	}
	return strings.Join(w.ids, "|")
}

func (w wanted) first() string {
	if len(w.ids) > 0 {
		return w.ids[0]
	}
	return ""
}

// all are the ingredients whose lots may be drawn.
func (w wanted) all() []string {
	out := make([]string, len(w.sources))
	for i, s := range w.sources {
		out[i] = s.Ingredient
	}
	return out
}

// larder answers which lots may stand behind a line.
type larder struct {
	steps []pantry.Preparation
	have  map[string]*pantry.Ingredient
	today day.Day
	met   *met // nil: nothing was looked up ahead
}

// met are lots that were looked up ahead, with the texts that they may be called by.
type met struct {
	texts []string
	list  []kernel.LotStanding
}

// called are the lots of one of these codes, or with these words of their supplier.
func (m *met) called(st kernel.Store, texts []string) ([]kernel.LotStanding, error) {
	if m == nil || slices.ContainsFunc(texts, func(t string) bool { return !slices.Contains(m.texts, t) }) {
		return st.LotsCalled(texts...)
	}
	return slices.DeleteFunc(slices.Clone(m.list), func(s kernel.LotStanding) bool {
		return !slices.ContainsFunc(texts, func(t string) bool {
			return s.Code == t || s.Text != "" && strings.EqualFold(s.Text, t)
		})
	}), nil
}

// CallsFor are what a lot may be called where somebody typed or scanned a text.
func CallsFor(typed string) []string {
	typed = strings.TrimSpace(typed)
	if code := LotCode(typed); code != "" && code != typed {
		return []string{typed, code}
	}
	return []string{typed}
}

// larder is a larder by the shop's book.
func (a *Room) larder(b catalog.Book) *larder {
	return &larder{steps: b.Steps, have: map[string]*pantry.Ingredient{},
		today: day.Of(a.TodayIn(b.Settings))}
}

// larder is the larder of the desk: what it comes to know stays there.
func (j *judging) larder() *larder {
	w := j.app.larder(j.book)
	w.have, w.met = j.behind, j.met
	return w
}

// usable is an ingredient's usable share in percent; one that is not there has all of it.
func (w *larder) usable(id string) float64 {
	if g := w.have[id]; g != nil {
		return g.Usable()
	}
	return 100
}

// know loads ingredients that the larder lacks.
func (w *larder) know(st kernel.Store, ids []string) error {
	lack := slices.DeleteFunc(slices.Clone(ids), func(id string) bool {
		_, have := w.have[id]
		return have
	})
	if len(lack) == 0 {
		return nil
	}
	rows, err := st.Ingredients(lack...)
	for _, id := range lack {
		w.have[id] = nil
	}
	for i := range rows {
		w.have[rows[i].ID] = &rows[i].Data
	}
	return err
}

// wantedBy is what lines of a batch ask for, in their order.
func (w *larder) wantedBy(st kernel.Store, l Loaded, lines ...string) ([]wanted, error) {
	out := make([]wanted, len(lines))
	var behind []string
	for i, line := range lines {
		if err := out[i].named(l, line); err != nil {
			return nil, err
		}
		for _, id := range out[i].ids {
			for _, s := range lots.Sources(id, func(string) float64 { return 100 }, w.steps) {
				behind = append(behind, s.Ingredient)
			}
		}
	}
	if err := w.know(st, behind); err != nil {
		return nil, err
	}
	for i := range out {
		for k, id := range out[i].ids {
			for _, s := range lots.Sources(id, w.usable, w.steps) {
				if _, taken := out[i].stands[s.Ingredient]; !taken {
					out[i].stands[s.Ingredient] = k
					out[i].sources = append(out[i].sources, s)
				}
			}
		}
	}
	return out, nil
}

// named is what a line names: a component, an ingredient, any of several, or what goes onto the jars.
func (w *wanted) named(l Loaded, line string) error {
	w.stands = map[string]int{}
	for i := range l.Version.Lines {
		if x := &l.Version.Lines[i]; x.ID == line {
			w.component = x.Component
			if w.ids = x.AnyOf; len(w.ids) == 0 && x.Ingredient != "" {
				w.ids = []string{x.Ingredient}
			}
			return nil
		}
	}
	onTop, err := l.Lib.OnTop(l.Version)
	for _, n := range onTop {
		if n.Line.ID == line && n.Ingredient != nil {
			w.ids = []string{n.Ingredient.ID}
		}
	}
	return err
}

// candidate is a lot as it may stand behind a line; ok is false where it is of something else.
func (w *larder) candidate(want wanted, s kernel.LotStanding) (c Candidate, ok bool) {
	c = Candidate{LotStanding: s, WhyNot: s.WhyNot(w.today), share: amount.Whole(1)}
	if want.component != nil {
		c.Reaches = s.Left
		return c, s.Formula == want.component.Formula && s.Version == want.component.Version
	}
	i := slices.IndexFunc(want.sources, func(x lots.Source) bool {
		return s.Formula == "" &&
			x.Ingredient == s.Ingredient
	})
	if i < 0 {
		return c, false
	}
	c.For, c.share, c.Step = want.ids[want.stands[s.Ingredient]], want.sources[i].Share, want.sources[i].Step
	c.Reaches = s.Left.Exact().Over(c.share).Grams()
	return c, true
}

// there are the lots for what is wanted of which something is left, what is to be used first first, for each.
func (w *larder) there(st kernel.Store, wants ...wanted) ([][]Candidate, error) {
	var ids []string
	var of []formula.Ref
	for _, want := range wants {
		ids = append(ids, want.all()...)
		if want.component != nil {
			of = append(of, *want.component)
		}
	}
	list, err := st.LotsThere(ids, of)
	if err != nil {
		return nil, err
	}
	out := make([][]Candidate, len(wants))
	for i, want := range wants {
		out[i] = []Candidate{}
		for _, s := range list {
			if c, ok := w.candidate(want, s); ok {
				out[i] = append(out[i], c)
			}
		}
		slices.SortFunc(out[i], func(x, y Candidate) int {
			if (x.WhyNot == "") != (y.WhyNot == "") {
				if x.WhyNot == "" {
					return -1
				}
				return 1
			}
			return lots.FirstExpired(x.Facts, y.Facts)
		})
	}
	return out, nil
}

// LotsFor shows the lots for each line of a batch.
func (a *Room) LotsFor(ctx context.Context, batch int64) ([]LineLots, error) {
	st := a.On(ctx)
	l, err := a.Load(st, batch)
	if err != nil {
		return nil, err
	}
	w := l.desk.larder()
	lines := make([]string, len(l.Row.Targets))
	for i, t := range l.Row.Targets {
		lines[i] = t.Line
	}
	wants, err := w.wantedBy(st, l, lines...)
	if err != nil {
		return nil, err
	}
	list, err := w.there(st, wants...)
	if err != nil {
		return nil, err
	}
	out := []LineLots{}
	for i, line := range lines {
		out = append(out, LineLots{line, append([]string{}, wants[i].ids...), list[i]})
	}
	return out, nil
}

// find is the lot that was meant by a code, or by the supplier's own words for it.
func (w *larder) find(st kernel.Store, want wanted, typed string) (Candidate, error) {
	list, err := w.met.called(st, CallsFor(typed))
	if err != nil {
		return Candidate{}, err
	}
	var fit []Candidate
	other := ""
	for _, s := range list {
		if c, ok := w.candidate(want, s); ok {
			fit = append(fit, c)
		} else {
			other = s.Name
			if s.Formula != "" {
				other += fmt.Sprintf(", version %d", s.Version)
			}
		}
	}
	switch {
	case len(fit) > 1:
		codes := make([]string, len(fit))
		for i, c := range fit {
			codes[i] = c.Code
		}
		return Candidate{}, kernel.Mistake("code",
			"%q is on more than one lot: %s. Type the code of the one in your hand",
			field.Clip(typed), strings.Join(codes, ", "))
	case len(fit) == 1:
		return fit[0], nil
	case other != "":
		return Candidate{}, kernel.Mistake("code", "%s is %s; this line asks for something else", field.Clip(typed),
			other)
	}
	return Candidate{}, kernel.Mistake("code", "no lot is called %q", field.Clip(typed))
}

// completeDraws finds the lots that a weighing names and works out what it takes of each. Of an "any of" line the lots
// say what was taken of which.
func (a *Room) completeDraws(st kernel.Store, l Loaded, w *bench.Weighing) error {
	before := l.Fold().Before(w.Line)
	if err := sameLots(w, before); err != nil || len(w.Draws) == 0 {
		return err
	}
	want, err := nameDraws(st, l, w.Line, "weighing", w.Draws)
	if err != nil {
		return err
	}
	w.Complete(l.Needs.Lots, a.Now(), l.Book.Settings.Zone(), before)
	if len(want.ids) > 1 {
		w.Used = usedOf(w.Draws)
	}
	return nil
}

// nameDraws finds the lots that draws for a line name, and works out what they take of each. of is the kind of entry,
// for its fields.
func nameDraws(st kernel.Store, l Loaded, line, of string, draws []bench.Draw) (wanted, error) {
	shelf := l.desk.larder()
	wants, err := shelf.wantedBy(st, l, line)
	if err != nil {
		return wanted{}, err
	}
	return wants[0], shelf.name(st, l, wants[0], of, draws)
}

// name finds the lots that draws for what is wanted name.
func (w *larder) name(st kernel.Store, l Loaded, want wanted, of string, draws []bench.Draw) error {
	if len(draws) > mostDraws {
		return kernel.Mistake(of+".draws", "at most %d lots for one line", mostDraws)
	}
	for i := range draws {
		d := &draws[i]
		if len([]rune(d.Reason)) > 300 {
			return kernel.Mistake(fmt.Sprintf("%s.draws[%d].reason", of, i), "at most 300 characters")
		}
		c, err := w.find(st, want, d.Code)
		if err != nil {
			return drawField(err, of, i)
		}
		d.Lot, d.Code, d.Step, d.Over, d.Out, d.Ingredient = c.ID, c.Code, c.Step, "", "", ""
		if d.Step != "" {
			d.Out = c.For
		}
		if len(want.ids) > 1 {
			d.Ingredient = c.For
		}
		d.Taken = c.share.Times(d.Grams.Exact()).Grams()
		l.Needs.Lots[c.ID] = c.Facts
	}
	return nil
}

// sameLots keeps a correction without lots at the one lot that was weighed from; no lot that was named is lost.
func sameLots(w *bench.Weighing, before bench.Entry) error {
	was, ok := before.Body.(*bench.Weighing)
	if !ok || len(was.Draws) == 0 || len(w.Draws) > 0 {
		return nil
	}
	if len(was.Draws) > 1 || !w.Correction {
		return kernel.Mistake("weighing.draws", "this line was weighed from lots: say how much of each went in")
	}
	w.Draws = []bench.Draw{{Code: was.Draws[0].Code, Grams: w.Grams}}
	return nil
}

// mostDraws is how many lots a line may be weighed from.
const mostDraws = 20

func drawField(err error, of string, i int) error {
	p, ok := err.(kernel.Problem)
	if !ok || len(p.Fields) == 0 {
		return err
	}
	p.Fields[0].Field = fmt.Sprintf("%s.draws[%d].%s", of, i, p.Fields[0].Field)
	return p
}

// usedOf is what was taken of a group, by its ingredients.
func usedOf(draws []bench.Draw) []formula.Use {
	var out []formula.Use
	for _, d := range draws {
		at := slices.IndexFunc(out, func(u formula.Use) bool { return u.Ingredient == d.Ingredient })
		if at < 0 {
			out = append(out, formula.Use{Ingredient: d.Ingredient})
			at = len(out) - 1
		}
		out[at].Grams = out[at].Grams.Plus(d.Grams)
	}
	return out
}
