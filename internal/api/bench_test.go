package api

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/release"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/testdb"

	"github.com/labstack/echo/v5"
	"github.com/stretchr/testify/require"
)

// safeDemo serves the made-up shop on a database with its safe settings.
func safeDemo(b testing.TB) (*client, *sql.DB) {
	b.Helper()
	s, url := testdb.Safe(b)
	require.NoError(b, fillDemo(s, kitchen(b), noon))
	db, err := sql.Open("pgx", url)
	require.NoError(b, err)
	b.Cleanup(func() { _ = db.Close() })
	return serve(b, s, noon()), db
}

// timed sends a request, reads the answer and says how long that took.
func (c *client) timed(b *testing.B, method, url string, body []byte) time.Duration {
	b.Helper()
	start := time.Now()
	r, err := http.NewRequest(method, url, bytes.NewReader(body))
	require.NoError(b, err)
	r.Header.Set("Content-Type", "application/json")
	c.sign(r)
	res, err := http.DefaultClient.Do(r)
	require.NoError(b, err)
	_, err = io.Copy(io.Discard, res.Body)
	require.NoError(b, err)
	require.NoError(b, res.Body.Close())
	took := time.Since(start)
	require.Less(b, res.StatusCode, 300, url)
	return took
}

func p95(took []time.Duration) float64 {
	slices.Sort(took)
	return float64(took[len(took)*95/100].Microseconds()) / 1000
}

// bare serves a handler that commits one row and answers.
func bare(b *testing.B, db *sql.DB) string {
	b.Helper()
	_, err := db.Exec("CREATE TABLE bare (id bigserial PRIMARY KEY, at timestamptz NOT NULL DEFAULT now())")
	require.NoError(b, err)
	e := echo.New()
	e.PUT("/", func(c *echo.Context) error {
		if _, err := db.ExecContext(c.Request().Context(), "INSERT INTO bare DEFAULT VALUES"); err != nil {
			return err
		}
		return c.NoContent(http.StatusNoContent)
	})
	server := httptest.NewServer(e)
	b.Cleanup(server.Close)
	return server.URL
}

// BenchmarkLivePanel types a gram into a sheet of 40 lines, turn by turn with a bare handler that commits one row.
func BenchmarkLivePanel(b *testing.B) {
	c, db := safeDemo(b)
	other := bare(b, db)
	sheet := get[catalog.SheetView](c, "/api/formulas/carrot_miso_dressing/versions/4")
	v := sheet.Version
	for len(v.Lines) < 40 {
		l := v.Lines[len(v.Lines)%8]
		l.ID = fmt.Sprintf("extra%d", len(v.Lines))
		v.Lines = append(v.Lines, l)
	}
	raw, err := json.Marshal(v)
	require.NoError(b, err)
	rev := sheet.Rev
	var took, bares []time.Duration
	b.ReportAllocs()
	for b.Loop() {
		for range aShift {
			took = append(took, c.timed(b, "PUT", fmt.Sprintf("%s/api/formulas/carrot_miso_dressing/versions/4?rev=%d",
				c.base, rev), raw))
			bares = append(bares, c.timed(b, "PUT", other, nil))
			rev++
		}
	}
	b.ReportMetric(p95(took), "p95-ms")
	b.ReportMetric(median(took)/median(bares), "x-bare")
}

// median is the middle of times, in ms.
func median(times []time.Duration) float64 {
	sorted := slices.Sorted(slices.Values(times))
	return float64(sorted[len(sorted)/2].Microseconds()) / 1000
}

// aShift is how many turns one op is: figures of a few dozen say little.
const aShift = 500

