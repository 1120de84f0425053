-- +goose Up
-- Acts by which ingredients gained or lost allergens or flags of hazard, with all that each touched on the day.
CREATE TABLE allergen_changes (
    id bigserial PRIMARY KEY,
    at timestamptz NOT NULL,
    by_whom text NOT NULL,
    reason text NOT NULL,
    gained boolean NOT NULL, -- an allergen: labels and batches are to be dealt with
    what jsonb NOT NULL,
    format integer NOT NULL
);
CREATE INDEX allergen_changes_gained ON allergen_changes (id) WHERE gained;

-- Vessels that products share, and what was in them in turn.
CREATE TABLE vessels (
    id bigserial PRIMARY KEY,
    name text NOT NULL,
    rev integer NOT NULL DEFAULT 1,
    retired_at timestamptz,
    retired_by text,
    retired_why text
);
CREATE UNIQUE INDEX vessels_name ON vessels (lower(name)) WHERE retired_at IS NULL;
CREATE TABLE vessel_entries (
    id bigserial PRIMARY KEY,
    vessel_id bigint NOT NULL REFERENCES vessels (id),
    kind text NOT NULL CHECK (kind IN ('used', 'cleaned')),
    batch_id bigint REFERENCES batches (id),
    what text NOT NULL, -- what was in it, or how it was cleaned
    allergens jsonb NOT NULL, -- by law, of what was in it
    happened_at timestamptz NOT NULL,
    entered_at timestamptz NOT NULL,
    by_whom text NOT NULL
);
CREATE INDEX vessel_entries_turn ON vessel_entries (vessel_id, happened_at, id);
CREATE INDEX vessel_entries_batch ON vessel_entries (batch_id) WHERE batch_id IS NOT NULL;

ALTER TABLE batch_standing ADD COLUMN words text NOT NULL DEFAULT ''; -- what the words of jars that are out lack
CREATE INDEX batch_standing_words ON batch_standing (batch_id) WHERE words <> '';
DELETE FROM batch_standing;

-- Typical single foods that nobody touched count as looked at; all else is open until somebody looks.
UPDATE ingredients SET data = jsonb_set(data, '{looked}', jsonb_build_object('by', 'Gallipot', 'on', '',
    'from', 'typical data: a single plain food',
    'texts', name || ' ; ' || (data->'label_names'->>'gb') || ' ; ' || (data->'label_names'->>'us') || ' ; '))
WHERE rev = 1 AND format = 2 AND (data->>'typical')::boolean AND NOT data->'flags' ? 'compound'
    AND coalesce(data->'supplier_lists', '{}') = '{}' AND data->'label_names'->>'gb' <> '' AND data->'label_names'->>'us' <> '';

-- What garlic is cooked in is named by what it is; its list follows from the step that makes it.
UPDATE ingredients SET data = jsonb_set(data, '{label_names}', '{"gb": "garlic-infused olive oil", "us": "garlic-infused olive oil"}')
WHERE id = 'garlic_infused_oil' AND data->'label_names'->>'gb' = 'olive oil, garlic';
UPDATE ingredients SET data = jsonb_set(data, '{label_names}', '{"gb": "confit garlic", "us": "confit garlic"}')
WHERE id = 'garlic_confit' AND data->'label_names'->>'gb' = 'garlic';

CREATE TRIGGER note AFTER INSERT ON allergen_changes FOR EACH ROW EXECUTE FUNCTION gallipot_note('allergen_change', 'id');
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON vessels FOR EACH ROW EXECUTE FUNCTION gallipot_note('vessel', 'id');
CREATE TRIGGER note AFTER INSERT ON vessel_entries FOR EACH ROW EXECUTE FUNCTION gallipot_note('vessel_entry', 'vessel_id');
CREATE TRIGGER allergen_changes_append_only BEFORE UPDATE OR DELETE ON allergen_changes FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER vessel_entries_append_only BEFORE UPDATE OR DELETE ON vessel_entries FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
CREATE TRIGGER kept BEFORE DELETE ON vessels FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
