package cluster

import (
	"context"
	"database/sql"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func execute(t *testing.T, url, query string) {
	t.Helper()
	db, err := sql.Open("pgx", url)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec(query)
	require.NoError(t, err)
}

// folder is a place that the server's unprivileged user can enter; t.TempDir nests under one that it may not.
func folder(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "gallipot-cluster-")
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	return dir
}

func TestDataOutlivesTheServer(t *testing.T) {
	dir := folder(t)
	first, err := Start(context.Background(), dir, "")
	require.NoError(t, err)
	execute(t, first.URL, "CREATE TABLE kept (n int)")
	_, err = Start(context.Background(), dir, "")
	assert.ErrorAs(t, err, &RunningError{}, "one server a folder")
	assert.ErrorAs(t, Remove(dir), &RunningError{}, "nothing is removed under a running server")
	first.Stop()

	second, err := Start(context.Background(), dir, "")
	require.NoError(t, err)
	execute(t, second.URL, "INSERT INTO kept VALUES (1)")
	second.Stop()
	require.NoError(t, Remove(dir))
	_, err = os.Stat(dir)
	assert.ErrorIs(t, err, os.ErrNotExist)
}

func TestAStrangerNeedsThePassword(t *testing.T) {
	c, err := Start(context.Background(), folder(t), "", "fsync=off")
	require.NoError(t, err)
	defer c.Stop()
	at := strings.Index(c.URL, "@")
	db, err := sql.Open("pgx", "postgres://gallipot:guess"+c.URL[at:])
	require.NoError(t, err)
	defer db.Close()
	assert.ErrorContains(t, db.Ping(), "password")
	info, err := os.Stat(filepath.Join(c.Dir, "password"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
}

func TestAPlaceTheServerCannotEnterFallsBack(t *testing.T) {
	if os.Geteuid() != 0 {
		t.Skip("only root hands the server to another user")
	}
	closed, open := folder(t), folder(t)
	require.NoError(t, os.Chmod(closed, 0o700))
	c, err := Start(context.Background(), filepath.Join(closed, "deeper"), open, "fsync=off")
	require.NoError(t, err)
	defer c.Stop()
	assert.Equal(t, open, c.Dir)
	_, err = Start(context.Background(), filepath.Join(closed, "deeper"), "")
	assert.ErrorContains(t, err, "cannot reach")
}

func TestAFileLeftByACrashIsNoRunningServer(t *testing.T) {
	dir := folder(t)
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "data"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "data", "postmaster.pid"), []byte("1\n"), 0o600))
	assert.False(t, alive(dir), "process 1 is not ours")
}
