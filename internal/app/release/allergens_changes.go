package release

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/judge"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
)

// ChangeView is what an act changed, and what is left to deal with.
type ChangeView struct {
	kernel.AllergenChange
	Open    bool          `json:"open"`
	Labels  []ChangeLabel `json:"labels"`
	Batches []ChangeBatch `json:"batches"`
	// how many batches it called back
	CalledBack int         `json:"called_back"`
	Lots       []LotChoice `json:"lots"` // of the ingredients, the oldest first: from which on?
}

// ChangeLabel is a label that a change touches. It is done once it was confirmed with what was gained.
type ChangeLabel struct {
	kernel.TouchedLabel
	Done bool `json:"done"`
}

// ChangeBatch is a batch that was called back for its words.
type ChangeBatch struct {
	Batch   kernel.BatchRow `json:"batch"`
	Lacking bench.Lacking   `json:"lacking"`
	Jars    []bench.JarsAt  `json:"jars"`
	Printed int             `json:"printed"`
	Used    []string        `json:"used"` // codes of the lots of the ingredients that went in
}

// LotChoice is a lot of an ingredient that changed.
type LotChoice struct {
	ID       int64  `json:"id"`
	Code     string `json:"code"`
	Name     string `json:"name"`
	Received string `json:"received"`
}

// mostChanges is how many changes are listed.
const mostChanges = 100

// AllergenChanges lists what was gained and lost: changes with something left to do first, then the newest.
func (a *Room) AllergenChanges(ctx context.Context) ([]ChangeView, error) {
	return a.changeViews(a.On(ctx))
}

func (a *Room) changeViews(st kernel.Store) ([]ChangeView, error) {
	list, err := st.AllergenChanges(false, mostChanges)
	if err != nil {
		return nil, err
	}
	out := []ChangeView{}
	if len(list) == 0 {
		return out, nil
	}
	labels, err := a.LabelRows(st)
	if err != nil {
		return nil, err
	}
	lacking, err := st.BatchesLacking()
	if err != nil {
		return nil, err
	}
	for _, c := range list {
		v := changeView(c, labels)
		v.Open = slices.ContainsFunc(v.Labels, func(l ChangeLabel) bool { return !l.Done }) ||
			slices.ContainsFunc(c.Batches, func(id int64) bool { return lacking[id] })
		out = append(out, v)
	}
	slices.SortStableFunc(out, func(x, y ChangeView) int {
		switch {
		case x.Open == y.Open:
			return 0
		case x.Open:
			return -1
		}
		return 1
	})
	return out, nil
}

func changeView(c kernel.AllergenChange, labels []kernel.LabelRow) ChangeView {
	return ChangeView{AllergenChange: c, Labels: changedLabels(c, labels), Batches: []ChangeBatch{},
		Lots:       []LotChoice{},
		CalledBack: len(c.Batches)}
}

