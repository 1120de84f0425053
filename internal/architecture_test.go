// Package internal holds the tests of the house: where imports point, what things are called, how long they are.
package internal

import (
	"encoding/json"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// floors say what a package may import of ours: core downward only; the rooms of app on core and on the rooms named
// before them; the edges on app.
var floors = map[string][]string{
	"internal/core/amount":   {},
	"internal/core/law":      {"core/day", "core/amount"},
	"internal/core/allergen": {"core/law"},
	"internal/core/pantry":   {"core/day", "core/field", "core/amount", "core/law", "core/allergen"},
	"internal/core/formula":  {"core/day", "core/amount", "core/law", "core/pantry"},
	"internal/core/acidity":  {"core/day", "core/amount", "core/law", "core/pantry", "core/formula"},
	"internal/core/keeping":  {"core/day", "core/amount", "core/law", "core/pantry", "core/formula"},
	"internal/core/trace":    {"core/day", "core/amount", "core/bench", "core/lots"},
	"internal/core/costing": {"core/day", "core/field", "core/amount", "core/bench", "core/law", "core/pantry",
		"core/formula"},
	"internal/core/declaration": {"core/day", "core/amount", "core/law", "core/allergen", "core/pantry",
		"core/formula"},
	"internal/core/people": {},
	"internal/core/chain":  {},
	"internal/core/entry":  {"core/people"},
	"internal/core/lots": {"core/day", "core/field", "core/amount", "core/law", "core/pantry", "core/people",
		"core/entry"},
	"internal/core/bench": {"core/day", "core/field", "core/amount", "core/law", "core/pantry", "core/formula",
		"core/acidity",
		"core/people",
		"core/entry", "core/lots"},
	"internal/core/recall": {"core/day", "core/field", "core/bench", "core/entry", "core/law", "core/people",
		"core/trace"},
	"internal/core/pack":     {"core/field", "core/pantry"},
	"internal/core/labelart": {"core/day", "core/field", "core/declaration", "core/law", "core/pack", "core/pantry"},
	"internal/core/reader":   {"core/day", "core/field", "core/amount", "core/law", "core/pantry"},
	"internal/core/assess":   {"core/"},
	"internal/core/draft":    {"core/amount", "core/field", "core/formula", "core/reader"},
	"internal/core/day":      {},
	"internal/core/field":    {},
	"internal/core/match":    {"core/day", "core/amount", "core/field", "core/law", "core/pantry", "core/reader"},
	"internal/core/told":     {"core/day", "core/"},
	"internal/core/shop": {"core/allergen", "core/amount", "core/bench", "core/costing", "core/declaration",
		"core/field", "core/formula", "core/keeping", "core/labelart", "core/law", "core/match", "core/pack",
		"core/pantry"},
	"internal/core/judge": {"core/allergen", "core/amount", "core/bench", "core/costing", "core/entry", "core/formula",
		"core/law", "core/lots", "core/pantry"},
	"internal/app/kernel":     {"core/"},
	"internal/app/catalog":    {"core/", "app/kernel"},
	"internal/app/production": {"core/", "app/kernel", "app/catalog"},
	"internal/app/release":    {"core/", "app/kernel", "app/catalog", "app/production"},
	"internal/app/office":     {"core/", "app/kernel", "app/catalog", "app/production", "app/release"},
	"internal/app":            {"core/", "app/"},
	"internal/reference":      {"core/"},
	"internal/store":          {"core/", "app/kernel", "upcast"},
	"internal/interchange":    {"core/", "app/", "upcast"},
	"internal/api":            {"core/", "app", "app/", "interchange"},
	"internal/demo":           {"core/", "app", "app/", "interchange"},
	"internal/device":         {"core/shop", "app/kernel", "app/production"},
	"internal/cluster":        {},
	"internal/backup":         {"app/kernel", "cluster", "core/chain", "store"},
	"internal/cases":          {},
	"internal/upcast":         {},
}

// impure are packages that the rules of the job may not touch.
var impure = []string{"net/http", "os", "github.com/labstack/echo", "gorm.io", "math/rand", "crypto/rand"}

func TestImportsPointInward(t *testing.T) {
	seen := 0
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		folder := filepath.ToSlash(filepath.Join("internal", filepath.Dir(path)))
		allowed, known := floors[folder]
		if !known {
			if folder == "internal/testdb" {
				return nil // for tests only
			}
			t.Errorf("%s has no floor: say what it may import", folder)
			return nil
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		require.NoError(t, err)
		for _, im := range file.Imports {
			name := strings.Trim(im.Path.Value, `"`)
			if ours, ok := strings.CutPrefix(name, "gallipot/internal/"); ok {
				ok := false
				for _, a := range allowed {
					ok = ok || ours == a || strings.HasSuffix(a, "/") && strings.HasPrefix(ours, a)
				}
				assert.True(t, ok, "%s imports %s", path, name)
			}
			if strings.HasPrefix(folder, "internal/core/") {
				for _, bad := range impure {
					assert.False(t, name == bad || strings.HasPrefix(name, bad+"/"), "%s imports %s", path, name)
				}
			}
		}
		seen++
		return nil
	})
	require.NoError(t, err)
	assert.Greater(t, seen, 30)
}

// TestCoreAndStoreAskNoClock: the core is told what time it is, and the store by the stamp of its transaction.
func TestCoreAndStoreAskNoClock(t *testing.T) {
	for _, root := range []string{"core", "store"} {
		require.NoError(t, filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
				return err
			}
			file, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
			require.NoError(t, err)
			ast.Inspect(file, func(n ast.Node) bool {
				if sel, ok := n.(*ast.SelectorExpr); ok && sel.Sel.Name == "Now" {
					if x, ok := sel.X.(*ast.Ident); ok {
						assert.NotEqual(t, "time", x.Name, "%s asks the clock", path)
					}
				}
				return true
			})
			return nil
		}))
	}
}

// TestEachDependencyHasItsReason looks for what go.mod and package.json name in the decision on dependencies.
func TestEachDependencyHasItsReason(t *testing.T) {
	page, err := os.ReadFile(filepath.Join("..", "docs", "decisions", "2026-12-01-dependencies.md"))
	require.NoError(t, err)
	mod, err := os.ReadFile(filepath.Join("..", "go.mod"))
	require.NoError(t, err)
	var direct []string
	for line := range strings.Lines(string(mod)) {
		words := strings.Fields(line)
		if len(words) == 2 && strings.HasPrefix(words[1], "v") && strings.HasPrefix(line, "\t") {
			direct = append(direct, words[0])
		}
	}
	raw, err := os.ReadFile(filepath.Join("..", "web", "package.json"))
	require.NoError(t, err)
	var web struct{ Dependencies, DevDependencies map[string]string }
	require.NoError(t, json.Unmarshal(raw, &web))
	direct = slices.Concat(direct, slices.Collect(maps.Keys(web.Dependencies)),
		slices.Collect(maps.Keys(web.DevDependencies)))
	require.Greater(t, len(direct), 30)
	for _, name := range direct {
		assert.True(t, strings.Contains(string(page), "`"+name+"`"), "nothing is said of %s", name)
	}
}
