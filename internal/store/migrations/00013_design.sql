-- +goose Up
-- How a label looks and what its maker decided about it; the shop's mark; which place of a sheet is free next.
ALTER TABLE labels ADD COLUMN design jsonb NOT NULL DEFAULT '{}';
CREATE TABLE shop_marks (
    id smallint PRIMARY KEY CHECK (id = 1),
    kind text NOT NULL CHECK (kind IN ('svg', 'png')),
    body bytea NOT NULL,
    updated_at timestamptz NOT NULL,
    updated_by text NOT NULL
);
CREATE INDEX batch_entries_printed ON batch_entries ((body ->> 'stock'), id DESC) WHERE kind = 'print';
