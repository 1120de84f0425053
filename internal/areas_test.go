package internal

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// floor is one floor of the house in the table of areas: where its files lie, and which names need no area of their
// own.
type floor struct {
	column int
	folder string
	ending string
	other  []string // what holds the floor together
}

var floorsOfAreas = []floor{
	{3, "store", ".go", []string{"store", "pipe", "insertion", "entries", "queries", "upcast"}},
	{4, "api", ".go", []string{"server", "edge", "door", "contract.gen"}},
	{5, "../web/src/places", "", nil},
}

// rooms are those of the use cases; each knows only the ones before it. Of the kernel's files some hold it together.
var rooms = []string{"kernel", "catalog", "production", "release", "office"}

var ofTheKernel = []string{"kernel", "store", "drafts", "kin", "library", "words"}

// table reads the table of areas from the README: area, room, core, store, api, web.
func table(t *testing.T) [][]string {
	t.Helper()
	raw, err := os.ReadFile("../README.md")
	require.NoError(t, err)
	_, after, found := strings.Cut(string(raw), "| area | room | core | store | contract and api | web |\n")
	require.True(t, found, "the README has the table of areas")
	var rows [][]string
	for _, line := range strings.Split(after, "\n")[1:] {
		if !strings.HasPrefix(line, "|") {
			break
		}
		var cells []string
		for _, c := range strings.Split(strings.Trim(line, "|"), "|") {
			cells = append(cells, strings.Trim(strings.TrimSpace(c), "`*"))
		}
		require.Len(t, cells, 6, line)
		rows = append(rows, cells)
	}
	require.Greater(t, len(rows), 10)
	return rows
}

// areaOf is the area that a file belongs to by its name: formulas_variants.go is of formulas.
func areaOf(name, ending string) string {
	area, _, _ := strings.Cut(strings.TrimSuffix(name, ending), "_")
	return area
}

func TestEachAreaHasOneWordAtEveryFloor(t *testing.T) {
	rows := table(t)
	for _, f := range floorsOfAreas {
		entries, err := os.ReadDir(f.folder)
		require.NoError(t, err)
		there := map[string]bool{}
		for _, e := range entries {
			if strings.HasSuffix(e.Name(), "_test.go") || f.ending != "" &&
				(e.IsDir() || !strings.HasSuffix(e.Name(), f.ending)) {
				continue
			}
			if name := strings.TrimSuffix(e.Name(), f.ending); !slices.Contains(f.other, name) {
				there[areaOf(name, "")] = true
			}
		}
		for _, r := range rows {
			if has := r[f.column] == r[0]; has != there[r[0]] {
				t.Errorf("the table and %s disagree about %s", f.folder, r[0])
			}
			delete(there, r[0])
		}
		assert.Empty(t, there, "files in %s that belong to no area", f.folder)
	}
}

// TestEachAreaHasOneRoom: a file of use cases is in the room of its area. The kernel holds the rows of every area.
func TestEachAreaHasOneRoom(t *testing.T) {
	room := map[string]string{}
	for _, r := range table(t) {
		assert.Contains(t, rooms, r[1], r[0])
		room[r[0]] = r[1]
	}
	seen := map[string]bool{}
	for _, in := range rooms {
		entries, err := os.ReadDir("app/" + in)
		require.NoError(t, err)
		for _, e := range entries {
			area := areaOf(e.Name(), ".go")
			if strings.HasSuffix(e.Name(), "_test.go") || area == in ||
				in == "kernel" && slices.Contains(ofTheKernel, area) {
				continue
			}
			if in != "kernel" || room[area] == "kernel" {
				assert.Equal(t, in, room[area], "%s/%s", in, e.Name())
				seen[area] = true
			}
			assert.NotEmpty(t, room[area], "%s/%s is of no area", in, e.Name())
		}
	}
	for area, in := range room {
		assert.True(t, seen[area], "%s has no file in %s", area, in)
	}
}

func TestTheContractsTagsAreTheAreas(t *testing.T) {
	raw, err := os.ReadFile("../api/openapi.yaml")
	require.NoError(t, err)
	tags := map[string]bool{}
	for _, m := range regexp.MustCompile(`tags: \[(\w+)\]`).FindAllStringSubmatch(string(raw), -1) {
		tags[m[1]] = true
	}
	for _, r := range table(t) {
		assert.Equal(t, r[4] == r[0], tags[r[0]], "tag %s", r[0])
		delete(tags, r[0])
	}
	assert.Empty(t, tags, "tags that are no area")
}

func TestTheTableNamesEveryPackageOfTheCore(t *testing.T) {
	// what all areas stand on, and what puts them together
	named := map[string]bool{"amount": true, "assess": true, "day": true, "field": true}
	for _, r := range table(t) {
		for _, p := range strings.Split(r[2], ", ") {
			named[strings.Trim(p, "`")] = true
		}
	}
	entries, err := os.ReadDir("core")
	require.NoError(t, err)
	for _, e := range entries {
		assert.True(t, named[e.Name()], "core/%s stands in no row", e.Name())
	}
}

// catchAlls are names that would let an area's code lie anywhere.
var catchAlls = []string{"handlers", "kitchen", "records", "utils", "util", "helpers", "common", "manager", "misc",
	"types"}

func TestNoFileIsACatchAll(t *testing.T) {
	for _, root := range []string{".", "../web/src", "../cmd"} {
		require.NoError(t, filepath.WalkDir(root, func(path string, d os.DirEntry, err error) error {
			if err == nil && !d.IsDir() {
				name := strings.TrimSuffix(strings.TrimSuffix(areaOf(d.Name(), filepath.Ext(d.Name())), ".test"),
					".gen")
				assert.NotContains(t, catchAlls, name, path)
			}
			return err
		}))
	}
}

// TestShapesAreWrittenOnce: contract and bundle schema say of a shape what its Go type says (docs/decisions).
func TestShapesAreWrittenOnce(t *testing.T) {
	cmd := exec.Command("go", "run", "./scripts/shapes", "-check")
	cmd.Dir = ".."
	out, err := cmd.CombinedOutput()
	assert.NoError(t, err, string(out))
}

func TestStructTagsOfTheDatabaseStayInTheStore(t *testing.T) {
	require.NoError(t, filepath.WalkDir(".", func(path string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasPrefix(path, "store/") ||
			path == "areas_test.go" {
			return err
		}
		raw, err := os.ReadFile(path)
		assert.NotContains(t, string(raw), "gorm:\"", path)
		return err
	}))
}

func TestNoLawIsAskedForByName(t *testing.T) {
	named := regexp.MustCompile(`"(US|GB)"|law\.(US|GB)\b`)
	// the law itself, the spoons, and the made-up shop, which lies in a country
	allowed := []string{"core/law/", "core/amount/units.go", "demo/"}
	require.NoError(t, filepath.WalkDir(".", func(path string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") ||
			strings.HasSuffix(path, ".gen.go") ||
			slices.ContainsFunc(allowed, func(p string) bool { return strings.HasPrefix(path, p) }) {
			return err
		}
		raw, err := os.ReadFile(path)
		for i, line := range strings.Split(string(raw), "\n") {
			code, _, _ := strings.Cut(line, "//")
			assert.False(t, named.MatchString(code), "%s:%d asks for one country: %s", path, i+1,
				strings.TrimSpace(line))
		}
		return err
	}))
}
