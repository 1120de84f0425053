package store

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var byHand = regexp.MustCompile(
	`\b(SELECT|INSERT INTO|DELETE FROM|LOCK TABLE|UNION|WITH RECURSIVE)\b|UPDATE \w+( \w+)? SET`)

// goFiles are the sources of the package by their names, without tests.
func goFiles(t *testing.T) map[string]string {
	t.Helper()
	out := map[string]string{}
	names, err := filepath.Glob("*.go")
	require.NoError(t, err)
	for _, name := range names {
		if strings.HasSuffix(name, "_test.go") {
			continue
		}
		raw, err := os.ReadFile(name)
		require.NoError(t, err)
		out[name] = string(raw)
	}
	return out
}

// TestSQLByHandStandsInSevenFiles: GORM is the way to the data; what it cannot say well stands in files that the
// package comment names with their reasons, and nowhere else.
func TestSQLByHandStandsInSevenFiles(t *testing.T) {
	sources := goFiles(t)
	said, _, found := strings.Cut(sources["store.go"], "\npackage store")
	require.True(t, found)
	named := regexp.MustCompile(`(?m)^//   - ([\w/.]+): \S`).FindAllStringSubmatch(said, -1)
	var listed []string
	for _, m := range named {
		listed = append(listed, m[1])
	}
	require.LessOrEqual(t, len(listed), 7)
	there, err := filepath.Glob("queries/*")
	require.NoError(t, err)
	for name, src := range sources {
		for i, line := range strings.Split(src, "\n") {
			code, _, _ := strings.Cut(line, "//")
			if byHand.MatchString(code) && name != "queries.go" {
				if !assert.Contains(t, listed, name, "line %d: %s", i+1, strings.TrimSpace(code)) {
					break
				}
				there = append(there, name)
			}
		}
	}
	assert.Subset(t, there, listed, "no file is listed that has none")
	assert.Subset(t, listed, there)
}

// TestEveryQueryIsAskedForAndThere: no statement lies about, and none is missed when it is needed.
func TestEveryQueryIsAskedForAndThere(t *testing.T) {
	asked := map[string]bool{}
	for _, src := range goFiles(t) {
		for _, m := range regexp.MustCompile(`(?:query|with)\("(\w+)"`).FindAllStringSubmatch(src, -1) {
			assert.Contains(t, queries, m[1])
			asked[m[1]] = true
		}
	}
	for name, text := range queries {
		assert.True(t, asked[name], "nothing asks for %s", name)
		assert.NotEmpty(t, strings.TrimSpace(text), name)
	}
	assert.Panics(t, func() { query("none of them") })
}
