package labelart

import (
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTheBarcodeReadsBackAtItsRealSize(t *testing.T) {
	if _, err := exec.LookPath("zbarimg"); err != nil {
		t.Skip("zbarimg is not installed; make test installs it")
	}
	for _, code := range []string{"5012345678900", "036000291452"} {
		c := dip(law.GB)
		c.Barcode = code
		l := lay(t, c, Two, 95, 80)
		require.True(t, l.Fits(), l.Advice())
		var at Box
		for _, b := range l.Pieces[1].Boxes {
			if b.Part == "barcode" {
				at = b
			}
		}
		assert.InDelta(t, 37.95, at.Width, 0.01, "95 modules and quiet zones of 0.33 mm")
		file, _ := written(t, l, Stock{Kind: Single, WidthMM: 95, HeightMM: 80}, 1, 1)
		require.NoError(t, exec.Command("pdftoppm", "-r", "300", "-png", file, file).Run())
		pictures, err := filepath.Glob(file + "*.png")
		require.NoError(t, err)
		read, _ := exec.Command("zbarimg", append([]string{"-q", "--raw", "-Supca.enable=1"}, pictures...)...).Output()
		assert.Contains(t, string(read), code[:12])
	}
}

// A barcode on a narrow label is smaller, never under what is read, and the check list says so.
func TestABarcodeSaysAtWhichSizeItStands(t *testing.T) {
	for width, want := range map[float64]string{95: "at its nominal size", 40: "of its nominal size"} {
		c := dip(law.GB)
		c.Barcode = "5012345678900"
		l := lay(t, c, Two, width, 140)
		says := ""
		for _, p := range l.Check(Facts{}) {
			if p.Key == "barcode" {
				says = p.Why
			}
		}
		assert.Contains(t, says, want, "%g mm", width)
	}
	c := dip(law.GB)
	c.Barcode = "5012345678900"
	assert.Greater(t, lay(t, c, Two, 30, 140).WideMM, 0.0, "80 % is the least")
}

func TestACodeForTelephonesReadsBack(t *testing.T) {
	if _, err := exec.LookPath("zbarimg"); err != nil {
		t.Skip("zbarimg is not installed; make test installs it")
	}
	c := dip(law.GB)
	c.QR, c.Barcode = "https://larder.example/dip", "5012345678900"
	l := lay(t, c, Two, 78, 92)
	require.True(t, l.Fits(), l.Advice())
	checkBoxes(t, l)
	file, _ := written(t, l, Stock{Kind: Single, WidthMM: 78, HeightMM: 92}, 1, 1)
	require.NoError(t, exec.Command("pdftoppm", "-r", "300", "-png", file, file).Run())
	read, _ := exec.Command("zbarimg", "-q", "--raw", file+"-2.png").Output()
	assert.Contains(t, string(read), "https://larder.example/dip")
	assert.Contains(t, string(read), "5012345678900")
	assert.Error(t, CheckQR(strings.Repeat("x", 200)))
	assert.NoError(t, CheckQR(""))
}

func TestABarcodeIsChecked(t *testing.T) {
	for code, ok := range map[string]bool{"": true, "5012345678900": true, "036000291452": true,
		"5012345678901": false, "036000291453": false, "12345": false, "50123456789OO": false} {
		assert.Equal(t, ok, CheckBarcode(code) == nil, code)
	}
	assert.ErrorContains(t, CheckBarcode("5012345678901"), "it is 0")
}
