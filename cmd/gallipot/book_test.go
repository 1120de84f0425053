package main

import (
	"archive/zip"
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"gallipot/internal/backup"
	"gallipot/internal/cluster"
	"gallipot/internal/core/chain"
	"gallipot/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// says runs a command and returns what it printed.
func says(t *testing.T, args ...string) (string, error) {
	t.Helper()
	var out bytes.Buffer
	err := run(context.Background(), args, &out)
	return out.String(), err
}

// place is an empty folder that the database's user can enter.
func place(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "gallipot-place-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	return dir
}

// apart points the environment at a copy of the shop, as for a shop with a database of its own, and keeps the state
// folder of the test apart from anybody's.
func apart(t *testing.T) killed {
	t.Helper()
	k := toKill(t)
	t.Setenv("DATABASE_URL", k.url)
	t.Setenv("MIGRATE_DATABASE_URL", k.owner)
	t.Setenv("STATE_DIRECTORY", t.TempDir())
	return k
}

func (k killed) forge(queries ...string) {
	k.Helper()
	db, err := sql.Open("pgx", k.owner)
	require.NoError(k, err)
	defer db.Close()
	tx, err := db.Begin()
	require.NoError(k, err)
	for _, q := range append([]string{"SET LOCAL session_replication_role = replica"}, queries...) {
		_, err := tx.Exec(q)
		require.NoError(k, err, q)
	}
	require.NoError(k, tx.Commit())
}

var headSaid = regexp.MustCompile(`Head: (\d+:[0-9a-f]{64})`)

func TestAShopIsBackedUpWhileItWorksAndRestoredWhole(t *testing.T) {
	k := apart(t)
	file := filepath.Join(t.TempDir(), "shop.backup")
	p := startProgram(t, k.binary, k.addresses())
	said, err := says(t, "backup", file)
	require.NoError(t, err)
	head := headSaid.FindStringSubmatch(said)
	require.NotNil(t, head, said)
	info, err := os.Stat(file)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), "it holds everything: for its owner alone")
	require.NoError(t, p.cmd.Process.Kill())
	_, err = says(t, "backup", file)
	assert.ErrorContains(t, err, "is there already")

	dir := place(t)
	said, err = says(t, "restore", "-dir", dir, file)
	require.NoError(t, err)
	assert.Contains(t, said, "gallipot verify -dir "+dir+" -head "+head[1])
	said, err = says(t, "verify", "-dir", dir, "-head", head[1])
	require.NoError(t, err)
	assert.Contains(t, said, "The book verifies")
	assert.Contains(t, said, "Head: "+head[1], "nothing was added by it")

	pg, err := cluster.Start(context.Background(), filepath.Join(dir, "postgres"))
	require.NoError(t, err)
	defer pg.Stop()
	was, err := store.TakeSnapshot(context.Background(), k.owner)
	require.NoError(t, err)
	defer was.Close()
	is, err := store.TakeSnapshot(context.Background(), pg.OwnerURL)
	require.NoError(t, err)
	defer is.Close()
	for table, n := range was.Counts {
		if table == "changes" || table == "chain" || table == "backups" {
			n-- // that the backup was made is noted after it
		}
		assert.Equal(t, n, is.Counts[table], table)
	}
	db, err := sql.Open("pgx", pg.OwnerURL)
	require.NoError(t, err)
	defer db.Close()
	var signedIn int
	require.NoError(t, db.QueryRow("SELECT (SELECT count(*) FROM sessions) + (SELECT count(*) FROM single_sign_ins)").
		Scan(&signedIn))
	assert.Zero(t, signedIn, "who was signed in is not")
	_, err = says(t, "restore", "-dir", dir, file)
	assert.ErrorContains(t, err, "there is a shop in")
}

