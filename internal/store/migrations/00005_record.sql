-- +goose Up
-- People have roles, sign in, and are retired, never taken out.
ALTER TABLE people ADD COLUMN role text, ADD COLUMN secret text NOT NULL DEFAULT '', ADD COLUMN secret_at timestamptz,
    ADD COLUMN retired_at timestamptz, ADD COLUMN retired_why text NOT NULL DEFAULT '';
UPDATE people SET role = CASE WHEN owner THEN 'owner' ELSE 'maker' END;
ALTER TABLE people ALTER COLUMN role SET NOT NULL, ADD CONSTRAINT people_role CHECK (role IN ('helper', 'maker', 'owner')), DROP COLUMN owner;

CREATE TABLE sessions (
    digest bytea PRIMARY KEY,
    person_id bigint NOT NULL REFERENCES people (id),
    made_at timestamptz NOT NULL,
    seen_at timestamptz NOT NULL,
    ended_at timestamptz
);
CREATE INDEX sessions_person ON sessions (person_id) WHERE ended_at IS NULL;
-- Wrong tries are counted here, under a lock of their own, so that guesses at once count one by one.
CREATE TABLE sign_in_tries (
    person_id bigint PRIMARY KEY REFERENCES people (id),
    tries integer NOT NULL DEFAULT 0,
    wait_until timestamptz
);
-- An address that signs in once.
CREATE TABLE single_sign_ins (
    digest bytea PRIMARY KEY,
    person_id bigint NOT NULL REFERENCES people (id),
    made_at timestamptz NOT NULL,
    used_at timestamptz
);

-- What was thrown away stays, with who did it and why.
ALTER TABLE price_offers ADD COLUMN retired_at timestamptz, ADD COLUMN retired_by text, ADD COLUMN retired_why text;
ALTER TABLE recipes ADD COLUMN retired_at timestamptz, ADD COLUMN retired_by text, ADD COLUMN retired_why text;
ALTER TABLE trials ADD COLUMN retired_at timestamptz, ADD COLUMN retired_by text, ADD COLUMN retired_why text;
ALTER TABLE house_measures ADD COLUMN retired_at timestamptz, ADD COLUMN retired_by text, ADD COLUMN retired_why text;
-- What a document covers. One from before names the versions that were there; one of safety that says no pH counts for nothing.
ALTER TABLE evidence ADD COLUMN covers jsonb, ADD COLUMN attached_why text NOT NULL DEFAULT '', DROP CONSTRAINT evidence_days_check;
UPDATE evidence e SET covers = jsonb_build_object('versions', coalesce((SELECT jsonb_agg(v.number ORDER BY v.number) FROM versions v WHERE v.formula_id = e.formula_id), '[]')),
    days = least(days, 730);
ALTER TABLE evidence ALTER COLUMN covers SET NOT NULL, ADD CONSTRAINT evidence_days_check CHECK (days BETWEEN 1 AND 730);
ALTER TABLE evidence ADD COLUMN withdrawn_at timestamptz, ADD COLUMN withdrawn_by text NOT NULL DEFAULT '', ADD COLUMN withdrawn_why text NOT NULL DEFAULT '';
DROP INDEX price_offers_once;
CREATE UNIQUE INDEX price_offers_once ON price_offers (ingredient_id, supplier, pack_amount, pack_unit, price, dated, valid_until) NULLS NOT DISTINCT
    WHERE retired_at IS NULL;

-- Meters: every check and closing look is an event with its place in the order of entry, which batch entries share.
ALTER TABLE batch_entries ADD COLUMN by_role text NOT NULL DEFAULT '';
ALTER TABLE meter_checks ADD COLUMN turn bigint, ADD COLUMN entered_at timestamptz,
    ADD COLUMN ph4 double precision, ADD COLUMN ph7 double precision,
    ALTER COLUMN mv4 DROP NOT NULL, ALTER COLUMN mv7 DROP NOT NULL, ALTER COLUMN slope_percent DROP NOT NULL;
