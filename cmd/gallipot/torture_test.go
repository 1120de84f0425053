package main

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"testing/fstest"
	"time"

	"gallipot/internal/api"
	"gallipot/internal/app"
	"gallipot/internal/cluster"
	"gallipot/internal/reference"
	"gallipot/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// faults is how often each fault is tried: a few times in the tests, many times by make torture.
func faults(few, many int) int {
	if os.Getenv("GALLIPOT_TORTURE") == "" {
		return few
	}
	return many
}

// act is a write that was sent, and what was said of it.
type act struct {
	key, path, body string
	status          int    // 0: no answer
	code            string // of the problem
}

// known reports whether the sender was told that it is stored, and whether that it is not.
func (a act) known() (stored, not bool) {
	return a.status == http.StatusOK, a.status != 0 && a.status != http.StatusOK && a.code != "unsure"
}

// hands write without a pause, several at once, while faults happen under them.
type hands struct {
	t      testing.TB
	base   func() string
	client *http.Client
	mark   string
	mu     sync.Mutex
	acts   []act
	tries  int // to write again after a fault
	since  int // the first that counts for heard
	end    chan struct{}
	all    sync.WaitGroup
}

func busyHands(t testing.TB, client *http.Client, base func() string) *hands {
	h := &hands{t: t, base: base, client: client, mark: fmt.Sprintf("%x", rand.Uint32()), end: make(chan struct{})}
	for who := range 3 {
		h.all.Go(func() {
			for n := 0; ; n++ {
				select {
				case <-h.end:
					return
				default:
				}
				h.write(h.one(who, n))
			}
		})
	}
	return h
}

// one is the next write of a pair of hands: a recipe, a meter check, or a customer.
func (h *hands) one(who, n int) act {
	key := fmt.Sprintf("%s-%d-%d", h.mark, who, n)
	switch n % 3 {
	case 0:
		return act{key: key, path: "/api/recipes", body: fmt.Sprintf(`{"words":"%s leeks"}`, key)}
	case 1:
		return act{key: key, path: "/api/meter-checks", body: fmt.Sprintf(
			`{"meter":%q,"mv_buffer_4":174.5,"mv_buffer_7":-1.2,"buffer_temperature_c":25}`, key)}
	}
	return act{key: key, path: "/api/parties", body: fmt.Sprintf(`{"name":%q,"kind":"customer","contact":"x"}`, key)}
}

func (h *hands) write(a act) {
	a.status, a.code = h.send(a)
	h.mu.Lock()
	h.acts = append(h.acts, a)
	h.mu.Unlock()
	pause := 5 * time.Millisecond
	if a.status != http.StatusOK {
		pause *= 10 // nothing answers: do not spin
	}
	time.Sleep(pause)
}

func (h *hands) send(a act) (status int, code string) {
	r, err := http.NewRequest("POST", h.base()+a.path, strings.NewReader(a.body))
	if err != nil {
		return 0, ""
	}
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("Idempotency-Key", a.key)
	res, err := h.client.Do(r)
	if err != nil {
		return 0, ""
	}
	defer res.Body.Close()
	var p struct{ Code string }
	_ = json.NewDecoder(res.Body).Decode(&p)
	return res.StatusCode, p.Code
}

func (h *hands) rest() []act {
	close(h.end)
	h.all.Wait()
	return h.acts
}

// settled holds what was said of each write against the book, once everything runs again: what was acknowledged is
// there once, what was refused is not there, what nobody knows is there once or not, and once when it is sent again.
func (h *hands) settled(acts []act, url string) {
	h.t.Helper()
	db, err := sql.Open("pgx", url)
	require.NoError(h.t, err)
	defer db.Close()
	tally := map[string]int{}
	for _, a := range acts {
		stored, not := a.known()
		n := countOf(h.t, db, a.key)
		switch {
		case stored:
			tally["stored"]++
			assert.Equal(h.t, 1, n, "acknowledged: %+v", a)
		case not:
			tally[a.code]++
			assert.Zero(h.t, n, "said not to be stored: %+v", a)
		default:
			tally["not known"]++
			assert.LessOrEqual(h.t, n, 1, "%+v", a)
			status, code := h.send(a)
			assert.Equal(h.t, http.StatusOK, status, "sent again: %+v %s", a, code)
			assert.Equal(h.t, 1, countOf(h.t, db, a.key), "%+v", a)
		}
	}
	assert.Positive(h.t, tally["stored"])
	var torn int
	require.NoError(h.t, db.QueryRow("SELECT (SELECT count(*) FROM batches b WHERE NOT EXISTS (SELECT FROM lots l"+
		" WHERE l.batch_id = b.id)) + (SELECT count(*) FROM recipes r WHERE NOT EXISTS (SELECT FROM changes c"+
		" WHERE c.what = 'recipe' AND c.which = r.id::text))").Scan(&torn))
	assert.Zero(h.t, torn, "nothing is half written")
	v, err := store.Verify(context.Background(), url)
	require.NoError(h.t, err)
	assert.Empty(h.t, v.Faults)
	h.t.Logf("of %d writes: %v; %d links", len(acts), tally, v.Links)
}