// other writes a backup anew with another manifest or another dump.
func other(t *testing.T, file string, manifest func(*backup.Manifest), dump func([]byte) []byte) string {
	t.Helper()
	z, err := zip.OpenReader(file)
	require.NoError(t, err)
	defer z.Close()
	out := filepath.Join(t.TempDir(), "other.backup")
	f, err := os.Create(out)
	require.NoError(t, err)
	w := zip.NewWriter(f)
	for _, x := range z.File {
		r, err := x.Open()
		require.NoError(t, err)
		raw, err := io.ReadAll(r)
		require.NoError(t, err)
		if strings.HasSuffix(x.Name, ".json") {
			var m backup.Manifest
			require.NoError(t, json.Unmarshal(raw, &m))
			manifest(&m)
			raw, err = json.Marshal(m)
			require.NoError(t, err)
		} else {
			raw = dump(raw)
		}
		to, err := w.Create(x.Name)
		require.NoError(t, err)
		_, err = to.Write(raw)
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	require.NoError(t, f.Close())
	return out
}

// TestARestoreThatIsRefusedChangesNothing tries files that are not whole or not ours to read.
func TestARestoreThatIsRefusedChangesNothing(t *testing.T) {
	apart(t)
	file := filepath.Join(t.TempDir(), "shop.backup")
	_, err := says(t, "backup", file)
	require.NoError(t, err)
	whole, err := os.ReadFile(file)
	require.NoError(t, err)
	cut := filepath.Join(t.TempDir(), "cut.backup")
	require.NoError(t, os.WriteFile(cut, whole[:len(whole)*2/3], 0o600))
	plain := func(*backup.Manifest) {}
	same := func(b []byte) []byte { return b }
	spoilt := func(b []byte) []byte { b[len(b)/2] ^= 1; return b }
	newer := func(m *backup.Manifest) { m.Format = 99 }
	ofNewer := func(m *backup.Manifest) { m.Version = 999 }
	for name, c := range map[string]struct{ file, said string }{
		"cut short":      {cut, "is no whole backup"},
		"nothing there":  {filepath.Join(t.TempDir(), "none"), "there is no file"},
		"another file":   {example, "is no whole backup"},
		"damaged":        {other(t, file, plain, spoilt), "is damaged"},
		"a newer format": {other(t, file, newer, same), "was made by a newer Gallipot"},
		"a newer shop":   {other(t, file, ofNewer, same), "holds a shop of a newer Gallipot"},
	} {
		t.Run(name, func(t *testing.T) {
			dir := place(t)
			_, err := says(t, "restore", "-dir", dir, c.file)
			assert.ErrorContains(t, err, c.said)
			left, err := os.ReadDir(dir)
			require.NoError(t, err)
			assert.Empty(t, left)
		})
	}
	t.Run("what is not empty", func(t *testing.T) {
		before, err := says(t, "verify")
		require.NoError(t, err)
		_, err = says(t, "restore", file)
		assert.ErrorContains(t, err, "there is a shop already where the backup is to go")
		after, err := says(t, "verify")
		require.NoError(t, err)
		assert.Equal(t, before, after)
	})
	t.Run("fewer rows than it says", func(t *testing.T) {
		dir := place(t)
		more := func(m *backup.Manifest) { m.Counts["batches"]++ }
		_, err := says(t, "restore", "-dir", dir, other(t, file, more, same))
		assert.ErrorContains(t, err, "the manifest counts 24 rows of batches, and 23 came")
		assert.False(t, cluster.Holds(filepath.Join(dir, "postgres")))
	})
	t.Run("another head than it says", func(t *testing.T) {
		dir := place(t)
		wrong := func(m *backup.Manifest) { m.Head = chain.Head{Seq: 3}.String() }
		_, err := says(t, "restore", "-dir", dir, other(t, file, wrong, same))
		assert.ErrorContains(t, err, "the manifest's head is 3:")
	})
}

// TestARewrittenBookIsNotRebuilt: readings that somebody lowered with every trigger off make no rejected batch
// released.
func TestARewrittenBookIsNotRebuilt(t *testing.T) {
	k := apart(t)
	said, err := says(t, "verify")
	require.NoError(t, err)
	head := headSaid.FindStringSubmatch(said)[1]
	said, err = says(t, "rebuild")
	require.NoError(t, err)
	assert.Contains(t, said, "23 batches judged and counted anew")
	k.forge(`UPDATE batch_entries SET body = jsonb_set(body, '{ph}', '3.9') WHERE kind = 'reading'`,
		`UPDATE batch_entries SET body = jsonb_set(body, '{state}', '"released"') WHERE kind = 'decision'`)
	said, err = says(t, "verify")
	require.Error(t, err)
	assert.Contains(t, said, "is not as the journal tells it")
	_, err = says(t, "rebuild")
	assert.ErrorContains(t, err, "nothing was rebuilt, because the book does not verify")
	_, err = says(t, "verify", "-head", head)
	assert.Error(t, err)
	_, err = says(t, "verify", "-head", "soon")
	assert.ErrorContains(t, err, "is no head")
}

// TestTheHeadFileFindsOutACutBook: the file is renewed while the book grows, and stays where the book was cut.
func TestTheHeadFileFindsOutACutBook(t *testing.T) {
	k := apart(t)
	st, err := store.OpenAs(context.Background(), k.addresses(), 1)
	require.NoError(t, err)
	defer st.Close()
	f := headFileOf("", k.url)
	_, ok, err := f.read()
	require.NoError(t, err)
	assert.False(t, ok)
	require.NoError(t, f.renew(st))
	first, ok, err := f.read()
	require.NoError(t, err)
	require.True(t, ok)
	_, err = says(t, "backup", filepath.Join(t.TempDir(), "b"))
	require.NoError(t, err)
	require.NoError(t, f.renew(st))
	second, _, err := f.read()
	require.NoError(t, err)
	assert.Greater(t, second.Seq, first.Seq)
	k.forge("DELETE FROM chain WHERE seq > 1170",
		"DELETE FROM changes WHERE seq NOT IN (SELECT change FROM chain WHERE change IS NOT NULL)")
	assert.ErrorContains(t, f.renew(st), "was cut off or written anew")
	third, _, err := f.read()
	require.NoError(t, err)
	assert.Equal(t, second, third, "it is the only witness")
	said, err := says(t, "verify")
	require.Error(t, err)
	assert.Contains(t, said, "its end was cut off", "verify looks at the file by itself")
}

// TestTheProgramLeavesItsHeadAsItStops beside a demo, where verify looks for it.
func TestTheProgramLeavesItsHeadAsItStops(t *testing.T) {
	k := apart(t)
	p := startProgram(t, k.binary, k.addresses())
	f := headFileOf("", k.url)
	require.Eventually(t, func() bool { _, ok, err := f.read(); return ok && err == nil }, 20*time.Second,
		20*time.Millisecond)
	first, _, err := f.read()
	require.NoError(t, err)
	status, _ := k.send(p, "POST", "/api/recipes", map[string]any{"words": "2 leeks"})
	require.Equal(t, 200, status)
	require.NoError(t, p.cmd.Process.Signal(os.Interrupt))
	require.NoError(t, p.cmd.Wait())
	last, _, err := f.read()
	require.NoError(t, err)
	assert.Greater(t, last.Seq, first.Seq, "as it stopped")
	said, err := says(t, "verify")
	require.NoError(t, err)
	assert.Contains(t, said, "Head: "+last.String())
}

// TestStartingOverTakesTheHeadAlong: else the new book would be held against the head of the one thrown away.
func TestStartingOverTakesTheHeadAlong(t *testing.T) {
	dir := place(t)
	require.NoError(t, startOver(dir), "where there is nothing yet")
	f := headFileOf(dir, "")
	require.NoError(t, f.write(chain.Head{Seq: 7}.String()))
	require.NoError(t, startOver(dir))
	_, ok, err := f.read()
	require.NoError(t, err)
	assert.False(t, ok)
}

func TestTheNightComesOnce(t *testing.T) {
	zone := time.FixedZone("shop", 2*3600)
	at := func(day, hour int) time.Time { return time.Date(2026, 3, day, hour, 0, 0, 0, zone) }
	assert.Equal(t, at(5, 3), nightBefore(at(5, 3)))
	assert.Equal(t, at(5, 3), nightBefore(at(5, 23)))
	assert.Equal(t, at(4, 3), nightBefore(at(5, 2)))
}
