package production

import (
	"context"

	"gallipot/internal/app/kernel"
)

// Rebuild recomputes from the records everything that is stored beside them: the standings of lots and batches, what
// batches took, where their jars are, and how many batches each formula has. It returns how many batches it judged.
func (a *Room) Rebuild(ctx context.Context) (int, error) {
	return a.rebuild(ctx, func(st kernel.Store) ([]int64, error) {
		if err := a.rebuildLots(ctx, st, false); err != nil {
			return nil, err
		}
		return st.BatchIDs()
	}, func(st kernel.Store) error { return a.rebuildLots(ctx, st, true) })
}

// RebuildMissing judges the batches without a standing, as after an upgrade.
func (a *Room) RebuildMissing(ctx context.Context) (int, error) {
	return a.rebuild(ctx, kernel.Store.UnjudgedBatches, func(kernel.Store) error { return nil })
}

func (a *Room) rebuild(ctx context.Context, which func(kernel.Store) ([]int64, error),
	then func(kernel.Store) error) (int, error) {
	n := 0
	ctx = kernel.As(ctx, kernel.TheProgram)
	err := a.In(ctx, func(st kernel.Store) error {
		if err := a.Catalog.KeepMissing(st, true, a.Stamp(ctx)); err != nil {
			return err
		}
		ids, err := which(st)
		if err != nil {
			return err
		}
		n = len(ids)
		if err := a.JudgeAll(ctx, st, ids); err != nil {
			return err
		}
		if err := then(st); err != nil {
			return err
		}
		return st.CountBatches()
	})
	return n, err
}
