-- +goose Up
-- The book proves itself (handbook 12): every row of the journal is a link of a chain, whose digest covers the link before
-- it. What internal/store/chain.go reads again, by statements of its own, is written here.

-- What a note keeps of a row: its documents and secrets by their digest alone, and so whatever is long in a long row.
-- +goose StatementBegin
CREATE FUNCTION gallipot_short(doc jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
    SELECT coalesce(jsonb_object_agg(key, CASE
        WHEN key IN ('content', 'secret') OR octet_length(value::text) > 8192
            THEN jsonb_build_object('sha256', encode(sha256(convert_to(value::text, 'UTF8')), 'hex'))
        ELSE value END), '{}') FROM jsonb_each(doc)
$$;
-- +goose StatementEnd

-- The first argument says what the row is, the second which columns name it. Times are written in UTC, so that a row
-- reads the same whoever reads it.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION gallipot_note() RETURNS trigger LANGUAGE plpgsql SET timezone = 'UTC' AS $$
DECLARE
    beside CONSTANT text[] := '{rev,updated_at,updated_by,batches,came_from,digest,key}';
    most CONSTANT int := 65536;
    was jsonb;
    becomes jsonb;
    name text;
BEGIN
    IF coalesce(current_setting('gallipot.by', true), '') = '' THEN
        RAISE EXCEPTION 'nobody is named who writes into %', TG_TABLE_NAME USING ERRCODE = 'invalid_authorization_specification';
    END IF;
    IF TG_OP <> 'INSERT' THEN was := to_jsonb(OLD) - beside; END IF;
    IF TG_OP <> 'DELETE' THEN becomes := to_jsonb(NEW) - beside; END IF;
    IF was = becomes THEN RETURN NULL; END IF;
    name := coalesce(becomes, was)->>TG_ARGV[1];
    IF name IS NULL THEN
        SELECT string_agg(coalesce(becomes, was)->>c, '/' ORDER BY i) INTO name
            FROM unnest(string_to_array(TG_ARGV[1], ',')) WITH ORDINALITY x(c, i);
    END IF;
    IF was ?| '{content,secret}' OR pg_column_size(was) > most THEN was := gallipot_short(was); END IF;
    IF becomes ?| '{content,secret}' OR pg_column_size(becomes) > most THEN becomes := gallipot_short(becomes); END IF;
    INSERT INTO changes (at, by_whom, act, what, which, why, before, after)
        VALUES (coalesce(nullif(current_setting('gallipot.at', true), '')::timestamptz, now()),
            current_setting('gallipot.by', true), lower(TG_OP), TG_ARGV[0], name,
            nullif(current_setting('gallipot.why', true), ''), was, becomes);
    RETURN NULL;
END $$;
-- +goose StatementEnd

-- A link is a row of the journal, or a row of record that no line of the journal tells whole: what it is, and how it
-- stands.
CREATE TABLE chain (
    seq bigint PRIMARY KEY,
    change bigint,
    what text,
    kept jsonb,
    digest bytea NOT NULL,
    CHECK ((change IS NULL) = (what IS NOT NULL) AND (what IS NULL) = (kept IS NULL))
);

-- What is digested of a link, after the digest of the one before: numbers, texts with their lengths, and documents. JSON
-- holds no bare line break, so that no part can run into another. internal/store/journal_chain.go puts the same together.
-- +goose StatementBegin
CREATE FUNCTION gallipot_link_of(n bigint, c changes) RETURNS bytea LANGUAGE sql IMMUTABLE AS $$
    SELECT convert_to(n || ' ' || c.seq || ' ' || (extract(epoch FROM c.at) * 1000000)::bigint || E'\n'
        || octet_length(c.by_whom) || ' ' || c.by_whom || E'\n' || octet_length(c.act) || ' ' || c.act || E'\n'
        || octet_length(c.what) || ' ' || c.what || E'\n' || octet_length(c.which) || ' ' || c.which || E'\n'
        || coalesce(octet_length(c.why) || ' ' || c.why, '-') || E'\n'
        || coalesce(c.before::text, '') || E'\n' || coalesce(c.after::text, ''), 'UTF8')
$$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION gallipot_link_of(n bigint, what text, kept jsonb) RETURNS bytea LANGUAGE sql IMMUTABLE AS $$
    SELECT convert_to(n || E'\n' || octet_length(what) || ' ' || what || E'\n' || kept::text, 'UTF8')
$$;
-- +goose StatementEnd

-- A link is written last: at the commit, under one lock that is held until it is done, so that links stand in the order
-- of the commits. The application may not write into the chain; this function may, and names its table in full, whatever
-- path its caller searches. What it digests is gallipot_link_of, written out because a hand waits for it.
-- +goose StatementBegin
CREATE FUNCTION gallipot_link() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER AS $$
DECLARE
    n bigint;
    head bytea;
BEGIN
    PERFORM pg_advisory_xact_lock(4);
    SELECT seq + 1, digest INTO n, head FROM public.chain ORDER BY seq DESC LIMIT 1;
    INSERT INTO public.chain (seq, change, digest) VALUES (n, NEW.seq, sha256(head || convert_to(
        n || ' ' || NEW.seq || ' ' || (extract(epoch FROM NEW.at) * 1000000)::bigint || E'\n'
        || octet_length(NEW.by_whom) || ' ' || NEW.by_whom || E'\n' || octet_length(NEW.act) || ' ' || NEW.act || E'\n'
        || octet_length(NEW.what) || ' ' || NEW.what || E'\n' || octet_length(NEW.which) || ' ' || NEW.which || E'\n'
        || coalesce(octet_length(NEW.why) || ' ' || NEW.why, '-') || E'\n'
        || coalesce(NEW.before::text, '') || E'\n' || coalesce(NEW.after::text, ''), 'UTF8')));
    RETURN NULL;
END $$;
-- +goose StatementEnd
-- The first argument says what the row is, the second which columns follow from others and may change.
-- +goose StatementBegin
CREATE FUNCTION gallipot_link_row() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path FROM CURRENT SET timezone = 'UTC' AS $$
DECLARE
    doc jsonb := gallipot_short(to_jsonb(NEW) - string_to_array(TG_ARGV[1], ','));
    last record;
BEGIN
    PERFORM pg_advisory_xact_lock(4);
    SELECT seq, digest INTO last FROM chain ORDER BY seq DESC LIMIT 1;
    INSERT INTO chain (seq, what, kept, digest)
        VALUES (last.seq + 1, TG_ARGV[0], doc, sha256(last.digest || gallipot_link_of(last.seq + 1, TG_ARGV[0], doc)));
    RETURN NULL;
END $$;
-- +goose StatementEnd

-- A shop from before is chained once: its journal as it stands, then every row of record as it stands. From the link
-- "begun" on each link was written with what it tells.
-- +goose StatementBegin
DO $$
DECLARE
    beside CONSTANT text[] := '{rev,updated_at,updated_by,batches,came_from,digest,key}';
    n bigint := 0;
    head bytea := '';
    c changes;
    t record;
    doc jsonb;
BEGIN
    SET LOCAL timezone = 'UTC';
    FOR c IN SELECT * FROM changes ORDER BY seq LOOP
        n := n + 1;
        head := sha256(head || gallipot_link_of(n, c));
        INSERT INTO chain (seq, change, digest) VALUES (n, c.seq, head);
    END LOOP;
    FOR t IN SELECT * FROM (VALUES ('shop', 'shops', ''), ('person', 'people', ''), ('ingredient', 'ingredients', ''),
        ('price', 'price_offers', ''), ('measure', 'house_measures', ''), ('preparation', 'preparations', ''),
        ('formula', 'formulas', ''), ('version', 'versions', ''), ('trial', 'trials', ''), ('recipe', 'recipes', ''),
        ('batch', 'batches', ''), ('entry', 'batch_entries', ''), ('meter_check', 'meter_checks', ''),
        ('meter_look', 'meter_looks', ''), ('document', 'evidence', ''), ('label', 'labels', ''),
        ('delivery', 'deliveries', ''), ('lot', 'lots', ''), ('lot_entry', 'lot_entries', ''), ('party', 'parties', ''),
        ('allergen_change', 'allergen_changes', ''), ('vessel', 'vessels', ''), ('vessel_entry', 'vessel_entries', ''),
        ('recall', 'recall_entries', ''), ('word', 'shop_words', ''), ('mark', 'shop_marks', ''),
        ('price_way', 'price_ways', ''), ('lock', 'version_locks', ''), ('split', 'batch_splits', ''),
        ('search', 'recalls', 'told_at,closed_at,account,batches')) x(what, rows, follows) LOOP
        FOR doc IN EXECUTE format('SELECT gallipot_short(to_jsonb(r) - $1 - string_to_array($2, '','')) FROM %I r', t.rows)
                USING beside, t.follows LOOP
            n := n + 1;
            head := sha256(head || gallipot_link_of(n, t.what, doc));
            INSERT INTO chain (seq, what, kept, digest) VALUES (n, t.what, doc, head);
        END LOOP;
    END LOOP;
    n := n + 1;
    doc := jsonb_build_object('at', now(), 'changes', (SELECT count(*) FROM changes));
    INSERT INTO chain (seq, what, kept, digest) VALUES (n, 'begun', doc, sha256(head || gallipot_link_of(n, 'begun', doc)));
END $$;
-- +goose StatementEnd

CREATE CONSTRAINT TRIGGER link AFTER INSERT ON changes DEFERRABLE INITIALLY DEFERRED FOR EACH ROW EXECUTE FUNCTION gallipot_link();
CREATE CONSTRAINT TRIGGER link AFTER INSERT ON version_locks DEFERRABLE INITIALLY DEFERRED FOR EACH ROW
    EXECUTE FUNCTION gallipot_link_row('lock', '');
CREATE CONSTRAINT TRIGGER link AFTER INSERT ON batch_splits DEFERRABLE INITIALLY DEFERRED FOR EACH ROW
    EXECUTE FUNCTION gallipot_link_row('split', '');
CREATE CONSTRAINT TRIGGER link AFTER INSERT ON recalls DEFERRABLE INITIALLY DEFERRED FOR EACH ROW
    EXECUTE FUNCTION gallipot_link_row('search', 'told_at,closed_at,account,batches');
CREATE TRIGGER chain_append_only BEFORE UPDATE OR DELETE ON chain FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();

-- Nothing of record is emptied at once, by whoever has a slip.
-- +goose StatementBegin
DO $$
DECLARE
    t text;
BEGIN
    FOREACH t IN ARRAY '{shops,people,ingredients,price_offers,house_measures,preparations,formulas,versions,trials,recipes,
        batches,batch_entries,meter_checks,meter_looks,evidence,labels,deliveries,lots,lot_entries,parties,allergen_changes,
        vessels,vessel_entries,recalls,recall_entries,shop_words,shop_marks,price_ways,version_locks,batch_splits,changes,
        chain}'::text[] LOOP
        EXECUTE format('CREATE TRIGGER whole BEFORE TRUNCATE ON %I FOR EACH STATEMENT EXECUTE FUNCTION gallipot_refuse()', t);
    END LOOP;
END $$;
-- +goose StatementEnd

-- A key is bound to who sent it. A shop from before did not note who.
ALTER TABLE keys ADD COLUMN by_whom text NOT NULL DEFAULT '';

-- Backups that were made, so that the shop is told when the last one is old.
CREATE TABLE backups (
    id bigserial PRIMARY KEY,
    at timestamptz NOT NULL,
    by_whom text NOT NULL,
    file text NOT NULL,
    bytes bigint NOT NULL,
    seq bigint NOT NULL, -- of the link at its head
    digest text NOT NULL,
    sha256 text NOT NULL -- of the file
);
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON backups FOR EACH ROW EXECUTE FUNCTION gallipot_note('backup', 'id');
CREATE TRIGGER backups_append_only BEFORE UPDATE OR DELETE ON backups FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
