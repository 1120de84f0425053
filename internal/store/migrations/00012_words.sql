-- +goose Up
-- What the shop has told the reader once and for all: what a name of its own means, what its tins and spoons hold.
CREATE TABLE shop_words (
    id bigserial PRIMARY KEY,
    kind text NOT NULL,
    words text NOT NULL,
    ingredient_id text,
    unit text NOT NULL,
    size text NOT NULL,
    grams double precision NOT NULL,
    ml double precision NOT NULL,
    fill text NOT NULL,
    created_at timestamptz NOT NULL,
    created_by text NOT NULL,
    retired_at timestamptz,
    retired_by text,
    retired_why text
);
CREATE INDEX shop_words_used ON shop_words (id) WHERE retired_at IS NULL;
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON shop_words FOR EACH ROW EXECUTE FUNCTION gallipot_note('word', 'words');
CREATE TRIGGER kept BEFORE DELETE ON shop_words FOR EACH ROW EXECUTE FUNCTION gallipot_refuse();
