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

// BenchmarkBook reads a book of a million links against itself, makes a backup of its 20 000 batches, and a shop of
// that backup.
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
	const million = 1_000_000
	_, err = db.Exec(`INSERT INTO batch_entries (batch_id, kind, body, key, at, by_whom, format, seq, digest)
		SELECT batch_id, kind, body, key || ' ' || n, at, by_whom, format, seq + 1000 * n, digest
		FROM batch_entries, generate_series(1, 5) n WHERE batch_id > 23 LIMIT $1 - (SELECT count(*) FROM chain)`,
		million)
	require.NoError(b, err)
	_, err = db.Exec("VACUUM ANALYZE")
	require.NoError(b, err)
	ctx := context.Background()
	dir := b.TempDir()
	for b.Loop() {
		began := time.Now()
		v, err := store.Verify(ctx, address)
		require.NoError(b, err)
		require.Empty(b, v.Faults)
		require.GreaterOrEqual(b, v.Links, int64(million))
		verified := time.Now()
		file := filepath.Join(dir, began.Format("150405.000000"))
		made, err := backup.Make(ctx, address, file, began)
		require.NoError(b, err)
		saved := time.Now()
		_, err = db.Exec("CREATE DATABASE restored")
		require.NoError(b, err)
		u, err := url.Parse(address)
		require.NoError(b, err)
		u.Path = "/restored"
		start := time.Now()
		_, err = backup.Restore(ctx, u.String(), file)
		require.NoError(b, err)
		b.ReportMetric(verified.Sub(began).Seconds(), "verify-s")
		b.ReportMetric(saved.Sub(verified).Seconds(), "backup-s")
		b.ReportMetric(time.Since(start).Seconds(), "restore-s")
		b.ReportMetric(float64(made.Size)/(1<<20), "MB")
		_, err = db.Exec("DROP DATABASE restored")
		require.NoError(b, err)
	}
}
