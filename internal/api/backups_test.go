package api

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"testing"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/backup"
	"gallipot/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestBackupsAreAnOwners: made, listed and taken away by an owner, and by nobody else.
func TestBackupsAreAnOwners(t *testing.T) {
	t.Parallel()
	s, address := shown.Beside(t, func(s *store.Store) error { return fillDemo(s, kitchen(t), noon) })
	c := serve(t, s, noon())
	c.app.Office.Keeper = backup.Keeper{URL: address, Dir: t.TempDir() + "/backups"}
	v := get[office.BackupsView](c, "/api/backups")
	assert.Empty(t, v.Made)
	assert.Empty(t, v.Unprotected)
	assert.NotEmpty(t, v.Head)
	made := into[kernel.Backup](c.send("POST", "/api/backups", nil).ok())
	assert.Equal(t, "Ines", made.By)
	assert.Equal(t, v.Head, made.Head)
	v = get[office.BackupsView](c, "/api/backups")
	require.Len(t, v.Made, 1)
	assert.Equal(t, made.SHA256, v.Made[0].SHA256)
	assert.NotEqual(t, made.Head, v.Head, "that it was made is noted")

	file := fmt.Sprintf("/api/backups/%d/file", made.ID)
	got := c.send("GET", file, nil).ok()
	assert.Contains(t, got.header.Get("Content-Disposition"), "attachment")
	assert.EqualValues(t, made.Bytes, len(got.body))
	info, err := os.Stat(v.Folder + "/" + made.File)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	c.send("GET", "/api/backups/99/file", nil).refused(404, "")
	require.NoError(t, os.Remove(v.Folder+"/"+made.File))
	c.send("GET", file, nil).refused(404, "")
	for _, name := range []string{"Bram", "Ola"} {
		c.as(name)
		c.send("GET", "/api/backups", nil).refused(403, "")
		c.send("POST", "/api/backups", nil).refused(403, "")
		c.send("GET", file, nil).refused(403, "")
	}
	c.as("")
	c.send("GET", "/api/backups", nil).refused(401, "")
}

// TestTodayTellsOfAnOldBackup, and of none.
func TestTodayTellsOfAnOldBackup(t *testing.T) {
	t.Parallel()
	s, address := shown.Beside(t, func(s *store.Store) error { return fillDemo(s, kitchen(t), noon) })
	began, err := s.ChainBegun()
	require.NoError(t, err)
	told := func(after time.Duration) string {
		c := serve(t, s, began.Add(after))
		for _, task := range get[kernel.TodayView](c, "/api/today").Tasks {
			if task.Kind == "backup" {
				return task.Title
			}
		}
		return ""
	}
	assert.Empty(t, told(47*time.Hour), "a new shop is given two days")
	assert.Equal(t, "There is no backup of this shop yet.", told(49*time.Hour))
	c := serve(t, s, began.Add(50*time.Hour))
	c.app.Office.Keeper = fixed{backup.Keeper{URL: address, Dir: t.TempDir()}, began.Add(50 * time.Hour)}
	c.send("POST", "/api/backups", nil).ok()
	assert.Empty(t, told(51*time.Hour))
	assert.Empty(t, told(97*time.Hour))
	assert.Equal(t, "The last backup is 2 days old.", told(99*time.Hour))
	assert.Equal(t, "The last backup is 10 days old.", told(12*24*time.Hour+3*time.Hour))
}

// fixed says of its backups that they were made at a time.
type fixed struct {
	backup.Keeper
	at time.Time
}

func (f fixed) Make(ctx context.Context, by string) (kernel.Backup, error) {
	b, err := f.Keeper.Make(ctx, by)
	b.At = f.at
	return b, err
}

func TestABackupThatCannotBeMadeSaysWhy(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	assert.Contains(t, c.send("POST", "/api/backups", nil).refused(422, ""), "No folder is named")
	taken := t.TempDir() + "/file"
	require.NoError(t, os.WriteFile(taken, nil, 0o600))
	c.app.Office.Keeper = backup.Keeper{URL: "postgres://", Dir: taken + "/deeper"}
	assert.Contains(t, c.send("POST", "/api/backups", nil).refused(422, ""), "cannot be made")
	c.app.Office.Keeper = backup.Keeper{URL: "postgres://x:y@127.0.0.1:1/none?sslmode=disable", Dir: t.TempDir()}
	assert.Equal(t, 503, c.with("POST", "/api/backups", "", func(*http.Request) {}).StatusCode, "the database is away")
}

func TestHealthSaysWhetherTheRecordIsProtected(t *testing.T) {
	t.Parallel()
	s, address := shown.Beside(t, func(s *store.Store) error { return fillDemo(s, kitchen(t), noon) })
	c := serve(t, s, noon()).as("")
	assert.JSONEq(t, `{"status": "ok", "record": "protected"}`, string(c.send("GET", "/healthz", nil).ok().body))
	owner, err := store.Open(t.Context(), address, 1)
	require.NoError(t, err)
	defer owner.Close()
	c = serve(t, owner, noon())
	var said map[string]string
	require.NoError(t, json.NewDecoder(bytes.NewReader(c.send("GET", "/healthz", nil).ok().body)).Decode(&said))
	assert.Contains(t, said["record"], "not protected: the role")
	assert.Contains(t, get[office.BackupsView](c, "/api/backups").Unprotected, "may do anything")
}
