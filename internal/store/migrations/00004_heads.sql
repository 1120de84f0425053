-- +goose Up
-- What lists of versions tell of each, so that no list opens the documents.
ALTER TABLE versions
    ADD COLUMN came_from integer GENERATED ALWAYS AS (coalesce((data->>'from')::integer, 0)) STORED,
    ADD COLUMN note text GENERATED ALWAYS AS (coalesce(data->>'note', '')) STORED;
-- A version is written anew on every typed gram: kept in its row, it costs no second table.
ALTER TABLE versions ALTER COLUMN data SET COMPRESSION lz4, ALTER COLUMN data SET STORAGE MAIN;
