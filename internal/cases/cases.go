// Package cases reads the worked cases that core tests must reproduce. They lie in testdata/cases; the environment
// variable GALLIPOT_CASES names another folder with cases in the same format.
package cases

import (
	"encoding/json"
	"os"
	"path/filepath"
	"runtime"
	"testing"
)

// Load reads the case file of that name into v and fails the test if it cannot.
func Load(t testing.TB, name string, v any) {
	t.Helper()
	dir := os.Getenv("GALLIPOT_CASES")
	if dir == "" {
		_, here, _, _ := runtime.Caller(0)
		dir = filepath.Join(filepath.Dir(here), "..", "..", "testdata", "cases")
	}
	raw, err := os.ReadFile(filepath.Join(dir, name))
	if err != nil {
		t.Fatalf("cases: %v", err)
	}
	if err := json.Unmarshal(raw, v); err != nil {
		t.Fatalf("cases: %s: %v", name, err)
	}
}
