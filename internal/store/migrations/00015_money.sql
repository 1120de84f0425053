-- +goose Up
-- What a pack costs besides its price, and how a supplier's files are to be read.
ALTER TABLE price_offers ADD COLUMN delivery numeric NOT NULL DEFAULT 0 CHECK (delivery >= 0),
    ADD COLUMN tax_percent numeric NOT NULL DEFAULT 0 CHECK (tax_percent BETWEEN 0 AND 100),
    ADD COLUMN with_tax boolean NOT NULL DEFAULT false;
DROP INDEX price_offers_once;
CREATE UNIQUE INDEX price_offers_once ON price_offers
    (ingredient_id, supplier, pack_amount, pack_unit, price, dated, valid_until, delivery, tax_percent, with_tax) NULLS NOT DISTINCT
    WHERE retired_at IS NULL;
-- A price of nothing is none: it would make a jar look cheaper than it is.
SELECT set_config('gallipot.by', 'Gallipot', true);
UPDATE price_offers SET retired_at = now(), retired_by = 'Gallipot', retired_why = 'a price of nothing is none'
    WHERE price = 0 AND retired_at IS NULL;
CREATE TABLE price_ways (
    shape text PRIMARY KEY,
    data jsonb NOT NULL,
    format int NOT NULL,
    updated_at timestamptz NOT NULL,
    updated_by text NOT NULL
);
CREATE TRIGGER note AFTER INSERT OR UPDATE OR DELETE ON price_ways FOR EACH ROW EXECUTE FUNCTION gallipot_note('price_way', 'shape');