// BenchmarkCapture takes weights at the bench into the records of batches, from lots, turn by turn with a bare handler
// that commits one row. An op is a shift.
func BenchmarkCapture(b *testing.B) {
	c, db := safeDemo(b)
	other := bare(b, db)
	lots := map[string]string{}
	var took, bares []time.Duration
	var w *atBench
	var open []bench.BenchLine
	var stands amount.Grams // on the scale
	capture := func() {
		if len(open) == 0 {
			w, stands = c.bench("pea_pistachio_spread", 2, 48), amount.Grams{}
			w.tare(1)
			for _, l := range w.view().Record.Loads[0].Lines {
				if l.Held.IsZero() {
					open = append(open, l)
				}
			}
		}
		l := open[0]
		open = open[1:]
		stands = stands.Plus(l.Now)
		body := map[string]any{"load": 1, "line": l.Line, "grams": l.Now, "saw": l.Last, "scale": "Bench scale",
			"reading_g": stands}
		if l.Name != "Water" {
			if lots[l.Line] == "" {
				lots[l.Line] = fmt.Sprint(w.draws(w.id, l.Line, l.Now)[0]["code"])
			}
			body["draws"] = []map[string]any{{"code": lots[l.Line], "grams": l.Now}}
		}
		w.n++
		raw, err := json.Marshal(map[string]any{"kind": "capture", "capture": body})
		require.NoError(b, err)
		took = append(took, c.timed(b, "POST",
			fmt.Sprintf("%s/api/batches/%d/entries?key=b-%d-%d", c.base, w.id, w.id, w.n), raw))
		bares = append(bares, c.timed(b, "PUT", other, nil))
	}
	for b.Loop() {
		for range aShift {
			capture()
		}
	}
	b.ReportMetric(p95(took), "p95-ms")
	b.ReportMetric(p95(bares), "bare-ms")
	b.ReportMetric(median(took)/median(bares), "x-bare")
}

// history clones closed batches of the demo, with all their entries and three lots each, until there are that many
// batches.
func history(b testing.TB, c *client, db *sql.DB, many int) {
	b.Helper()
	for _, q := range []string{
		`ALTER TABLE batches DISABLE TRIGGER note`, `ALTER TABLE batch_entries DISABLE TRIGGER note`,
		`ALTER TABLE lots DISABLE TRIGGER note`, `ALTER TABLE lot_entries DISABLE TRIGGER note`,
	} {
		_, err := db.Exec(q)
		require.NoError(b, err)
	}
	cloned(b, c, db, many)
}

// cloned clones them; where the triggers are on, each row is noted and chained.
func cloned(b testing.TB, c *client, db *sql.DB, many int) {
	b.Helper()
	for _, q := range []string{
		`CREATE TABLE cloned AS SELECT b.id AS source, n, nextval('batches_id_seq') AS id FROM batches b JOIN batch_standing s ON s.batch_id = b.id,
			generate_series(1, 10000) n WHERE s.state = 'rejected' OR s.last_day < current_date - 30 ORDER BY n, b.id LIMIT $1`,
		`INSERT INTO batches (id, code, formula_id, version, jars, made_on, targets, format, created_by)
			SELECT c.id, b.code || '-' || c.n, b.formula_id, b.version, b.jars, b.made_on - 100 - (c.n % 3000)::int, b.targets, b.format, b.created_by FROM cloned c JOIN batches b ON b.id = c.source`,
		`INSERT INTO lots (code, kind, batch_id, created_by) SELECT b.code, 'batch', b.id, b.created_by FROM batches b JOIN cloned c ON c.id = b.id`,
		`CREATE TABLE cloned_lots AS SELECT c.id AS batch, d.lot_id AS source, d.grams, nextval('lots_id_seq') AS id FROM cloned c
			CROSS JOIN LATERAL (SELECT d.lot_id, sum(d.grams)::bigint AS grams FROM lot_draws d JOIN lots l ON l.id = d.lot_id AND l.kind = 'incoming'
			WHERE d.batch_id = c.source GROUP BY d.lot_id ORDER BY d.lot_id LIMIT 3) d`,
		`CREATE INDEX ON cloned_lots (batch, source)`, `ANALYZE cloned_lots`,
		`INSERT INTO lots (id, code, kind, ingredient_id, delivery_id, created_by)
			SELECT c.id, 'X' || c.id, l.kind, l.ingredient_id, l.delivery_id, l.created_by FROM cloned_lots c JOIN lots l ON l.id = c.source`,
		`INSERT INTO lot_entries (lot_id, seq, kind, body, format, key, digest, at, by_whom, by_role)
			SELECT c.id, e.seq, e.kind, e.body, e.format, e.key, e.digest, e.at, e.by_whom, e.by_role FROM cloned_lots c JOIN lot_entries e ON e.lot_id = c.source`,
		`INSERT INTO lot_standing (lot_id, ingredient_id, state, bar, ends, supplier, said, received, corrected, thrown, parted, used, per_gram, facts)
			SELECT c.id, t.ingredient_id, t.state, t.bar, t.ends - 100, t.supplier, t.said || c.id, c.grams, 0, 0, 0, 0, t.per_gram,
			t.facts || jsonb_build_object('id', c.id, 'code', 'X' || c.id) FROM cloned_lots c JOIN lot_standing t ON t.lot_id = c.source`,
		`INSERT INTO batch_entries (batch_id, kind, body, key, at, by_whom, format, seq, digest)
			SELECT c.id, e.kind, CASE WHEN e.kind = 'weighing' THEN e.body || jsonb_build_object('draws',
			(SELECT coalesce(jsonb_agg(d || jsonb_build_object('lot', l.id)), '[]') FROM jsonb_array_elements(coalesce(e.body->'draws', '[]')) d
			JOIN cloned_lots l ON l.batch = c.id AND l.source = (d->>'lot')::bigint)) ELSE e.body END,
			e.key || '-' || c.n, e.at, e.by_whom, e.format, e.seq, e.digest FROM cloned c JOIN batch_entries e ON e.batch_id = c.source`,
		`ANALYZE`,
	} {
		var err error
		if strings.Contains(q, "$1") {
			_, err = db.Exec(q, many)
		} else {
			_, err = db.Exec(q)
		}
		require.NoError(b, err)
	}
	_, err := c.app.Production.RebuildMissing(context.Background())
	require.NoError(b, err)
	for _, q := range []string{"VACUUM ANALYZE", "CHECKPOINT"} { // what was loaded in bulk has settled
		_, err = db.Exec(q)
		require.NoError(b, err)
	}
}

