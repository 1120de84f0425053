package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
	"gallipot/internal/core/recall"
)

// RecallRow is a recall in a list.
type RecallRow struct {
	ID      int64          `json:"id"`
	Code    string         `json:"code"`
	Mock    bool           `json:"mock"`
	Title   string         `json:"title"`
	Began   time.Time      `json:"began"`
	Told    *time.Time     `json:"told_all"`
	Closed  *time.Time     `json:"closed_at"`
	Account recall.Account `json:"account"`
	Batches []int64        `json:"-"`
}

// RecallStore keeps drills and real recalls.
type RecallStore interface {
	AddRecall(r *RecallRow) error
	PutRecall(r RecallRow) error
	AddRecallEntry(id int64, e recall.Entry, key string, digest []byte) error
	RecallEntryKey(id int64, key string) ([]byte, error)
	Recall(id int64) (RecallRow, []recall.Entry, error)
	Recalls(most int) ([]RecallRow, error)
	RecallOf(batch int64) (string, error)
	LastDrill() (closed *time.Time, out bool, err error)
	LotsOfIngredient(id string) ([]int64, error)
}

// NewRecall is what a recall is asked of: lots or batches, what a code names, the change by which an allergen was
// gained, or, for a drill, an ingredient as if it carried an allergen.
type NewRecall struct {
	Mock       bool   `json:"mock"`
	Why        string `json:"why"`
	Lot        int64  `json:"lot"`
	Batch      int64  `json:"batch"`
	Code       string `json:"code"`
	Change     int64  `json:"change"`
	Ingredient string `json:"ingredient"`
	Allergen   string `json:"allergen"` // that the ingredient is taken to carry, in words
}

// RecallView is a recall with what to do next.
type RecallView struct {
	ID   int64  `json:"id"`
	Code string `json:"code"`
	recall.State
	Letters []recall.Letter `json:"letters"`
	Reached []RecallReached `json:"reached"`
	More    int             `json:"more"` // jars that turned out to be of it since, and are not in the list
	Now     time.Time       `json:"now"`
	MayEnd  bool            `json:"may_end"` // whoever looks may close it
}

// RecallReached is how somebody who has jars is reached, as the list of customers says now.
type RecallReached struct {
	Party   int64  `json:"party"`
	Contact string `json:"contact"`
	Market  bool   `json:"market"`
}

// RecallsView is all recalls, open ones first.
type RecallsView struct {
	Rows []RecallRow `json:"rows"`
	Due  string      `json:"due"`  // since when the yearly drill is due; empty where none is
	Next string      `json:"next"` // when the next is due; empty where none was done, or nothing ever left
}

const mostRecalls = 200

// Recalls lists drills and real recalls.
func (a *App) Recalls(ctx context.Context) (RecallsView, error) {
	st := a.on(ctx)
	out := RecallsView{}
	var err error
	if out.Rows, err = st.Recalls(mostRecalls); err != nil {
		return out, err
	}
	out.Due, out.Next, err = a.drillDue(st)
	return out, err
}

// drillDue is since when a drill is due, and when the next one is.
func (a *App) drillDue(st Store) (due, next string, err error) {
	s, _, err := a.settings(st)
	if err != nil {
		return "", "", err
	}
	closed, out, err := st.LastDrill()
	if err != nil {
		return "", "", err
	}
	last := ""
	if closed != nil {
		last = closed.In(s.zone()).Format(pantry.DateLayout)
	}
	due, next = recall.DrillDue(last, out, a.today(s).Format(pantry.DateLayout))
	return due, next, nil
}

// StartRecall begins looking for jars. A real one calls back every batch that was released, puts the lots it is asked
// of on hold, and is an owner's. Errors: ErrNotFound.
func (a *App) StartRecall(ctx context.Context, n NewRecall) (RecallView, error) {
	if _, err := person(ctx); err != nil {
		return RecallView{}, err
	}
	return once(ctx, a, func(st Store) (RecallView, error) {
		if err := st.LockBatches(); err != nil {
			return RecallView{}, err
		}
		began := time.Now()
		x, ids, err := a.recallOf(st, n)
		if err != nil {
			return RecallView{}, err
		}
		t, err := traced(st, ids)
		if err != nil {
			return RecallView{}, err
		}
		x.Rows = t.recallRows()
		x.FoundMS = float64(time.Since(began).Microseconds()) / 1000
		if x.Title == "" {
			x.Title = t.view().Title
		}
		who := actor(ctx)
		e := recall.Entry{Head: entry.Head{At: a.Now(), By: who.Name, Role: who.Role}, Body: &x}
		if err := (recall.State{}).Refuses(e); err != nil {
			return RecallView{}, refusalOf(err, nil)
		}
		row := RecallRow{Mock: x.Mock, Title: x.Title, Began: e.At}
		row.follow(recall.Read([]recall.Entry{e}))
		if err := st.AddRecall(&row); err != nil {
			return RecallView{}, err
		}
		if err := st.AddRecallEntry(row.ID, e, "began", nil); err != nil {
			return RecallView{}, err
		}
		if !x.Mock {
			if err := a.callBackAll(ctx, st, row, x, t); err != nil {
				return RecallView{}, err
			}
		}
		return a.recallView(ctx, st, row.ID)
	})
}