func counted(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// changedLabels says, for each label a change touches, whether it now names everything its product contains.
func changedLabels(c kernel.AllergenChange, labels []kernel.LabelRow) []ChangeLabel {
	out := []ChangeLabel{}
	for _, t := range c.Labels {
		if i := slices.IndexFunc(labels, func(l kernel.LabelRow) bool { return l.ID == t.ID }); i >= 0 {
			out = append(out, ChangeLabel{t, labels[i].State != kernel.LabelStop})
		}
	}
	return out
}

// AllergenChange returns a change with what is left to deal with. Errors: ErrNotFound.
func (a *Room) AllergenChange(ctx context.Context, id int64) (ChangeView, error) {
	return a.changeView(a.On(ctx), id)
}

func (a *Room) changeView(st kernel.Store, id int64) (ChangeView, error) {
	c, err := st.AllergenChange(id)
	if err != nil {
		return ChangeView{}, err
	}
	labels, err := a.LabelRows(st)
	if err != nil {
		return ChangeView{}, err
	}
	v := changeView(c, labels)
	v.Open = slices.ContainsFunc(v.Labels, func(l ChangeLabel) bool { return !l.Done })
	if len(c.Batches) > 0 {
		if err := a.changeBatches(st, &v); err != nil {
			return v, err
		}
	}
	return v, nil
}

// changeBatches says where the batches that a change called back stand, and which lots went into them.
func (a *Room) changeBatches(st kernel.Store, v *ChangeView) error {
	rows, err := st.BatchesBy(v.AllergenChange.Batches)
	if err != nil {
		return err
	}
	desk, err := a.Production.Judging(st)
	if err != nil {
		return err
	}
	list, err := desk.Read(st, rows)
	if err != nil {
		return err
	}
	jars, err := st.JarsOf(v.AllergenChange.Batches...)
	if err != nil {
		return err
	}
	lots := map[int64]LotChoice{}
	for _, l := range list {
		b := ChangeBatch{Batch: production.RowOf(l.Listed()), Jars: jars[l.Row.ID], Printed: l.Record.Printed,
			Used: []string{}}
		if b.Jars == nil {
			b.Jars = []bench.JarsAt{}
		}
		for _, w := range l.Record.Words {
			if w.Change == v.ID {
				b.Lacking = w
				v.Open = v.Open || w.How == ""
			}
		}
		for _, line := range l.Record.Lines {
			for _, d := range line.Draws {
				f := l.Needs.Lots[d.Lot]
				if slices.ContainsFunc(v.Ingredients,
					func(c judge.Change) bool { return c.ID == f.Ingredient }) {
					lots[d.Lot] = LotChoice{ID: d.Lot, Code: f.Code, Name: f.Name}
					b.Used = append(b.Used, f.Code)
				}
			}
		}
		v.Batches = append(v.Batches, b)
	}
	for _, c := range lots {
		v.Lots = append(v.Lots, c)
	}
	slices.SortFunc(v.Lots, func(x, y LotChoice) int { return int(x.ID - y.ID) })
	return nil
}

// FromLot says from which lot on an ingredient has what it gained. Batches that took only earlier lots are not
// affected; batches whose lots are unknown stay called back.
func (a *Room) FromLot(ctx context.Context, id, lot int64, reason string) (ChangeView, error) {
	if err := kernel.May(ctx, people.Owner, "Saying from which lot on"); err != nil {
		return ChangeView{}, err
	}
	why, err := kernel.ReasonFor(reason)
	if err != nil {
		return ChangeView{}, err
	}
	var out ChangeView
	err = a.In(ctx, func(st kernel.Store) error {
		v, err := a.changeView(st, id)
		if err != nil {
			return err
		}
		from := slices.IndexFunc(v.Lots, func(l LotChoice) bool { return l.ID == lot })
		if from < 0 {
			return kernel.Mistake("lot", "choose one of the lots that went into these batches")
		}
		later := map[string]bool{}
		for _, l := range v.Lots[from:] {
			later[l.Code] = true
		}
		var cleared []int64
		for _, b := range v.Batches {
			if b.Lacking.How != "" || len(b.Used) == 0 ||
				slices.ContainsFunc(b.Used, func(code string) bool { return later[code] }) {
				continue
			}
			good := bench.MadeGood{Change: id, How: bench.Unaffected,
				Reason: fmt.Sprintf("took only lots before %s: %s", v.Lots[from].Code, why)}
			if err := a.writeInto(ctx, st, b.Batch.ID, &good, fmt.Sprintf("good-%d-%d", id, b.Batch.ID)); err != nil {
				return err
			}
			cleared = append(cleared, b.Batch.ID)
		}
		if len(cleared) == 0 {
			return kernel.Refuse("none_before",
				"Every batch took that lot or a later one, or its lots are not known: none is cleared.")
		}
		out, err = a.changeView(st, id)
		return err
	})
	return out, err
}

// writeInto appends an entry that a use case writes for a person, and settles the batch.
func (a *Room) writeInto(ctx context.Context, st kernel.Store, batch int64, body any, key string) error {
	if err := st.LockBatches(batch); err != nil {
		return err
	}
	l, err := a.Production.Load(st, batch)
	if err != nil {
		return err
	}
	who := kernel.Actor(ctx)
	e := bench.Entry{At: a.Now(), By: who.Name, Role: who.Role, Body: body}
	if err := l.Fold().Refuses(e); err != nil {
		return production.RefusalOf(err, l.View())
	}
	if _, err := st.AddEntry(batch, e, key, kernel.DigestOf(body)); err != nil {
		return production.EntryKeyTaken(err)
	}
	return a.Production.Judge(ctx, st, batch)
}

// AllergenTasks adds tasks for gains that are not dealt with, and for ingredients nobody has looked at.
func (a *Room) AllergenTasks(out *kernel.TodayView, st kernel.Store) error {
	if err := a.changeTasks(out, st); err != nil {
		return err
	}
	return a.openTasks(out, st)
}

// changeTasks adds a task for each gain that is not dealt with.
func (a *Room) changeTasks(out *kernel.TodayView, st kernel.Store) error {
	list, err := a.changeViews(st)
	if err != nil {
		return err
	}
	for _, c := range list {
		if !c.Open {
			continue
		}
		open := 0
		for _, l := range c.Labels {
			if !l.Done {
				open++
			}
		}
		gained := law.Each[[]string]{}
		for _, x := range c.Ingredients {
			for r, codes := range x.Gained {
				gained[r] = append(gained[r], codes...)
			}
		}
		out.Tasks = append(out.Tasks, kernel.Task{Kind: "gained", Level: "danger",
			Title: fmt.Sprintf("%s gained %s", judge.Names(c.Ingredients), judge.InWords(gained)),
			Text: fmt.Sprintf("%s. Work it off: %s to draw anew, %s called back.", kernel.Capital(c.ProductsIn()),
				kernel.Plural(open, "label"), counted(c.CalledBack, "batch", "batches")),
			Link: fmt.Sprintf("/allergens/%d", c.ID),
			When: "now"})
	}
	return nil
}

// openTasks names ingredients of current formulas that nobody has looked at.
func (a *Room) openTasks(out *kernel.TodayView, st kernel.Store) error {
	list, err := a.openInUse(st)
	if err != nil || len(list) == 0 {
		return err
	}
	names := make([]string, len(list))
	for i, g := range list {
		names[i] = g.Name
	}
	const most = 4
	title := "Look at " + strings.Join(names[:min(most, len(names))], ", ")
	if n := len(names) - most; n > 0 {
		title += fmt.Sprintf(" and %d more", n)
	}
	in, link := "them", "/allergens"
	if len(list) == 1 {
		in, link = "it", "/pantry/"+list[0].ID+"?look=1"
	}
	out.Tasks = append(out.Tasks, kernel.Task{Kind: "open", Level: "needs_you", Title: title,
		Text: fmt.Sprintf(
			"Nobody has said which allergens are in %s. What is made with %s says “at least”, cannot be locked, "+
				"and prints no label.", in, in), Link: link, When: "before the next lock"})
	return nil
}

// openInUse lists, by name, the ingredients in current formulas that nobody has looked at.
func (a *Room) openInUse(st kernel.Store) ([]*pantry.Ingredient, error) {
	versions, err := st.CurrentVersions()
	if err != nil {
		return nil, err
	}
	cores := make([]formula.Version, len(versions))
	for i, v := range versions {
		cores[i] = v.Core()
	}
	lib := kernel.NewLibrary()
	if err := kernel.Extend(st, &lib, cores...); err != nil {
		return nil, err
	}
	var out []*pantry.Ingredient
	for _, g := range lib.Ingredients {
		if len(g.Open()) > 0 && !g.IsPackaging() {
			out = append(out, g)
		}
	}
	slices.SortFunc(out, func(x, y *pantry.Ingredient) int { return strings.Compare(x.Name, y.Name) })
	return out, nil
}

// OpenIngredient is an ingredient that waits for somebody to look at it.
type OpenIngredient struct {
	ID   string   `json:"id"`
	Name string   `json:"name"`
	Why  []string `json:"why"`
	In   []string `json:"in"` // names of products
}

// OpenIngredients lists the ingredients of current formulas that nobody has looked at.
func (a *Room) OpenIngredients(ctx context.Context) ([]OpenIngredient, error) {
	st := a.On(ctx)
	list, err := a.openInUse(st)
	if err != nil {
		return nil, err
	}
	out := []OpenIngredient{}
	if len(list) == 0 {
		return out, nil
	}
	lib, _, versions, err := kernel.Everything(st)
	if err != nil {
		return nil, err
	}
	for _, g := range list {
		x := OpenIngredient{g.ID, g.Name, g.Open(), []string{}}
		for _, v := range versions {
			if name := lib.Name(v.FormulaID); lib.Uses(v.Core(), g.ID) && !slices.Contains(x.In, name) {
				x.In = append(x.In, name)
			}
		}
		out = append(out, x)
	}
	return out, nil
}
