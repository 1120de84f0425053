package store

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"gallipot/internal/app"

	"github.com/jackc/pgx/v5"
)

// opened is what the writer of a batch's next entry reads along.
type opened struct {
	Next   int64
	Lot    *int64
	Alone  bool
	Last   *int64
	Noted  *time.Time
	Still  bool
	Clean  bool // no vessel was used since
	Digest []byte
	Known  bool
}

const openedAt = `SELECT nextval('batch_entries_id_seq') AS next,
	NOT EXISTS (SELECT pg_snapshot_xip(pg_current_snapshot())) AS alone,
	(SELECT id FROM lots WHERE kind = 'batch' AND batch_id = @batch) AS lot,
	(SELECT seq FROM changes ORDER BY seq DESC LIMIT 1) AS last,
	(SELECT at FROM changes ORDER BY seq DESC LIMIT 1) AS noted,
	EXISTS (SELECT FROM changes WHERE seq = @seq AND at = @at) AND
		(SELECT seq FROM changes WHERE seq > @seq AND what <> ALL (@beside) ORDER BY seq LIMIT 1) IS NULL AS still,
	@have > 0 AND ` + noneUsed + ` AS clean,
	(SELECT digest FROM batch_entries WHERE batch_id = @batch AND key = @key) AS digest,
	EXISTS (SELECT FROM batch_entries WHERE batch_id = @batch AND key = @key) AS known`

// asItWas is that no batch itself was changed since a mark, whose entries only grow.
const asItWas = `EXISTS (SELECT FROM changes WHERE seq = @seq AND at = @at) AND
	(SELECT seq FROM changes WHERE seq > @seq AND what = 'batch' ORDER BY seq LIMIT 1) IS NULL`

// noneUsed is that nothing was written down of a vessel since a mark.
const noneUsed = `EXISTS (SELECT FROM changes WHERE seq = @seq AND at = @at) AND
	(SELECT seq FROM changes WHERE seq > @seq AND what IN ('vessel', 'vessel_entry') ORDER BY seq LIMIT 1) IS NULL`

// namedLots are the lots that the record of a batch names, those of a code or with words of their supplier, and those
// that were had of it already.
const namedLots = `SELECT * FROM lot_standing WHERE lot_id = ANY (ARRAY(
	SELECT (d->>'lot')::bigint FROM batch_entries, jsonb_array_elements(
		CASE jsonb_typeof(body->'draws') WHEN 'array' THEN body->'draws' ELSE '[]' END) d
		WHERE batch_id = @batch AND seq > CASE WHEN ` + asItWas + ` THEN @have ELSE 0 END
	UNION ALL SELECT id FROM lots WHERE code = ANY (@texts)
	UNION ALL (SELECT lot_id FROM lot_standing WHERE said <> '' AND lower(said) = ANY (@small) LIMIT 200)
	UNION ALL SELECT unnest(@lots::bigint[])))
	ORDER BY lot_id`

// opening are the rows in which a batch is read.
type opening struct {
	meta    []opened
	batch   []batchRow
	entries []batchEntryRow
	lots    []lotStandingRow
	turns   []turnRow
}

// OpenBatch keeps others from writing into batches until the transaction ends, and returns one with its record, the
// lots that it names or a text calls, its vessels, and whether anything was noted since a mark that is not one of these
// kinds; all in one exchange. Errors: ErrNotFound.
func (s *Store) OpenBatch(batch int64, ask app.Opening) (app.BatchRecord, error) {
	p, is := s.db.Statement.ConnPool.(*pipe)
	if !is {
		return app.BatchRecord{}, errors.New("a batch is opened in a transaction")
	}
	have, lots := 0, []int64{}
	if ask.Had != nil && ask.Had.Batch.ID == batch {
		have = len(ask.Had.Entries)
		for _, l := range ask.Had.Lots {
			lots = append(lots, l.ID)
		}
	}
	args := pgx.NamedArgs{"batch": batch, "key": ask.Key, "seq": ask.Since.Seq, "at": ask.Since.At, "have": have,
		"lots": lots, "beside": ask.Beside, "texts": ask.Texts, "small": inSmall(ask.Texts),
		"cleaned": app.VesselCleaned}
	var o opening
	p.waits.Queue(lockBatches)
	collect(p, &o.meta, openedAt, args)
	collect(p, &o.batch, "SELECT * FROM batches WHERE id = @batch AND NOT (@have > 0 AND "+asItWas+")", args)
	collect(p, &o.entries, "SELECT * FROM batch_entries WHERE batch_id = @batch AND seq > CASE WHEN "+asItWas+
		" THEN @have ELSE 0 END ORDER BY seq", args)
	collect(p, &o.lots, namedLots, args)
	collect(p, &o.turns, "SELECT * FROM ("+vesselsOf+") turns WHERE NOT (@have > 0 AND "+noneUsed+")", args)
	if err := p.send(s.db.Statement.Context); err != nil {
		return app.BatchRecord{}, translate(err)
	}
	if len(o.batch) == 0 && have == 0 {
		return app.BatchRecord{}, fmt.Errorf("batch %d: %w", batch, app.ErrNotFound)
	}
	return o.record(ask.Had)
}

// record is the record that was read, on top of what was had of it.
func (o opening) record(had *app.BatchRecord) (app.BatchRecord, error) {
	m := o.meta[0]
	out := app.BatchRecord{Next: m.Next, Lot: orZero(m.Lot), Still: m.Still}
	if m.Alone && m.Last != nil {
		out.Mark = app.Mark{Seq: *m.Last, At: *m.Noted}
	}
	if m.Known {
		out.Digest = append([]byte{}, m.Digest...)
	}
	var err error
	if out.Entries, err = each(o.entries, batchEntryRow.domain); err != nil {
		return out, err
	}
	if out.Lots, err = each(o.lots, lotStandingRow.domain); err != nil {
		return out, err
	}
	if len(o.batch) > 0 {
		out.Batch, err = o.batch[0].domain()
	} else {
		out.Batch, out.Entries = had.Batch, slices.Concat(had.Entries, out.Entries)
	}
	if err != nil {
		return out, err
	}
	if m.Clean {
		out.Vessels = had.Vessels
		return out, nil
	}
	out.Vessels, err = byVessel(o.turns)
	return out, err
}