// recallOf is what a recall is asked of, with the lots from which it is traced.
func (a *App) recallOf(st Store, n NewRecall) (recall.Started, []int64, error) {
	x := recall.Started{Mock: n.Mock, Why: strings.TrimSpace(n.Why)}
	if n.Change != 0 {
		return a.recallOfChange(st, x, n.Change)
	}
	if n.Ingredient != "" {
		return a.recallOfIngredient(st, x, n)
	}
	ask := TraceAsk{Batch: n.Batch, Code: n.Code}
	if n.Lot != 0 {
		ask.Lots = []int64{n.Lot}
	}
	ids, err := tracedIDs(st, ask)
	if errors.Is(err, ErrNotFound) && n.Code != "" {
		return x, nil, field("code", "no lot and no batch is called “%s”", clip(n.Code))
	}
	if err != nil {
		return x, nil, err
	}
	list, err := st.Lots(ids...)
	if err != nil {
		return x, nil, err
	}
	x.Of = recall.OfLots
	for _, l := range list {
		if l.Kind == lots.OfBatch {
			x.Of = recall.OfBatches
		}
	}
	if x.IDs, err = withSisters(st, ids, list); err != nil {
		return x, nil, err
	}
	return x, x.IDs, nil
}

// withSisters adds to lots those of the batches that were filled from the same bowls.
func withSisters(st Store, ids []int64, list []Lot) ([]int64, error) {
	var batches []int64
	for _, l := range list {
		if l.Kind != lots.OfBatch {
			continue
		}
		same, err := st.Sisters(l.Batch)
		if err != nil {
			return nil, err
		}
		for _, s := range same {
			batches = append(batches, s.ID)
		}
	}
	if len(batches) == 0 {
		return ids, nil
	}
	own, err := st.LotsOfBatches(batches...)
	for _, l := range own {
		if !slices.Contains(ids, l.ID) {
			ids = append(ids, l.ID)
		}
	}
	return ids, err
}

// recallOfChange is of the batches that a gained allergen called back.
func (a *App) recallOfChange(st Store, x recall.Started, id int64) (recall.Started, []int64, error) {
	c, err := st.AllergenChange(id)
	if err != nil {
		return x, nil, err
	}
	var gained []IngredientChange
	for _, g := range c.Ingredients {
		if g.gains() {
			gained = append(gained, g)
		}
	}
	if len(gained) == 0 || len(c.Batches) == 0 {
		return x, nil, refused("not_ready", "No jars are out whose words lack what this change brought.")
	}
	x.Of, x.IDs, x.Allergen = recall.OfAllergen, []int64{id}, codesIn(gainedBy(gained))
	x.Title = fmt.Sprintf("%s in %s", x.Allergen, changedNames(gained))
	own, err := st.LotsOfBatches(c.Batches...)
	if err != nil {
		return x, nil, err
	}
	ids := make([]int64, len(own))
	for i, l := range own {
		ids[i] = l.ID
	}
	return x, ids, nil
}

// recallOfIngredient is a drill as if an ingredient carried an allergen that no label names.
func (a *App) recallOfIngredient(st Store, x recall.Started, n NewRecall) (recall.Started, []int64, error) {
	g, err := ingredientOf(st, n.Ingredient)
	if err != nil {
		return x, nil, err
	}
	if g == nil {
		return x, nil, field("ingredient", "choose an ingredient of the pantry")
	}
	x.Allergen = strings.TrimSpace(n.Allergen)
	if k := len([]rune(x.Allergen)); k < 2 || k > 60 {
		return x, nil, field("allergen", "which allergen, as if it carried it?")
	}
	if !n.Mock {
		return x, nil, refused("not_ready", "Write what %s carries into the pantry: that calls back what lacks the "+
			"words, and the recall begins there.", g.Name)
	}
	ids, err := st.LotsOfIngredient(g.ID)
	if err != nil {
		return x, nil, err
	}
	if len(ids) == 0 {
		return x, nil, field("ingredient", "no batch took of a lot of %s", g.Name)
	}
	x.Of, x.IDs, x.Title = recall.OfAllergen, ids, fmt.Sprintf("%s in %s, as an exercise", x.Allergen, g.Name)
	return x, ids, nil
}