func countOf(t testing.TB, db *sql.DB, key string) (n int) {
	t.Helper()
	require.NoError(t, db.QueryRow("SELECT (SELECT count(*) FROM recipes WHERE words = $1 || ' leeks')"+
		" + (SELECT count(*) FROM meter_checks WHERE meter = $1) + (SELECT count(*) FROM parties WHERE name = $1)",
		key).Scan(&n))
	return n
}

func (k killed) signedIn() *http.Client {
	return &http.Client{Timeout: 40 * time.Second, Transport: cookied{k.token}}
}

// cookied signs every request.
type cookied struct{ token string }

func (c cookied) RoundTrip(r *http.Request) (*http.Response, error) {
	r.AddCookie(&http.Cookie{Name: "gallipot", Value: c.token})
	return http.DefaultTransport.RoundTrip(r)
}

// current is an address that changes while others ask for it.
type current struct {
	mu   sync.Mutex
	base string
}

func (c *current) set(base string) { c.mu.Lock(); c.base = base; c.mu.Unlock() }
func (c *current) get() string     { c.mu.Lock(); defer c.mu.Unlock(); return c.base }

// TestTortureOfTheProgram kills it in the middle of writes, again and again.
func TestTortureOfTheProgram(t *testing.T) {
	k := toKill(t)
	var at current
	p := startProgram(t, k.binary, k.addresses())
	at.set(p.base)
	h := busyHands(t, k.signedIn(), at.get)
	for range faults(5, 200) {
		h.stores()
		time.Sleep(time.Duration(rand.IntN(200)) * time.Millisecond)
		require.NoError(t, p.cmd.Process.Kill())
		_ = p.cmd.Wait()
		p = startProgram(t, k.binary, k.addresses())
		at.set(p.base)
	}
	h.stores()
	h.settled(h.rest(), k.owner)
}

// TestTortureOfTheDatabase kills PostgreSQL in the middle of writes.
func TestTortureOfTheDatabase(t *testing.T) {
	k := toKill(t)
	p := startProgram(t, k.binary, k.addresses())
	h := busyHands(t, k.signedIn(), func() string { return p.base })
	for range faults(2, 50) {
		h.stores()
		time.Sleep(time.Duration(rand.IntN(300)) * time.Millisecond)
		k.killDatabase()
	}
	acts := h.rest()
	h.again()
	h.settled(acts, k.owner)
}

// again waits until a write is taken.
func (h *hands) again() {
	h.t.Helper()
	require.Eventually(h.t, func() bool {
		h.tries++
		status, _ := h.send(h.one(9, 3*h.tries))
		return status == http.StatusOK
	}, 2*time.Minute, 100*time.Millisecond, "writing goes on")
}

// TestTortureByFreezes stops every process of the database until requests are given up, and lets it go on.
func TestTortureByFreezes(t *testing.T) {
	k := toKill(t)
	st, err := store.OpenAs(context.Background(), k.addresses(), store.UsualConnections)
	require.NoError(t, err)
	defer st.Close()
	typical, err := reference.Kitchen()
	require.NoError(t, err)
	handler, err := api.New(app.New(st, time.Now, typical), fstest.MapFS{}, api.Options{RequestTime: time.Second})
	require.NoError(t, err)
	server := httptest.NewServer(handler)
	defer server.Close()
	h := busyHands(t, k.signedIn(), func() string { return server.URL })
	for range faults(1, 20) {
		h.stores()
		time.Sleep(time.Duration(rand.IntN(300)) * time.Millisecond)
		frozen := k.processes()
		for _, pid := range frozen {
			_ = syscall.Kill(pid, syscall.SIGSTOP) // it may have ended meanwhile
		}
		time.Sleep(1500 * time.Millisecond)
		for _, pid := range frozen {
			_ = syscall.Kill(pid, syscall.SIGCONT)
		}
	}
	acts := h.rest()
	h.again()
	h.settled(acts, k.owner)
}

