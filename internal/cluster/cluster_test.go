package cluster

import (
	"context"
	"database/sql"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

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
	first, err := Start(context.Background(), dir)
	require.NoError(t, err)
	execute(t, first.OwnerURL, "CREATE TABLE kept (n int)")
	_, err = Start(context.Background(), dir)
	assert.ErrorAs(t, err, &RunningError{}, "one server a folder")
	assert.ErrorAs(t, Remove(dir), &RunningError{}, "nothing is removed under a running server")
	first.Stop()

	second, err := Start(context.Background(), dir)
	require.NoError(t, err)
	execute(t, second.OwnerURL, "INSERT INTO kept VALUES (1)")
	second.Stop()
	require.NoError(t, Remove(dir))
	_, err = os.Stat(dir)
	assert.ErrorIs(t, err, os.ErrNotExist)
}

func TestAStrangerNeedsThePassword(t *testing.T) {
	c, err := Start(context.Background(), folder(t), "fsync=off")
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

func TestAFolderTheServerCannotEnterIsRefusedWithWhatToDo(t *testing.T) {
	if os.Geteuid() != 0 {
		t.Skip("only root hands the server to another user")
	}
	closed := folder(t)
	require.NoError(t, os.Chmod(closed, 0o700))
	_, err := Start(context.Background(), filepath.Join(closed, "deeper"))
	var is ClosedError
	require.ErrorAs(t, err, &is)
	assert.Contains(t, err.Error(), filepath.Join(closed, "deeper"))
	assert.Contains(t, err.Error(), "chmod o+x")
}

func TestAFileLeftByACrashIsNoRunningServer(t *testing.T) {
	dir := folder(t)
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "data"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "data", "postmaster.pid"), []byte("1\n"), 0o600))
	assert.False(t, alive(dir), "process 1 is not ours")
}

// TestAServerThatDiesIsStartedAgain kills it outright, as the machine does when its memory ends.
func TestAServerThatDiesIsStartedAgain(t *testing.T) {
	dir := folder(t)
	c, err := Start(context.Background(), dir)
	require.NoError(t, err)
	defer c.Stop()
	execute(t, c.OwnerURL, "CREATE TABLE kept (n int)")
	before := postmaster(t, dir)
	require.NoError(t, syscall.Kill(before, syscall.SIGKILL))
	db, err := sql.Open("pgx", c.OwnerURL)
	require.NoError(t, err)
	defer db.Close()
	require.Eventually(t, func() bool {
		_, err := db.Exec("INSERT INTO kept VALUES (1)")
		return err == nil && postmaster(t, dir) != before
	}, 30*time.Second, 50*time.Millisecond, "at the same address, with its data")
}

// postmaster is the process that PostgreSQL names in its folder, 0 while there is none.
func postmaster(t *testing.T, dir string) int {
	t.Helper()
	raw, err := os.ReadFile(filepath.Join(dir, "data", "postmaster.pid"))
	if err != nil {
		return 0
	}
	first, _, _ := strings.Cut(string(raw), "\n")
	pid, err := strconv.Atoi(first)
	require.NoError(t, err)
	return pid
}

func TestARunningServersFolderIsSafeByWhateverPath(t *testing.T) {
	parent := folder(t)
	dir := filepath.Join(parent, "shop")
	require.NoError(t, os.Chmod(parent, 0o755))
	c, err := Start(context.Background(), dir, "fsync=off")
	require.NoError(t, err)
	defer c.Stop()
	link := filepath.Join(folder(t), "link")
	require.NoError(t, os.Symlink(dir, link))
	around := filepath.Join(folder(t), "around")
	require.NoError(t, os.Symlink(parent, around))
	require.NoError(t, c.Leave("http://127.0.0.1:8080"))
	for _, path := range []string{dir, link, filepath.Join(around, "shop"), dir + "/",
		filepath.Join(dir, "..", "shop")} {
		var running RunningError
		require.ErrorAs(t, Remove(path), &running, path)
		assert.Equal(t, "http://127.0.0.1:8080", running.Note(), "it says where it is")
		_, err := Start(context.Background(), path)
		assert.ErrorAs(t, err, &running, path)
	}
	execute(t, c.OwnerURL, "CREATE TABLE still_here (n int)")
}
