-- +goose Up
-- Stored documents say which format they are in; what is there was written in the first.
ALTER TABLE shops ADD COLUMN format integer NOT NULL DEFAULT 1;
ALTER TABLE ingredients ADD COLUMN format integer NOT NULL DEFAULT 1;
ALTER TABLE versions ADD COLUMN format integer NOT NULL DEFAULT 1;
ALTER TABLE recipes ADD COLUMN format integer NOT NULL DEFAULT 1;
ALTER TABLE house_measures ADD COLUMN format integer NOT NULL DEFAULT 1;
ALTER TABLE preparations ADD COLUMN format integer NOT NULL DEFAULT 1;
ALTER TABLE trials ADD COLUMN format integer NOT NULL DEFAULT 1;
ALTER TABLE batches ADD COLUMN format integer NOT NULL DEFAULT 1;
ALTER TABLE labels ADD COLUMN format integer NOT NULL DEFAULT 1;

-- Which laws there are is told by the program, so that a country is no migration.
ALTER TABLE labels DROP CONSTRAINT labels_regime_check;

-- Entries count within their batch, say when the hand wrote them, and know what their key stood for.
ALTER TABLE batch_entries DISABLE TRIGGER batch_entries_append_only;
ALTER TABLE batch_entries ADD COLUMN format integer NOT NULL DEFAULT 1, ADD COLUMN seq integer, ADD COLUMN client_at timestamptz,
    ADD COLUMN digest bytea NOT NULL DEFAULT '';
UPDATE batch_entries e SET seq = n.seq FROM (SELECT id, row_number() OVER (PARTITION BY batch_id ORDER BY id) AS seq FROM batch_entries) n WHERE n.id = e.id;
ALTER TABLE batch_entries ALTER COLUMN seq SET NOT NULL, ADD CONSTRAINT batch_entries_seq UNIQUE (batch_id, seq);
ALTER TABLE batch_entries ENABLE TRIGGER batch_entries_append_only;
DROP INDEX batch_entries_batch;
CREATE INDEX batch_entries_meter ON batch_entries (coalesce(body->>'meter_check', body->'reading'->>'meter_check')) WHERE kind = 'reading';

-- Where a batch stands, written with what it follows from, so that no list judges history anew.
CREATE TABLE batch_standing (
    batch_id bigint PRIMARY KEY REFERENCES batches (id),
    state text NOT NULL,
    jars integer NOT NULL,
    value double precision,
    ph_target double precision NOT NULL,
    ph_limit double precision NOT NULL,
    outcome text NOT NULL,
    sentence text NOT NULL,
    waits jsonb NOT NULL,
    due timestamptz,
    equilibrium_open boolean NOT NULL,
    call_back boolean NOT NULL,
    last_day date,
    date_kind text NOT NULL
);
CREATE INDEX batch_standing_attention ON batch_standing (batch_id) WHERE state = 'hold' OR call_back OR equilibrium_open;
CREATE INDEX batch_standing_days ON batch_standing (last_day, batch_id) WHERE state = 'released';
CREATE INDEX batches_newest ON batches (made_on DESC, id DESC);
CREATE INDEX batches_of_formula ON batches (formula_id, made_on DESC, id DESC);
CREATE INDEX recipes_newest ON recipes (updated_at DESC, id DESC);
ALTER TABLE formulas ADD COLUMN batches integer NOT NULL DEFAULT 0;
UPDATE formulas f SET batches = (SELECT count(*) FROM batches b WHERE b.formula_id = f.id);

-- What was made under a key, so that sending twice makes it once.
CREATE TABLE keys (
    key text PRIMARY KEY CHECK (length(key) BETWEEN 1 AND 100),
    operation text NOT NULL,
    digest bytea NOT NULL,
    answer jsonb NOT NULL,
    at timestamptz NOT NULL DEFAULT now()
);

-- The same offer twice is one offer.
DELETE FROM price_offers a USING price_offers b WHERE a.id > b.id AND a.ingredient_id = b.ingredient_id AND a.supplier = b.supplier
    AND a.pack_amount = b.pack_amount AND a.pack_unit = b.pack_unit AND a.price = b.price AND a.dated = b.dated AND a.valid_until IS NOT DISTINCT FROM b.valid_until;
CREATE UNIQUE INDEX price_offers_once ON price_offers (ingredient_id, supplier, pack_amount, pack_unit, price, dated, valid_until) NULLS NOT DISTINCT;

-- +goose Down
DROP INDEX price_offers_once, batch_entries_meter, batches_newest, batches_of_formula, recipes_newest;
DROP TABLE keys, batch_standing;
ALTER TABLE formulas DROP COLUMN batches;
CREATE INDEX batch_entries_batch ON batch_entries (batch_id, id);
ALTER TABLE batch_entries DROP COLUMN format, DROP COLUMN seq, DROP COLUMN client_at, DROP COLUMN digest;
ALTER TABLE labels ADD CONSTRAINT labels_regime_check CHECK (regime IN ('US', 'GB'));
ALTER TABLE shops DROP COLUMN format;
ALTER TABLE ingredients DROP COLUMN format;
ALTER TABLE versions DROP COLUMN format;
ALTER TABLE recipes DROP COLUMN format;
ALTER TABLE house_measures DROP COLUMN format;
ALTER TABLE preparations DROP COLUMN format;
ALTER TABLE trials DROP COLUMN format;
ALTER TABLE batches DROP COLUMN format;
ALTER TABLE labels DROP COLUMN format;
