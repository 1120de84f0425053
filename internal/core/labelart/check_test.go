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
)

func TestAHoldStickerSaysHoldAndNothingForSale(t *testing.T) {
	c := dip(law.GB)
	c.Hold = true
	text, _ := pdftotext(t, lay(t, c, Banded, 95, 65), 1)
	assert.Contains(t, text, "HOLD")
	assert.Contains(t, text, "L26-329-B")
	assert.NotContains(t, text, "Use by")
	assert.NotContains(t, text, "Ingredients")
}

func TestTheCheckListCanFail(t *testing.T) {
	c := dip(law.GB)
	c.DateLine, c.Lot, c.List, c.Storage = "", "", "Beetroot, milk.", ""
	state := func(l *Layout, f Facts) map[string]Point {
		out := map[string]Point{}
		for _, p := range l.Check(f) {
			out[p.Key] = p
			assert.NotEmpty(t, p.Why, p.Title)
			assert.NotNil(t, p.Answers, p.Title)
		}
		return out
	}
	l := lay(t, c, Plain, 95, 65)
	bad := state(l, Facts{HasBatch: true, Released: true, Allergens: []string{"milk"}, AddressWrong: "no postcode",
		Open: []string{"Stock"}, Unnamed: []string{"fish"}, Stressed: []string{"beetroot"}, OutOfDate: true})
	for _, key := range []string{"date", "lot", "allergens", "reading", "address", "looked_at", "kinds",
		"storage", "up_to_date"} {
		assert.Equal(t, Failed, bad[key].State, key)
		assert.True(t, bad[key].Blocks, key)
	}
	for _, key := range []string{"quid", "quid:beetroot", "jar", "nutrition"} {
		assert.Equal(t, Decides, bad[key].State, key)
		assert.NotEmpty(t, bad[key].Why, key)
	}
	for _, key := range []string{"date", "lot", "released", "reading"} {
		assert.Equal(t, Waits, state(l, Facts{})[key].State, "%s comes with the batch", key)
		assert.Equal(t, Waits, state(l, Facts{HasBatch: true})[key].State, "%s comes with its release", key)
	}
	good := Facts{HasBatch: true, Released: true, HasReading: true, Allergens: []string{"milk"},
		Named: []string{"beetroot"}, NothingElse: true, NameSays: true, Nutrition: "local", SurfaceCM2: 180,
		Assessed: true}
	assert.Empty(t, Blocking(lay(t, dip(law.GB), Plain, 95, 65).Check(good)))
	first := lay(t, dip(law.GB), Plain, 95, 65).Check(Facts{HasBatch: true})[0]
	assert.Equal(t, Decides, first.State, "what is for the maker stands first")

	good.Claims = []ClaimVerdict{{"Vegan", []string{"strained yogurt"}, "it comes from an animal"}}
	assert.Contains(t, strings.Join(Blocking(lay(t, dip(law.GB), Plain, 95, 65).Check(good)), ""), "strained yogurt")
	good.Claims, good.Nutrition = nil, "small_pack"
	assert.Contains(t, strings.Join(Blocking(lay(t, dip(law.GB), Plain, 95, 65).Check(good)), ""), "25 cm²",
		"a jar of 180 cm² is no small pack")
	good.Nutrition, good.Overfull, good.Fill = Shown, true, "190 ml take 110 % of the jar"
	assert.Contains(t, strings.Join(Blocking(lay(t, dip(law.GB), Plain, 95, 65).Check(good)), ""), "110 %")
	us := Facts{Nutrition: Shown, SugarUnknown: []string{"Chilli sauce"}}
	assert.Contains(t, strings.Join(Blocking(lay(t, dip(law.US), Plain, 95, 65).Check(us)), ""), "Chilli sauce")
	wide := lay(t, dip(law.GB), Plain, 210, 60).Check(Facts{SurfaceCM2: 180})
	assert.Contains(t, strings.Join(Blocking(wide), ""), "200 × 66 mm", "no larger than the jar has room for")
}

func TestAStickerFitsItsRollAndSaysWhatMatters(t *testing.T) {
	for _, s := range []Sticker{
		{Code: "P1055", Name: "Strained (Greek-style) yogurt, whole milk, from the dairy down the lane",
			Ends:  "use by 12 Dec 2026",
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
