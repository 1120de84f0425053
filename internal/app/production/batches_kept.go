package production

import (
	"fmt"
	"maps"
	"sync"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/lots"
)

// besideDesks are the kinds of change after which a kept desk is still good: records of batches, lots and meters, which
// are read afresh for every batch anyway.
var besideDesks = []string{"entry", "batch", "lot", "lot_entry", "delivery", "meter_check", "meter_look", "vessel",
	"vessel_entry", "label", "mark", "party", "person", "price_way"}

// KeptDesk keeps what batches are judged with from one entry to the next: the pantry, the shop's rules and the
// versions, as they were at a mark of the journal. It is good until one of them changes or the shop's day ends.
type KeptDesk struct {
	mu   sync.Mutex
	desk *judging
	read kernel.BatchRecord // with the entry that was written then
}

// keep keeps a desk and the record that was written with it. The caller must not change the desk afterwards.
func (k *KeptDesk) keep(desk *judging, read kernel.BatchRecord) {
	if k == nil || read.Mark == (kernel.Mark{}) {
		return
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	k.desk, k.read = desk, read
}

// last returns a copy of the kept desk and the record that was written with it; nil if none is kept.
func (k *KeptDesk) last() (*judging, kernel.BatchRecord) {
	if k == nil {
		return nil, kernel.BatchRecord{}
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.desk == nil {
		return nil, kernel.BatchRecord{}
	}
	j := *k.desk
	j.met = nil
	j.lib.Ingredients, j.lib.Versions = maps.Clone(j.lib.Ingredients), maps.Clone(j.lib.Versions)
	j.lib.Names, j.docs = maps.Clone(j.lib.Names), maps.Clone(j.docs)
	j.panels, j.libs, j.behind = maps.Clone(j.panels), maps.Clone(j.libs), maps.Clone(j.behind)
	j.priced = maps.Clone(j.priced)
	return &j, k.read
}

// opens reads a batch for the writer of its next entry, with the lots that the texts name, and reuses the kept desk if
// it is still good.
func (a *Room) opens(st kernel.Store, id int64, key string, texts []string) (Loaded, kernel.BatchRecord, error) {
	desk, had := a.Desk.last()
	read, err := st.OpenBatch(id, kernel.Opening{Key: key, Texts: texts, Since: had.Mark, Beside: besideDesks,
		Had: &had})
	if err != nil {
		return Loaded{}, read, err
	}
	if desk, err = a.deskAfter(st, desk, read); err != nil {
		return Loaded{}, read, err
	}
	known, err := desk.meets(st, read, texts)
	if err != nil {
		return Loaded{}, read, err
	}
	l, err := desk.recorded(st, read, known)
	return l, read, err
}

// deskAfter returns the kept desk if a record read since its mark shows that it is still good, else a new one.
func (a *Room) deskAfter(st kernel.Store, kept *judging, read kernel.BatchRecord) (*judging, error) {
	if kept == nil || !read.Still || kept.day != day.Of(a.TodayIn(kept.book.Settings)) {
		return a.Judging(st)
	}
	kept.app = a
	kept.pricedThrough(st)
	return kept, nil
}

// meets adds the lots that came with a record and loads the others that it names. It returns the facts of the latter.
func (j *judging) meets(st kernel.Store, r kernel.BatchRecord, texts []string) (map[int64]lots.Facts, error) {
	j.met = &met{texts: texts, list: r.Lots}
	came := map[int64]lots.Facts{}
	for _, s := range r.Lots {
		came[s.ID] = s.Facts
	}
	known := map[int64]lots.Facts{}
	var missing []int64
	for _, e := range r.Entries {
		for _, d := range bench.DrawsOf(e.Body) {
			f, ok := came[d.Lot]
			if !ok {
				missing = append(missing, d.Lot)
			}
			known[d.Lot] = f
		}
	}
	if len(missing) == 0 {
		return known, nil
	}
	rest, err := st.LotStandings(missing...)
	for _, s := range rest {
		known[s.ID] = s.Facts
	}
	return known, err
}

// recorded judges a batch by its record and the facts of the lots that it names.
func (j *judging) recorded(st kernel.Store, r kernel.BatchRecord, known map[int64]lots.Facts) (Loaded, error) {
	all := map[int64][]bench.Entry{r.Batch.ID: r.Entries}
	if err := withMeters(st, all); err != nil {
		return Loaded{}, err
	}
	l, err := j.batch(st, r.Batch, all[r.Batch.ID], known)
	if err != nil {
		return l, fmt.Errorf("batch %s: %w", r.Batch.Code, err)
	}
	l.lot, l.were = r.Lot, r.Vessels
	return l, nil
}
