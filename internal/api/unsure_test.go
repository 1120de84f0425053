package api

import (
	"database/sql"
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/testdb"

	"github.com/labstack/echo/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// brief serves an empty shop whose requests may take no longer than a moment, with a way in beside it.
func brief(t *testing.T) (*client, *sql.DB) {
	t.Helper()
	s, url := testdb.Safe(t)
	require.NoError(t, seed(s))
	a := app.New(s, noon, kitchen(t))
	h, err := New(a, fstest.MapFS{"index.html": {Data: []byte("x")}}, Options{RequestTime: 2 * time.Second})
	require.NoError(t, err)
	server := httptest.NewServer(h)
	t.Cleanup(server.Close)
	db, err := sql.Open("pgx", url)
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	return (&client{t: t, base: server.URL, app: a}).as("Ines"), db
}

// TestAWriteThatBreaksOffIsNotSaidToBeUnstored holds the database at the very commit until the program gives up, and
// lets it go on: the write is stored after all. Sent again under its key, it is the same.
func TestAWriteThatBreaksOffIsNotSaidToBeUnstored(t *testing.T) {
	t.Parallel()
	c, db := brief(t)
	held, err := db.Begin()
	require.NoError(t, err)
	_, err = held.Exec("SELECT pg_advisory_xact_lock(4)") // the chain's: links are written at the commit
	require.NoError(t, err)
	status, raw := c.under("once", "/api/recipes", "application/json", `{"words":"2 leeks"}`)
	require.Equal(t, http.StatusServiceUnavailable, status, string(raw))
	var p Problem
	require.NoError(t, json.Unmarshal(raw, &p))
	assert.Equal(t, "unsure", p.Code)
	assert.Contains(t, p.Title, "It is not known whether this was stored")
	assert.NotContains(t, p.Title, "nothing was stored")
	require.NoError(t, held.Rollback())

	count := func() (n int) {
		require.NoError(t, db.QueryRow("SELECT count(*) FROM recipes").Scan(&n))
		return n
	}
	var made []byte
	require.Eventually(t, func() bool {
		status, made = c.under("once", "/api/recipes", "application/json", `{"words":"2 leeks"}`)
		return status == http.StatusOK
	}, 20*time.Second, 50*time.Millisecond, string(made))
	assert.Equal(t, 1, count(), "once, whatever became of the first")
}

// TestWhatFailedBeforeTheCommitIsSaidToBeUnstored holds a table instead: nothing can have been stored yet.
func TestWhatFailedBeforeTheCommitIsSaidToBeUnstored(t *testing.T) {
	t.Parallel()
	c, db := brief(t)
	held, err := db.Begin()
	require.NoError(t, err)
	_, err = held.Exec("LOCK TABLE recipes IN ACCESS EXCLUSIVE MODE")
	require.NoError(t, err)
	status, raw := c.under("once", "/api/recipes", "application/json", `{"words":"2 leeks"}`)
	assert.Equal(t, http.StatusServiceUnavailable, status)
	assert.Contains(t, string(raw), "nothing was stored")
	require.NoError(t, held.Rollback())
}

// TestAKeyIsBoundToItsPerson: what Ines sent is not done again as Bram, whoever's tablet it is.
func TestAKeyIsBoundToItsPerson(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	status, _ := c.under("mine", "/api/recipes", "application/json", `{"words":"2 leeks"}`)
	require.Equal(t, http.StatusOK, status)
	line := get[production.BatchView](c, "/api/batches/20").Record.Lines[3]
	entry := map[string]any{"kind": "weighing", "weighing": map[string]any{"line": line.Line, "grams": line.Grams}}
	c.send("POST", "/api/batches/20/entries?key=w-1", entry).ok()
	c.send("POST", "/api/batches/20/entries?key=w-1", entry).ok()
	c.as("Bram")
	status, raw := c.under("mine", "/api/recipes", "application/json", `{"words":"2 leeks"}`)
	assert.Equal(t, http.StatusConflict, status)
	assert.Contains(t, string(raw), "by somebody else")
	c.send("POST", "/api/batches/20/entries?key=w-1", entry).refused(409, "")
}

// TestAFullDiskIsNamed, by the database's own word and by that of a database that cannot even start.
func TestAFullDiskIsNamed(t *testing.T) {
	for name, c := range map[string]struct {
		err  error
		full bool
		code string
	}{
		"the database says so":           {kernel.ErrFull, false, "full"},
		"away, because there is no room": {kernel.ErrAway, true, "full"},
		"away":                           {kernel.ErrAway, false, "away"},
	} {
		t.Run(name, func(t *testing.T) {
			o := Options{Full: func() bool { return c.full }}
			e := echo.New()
			w := httptest.NewRecorder()
			o.respondError(e.NewContext(httptest.NewRequest("POST", "/api/recipes", strings.NewReader("")), w), c.err)
			assert.Equal(t, http.StatusServiceUnavailable, w.Code)
			var p Problem
			require.NoError(t, json.Unmarshal(w.Body.Bytes(), &p))
			assert.Equal(t, c.code, p.Code)
			assert.Contains(t, p.Title, "nothing was stored")
		})
	}
}
