package release

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/field"
	"gallipot/internal/core/judge"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/recall"
	"gallipot/internal/core/trace"
)

// NewRecall is what a recall starts from: lots or batches, whatever a code names, the change that gained an allergen,
// or, for a drill, an ingredient as if it carried an allergen.
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

// StartRecall begins to look for jars. A real one takes an owner, calls back every released batch, and puts the lots it
// starts from on hold. Errors: ErrNotFound.
func (a *Room) StartRecall(ctx context.Context, n NewRecall) (RecallView, error) {
	if _, err := kernel.Signed(ctx); err != nil {
		return RecallView{}, err
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (RecallView, error) {
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
		x.Rows = recall.RowsOf(t)
		x.FoundMS = float64(time.Since(began).Microseconds()) / 1000
		if x.Title == "" {
			x.Title = t.Draw().Title
		}
		who := kernel.Actor(ctx)
		e := recall.Entry{Head: entry.Head{At: a.Now(), By: who.Name, Role: who.Role}, Body: &x}
		if err := (recall.State{}).Refuses(e); err != nil {
			return RecallView{}, production.RefusalOf(err, nil)
		}
		row := kernel.RecallRow{Mock: x.Mock, Title: x.Title, Began: e.At}
		row.Follow(recall.Read([]recall.Entry{e}))
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

// recallOf works out what a recall starts from, with the lots it is traced from.
func (a *Room) recallOf(st kernel.Store, n NewRecall) (recall.Started, []int64, error) {
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
	if errors.Is(err, kernel.ErrNotFound) && n.Code != "" {
		return x, nil, kernel.Mistake("code", "no lot and no batch is called “%s”", field.Clip(n.Code))
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

// withSisters adds the lots of batches that were filled from the same bowls.
func withSisters(st kernel.Store, ids []int64, list []kernel.Lot) ([]int64, error) {
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

// recallOfChange starts from the batches that a gained allergen called back.
func (a *Room) recallOfChange(st kernel.Store, x recall.Started, id int64) (recall.Started, []int64, error) {
	c, err := st.AllergenChange(id)
	if err != nil {
		return x, nil, err
	}
	var gained []judge.Change
	for _, g := range c.Ingredients {
		if g.Gains() {
			gained = append(gained, g)
		}
	}
	if len(gained) == 0 || len(c.Batches) == 0 {
		return x, nil, kernel.Refuse("not_ready", "No jars are out whose words lack what this change brought.")
	}
	x.Of, x.IDs, x.Allergen = recall.OfAllergen, []int64{id}, judge.InWords(judge.Gained(gained))
	x.Title = fmt.Sprintf("%s in %s", x.Allergen, judge.Names(gained))
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

// recallOfIngredient is a drill that assumes an ingredient carried an allergen no label names.
func (a *Room) recallOfIngredient(st kernel.Store, x recall.Started, n NewRecall) (recall.Started, []int64, error) {
	g, err := production.IngredientOf(st, n.Ingredient)
	if err != nil {
		return x, nil, err
	}
	if g == nil {
		return x, nil, kernel.Mistake("ingredient", "choose an ingredient of the pantry")
	}
	x.Allergen = strings.TrimSpace(n.Allergen)
	if k := len([]rune(x.Allergen)); k < 2 || k > 60 {
		return x, nil, kernel.Mistake("allergen", "which allergen, as if it carried it?")
	}
	if !n.Mock {
		return x, nil, kernel.Refuse("not_ready",
			"Write what %s carries into the pantry: that calls back what lacks the "+
				"words, and the recall begins there.", g.Name)
	}
	ids, err := st.LotsOfIngredient(g.ID)
	if err != nil {
		return x, nil, err
	}
	if len(ids) == 0 {
		return x, nil, kernel.Mistake("ingredient", "no batch took of a lot of %s", g.Name)
	}
	x.Of, x.IDs, x.Title = recall.OfAllergen, ids, fmt.Sprintf("%s in %s, as an exercise", x.Allergen, g.Name)
	return x, ids, nil
}

// callBackAll calls back the batches a real recall reaches, and puts the lots it starts from on hold.
func (a *Room) callBackAll(ctx context.Context, st kernel.Store, row kernel.RecallRow, x recall.Started,
	t trace.Found) error {
	who := kernel.Actor(ctx)
	why := fmt.Sprintf("Recall %s: %s", row.Code, x.Why)
	var moved []int64
	for _, id := range t.Asked {
		if t.Lots[id].Kind == lots.OfBatch {
			continue
		}
		l, err := a.Production.LotOf(st, id)
		if err != nil {
			return err
		}
		e := lots.Entry{Head: entry.Head{At: a.Now(), By: who.Name, Role: who.Role}, Body: &lots.Held{Reason: why}}
		if l.Fold.Refuses(e, l.Moment()) != nil {
			continue // it is on hold already, or was refused
		}
		if err := a.Production.Append(st, &l, e, "recall-"+row.Code, nil); err != nil {
			return err
		}
		if err := a.Production.LotMoved(ctx, st, &l); err != nil {
			return err
		}
	}
	for _, l := range t.Batches() {
		moved = append(moved, l.Batch)
	}
	return a.CallBackBatches(ctx, st, moved, row.Code, why)
}

// CallBackBatches records in released batches that they are called back.
func (a *Room) CallBackBatches(ctx context.Context, st kernel.Store, ids []int64, code, why string) error {
	desk, err := a.Production.Judging(st)
	if err != nil {
		return err
	}
	who := kernel.Actor(ctx)
	body := bench.Recall{Cause: why}
	e := bench.Entry{At: a.Now(), By: who.Name, Role: who.Role, Body: &body}
	for part := range slices.Chunk(ids, production.ManyAtOnce) {
		list, err := desk.Locked(st, part)
		if err != nil {
			return err
		}
		for _, l := range list {
			if s := l.Record.State; !l.Record.Out || s == bench.CalledBack || s == bench.Rejected {
				continue
			}
			key := fmt.Sprintf("recall-%s-%d-after-%d", code, l.Row.ID, l.Record.Last)
			if _, err := st.AddEntry(l.Row.ID, e, key, nil); err != nil {
				return err
			}
		}
	}
	return a.Production.JudgeAll(ctx, st, ids)
}
