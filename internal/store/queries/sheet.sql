-- A sheet with its shelf, its components and its heads in one exchange, and prices and locks as documents: each gram
-- that is typed reads them.

-- name: trials_counted
(SELECT count(*) FROM trials t WHERE t.formula_id = f.id AND t.retired_at IS NULL)

-- name: evidence_along
(SELECT json_agg(json_build_object('document', e.covers ||
		jsonb_build_object('id', e.id, 'kind', e.kind, 'title', e.title, 'days', e.days), 'withdrawn', e.withdrawn)
	ORDER BY e.attached_at DESC, e.id DESC) FROM evidence e WHERE e.formula_id = f.id)

-- name: with_trials
*, (SELECT count(*) FROM trials t WHERE t.formula_id = f.id AND t.retired_at IS NULL) AS trials,

-- name: current_versions
SELECT * FROM versions v WHERE number = (SELECT max(number) FROM versions n WHERE n.formula_id = v.formula_id)
	OR number = (SELECT max(number) FROM versions n WHERE n.formula_id = v.formula_id AND n.state = 'locked') ORDER BY formula_id, number

-- name: newest_locked
SELECT DISTINCT ON (v.formula_id) v.*, f.name FROM versions v JOIN formulas f ON f.id = v.formula_id
	WHERE v.state = 'locked' AND v.formula_id IN ? ORDER BY v.formula_id, v.number DESC

-- name: version_head
SELECT number AS version, state, came_from AS "from", note, locked_at, updated_at, updated_by FROM versions n

