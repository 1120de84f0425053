package labelart

import (
	"bytes"
	"image/png"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"gallipot/internal/core/declaration"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pack"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/tdewolff/canvas"
	"pgregory.net/rapid"
)

func dip(regime law.Regime) Content {
	under, err := law.Of(regime)
	if err != nil {
		panic(err)
	}
	return Content{Law: under, Shop: "Hollin Lane Larder", ProductName: "Beetroot & horseradish dip",
		LegalName: "Beetroot dip with strained yogurt",
		List:      "Beetroot (60%), strained yogurt (cultured **milk**), prepared horseradish (horseradish, vinegar, salt), cider vinegar, rapeseed oil, salt.",
		Allergens: "milk", NetQuantity: under.NetQuantity(190, "g"), Nominal: 190, DateLine: "Use by 12 December",
		Storage: "Keep refrigerated at or below 5 °C. Once opened, use within 7 days.",
		Lot:     "L26-329-B", Business: "Hollin Lane Larder\n3 Hollin Lane, Eddlesham, EX0 0XE"}
}

var jar = pack.Usual()[1] // 190 ml, round

func lay(t testing.TB, c Content, form string, w, h float64) *Layout {
	t.Helper()
	l, err := Lay(c, Design{Form: form, Colour: "#8f1d3f"}, Size{w, h}, jar)
	require.NoError(t, err)
	return l
}

// coded reports whether a box is read by a machine.
func coded(b Box) bool { return b.Part == "barcode" || b.Part == "qr" }

// checkBoxes asserts what no printed label may break: words within the paper, over nothing, in no type under the least.
func checkBoxes(t require.TestingT, l *Layout) {
	for _, p := range l.Pieces {
		for i, a := range p.Boxes {
			if !a.Words() && !coded(a) {
				continue
			}
			assert.LessOrEqual(t, a.Y+a.Height, l.Size.HeightMM+1e-6, "%s of the %s", a.Part, p.Name)
			assert.LessOrEqual(t, a.X+a.Width, l.Size.WidthMM+1e-6, "%s of the %s", a.Part, p.Name)
			assert.GreaterOrEqual(t, min(a.X, a.Y), 0.0, "%s of the %s", a.Part, p.Name)
			if a.Words() && a.Part != "shop" {
				assert.GreaterOrEqual(t, a.Pt*xHeightPerPt(l.faces), l.LeastMM-1e-9, "%s of the %s", a.Part, p.Name)
				assert.LessOrEqual(t, a.text.Bounds().X1, a.Width+0.05, "%s of the %s is too wide", a.Part, p.Name)
			}
			for _, b := range p.Boxes[i+1:] {
				if !b.Words() && !coded(b) {
					continue
				}
				apart := a.X+a.Width <= b.X+1e-6 || b.X+b.Width <= a.X+1e-6 || a.Y+a.Height <= b.Y+1e-6 ||
					b.Y+b.Height <= a.Y+1e-6
				assert.True(t, apart, "%s and %s of the %s: %+v %+v", a.Part, b.Part, p.Name, a, b)
			}
		}
	}
	assert.GreaterOrEqual(t, l.FigureMM, l.LeastFigure-1e-9)
}

func TestTypeShrinksToTheLegalLeastAndNeverUnder(t *testing.T) {
	fits := 0
	for _, size := range [][2]float64{{200, 56}, {190, 48}, {120, 80}, {95, 65}, {80, 50}, {60, 40}, {40, 25}} {
		for _, regime := range []law.Regime{law.US, law.GB} {
			for _, form := range Forms {
				l := lay(t, dip(regime), form, size[0], size[1])
				assert.GreaterOrEqual(t, l.XHeightMM, l.LeastMM-1e-9, "%v %s", size, regime)
				if l.Fits() {
					fits++
					checkBoxes(t, l)
				}
			}
		}
	}
	assert.Greater(t, fits, 20)
}

