package production

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/people"
)

// SplitAsk asks for jars of another version, made the same way, to be filled from the bowl of a batch.
type SplitAsk struct {
	formula.Ref
	Jars int `json:"jars"`
}

// OtherJars is a version that is made the same way as a batch's and may be filled from its bowl.
type OtherJars struct {
	Formula string       `json:"formula"`
	Version int          `json:"version"`
	Name    string       `json:"name"`
	Fill    amount.Grams `json:"fill_g"`
}

// BowlView is how much of a bowl may go into other jars, and into which.
type BowlView struct {
	Left   amount.Grams `json:"left_g"` // of the bowl, that is not in other jars
	Others []OtherJars  `json:"others"`
}

// Bowl lists the locked versions that are made the same way as a batch's but fill other jars.
func (a *Room) Bowl(ctx context.Context, id int64) (BowlView, error) {
	st := a.On(ctx)
	l, err := a.Load(st, id)
	if err != nil {
		return BowlView{}, err
	}
	out := BowlView{Left: l.Made().InBowl(), Others: []OtherJars{}}
	list, err := st.Formulas()
	if err != nil {
		return out, err
	}
	ids, names := []string{}, map[string]string{}
	for _, f := range list {
		if !f.Retired {
			ids = append(ids, f.ID)
			names[f.ID] = f.Name
		}
	}
	newest, err := st.NewestLocked(ids...)
	if err != nil {
		return out, err
	}
	own, err := st.Versions(l.Row.FormulaID)
	if err != nil {
		return out, err
	}
	for _, v := range slices.Concat(newest, own) {
		x := OtherJars{v.Data.Formula, v.Data.Number, names[v.Data.Formula], v.Data.FillGrams}
		if v.Data.State != formula.Locked || v.Data.FillGrams == l.Version.FillGrams || slices.Contains(out.Others, x) {
			continue
		}
		if _, same := bench.SameBowl(l.Version, v.Data); same {
			out.Others = append(out.Others, x)
		}
	}
	return out, nil
}

// SplitBatch fills jars of another size from the bowl of a weighed batch. They become a batch of their own, with its
// own readings and decision. Errors: ErrNotFound.
func (a *Room) SplitBatch(ctx context.Context, id int64, ask SplitAsk) (BatchView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return BatchView{}, err
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (BatchView, error) {
		if err := st.LockBatches(); err != nil {
			return BatchView{}, err
		}
		l, err := a.Load(st, id)
		if err != nil {
			return BatchView{}, err
		}
		if err := l.maySplit(); err != nil {
			return BatchView{}, err
		}
		d, err := a.draft(st, PlanAsk{Ref: ask.Ref, Jars: ask.Jars, MadeOn: day.Of(l.Row.MadeOn)})
		if err != nil {
			return BatchView{}, err
		}
		into, same := bench.SameBowl(l.Version, d.version)
		if !same {
			return BatchView{}, kernel.Mistake("version",
				"it is not made as this batch was: nothing of this bowl fits its jars")
		}
		b := d.batch
		b.CreatedBy = by
		if b.Code, err = freshCode(st, b.MadeOn); err != nil {
			return BatchView{}, err
		}
		if err := st.AddBatch(&b); err != nil {
			return BatchView{}, err
		}
		if err := a.pourOver(ctx, st, l, b, d, into); err != nil {
			return BatchView{}, err
		}
		if err := a.JudgeAll(ctx, st, []int64{l.Row.ID, b.ID}); err != nil {
			return BatchView{}, err
		}
		return a.batchView(st, b.ID)
	})
}

// maySplit refuses a batch from whose bowl nothing may go into other jars.
func (l Loaded) maySplit() error {
	switch {
	case !l.Record.Weighed:
		return kernel.Refuse("not_ready", "Weigh it first: nothing is in the bowl that could go into other jars.")
	case l.Record.FromBowl != nil:
		return kernel.Refuse("decided", "It was filled from the bowl of %s: split that one.", l.Record.FromBowl.Code)
	case l.Record.State != bench.OnHold || l.Record.Out:
		return kernel.Refuse("decided", "It is decided already: what is in its jars stays in them.")
	}
	return nil
}

