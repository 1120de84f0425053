package store

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/bench"

	"github.com/jackc/pgx/v5"
)

// opened is what the writer of a batch's next entry reads first.
type opened struct {
	Next    int64
	Lot     *int64
	Alone   bool
	Last    *int64
	Noted   *time.Time
	Marked  bool     // the mark is of this book
	Since   []string // what was noted after it, in turn
	Entries int      // of the batch
	Digest  []byte   // of the entry under the writer's key; nil where there is none
}

// mostSince bounds how many changes are searched for one that touches a kept record.
const mostSince = 64

var openedAt = query("opened_at")

// still reports whether every change since the mark is of these kinds.
func (o opened) still(beside []string) bool {
	return o.Marked && len(o.Since) < mostSince && !slices.ContainsFunc(o.Since, func(what string) bool {
		return !slices.Contains(beside, what)
	})
}

// asItWas reports whether the record read at the mark, with what its reader wrote then, is still complete.
func (o opened) asItWas(had kernel.BatchRecord) bool {
	turns := 0
	for _, what := range o.Since {
		switch what {
		case "batch", "vessel":
			return false
		case "vessel_entry":
			turns++
		}
	}
	return o.Marked && len(o.Since) < mostSince && turns == had.Turned && o.Entries == len(had.Entries)
}

// calledLots selects lots by their code, by their supplier's text or by their id.
var calledLots = query("called_lots")

// namedLots selects those and the lots that the record of a batch names.
var namedLots = calledLots + query("named_lots")

const inOrder = ")) ORDER BY lot_id"

// opening holds the rows in which a batch is read.
type opening struct {
	p       *pipe
	args    pgx.NamedArgs
	meta    []opened
	batch   []batchRow
	entries []batchEntryRow
	lots    []lotStandingRow
	turns   []turnRow
}

// whole queues the queries for a whole record.
func (o *opening) whole() {
	collect(o.p, &o.batch, query("batch_whole"), o.args)
	collect(o.p, &o.entries, query("entries_whole"), o.args)
	collect(o.p, &o.lots, namedLots+inOrder, o.args)
	collect(o.p, &o.turns, vesselsOf, o.args)
}

// OpenBatch takes the lock of all writers until the transaction ends, and returns a batch with its record, the lots
// that it or a typed text names, its vessels, and whether anything but the given kinds of change was noted since the
// mark. It takes one exchange with the database, or two if the caller's record is out of date. Errors: ErrNotFound.
func (s *Store) OpenBatch(batch int64, ask kernel.Opening) (kernel.BatchRecord, error) {
	p, ok := s.db.Statement.ConnPool.(*pipe)
	if !ok {
		return kernel.BatchRecord{}, errors.New("a batch is opened in a transaction")
	}
	lots, had := []int64{}, ask.Had != nil && ask.Had.Batch.ID == batch
	if had {
		for _, l := range ask.Had.Lots {
			lots = append(lots, l.ID)
		}
	}
	o := opening{p: p, args: pgx.NamedArgs{"batch": batch, "key": ask.Key, "by": s.by, "seq": ask.Since.Seq,
		"at": ask.Since.At, "most": mostSince, "lots": lots, "texts": ask.Texts, "small": inSmall(ask.Texts),
		"cleaned": bench.VesselCleaned}}
	p.queue(lockBatches)
	collect(p, &o.meta, openedAt, o.args)
	if had {
		collect(p, &o.lots, calledLots+inOrder, o.args)
	} else {
		o.whole()
	}
	if err := p.send(s.db.Statement.Context); err != nil {
		return kernel.BatchRecord{}, translate(err)
	}
	if had {
		if o.meta[0].asItWas(*ask.Had) {
			return o.onTop(*ask.Had, ask.Beside)
		}
		o.whole()
		if err := p.send(s.db.Statement.Context); err != nil {
			return kernel.BatchRecord{}, translate(err)
		}
	}
	if len(o.batch) == 0 {
		return kernel.BatchRecord{}, fmt.Errorf("batch %d: %w", batch, kernel.ErrNotFound)
	}
	return o.record(ask.Beside)
}

// begun queues the queries that every record needs.
func (o *opening) begun(beside []string) (out kernel.BatchRecord, err error) {
	m := o.meta[0]
	out = kernel.BatchRecord{Next: m.Next, Lot: orZero(m.Lot), Digest: m.Digest, Still: m.still(beside)}
	if m.Alone && m.Last != nil {
		out.Mark = kernel.Mark{Seq: *m.Last, At: *m.Noted}
	}
	out.Lots, err = each(o.lots, lotStandingRow.domain)
	return out, err
}

// onTop brings the caller's record up to date.
func (o *opening) onTop(had kernel.BatchRecord, beside []string) (kernel.BatchRecord, error) {
	out, err := o.begun(beside)
	out.Batch, out.Entries, out.Vessels = had.Batch, had.Entries, had.Vessels
	return out, err
}

// record assembles the record from what was read.
func (o *opening) record(beside []string) (kernel.BatchRecord, error) {
	out, err := o.begun(beside)
	if err != nil {
		return out, err
	}
	if out.Entries, err = each(o.entries, batchEntryRow.domain); err != nil {
		return out, err
	}
	if out.Batch, err = o.batch[0].domain(); err != nil {
		return out, err
	}
	out.Vessels, err = byVessel(o.turns)
	return out, err
}
