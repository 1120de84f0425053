package labelart

import (
	"bytes"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/tdewolff/canvas"
)

func dip(regime law.Regime) Content {
	under, err := law.Of(regime)
	if err != nil {
		panic(err)
	}
	return Content{Law: under, ProductName: "Beetroot & horseradish dip",
		LegalName: "Beetroot dip with strained yogurt",
		List:      "Beetroot (60%), strained yogurt (cultured **milk**), prepared horseradish (horseradish, vinegar, salt), cider vinegar, rapeseed oil, salt.",
		Contains:  "", NetQuantity: "190 g", Nominal: 190, DateLine: "Use by 12 December",
		Storage: "Keep refrigerated at or below 5 °C. Once opened, use within 7 days.",
		Lot:     "L26-329-B", Business: "Hollin Lane Larder\n3 Hollin Lane, Eddlesham"}
}

func lay(t testing.TB, c Content, w, h float64) *Layout {
	t.Helper()
	l, err := Lay(c, Stock{w, h})
	require.NoError(t, err)
	return l
}

func TestTypeShrinksToTheLegalLeastAndNeverUnder(t *testing.T) {
	for _, size := range [][2]float64{{120, 80}, {95, 65}, {80, 50}, {60, 40}, {40, 25}} {
		for _, regime := range []law.Regime{law.US, law.GB} {
			l := lay(t, dip(regime), size[0], size[1])
			assert.GreaterOrEqual(t, l.XHeightMM, l.LeastMM-1e-9, "%v %s", size, regime)
			assert.GreaterOrEqual(t, l.FigureMM, l.LeastFigure-1e-6, "%v %s", size, regime)
			if l.Fits() {
				for _, b := range l.Boxes {
					assert.LessOrEqual(t, b.Y+b.Height, size[1]+1e-6, "%s on %v", b.Part, size)
					assert.GreaterOrEqual(t, b.Y, 0.0)
				}
			}
		}
	}
}

func TestBlocksDoNotOverlap(t *testing.T) {
	l := lay(t, dip(law.GB), 95, 65)
	require.True(t, l.Fits())
	for i, a := range l.Boxes {
		for _, b := range l.Boxes[i+1:] {
			apart := a.X+a.Width <= b.X+1e-6 || b.X+b.Width <= a.X+1e-6 || a.Y+a.Height <= b.Y+1e-6 ||
				b.Y+b.Height <= a.Y+1e-6
			assert.True(t, apart, "%s and %s", a.Part, b.Part)
		}
	}
}

func TestALabelTooSmallSaysByHowMuch(t *testing.T) {
	l := lay(t, dip(law.US), 60, 30)
	assert.False(t, l.Fits())
	assert.Positive(t, l.ShortMM)
	assert.Contains(t, l.Advice(), "mm too tall")
	assert.Contains(t, strings.Join(Blocking(l.Check(Facts{Released: true, HasReading: true})), "\n"), "Fits the stock")
	for _, s := range []Stock{{10, 50}, {50, 400}} {
		_, err := Lay(dip(law.US), s)
		assert.Error(t, err)
	}
}

func TestCharactersTheFontLacksAreNamed(t *testing.T) {
	c := dip(law.GB)
	c.ProductName = "Dip 漬物"
	l := lay(t, c, 95, 65)
	assert.Equal(t, []string{"漬", "物"}, l.Unprintable)
	assert.False(t, l.Fits())
}

func TestFiguresAreAsHighAsTheShareSays(t *testing.T) {
	f, err := loadFaces()
	require.NoError(t, err)
	face := f.text.Face(100, canvas.Black, canvas.FontBold)
	path, _, err := face.ToPath("0")
	require.NoError(t, err)
	assert.InDelta(t, capShare, path.Bounds().H()/face.Size, 0.03)
}

func pdftotext(t *testing.T, l *Layout, count int) (string, string) {
	t.Helper()
	if _, err := exec.LookPath("pdftotext"); err != nil {
		t.Skip("pdftotext is not installed; make test installs it")
	}
	var b bytes.Buffer
	require.NoError(t, l.PDF(&b, count, "label"))
	file := filepath.Join(t.TempDir(), "label.pdf")
	require.NoError(t, os.WriteFile(file, b.Bytes(), 0o600))
	text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	require.NoError(t, err)
	info, err := exec.Command("pdfinfo", file).Output()
	require.NoError(t, err)
	return string(text), string(info)
}