// pourOver writes into the new batch what it got from the bowl, and into the bowl's batch what it gave.
func (a *Room) pourOver(ctx context.Context, st kernel.Store, l Loaded, b kernel.Batch, d drafted,
	into map[string]string) error {
	grams := amount.Grams{}
	for _, t := range b.Targets {
		if slices.ContainsFunc(d.version.Lines, func(x formula.Line) bool { return x.ID == t.Line }) {
			grams = grams.Plus(t.Grams)
		}
	}
	left := l.Made().InBowl()
	if grams.Cmp(left) > 0 {
		return kernel.Mistake("jars", "%d jars take %s g, and %s g of the bowl are not in other jars", b.Jars, grams,
			left)
	}
	whole := l.Made().AsWeighed().MixedGrams()
	acts, given := l.Record.Part(grams.Exact().Over(whole.Exact()), into, l.Row.Code, l.entries)
	who := kernel.Actor(ctx)
	write := func(batch int64, key string, body any) error {
		e := bench.Entry{At: a.Now(), By: who.Name, Role: who.Role, Body: body}
		_, err := st.AddEntry(batch, e, key, kernel.DigestOf(body))
		return err
	}
	if err := st.AddSplit(b.ID, l.Row.ID); err != nil {
		return err
	}
	from := bench.FromBowl{Batch: l.Row.ID, Code: l.Row.Code, Grams: grams}
	for i, act := range slices.Concat([]any{&from}, acts) {
		if err := write(b.ID, fmt.Sprintf("bowl-%d-%d", b.ID, i), act); err != nil {
			return err
		}
	}
	f, err := st.Formula(b.FormulaID)
	if err != nil {
		return err
	}
	return write(l.Row.ID, fmt.Sprintf("split-%d", b.ID), &bench.Split{Batch: b.ID, Code: b.Code, Name: f.Name,
		Jars: b.Jars, Grams: grams, Given: given})
}

// sistersToo calls back the batches filled from the same bowl as one that was just called back or rejected.
func (a *Room) sistersToo(ctx context.Context, st kernel.Store, before, after Loaded) error {
	now := after.Record.State
	if now == before.Record.State || now != bench.CalledBack && now != bench.Rejected {
		return nil
	}
	list, err := st.Sisters(after.Row.ID)
	if err != nil || len(list) == 0 {
		return err
	}
	ids := make([]int64, len(list))
	for i, s := range list {
		ids[i] = s.ID
	}
	return a.Recalls.CallBackBatches(ctx, st, ids, after.Row.Code,
		fmt.Sprintf("%s, filled from the same bowl, was %s.", after.Row.Code, bench.StateWords[now]))
}

// ofSisters refuses to release a batch while another of the same bowl is called back or rejected, unless an owner gives
// a reason.
func ofSisters(st kernel.Store, batch int64, d *bench.Decided, role people.Role) error {
	if d.State != bench.Released {
		return nil
	}
	list, err := st.Sisters(batch)
	if err != nil {
		return err
	}
	for _, s := range list {
		if s.State != bench.CalledBack && s.State != bench.Rejected {
			continue
		}
		said := fmt.Sprintf("%s, filled from the same bowl, is %s.", s.Code, bench.StateWords[s.State])
		if !role.May(people.Owner) {
			return kernel.Problem{Kind: kernel.Forbidden, Code: entry.NotYours,
				Message: said + " Only an owner releases this one, with a reason."}
		}
		if len([]rune(strings.TrimSpace(d.Reason))) < leastReason {
			return kernel.Mistake("decision.reason", "%s Say why this one is good all the same.", said)
		}
	}
	return nil
}

// leastReason is the least length of the reason why a batch is good although its sister is not.
const leastReason = 10
