package production

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"
)

// Correction is what is known of a lot as it should have been typed.
type Correction struct {
	NewLot
	Supplier string  `json:"supplier"`
	Day      day.Day `json:"day"`
	Why      string  `json:"why"`
}

// ActOnLot writes an act into a lot's record. Batches that took of it are judged anew. key makes it safe to send twice.
func (a *Room) ActOnLot(ctx context.Context, id int64, act any, key string) (LotView, error) {
	who := kernel.Actor(ctx)
	if _, err := kernel.Signed(ctx); err != nil {
		return LotView{}, err
	}
	if key == "" || len(key) > kernel.MaxKey {
		return LotView{}, kernel.Mistake("key", "an idempotency key has 1 to %d characters", kernel.MaxKey)
	}
	digest := kernel.DigestOf(act)
	var out LotView
	err := a.In(ctx, func(st kernel.Store) error {
		if err := st.LockBatches(); err != nil {
			return err
		}
		before, err := st.LotEntryKey(id, key)
		if err != nil {
			return err
		}
		if before != nil && !slices.Equal(before, digest) {
			return kernel.OtherContent()
		}
		if before == nil {
			l, err := a.LotOf(st, id)
			if err != nil {
				return err
			}
			body, err := a.actOf(st, &l, act)
			if err != nil {
				return err
			}
			e := lots.Entry{Head: entry.Head{At: a.Now(), By: who.Name, Role: who.Role}, Body: body}
			if err := a.Append(st, &l, e, key, digest); err != nil {
				return err
			}
			if err := a.LotMoved(ctx, st, &l); err != nil {
				return err
			}
		}
		out, err = a.lotView(st, id)
		return err
	})
	return out, err
}

// actOf completes an act with what the program knows better.
func (a *Room) actOf(st kernel.Store, l *aLot, act any) (any, error) {
	c, ok := act.(*Correction)
	if !ok {
		return act, nil
	}
	if l.row.Kind != lots.Incoming {
		return &lots.Corrected{Reason: c.Why}, nil // which the record refuses
	}
	in, err := a.intake(st)
	if err != nil {
		return nil, err
	}
	r, _, wrong := in.read(NewDelivery{Supplier: strings.TrimSpace(c.Supplier), Day: c.Day}, c.NewLot)
	if len(wrong) > 0 {
		for i := range wrong {
			wrong[i].Field = "corrected." + wrong[i].Field
		}
		return nil, kernel.Mistakes(wrong...)
	}
	r.Was = l.record.CameIn.Was
	return &lots.Corrected{CameIn: r, Reason: strings.TrimSpace(c.Why)}, nil
}

// LotMoved writes where a lot stands after an act, and judges anew what rests on it.
func (a *Room) LotMoved(ctx context.Context, st kernel.Store, l *aLot) error {
	if l.row.Kind == lots.OfBatch {
		return a.JudgeAll(ctx, st, []int64{l.row.Batch})
	}
	if l.row.Kind == lots.Incoming {
		g, err := IngredientOf(st, l.record.CameIn.Ingredient) // which the act may have put right
		if err != nil {
			return err
		}
		l.g = g
	}
	s, err := a.stand(st, l)
	if err != nil {
		return err
	}
	l.standing = s
	if err := st.PutLotStandings(s); err != nil {
		return err
	}
	return a.lotsMoved(ctx, st, []int64{l.row.ID})
}

// lotsMoved judges anew what rests on lots: their frozen parts, and the batches that took of them.
func (a *Room) lotsMoved(ctx context.Context, st kernel.Store, ids []int64) error {
	if len(ids) == 0 {
		return nil
	}
	parts, err := st.PartsOf(ids...)
	if err != nil {
		return err
	}
	for _, id := range parts {
		l, err := a.LotOf(st, id)
		if err != nil {
			return err
		}
		if err := a.LotMoved(ctx, st, &l); err != nil {
			return err
		}
	}
	drawn, err := st.DrawnBy(ids...)
	if err != nil {
		return err
	}
	var batches []int64
	for _, list := range drawn {
		for _, d := range list {
			batches = append(batches, d.Batch)
		}
	}
	slices.Sort(batches)
	return a.JudgeAll(ctx, st, slices.Compact(batches))
}

