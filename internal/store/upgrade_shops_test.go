package store_test

import (
	"context"
	"database/sql"
	"maps"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/core/people"
	"gallipot/internal/reference"
	"gallipot/internal/store"
	"gallipot/internal/testdb"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestEveryShopFromBeforeIsUpgraded starts this program on the demo of every commit that changed the migrations
// (testdata/shops, made by scripts/shops.sh): every count, decision and printed word is kept, all of it is read, and
// the book proves itself.
func TestEveryShopFromBeforeIsUpgraded(t *testing.T) {
	dumps, err := filepath.Glob("../../testdata/shops/*.dump")
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(dumps), 23)
	fresh := testdb.Address(t)
	s, err := store.Open(context.Background(), fresh, 1)
	require.NoError(t, err)
	require.NoError(t, s.Close())
	shape := shapeOf(t, fresh)
	for _, dump := range dumps {
		t.Run(filepath.Base(dump), func(t *testing.T) {
			t.Parallel()
			url := testdb.Address(t)
			out, err := exec.Command("pg_restore", "--no-owner", "--exit-on-error", "-d", url, dump).CombinedOutput()
			require.NoError(t, err, string(out))
			was := keptOf(t, url)
			s, err := store.OpenAs(context.Background(), store.Addresses{App: testdb.ForApp(t, url), Migrate: url}, 1)
			require.NoError(t, err)
			defer s.Close()
			is := keptOf(t, url)
			for name, before := range was {
				if name == "decided" {
					continue // judged anew below, by the rules of today
				}
				assert.Equal(t, before, is[name], name)
			}
			assert.Equal(t, shape, shapeOf(t, url), "an upgraded shop has the tables of a new one")
			readAll(t, s)
			if was["decided"] != "" {
				decided(t, was["decided"], keptOf(t, url)["decided"])
			}
			v, err := store.Verify(context.Background(), url)
			require.NoError(t, err)
			assert.Empty(t, v.Faults)
			if filepath.Base(dump) < "18" { // chained by this upgrade
				assert.Greater(t, v.Begun, int64(100), "it proves from the upgrade on")
			} else {
				assert.EqualValues(t, 1, v.Begun, "it proves from its first line")
			}
			assert.Greater(t, v.Rows, int64(300))
		})
	}
}

// column reads a column of texts.
func column(t *testing.T, db *sql.DB, q string) (out []string) {
	t.Helper()
	rows, err := db.Query(q)
	require.NoError(t, err, q)
	defer rows.Close()
	for rows.Next() {
		var s string
		require.NoError(t, rows.Scan(&s))
		out = append(out, s)
	}
	require.NoError(t, rows.Err())
	return out
}

// columnsKept are the columns of each table that must outlive an upgrade to the letter.
var columnsKept = map[string]string{
	"batch_entries": "batch_id, kind, body, key, at, by_whom", "lot_entries": "lot_id, seq, kind, body, at, by_whom",
	"recall_entries": "recall_id, seq, kind, body, at", "version_locks": "formula_id, number, data",
	"changes": "seq, at, by_whom, act, what, which, before, after", "labels": "id, formula_id, regime, version, facts",
	"versions": "formula_id, number, state, data", "batches": "id, code, formula_id, version, jars, made_on, targets",
	"evidence": "id, title, content", "lots": "code, kind", "people": "name", "formulas": "id, name",
	"ingredients": "id, name", "trials": "id, data", "recipes": "id, words, answers",
	"deliveries": "id, supplier, note", "meter_checks": "id, meter, celsius, accepted", "house_measures": "ingredient_id, measure, weighings",
	"preparations": "id, data", "shop_words": "id, words", "parties": "id, name", "shops": "data", "price_ways": "data",
}

// later are rows that the upgrade itself adds to what was there.
var later = map[string]string{"changes": " WHERE by_whom <> 'Gallipot' OR what NOT IN ('ingredient', 'document')",
	"lots": " WHERE kind <> 'batch'"}

// keptOf counts every table that is there, with a digest of what must not change.
func keptOf(t *testing.T, url string) map[string]string {
	t.Helper()
	db, err := sql.Open("pgx", url)
	require.NoError(t, err)
	defer db.Close()
	there := column(t, db, "SELECT relname FROM pg_class WHERE relkind = 'r' AND relnamespace = 'public'::regnamespace")
	out := map[string]string{}
	for _, table := range slices.Sorted(maps.Keys(columnsKept)) {
		if !slices.Contains(there, table) {
			continue
		}
		out[table] = column(t, db, "SELECT count(*) || ' ' || coalesce(md5(string_agg(r::text, '|' ORDER BY"+
			" r::text)), '') FROM (SELECT "+columnsKept[table]+" FROM "+table+later[table]+") r")[0]
	}
	if slices.Contains(there, "batch_standing") {
		out["decided"] = strings.Join(column(t, db, "SELECT batch_id || ' ' || state || ' ' || jars || ' ' ||"+
			" coalesce(last_day::text, '-') FROM batch_standing ORDER BY batch_id"), "\n")
	}
	return out
}

// decided compares where batches stand with where they stood. Decisions kept no day at first: theirs is counted by the
// rules of today, and may come sooner.
func decided(t *testing.T, was, is string) {
	t.Helper()
	before, now := strings.Fields(was), strings.Fields(is)
	require.Len(t, now, len(before))
	for i := range before {
		if i%4 == 3 && now[i] != "-" {
			assert.LessOrEqual(t, now[i], before[i], "batch %s", before[i-3])
			continue
		}
		assert.Equal(t, before[i], now[i], "batch %s", before[i-i%4])
	}
}

// readAll reads what a shop would look at first after an upgrade.
func readAll(t *testing.T, s *store.Store) {
	t.Helper()
	typical, err := reference.Kitchen()
	require.NoError(t, err)
	a := app.New(s, time.Now, typical)
	_, err = a.Production.RebuildMissing(context.Background())
	require.NoError(t, err)
	ctx := kernel.As(context.Background(), people.Person{Name: "Gallipot", Role: people.Owner})
	ids, err := s.BatchIDs()
	require.NoError(t, err)
	require.NotEmpty(t, ids)
	for _, id := range ids {
		_, err := a.Production.Batch(ctx, id)
		require.NoError(t, err, "batch %d", id)
	}
	_, err = a.Office.Today(ctx)
	require.NoError(t, err)
	_, err = a.Office.Records(ctx, office.RecordsAsk{})
	require.NoError(t, err)
	_, err = a.Office.Export(ctx)
	require.NoError(t, err)
}

// shapeOf lists columns, constraints, indexes and triggers.
func shapeOf(t *testing.T, url string) []string {
	t.Helper()
	db, err := sql.Open("pgx", url)
	require.NoError(t, err)
	defer db.Close()
	return column(t, db, `SELECT * FROM (
		SELECT table_name || '.' || column_name || ' ' || data_type || ' ' || is_nullable || ' ' ||
			coalesce(column_default, '') FROM information_schema.columns WHERE table_schema = 'public'
		UNION ALL SELECT indexdef FROM pg_indexes WHERE schemaname = 'public'
		UNION ALL SELECT conrelid::regclass || ' ' || pg_get_constraintdef(oid) FROM pg_constraint
			WHERE connamespace = 'public'::regnamespace AND contype <> 't'
		UNION ALL SELECT pg_get_triggerdef(oid) FROM pg_trigger WHERE NOT tgisinternal) x ORDER BY 1`)
}