// processes are those of the database: the server and its children.
func (k killed) processes() []int {
	raw, err := os.ReadFile(filepath.Join(k.pg.Dir, "data", "postmaster.pid"))
	require.NoError(k, err)
	first, _, _ := strings.Cut(string(raw), "\n")
	out, err := exec.Command("ps", "-o", "pid=", "--ppid", first).Output()
	require.NoError(k, err)
	pids := []int{atoi(k, first)}
	for _, f := range strings.Fields(string(out)) {
		pids = append(pids, atoi(k, f))
	}
	return pids
}

func atoi(t testing.TB, s string) int {
	n, err := strconv.Atoi(strings.TrimSpace(s))
	require.NoError(t, err)
	return n
}

// small mounts a small disk, where this machine lets us.
func small(t *testing.T, size string) string {
	t.Helper()
	dir := place(t)
	if os.Geteuid() != 0 {
		t.Skip("only root can mount a small disk to fill")
	}
	mount := exec.Command("mount", "-t", "tmpfs", "-o", "size="+size+",mode=755", "tmpfs", dir)
	if out, err := mount.CombinedOutput(); err != nil {
		t.Skipf("this machine mounts no small disk: %s", out)
	}
	t.Cleanup(func() {
		assert.Eventually(t, func() bool { return exec.Command("umount", dir).Run() == nil }, 30*time.Second,
			100*time.Millisecond)
	})
	return dir
}

// fill takes all the room that a disk has left. Returns how to give it back.
func fill(t *testing.T, dir string) func() {
	t.Helper()
	name := filepath.Join(dir, "ballast")
	f, err := os.Create(name)
	require.NoError(t, err)
	for part := make([]byte, 1<<20); ; {
		if _, err := f.Write(part); errors.Is(err, syscall.ENOSPC) {
			if len(part) == 1 {
				break
			}
			part = part[:max(1, len(part)/16)]
		} else {
			require.NoError(t, err)
		}
	}
	require.NoError(t, f.Close())
	return func() { require.NoError(t, os.Remove(name)) }
}

// TestTortureByFullDisks fills the disk of a demo in the middle of writes: it is named, and writing goes on by itself
// when there is room.
func TestTortureByFullDisks(t *testing.T) {
	m, err := theShop()
	require.NoError(t, err)
	dir := small(t, "256m")
	cmd := exec.Command(m.binary, "demo", "-dir", dir, "-port", "0", "-empty")
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	t.Cleanup(func() {
		_ = cmd.Process.Signal(os.Interrupt)
		_ = cmd.Wait()
	})
	base := printedBy(t, out)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	client := &http.Client{Jar: jar, Timeout: 40 * time.Second}
	res, err := client.Post(base+"/api/people/first", "application/json",
		strings.NewReader(`{"name":"Ines","secret":"274910"}`))
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	require.Equal(t, http.StatusOK, res.StatusCode)
	h := busyHands(t, client, func() string { return base })
	for range faults(1, 20) {
		h.stores()
		time.Sleep(time.Duration(rand.IntN(300)) * time.Millisecond)
		empty := fill(t, dir)
		require.Eventually(t, func() bool { return h.heard("full") }, time.Minute, 50*time.Millisecond,
			"a full disk is named")
		empty()
	}
	acts := h.rest()
	h.again()
	_, owner, ok, err := cluster.At(filepath.Join(dir, "postgres"))
	require.NoError(t, err)
	require.True(t, ok)
	h.settled(acts, owner)
}

// heard reports whether a write was answered with a code since the last forgetting.
func (h *hands) heard(code string) bool {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, a := range h.acts[h.since:] {
		if a.code == code {
			return true
		}
	}
	return false
}

// stores waits until a write is acknowledged: so the next fault meets hands that are at work.
func (h *hands) stores() {
	h.t.Helper()
	h.mu.Lock()
	h.since = len(h.acts)
	h.mu.Unlock()
	require.Eventually(h.t, func() bool {
		h.mu.Lock()
		defer h.mu.Unlock()
		for _, a := range h.acts[h.since:] {
			if a.status == http.StatusOK {
				return true
			}
		}
		return false
	}, 2*time.Minute, 5*time.Millisecond, "writing goes on")
}

// TestABackupOnAFullDiskIsRefused, and leaves nothing behind.
func TestABackupOnAFullDiskIsRefused(t *testing.T) {
	apart(t)
	dir := small(t, "1m")
	empty := fill(t, dir)
	_, err := says(t, "backup", filepath.Join(dir, "shop.backup"))
	assert.ErrorContains(t, err, "the disk is full")
	empty()
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, left)
	_, err = says(t, "backup", filepath.Join(dir, "shop.backup"))
	assert.NoError(t, err, "there is room again")
}
