-- What is read before an act at the bench is written: all of it in one exchange, because a hand waits for it.

-- name: vessels_of
SELECT e.id, v.id AS vessel_id, e.kind, e.batch_id, e.what, e.allergens, e.happened_at, e.entered_at,
		e.by_whom, v.name FROM (
		SELECT vessel_id, min(at) AS at FROM (
			SELECT vessel_id, happened_at AS at FROM vessel_entries WHERE batch_id = @batch
			UNION ALL SELECT (planned->'vessel'->>'id')::bigint, 'infinity' FROM batches WHERE id = @batch) t
		GROUP BY vessel_id) used
	JOIN vessels v ON v.id = used.vessel_id
	CROSS JOIN LATERAL (SELECT coalesce(max(happened_at), '-infinity') AS at FROM vessel_entries
		WHERE vessel_id = v.id AND kind = @cleaned AND happened_at <= used.at) cleaned
	LEFT JOIN vessel_entries e ON e.vessel_id = v.id AND e.happened_at >= cleaned.at
	ORDER BY v.retired_at IS NOT NULL, lower(v.name), v.id, e.happened_at, e.id

-- name: opened_at
SELECT nextval('batch_entries_id_seq') AS next,
	NOT EXISTS (SELECT pg_snapshot_xip(pg_current_snapshot())) AS alone,
	(SELECT id FROM lots WHERE kind = 'batch' AND batch_id = @batch) AS lot,
	last.seq AS last, last.at AS noted,
	EXISTS (SELECT FROM changes WHERE seq = @seq AND at = @at) AS marked,
	ARRAY (SELECT what FROM changes WHERE seq > @seq ORDER BY seq LIMIT @most) AS since,
	coalesce((SELECT max(seq) FROM batch_entries WHERE batch_id = @batch), 0) AS entries,
	(SELECT CASE WHEN by_whom = @by THEN digest ELSE '\x00' END FROM batch_entries
		WHERE key = @key AND batch_id = @batch) AS digest
	FROM (SELECT) one LEFT JOIN (SELECT seq, at FROM changes ORDER BY seq DESC LIMIT 1) last ON true

-- name: called_lots
SELECT * FROM lot_standing WHERE lot_id = ANY (ARRAY(
	SELECT id FROM lots WHERE code = ANY (@texts)
	UNION ALL (SELECT lot_id FROM lot_standing WHERE said <> '' AND lower(said) = ANY (@small) LIMIT 200)
	UNION ALL SELECT unnest(@lots::bigint[])

-- name: named_lots
UNION ALL SELECT (d->>'lot')::bigint FROM batch_entries, jsonb_array_elements(
	CASE jsonb_typeof(body->'draws') WHEN 'array' THEN body->'draws' ELSE '[]' END) d WHERE batch_id = @batch

-- name: batch_whole
SELECT * FROM batches WHERE id = @batch

-- name: entries_whole
SELECT * FROM batch_entries WHERE batch_id = @batch ORDER BY seq
