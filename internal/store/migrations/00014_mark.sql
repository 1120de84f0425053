-- +goose Up
-- Who put which mark on the shop's labels is noted, by its digest: the picture itself stands in no note.
ALTER TABLE shop_marks RENAME COLUMN body TO content;
ALTER TABLE shop_marks ADD COLUMN sha256 text NOT NULL DEFAULT '';
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON shop_marks FOR EACH ROW EXECUTE FUNCTION gallipot_note('mark', 'id');