func benchmarkList(b *testing.B, path string, many int) {
	c, db := safeDemo(b)
	history(b, c, db, many-22)
	var took []time.Duration
	for b.Loop() {
		took = append(took, c.timed(b, "GET", c.base+path, nil))
	}
	b.ReportMetric(p95(took), "p95-ms")
}

func BenchmarkTodayAt100(b *testing.B)     { benchmarkList(b, "/api/today", 100) }
func BenchmarkTodayAt20000(b *testing.B)   { benchmarkList(b, "/api/today", 20_000) }
func BenchmarkStockAt100(b *testing.B)     { benchmarkList(b, "/api/stock", 100) }
func BenchmarkStockAt20000(b *testing.B)   { benchmarkList(b, "/api/stock", 20_000) }
func BenchmarkLotsAt100(b *testing.B)      { benchmarkList(b, "/api/lots", 100) }
func BenchmarkLotsAt20000(b *testing.B)    { benchmarkList(b, "/api/lots", 20_000) }
func BenchmarkJarsAt100(b *testing.B)      { benchmarkList(b, "/api/jars", 100) }
func BenchmarkJarsAt20000(b *testing.B)    { benchmarkList(b, "/api/jars", 20_000) }
func BenchmarkBatchesAt100(b *testing.B)   { benchmarkList(b, "/api/batches", 100) }
func BenchmarkBatchesAt20000(b *testing.B) { benchmarkList(b, "/api/batches", 20_000) }