-- name: heads_as_json
SELECT to_json(h) FROM (

-- name: with_formula_name
*, (SELECT name FROM formulas WHERE formulas.id = versions.formula_id) AS name

-- name: draft_written
WITH written AS (UPDATE versions SET rev = ?, state = ?, data = ?, format = ?, updated_at = ?, updated_by = ?
		WHERE formula_id = ? AND number = ? AND rev = ? AND state = ? RETURNING number)
	INSERT INTO changes (at, by_whom, act, what, which, after) SELECT ?, ?, 'update', 'version', ?, ?::jsonb FROM written

-- name: locks_missing
SELECT v.formula_id AS formula, v.number AS version FROM versions v WHERE v.state = 'locked'
	AND NOT EXISTS (SELECT FROM version_locks l WHERE l.formula_id = v.formula_id AND l.number = v.number)
	ORDER BY v.locked_at, v.formula_id, v.number

-- name: locks_touched
WITH dated AS (
		SELECT b.formula_id, b.version AS number, string_agg(b.code, ', ' ORDER BY b.made_on, b.id) AS lots
		FROM batches b JOIN batch_standing s ON s.batch_id = b.id
		WHERE s.state = 'released' AND s.last_day >= ?::date GROUP BY 1, 2),
	used AS (SELECT formula_id, number FROM dated UNION
		(SELECT DISTINCT ON (v.formula_id) v.formula_id, v.number FROM versions v JOIN formulas f ON f.id = v.formula_id
		WHERE v.state = 'locked' AND NOT f.retired ORDER BY v.formula_id, v.number DESC))
	SELECT l.formula_id AS formula, l.number AS version, f.name, coalesce(dated.lots, '') AS lots
	FROM used JOIN version_locks l USING (formula_id, number) JOIN formulas f ON f.id = formula_id
	LEFT JOIN dated USING (formula_id, number)
	WHERE EXISTS (SELECT FROM jsonb_array_elements(l.data->'ingredients') was JOIN ingredients i ON i.id = was->>'id'
		CROSS JOIN unnest(ARRAY['flags', 'allergens', 'supplier_lists', 'label_names', 'sulphites_mg_kg']) AS part
		WHERE was->part IS DISTINCT FROM i.data->part)
	ORDER BY f.name, l.number

-- name: offers_along
(SELECT json_agg(

-- name: retired_offers
SELECT o.ingredient_id AS id, json_agg(

-- name: lot_costs
SELECT ingredient_id AS ingredient, sum(on_hand)::bigint AS there,
	(sum(on_hand * (facts->>'per_gram')::numeric) / sum(on_hand))::text AS per FROM lot_standing
	WHERE on_hand > 0 AND bar = '' AND ingredient_id IS NOT NULL AND facts->>'per_gram' IS NOT NULL
	GROUP BY ingredient_id

-- name: touch_ingredient
UPDATE ingredients SET rev = rev + 1, updated_at = now(), updated_by = ? WHERE id = ?

-- name: begun
WITH product AS (
		SELECT v.formula_id, f.name, v.number, v.data FROM versions v JOIN formulas f ON f.id = v.formula_id
		WHERE NOT f.retired AND jsonb_array_length(v.data -> 'lines') > 0
		ORDER BY v.updated_at DESC, v.formula_id, v.number DESC LIMIT 1),
	made AS (SELECT b.id FROM batches b JOIN product p ON p.formula_id = b.formula_id
		ORDER BY b.made_on DESC, b.id DESC LIMIT 1)
	SELECT p.formula_id AS formula, p.name, p.number AS version,
		EXISTS (SELECT FROM price_offers) AS priced,
		coalesce((SELECT l ->> 'ingredient' FROM jsonb_array_elements(p.data -> 'lines') l
			WHERE l ->> 'ingredient' <> 'water' AND NOT EXISTS (SELECT FROM price_offers o
				WHERE o.ingredient_id = l ->> 'ingredient') LIMIT 1), '') AS unpriced,
		coalesce((SELECT max(number) FROM versions v WHERE v.formula_id = p.formula_id AND v.state = 'locked'), 0)
			AS locked,
		coalesce((SELECT id FROM made), 0) AS batch,
		EXISTS (SELECT FROM batch_standing s JOIN made m ON m.id = s.batch_id WHERE s.state = 'released') AS released,
		coalesce((SELECT max(id) FROM labels l WHERE l.formula_id = p.formula_id), 0) AS label
	FROM product p

-- name: anything_printed
SELECT EXISTS (SELECT FROM batch_standing WHERE printed > 0)

-- name: settings_and_steps
SELECT 'shop' AS kind, '' AS id, rev AS number, '' AS name, '' AS state, data, format,
	NULL::json AS along FROM shops
	UNION ALL SELECT 'preparation', id, rev, '', '', data, format, NULL FROM preparations

-- name: components
WITH components AS (SELECT v.*, f.name FROM versions v JOIN formulas f ON f.id = v.formula_id
	WHERE (v.formula_id, v.number) IN ?)

-- name: component_rows
UNION ALL SELECT 'component', formula_id, number, name, state, data, format, NULL
	FROM components

-- name: theirs
UNION SELECT jsonb_path_query(data, '$.lines[*].ingredient') #>> '{}' FROM components

-- name: shelf_head
UNION ALL SELECT 'ingredient', id, 0, name, '', data, format,

-- name: shelf_tail
FROM ingredients
	WHERE id = ANY(ARRAY(SELECT id FROM ingredients WHERE id IN ?

-- name: sheet_head
UNION ALL SELECT 'sheet', v.formula_id, v.number, f.name, v.state, v.data, v.format,
	json_build_object('rev', v.rev, 'locked_at', v.locked_at, 'updated_at', v.updated_at, 'updated_by', v.updated_by,
		'created_at', f.created_at, 'created_by', f.created_by, 'retired', f.retired, 'batches', f.batches,
		'parent_formula', f.parent_formula, 'parent_version', f.parent_version,
		'made_in',

-- name: sheet_heads
,
	'heads', (SELECT json_agg(h ORDER BY h.version) FROM (

-- name: sheet_tail
WHERE n.formula_id = f.id) h))
	FROM versions v JOIN formulas f ON f.id = v.formula_id WHERE v.formula_id = ? AND v.number = ?
