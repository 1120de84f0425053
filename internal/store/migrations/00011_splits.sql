-- +goose Up
-- Batches that were filled from the bowl of another.
CREATE TABLE batch_splits (
    batch_id bigint PRIMARY KEY REFERENCES batches (id),
    bowl_id bigint NOT NULL REFERENCES batches (id)
);
CREATE INDEX batch_splits_bowl ON batch_splits (bowl_id);
CREATE TRIGGER kept BEFORE UPDATE OR DELETE ON batch_splits FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
