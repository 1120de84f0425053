-- +goose Up
-- Of most rows one column says which it is: it is taken as it stands.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION gallipot_note() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    who text := nullif(current_setting('gallipot.by', true), '');
    beside CONSTANT text[] := '{rev,format,updated_at,updated_by,batches,content,secret,came_from,note,digest,key}';
    was jsonb;
    becomes jsonb;
    name text;
BEGIN
    IF who IS NULL THEN
        RAISE EXCEPTION 'nobody is named who writes into %', TG_TABLE_NAME USING ERRCODE = 'insufficient_privilege';
    END IF;
    IF TG_OP <> 'INSERT' THEN was := to_jsonb(OLD) - beside; END IF;
    IF TG_OP <> 'DELETE' THEN becomes := to_jsonb(NEW) - beside; END IF;
    IF was = becomes THEN RETURN NULL; END IF;
    IF strpos(TG_ARGV[1], ',') = 0 THEN
        name := coalesce(becomes, was)->>TG_ARGV[1];
    ELSE
        SELECT string_agg(coalesce(becomes, was)->>c, '/' ORDER BY i) INTO name
            FROM unnest(string_to_array(TG_ARGV[1], ',')) WITH ORDINALITY x(c, i);
    END IF;
    INSERT INTO changes (at, by_whom, act, what, which, why, before, after)
        VALUES (coalesce(nullif(current_setting('gallipot.at', true), '')::timestamptz, now()), who, lower(TG_OP),
            TG_ARGV[0], name, nullif(current_setting('gallipot.why', true), ''), gallipot_told(was), gallipot_told(becomes));
    RETURN NULL;
END $$;
-- +goose StatementEnd
