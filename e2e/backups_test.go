package e2e

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"gallipot/internal/app/kernel"
	"gallipot/internal/backup"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAnOwnerMakesABackupAndTakesItAway in the shop's settings; nobody else is offered one.
func TestAnOwnerMakesABackupAndTakesItAway(t *testing.T) {
	s := serve(t, true)
	p := open(t, s, 1280, 800)
	p.visit("/shop#backups")
	p.sees("There is none yet.")
	p.sees("Gallipot can add to the record and cannot change it.")
	p.sees("It is no backup")
	p.click("Make a backup now")
	p.sees("by Ines")
	link := js[string](p, "[...document.querySelectorAll('a')].find((a) => a.innerText === 'Take the last one away').href")
	got := filepath.Join(t.TempDir(), "taken.backup")
	js[bool](p, fmt.Sprintf("(fetch(%s).then((r) => r.arrayBuffer()).then((b) => { window.taken = [...new Uint8Array(b)] }), true)",
		quote(link)))
	p.until("window.taken?.length > 0", "the file")
	bytes := js[[]int](p, "window.taken")
	raw := make([]byte, len(bytes))
	for i, b := range bytes {
		raw[i] = byte(b)
	}
	require.NoError(t, os.WriteFile(got, raw, 0o600))
	m, err := backup.Read(got)
	require.NoError(t, err, "what was taken away is a whole backup")
	assert.EqualValues(t, 23, m.Counts["batches"])
	assert.NotContains(t, m.Counts, "sessions")

	ctx := kernel.As(context.Background(), people.Person{Name: "Ines", Role: people.Owner})
	v, err := s.app.Office.Backups(ctx)
	require.NoError(t, err)
	require.Len(t, v.Made, 1)
	assert.Equal(t, m.Head, v.Made[0].Head)
	p.as("Bram")
	p.visit("/shop")
	p.sees("From shop to shop")
	assert.Zero(t, js[int](p, "document.querySelectorAll('section[aria-label=Backup]').length"), "an owner's")
}
