package release

import (
	"context"
	"fmt"
	"slices"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/people"
	"gallipot/internal/core/recall"
)

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

// RecallReached is how to reach somebody who has jars, by today's list of customers.
type RecallReached struct {
	Party   int64  `json:"party"`
	Contact string `json:"contact"`
	Market  bool   `json:"market"`
}

// RecallsView is all recalls, open ones first.
type RecallsView struct {
	Rows []kernel.RecallRow `json:"rows"`
	Due  day.Day            `json:"due"`  // since when the yearly drill is due; empty where none is
	Next day.Day            `json:"next"` // when the next is due; empty where none was done, or nothing ever left
}

const mostRecalls = 200

// Recalls lists drills and real recalls.
func (a *Room) Recalls(ctx context.Context) (RecallsView, error) {
	st := a.On(ctx)
	out := RecallsView{}
	var err error
	if out.Rows, err = st.Recalls(mostRecalls); err != nil {
		return out, err
	}
	out.Due, out.Next, err = a.drillDue(st)
	return out, err
}

// drillDue says since when a drill has been due, and when the next one is.
func (a *Room) drillDue(st kernel.Store) (due, next day.Day, err error) {
	s, _, err := a.Settings(st)
	if err != nil {
		return "", "", err
	}
	closed, out, err := st.LastDrill()
	if err != nil {
		return "", "", err
	}
	var last day.Day
	if closed != nil {
		last = day.Of(closed.In(s.Zone()))
	}
	due, next = recall.DrillDue(last, out, day.Of(a.TodayIn(s)))
	return due, next, nil
}

// Recall shows a recall. Errors: ErrNotFound.
func (a *Room) Recall(ctx context.Context, id int64) (RecallView, error) {
	return a.recallView(ctx, a.On(ctx), id)
}

// WriteRecall appends an act to a recall. With key it is safe to send twice. Errors: ErrNotFound.
func (a *Room) WriteRecall(ctx context.Context, id int64, body any, key string) (RecallView, error) {
	var out RecallView
	if _, err := kernel.Signed(ctx); err != nil {
		return out, err
	}
	who, digest := kernel.Actor(ctx), kernel.DigestOf(body)
	e := recall.Entry{Head: entry.Head{At: a.Now(), By: who.Name, Role: who.Role}, Body: body}
	err := a.In(ctx, func(st kernel.Store) error {
		if err := st.LockBatches(); err != nil {
			return err
		}
		before, err := st.RecallEntryKey(id, key)
		if err != nil {
			return err
		}
		if before != nil && !production.Same(before, digest) {
			return kernel.OtherContent()
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

func (a *Room) actOnRecall(ctx context.Context, st kernel.Store, id int64, e recall.Entry, key string,
	digest []byte) error {
	row, entries, err := st.Recall(id)
	if err != nil {
		return err
	}
	was := recall.Read(entries)
	wider, ok := e.Body.(*recall.Widened)
	if ok {
		if wider.Rows, err = a.reachedSince(st, was); err != nil {
			return err
		}
	}
	if err := was.Refuses(e); err != nil {
		return production.RefusalOf(err, nil)
	}
	was.Complete(e.Body)
	if err := st.AddRecallEntry(id, e, key, digest); err != nil {
		return production.EntryKeyTaken(err)
	}
	row.Follow(recall.Read(append(entries, e)))
	if err := st.PutRecall(row); err != nil || !ok || was.Mock {
		return err
	}
	return a.CallBackBatches(ctx, st, row.Batches, row.Code, fmt.Sprintf("Recall %s: %s", row.Code, was.Why))
}

// reachedSince lists jars that belong to a recall but are not in its list: their batches were made or filled after it
// began.
func (a *Room) reachedSince(st kernel.Store, s recall.State) ([]recall.Row, error) {
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
	return slices.DeleteFunc(recall.RowsOf(t), func(r recall.Row) bool { return known[r.Batch] }), nil
}

func (a *Room) recallView(ctx context.Context, st kernel.Store, id int64) (RecallView, error) {
	row, entries, err := st.Recall(id)
	if err != nil {
		return RecallView{}, err
	}
	out := RecallView{ID: id, Code: row.Code, State: recall.Read(entries), Now: a.Now(), Reached: []RecallReached{}}
	least := people.Owner
	if out.Mock {
		least = people.Maker
	}
	out.MayEnd = kernel.Actor(ctx).Role.May(least)
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
	known := map[int64]kernel.Party{}
	for _, p := range parties {
		known[p.ID] = p
	}
	reached := map[int64]recall.Reached{}
	for _, p := range out.Parties {
		who := known[p.ID]
		reached[p.ID] = recall.Reached{Contact: who.Contact, Market: who.Kind == kernel.Market}
		out.Reached = append(out.Reached, RecallReached{p.ID, who.Contact, who.Kind == kernel.Market})
	}
	b, err := a.Catalog.Book(st)
	if err != nil {
		return out, err
	}
	out.Letters = out.State.Letters(recall.Shop{Name: b.Settings.Name, Address: b.Settings.Address,
		LotPrefix: b.Law.LotPrefix, Tongue: b.Settings.Tongue(), Zone: b.Settings.Zone()}, reached)
	return out, nil
}

// RecallTasks adds tasks for open recalls and for the yearly drill.
func (a *Room) RecallTasks(out *kernel.TodayView, st kernel.Store) error {
	list, err := st.Recalls(kernel.MostTasks)
	if err != nil {
		return err
	}
	for _, r := range list {
		if r.Closed != nil {
			break // the open ones stand first
		}
		t := kernel.Task{Kind: "recall", Level: "danger", Title: fmt.Sprintf("Recall %s: %s", r.Code, r.Title),
			Text: recallSays(r),
			Link: fmt.Sprintf("/recalls/%d", r.ID), When: "now"}
		if r.Mock {
			t.Level, t.Title, t.When = "needs_you", fmt.Sprintf("Drill %s: %s", r.Code, r.Title), "going on"
		}
		out.Tasks = append(out.Tasks, t)
	}
	due, _, err := a.drillDue(st)
	if err != nil || due == "" {
		return err
	}
	out.Tasks = append(out.Tasks, kernel.Task{Kind: "drill", Level: "soon", Title: "The yearly recall drill is due",
		Text: "Take any lot and look for its jars: how many, who has them, how long until all are told.",
		Link: "/records", When: "yearly"})
	return nil
}

func recallSays(r kernel.RecallRow) string {
	said := fmt.Sprintf("%s of it.", kernel.Plural(r.Account.Made, "jar"))
	if r.Told == nil && r.Account.Out > 0 {
		said += " Not everybody who has some was told."
	}
	if r.Account.Open > 0 {
		said += fmt.Sprintf(" %d are still to be looked for.", r.Account.Open)
	}
	return said + " It is to be closed with what was done."
}
