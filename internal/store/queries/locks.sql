-- Locks, counters and the stamp of a transaction: PostgreSQL has words for them that GORM lacks.

-- name: lock_day
SELECT pg_advisory_xact_lock(1, ?)

-- name: lock_batches
SELECT pg_advisory_xact_lock(3), set_config('plan_cache_mode', 'force_generic_plan', true)

-- name: lock_these_batches
SELECT 1 FROM batches WHERE id IN ? ORDER BY id FOR UPDATE

-- name: lock_key
SELECT pg_advisory_xact_lock(2, hashtext(?))

-- name: next_lot_number
SELECT nextval('lot_numbers')

-- name: lock_people
LOCK TABLE people IN SHARE ROW EXCLUSIVE MODE

-- name: lock_prices
LOCK TABLE price_offers IN SHARE ROW EXCLUSIVE MODE

-- name: stamped
SELECT set_config('gallipot.by', $1, true), set_config('gallipot.at', $2, true),
	set_config('gallipot.why', $3, true)

-- name: lock_migrations
SELECT pg_advisory_lock(5)

-- name: unlock_migrations
SELECT pg_advisory_unlock(5)