// recallRows are where the book has the jars of every batch that what was asked of went into.
func (t tracing) recallRows() []recall.Row {
	rows := []recall.Row{}
	for _, id := range t.ids() {
		l := t.lots[id]
		if l.Kind != lots.OfBatch || !t.ahead[id] {
			continue
		}
		for _, j := range t.jars[l.Batch] {
			if j.Jars > 0 {
				rows = append(rows, recall.Row{Batch: l.Batch, Code: l.Code, Name: l.Name, Ends: l.Ends, Place: j.Place,
					Party: j.Party, PartyName: j.PartyName, Jars: j.Jars, Since: j.Since})
			}
		}
	}
	return rows
}

// follow writes into a row what follows from a recall's acts.
func (r *RecallRow) follow(s recall.State) {
	r.Account, r.Told, r.Closed, r.Batches = s.Account, s.ToldAll, s.ClosedAt, nil
	for _, l := range s.Lines {
		if !slices.Contains(r.Batches, l.Batch) {
			r.Batches = append(r.Batches, l.Batch)
		}
	}
}

// callBackAll calls back the batches that a real recall reaches, and puts the lots it is asked of on hold.
func (a *App) callBackAll(ctx context.Context, st Store, row RecallRow, x recall.Started, t tracing) error {
	who := actor(ctx)
	why := fmt.Sprintf("Recall %s: %s", row.Code, x.Why)
	var moved []int64
	for _, id := range t.asked {
		if t.lots[id].Kind == lots.OfBatch {
			continue
		}
		l, err := a.lot(st, id)
		if err != nil {
			return err
		}
		e := lots.Entry{Head: entry.Head{At: a.Now(), By: who.Name, Role: who.Role}, Body: &lots.Held{Reason: why}}
		if l.fold.Refuses(e, l.moment()) != nil {
			continue // it is on hold already, or was refused
		}
		if err := a.append(st, &l, e, "recall-"+row.Code, nil); err != nil {
			return err
		}
		if err := a.lotMoved(ctx, st, &l); err != nil {
			return err
		}
	}
	for _, id := range t.ids() {
		if l := t.lots[id]; l.Kind == lots.OfBatch && t.ahead[id] {
			moved = append(moved, l.Batch)
		}
	}
	return a.callBackBatches(ctx, st, moved, row.Code, why)
}

// callBackBatches writes into batches that were released that they are called back.
func (a *App) callBackBatches(ctx context.Context, st Store, ids []int64, code, why string) error {
	desk, err := a.judging(st)
	if err != nil {
		return err
	}
	who := actor(ctx)
	body := bench.Recall{Cause: why}
	e := bench.Entry{At: a.Now(), By: who.Name, Role: who.Role, Body: &body}
	for part := range slices.Chunk(ids, manyAtOnce) {
		list, err := desk.locked(st, part)
		if err != nil {
			return err
		}
		for _, l := range list {
			if !l.record.Out {
				continue
			}
			if _, err := st.AddEntry(l.row.ID, e, fmt.Sprintf("recall-%s-%d", code, l.row.ID), nil); err != nil {
				return err
			}
		}
	}
	return a.judgeAll(ctx, st, ids)
}

// ofRecall refuses to release a batch whose jars an open real recall looks for.
func ofRecall(st Store, batch int64, state string) error {
	if state != bench.Released {
		return nil
	}
	code, err := st.RecallOf(batch)
	if err != nil || code == "" {
		return err
	}
	return refused("decided", "Recall %s looks for its jars: an owner closes that first.", code)
}

// Recall shows a recall. Errors: ErrNotFound.
func (a *App) Recall(ctx context.Context, id int64) (RecallView, error) {
	return a.recallView(ctx, a.on(ctx), id)
}

// WriteRecall appends an act to a recall. key makes it safe to send twice. Errors: ErrNotFound.
func (a *App) WriteRecall(ctx context.Context, id int64, body any, key string) (RecallView, error) {
	var out RecallView
	if _, err := person(ctx); err != nil {
		return out, err
	}
	who, digest := actor(ctx), digestOf(body)
	e := recall.Entry{Head: entry.Head{At: a.Now(), By: who.Name, Role: who.Role}, Body: body}
	err := a.in(ctx, func(st Store) error {
		if err := st.LockBatches(); err != nil {
			return err
		}
		before, err := st.RecallEntryKey(id, key)
		if err != nil {
			return err
		}
		if before != nil && !same(before, digest) {
			return otherContent()
		}
		if before == nil {
			if err := a.actOnRecall(ctx, st, id, e, key, digest); err != nil {
				return err
			}
		}
		out, err = a.recallView(ctx, st, id)
		return err
	})
	return out, err
}

