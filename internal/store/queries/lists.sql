-- Lists and counts over tens of thousands of batches, lots and entries, and looks into what an entry holds.

-- name: batch_refs
SELECT DISTINCT formula_id AS formula, version FROM batches ORDER BY 1, 2

-- name: unjudged_batches
NOT EXISTS (SELECT FROM batch_standing s WHERE s.batch_id = b.id)

-- name: add_split
INSERT INTO batch_splits (batch_id, bowl_id) VALUES (?, ?)

-- name: sisters
WITH bowl AS (SELECT coalesce((SELECT bowl_id FROM batch_splits WHERE batch_id = @of), @of) AS id)
	SELECT b.id, b.code, coalesce(t.state, 'hold') AS state FROM batches b
	LEFT JOIN batch_standing t ON t.batch_id = b.id WHERE b.id <> @of AND b.id IN (SELECT id FROM bowl UNION
		SELECT batch_id FROM batch_splits WHERE bowl_id = (SELECT id FROM bowl)) ORDER BY b.id

-- name: recount_batches
UPDATE formulas f SET batches = (SELECT count(*) FROM batches b WHERE b.formula_id = f.id)

-- name: standing_columns
SELECT b.id, b.code, b.formula_id, f.name AS formula_name, b.version, b.made_on, s.*
	FROM batches b JOIN batch_standing s ON s.batch_id = b.id JOIN formulas f ON f.id = b.formula_id

-- name: count_waiting
SELECT count(*) FROM batch_standing s WHERE

-- name: count_all_batches
SELECT coalesce(sum(batches), 0) FROM formulas

-- name: batches_ending
WHERE s.state = 'released' AND s.last_day BETWEEN ?::date AND ?::date ORDER BY s.last_day, b.id LIMIT ?

-- name: pours
SELECT body->>'grams' AS grams, body->>'stopped_g' AS stopped FROM batch_entries
	WHERE kind = 'capture' AND body->>'stopped_g' IS NOT NULL AND body->>'class' = $1 ORDER BY id DESC LIMIT $2

-- name: last_aim
SELECT b.id, b.code, e.by_whom, e.body FROM batches b JOIN batch_entries e ON e.batch_id = b.id
	WHERE e.kind = 'aimed' AND b.formula_id = ? AND b.version = ? ORDER BY e.id DESC LIMIT 1

-- name: made_in
(SELECT json_build_object('id', v.id, 'name', v.name, 'least_g', v.least_mg / 1000.0,
	'greatest_g', v.greatest_mg / 1000.0, 'residue_g', v.residue_mg / 1000.0) FROM vessels v WHERE v.id = coalesce(
		(SELECT (b.planned->'vessel'->>'id')::bigint FROM batches b WHERE b.formula_id = f.id AND b.planned IS NOT NULL
			ORDER BY b.made_on DESC, b.id DESC LIMIT 1),
		(SELECT w.id FROM vessels w WHERE w.greatest_mg > 0 AND w.retired_at IS NULL ORDER BY w.id LIMIT 1)))

-- name: vessel_of_each
SELECT f.id,

-- name: of_formulas
WHERE f.id IN ?

-- name: last_vessel
SELECT coalesce(
	(SELECT (planned->'vessel'->>'id')::bigint FROM batches WHERE formula_id = $1 AND planned IS NOT NULL ORDER BY made_on DESC, id DESC LIMIT 1),
	(SELECT id FROM vessels WHERE greatest_mg > 0 AND retired_at IS NULL ORDER BY id LIMIT 1), 0)

-- name: jars_made
SELECT coalesce(sum(s.jars), 0)::int AS jars, min(b.made_on) AS first FROM batches b
	JOIN batch_standing s ON s.batch_id = b.id WHERE b.formula_id = ? AND b.made_on >= ?
	AND EXISTS (SELECT 1 FROM batch_entries e WHERE e.batch_id = b.id AND e.kind = 'fill')

-- name: batches_filled
SELECT b.id FROM batches b WHERE b.formula_id = ?
	AND EXISTS (SELECT 1 FROM batch_entries e WHERE e.batch_id = b.id AND e.kind = 'fill')
	ORDER BY b.made_on DESC, b.id DESC LIMIT ?

-- name: before_change
(at, seq) < (SELECT at, seq FROM changes WHERE seq = ?)

-- name: name_of_batch
SELECT b.id::text, b.code || ' ' || f.name AS name FROM batches b JOIN formulas f ON f.id = b.formula_id
	WHERE b.id = ANY (?)

-- name: name_of_lot
SELECT l.id::text, l.code || ' ' || coalesce(i.data->>'name', '') AS name FROM lots l
	LEFT JOIN ingredients i ON i.id = l.ingredient_id WHERE l.id = ANY (?)

-- name: name_of_recall
SELECT id::text, code AS name FROM recalls WHERE id = ANY (?)

-- name: name_of_ingredient
SELECT id, data->>'name' AS name FROM ingredients WHERE id IN ?

-- name: name_of_formula
SELECT id, name FROM formulas WHERE id IN ?

-- name: name_of_preparation
SELECT id, data->>'name' AS name FROM preparations WHERE id IN ?

-- name: next_place
SELECT (body ->> 'next')::int FROM batch_entries
	WHERE kind = 'print' AND body ->> 'stock' = ? AND body -> 'next' IS NOT NULL ORDER BY id DESC LIMIT 1

-- name: place_of
SELECT coalesce((body ->> 'from')::int, 1) FROM batch_entries WHERE batch_id = ? AND key = ?

