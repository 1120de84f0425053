package app

import (
	"fmt"
	"maps"
	"sync"
	"time"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"
)

// Mark is a place in the book of changes: the last change that was noted there.
type Mark struct {
	Seq int64
	At  time.Time
}

// Opening is what the writer of a batch's next entry asks along.
type Opening struct {
	Key    string       // of the entry
	Texts  []string     // that lots may be called by
	Since  Mark         // of what was read before
	Beside []string     // kinds of changes that do not touch that
	Had    *BatchRecord // as it was then; the same batch is not read again where it is still so
}

// BatchRecord is the record of a batch as the writer of its next entry reads it.
type BatchRecord struct {
	Batch   Batch
	Entries []bench.Entry
	Digest  []byte        // of the entry under the writer's key; nil where there is none
	Next    int64         // the id of the next entry
	Lot     int64         // that the batch is itself
	Lots    []LotStanding // that the record names, and that the texts call
	Vessels []VesselTurns
	Turned  int  // turns of vessels that were written down since it was read
	Mark    Mark // when it was read; zero while somebody else writes, whose change would be noted before it is seen
	Still   bool // nothing was noted since the mark that was asked about
}

// besideDesks are the changes that leave what batches are judged with as it is: the records of batches, lots and
// meters, which are read anew for every batch.
var besideDesks = []string{"entry", "batch", "lot", "lot_entry", "delivery", "meter_check", "meter_look", "vessel",
	"vessel_entry", "label", "mark", "party", "person", "price_way"}

// KeptDesk is what batches are judged with, where it lasts from one entry to the next: the pantry, the shop's rules and
// the versions as they were when a mark was noted. It is good while nothing of that was changed since, on the shop's
// same day.
type KeptDesk struct {
	mu   sync.Mutex
	desk *judging
	read BatchRecord // with the entry that was written then
}

// keep keeps a desk, which nobody changes from then on, beside the record that was written on it.
func (k *KeptDesk) keep(desk *judging, read BatchRecord) {
	if k == nil || read.Mark == (Mark{}) {
		return
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	k.desk, k.read = desk, read
}

// last is a desk like the one that is kept, to go on with, and what was written on it; nil where none is.
func (k *KeptDesk) last() (*judging, BatchRecord) {
	if k == nil {
		return nil, BatchRecord{}
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.desk == nil {
		return nil, BatchRecord{}
	}
	j := *k.desk
	j.met = nil
	j.lib.Ingredients, j.lib.Versions = maps.Clone(j.lib.Ingredients), maps.Clone(j.lib.Versions)
	j.lib.Names, j.docs = maps.Clone(j.lib.Names), maps.Clone(j.docs)
	j.panels, j.libs, j.behind = maps.Clone(j.panels), maps.Clone(j.libs), maps.Clone(j.behind)
	j.priced = maps.Clone(j.priced)
	return &j, k.read
}

// opens reads a batch as the writer of its next entry does, with the lots that texts call, on the desk that was kept
// where that is still good.
func (a *App) opens(st Store, id int64, key string, texts []string) (loaded, BatchRecord, error) {
	desk, had := a.Desk.last()
	read, err := st.OpenBatch(id, Opening{Key: key, Texts: texts, Since: had.Mark, Beside: besideDesks, Had: &had})
	if err != nil {
		return loaded{}, read, err
	}
	if desk, err = a.deskAfter(st, desk, read); err != nil {
		return loaded{}, read, err
	}
	known, err := desk.meets(st, read, texts)
	if err != nil {
		return loaded{}, read, err
	}
	l, err := desk.recorded(st, read, known)
	return l, read, err
}

// deskAfter is the desk that was kept, where it is still good by a record that was read since its mark; else one that
// is laid anew.
func (a *App) deskAfter(st Store, kept *judging, read BatchRecord) (*judging, error) {
	if kept == nil || !read.Still || kept.day != a.today(kept.book.settings).Format(pantry.DateLayout) {
		return a.judging(st)
	}
	kept.app = a
	kept.pricedThrough(st)
	return kept, nil
}

// meets lays down the lots that came with a record, and the rest of those that it names. It returns what the book says
// of the latter.
func (j *judging) meets(st Store, r BatchRecord, texts []string) (map[int64]lots.Facts, error) {
	j.met = &met{texts: texts, list: r.Lots}
	came := map[int64]lots.Facts{}
	for _, s := range r.Lots {
		came[s.ID] = s.Facts
	}
	known := map[int64]lots.Facts{}
	var missing []int64
	for _, e := range r.Entries {
		for _, d := range bench.DrawsOf(e.Body) {
			f, is := came[d.Lot]
			if !is {
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

// recorded judges a batch by its record, and what the book says of the lots that it names.
func (j *judging) recorded(st Store, r BatchRecord, known map[int64]lots.Facts) (loaded, error) {
	all := map[int64][]bench.Entry{r.Batch.ID: r.Entries}
	if err := withMeters(st, all); err != nil {
		return loaded{}, err
	}
	l, err := j.batch(st, r.Batch, all[r.Batch.ID], known)
	if err != nil {
		return l, fmt.Errorf("batch %s: %w", r.Batch.Code, err)
	}
	l.lot, l.were = r.Lot, r.Vessels
	return l, nil
}
