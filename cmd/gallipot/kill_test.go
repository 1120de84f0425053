package main

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"gallipot/internal/app/production"
	"gallipot/internal/cluster"
	"gallipot/internal/core/bench"
	"gallipot/internal/demo"
	"gallipot/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// program is Gallipot as a process of its own on a database.
type program struct {
	cmd  *exec.Cmd
	base string
}

var printed = regexp.MustCompile(`is at (http://[0-9.:]+)`)

func startProgram(t *testing.T, binary string, at store.Addresses) program {
	t.Helper()
	cmd := exec.Command(binary, "serve", "-addr", "127.0.0.1:0")
	cmd.Env = append(os.Environ(), "DATABASE_URL="+at.App, "MIGRATE_DATABASE_URL="+at.Migrate)
	if os.Getenv("STATE_DIRECTORY") == "" {
		cmd.Env = append(cmd.Env, "STATE_DIRECTORY="+t.TempDir())
	}
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	t.Cleanup(func() { _ = cmd.Process.Kill() })
	return program{cmd, printedBy(t, out)}
}

// printedBy reads the address that a program prints.
func printedBy(t *testing.T, out io.Reader) string {
	t.Helper()
	var said bytes.Buffer
	part := make([]byte, 256)
	for !printed.Match(said.Bytes()) {
		n, err := out.Read(part)
		require.NoError(t, err, said.String())
		said.Write(part[:n])
	}
	return string(printed.FindSubmatch(said.Bytes())[1])
}

// killed is the demo on a database of its own, with a program of its own that can be killed.
type killed struct {
	*testing.T
	made
	url   string // of its database, for the application's role
	owner string // of the same, for the role that owns it
}

func (k killed) addresses() store.Addresses { return store.Addresses{App: k.url, Migrate: k.owner} }

// made is the program's binary, and a server with the demo loaded, from which each test has a copy.
type made struct {
	binary string
	pg     *cluster.Cluster
	token  string // of an owner who is signed in
}

// theShop is made for the first test that kills something; folder holds all of it.
var (
	folder  string
	theShop = sync.OnceValues(makeShop)
)

func TestMain(m *testing.M) {
	code := m.Run()
	if folder != "" {
		if m, err := theShop(); err == nil {
			m.pg.Stop()
		}
		_ = os.RemoveAll(folder)
	}
	os.Exit(code)
}

func makeShop() (made, error) {
	var err error
	if folder, err = os.MkdirTemp("", "gallipot-kill-"); err != nil {
		return made{}, err
	}
	binary := filepath.Join(folder, "gallipot")
	if out, err := exec.Command("go", "build", "-o", binary, ".").CombinedOutput(); err != nil {
		return made{}, fmt.Errorf("%w: %s", err, out)
	}
	ctx := context.Background()
	pg, err := cluster.Start(ctx, folder)
	if err != nil {
		return made{}, err
	}
	a, st, err := open(ctx, addresses(pg))
	if err != nil {
		return made{}, err
	}
	if err := errors.Join(seed(ctx, a), demo.Load(ctx, a)); err != nil {
		return made{}, err
	}
	once, err := a.Office.SingleSignIn(ctx, demo.Owner())
	if err != nil {
		return made{}, err
	}
	token, err := a.Office.UseSingleSignIn(ctx, once)
	return made{binary, pg, token}, errors.Join(err, st.Close())
}

func toKill(t *testing.T) killed {
	t.Helper()
	m, err := theShop()
	require.NoError(t, err)
	u, err := url.Parse(m.pg.OwnerURL)
	require.NoError(t, err)
	app, err := url.Parse(m.pg.URL)
	require.NoError(t, err)
	whole := u.Path[1:]
	u.Path = "/postgres"
	db, err := sql.Open("pgx", u.String())
	require.NoError(t, err)
	defer db.Close()
	u.Path = "/" + strings.ToLower(t.Name())
	app.Path = u.Path
	_, err = db.Exec("CREATE DATABASE " + u.Path[1:] + " TEMPLATE " + whole)
	require.NoError(t, err)
	// A copied sequence thinks that the log has its next numbers already, and would hand them out twice after a crash.
	_, err = db.Exec("CHECKPOINT")
	require.NoError(t, err)
	return killed{t, m, app.String(), u.String()}
}

// send asks the program; status 0 where it was killed before the answer.
func (k killed) send(p program, method, path string, body any) (int, production.BatchView) {
	raw, err := json.Marshal(body)
	require.NoError(k, err)
	r, err := http.NewRequest(method, p.base+path, bytes.NewReader(raw))
	require.NoError(k, err)
	r.Header.Set("Content-Type", "application/json")
	r.AddCookie(&http.Cookie{Name: "gallipot", Value: k.token})
	res, err := http.DefaultClient.Do(r)
	if err != nil {
		return 0, production.BatchView{}
	}
	defer res.Body.Close()
	var v production.BatchView
	_ = json.NewDecoder(res.Body).Decode(&v)
	return res.StatusCode, v
}

