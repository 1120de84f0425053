package app

import "context"

// Rebuild works out anew what is kept beside the records: where every lot and every batch stands, what batches took and
// where their jars are, and how many batches each formula has. It
// returns how many batches it judged.
func (a *App) Rebuild(ctx context.Context) (int, error) {
	return a.rebuild(ctx, func(st Store) ([]int64, error) {
		if err := a.rebuildLots(ctx, st, false); err != nil {
			return nil, err
		}
		return st.BatchIDs()
	}, func(st Store) error { return a.rebuildLots(ctx, st, true) })
}

// RebuildMissing judges the batches that were never judged, as after an upgrade.
func (a *App) RebuildMissing(ctx context.Context) (int, error) {
	return a.rebuild(ctx, Store.UnjudgedBatches, func(Store) error { return nil })
}

func (a *App) rebuild(ctx context.Context, which func(Store) ([]int64, error), then func(Store) error) (int, error) {
	n := 0
	ctx = As(ctx, TheProgram)
	err := a.in(ctx, func(st Store) error {
		if err := a.keepMissing(st, true, a.stamp(ctx)); err != nil {
			return err
		}
		ids, err := which(st)
		if err != nil {
			return err
		}
		n = len(ids)
		if err := a.judgeAll(ctx, st, ids); err != nil {
			return err
		}
		if err := then(st); err != nil {
			return err
		}
		return st.CountBatches()
	})
	return n, err
}
