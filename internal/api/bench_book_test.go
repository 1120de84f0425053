package api

import (
	"context"
	"database/sql"
	"net/url"
	"path/filepath"
	"testing"
	"time"

	"gallipot/internal/backup"
	"gallipot/internal/store"
	"gallipot/internal/testdb"

	"github.com/stretchr/testify/require"
)

// BenchmarkBook makes a backup of a shop of 20 000 batches, and a shop of that backup; then it reads the book against
// itself, once it has grown to a million links.
func BenchmarkBook(b *testing.B) {
	s, address := testdb.Safe(b)
	require.NoError(b, fillDemo(s, kitchen(b), noon))
	db, err := sql.Open("pgx", address)
	require.NoError(b, err)
	defer db.Close()
	db.SetMaxOpenConns(1)
	_, err = db.Exec("SELECT set_config('gallipot.by', 'Ines', false)")
	require.NoError(b, err)
	cloned(b, serve(b, s, noon()), db, 20_000-22)
	_, err = db.Exec("VACUUM ANALYZE")
	require.NoError(b, err)
	saved, restored, size := savedAndRestored(b, db, address)
	const million = 1_000_000
	_, err = db.Exec(`INSERT INTO batch_entries (batch_id, kind, body, key, at, by_whom, format, seq, digest)
		SELECT batch_id, kind, body, key || ' ' || n, at, by_whom, format, seq + 1000 * n, digest
		FROM batch_entries, generate_series(1, 5) n WHERE batch_id > 23 LIMIT $1 - (SELECT count(*) FROM chain)`,
		million)
	require.NoError(b, err)
	_, err = db.Exec("VACUUM ANALYZE")
	require.NoError(b, err)
	for b.Loop() {
		began := time.Now()
		v, err := store.Verify(context.Background(), address)
		require.NoError(b, err)
		require.Empty(b, v.Faults)
		require.GreaterOrEqual(b, v.Links, int64(million))
		b.ReportMetric(time.Since(began).Seconds(), "verify-s")
	}
	b.ReportMetric(saved.Seconds(), "backup-s")
	b.ReportMetric(restored.Seconds(), "restore-s")
	b.ReportMetric(float64(size)/(1<<20), "MB")
}

// savedAndRestored measures a backup of a database and its way into another one.
func savedAndRestored(b *testing.B, db *sql.DB, address string) (saved, restored time.Duration, size int64) {
	ctx, began := context.Background(), time.Now()
	file := filepath.Join(b.TempDir(), "backup")
	made, err := backup.Make(ctx, address, file, began)
	require.NoError(b, err)
	saved = time.Since(began)
	_, err = db.Exec("CREATE DATABASE restored")
	require.NoError(b, err)
	u, err := url.Parse(address)
	require.NoError(b, err)
	u.Path = "/restored"
	began = time.Now()
	_, err = backup.Restore(ctx, u.String(), file)
	require.NoError(b, err)
	restored = time.Since(began)
	_, err = db.Exec("DROP DATABASE restored")
	require.NoError(b, err)
	return saved, restored, made.Size
}
