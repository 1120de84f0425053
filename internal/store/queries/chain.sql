-- How the book is read against itself, and what the application's role may do: tables by their names, rows as JSON. The
-- text of a link is put together here and not by a function of the database, which whoever writes the book anew could
-- have written anew too. Rows are written as PostgreSQL writes them as JSON, but column by column, which is twice as
-- fast.

-- name: reads_begin
BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY

-- name: snapshot_taken
SELECT pg_export_snapshot()

-- name: snapshot_shared
SET TRANSACTION SNAPSHOT

-- name: chain_begun
SELECT seq, (kept->>'at')::timestamptz FROM chain WHERE what = 'begun' ORDER BY seq LIMIT 1

-- name: chain_ends
SELECT seq, digest FROM chain ORDER BY seq DESC LIMIT 1

-- name: digest_of
SELECT digest FROM chain WHERE seq = $1

-- name: links
SELECT ch.seq, ch.digest, ch.change, c.seq, c.at, c.by_whom, c.act, coalesce(c.what, ch.what), c.which, c.why,
	c.before::text, coalesce(ch.kept, c.after)::text, {{key}},
	coalesce(c.what = 'version' AND c.act = 'update' AND c.before IS NULL OR ch.what = 'begun'
		OR ch.change IS NOT NULL AND ch.seq < $3, false)
	FROM chain ch LEFT JOIN changes c ON c.seq = ch.change WHERE ch.seq > $1 AND ch.seq <= $2 ORDER BY ch.seq

-- name: link_of_row
SELECT coalesce(c.what, ch.what), coalesce({{key}}, ''), coalesce(coalesce(ch.kept, c.after)->>'state', '')
	FROM chain ch LEFT JOIN changes c ON c.seq = ch.change WHERE ch.seq = $1

-- name: told_by_link
SELECT coalesce(ch.kept, c.after)::text FROM chain ch LEFT JOIN changes c ON c.seq = ch.change WHERE ch.seq = $1

-- name: count_changes
SELECT count(*) FROM changes

-- name: change_in_no_link
SELECT min(seq) FROM changes c
	WHERE NOT EXISTS (SELECT FROM (SELECT change FROM chain WHERE change IS NOT NULL OFFSET 0) ch WHERE ch.change = c.seq)

-- name: columns_of
SELECT attname::text, format_type(atttypid, NULL) FROM pg_attribute
	WHERE attrelid = $1::text::regclass AND attnum > 0 AND NOT attisdropped
	AND attname <> ALL (('{rev,updated_at,updated_by,batches,came_from,digest,key}'::text[]) || $2::text[])
	ORDER BY octet_length(attname), attname COLLATE "C"

-- name: rows_of_record
SELECT {{key}}, {{row}} FROM {{table}} t WHERE {{where}} AND t.ctid >= $1::text::tid AND t.ctid < $2::text::tid

-- name: blocks_of
SELECT pg_relation_size($1::text::regclass) / 8192

-- name: grants
SELECT pg_advisory_xact_lock(5);
REVOKE ALL ON ALL TABLES IN SCHEMA public FROM {{role}};
GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO {{role}};
GRANT SELECT ON {{looked}} TO {{role}};
GRANT SELECT, INSERT ON {{appended}} TO {{role}};
GRANT SELECT, INSERT, UPDATE ON {{changed}} TO {{role}};
GRANT SELECT, INSERT, UPDATE, DELETE ON {{free}} TO {{role}};
-- Rows of batches are locked while their record is written to, which asks for the right to change some column.
GRANT SELECT, INSERT, UPDATE (id) ON batches TO {{role}};

-- name: privileges
SELECT relname::text, CASE relkind WHEN 'S' THEN CASE WHEN has_sequence_privilege($1, oid, 'USAGE') THEN '' ELSE '-' END
	ELSE concat(CASE WHEN has_table_privilege($1, oid, 'SELECT') THEN 'S' END,
		CASE WHEN has_table_privilege($1, oid, 'INSERT') THEN 'I' END,
		CASE WHEN has_table_privilege($1, oid, 'UPDATE') THEN 'U' END,
		CASE WHEN has_table_privilege($1, oid, 'DELETE') THEN 'D' END,
		CASE WHEN has_table_privilege($1, oid, 'TRUNCATE, REFERENCES, TRIGGER') THEN '-' END,
		CASE WHEN relname = 'batches' AND NOT has_column_privilege($1, oid, 'id', 'UPDATE') THEN '-' END) END
	FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relkind IN ('r', 'S')

-- name: may_rewrite
SELECT current_user::text AS role, (SELECT rolsuper FROM pg_roles WHERE rolname = current_user) AS super,
	bool_or(pg_has_role(c.relowner, 'USAGE')) AS owner,
	bool_or(has_table_privilege(c.oid, 'UPDATE, DELETE, TRUNCATE, TRIGGER')) AS change
	FROM pg_class c WHERE c.relnamespace = 'public'::regnamespace AND c.relname IN ?

-- name: tables_version
SELECT max(version_id) FROM goose_db_version WHERE is_applied

-- name: tables_there
SELECT relname::text FROM pg_class WHERE relkind = 'r' AND relnamespace = 'public'::regnamespace ORDER BY 1

-- name: count_rows
SELECT count(*) FROM {{table}}

-- name: emptied
DROP SCHEMA public CASCADE; CREATE SCHEMA public; GRANT USAGE ON SCHEMA public TO PUBLIC

-- name: begun_at
SELECT (kept->>'at')::timestamptz FROM chain WHERE what = 'begun' ORDER BY seq LIMIT 1