// Freeze parts grams of a lot as a frozen lot of its own, on a day. The clock of its end stops there.
func (a *Room) Freeze(ctx context.Context, id int64, grams amount.Grams, day day.Day) (LotView, error) {
	if _, err := kernel.Signed(ctx); err != nil {
		return LotView{}, err
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (LotView, error) {
		if err := st.LockBatches(); err != nil {
			return LotView{}, err
		}
		l, err := a.LotOf(st, id)
		if err != nil {
			return LotView{}, err
		}
		if err := l.Fold.CanFreeze(l.standing.Facts, grams, day, l.Moment()); err != nil {
			return LotView{}, RefusalOf(err, nil)
		}
		part, err := a.part(ctx, st, &l, grams, day)
		if err != nil {
			return LotView{}, err
		}
		return a.lotView(st, part)
	})
}

// part makes a frozen part of a lot, and takes it off the whole.
func (a *Room) part(ctx context.Context, st kernel.Store, whole *aLot, grams amount.Grams, day day.Day) (int64, error) {
	b, err := a.Catalog.Book(st)
	if err != nil {
		return 0, err
	}
	who := kernel.Actor(ctx)
	row := kernel.Lot{Kind: lots.Part, Ingredient: whole.standing.Ingredient, Batch: whole.row.Batch,
		Parent:    whole.row.ID,
		CreatedAt: a.Now(), CreatedBy: who.Name}
	if row.Code, err = st.NextLotCode(); err != nil {
		return 0, err
	}
	if err := st.AddLot(&row); err != nil {
		return 0, err
	}
	p := aLot{row: row, g: whole.g, today: whole.today}
	p.read(nil)
	head := entry.Head{At: a.Now(), By: who.Name, Role: who.Role}
	begins := lots.Froze{From: whole.row.ID, Code: whole.row.Code, Grams: grams, Day: day,
		Left: daysLeft(whole.standing.Ends, day), Days: keeping.FrozenDays(b.Rules)}
	if err := a.Append(st, &p, lots.Entry{Head: head, Body: &begins}, "froze", nil); err != nil {
		return 0, err
	}
	goes := lots.Entry{Head: head, Body: &lots.Parted{Into: row.ID, Code: row.Code, Grams: grams}}
	if err := a.Append(st, whole, goes, fmt.Sprintf("part-%d", row.ID), nil); err != nil {
		return 0, err
	}
	if err := a.LotMoved(ctx, st, whole); err != nil {
		return 0, err
	}
	return row.ID, a.LotMoved(ctx, st, &p)
}

// daysLeft are the days between a day and an end; nil without an end.
func daysLeft(ends, on day.Day) *int {
	if days, ok := day.Between(on, ends); ok {
		return &days
	}
	return nil
}

// rebuildLots works out anew where incoming lots and their frozen parts stand, or the parts of batches, which follow
// the batches.
func (a *Room) rebuildLots(ctx context.Context, st kernel.Store, ofBatches bool) error {
	if err := st.LockBatches(); err != nil {
		return err
	}
	ids, err := st.LotIDs(ofBatches)
	if err != nil {
		return err
	}
	for part := range slices.Chunk(ids, ManyAtOnce) {
		if err := ctx.Err(); err != nil {
			return err
		}
		if err := a.standAnew(st, part); err != nil {
			return err
		}
	}
	if !ofBatches {
		return nil // the batches are judged next
	}
	return a.lotsMoved(ctx, st, ids)
}

// standAnew writes where lots that came in, and parts of such, stand.
func (a *Room) standAnew(st kernel.Store, ids []int64) error {
	rows, err := st.Lots(ids...)
	if err != nil {
		return err
	}
	entries, err := st.LotEntries(ids...)
	if err != nil {
		return err
	}
	goods := map[string]*pantry.Ingredient{}
	for _, r := range rows {
		of := isOf(r, entries[r.ID])
		if goods[of] == nil {
			if goods[of], err = IngredientOf(st, of); err != nil {
				return err
			}
		}
		l := aLot{row: r, g: goods[of]}
		l.read(entries[r.ID])
		s, err := a.stand(st, &l)
		if err != nil {
			return err
		}
		if err := st.PutLotStandings(s); err != nil {
			return err
		}
	}
	return nil
}
