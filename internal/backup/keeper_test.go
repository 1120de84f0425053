package backup

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"gallipot/internal/app/kernel"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// shelf is a folder with as many nightly backups, and one that an owner made.
func shelf(t *testing.T, nights int) Keeper {
	t.Helper()
	k := Keeper{Dir: t.TempDir()}
	put := func(name string) { require.NoError(t, os.WriteFile(filepath.Join(k.Dir, name), nil, 0o600)) }
	put("gallipot-2026-01-01T120000.000Z.backup")
	for n := range nights {
		put(fmt.Sprintf("%s2026-03-%02dT020000.000Z.backup", nightly, n+1))
	}
	return k
}

func TestTheLastFourteenNightsAreKept(t *testing.T) {
	k := shelf(t, 20)
	require.NoError(t, k.Prune())
	left, err := filepath.Glob(filepath.Join(k.Dir, "*"))
	require.NoError(t, err)
	require.Len(t, left, Kept+1)
	assert.Equal(t, "gallipot-2026-01-01T120000.000Z.backup", filepath.Base(left[0]), "an owner's own is left")
	assert.Equal(t, nightly+"2026-03-07T020000.000Z.backup", filepath.Base(left[1]), "the oldest went")
	last, err := k.LastNightly()
	require.NoError(t, err)
	assert.Equal(t, time.Date(2026, 3, 20, 2, 0, 0, 0, time.UTC), last)
}

func TestNoNightNoLast(t *testing.T) {
	k := shelf(t, 0)
	last, err := k.LastNightly()
	require.NoError(t, err)
	assert.True(t, last.IsZero())
	require.NoError(t, k.Prune())
}

func TestOnlyWhatLiesInTheFolderIsOpened(t *testing.T) {
	k := shelf(t, 1)
	f, err := k.Open("gallipot-2026-01-01T120000.000Z.backup")
	require.NoError(t, err)
	require.NoError(t, f.Close())
	for _, name := range []string{"../head", "/etc/passwd", "none.backup"} {
		_, err := k.Open(name)
		assert.ErrorIs(t, err, kernel.ErrNotFound, name)
	}
}
