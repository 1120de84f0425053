package production

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/lots"
)

// lotsNamed returns the facts of the lots that records name, by batch.
func lotsNamed(st kernel.Store, all map[int64][]bench.Entry) (map[int64]map[int64]lots.Facts, error) {
	out := map[int64]map[int64]lots.Facts{}
	var ids []int64
	for batch, entries := range all {
		out[batch] = map[int64]lots.Facts{}
		for _, e := range entries {
			for _, d := range bench.DrawsOf(e.Body) {
				out[batch][d.Lot] = lots.Facts{}
				ids = append(ids, d.Lot)
			}
		}
	}
	if len(ids) == 0 {
		return out, nil
	}
	slices.Sort(ids)
	list, err := st.LotStandings(slices.Compact(ids)...)
	if err != nil {
		return nil, err
	}
	known := map[int64]lots.Facts{}
	for _, s := range list {
		known[s.ID] = s.Facts
	}
	for _, named := range out {
		for id := range named {
			named[id] = known[id]
		}
	}
	return out, nil
}

// asDrawn returns the library with the acid strength and pH that a batch's lots state, and whether any lot states one.
func asDrawn(lib formula.Library, l Loaded) (out formula.Library, stated bool) {
	taken := map[string][]lots.Taken{}
	for _, line := range l.Record.Lines {
		for _, d := range line.Draws {
			if f, ok := l.Needs.Lots[d.Lot]; ok && d.Step == "" && f.Ingredient != "" {
				taken[f.Ingredient] = append(taken[f.Ingredient], lots.Taken{Lot: f, Grams: d.Grams})
			}
		}
	}
	out = lib
	for id, list := range taken {
		g := lib.Ingredients[id]
		if g == nil || !slices.ContainsFunc(list, func(t lots.Taken) bool { return t.Lot.States() }) {
			continue
		}
		if !stated {
			out.Ingredients, stated = maps.Clone(lib.Ingredients), true
		}
		as := lots.AsStated(*g, list)
		out.Ingredients[id] = &as
	}
	return out, stated
}

// settle writes the standings of batches and everything derived from them: what they took from lots, where their jars
// are, and their own lots. Batches that depend on those are judged again.
func (a *Room) settle(ctx context.Context, st kernel.Store, list []Loaded) error {
	before, err := st.DrawsOf(idsOf(list, func(Loaded) bool { return true })...)
	if err != nil {
		return err
	}
	return a.settleAfter(ctx, st, list, before)
}

// settleAfter settles batches, given what they took before.
func (a *Room) settleAfter(ctx context.Context, st kernel.Store, list []Loaded, before map[int64][]bench.Took) error {
	standings := make([]kernel.Standing, len(list))
	for i, l := range list {
		standings[i] = l.stands()
	}
	if err := st.PutStandings(standings...); err != nil {
		return err
	}
	moved, err := a.settleDraws(st, list, before)
	if err != nil {
		return err
	}
	own, err := a.settleOwn(st, list)
	if err != nil {
		return err
	}
	if len(moved) > 0 {
		if err := st.Recount(moved...); err != nil {
			return err
		}
	}
	return a.lotsMoved(ctx, st, own)
}

func isFilled(l Loaded) bool { return l.Record.Fill != nil }

// idsOf returns the ids of the batches that pass a test.
func idsOf(list []Loaded, which func(Loaded) bool) []int64 {
	var ids []int64
	for _, l := range list {
		if which(l) {
			ids = append(ids, l.Row.ID)
		}
	}
	return ids
}

// settleDraws writes what batches took and where their jars are. It returns the lots from which more or less was taken
// than before.
func (a *Room) settleDraws(st kernel.Store, list []Loaded, before map[int64][]bench.Took) ([]int64, error) {
	jars := map[int64][]bench.JarsAt{}
	if filled := idsOf(list, isFilled); len(filled) > 0 {
		var err error
		if jars, err = st.JarsOf(filled...); err != nil {
			return nil, err
		}
	}
	var moved []int64
	for _, l := range list {
		if now := l.Record.Jars; isFilled(l) && !slices.Equal(now, jars[l.Row.ID]) {
			if err := st.PutJars(l.Row.ID, now); err != nil {
				return nil, err
			}
		}
		took := l.Record.Draws()
		if was := before[l.Row.ID]; !slices.Equal(took, was) {
			if err := st.PutDraws(l.Row.ID, was, took); err != nil {
				return nil, err
			}
			for _, d := range slices.Concat(was, took) {
				if takenOf(d.Lot, was) != takenOf(d.Lot, took) {
					moved = append(moved, d.Lot)
				}
			}
		}
	}
	slices.Sort(moved)
	return slices.Compact(moved), nil
}

