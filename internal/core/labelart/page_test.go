package labelart

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestEveryPairOfLettersIsReadFromAPage as it was written: a head that is copied from a batch record must be the head,
// and flour must not be our.
func TestEveryPairOfLettersIsReadFromAPage(t *testing.T) {
	const letters = "0123456789abcdefghijklmnopqrstuvwxyzFT:"
	p := Page{Title: "sunflower, halfback", Parts: []PagePart{{Head: "pairs", Shares: []float64{1}}}}
	for _, a := range letters {
		var pairs []string
		for _, b := range letters {
			pairs = append(pairs, "x"+string(a)+string(b)+"y")
		}
		for _, some := range [][]string{pairs[:20], pairs[20:]} {
			p.Parts[0].Rows = append(p.Parts[0].Rows, []string{strings.Join(some, " ")})
		}
	}
	var b bytes.Buffer
	_, err := p.PDF(&b)
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "page.pdf")
	require.NoError(t, os.WriteFile(file, b.Bytes(), 0o600))
	text, err := exec.Command("pdftotext", file, "-").Output()
	require.NoError(t, err)
	assert.Contains(t, string(text), p.Title)
	for _, row := range p.Parts[0].Rows {
		for _, pair := range strings.Fields(row[0]) {
			assert.Contains(t, string(text), pair)
		}
	}
}
