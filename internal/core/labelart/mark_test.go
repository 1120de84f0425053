package labelart

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"testing"

	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTheBandPrintsInItsColourOrInBlack(t *testing.T) {
	for colour, on := range map[string]color.RGBA{"#1f3f93": {255, 255, 255, 255}, "#f0d44a": {0x12, 0x1c, 0x33, 255}} {
		band, letters := Design{Colour: colour}.paint()
		assert.Equal(t, on, letters, colour)
		assert.Greater(t, contrast(band, letters), 4.5, colour)
	}
	band, letters := Design{Colour: "#f0d44a", Mono: true}.paint()
	assert.Equal(t, color.RGBA{A: 255}, band)
	assert.Equal(t, color.RGBA{255, 255, 255, 255}, letters)
	assert.Error(t, Design{Form: Plain, Colour: "red"}.Check())
}

func TestAMarkIsCleaned(t *testing.T) {
	raw := []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 20" width="40" height="20">` +
		`<script>alert(1)</script><a href="https://example.com"><rect width="40" height="20" fill="#223"/></a></svg>`)
	clean, kind, err := CleanMark(raw)
	require.NoError(t, err)
	assert.Equal(t, "svg", kind)
	for _, gone := range []string{"script", "alert", "href", "example"} {
		assert.NotContains(t, string(clean), gone)
	}
	m, err := ReadMark(clean, kind)
	require.NoError(t, err)
	l, err := Lay(dip(law.GB), Design{Form: Two, Mark: m}, Size{95, 65}, jar)
	require.NoError(t, err)
	_, err = l.SVG(0)
	require.NoError(t, err)

	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 60, 30))))
	clean, kind, err = CleanMark(picture.Bytes())
	require.NoError(t, err)
	assert.Equal(t, "png", kind)
	m, err = ReadMark(clean, kind)
	require.NoError(t, err)
	l, err = Lay(dip(law.GB), Design{Form: Banded, Mark: m}, Size{190, 48}, jar)
	require.NoError(t, err)
	file, _ := written(t, l, Stock{Kind: Roll, WidthMM: 190, HeightMM: 48}, 2, 1)
	assert.Contains(t, output(t, "pdfimages", "-list", file), "image")

	for _, bad := range [][]byte{[]byte("GIF89a"), []byte("<svg"), []byte("<svg></svg>"), {},
		bytes.Repeat([]byte("x"), MostMarkBytes+1)} {
		_, _, err := CleanMark(bad)
		assert.Error(t, err)
	}
}