-- name: lots_called
lot_id IN (SELECT id FROM lots WHERE code IN ? UNION
	SELECT lot_id FROM lot_standing WHERE said <> '' AND lower(said) IN ? ORDER BY 1 LIMIT 200)

-- name: last_list
SELECT e.body->>'list' AS list FROM lots l JOIN lot_standing t ON t.lot_id = l.id
	JOIN lot_entries e ON e.lot_id = l.id WHERE l.ingredient_id = ? AND l.kind = 'incoming'
	AND t.state IN ('open', 'hold') AND NOT t.differs AND e.kind IN ('came_in', 'corrected')
	AND e.body->>'list' <> '' ORDER BY l.id DESC, e.id DESC LIMIT 1

-- name: drop_draws
DELETE FROM lot_draws WHERE batch_id = ? AND part >= ?

-- name: draws_of
SELECT * FROM lot_draws WHERE batch_id IN ? ORDER BY batch_id, part

-- name: used_of
SELECT lot_id, sum(grams)::bigint AS grams FROM lot_draws WHERE lot_id IN ? GROUP BY lot_id

-- name: recount
UPDATE lot_standing s SET used = coalesce((SELECT sum(d.grams) FROM lot_draws d
	WHERE d.lot_id = s.lot_id), 0) WHERE lot_id IN ?

-- name: drawn_by
SELECT lot_id, batch_id, sum(grams)::bigint AS grams FROM lot_draws WHERE lot_id IN ?
	GROUP BY lot_id, batch_id ORDER BY lot_id, batch_id

-- name: kept_in_lots
SELECT i.id FROM ingredients i
	CROSS JOIN LATERAL (SELECT FROM lots l WHERE l.ingredient_id = i.id LIMIT 1) came WHERE i.id IN ?

-- name: lot_standings
SELECT * FROM lot_standing WHERE

-- name: lots_of_components
AND (formula_id IS NULL OR used > 0
	OR formula_id IN (SELECT jsonb_array_elements_text(uses) FROM versions WHERE uses <> '[]'))

-- name: count_lots
SELECT count(*) FROM lot_standing WHERE

-- name: stock_head
SELECT coalesce(t.ingredient_id, '') AS ingredient, coalesce(t.formula_id, '') AS formula,
	coalesce(min(f.name), min(i.data->>'name')) AS name, count(*) AS lots,
	count(*) FILTER (WHERE t.bar <> '') AS held,
	coalesce(sum(on_hand) FILTER (WHERE t.bar = '' AND NOT coalesce((facts->>'frozen')::boolean, false)
	AND (ends IS NULL OR ends >= ?::date)), 0)::bigint AS usable,
	sum(on_hand)::bigint AS there, coalesce(sum(on_hand) FILTER (WHERE ends < ?::date), 0)::bigint AS past,
	min(ends) FILTER (WHERE t.bar = '' AND ends >= ?::date) AS ends,
	CASE WHEN bool_and(per_gram IS NOT NULL) THEN sum(on_hand * per_gram) / 1000 END AS worth
	FROM (SELECT * FROM lot_standing WHERE (on_hand <> 0 OR state = 'waiting')

-- name: stock_tail
) t
	LEFT JOIN formulas f ON f.id = t.formula_id LEFT JOIN ingredients i ON i.id = t.ingredient_id
	GROUP BY t.ingredient_id, t.formula_id ORDER BY ends NULLS LAST, name

-- name: event_rows
SELECT turn, id AS "check", meter, false AS look, accepted AS good, checked_at AS at, entered_at, checked_by AS by_whom
		FROM meter_checks UNION ALL
	SELECT l.turn, c.id, c.meter, true, l.good, l.looked_at, l.looked_at, l.looked_by FROM meter_looks l JOIN meter_checks c ON c.id = l.check_id

-- name: events_head
SELECT * FROM (

-- name: events_tail
) e WHERE e.at >= ? AND e.meter IN (SELECT meter FROM meter_checks WHERE id IN ?)
	ORDER BY turn, look, "check"

-- name: batches_on_meter
SELECT DISTINCT batch_id FROM batch_entries WHERE kind = 'reading' AND (at >= ? OR (body->>'at')::timestamptz >= ?)
	AND coalesce(body->>'meter_check', body->'reading'->>'meter_check') IN (SELECT id::text FROM meter_checks WHERE meter = ?) ORDER BY 1

-- name: drop_jars
DELETE FROM batch_jars WHERE batch_id = ?

-- name: batches_with_jars
WHERE s.batch_id IN (SELECT batch_id FROM batch_standing WHERE state = 'called_back' UNION
	SELECT batch_id FROM batch_jars WHERE place IN ('filled', 'cold_room', 'untold', 'returned'))
	ORDER BY s.state = 'called_back' DESC, s.last_day NULLS FIRST, b.id LIMIT ?

-- name: ready_batches
WHERE s.state = 'released' AND s.here > 0 AND s.sooner = '' AND s.barred = '' AND s.last_day >= ?::date AND b.formula_id = ?
	ORDER BY s.last_day, b.id LIMIT ?

-- name: listed_batches
WHERE b.id IN ? ORDER BY b.made_on DESC, b.id DESC

-- name: planned_batches
WHERE s.state = 'hold' AND NOT s.weighed ORDER BY b.made_on, b.id LIMIT ?

-- name: session
SELECT p.id, p.name, p.role, s.made_at, s.seen_at FROM sessions s JOIN people p ON p.id = s.person_id
	WHERE s.digest = ? AND s.ended_at IS NULL AND p.retired_at IS NULL