UPDATE meter_checks c SET entered_at = checked_at, turn = coalesce((SELECT min(e.id) - 1 FROM batch_entries e WHERE e.kind = 'reading'
    AND coalesce(e.body->>'meter_check', e.body->'reading'->>'meter_check') = c.id::text), nextval('batch_entries_id_seq'));
ALTER TABLE meter_checks ALTER COLUMN turn SET NOT NULL, ALTER COLUMN turn SET DEFAULT nextval('batch_entries_id_seq'),
    ALTER COLUMN entered_at SET NOT NULL;
CREATE INDEX meter_checks_meter ON meter_checks (meter, checked_at);
CREATE TABLE meter_looks (
    id bigserial PRIMARY KEY,
    turn bigint NOT NULL DEFAULT nextval('batch_entries_id_seq'),
    check_id bigint NOT NULL REFERENCES meter_checks (id),
    ph double precision NOT NULL,
    celsius double precision NOT NULL,
    good boolean NOT NULL,
    looked_at timestamptz NOT NULL,
    looked_by text NOT NULL
);
CREATE INDEX meter_looks_check ON meter_looks (check_id);
-- A look of before counted for every reading of its check, whatever the clocks said.
INSERT INTO meter_looks (turn, check_id, ph, celsius, good, looked_at, looked_by)
    SELECT coalesce((SELECT max(e.id) + 1 FROM batch_entries e WHERE e.kind = 'reading'
        AND coalesce(e.body->>'meter_check', e.body->'reading'->>'meter_check') = c.id::text), c.turn + 1),
        c.id, c.closing_ph, c.closing_celsius, c.closing_good, greatest(c.closing_at,
            (SELECT max(coalesce(e.body->>'at', e.body->'reading'->>'at')::timestamptz) FROM batch_entries e WHERE e.kind = 'reading'
            AND coalesce(e.body->>'meter_check', e.body->'reading'->>'meter_check') = c.id::text)), c.checked_by
    FROM meter_checks c WHERE c.closing_at IS NOT NULL;
ALTER TABLE meter_checks DROP COLUMN closing_ph, DROP COLUMN closing_celsius, DROP COLUMN closing_good, DROP COLUMN closing_at;

-- The one door: every write knows its person and is noted here.
CREATE TABLE changes (
    seq bigserial PRIMARY KEY,
    at timestamptz NOT NULL,
    by_whom text NOT NULL CHECK (by_whom <> ''),
    act text NOT NULL,
    what text NOT NULL,
    which text NOT NULL,
    why text,
    before jsonb,
    after jsonb
);
CREATE INDEX changes_of ON changes (what, which, seq);

