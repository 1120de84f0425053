package web

import (
	"bytes"
	"compress/gzip"
	"io/fs"
	"path"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// firstLoadLimit is how many bytes of scripts and styles, packed, a browser fetches before it shows the first screen.
const firstLoadLimit = 160_000

// scriptLimit is how many of them may be scripts.
const scriptLimit = 150_000

var (
	inPage   = regexp.MustCompile(`(?:src|href)="/assets/([^"]+\.(?:js|css))"`)
	inScript = regexp.MustCompile(`(?:^|[;}])import(?:[^"'();]*from)?["']\./([^"']+\.js)["']`)
)

// TestTheFirstScreenIsLight weighs what index.html asks for, with what those scripts import before they run.
func TestTheFirstScreenIsLight(t *testing.T) {
	files := Files()
	page, err := fs.ReadFile(files, "index.html")
	require.NoError(t, err)
	var waiting []string
	for _, m := range inPage.FindAllSubmatch(page, -1) {
		waiting = append(waiting, string(m[1]))
	}
	if len(waiting) == 0 {
		t.Skip("the web app is not built here; make test builds it")
	}
	scripts, all := 0, 0
	for seen := map[string]bool{}; len(waiting) > 0; waiting = waiting[1:] {
		name := waiting[0]
		if seen[name] {
			continue
		}
		seen[name] = true
		raw, err := fs.ReadFile(files, path.Join("assets", name))
		require.NoError(t, err)
		size := packed(t, raw)
		all += size
		if path.Ext(name) != ".js" {
			continue
		}
		scripts += size
		for _, m := range inScript.FindAllSubmatch(raw, -1) {
			waiting = append(waiting, string(m[1]))
		}
	}
	t.Logf("%d bytes of scripts, %d with the styles", scripts, all)
	assert.Greater(t, scripts, 50_000, "what is weighed is the app")
	assert.LessOrEqual(t, scripts, scriptLimit, "bytes of scripts")
	assert.LessOrEqual(t, all, firstLoadLimit, "bytes of scripts and styles")
}

func packed(t *testing.T, raw []byte) int {
	t.Helper()
	var out bytes.Buffer
	w, err := gzip.NewWriterLevel(&out, gzip.BestCompression)
	require.NoError(t, err)
	_, err = w.Write(raw)
	require.NoError(t, err)
	require.NoError(t, w.Close())
	return out.Len()
}
