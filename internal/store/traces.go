package store

import (
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/trace"
)

// What goes out of a lot, and what went into one. They are asked lot by lot on the way, each by an index, so that a
// trace costs as much as it finds, however many lots there are (docs/trace.md).
const (
	out = `SELECT d.lot_id, (SELECT id FROM lots WHERE batch_id = d.batch_id AND kind = 'batch'), sum(d.grams)::bigint
			FROM lot_draws d WHERE d.lot_id = here.id GROUP BY d.lot_id, d.batch_id
		UNION ALL SELECT l.parent_id, l.id, coalesce(s.received, 0) FROM lots l
			LEFT JOIN lot_standing s ON s.lot_id = l.id WHERE l.parent_id = here.id`
	into = `SELECT d.lot_id, here.id, sum(d.grams)::bigint FROM lot_draws d
			WHERE d.batch_id = (SELECT batch_id FROM lots WHERE id = here.id AND kind = 'batch') GROUP BY d.lot_id
		UNION ALL SELECT l.parent_id, l.id, coalesce(s.received, 0) FROM lots l
			LEFT JOIN lot_standing s ON s.lot_id = l.id WHERE l.id = here.id AND l.parent_id IS NOT NULL`
)

// FlowsFrom returns all that lots went into, however many batches lie between; against is what went into them instead.
func (s *Store) FlowsFrom(against bool, lots ...int64) ([]trace.Flow, error) {
	step, end := out, "target"
	if against {
		step, end = into, "source"
	}
	var rows []struct{ Source, Target, Grams int64 }
	err := s.db.Raw(`WITH RECURSIVE flow (source, target, grams) AS (
			SELECT f.* FROM (SELECT id FROM lots WHERE id = ANY (?)) here CROSS JOIN LATERAL (`+step+`) f UNION
			SELECT f.* FROM (SELECT `+end+` AS id FROM flow) here CROSS JOIN LATERAL (`+step+`) f)
		SELECT * FROM flow ORDER BY source, target`, idList(lots)).Scan(&rows).Error
	list := make([]trace.Flow, len(rows))
	for i, r := range rows {
		list[i] = trace.Flow{From: r.Source, To: r.Target, Grams: amount.Milligrams(r.Grams)}
	}
	return list, translate(err)
}

// TracedLots returns what a trace shows of lots.
func (s *Store) TracedLots(ids ...int64) ([]kernel.TracedLot, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	var out []kernel.TracedLot
	err := s.db.Raw(`SELECT l.id, l.code, l.kind, coalesce(l.ingredient_id, '') AS ingredient,
		coalesce(l.batch_id, 0) AS batch, coalesce(f.name, i.data->>'name', t.facts->>'name', '') AS name,
		coalesce(b.made_on, d.day, l.created_at::date) AS day, coalesce(b.created_by, l.created_by) AS by,
		coalesce(nullif(t.supplier, ''), d.supplier, '') AS supplier, coalesce(t.said, '') AS said,
		coalesce(bs.state, t.state, '') AS state, coalesce(nullif(bs.barred, ''), t.bar, '') AS bar,
		coalesce(t.received, 0) AS received_mg, coalesce(t.used, 0) AS used_mg, coalesce(bs.jars, 0) AS jars,
		coalesce(b.version, 0) AS version, coalesce(bs.outcome, '') AS outcome, bs.value,
		CASE WHEN coalesce(bs.state, 'released') = 'released' THEN coalesce(t.ends::text, bs.last_day::text, '')
		ELSE '' END AS ends, coalesce((t.facts->>'frozen')::boolean, false) AS frozen
		FROM lots l LEFT JOIN lot_standing t ON t.lot_id = l.id LEFT JOIN deliveries d ON d.id = l.delivery_id
		LEFT JOIN ingredients i ON i.id = l.ingredient_id
		LEFT JOIN batches b ON b.id = l.batch_id AND l.kind = 'batch' LEFT JOIN batch_standing bs ON bs.batch_id = b.id
		LEFT JOIN formulas f ON f.id = b.formula_id WHERE l.id = ANY (?) ORDER BY l.id`, idList(ids)).Scan(&out).Error
	return out, translate(err)
}

// LotsByText returns the lots that are called by one of these texts: a code of ours, a batch's, or the supplier's
// words.
func (s *Store) LotsByText(texts ...string) ([]int64, error) {
	var ids []int64
	err := s.db.Raw(`SELECT id FROM lots WHERE code IN ? UNION
		SELECT lot_id FROM lot_standing WHERE said <> '' AND lower(said) IN ? ORDER BY 1 LIMIT 50`, texts,
		inSmall(texts)).Scan(&ids).Error
	return ids, translate(err)
}