// The laws of the art: over made-up words, sizes, forms and jars.
func TestNoPrintedLabelOverlapsOrIsTooSmall(t *testing.T) {
	word := rapid.StringMatching(`[a-z]{2,12}`)
	words := func(least, most int) *rapid.Generator[string] {
		return rapid.Custom(func(t *rapid.T) string {
			return strings.Join(rapid.SliceOfN(word, least, most).Draw(t, "words"), " ")
		})
	}
	rapid.Check(t, func(t *rapid.T) {
		regime := rapid.SampledFrom([]law.Regime{law.US, law.GB}).Draw(t, "law")
		c := dip(regime)
		c.ProductName, c.LegalName = words(1, 7).Draw(t, "name"), words(0, 9).Draw(t, "legal")
		c.List = strings.Join(rapid.SliceOfN(words(1, 3), 1, 60).Draw(t, "list"), ", ") + "."
		c.MayContain, c.Directions = words(0, 8).Draw(t, "may"), words(0, 10).Draw(t, "directions")
		if rapid.Bool().Draw(t, "undated") {
			c.DateLine, c.Lot = "", ""
		}
		if rapid.Bool().Draw(t, "bars") {
			c.Barcode = "5012345678900"
		}
		if rapid.Bool().Draw(t, "square") {
			c.QR = "https://larder.example/dip"
		}
		if rapid.Bool().Draw(t, "panel") {
			c.Nutrition = declaration.Nutrition{Fat: 12, EnergyKJ: 900}.Panel(c.Law,
				declaration.PanelAsk{NetGrams: 190})
		}
		l, err := Lay(c, Design{Form: rapid.SampledFrom(Forms).Draw(t, "form")},
			Size{rapid.Float64Range(20, 300).Draw(t, "w"), rapid.Float64Range(20, 300).Draw(t, "h")},
			rapid.SampledFrom(pack.Usual()).Draw(t, "jar"))
		require.NoError(t, err)
		if l.Fits() {
			checkBoxes(t, l)
		} else {
			assert.NotEmpty(t, l.Advice())
			assert.NotEmpty(t, Blocking(l.Check(Facts{})))
		}
	})
}

func TestTheLeastTypeFollowsThePackAndNotTheLabel(t *testing.T) {
	small := Size{60, 40}
	gb := func(j pack.Jar) *Layout {
		l, err := Lay(dip(law.GB), Design{Form: Plain}, small, j)
		require.NoError(t, err)
		return l
	}
	assert.InDelta(t, 1.2, gb(jar).LeastMM, 1e-9, "a jar of 180 cm²")
	assert.InDelta(t, 0.9, gb(pack.Jar{Name: "tiny", ML: 40, Shape: pack.Round, HeightMM: 50, DiameterMM: 40,
		LidMM: 8, WallMM: 25}).LeastMM, 1e-9, "a jar of 53 cm²")
	us, err := Lay(dip(law.US), Design{Form: Plain}, small, pack.Usual()[5])
	require.NoError(t, err)
	assert.InDelta(t, 1.0/8*25.4, us.LeastFigure, 1e-9, "a display panel of 119 cm² asks 1/8 in")
}

func TestAPackUnderTenSquareCentimetresBearsTheReducedSet(t *testing.T) {
	thimble := pack.Jar{Name: "thimble", ML: 10, Shape: pack.Sided, HeightMM: 36, WidthMM: 30, DepthMM: 30, LidMM: 6,
		WallMM: 25}
	l, err := Lay(dip(law.GB), Design{Form: Plain}, Size{44, 40}, thimble)
	require.NoError(t, err)
	require.True(t, l.Fits(), l.Advice())
	text, _ := pdftotext(t, l, 1)
	for _, want := range []string{"Beetroot &", "190 g", "Use by 12 December", "Contains: milk."} {
		assert.Contains(t, text, want)
	}
	assert.NotContains(t, text, "cider vinegar")
	assert.NotContains(t, text, "Keep refrigerated")
	keptCold := dip(law.GB)
	keptCold.UseBy = true
	cold, err := Lay(keptCold, Design{Form: Plain}, Size{44, 60}, thimble)
	require.NoError(t, err)
	text, _ = pdftotext(t, cold, 1)
	assert.Contains(t, text, "Keep refrigerated", "storage belongs to a use-by date")
	us, err := Lay(dip(law.US), Design{Form: Plain}, Size{40, 30}, thimble)
	require.NoError(t, err)
	assert.False(t, us.Reduced, "the US has no such set")
}

