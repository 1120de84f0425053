package app

import (
	"context"
	"fmt"
	"slices"
	"time"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/entry"
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

// follow writes into a row what follows from a recall's acts.
func (r *RecallRow) follow(s recall.State) {
	r.Account, r.Told, r.Closed, r.Batches = s.Account, s.ToldAll, s.ClosedAt, nil
	for _, l := range s.Lines {
		if !slices.Contains(r.Batches, l.Batch) {
			r.Batches = append(r.Batches, l.Batch)
		}
	}
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
	parties, err := st.Parties()
	if err != nil {
		return out, err
	}
	known := map[int64]Party{}
	for _, p := range parties {
		known[p.ID] = p
	}
	reached := map[int64]recall.Reached{}
	for _, p := range out.Parties {
		who := known[p.ID]
		reached[p.ID] = recall.Reached{Contact: who.Contact, Market: who.Kind == Market}
		out.Reached = append(out.Reached, RecallReached{p.ID, who.Contact, who.Kind == Market})
	}
	b, err := a.book(st)
	if err != nil {
		return out, err
	}
	out.Letters = out.State.Letters(recall.Shop{Name: b.settings.Name, Address: b.settings.Address,
		LotPrefix: b.law.LotPrefix, Tongue: b.settings.Tongue(), Zone: b.settings.zone()}, reached)
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
