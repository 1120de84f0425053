-- +goose Up
CREATE TABLE shops (
    id integer PRIMARY KEY CHECK (id = 1),
    rev integer NOT NULL DEFAULT 1,
    data jsonb NOT NULL,
    updated_at timestamptz NOT NULL DEFAULT now(),
    updated_by text NOT NULL
);

CREATE TABLE people (
    id bigserial PRIMARY KEY,
    name text NOT NULL UNIQUE CHECK (length(name) BETWEEN 1 AND 80),
    owner boolean NOT NULL DEFAULT false
);

CREATE TABLE ingredients (
    id text PRIMARY KEY,
    rev integer NOT NULL DEFAULT 1,
    name text NOT NULL,
    retired boolean NOT NULL DEFAULT false,
    data jsonb NOT NULL,
    updated_at timestamptz NOT NULL DEFAULT now(),
    updated_by text NOT NULL
);
-- Two ingredients of one name could not be told apart on a sheet.
CREATE UNIQUE INDEX ingredients_name ON ingredients (lower(name)) WHERE NOT retired;

CREATE TABLE price_offers (
    id bigserial PRIMARY KEY,
    ingredient_id text NOT NULL REFERENCES ingredients (id),
    supplier text NOT NULL,
    pack_amount numeric NOT NULL CHECK (pack_amount > 0),
    pack_unit text NOT NULL CHECK (pack_unit IN ('g', 'ml', 'piece')),
    price numeric NOT NULL CHECK (price >= 0),
    dated date NOT NULL,
    valid_until date,
    created_at timestamptz NOT NULL DEFAULT now(),
    created_by text NOT NULL
);
CREATE INDEX price_offers_ingredient ON price_offers (ingredient_id);

CREATE TABLE formulas (
    id text PRIMARY KEY,
    name text NOT NULL,
    retired boolean NOT NULL DEFAULT false,
    created_at timestamptz NOT NULL DEFAULT now(),
    created_by text NOT NULL
);
CREATE UNIQUE INDEX formulas_name ON formulas (lower(name)) WHERE NOT retired;

CREATE TABLE versions (
    formula_id text NOT NULL REFERENCES formulas (id),
    number integer NOT NULL CHECK (number > 0),
    rev integer NOT NULL DEFAULT 1,
    state text NOT NULL CHECK (state IN ('draft', 'locked')),
    data jsonb NOT NULL,
    locked_at timestamptz,
    updated_at timestamptz NOT NULL DEFAULT now(),
    updated_by text NOT NULL,
    PRIMARY KEY (formula_id, number)
);
CREATE UNIQUE INDEX versions_one_draft ON versions (formula_id) WHERE state = 'draft';

CREATE TABLE meter_checks (
    id bigserial PRIMARY KEY,
    meter text NOT NULL,
    mv4 double precision NOT NULL,
    mv7 double precision NOT NULL,
    celsius double precision NOT NULL,
    slope_percent double precision NOT NULL,
    accepted boolean NOT NULL,
    checked_at timestamptz NOT NULL,
    checked_by text NOT NULL,
    closing_ph double precision,
    closing_celsius double precision,
    closing_good boolean,
    closing_at timestamptz
);

CREATE TABLE batches (
    id bigserial PRIMARY KEY,
    code text NOT NULL UNIQUE,
    formula_id text NOT NULL,
    version integer NOT NULL,
    jars integer NOT NULL CHECK (jars > 0),
    made_on date NOT NULL,
    targets jsonb NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now(),
    created_by text NOT NULL,
    FOREIGN KEY (formula_id, version) REFERENCES versions (formula_id, number)
);

CREATE TABLE batch_entries (
    id bigserial PRIMARY KEY,
    batch_id bigint NOT NULL REFERENCES batches (id),
    kind text NOT NULL,
    body jsonb NOT NULL,
    key text NOT NULL UNIQUE,
    at timestamptz NOT NULL DEFAULT now(),
    by_whom text NOT NULL
);
CREATE INDEX batch_entries_batch ON batch_entries (batch_id, id);

CREATE TABLE evidence (
    id bigserial PRIMARY KEY,
    formula_id text NOT NULL REFERENCES formulas (id),
    kind text NOT NULL CHECK (kind IN ('authority', 'listeria_study', 'product_assessment', 'quality_study')),
    title text NOT NULL,
    days integer CHECK (days BETWEEN 1 AND 3650),
    file_name text NOT NULL,
    media_type text NOT NULL,
    content bytea NOT NULL,
    withdrawn boolean NOT NULL DEFAULT false,
    attached_at timestamptz NOT NULL DEFAULT now(),
    attached_by text NOT NULL
);

CREATE TABLE labels (
    id bigserial PRIMARY KEY,
    rev integer NOT NULL DEFAULT 1,
    formula_id text NOT NULL REFERENCES formulas (id),
    regime text NOT NULL CHECK (regime IN ('US', 'GB')),
    width_mm double precision NOT NULL,
    height_mm double precision NOT NULL,
    version integer NOT NULL,
    facts jsonb NOT NULL,
    updated_at timestamptz NOT NULL DEFAULT now(),
    updated_by text NOT NULL,
    UNIQUE (formula_id, regime),
    FOREIGN KEY (formula_id, version) REFERENCES versions (formula_id, number)
);

-- +goose StatementBegin
CREATE FUNCTION gallipot_refuse() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION '% is append-only', TG_TABLE_NAME USING ERRCODE = 'restrict_violation';
END $$;
-- +goose StatementEnd
-- A batch record is append-only, and a locked version never changes: also against a slip in this program.
CREATE TRIGGER batch_entries_append_only BEFORE UPDATE OR DELETE ON batch_entries FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER versions_locked BEFORE UPDATE OR DELETE ON versions FOR EACH ROW WHEN (OLD.state = 'locked') EXECUTE FUNCTION gallipot_refuse();

-- +goose Down
DROP TABLE labels, evidence, batch_entries, batches, meter_checks, versions, formulas, price_offers, ingredients, people, shops;
DROP FUNCTION gallipot_refuse;