// takenOf returns how much was taken from a lot in all.
func takenOf(lot int64, took []bench.Took) amount.Grams {
	sum := amount.Grams{}
	for _, d := range took {
		if d.Lot == lot {
			sum = sum.Plus(d.Grams)
		}
	}
	return sum
}

// settleOwn writes the batches' own lots. It returns those whose facts changed, so that what uses them must be judged
// again.
func (a *Room) settleOwn(st kernel.Store, list []Loaded) ([]int64, error) {
	ids := idsOf(list, isFilled)
	if len(ids) == 0 {
		return nil, nil
	}
	rows, err := st.LotsOfBatches(ids...)
	if err != nil {
		return nil, err
	}
	of, lotIDs := map[int64]kernel.Lot{}, make([]int64, len(rows))
	for i, r := range rows {
		of[r.Batch], lotIDs[i] = r, r.ID
	}
	entries, err := st.LotEntries(lotIDs...)
	if err != nil {
		return nil, err
	}
	used, err := st.UsedOf(lotIDs...)
	if err != nil {
		return nil, err
	}
	had, err := st.LotStandings(lotIDs...)
	if err != nil {
		return nil, err
	}
	was := map[int64]lots.Facts{}
	for _, s := range had {
		was[s.ID] = s.Facts
	}
	var out []kernel.LotStanding
	var changed []int64
	for _, l := range list {
		r, ok := of[l.Row.ID]
		if !ok || l.Record.Fill == nil {
			continue
		}
		s := l.asLot(r, lots.Read(lots.OfBatch, nil, entries[r.ID]), used[r.ID])
		out = append(out, s)
		if before, known := was[r.ID]; !known || !before.Same(s.Facts) {
			changed = append(changed, r.ID)
		}
	}
	if len(out) == 0 {
		return nil, nil
	}
	return changed, st.PutLotStandings(out...)
}

// asLot returns a filled batch as a lot: its end, state and cost come from its record. Jars that have left are not
// available for the bowl.
func (l Loaded) asLot(row kernel.Lot, own lots.Lot, used amount.Grams) kernel.LotStanding {
	jar := l.Version.FillGrams
	if !l.Version.JarGrams().IsPositive() {
		jar = amount.Grams{}
	}
	s := kernel.LotStanding{Book: own.Received, Used: used}
	s.In = jar.Times(l.Record.Here())
	taken := used.Plus(own.Received.Parted).Minus(own.Received.Corrected)
	if elsewhere := l.Record.Fill.Jars - l.Record.Here(); elsewhere > 0 && s.In.Cmp(taken) < 0 {
		s.In = taken // what the bowl took came out of jars that are elsewhere now
	}
	f := lots.Facts{ID: row.ID, Code: row.Code, Kind: lots.OfBatch, Name: l.name, Formula: l.Row.FormulaID,
		Version: l.Row.Version, Batch: l.Row.ID, State: lots.Open, EndKind: lots.UseBy, NeedsEnd: true,
		Ends: l.LastDay(l.Verdict(l.Book.Law)), PerGram: l.Made().PerGram(l.Book.Terms)}
	switch l.Record.State {
	case bench.Released:
	case bench.OnHold:
		f.State, f.Bar = lots.OnHold, "the batch is on hold"
	default:
		f.State, f.Bar = lots.Refused, "the batch is "+bench.StateWords[l.Record.State]
	}
	if bar := own.Bar(); bar != "" && f.Bar == "" {
		f.State, f.Bar = own.State, bar
	}
	if barred := l.barred(); barred != "" && f.Bar == "" {
		f.State, f.Bar = lots.OnHold, "it was made with lot "+barred
	}
	s.Facts = f
	s.Left = s.OnHand(used)
	return s
}

// barred returns the first bar among the lots that a batch was made of.
func (l Loaded) barred() string {
	if list := l.Record.BarredLots(); len(list) > 0 {
		return list[0]
	}
	return ""
}

// sooner words why released jars keep less long than was decided: a lot's end was corrected since.
func (l Loaded) sooner(lastDay day.Day) string {
	days, line, ok := l.Record.EarliestUseBy(day.Of(l.Row.MadeOn))
	if !ok || !l.Record.Out || lastDay == "" || l.Record.State != bench.Released {
		return ""
	}
	end := day.Of(l.Row.MadeOn.AddDate(0, 0, days))
	if end >= lastDay {
		return ""
	}
	return fmt.Sprintf("the lot of %s ends on %s, and the jars say %s", line, end, lastDay)
}
