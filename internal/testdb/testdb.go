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
	"strings"
	"sync"
	"sync/atomic"
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
	dir, err := os.MkdirTemp("", "gallipot-test-")
	if err != nil {
		fmt.Fprintln(os.Stderr, "testdb:", err)
		return 1
	}
	defer os.RemoveAll(dir)
	// the data is thrown away
	running, err = cluster.Start(context.Background(), dir, "", "fsync=off", "full_page_writes=off")
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

// Safe opens a store on a server of its own that keeps the database's safe settings, for measurements, with the address
// of its database.
func Safe(t testing.TB) (*store.Store, string) {
	t.Helper()
	dir, err := os.MkdirTemp("", "gallipot-bench-")
	if err != nil {
		t.Fatal(err)
	}
	c, err := cluster.Start(context.Background(), dir, "")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		c.Stop()
		_ = os.RemoveAll(dir)
	})
	s, err := store.Open(context.Background(), c.URL, store.UsualConnections)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	return s, c.URL
}

// fresh makes a database, empty or as a copy of another, and returns its address; it goes with the server.
func fresh(t testing.TB, template string) string {
	t.Helper()
	db, err := sql.Open("pgx", running.URL)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	name := fmt.Sprintf("test_%d", count.Add(1))
	if _, err := db.Exec("CREATE DATABASE " + name + " TEMPLATE " + template); err != nil {
		t.Fatal(err)
	}
	u, err := url.Parse(running.URL)
	if err != nil {
		t.Fatal(err)
	}
	u.Path = name
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
	s, err := store.Open(context.Background(), address, oneConnection)
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
	f.once.Do(func() {
		address := fresh(t, "template1")
		s, err := store.Open(context.Background(), address, oneConnection)
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
	return open(t, fresh(t, f.name))
}
