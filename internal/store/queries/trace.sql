-- The flow from lots to jars and back, which is recursive, and what a recall reaches.

-- name: recall_of
SELECT code FROM recalls WHERE closed_at IS NULL AND NOT mock AND ? = ANY (batches) ORDER BY id
	LIMIT 1

-- name: last_drill
SELECT (SELECT max(closed_at) FROM recalls WHERE mock) AS last,
	EXISTS (SELECT 1 FROM batch_jars WHERE party_id > 0) AS "left"

-- name: lots_of_ingredient
SELECT l.id FROM lots l WHERE l.ingredient_id = ? AND l.kind = 'incoming' AND EXISTS
	(SELECT 1 FROM lot_draws d WHERE d.lot_id = l.id) ORDER BY l.id

-- name: flow_out
SELECT d.lot_id, (SELECT id FROM lots WHERE batch_id = d.batch_id AND kind = 'batch'), sum(d.grams)::bigint
		FROM lot_draws d WHERE d.lot_id = here.id GROUP BY d.lot_id, d.batch_id
	UNION ALL SELECT l.parent_id, l.id, coalesce(s.received, 0) FROM lots l
		LEFT JOIN lot_standing s ON s.lot_id = l.id WHERE l.parent_id = here.id

-- name: flow_in
SELECT d.lot_id, here.id, sum(d.grams)::bigint FROM lot_draws d
		WHERE d.batch_id = (SELECT batch_id FROM lots WHERE id = here.id AND kind = 'batch') GROUP BY d.lot_id
	UNION ALL SELECT l.parent_id, l.id, coalesce(s.received, 0) FROM lots l
		LEFT JOIN lot_standing s ON s.lot_id = l.id WHERE l.id = here.id AND l.parent_id IS NOT NULL

-- name: flow_head
WITH RECURSIVE flow (source, target, grams) AS (
	SELECT f.* FROM (SELECT id FROM lots WHERE id = ANY (?)) here CROSS JOIN LATERAL (

-- name: flow_step
) f UNION
	SELECT f.* FROM (SELECT

-- name: flow_end
AS id FROM flow) here CROSS JOIN LATERAL (

-- name: flow_tail
) f)
	SELECT * FROM flow ORDER BY source, target

-- name: traced_lots
SELECT l.id, l.code, l.kind, coalesce(l.ingredient_id, '') AS ingredient,
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
	LEFT JOIN formulas f ON f.id = b.formula_id WHERE l.id = ANY (?) ORDER BY l.id

-- name: lots_by_text
SELECT id FROM lots WHERE code IN ? UNION
	SELECT lot_id FROM lot_standing WHERE said <> '' AND lower(said) IN ? ORDER BY 1 LIMIT 50
