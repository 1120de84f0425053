-- +goose Up
-- A journal from before reasons were noted; what is written below is noted with its reason.
ALTER TABLE changes ADD COLUMN IF NOT EXISTS why text;

-- What came in. A lot is a record of acts: what is known of it, who accepted it, what was counted, frozen and thawed.
CREATE TABLE deliveries (
    id bigserial PRIMARY KEY,
    supplier text NOT NULL,
    note text NOT NULL,
    day date NOT NULL,
    created_at timestamptz NOT NULL,
    created_by text NOT NULL
);
CREATE INDEX deliveries_note ON deliveries (lower(note), lower(supplier)) WHERE note <> '';
CREATE SEQUENCE lot_numbers START 1001;
CREATE TABLE lots (
    id bigserial PRIMARY KEY,
    code text NOT NULL UNIQUE,
    kind text NOT NULL CHECK (kind IN ('incoming', 'batch', 'part')),
    ingredient_id text REFERENCES ingredients (id),
    batch_id bigint REFERENCES batches (id),
    parent_id bigint REFERENCES lots (id),
    delivery_id bigint REFERENCES deliveries (id),
    created_at timestamptz NOT NULL DEFAULT now(),
    created_by text NOT NULL,
    CHECK (kind <> 'incoming' OR ingredient_id IS NOT NULL AND delivery_id IS NOT NULL),
    CHECK (kind <> 'batch' OR batch_id IS NOT NULL),
    CHECK (kind <> 'part' OR parent_id IS NOT NULL)
);
CREATE UNIQUE INDEX lots_batch ON lots (batch_id) WHERE kind = 'batch';
CREATE INDEX lots_ingredient ON lots (ingredient_id, id) WHERE ingredient_id IS NOT NULL;
CREATE INDEX lots_parent ON lots (parent_id) WHERE parent_id IS NOT NULL;
CREATE INDEX lots_delivery ON lots (delivery_id) WHERE delivery_id IS NOT NULL;
-- Every batch is a lot under its own code.
INSERT INTO lots (code, kind, batch_id, created_at, created_by) SELECT code, 'batch', id, created_at, created_by FROM batches ORDER BY id;

CREATE TABLE lot_entries (
    id bigserial PRIMARY KEY,
    lot_id bigint NOT NULL REFERENCES lots (id),
    seq integer NOT NULL,
    kind text NOT NULL,
    body jsonb NOT NULL,
    format integer NOT NULL,
    key text NOT NULL,
    digest bytea NOT NULL,
    at timestamptz NOT NULL,
    by_whom text NOT NULL,
    by_role text NOT NULL,
    UNIQUE (lot_id, seq),
    UNIQUE (lot_id, key)
);

-- What the records say, written with what it follows from, so that no list reads history anew. Grams are milligrams.
CREATE TABLE lot_standing (
    lot_id bigint PRIMARY KEY REFERENCES lots (id),
    ingredient_id text REFERENCES ingredients (id),
    formula_id text REFERENCES formulas (id),
    version integer,
    state text NOT NULL,
    bar text NOT NULL,
    differs boolean NOT NULL DEFAULT false,
    ends date,
    supplier text NOT NULL,
    said text NOT NULL, -- the supplier's own words for the lot
    received bigint NOT NULL,
    corrected bigint NOT NULL,
    thrown bigint NOT NULL,
    parted bigint NOT NULL,
    used bigint NOT NULL DEFAULT 0,
    on_hand bigint GENERATED ALWAYS AS (received + corrected - parted - used) STORED,
    per_gram double precision,
    facts jsonb NOT NULL
);
CREATE INDEX lot_standing_there ON lot_standing (ingredient_id, ends) WHERE on_hand <> 0 OR state = 'waiting';
CREATE INDEX lot_standing_component ON lot_standing (formula_id, version, ends) WHERE formula_id IS NOT NULL AND on_hand <> 0;
CREATE INDEX lot_standing_waiting ON lot_standing (lot_id) WHERE state = 'waiting' OR differs;
CREATE INDEX lot_standing_ends ON lot_standing (ends, lot_id) WHERE on_hand > 0;
CREATE INDEX lot_standing_said ON lot_standing (lower(said)) WHERE said <> '';
CREATE INDEX lot_standing_barred ON lot_standing (lot_id) WHERE state IN ('hold', 'refused') AND used > 0;

