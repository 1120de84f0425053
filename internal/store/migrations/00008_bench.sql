-- +goose Up
-- What a vessel works with, in milligrams; 0: nobody said.
ALTER TABLE vessels
    ADD COLUMN least_mg bigint NOT NULL DEFAULT 0 CHECK (least_mg >= 0),
    ADD COLUMN greatest_mg bigint NOT NULL DEFAULT 0 CHECK (greatest_mg >= 0),
    ADD COLUMN residue_mg bigint NOT NULL DEFAULT 0 CHECK (residue_mg >= 0);

-- How a batch was planned to be made: vessel, scales, loads, errands. NULL: from before loads were kept.
ALTER TABLE batches ADD COLUMN planned jsonb;

-- The last pours of a class, for how far they run on.
CREATE INDEX batch_entries_pours ON batch_entries ((body->>'class'), id) WHERE kind = 'capture' AND body->>'stopped_g' IS NOT NULL;