func TestThePDFHasTheWordsAndTheRealSize(t *testing.T) {
	text, info := pdftotext(t, lay(t, dip(law.GB), 95, 65), 3)
	for _, want := range []string{"Beetroot & horseradish dip", "Ingredients:", "cultured", "milk", "190 g",
		"Use by 12 December", "L26-329-B", "Hollin Lane Larder"} {
		assert.Contains(t, text, want)
	}
	assert.Regexp(t, `Pages:\s+3`, info)
	assert.Regexp(t, `Page size:\s+269\.29[0-9]* x 184\.25[0-9]* pts`, info) // 95 x 65 mm
}

func TestAHoldStickerSaysHoldAndNothingForSale(t *testing.T) {
	c := dip(law.GB)
	c.Hold = true
	text, _ := pdftotext(t, lay(t, c, 95, 65), 1)
	assert.Contains(t, text, "HOLD")
	assert.Contains(t, text, "L26-329-B")
	assert.NotContains(t, text, "Use by")
	assert.NotContains(t, text, "Ingredients")
}

func TestTheDrawingIsTheSameLayoutWithAccessibleWords(t *testing.T) {
	s, err := lay(t, dip(law.GB), 95, 65).SVG()
	require.NoError(t, err)
	assert.Contains(t, s, `width="95mm" height="65mm"`)
	assert.Contains(t, s, `role="img"`)
	assert.Contains(t, s, "<title>Beetroot &amp; horseradish dip")
	assert.NotContains(t, s, "<text")
	assert.NotContains(t, s, "<script")
}

func TestTheCheckListCanFail(t *testing.T) {
	c := dip(law.GB)
	c.DateLine, c.Lot, c.List = "", "", "Beetroot, milk."
	points := lay(t, c, 95, 65).Check(Facts{Allergens: []string{"milk"}})
	state := map[string]string{}
	for _, p := range points {
		state[p.Title] = p.State
		assert.NotEmpty(t, p.Why, p.Title)
	}
	for _, title := range []string{"Date", "Lot", "Allergens", "Batch released", "Reading behind the date",
		"Quantity of what is named (QUID)"} {
		assert.Equal(t, Failed, state[title], title)
	}
	assert.Equal(t, Decides, state["Nutrition panel"])
	good := lay(t, dip(law.GB), 95, 65).Check(Facts{Released: true, HasReading: true, Allergens: []string{"milk"},
		QuidNamed: true})
	assert.Empty(t, Blocking(good))
}

func BenchmarkLabelPDF(b *testing.B) {
	b.ReportAllocs()
	for b.Loop() {
		l := lay(b, dip(law.GB), 95, 65)
		var out bytes.Buffer
		if err := l.PDF(&out, 1, "label"); err != nil {
			b.Fatal(err)
		}
	}
}

func TestAStickerFitsItsRollAndSaysWhatMatters(t *testing.T) {
	for _, s := range []Sticker{
		{Code: "P1055", Name: "Strained (Greek-style) yogurt, whole milk, from the dairy down the lane", Ends: "use by 12 Dec 2026",
			Words: []string{"Tansydale Dairy, lot Y-3402, in 25 Nov 2026"}},
		{Code: "26-330-AB", Name: "Ginger paste", Warn: "HOLD"},
	} {
		var b bytes.Buffer
		require.NoError(t, s.PDF(&b, 3))
		file := filepath.Join(t.TempDir(), "sticker.pdf")
		require.NoError(t, os.WriteFile(file, b.Bytes(), 0o600))
		text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
		require.NoError(t, err)
		info, err := exec.Command("pdfinfo", file).Output()
		require.NoError(t, err)
		assert.Regexp(t, `Pages:\s+3`, string(info))
		assert.Regexp(t, `175\.74\d* x 82\.2\d*`, string(info), "62 x 29 mm")
		assert.Contains(t, string(text), s.Code)
		assert.Contains(t, string(text), s.Ends)
		assert.Contains(t, string(text), s.Warn)
		if len(s.Name) > 40 {
			assert.Contains(t, string(text), "…", "a long name is cut with a mark")
		}
	}
	require.Error(t, Sticker{Code: "P1"}.PDF(io.Discard, 0))
	require.Error(t, Sticker{}.PDF(io.Discard, 1), "no code, no bars")
}
