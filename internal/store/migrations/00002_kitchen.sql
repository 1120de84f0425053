-- +goose Up
ALTER TABLE formulas ADD COLUMN parent_formula text REFERENCES formulas (id), ADD COLUMN parent_version integer,
    ADD CONSTRAINT formulas_parent FOREIGN KEY (parent_formula, parent_version) REFERENCES versions (formula_id, number),
    ADD CONSTRAINT formulas_parent_whole CHECK ((parent_formula IS NULL) = (parent_version IS NULL)),
    ADD CONSTRAINT formulas_parent_other CHECK (parent_formula <> id);

-- The maker's words with what the maker answered; the reading itself is computed anew from the pantry of the day.
CREATE TABLE recipes (
    id bigserial PRIMARY KEY,
    rev integer NOT NULL DEFAULT 1,
    name text NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
    words text NOT NULL,
    answers jsonb NOT NULL,
    formula_id text REFERENCES formulas (id),
    version integer,
    updated_at timestamptz NOT NULL DEFAULT now(),
    updated_by text NOT NULL
);

CREATE TABLE house_measures (
    ingredient_id text NOT NULL REFERENCES ingredients (id),
    measure text NOT NULL,
    weighings jsonb NOT NULL,
    note text NOT NULL DEFAULT '',
    updated_at timestamptz NOT NULL DEFAULT now(),
    updated_by text NOT NULL,
    PRIMARY KEY (ingredient_id, measure)
);

-- The shop's own steps, and the typical ones that it changed or recorded yields for.
CREATE TABLE preparations (
    id text PRIMARY KEY,
    rev integer NOT NULL DEFAULT 1,
    data jsonb NOT NULL,
    updated_at timestamptz NOT NULL DEFAULT now(),
    updated_by text NOT NULL
);

CREATE TABLE trials (
    id bigserial PRIMARY KEY,
    rev integer NOT NULL DEFAULT 1,
    formula_id text NOT NULL REFERENCES formulas (id),
    made_on date NOT NULL,
    data jsonb NOT NULL,
    updated_at timestamptz NOT NULL DEFAULT now(),
    updated_by text NOT NULL
);
CREATE INDEX trials_formula ON trials (formula_id, made_on, id);

-- +goose Down
DROP TABLE trials, preparations, house_measures, recipes;
ALTER TABLE formulas DROP COLUMN parent_formula, DROP COLUMN parent_version;
