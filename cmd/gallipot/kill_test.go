package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"testing"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/cluster"
	"gallipot/internal/demo"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// served is the program as a process of its own on a database.
type served struct {
	cmd  *exec.Cmd
	base string
}

var printed = regexp.MustCompile(`is at (http://[0-9.:]+)`)

func startProgram(t *testing.T, binary, database string) served {
	t.Helper()
	cmd := exec.Command(binary, "serve", "-addr", "127.0.0.1:0")
	cmd.Env = append(os.Environ(), "DATABASE_URL="+database)
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	t.Cleanup(func() { _ = cmd.Process.Kill() })
	var said bytes.Buffer
	part := make([]byte, 256)
	for !printed.Match(said.Bytes()) {
		n, err := out.Read(part)
		require.NoError(t, err, said.String())
		said.Write(part[:n])
	}
	return served{cmd, string(printed.FindSubmatch(said.Bytes())[1])}
}

// TestAnEntryIsSafeOnceItIsAnsweredAndWrittenOnceHoweverOften kills the program between an entry and its answer, again
// and again, and sends the same entry to the next one.
func TestAnEntryIsSafeOnceItIsAnsweredAndWrittenOnceHoweverOften(t *testing.T) {
	binary := filepath.Join(t.TempDir(), "gallipot")
	out, err := exec.Command("go", "build", "-o", binary, ".").CombinedOutput()
	require.NoError(t, err, string(out))
	dir, err := os.MkdirTemp("", "gallipot-kill-")
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	ctx := context.Background()
	pg, err := cluster.Start(ctx, dir, "")
	require.NoError(t, err)
	defer pg.Stop()
	a, st, err := open(ctx, pg.URL)
	require.NoError(t, err)
	require.NoError(t, seed(ctx, a))
	require.NoError(t, demo.Load(ctx, a))
	single, err := a.SingleSignIn(ctx, demo.Owner())
	require.NoError(t, err)
	token, err := a.UseSingleSignIn(ctx, single)
	require.NoError(t, err)
	require.NoError(t, st.Close())

	send := func(p served, method, path string, body any) (int, app.BatchView) {
		raw, err := json.Marshal(body)
		require.NoError(t, err)
		r, err := http.NewRequest(method, p.base+path, bytes.NewReader(raw))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/json")
		r.AddCookie(&http.Cookie{Name: "gallipot", Value: token})
		res, err := http.DefaultClient.Do(r)
		if err != nil {
			return 0, app.BatchView{} // killed before the answer
		}
		defer res.Body.Close()
		var v app.BatchView
		_ = json.NewDecoder(res.Body).Decode(&v)
		return res.StatusCode, v
	}
	p := startProgram(t, binary, pg.URL)
	_, batch := send(p, "GET", "/api/batches/20", nil)
	open := batch.Record.Lines[3:]
	require.Len(t, open, 5)
	answered := 0
	for i, line := range open {
		entry := map[string]any{"kind": "weighing", "weighing": map[string]any{"line": line.Line, "grams": line.Grams}}
		path := fmt.Sprintf("/api/batches/20/entries?key=kill-%d", i)
		done := make(chan int, 1)
		go func() {
			status, _ := send(p, "POST", path, entry)
			done <- status
		}()
		time.Sleep(time.Duration(i*4) * time.Millisecond) // at another moment each time
		require.NoError(t, p.cmd.Process.Kill())
		if <-done == http.StatusOK {
			answered++
		}
		_ = p.cmd.Wait()
		p = startProgram(t, binary, pg.URL)
		status, v := send(p, "POST", path, entry)
		require.Equal(t, http.StatusOK, status, "the tablet sends it again")
		n := 0
		for _, e := range v.Entries {
			if e.Kind() == "weighing" && e.Seq > 3+i {
				n++
			}
		}
		assert.Equal(t, 1, n, "written once")
		assert.NotNil(t, v.Record.Lines[3+i].Actual)
	}
	_, batch = send(p, "GET", "/api/batches/20", nil)
	assert.True(t, batch.Record.Weighed)
	t.Logf("%d of %d entries were answered before the kill", answered, len(open))
}