// chained has every batch of a history take 20 weighings of lots that 60 batches share, and five of six what was made
// the batch before: components lie five deep.
func chained(b *testing.B, db *sql.DB) (lot int64) {
	b.Helper()
	for _, q := range []string{
		`CREATE TABLE in_turn AS SELECT l.batch_id AS batch, l.id AS lot, row_number() OVER (ORDER BY l.id) AS n
			FROM lots l JOIN cloned c ON c.id = l.batch_id WHERE l.kind = 'batch'`,
		`CREATE INDEX ON in_turn (n)`,
		`CREATE TABLE shared AS SELECT id AS lot, row_number() OVER (ORDER BY id) - 1 AS n FROM cloned_lots`,
		`CREATE INDEX ON shared (n)`, `ANALYZE in_turn`, `ANALYZE shared`,
		`DELETE FROM lot_draws WHERE batch_id IN (SELECT batch FROM in_turn)`,
		`INSERT INTO lot_draws (batch_id, line, lot_id, entry_id, grams, part) SELECT c.batch, 'l' || k, s.lot, 1, 1000 * k, k
			FROM in_turn c CROSS JOIN generate_series(1, 19) k JOIN shared s ON s.n = ((c.n + 3) / 60) * 19 + k`,
		`INSERT INTO lot_draws (batch_id, line, lot_id, entry_id, grams, part) SELECT c.batch, 'base', p.lot, 1, 50000, 0
			FROM in_turn c JOIN in_turn p ON p.n = c.n - 1 WHERE c.n % 6 <> 0`,
		`VACUUM ANALYZE lot_draws`,
	} {
		_, err := db.Exec(q)
		require.NoError(b, err)
	}
	require.NoError(b,
		db.QueryRow(`SELECT lot_id FROM lot_draws WHERE batch_id = (SELECT batch FROM in_turn WHERE n = 6006) AND
		line = 'l1'`).Scan(&lot))
	return lot
}

// byHand is a trace as somebody would ask for it in SQL who looked at its plan: every batch that a lot went into, with
// what it took and where its jars are.
const byHand = `WITH RECURSIVE flow (source, target, grams) AS (
		SELECT d.lot_id, (SELECT id FROM lots WHERE batch_id = d.batch_id AND kind = 'batch'), sum(d.grams)
			FROM lot_draws d WHERE d.lot_id = $1 GROUP BY d.lot_id, d.batch_id
		UNION SELECT f.* FROM (SELECT target FROM flow) r CROSS JOIN LATERAL (
			SELECT d.lot_id, (SELECT id FROM lots WHERE batch_id = d.batch_id AND kind = 'batch'), sum(d.grams)
			FROM lot_draws d WHERE d.lot_id = r.target GROUP BY d.lot_id, d.batch_id) f)
	SELECT r.source, r.target, r.grams, n.* FROM flow r CROSS JOIN LATERAL (SELECT l.code, f.name, b.made_on, b.version,
		b.created_by, s.state, s.value, s.last_day, s.jars,
		(SELECT json_agg(j) FROM batch_jars j WHERE j.batch_id = b.id) AS places
		FROM lots l JOIN batches b ON b.id = l.batch_id JOIN formulas f ON f.id = b.formula_id
		JOIN batch_standing s ON s.batch_id = b.id WHERE l.id = r.target OFFSET 0) n ORDER BY 1, 2`

// BenchmarkTrace follows a lot to its jars among 20 000 batches and 400 000 weighings, turn by turn with the same
// question in SQL.
func BenchmarkTrace(b *testing.B) {
	c, db := safeDemo(b)
	history(b, c, db, 20_000-22)
	lot := chained(b, db)
	batches := 0
	for _, n := range get[release.TraceView](c, fmt.Sprintf("/api/trace?lot=%d", lot)).Nodes {
		if n.Kind == "batch" {
			batches++
		}
	}
	require.GreaterOrEqual(b, batches, 60, "the lot went into the batches that share it, and what was made of those")
	own, err := db.Conn(context.Background())
	require.NoError(b, err)
	b.Cleanup(func() { _ = own.Close() })
	_, err = own.ExecContext(context.Background(), "SET jit = off") // as the shop's own connections do
	require.NoError(b, err)
	var took, hand []time.Duration
	for b.Loop() {
		took = append(took, c.timed(b, "GET", fmt.Sprintf("%s/api/trace?lot=%d", c.base, lot), nil))
		start := time.Now()
		rows, err := own.QueryContext(context.Background(), byHand, lot)
		require.NoError(b, err)
		n := 0
		for rows.Next() {
			n++
		}
		require.NoError(b, errors.Join(rows.Err(), rows.Close()))
		require.GreaterOrEqual(b, n, 60)
		hand = append(hand, time.Since(start))
	}
	b.ReportMetric(float64(batches), "batches")
	b.ReportMetric(p95(took), "p95-ms")
	b.ReportMetric(p95(hand), "hand-ms")
	b.ReportMetric(p95(took)/p95(hand), "x-sql")
}