CREATE TABLE lot_draws (
    batch_id bigint NOT NULL REFERENCES batches (id),
    line text NOT NULL,
    lot_id bigint NOT NULL REFERENCES lots (id),
    entry_id bigint NOT NULL,
    grams bigint NOT NULL,
    part integer NOT NULL, -- of the line
    PRIMARY KEY (batch_id, line, part)
);
CREATE INDEX lot_draws_lot ON lot_draws (lot_id, batch_id);

-- The formulas that a version uses as components.
ALTER TABLE versions ADD COLUMN uses jsonb GENERATED ALWAYS AS (jsonb_path_query_array(data, '$.lines[*].component.formula')) STORED;
CREATE INDEX versions_using ON versions (formula_id) WHERE uses <> '[]';

-- Who has jars.
CREATE TABLE parties (
    id bigserial PRIMARY KEY,
    name text NOT NULL,
    kind text NOT NULL CHECK (kind IN ('customer', 'market')),
    contact text NOT NULL,
    day date,
    rev integer NOT NULL DEFAULT 1,
    retired_at timestamptz,
    retired_by text,
    retired_why text
);
CREATE UNIQUE INDEX parties_name ON parties (lower(name), coalesce(day, '0001-01-01'::date)) WHERE retired_at IS NULL;
CREATE TABLE batch_jars (
    batch_id bigint NOT NULL REFERENCES batches (id),
    place text NOT NULL,
    party_id bigint NOT NULL DEFAULT 0,
    party_name text NOT NULL,
    jars integer NOT NULL,
    since timestamptz NOT NULL,
    PRIMARY KEY (batch_id, place, party_id)
);
CREATE INDEX batch_jars_here ON batch_jars (batch_id) WHERE place IN ('filled', 'cold_room', 'untold', 'returned');
CREATE INDEX batch_jars_party ON batch_jars (party_id, batch_id) WHERE party_id > 0;
ALTER TABLE batch_standing ADD COLUMN weighed boolean NOT NULL DEFAULT false, ADD COLUMN here integer NOT NULL DEFAULT 0,
    -- what speaks against jars that were released, by their lots: an end before the one that was decided; one that may not be used
    ADD COLUMN sooner text NOT NULL DEFAULT '', ADD COLUMN barred text NOT NULL DEFAULT '';
CREATE INDEX batch_standing_sooner ON batch_standing (batch_id) WHERE sooner <> '';
CREATE INDEX batch_standing_planned ON batch_standing (batch_id) WHERE state = 'hold' AND NOT weighed;
CREATE INDEX batch_standing_ready ON batch_standing (last_day, batch_id) WHERE state = 'released' AND here > 0;
DELETE FROM batch_standing;

CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON deliveries FOR EACH ROW EXECUTE FUNCTION gallipot_note('delivery', 'id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON lots FOR EACH ROW EXECUTE FUNCTION gallipot_note('lot', 'id');
CREATE TRIGGER note AFTER INSERT ON lot_entries FOR EACH ROW EXECUTE FUNCTION gallipot_note('lot_entry', 'lot_id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON parties FOR EACH ROW EXECUTE FUNCTION gallipot_note('party', 'id');
CREATE TRIGGER lot_entries_append_only BEFORE UPDATE OR DELETE ON lot_entries FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER deliveries_append_only BEFORE UPDATE OR DELETE ON deliveries FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER lots_append_only BEFORE UPDATE OR DELETE ON lots FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER kept BEFORE DELETE ON parties FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