func TestALabelTooSmallSaysByHowMuchAndIsNotOverprinted(t *testing.T) {
	for _, form := range Forms {
		l := lay(t, dip(law.US), form, 45, 25)
		assert.False(t, l.Fits())
		assert.Positive(t, l.ShortMM)
		assert.Contains(t, l.Advice(), "mm too tall")
		points := l.Check(Facts{HasBatch: true, Released: true, HasReading: true, Allergens: []string{"milk"}})
		assert.Contains(t, strings.Join(Blocking(points), "\n"), "Fits the paper")
		for _, p := range points {
			if p.Key == "allergens" || p.Key == "type" {
				assert.Equal(t, Waits, p.State, "nothing passes on a label that cannot be printed")
			}
		}
		high := l.Size
		for i := range l.Pieces { // what is too much is drawn beyond the edge
			p := l.Pieces[i]
			l.Size.HeightMM = p.HighMM
			only := *l
			only.Pieces = []Piece{p}
			checkBoxes(t, &only)
			l.Size = high
		}
	}
	for _, s := range []Size{{10, 50}, {50, 400}} {
		_, err := Lay(dip(law.US), Design{Form: Plain}, s, jar)
		assert.Error(t, err)
	}
	_, err := Lay(dip(law.US), Design{Form: "round"}, Size{95, 65}, jar)
	assert.Error(t, err)
}

func TestALargeLabelIsNotLeftHalfEmpty(t *testing.T) {
	for _, form := range Forms {
		small, large := lay(t, dip(law.GB), form, 95, 65), lay(t, dip(law.GB), form, 200, 120)
		assert.Greater(t, large.BodyPt, small.BodyPt*1.2, form)
		lowest := 0.0
		for _, b := range large.Pieces[0].Boxes {
			lowest = max(lowest, b.Y+b.Height)
		}
		assert.Greater(t, lowest, 110.0, "%s: the quantity stands at the foot", form)
	}
}

func TestNoParagraphEndsInAWordAlone(t *testing.T) {
	alone := 0
	for w := 60.0; w < 120; w += 1.5 {
		l := lay(t, dip(law.GB), Two, w, 80)
		for _, b := range l.Pieces[1].Boxes {
			if b.Part == "ingredients" && b.text.Lines() > 2 && lastLine(b.text) < 0.12*b.Width {
				alone++
			}
		}
	}
	assert.LessOrEqual(t, alone, 2, "of 40 widths")
}

