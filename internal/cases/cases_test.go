package cases

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// waiting are the case files that no test reads yet: the work that names them is still to come.
var waiting = map[string]bool{"titration.json": true}

var loads = regexp.MustCompile(`cases\.Load\(t, "([a-z_]+\.json)"`)

// TestEveryCaseFileIsRead finds case files that lie there and prove nothing.
func TestEveryCaseFileIsRead(t *testing.T) {
	read := map[string]bool{}
	require.NoError(t, filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, "_test.go") {
			return err
		}
		raw, err := os.ReadFile(path)
		for _, m := range loads.FindAllStringSubmatch(string(raw), -1) {
			read[m[1]] = true
		}
		return err
	}))
	files, err := filepath.Glob("../../testdata/cases/*.json")
	require.NoError(t, err)
	require.Greater(t, len(files), 10)
	for _, f := range files {
		name := filepath.Base(f)
		assert.True(t, read[name] != waiting[name], "%s: read by a test %v, waiting %v", name, read[name],
			waiting[name])
	}
}
