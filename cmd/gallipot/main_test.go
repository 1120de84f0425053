package main

import (
	"bytes"
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"gallipot/internal/app/kernel"
	"gallipot/internal/cluster"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const example = "../../internal/demo/hollin-lane.bundle.json"

func assessFile(t *testing.T, file string) (map[string]any, error) {
	t.Helper()
	var out bytes.Buffer
	if err := run(context.Background(), []string{"assess", "-date", "2026-11-25", file}, &out); err != nil {
		return nil, err
	}
	var v map[string]any
	require.NoError(t, json.Unmarshal(out.Bytes(), &v))
	return v, nil
}

func TestAssessPrintsWhatIsPromised(t *testing.T) {
	v, err := assessFile(t, example)
	require.NoError(t, err)
	formulas, ok := v["formulas"].([]any)
	require.True(t, ok)
	require.NotEmpty(t, formulas)
	for _, x := range formulas {
		f := x.(map[string]any)
		for _, key := range []string{"name", "version", "lines", "cost_per_jar", "ph", "water_activity",
			"salt_in_water_percent", "preservation_index", "make_up", "allergens", "declaration"} {
			assert.Contains(t, f, key)
		}
		percent := 0.0
		for _, l := range f["lines"].([]any) {
			line := l.(map[string]any)
			assert.NotEmpty(t, line["ingredient"])
			assert.Positive(t, line["grams"])
			percent += line["percent"].(float64)
		}
		assert.InDelta(t, 100, percent, 1e-6, f["name"])
		assert.IsType(t, 1.0, f["cost_per_jar"], "money is a JSON number")
		ph := f["ph"].(map[string]any)
		if ph["no_water"] == false {
			assert.LessOrEqual(t, ph["low"], ph["estimate"])
			assert.GreaterOrEqual(t, ph["high"], ph["estimate"])
		}
		assert.IsType(t, false, ph["incomplete"])
		d := f["declaration"].(map[string]any)
		assert.NotEmpty(t, d["us"].(map[string]any)["list"])
		assert.Contains(t, d["us"], "contains")
		assert.NotEmpty(t, d["gb"].(map[string]any)["list"])
		total := 0.0
		for _, part := range f["make_up"].(map[string]any) {
			total += part.(float64)
		}
		assert.InDelta(t, 100, total, 1e-6)
	}
}

func TestAssessNamesWhatIsWrongInABundle(t *testing.T) {
	raw, err := os.ReadFile(example)
	require.NoError(t, err)
	for name, c := range map[string]struct{ old, new, field string }{
		"an unknown field": {`"formulas": [`, `"diaries": [], "formulas": [`, "bundle"},
		"a missing ingredient": {`"ingredient": "ginger"`, `"ingredient": "nothing"`,
			"formulas[0].versions[0].lines[0]"},
		"an open parenthesis": {`"soybeans; rice; salt; barley"`, `"soybeans (rice; salt"`, ".supplier_lists"},
		"a negative price":    {`"price": 21.8`, `"price": -21.8`, ".offers[0].price"},
		"a word for a price":  {`"price": 21.8`, `"price": "abc"`, ".price"},
		"a cycle of components": {`"ingredient": "ginger"`,
			`"component": {"formula": "carrot_miso_dressing", "version": 3}`, "formulas[0]"},
		"a component not there": {`"formula": "ginger_paste",
        "version": 1`, `"formula": "ginger_paste",
        "version": 9`, "lines[3]"},
		"a draft as a component": {`"formula": "ginger_paste",
        "version": 1`, `"formula": "pumpkin_maple_spread",
        "version": 1`, "lines[3]"},
	} {
		t.Run(name, func(t *testing.T) {
			require.Contains(t, string(raw), c.old)
			file := filepath.Join(t.TempDir(), "b.json")
			require.NoError(t, os.WriteFile(file, []byte(strings.Replace(string(raw), c.old, c.new, 1)), 0o600))
			_, err := assessFile(t, file)
			var p kernel.Problem
			require.ErrorAs(t, err, &p)
			var fields []string
			for _, f := range p.Fields {
				fields = append(fields, f.Field)
			}
			assert.Contains(t, strings.Join(fields, "\n"), c.field)
		})
	}
}

func TestTheCommandLineSaysWhatIsWrong(t *testing.T) {
	for _, args := range [][]string{{"dance"}, {"assess"}, {"assess", "nowhere.json"},
		{"assess", "-date", "soon", example}, {"import"}, {"export"}} {
		t.Setenv("DATABASE_URL", "")
		assert.Error(t, run(context.Background(), args, &bytes.Buffer{}), "%v", args)
	}
	var out bytes.Buffer
	require.NoError(t, run(context.Background(), nil, &out))
	assert.Contains(t, out.String(), "gallipot assess")
}

func TestADemoThatRunsSaysWhereItIs(t *testing.T) {
	dir, err := os.MkdirTemp("", "gallipot-demo-")
	require.NoError(t, err)
	defer os.RemoveAll(dir)
	require.NoError(t, os.Chmod(dir, 0o755))
	running, err := cluster.Start(context.Background(), filepath.Join(dir, "postgres"), "fsync=off")
	require.NoError(t, err)
	defer running.Stop()
	require.NoError(t, running.Leave("http://127.0.0.1:8099"))
	var out bytes.Buffer
	require.NoError(t, runDemo(context.Background(), []string{"-dir", dir}, &out))
	assert.Contains(t, out.String(), "http://127.0.0.1:8099")

	link := filepath.Join(dir, "link")
	require.NoError(t, os.Symlink(dir, link))
	err = runDemo(context.Background(), []string{"-reset", "-dir", link}, &out)
	require.Error(t, err, "a running shop is never thrown away, by whatever path")
	_, err = os.Stat(filepath.Join(dir, "postgres", "data"))
	require.NoError(t, err)
}

// until passes what a program prints on, and closes said once a word of it came.
type until struct {
	mu   sync.Mutex
	out  bytes.Buffer
	word string
	said chan struct{}
}

func (u *until) Write(p []byte) (int, error) {
	u.mu.Lock()
	defer u.mu.Unlock()
	had := strings.Contains(u.out.String(), u.word)
	n, err := u.out.Write(p)
	if !had && strings.Contains(u.out.String(), u.word) {
		close(u.said)
	}
	return n, err
}

// demoUntilItServes runs the demo in a folder and ends it once it serves; it returns what it printed.
func demoUntilItServes(t *testing.T, args ...string) string {
	t.Helper()
	ctx, end := context.WithCancel(context.Background())
	defer end()
	out, ended := &until{word: "Gallipot is at", said: make(chan struct{})}, make(chan error, 1)
	go func() { ended <- runDemo(ctx, args, out) }()
	select {
	case <-out.said:
		end()
		require.NoError(t, <-ended)
	case err := <-ended:
		require.NoError(t, err, "it ended before it served")
	}
	return out.out.String()
}

// TestTheClosedFolderOfARootHasAPlaceOfItsOwn starts a demo where the database's user may not enter: its data goes to
// a place of that folder's own, which is said, found again, and taken away when the demo starts over.
func TestTheClosedFolderOfARootHasAPlaceOfItsOwn(t *testing.T) {
	if os.Geteuid() != 0 {
		t.Skip("only root runs the database as somebody else")
	}
	dir := t.TempDir()
	require.NoError(t, os.Chmod(dir, 0o700))
	t.Chdir(dir)
	link := filepath.Join(dir, "var", "postgres")
	t.Cleanup(func() { require.NoError(t, cluster.Remove(link)) })

	said := demoUntilItServes(t, "-empty", "-port", "0")
	place, err := os.Readlink(link)
	require.NoError(t, err)
	assert.Contains(t, said, "the demo's data is in "+place)
	assert.True(t, cluster.Holds(place))

	said = demoUntilItServes(t, "-empty", "-port", "0")
	assert.NotContains(t, said, "cannot enter", "the second start follows the link")

	err = runDemo(context.Background(), []string{"-empty", "-port", "0", "-dir", filepath.Join(dir, "asked")},
		&bytes.Buffer{})
	var closed cluster.ClosedError
	require.ErrorAs(t, err, &closed, "a folder that was asked for is never exchanged for another")

	require.NoError(t, startOver("var"))
	_, err = os.Stat(place)
	assert.ErrorIs(t, err, os.ErrNotExist)
}
