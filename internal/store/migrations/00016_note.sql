-- +goose Up
-- A note costs less: a document is measured as it lies in memory, without writing it out, and what is asked of every
-- row is asked once.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION gallipot_note() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    beside CONSTANT text[] := '{rev,format,updated_at,updated_by,batches,content,secret,came_from,note,digest,key}';
    most CONSTANT int := 65536;
    was jsonb;
    becomes jsonb;
    name text;
BEGIN
    IF coalesce(current_setting('gallipot.by', true), '') = '' THEN
        RAISE EXCEPTION 'nobody is named who writes into %', TG_TABLE_NAME USING ERRCODE = 'insufficient_privilege';
    END IF;
    IF TG_OP <> 'INSERT' THEN was := to_jsonb(OLD) - beside; END IF;
    IF TG_OP <> 'DELETE' THEN becomes := to_jsonb(NEW) - beside; END IF;
    IF was = becomes THEN RETURN NULL; END IF;
    name := coalesce(becomes, was)->>TG_ARGV[1];
    IF name IS NULL THEN
        SELECT string_agg(coalesce(becomes, was)->>c, '/' ORDER BY i) INTO name
            FROM unnest(string_to_array(TG_ARGV[1], ',')) WITH ORDINALITY x(c, i);
    END IF;
    IF pg_column_size(was) > most THEN was := gallipot_told(was); END IF;
    IF pg_column_size(becomes) > most THEN becomes := gallipot_told(becomes); END IF;
    INSERT INTO changes (at, by_whom, act, what, which, why, before, after)
        VALUES (coalesce(nullif(current_setting('gallipot.at', true), '')::timestamptz, now()),
            current_setting('gallipot.by', true), lower(TG_OP), TG_ARGV[0], name,
            nullif(current_setting('gallipot.why', true), ''), was, becomes);
    RETURN NULL;
END $$;
-- +goose StatementEnd
