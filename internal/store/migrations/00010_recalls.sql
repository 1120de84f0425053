-- +goose Up
-- Looking for jars: drills and real recalls. What stands in the columns follows from the entries and is written with them.
CREATE TABLE recalls (
    id bigserial PRIMARY KEY,
    code text NOT NULL UNIQUE,
    mock boolean NOT NULL,
    title text NOT NULL,
    batches bigint[] NOT NULL,
    began_at timestamptz NOT NULL,
    told_at timestamptz,
    closed_at timestamptz,
    account jsonb NOT NULL
);
CREATE INDEX recalls_open ON recalls (id) WHERE closed_at IS NULL;

CREATE TABLE recall_entries (
    id bigserial PRIMARY KEY,
    recall_id bigint NOT NULL REFERENCES recalls (id),
    seq integer NOT NULL,
    kind text NOT NULL,
    body jsonb NOT NULL,
    format integer NOT NULL,
    key text NOT NULL,
    digest bytea NOT NULL,
    at timestamptz NOT NULL,
    by_whom text NOT NULL,
    by_role text NOT NULL,
    UNIQUE (recall_id, seq),
    UNIQUE (recall_id, key)
);
CREATE TRIGGER note AFTER INSERT ON recall_entries FOR EACH ROW EXECUTE FUNCTION gallipot_note('recall', 'recall_id');
CREATE TRIGGER recall_entries_append_only BEFORE UPDATE OR DELETE ON recall_entries FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER kept BEFORE DELETE ON recalls FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
-- Records are found by the day on which they were written.
CREATE INDEX changes_at ON changes USING brin (at);
