package app

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
)

// ChangeView is what an act changed, with what is still to be dealt with.
type ChangeView struct {
	AllergenChange
	Open    bool          `json:"open"`
	Labels  []ChangeLabel `json:"labels"`
	Batches []ChangeBatch `json:"batches"`
	// how many batches it called back
	CalledBack int         `json:"called_back"`
	Lots       []LotChoice `json:"lots"` // of the ingredients, the oldest first: from which on?
}

// ChangeLabel is a label that a change touches; done once it was confirmed with what was gained.
type ChangeLabel struct {
	TouchedLabel
	Done bool `json:"done"`
}

// ChangeBatch is a batch that was called back for its words.
type ChangeBatch struct {
	Batch   BatchRow       `json:"batch"`
	Lacking bench.Lacking  `json:"lacking"`
	Jars    []bench.JarsAt `json:"jars"`
	Printed int            `json:"printed"`
	Used    []string       `json:"used"` // codes of the lots of the ingredients that went in
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

// AllergenChanges lists what was gained and lost, the newest first; those with something left to do before the others.
func (a *App) AllergenChanges(ctx context.Context) ([]ChangeView, error) {
	return a.changeViews(a.on(ctx))
}

func (a *App) changeViews(st Store) ([]ChangeView, error) {
	list, err := st.AllergenChanges(false, mostChanges)
	if err != nil {
		return nil, err
	}
	out := []ChangeView{}
	if len(list) == 0 {
		return out, nil
	}
	labels, err := a.labelRows(st)
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

func changeView(c AllergenChange, labels []LabelRow) ChangeView {
	return ChangeView{AllergenChange: c, Labels: changedLabels(c, labels), Batches: []ChangeBatch{}, Lots: []LotChoice{},
		CalledBack: len(c.Batches)}
}

func counted(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// changedLabels tells of each label that a change touches whether it names by now all that its product contains.
func changedLabels(c AllergenChange, labels []LabelRow) []ChangeLabel {
	out := []ChangeLabel{}
	for _, t := range c.Labels {
		if i := slices.IndexFunc(labels, func(l LabelRow) bool { return l.ID == t.ID }); i >= 0 {
			out = append(out, ChangeLabel{t, labels[i].State != LabelStop})
		}
	}
	return out
}

// AllergenChange returns one with what is to be dealt with. Errors: ErrNotFound.
func (a *App) AllergenChange(ctx context.Context, id int64) (ChangeView, error) {
	return a.changeView(a.on(ctx), id)
}

func (a *App) changeView(st Store, id int64) (ChangeView, error) {
	c, err := st.AllergenChange(id)
	if err != nil {
		return ChangeView{}, err
	}
	labels, err := a.labelRows(st)
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

// changeBatches tells where the batches stand that a change called back, and which lots went into them.
func (a *App) changeBatches(st Store, v *ChangeView) error {
	rows, err := st.BatchesBy(v.AllergenChange.Batches)
	if err != nil {
		return err
	}
	desk, err := a.judging(st)
	if err != nil {
		return err
	}
	list, err := desk.read(st, rows)
	if err != nil {
		return err
	}
	jars, err := st.JarsOf(v.AllergenChange.Batches...)
	if err != nil {
		return err
	}
	lots := map[int64]LotChoice{}
	for _, l := range list {
		b := ChangeBatch{Batch: batchRow(l.listed()), Jars: jars[l.row.ID], Printed: l.record.Printed, Used: []string{}}
		if b.Jars == nil {
			b.Jars = []bench.JarsAt{}
		}
		for _, w := range l.record.Words {
			if w.Change == v.ID {
				b.Lacking = w
				v.Open = v.Open || w.How == ""
			}
		}
		for _, line := range l.record.Lines {
			for _, d := range line.Draws {
				f := l.needs.Lots[d.Lot]
				if slices.ContainsFunc(v.Ingredients, func(c IngredientChange) bool { return c.ID == f.Ingredient }) {
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

// FromLot says from which lot on an ingredient has what it gained: batches that took only earlier lots of it are not
// affected. Batches of which lots are not known stay called back.
func (a *App) FromLot(ctx context.Context, id, lot int64, reason string) (ChangeView, error) {
	if err := may(ctx, people.Owner, "Saying from which lot on"); err != nil {
		return ChangeView{}, err
	}
	why, err := reasonFor(reason)
	if err != nil {
		return ChangeView{}, err
	}
	var out ChangeView
	err = a.in(ctx, func(st Store) error {
		v, err := a.changeView(st, id)
		if err != nil {
			return err
		}
		from := slices.IndexFunc(v.Lots, func(l LotChoice) bool { return l.ID == lot })
		if from < 0 {
			return field("lot", "choose one of the lots that went into these batches")
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
			return refused("none_before",
				"Every batch took that lot or a later one, or its lots are not known: none is cleared.")
		}
		out, err = a.changeView(st, id)
		return err
	})
	return out, err
}

// writeInto appends an entry that a use case writes for a person, and settles the batch.
func (a *App) writeInto(ctx context.Context, st Store, batch int64, body any, key string) error {
	if err := st.LockBatches(batch); err != nil {
		return err
	}
	l, err := a.load(st, batch)
	if err != nil {
		return err
	}
	who := actor(ctx)
	e := bench.Entry{At: a.Now(), By: who.Name, Role: who.Role, Body: body}
	if err := l.fold().Refuses(e); err != nil {
		return refusalOf(err, l.view())
	}
	if _, err := st.AddEntry(batch, e, key, digestOf(body)); err != nil {
		return entryKeyTaken(err)
	}
	return a.judge(ctx, st, batch)
}

// keptOf is what a print kept of its label.
func keptOf(p *bench.Print) (LabelKept, error) {
	kept := LabelKept{}
	err := json.Unmarshal(p.Kept, &kept)
	if kept.Allergens == nil { // none was kept as nothing
		kept.Allergens = []string{}
	}
	return kept, err
}

// allergenTasks tells what was gained and is not dealt with, and what nobody has looked at.
func (a *App) allergenTasks(out *TodayView, st Store) error {
	if err := a.changeTasks(out, st); err != nil {
		return err
	}
	return a.openTasks(out, st)
}

// changeTasks tells what was gained and is not dealt with yet.
func (a *App) changeTasks(out *TodayView, st Store) error {
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
		out.Tasks = append(out.Tasks, Task{"gained", "danger",
			fmt.Sprintf("%s gained %s", changedNames(c.Ingredients), codesIn(gained)),
			fmt.Sprintf("%s. Work it off: %s to draw anew, %s called back.", capital(c.productsIn()),
				plural(open, "label"), counted(c.CalledBack, "batch", "batches")), fmt.Sprintf("/allergens/%d", c.ID),
			"now"})
	}
	return nil
}

// openTasks names ingredients of current formulas that nobody has looked at.
func (a *App) openTasks(out *TodayView, st Store) error {
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
	out.Tasks = append(out.Tasks, Task{"open", "needs_you", title,
		fmt.Sprintf("Nobody has said which allergens are in %s. What is made with %s says “at least”, cannot be locked, "+
			"and prints no label.", in, in), link, "before the next lock"})
	return nil
}

// openInUse are the ingredients that current formulas use and nobody has looked at, by name.
func (a *App) openInUse(st Store) ([]*pantry.Ingredient, error) {
	versions, err := st.CurrentVersions()
	if err != nil {
		return nil, err
	}
	cores := make([]formula.Version, len(versions))
	for i, v := range versions {
		cores[i] = v.Core()
	}
	lib := newLibrary()
	if err := extend(st, &lib, cores...); err != nil {
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
func (a *App) OpenIngredients(ctx context.Context) ([]OpenIngredient, error) {
	st := a.on(ctx)
	list, err := a.openInUse(st)
	if err != nil {
		return nil, err
	}
	out := []OpenIngredient{}
	if len(list) == 0 {
		return out, nil
	}
	lib, _, versions, err := everything(st)
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