-- +goose StatementBegin
CREATE FUNCTION gallipot_told(doc jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
    SELECT CASE WHEN octet_length(doc::text) > 65536
        THEN jsonb_build_object('digest', encode(sha256(convert_to(doc::text, 'UTF8')), 'hex')) ELSE doc END
$$;
-- +goose StatementEnd
-- +goose StatementBegin
-- The first argument says what the row is, the second which columns name it.
CREATE FUNCTION gallipot_note() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    who text := nullif(current_setting('gallipot.by', true), '');
    moment timestamptz := coalesce(nullif(current_setting('gallipot.at', true), '')::timestamptz, now());
    beside text[] := '{rev,format,updated_at,updated_by,batches,content,secret,came_from,note,digest,key}';
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
    SELECT string_agg(coalesce(becomes, was)->>c, '/' ORDER BY i) INTO name FROM unnest(string_to_array(TG_ARGV[1], ',')) WITH ORDINALITY x(c, i);
    INSERT INTO changes (at, by_whom, act, what, which, why, before, after)
        VALUES (moment, who, lower(TG_OP), TG_ARGV[0], name, nullif(current_setting('gallipot.why', true), ''), gallipot_told(was), gallipot_told(becomes));
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON shops FOR EACH ROW EXECUTE FUNCTION gallipot_note('shop', 'id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON people FOR EACH ROW EXECUTE FUNCTION gallipot_note('person', 'id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON ingredients FOR EACH ROW EXECUTE FUNCTION gallipot_note('ingredient', 'id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON price_offers FOR EACH ROW EXECUTE FUNCTION gallipot_note('price', 'ingredient_id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON house_measures FOR EACH ROW EXECUTE FUNCTION gallipot_note('measure', 'ingredient_id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON preparations FOR EACH ROW EXECUTE FUNCTION gallipot_note('preparation', 'id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON formulas FOR EACH ROW EXECUTE FUNCTION gallipot_note('formula', 'id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON trials FOR EACH ROW EXECUTE FUNCTION gallipot_note('trial', 'formula_id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON recipes FOR EACH ROW EXECUTE FUNCTION gallipot_note('recipe', 'id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON batches FOR EACH ROW EXECUTE FUNCTION gallipot_note('batch', 'id');
CREATE TRIGGER note AFTER INSERT ON batch_entries FOR EACH ROW EXECUTE FUNCTION gallipot_note('entry', 'batch_id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON meter_checks FOR EACH ROW EXECUTE FUNCTION gallipot_note('meter_check', 'id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON meter_looks FOR EACH ROW EXECUTE FUNCTION gallipot_note('meter_look', 'check_id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON evidence FOR EACH ROW EXECUTE FUNCTION gallipot_note('document', 'formula_id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON labels FOR EACH ROW EXECUTE FUNCTION gallipot_note('label', 'id');
-- A draft is written on every typed gram: the statement that writes it notes what it changed.
CREATE TRIGGER note AFTER INSERT OR DELETE ON versions FOR EACH ROW EXECUTE FUNCTION gallipot_note('version', 'formula_id,number');
CREATE TRIGGER note_locked AFTER UPDATE ON versions FOR EACH ROW WHEN (NEW.state = 'locked') EXECUTE FUNCTION gallipot_note('version', 'formula_id,number');

-- Nothing of record is deleted, and what happened does not change.
CREATE TRIGGER changes_append_only BEFORE UPDATE OR DELETE ON changes FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER meter_checks_append_only BEFORE UPDATE OR DELETE ON meter_checks FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER meter_looks_append_only BEFORE UPDATE OR DELETE ON meter_looks FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER kept BEFORE DELETE ON people FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER kept BEFORE DELETE ON price_offers FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER kept BEFORE DELETE ON house_measures FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER kept BEFORE DELETE ON trials FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER kept BEFORE DELETE ON recipes FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER kept BEFORE DELETE ON evidence FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER kept BEFORE DELETE ON labels FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER kept BEFORE DELETE ON batches FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER kept BEFORE DELETE ON ingredients FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER kept BEFORE DELETE ON formulas FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();

-- What a version rested on when it was locked: what it was made of, rules, documents, verdicts, words.
CREATE TABLE version_locks (
    formula_id text NOT NULL,
    number integer NOT NULL,
    data jsonb NOT NULL,
    format integer NOT NULL,
    at timestamptz NOT NULL,
    by_whom text NOT NULL,
    PRIMARY KEY (formula_id, number),
    FOREIGN KEY (formula_id, number) REFERENCES versions (formula_id, number)
);
CREATE TRIGGER version_locks_append_only BEFORE UPDATE OR DELETE ON version_locks FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();

-- Where a batch stands, with what calls it back and when an early release runs out.
ALTER TABLE batch_standing DROP COLUMN call_back, ADD COLUMN runs_out timestamptz, ADD COLUMN printed integer NOT NULL DEFAULT 0,
    ADD COLUMN jars_out boolean NOT NULL DEFAULT false, ADD COLUMN recalled text NOT NULL DEFAULT '', ADD COLUMN by_whom text NOT NULL DEFAULT '';
CREATE INDEX batch_standing_open ON batch_standing (batch_id) WHERE state IN ('hold', 'called_back') OR equilibrium_open;
CREATE INDEX batch_standing_runs_out ON batch_standing (runs_out) WHERE state = 'released' AND runs_out IS NOT NULL;
DELETE FROM batch_standing;
