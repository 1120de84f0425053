// Package testdb gives tests a real PostgreSQL: one server a test binary, a fresh database a test.
package testdb

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"log/slog"
	"net/url"
	"os"
	"path"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"

	"gallipot/internal/cluster"
	"gallipot/internal/store"
)

var (
	running *cluster.Cluster
	count   atomic.Int64
)

// Main runs a package's tests with a server in a temporary folder; afterwards is called once they are done.
func Main(m *testing.M, afterwards ...func()) {
	os.Exit(run(m, afterwards))
}

func run(m *testing.M, afterwards []func()) int {
	slog.SetDefault(slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: slog.LevelWarn})))
	folder := inMemory()
	clearAfterDead(folder)
	dir, err := os.MkdirTemp(folder, fmt.Sprintf(named, os.Getpid()))
	if err != nil {
		fmt.Fprintln(os.Stderr, "testdb:", err)
		return 1
	}
	defer os.RemoveAll(dir)
	running, err = cluster.Start(context.Background(), dir, thrownAway...)
	if err != nil {
		fmt.Fprintln(os.Stderr, "testdb:", err)
		return 1
	}
	defer running.Stop()
	for _, f := range afterwards {
		defer f()
	}
	return m.Run()
}

// inMemory is a folder in memory where there is one with room for all the databases of a run; else the usual one.
func inMemory() string {
	const memory, room = "/dev/shm", 6 << 30
	var there syscall.Statfs_t
	if err := syscall.Statfs(memory, &there); err != nil || there.Bavail*uint64(there.Bsize) < room {
		return ""
	}
	return memory
}

// thrownAway are the settings of a server whose data nobody needs once it has ended.
var thrownAway = []string{"fsync=off", "full_page_writes=off", "synchronous_commit=off", "autovacuum=off", "jit=off",
	"wal_level=minimal", "max_wal_senders=0", "max_wal_size=4GB", "checkpoint_timeout=1h"}

// named is what the folder of a run is called, by its process.
const named = "gallipot-test-%d-"

// clearAfterDead takes away what a run left that was killed: memory is dear.
func clearAfterDead(folder string) {
	left, _ := filepath.Glob(filepath.Join(folder, "gallipot-test-*"))
	for _, f := range left {
		var pid int
		if _, err := fmt.Sscanf(filepath.Base(f), named, &pid); err == nil && syscall.Kill(pid, 0) == syscall.ESRCH {
			_ = os.RemoveAll(f)
		}
	}
}

// Safe opens a store on a server of its own that keeps the database's safe settings, for measurements, with the address
// of its database for the role that owns it.
func Safe(t testing.TB) (*store.Store, string) {
	t.Helper()
	dir, err := os.MkdirTemp("", "gallipot-bench-")
	if err != nil {
		t.Fatal(err)
	}
	c, err := cluster.Start(context.Background(), dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		c.Stop()
		_ = os.RemoveAll(dir)
	})
	s, err := store.OpenAs(context.Background(), store.Addresses{App: c.URL, Migrate: c.OwnerURL},
		store.UsualConnections)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	return s, c.OwnerURL
}

// fresh makes a database, empty or as a copy of another, and returns its address for the role that owns it; it goes
// with the server.
func fresh(t testing.TB, template string) string {
	t.Helper()
	db, err := sql.Open("pgx", running.OwnerURL)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	name := fmt.Sprintf("test_%d", count.Add(1))
	if _, err := db.Exec("CREATE DATABASE " + name + " TEMPLATE " + template + " STRATEGY file_copy"); err != nil {
		t.Fatal(err)
	}
	return within(t, running.OwnerURL, name)
}

// within is an address of the server with another database.
func within(t testing.TB, address, name string) string {
	t.Helper()
	u, err := url.Parse(address)
	if err != nil {
		t.Fatal(err)
	}
	u.Path = name
	return u.String()
}

// ForApp is the address of a database for the role that the application has.
func ForApp(t testing.TB, address string) string {
	t.Helper()
	u, err := url.Parse(address)
	if err != nil {
		t.Fatal(err)
	}
	app, err := url.Parse(running.URL)
	if err != nil {
		t.Fatal(err)
	}
	u.User = app.User
	return u.String()
}

// oneConnection is all a request may hold: a use case that wants a second while it holds one would wait for itself.
const oneConnection = 1

// New opens a migrated store on an empty database.
func New(t testing.TB) *store.Store {
	t.Helper()
	return open(t, fresh(t, "template1"))
}

// Address is that of an empty database without any schema.
func Address(t testing.TB) string {
	t.Helper()
	return fresh(t, "template1")
}

// Signed opens a migrated store on an empty database whose every connection says that Ines writes, for tests of the
// store alone.
func Signed(t testing.TB) *store.Store {
	t.Helper()
	address := fresh(t, "template1")
	u, err := url.Parse(address)
	if err != nil {
		t.Fatal(err)
	}
	q := u.Query()
	q.Set("gallipot.by", "Ines")
	u.RawQuery = q.Encode()
	return open(t, u.String())
}

func open(t testing.TB, address string) *store.Store {
	t.Helper()
	s, err := store.OpenAs(context.Background(), store.Addresses{App: ForApp(t, address), Migrate: address},
		oneConnection)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	return s
}

// Filled is a database that is filled once a test binary and copied for each test.
type Filled struct {
	once sync.Once
	name string
}

// New opens a copy; fill is run on the first call.
func (f *Filled) New(t testing.TB, fill func(*store.Store) error) *store.Store {
	t.Helper()
	s, _ := f.Beside(t, fill)
	return s
}

// Beside opens a copy and gives its address too, for a test that looks into the tables beside the store.
func (f *Filled) Beside(t testing.TB, fill func(*store.Store) error) (*store.Store, string) {
	t.Helper()
	f.once.Do(func() {
		address := fresh(t, "template1")
		s, err := store.OpenAs(context.Background(), store.Addresses{App: ForApp(t, address), Migrate: address},
			oneConnection)
		if err != nil {
			t.Fatal(err)
		}
		// A database with open connections cannot be copied.
		if err := errors.Join(fill(s), s.Close()); err != nil {
			t.Fatal(err)
		}
		f.name = path.Base(strings.SplitN(address, "?", 2)[0])
	})
	if f.name == "" {
		t.Fatal("testdb: filling failed in an earlier test")
	}
	address := fresh(t, f.name)
	return open(t, address), address
}