func TestCharactersTheFontLacksAreNamed(t *testing.T) {
	c := dip(law.GB)
	c.ProductName = "Dip 漬物"
	l := lay(t, c, Plain, 95, 65)
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

func written(t *testing.T, l *Layout, s Stock, count, from int) (file string, run Run) {
	t.Helper()
	if _, err := exec.LookPath("pdftotext"); err != nil {
		t.Skip("pdftotext is not installed; make test installs it")
	}
	var b bytes.Buffer
	run, err := l.Print(&b, s, count, from, "label")
	require.NoError(t, err)
	file = filepath.Join(t.TempDir(), "label.pdf")
	require.NoError(t, os.WriteFile(file, b.Bytes(), 0o600))
	return file, run
}

func output(t *testing.T, name string, args ...string) string {
	t.Helper()
	out, err := exec.Command(name, args...).Output()
	require.NoError(t, err, name)
	return string(out)
}

func pdftotext(t *testing.T, l *Layout, count int) (string, string) {
	t.Helper()
	file, _ := written(t, l, Stock{Kind: Single, WidthMM: l.Size.WidthMM, HeightMM: l.Size.HeightMM}, count, 1)
	text := strings.ReplaceAll(output(t, "pdftotext", "-layout", file, "-"), "\u00a0", " ")
	return text, output(t, "pdfinfo", file)
}

func TestThePDFHasTheWordsAndTheRealSize(t *testing.T) {
	text, info := pdftotext(t, lay(t, dip(law.GB), Plain, 95, 65), 3)
	for _, want := range []string{"Beetroot & horseradish dip", "Ingredients:", "cultured", "milk", "190 g",
		"Use by 12 December", "L26-329-B", "Hollin Lane Larder"} {
		assert.Contains(t, text, want)
	}
	assert.Regexp(t, `Pages:\s+3`, info)
	assert.Regexp(t, `Page size:\s+269\.29[0-9]* x 184\.25[0-9]* pts`, info) // 95 x 65 mm
}

// places are the x and y in mm of a word in a PDF, page by page.
func places(t *testing.T, file, word string) [][3]float64 {
	t.Helper()
	at := regexp.MustCompile(`<page width="[0-9.]+"|<word xMin="([0-9.]+)" yMin="([0-9.]+)"[^>]*>` + word + `</word>`)
	var out [][3]float64
	page := 0.0
	for _, m := range at.FindAllStringSubmatch(output(t, "pdftotext", "-bbox", file, "-"), -1) {
		if m[1] == "" {
			page++
			continue
		}
		x, err := strconv.ParseFloat(m[1], 64)
		require.NoError(t, err)
		y, err := strconv.ParseFloat(m[2], 64)
		require.NoError(t, err)
		out = append(out, [3]float64{page, x / ptPerMM, y / ptPerMM})
	}
	return out
}

// The bars of a printed label are read back.
// Date and lot come to stand in the place that the stock keeps, wherever that is.
func TestTheDrawingIsTheSameLayoutWithAccessibleWords(t *testing.T) {
	s, err := lay(t, dip(law.GB), Plain, 95, 65).SVG(0)
	require.NoError(t, err)
	assert.Contains(t, s, `width="95mm" height="65mm"`)
	assert.Contains(t, s, `role="img"`)
	assert.Contains(t, s, "<title>Beetroot &amp; horseradish dip")
	assert.NotContains(t, s, "<text")
	assert.NotContains(t, s, "<script")
	long, err := lay(t, dip(law.GB), Plain, 60, 22).SVG(0)
	require.NoError(t, err)
	assert.NotContains(t, long, `height="22mm"`, "what is too much lies beyond the edge")
}

func BenchmarkLabelPDF(b *testing.B) {
	b.ReportAllocs()
	for b.Loop() {
		l := lay(b, dip(law.GB), Plain, 95, 65)
		if _, err := l.Print(io.Discard, Stock{Kind: Single}, 1, 1, "label"); err != nil {
			b.Fatal(err)
		}
	}
}

// BenchmarkTwoHundredLabels lays a label with all that can be on it and writes 200 of it, single and on sheets.
func BenchmarkTwoHundredLabels(b *testing.B) {
	for _, s := range []Stock{{Kind: Roll, WidthMM: 190, HeightMM: 56}, {Kind: Sheet, WidthMM: 63, HeightMM: 90,
		Page: "A4", Columns: 3, Rows: 3}} {
		b.Run(s.Kind, func(b *testing.B) {
			for b.Loop() {
				c := dip(law.GB)
				c.Barcode = "5012345678900"
				c.Nutrition = declaration.Nutrition{Fat: 12, EnergyKJ: 900}.Panel(c.Law, declaration.PanelAsk{})
				l := lay(b, c, Banded, s.WidthMM, s.HeightMM)
				if _, err := l.Print(io.Discard, s, 200, 1, "label"); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// inked is how high the ink of a printed word is, in mm: the page is drawn at 600 dpi and its dark rows are counted.
func inked(t *testing.T, file, word string) float64 {
	t.Helper()
	const dotsPerMM = 600 / 25.4
	at := regexp.MustCompile(
		`<word xMin="([0-9.]+)" yMin="([0-9.]+)" xMax="([0-9.]+)" yMax="([0-9.]+)">` + word + `</word>`)
	m := at.FindStringSubmatch(output(t, "pdftotext", "-bbox", file, "-"))
	require.NotNil(t, m, word)
	var px [4]int
	for i := range px {
		pt, err := strconv.ParseFloat(m[i+1], 64)
		require.NoError(t, err)
		px[i] = int(pt / ptPerMM * dotsPerMM)
	}
	raw := output(t, "pdftoppm", "-r", "600", "-png", "-x", strconv.Itoa(px[0]), "-y", strconv.Itoa(px[1]), "-W",
		strconv.Itoa(px[2]-px[0]), "-H", strconv.Itoa(px[3]-px[1]), file)
	picture, err := png.Decode(strings.NewReader(raw))
	require.NoError(t, err)
	first, last := -1, -1
	for y := range picture.Bounds().Dy() {
		for x := range picture.Bounds().Dx() {
			if isDark(picture.At(x, y)) {
				if first < 0 {
					first = y
				}
				last = y
				break
			}
		}
	}
	return float64(last-first+1) / dotsPerMM
}

// The sizes of type that stand on the printed page itself.
func TestThePrintedTypeIsNotUnderTheLeast(t *testing.T) {
	for _, regime := range []law.Regime{law.GB, law.US} {
		l := lay(t, dip(regime), Plain, 80, 80)
		require.True(t, l.Fits(), l.Advice())
		file, _ := written(t, l, Stock{Kind: Single, WidthMM: 80, HeightMM: 80}, 1, 1)
		assert.GreaterOrEqual(t, inked(t, file, "use"), l.LeastMM-0.03, "lower-case letters, %s", regime)
		figures := map[law.Regime]string{law.GB: "190", law.US: "6.7"}[regime]
		assert.GreaterOrEqual(t, inked(t, file, figures), l.LeastFigure-0.03, "figures of the quantity, %s", regime)
	}
}
