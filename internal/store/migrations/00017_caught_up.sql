-- +goose Up
-- For a day or two migrations were still written to after shops had run them: a shop from then lacks what came later
-- under the same number. Here each of them gets it; a shop that has it all is left as it is.
ALTER TABLE versions ALTER COLUMN data SET COMPRESSION lz4, ALTER COLUMN data SET STORAGE MAIN;

-- Of number 5.
-- +goose StatementBegin
DO $$
BEGIN
    IF NOT EXISTS (SELECT FROM information_schema.columns WHERE table_schema = current_schema AND table_name = 'evidence'
            AND column_name = 'covers') THEN
        ALTER TABLE evidence ADD COLUMN covers jsonb, ADD COLUMN attached_why text NOT NULL DEFAULT '',
            DROP CONSTRAINT IF EXISTS evidence_days_check;
        UPDATE evidence e SET covers = jsonb_build_object('versions', coalesce((SELECT jsonb_agg(v.number ORDER BY v.number)
            FROM versions v WHERE v.formula_id = e.formula_id), '[]')), days = least(days, 730);
        ALTER TABLE evidence ALTER COLUMN covers SET NOT NULL,
            ADD CONSTRAINT evidence_days_check CHECK (days BETWEEN 1 AND 730);
    END IF;
END $$;
-- +goose StatementEnd
ALTER TABLE evidence ADD COLUMN IF NOT EXISTS withdrawn_at timestamptz,
    ADD COLUMN IF NOT EXISTS withdrawn_by text NOT NULL DEFAULT '',
    ADD COLUMN IF NOT EXISTS withdrawn_why text NOT NULL DEFAULT '';
CREATE TABLE IF NOT EXISTS version_locks (
    formula_id text NOT NULL,
    number integer NOT NULL,
    data jsonb NOT NULL,
    format integer NOT NULL,
    at timestamptz NOT NULL,
    by_whom text NOT NULL,
    PRIMARY KEY (formula_id, number),
    FOREIGN KEY (formula_id, number) REFERENCES versions (formula_id, number)
);
DROP TRIGGER IF EXISTS version_locks_append_only ON version_locks;
CREATE TRIGGER version_locks_append_only BEFORE UPDATE OR DELETE ON version_locks FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
ALTER TABLE batch_standing ADD COLUMN IF NOT EXISTS by_whom text NOT NULL DEFAULT '';

-- Of number 6.
CREATE INDEX IF NOT EXISTS lots_ingredient ON lots (ingredient_id, id) WHERE ingredient_id IS NOT NULL;
ALTER TABLE batch_standing ADD COLUMN IF NOT EXISTS sooner text NOT NULL DEFAULT '',
    ADD COLUMN IF NOT EXISTS barred text NOT NULL DEFAULT '';
CREATE INDEX IF NOT EXISTS batch_standing_sooner ON batch_standing (batch_id) WHERE sooner <> '';

-- Of number 8.
DROP INDEX IF EXISTS batch_entries_pours;
CREATE INDEX batch_entries_pours ON batch_entries ((body->>'class'), id) WHERE kind = 'capture' AND body->>'stopped_g' IS NOT NULL;

-- Of number 15.
-- +goose StatementBegin
DO $$
BEGIN
    IF EXISTS (SELECT FROM information_schema.columns WHERE table_schema = current_schema AND table_name = 'price_ways'
            AND column_name = 'key') THEN
        ALTER TABLE price_ways RENAME COLUMN key TO shape;
    END IF;
END $$;
-- +goose StatementEnd
DROP TRIGGER IF EXISTS note ON price_ways;
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON price_ways FOR EACH ROW EXECUTE FUNCTION gallipot_note('price_way', 'shape');