func (a *App) actOnRecall(ctx context.Context, st Store, id int64, e recall.Entry, key string, digest []byte) error {
	row, entries, err := st.Recall(id)
	if err != nil {
		return err
	}
	was := recall.Read(entries)
	wider, is := e.Body.(*recall.Widened)
	if is {
		if wider.Rows, err = a.reachedSince(st, was); err != nil {
			return err
		}
	}
	if err := was.Refuses(e); err != nil {
		return refusalOf(err, nil)
	}
	was.Complete(e.Body)
	if err := st.AddRecallEntry(id, e, key, digest); err != nil {
		return entryKeyTaken(err)
	}
	row.follow(recall.Read(append(entries, e)))
	if err := st.PutRecall(row); err != nil || !is || was.Mock {
		return err
	}
	return a.callBackBatches(ctx, st, row.Batches, row.Code, fmt.Sprintf("Recall %s: %s", row.Code, was.Why))
}

// reachedSince are jars that are of a recall and not in its list: of batches that were made or filled after it began.
func (a *App) reachedSince(st Store, s recall.State) ([]recall.Row, error) {
	ids := s.IDs
	if s.Of == recall.OfAllergen {
		if s.Mock {
			return nil, nil // what an exercise takes for granted does not grow
		}
		var err error
		if _, ids, err = a.recallOfChange(st, recall.Started{}, s.IDs[0]); err != nil {
			return nil, err
		}
	}
	t, err := traced(st, ids)
	if err != nil {
		return nil, err
	}
	known := map[int64]bool{}
	for _, l := range s.Lines {
		known[l.Batch] = true
	}
	return slices.DeleteFunc(t.recallRows(), func(r recall.Row) bool { return known[r.Batch] }), nil
}

func (a *App) recallView(ctx context.Context, st Store, id int64) (RecallView, error) {
	row, entries, err := st.Recall(id)
	if err != nil {
		return RecallView{}, err
	}
	out := RecallView{ID: id, Code: row.Code, State: recall.Read(entries), Now: a.Now(), Reached: []RecallReached{}}
	least := people.Owner
	if out.Mock {
		least = people.Maker
	}
	out.MayEnd = actor(ctx).Role.May(least)
	if out.ClosedAt == nil {
		more, err := a.reachedSince(st, out.State)
		if err != nil {
			return out, err
		}
		for _, r := range more {
			out.More += r.Jars
		}
	}
	reached := map[int64]recall.Reached{}
	for _, p := range out.Parties {
		who, err := st.Party(p.ID)
		if err != nil && !errors.Is(err, ErrNotFound) {
			return out, err
		}
		reached[p.ID] = recall.Reached{Contact: who.Contact, Market: who.Kind == Market}
		out.Reached = append(out.Reached, RecallReached{p.ID, who.Contact, who.Kind == Market})
	}
	b, err := a.book(st)
	if err != nil {
		return out, err
	}
	out.Letters = out.State.Letters(recall.Shop{Name: b.settings.Name, Address: b.settings.Address,
		LotPrefix: b.law.LotPrefix, Tongue: b.settings.tongue(), Zone: b.settings.zone()}, reached)
	return out, nil
}

// recallTasks name what is looked for, and the yearly drill.
func (a *App) recallTasks(out *TodayView, st Store) error {
	list, err := st.Recalls(mostTasks)
	if err != nil {
		return err
	}
	for _, r := range list {
		if r.Closed != nil {
			break // the open ones stand first
		}
		t := Task{"recall", "danger", fmt.Sprintf("Recall %s: %s", r.Code, r.Title), recallSays(r),
			fmt.Sprintf("/recalls/%d", r.ID), "now"}
		if r.Mock {
			t.Level, t.Title, t.When = "needs_you", fmt.Sprintf("Drill %s: %s", r.Code, r.Title), "going on"
		}
		out.Tasks = append(out.Tasks, t)
	}
	due, _, err := a.drillDue(st)
	if err != nil || due == "" {
		return err
	}
	out.Tasks = append(out.Tasks, Task{"drill", "soon", "The yearly recall drill is due",
		"Take any lot and look for its jars: how many, who has them, how long until all are told.", "/records", "yearly"})
	return nil
}

func recallSays(r RecallRow) string {
	said := fmt.Sprintf("%s of it.", plural(r.Account.Made, "jar"))
	if r.Told == nil && r.Account.Out > 0 {
		said += " Not everybody who has some was told."
	}
	if r.Account.Open > 0 {
		said += fmt.Sprintf(" %d are still to be looked for.", r.Account.Open)
	}
	return said + " It is to be closed with what was done."
}
