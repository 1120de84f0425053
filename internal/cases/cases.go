// Package cases reads the worked cases that core tests must reproduce. They lie in testdata/cases; the environment
// variable GALLIPOT_CASES names another folder with cases in the same format.
package cases

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"
)

// Load reads the case file of that name into v and fails the test if it cannot.
func Load(t testing.TB, name string, v any) {
	t.Helper()
	dir := os.Getenv("GALLIPOT_CASES")
	if dir == "" {
		dir = filepath.Join(root(t), "testdata", "cases")
	}
	raw, err := os.ReadFile(filepath.Join(dir, name))
	if err != nil {
		t.Fatalf("cases: %v", err)
	}
	if err := json.Unmarshal(raw, v); err != nil {
		t.Fatalf("cases: %s: %v", name, err)
	}
}

// root is the folder of the module: a test runs in that of its package, somewhere below.
func root(t testing.TB) string {
	t.Helper()
	at, err := os.Getwd()
	if err != nil {
		t.Fatalf("cases: %v", err)
	}
	for {
		if _, err := os.Stat(filepath.Join(at, "go.mod")); err == nil {
			return at
		}
		above := filepath.Dir(at)
		if above == at {
			t.Fatal("cases: no go.mod above the test")
		}
		at = above
	}
}