// TestAnEntryIsSafeOnceItIsAnsweredAndWrittenOnceHoweverOften kills the program between an entry and its answer, again
// and again, and sends the same entry to the next one.
func TestAnEntryIsSafeOnceItIsAnsweredAndWrittenOnceHoweverOften(t *testing.T) {
	k := toKill(t)
	send := k.send
	p := startProgram(t, k.binary, k.addresses())
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
		p = startProgram(t, k.binary, k.addresses())
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

// TestACaptureOutlivesItsDatabase kills PostgreSQL while captures are on their way, and sends them again until they are
// answered: each is written down once.
func TestACaptureOutlivesItsDatabase(t *testing.T) {
	k := toKill(t)
	p := startProgram(t, k.binary, k.addresses())
	status, batch := k.send(p, "GET", "/api/batches/20", nil)
	require.Equal(t, http.StatusOK, status)
	for _, e := range batch.Record.Loads[0].Errands {
		if e.First {
			status, _ = k.send(p, "POST", "/api/batches/20/entries?key=tick-"+e.Key,
				map[string]any{"kind": "ticked", "ticked": map[string]any{"load": 1, "key": e.Key}})
			require.Equal(t, http.StatusOK, status)
		}
	}
	for i, l := range batch.Record.Loads[0].Lines[3:6] {
		lot := k.lot(p, l.Line)
		entry := map[string]any{"kind": "capture", "capture": map[string]any{"load": 1, "line": l.Line, "grams": l.Now,
			"manual": true, "draws": []map[string]any{{"code": lot, "grams": l.Now}}}}
		path := fmt.Sprintf("/api/batches/20/entries?key=db-%d", i)
		done := make(chan int, 1)
		go func() {
			status, _ := k.send(p, "POST", path, entry)
			done <- status
		}()
		time.Sleep(time.Duration(3+i*7) * time.Millisecond) // at another moment each time
		k.killDatabase()
		first := <-done
		var v production.BatchView
		for end := time.Now().Add(time.Minute); time.Now().Before(end); time.Sleep(200 * time.Millisecond) {
			if status, v = k.send(p, "POST", path, entry); status == http.StatusOK {
				break
			}
			require.NotEqual(t, http.StatusConflict, status, "the same act is no conflict with itself")
		}
		require.Equal(t, http.StatusOK, status, "after the first answer %d", first)
		n := 0
		for _, e := range v.Entries {
			if c, ok := e.Body.(*bench.Capture); ok && c.Line == l.Line {
				n++
			}
		}
		assert.Equal(t, 1, n, "written once")
	}
}

// lots are those proposed for the lines of batch 20, once the program answers: a connection that broke with the
// database tells so when it is used.
func (k killed) lots(p program) (lots []production.LineLots) {
	for end := time.Now().Add(time.Minute); time.Now().Before(end); time.Sleep(100 * time.Millisecond) {
		r, err := http.NewRequest("GET", p.base+"/api/batches/20/lots", nil)
		require.NoError(k, err)
		r.AddCookie(&http.Cookie{Name: "gallipot", Value: k.token})
		res, err := http.DefaultClient.Do(r)
		require.NoError(k, err)
		if res.StatusCode == http.StatusOK {
			require.NoError(k, json.NewDecoder(res.Body).Decode(&lots))
		}
		require.NoError(k, res.Body.Close())
		if lots != nil {
			return lots
		}
		require.Equal(k, http.StatusServiceUnavailable, res.StatusCode)
	}
	k.Fatal("the program does not answer")
	return nil
}

// lot is the code of the lot that is proposed for a line of batch 20.
func (k killed) lot(p program, line string) string {
	for _, l := range k.lots(p) {
		if l.Line == line {
			require.NotEmpty(k, l.Lots)
			return l.Lots[0].Code
		}
	}
	return ""
}

// killDatabase kills the server of the database, which its keeper starts anew. Where it was killed a moment ago it is
// waited for: connections of the dead one may still answer meanwhile.
func (k killed) killDatabase() {
	require.Eventually(k, func() bool {
		raw, err := os.ReadFile(filepath.Join(k.pg.Dir, "data", "postmaster.pid"))
		if err != nil {
			return false
		}
		first, _, _ := strings.Cut(string(raw), "\n")
		pid, err := strconv.Atoi(strings.TrimSpace(first))
		return err == nil && syscall.Kill(pid, syscall.SIGKILL) == nil
	}, time.Minute, 20*time.Millisecond)
}
