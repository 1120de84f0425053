package api

import (
	"encoding/base64"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/app/release"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/shop"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// labelled is the demo's label of a formula under a law.
func labelled(c *client, formula string, regime law.Regime, batch int64) release.LabelView {
	rows := get[[]kernel.LabelRow](c, "/api/labels")
	i := slices.IndexFunc(rows, func(l kernel.LabelRow) bool { return l.Formula == formula && l.Regime == regime })
	require.GreaterOrEqual(c.t, i, 0, formula)
	return get[release.LabelView](c, fmt.Sprintf("/api/labels/%d?batch=%d", rows[i].ID, batch))
}

// onPaper are the words of a label.
func onPaper(v release.LabelView) string {
	_, words, _ := strings.Cut(v.Pieces[0].SVG, "<title>")
	words, _, _ = strings.Cut(words, "</title>")
	return words
}

func point(t *testing.T, v release.LabelView, key string) labelart.Point {
	t.Helper()
	i := slices.IndexFunc(v.Points, func(p labelart.Point) bool { return p.Key == key })
	require.GreaterOrEqual(t, i, 0, key)
	return v.Points[i]
}

func (c *client) reply(v release.LabelView, answer string) release.LabelView {
	return into[release.LabelView](c.send("POST", fmt.Sprintf("/api/labels/%d/answer?rev=%d", v.ID, v.Rev),
		map[string]any{"answer": answer}).ok())
}

// design puts a label's design with a change.
func (c *client) design(v release.LabelView, change func(d *kernel.LabelDesign)) reply {
	d := v.Design
	change(&d)
	return c.send("PUT", fmt.Sprintf("/api/labels/%d?rev=%d", v.ID, v.Rev),
		map[string]any{"width_mm": v.WidthMM, "height_mm": v.HeightMM, "confirm": false, "design": d})
}

// A product whose name stresses nothing can be printed: that is an answer on the label, of a locked version too.
func TestWhatTheMakerDecidesIsAnsweredOnTheLabel(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	v := labelled(c, "lentil_tahini_dip", law.GB, 0)
	first := v.Points[0]
	assert.Equal(t, labelart.Decides, first.State, "what is for the maker stands first")
	assert.Equal(t, labelart.Decides, point(t, v, "quid").State)
	assert.Contains(t, strings.Join(v.Block, "; "), "stress anything else")

	marked := c.reply(v, "named:rapeseed oil")
	assert.Regexp(t, `Lentils \([\d.]+%\)`, onPaper(marked))
	assert.Regexp(t, `rapeseed oil \([\d.]+%\)`, onPaper(marked))
	assert.Equal(t, kernel.LabelCurrent, marked.State, "the words that an answer makes are the label's own")
	again := c.reply(marked, "again:quid")
	assert.NotRegexp(t, `rapeseed oil \([\d.]+%\)`, onPaper(again))

	done := c.reply(again, "nothing_else")
	assert.Equal(t, labelart.Passed, point(t, done, "quid").State)
	assert.Contains(t, point(t, done, "nutrition").Why, "small quantities")
	done = c.reply(done, "nutrition:local")
	assert.Equal(t, labelart.Passed, point(t, done, "nutrition").State)
	assert.Empty(t, slices.DeleteFunc(done.Block, func(s string) bool { return !strings.Contains(s, "?") }))
	told := fmt.Sprint(get[office.HistoryPage](c, fmt.Sprintf("/api/history?of=label&id=%d", v.ID)).Rows)
	for _, want := range []string{"percents beside the marked lines: rapeseed oil",
		"“Lentil & tahini dip” stresses nothing else", "left off, small quantities sold directly or nearby"} {
		assert.Contains(t, told, want, "who decided what, and when, is kept")
	}
	for _, wrong := range []string{"nutrition:because", "named:", "shown", "jar:nowhere"} {
		c.send("POST", fmt.Sprintf("/api/labels/%d/answer?rev=%d", done.ID, done.Rev),
			map[string]any{"answer": wrong}).refused(422, "")
	}
	c.send("POST", fmt.Sprintf("/api/labels/%d/answer?rev=%d", done.ID, v.Rev),
		map[string]any{"answer": "again:quid"}).refused(409, "")
}

// One marked line does not answer for the others that the name has.
func TestEachWordOfTheNameIsAskedAbout(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	v := labelled(c, "smoky_lime_yolk_dressing", law.GB, 0)
	asked := []string{}
	for _, p := range v.Points {
		if strings.HasPrefix(p.Key, "quid:") {
			assert.True(t, p.Blocks)
			asked = append(asked, p.Key)
		}
	}
	require.NotEmpty(t, asked)
	for _, key := range asked {
		v = c.reply(v, "not:"+strings.TrimPrefix(key, "quid:"))
	}
	for _, p := range v.Points {
		assert.False(t, strings.HasPrefix(p.Key, "quid:"), p.Title)
	}
	us := labelled(c, "carrot_miso_dressing", law.US, 0)
	for _, p := range us.Points {
		assert.False(t, strings.HasPrefix(p.Key, "quid"), "the US asks for no quantities")
	}
}

func TestMoreLabelsThanJarsAreAskedAbout(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	v := labelled(c, "carrot_miso_dressing", law.GB, 14)
	require.Empty(t, v.Block)
	print := func(key string, ask map[string]any) reply {
		ask["batch"] = 14
		return c.send("POST", fmt.Sprintf("/api/labels/%d/print?key=%s", v.ID, key), ask)
	}
	said := print("a", map[string]any{"count": 500}).refused(422, "")
	assert.Contains(t, said, fmt.Sprintf("%d jars that still lack one", v.Jars))
	assert.Equal(t, "more_than_jars", into[map[string]any](print("a", map[string]any{"count": 500}))["code"])
	print("a", map[string]any{"count": v.Jars}).ok()
	print("b", map[string]any{"count": 20}).refused(422, "")
	spoil := func(key string, n int) reply {
		return c.send("POST", fmt.Sprintf("/api/labels/%d/spoilt?key=%s", v.ID, key), map[string]any{"batch": 14,
			"count": n})
	}
	spoil("s0", 0).refused(422, "spoilt")
	spoil("s0", 900).refused(422, "spoilt")
	now := into[release.LabelView](spoil("s1", 30).ok())
	spoil("s1", 30).ok() // the same again counts nothing more
	now = get[release.LabelView](c, fmt.Sprintf("/api/labels/%d?batch=14", v.ID))
	assert.Equal(t, []int{v.Jars, v.Jars, 30}, []int{now.Jars, now.Printed, now.Spoilt})
	print("c", map[string]any{"count": 30}).ok()
	print("d", map[string]any{"count": 300, "sure": true}).ok()
	history := get[office.HistoryPage](c, "/api/history?of=batch&id=14")
	assert.Contains(t, fmt.Sprint(history), "30 labels")
}

func TestASheetGoesOnWhereItWasLeft(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	v := labelled(c, "carrot_miso_dressing", law.GB, 14)
	c.design(v, func(d *kernel.LabelDesign) { d.Stock, d.Form, d.Barcode = "sheet-12", labelart.Two, "" }).ok()
	v = labelled(c, "carrot_miso_dressing", law.GB, 14)
	require.Empty(t, v.Block)
	assert.Len(t, v.Pieces, 2)
	before := v.Place
	print := func(key string, from int) reply {
		return c.send("POST", fmt.Sprintf("/api/labels/%d/print?key=%s", v.ID, key),
			map[string]any{"batch": 14, "count": 5, "from": from})
	}
	print("x", 0).ok()
	after := labelled(c, "carrot_miso_dressing", law.GB, 14).Place
	assert.Equal(t, (before-1+10)%12+1, after, "five fronts and five backs on")
	print("x", 0).ok() // the same run again
	assert.Equal(t, after, labelled(c, "carrot_miso_dressing", law.GB, 14).Place)
	c.send("POST", fmt.Sprintf("/api/labels/%d/spoilt?key=z", v.ID), map[string]any{"batch": 14, "count": 2}).ok()
	assert.Equal(t, after, labelled(c, "carrot_miso_dressing", law.GB, 14).Place,
		"spoilt labels leave the sheet as it is")
	print("y", 13).refused(422, "from")
	other := labelled(c, "beetroot_horseradish_dip", law.GB, 0)
	assert.Equal(t, after, other.Place, "the sheet is the shop's, whichever label it is of")
}

func TestAClaimThatTheFormulaBreaksIsNotPrinted(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	v := labelled(c, "hazelnut_kale_pesto", law.GB, 0)
	with := func(claims ...kernel.LabelClaim) release.LabelView {
		v = into[release.LabelView](c.design(v, func(d *kernel.LabelDesign) { d.Claims = claims }).ok())
		return v
	}
	broken := point(t, with(kernel.LabelClaim{Key: "vegan"}, kernel.LabelClaim{Key: "vegetarian"},
		kernel.LabelClaim{Key: "dairy_free"}), "claim:Vegan")
	assert.Equal(t, labelart.Failed, broken.State)
	assert.Contains(t, broken.Why, "Hard grating cheese")
	assert.Contains(t, point(t, v, "claim:Suitable for vegetarians").Why, "rennet")
	assert.NotContains(t, onPaper(v), "Vegan")

	v = labelled(c, "carrot_miso_dressing", law.GB, 14)
	assert.Contains(t, onPaper(with(kernel.LabelClaim{Key: "vegan"})), "Vegan.")
	assert.Equal(t, labelart.Failed, point(t, with(kernel.LabelClaim{Key: "gluten_free"}), "claim:Gluten-free").State)
	assert.Contains(t, point(t, with(kernel.LabelClaim{Words: "High in fibre"}), "claim:High in fibre").Why, "figure")
	v = with(kernel.LabelClaim{Words: "High in fibre", Shown: "6.2 g in 100 g, at least 6 g (Regulation 1924/2006)"})
	assert.Equal(t, labelart.Passed, point(t, v, "claim:High in fibre").State)
	assert.Equal(t, labelart.Decides, point(t, v, "nutrition").State, "a nutrition claim takes the exemption away")
	c.design(v, func(d *kernel.LabelDesign) { d.Claims = []kernel.LabelClaim{{Key: "healthy"}} }).refused(422,
		"design.claims[0].key")
	c.design(v, func(d *kernel.LabelDesign) { d.Barcode = "5012345678901" }).refused(422, "design.barcode")
	c.design(v, func(d *kernel.LabelDesign) { d.Form = "oval" }).refused(422, "design.form")
	c.design(v, func(d *kernel.LabelDesign) { d.Stock = "none" }).refused(422, "design.stock")
}

// An address that cannot be one is refused, and a label for another country names the country.
func TestTheAddressOnALabel(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	us := labelled(c, "carrot_miso_dressing", law.US, 0)
	assert.Contains(t, onPaper(us), "United Kingdom")
	assert.Equal(t, labelart.Passed, point(t, us, "address").State)
	change := func(put func(s *shop.Settings)) {
		shop := get[office.ShopView](c, "/api/shop")
		put(&shop.Settings)
		c.send("PUT", "/api/shop?rev="+fmt.Sprint(shop.Rev), shop.Settings).ok()
	}
	gb := func() release.LabelView { return labelled(c, "carrot_miso_dressing", law.GB, 14) }
	change(func(s *shop.Settings) { s.Address = "a, b" })
	assert.Equal(t, labelart.Failed, point(t, gb(), "address").State)
	change(func(s *shop.Settings) { s.Address = "Hollin Lane Larder, 3 Hollin Lane, Eddlesham, EX0 0XE" })
	assert.Equal(t, 1, strings.Count(point(t, gb(), "address").Why, "Hollin Lane Larder"), "its name stands once")
	change(func(s *shop.Settings) { s.Country = "Ireland" })
	assert.Contains(t, point(t, gb(), "address").Why, "names an address in the United Kingdom")
	change(func(s *shop.Settings) {
		s.LabelAddresses = law.Each[string]{law.GB: "7 Quern Row, Eddlesham, EX0 0XE"}
	})
	assert.Equal(t, labelart.Passed, point(t, gb(), "address").State)
	assert.Contains(t, onPaper(gb()), "7 Quern Row")
}

func TestTheShopsMarkStandsOnItsLabels(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	c.send("GET", "/api/shop/mark", nil).refused(404, "")
	put := func(s string) reply {
		return c.send("PUT", "/api/shop/mark", map[string]any{"mark": base64.StdEncoding.EncodeToString([]byte(s))})
	}
	put("no picture").refused(422, "mark")
	before := art(labelled(c, "carrot_miso_dressing", law.GB, 0))
	put(`<svg xmlns="http://www.w3.org/2000/svg" width="30" height="10"><script>x</script>` +
		`<circle cx="5" cy="5" r="4" fill="#1f3f93"/></svg>`).ok()
	kept := string(c.send("GET", "/api/shop/mark", nil).ok().body)
	assert.Contains(t, kept, "<svg")
	assert.NotContains(t, kept, "script")
	assert.NotEqual(t, before, art(labelled(c, "carrot_miso_dressing", law.GB, 0)))
	put(`<svg xmlns="http://www.w3.org/2000/svg" width="30" height="10"><rect width="9" height="9" fill="#a12a3a"/></svg>`).
		ok()
	c.send("DELETE", "/api/shop/mark", nil).ok()
	told := get[office.HistoryPage](c, "/api/history?of=shop&id=1").Rows
	require.Greater(t, len(told), 3)
	for i, want := range []string{"took the mark off", "changed the mark", "put a mark"} {
		assert.Contains(t, told[i].Said, want)
		assert.Equal(t, "Ines", told[i].By)
		assert.Empty(t, told[i].Details, "no picture in a note")
	}
	assert.Equal(t, before, art(labelled(c, "carrot_miso_dressing", law.GB, 0)))
}

// The sheet says how full the jar is, and that it does not hold a fill.
func TestTheSheetTellsHowFullItsJarIs(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	s := get[catalog.SheetView](c, "/api/formulas/carrot_miso_dressing/versions/4")
	assert.Equal(t, "188 of 205 mL to the brim, 7 mm of headspace", s.JarFill.Says)
	s = into[catalog.SheetView](c.put(s, func(v map[string]any) { v["fill_g"] = 230 }).ok())
	assert.True(t, s.JarFill.Over)
	assert.Contains(t, s.JarFill.Says, "holds 205 mL to the brim; the fill is 228 mL")
	s = into[catalog.SheetView](c.put(s, func(v map[string]any) { v["jar"] = "" }).ok())
	assert.Empty(t, s.JarFill)
}

// A fill by volume follows the density, which keeps who measured it and when.
func TestAFillByVolumeFollowsTheDensity(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	path := "/api/formulas/tamarind_date_dressing/versions/2"
	sheet := get[catalog.SheetView](c, path)
	v := sheet.Version
	v.FillML, v.DensityGPerML = 250, 0
	c.send("PUT", fmt.Sprintf("%s?rev=%d", path, sheet.Rev), v).refused(422, "fill_ml")
	v.DensityGPerML = 1.06
	saved := into[catalog.SheetView](c.send("PUT", fmt.Sprintf("%s?rev=%d", path, sheet.Rev), v).ok())
	assert.Equal(t, "265", saved.Version.FillGrams.String())
	assert.Equal(t, "Ines", saved.Version.DensityBy)
	assert.NotEmpty(t, saved.Version.DensityOn)
}

// Stock that was printed before takes the date alone, unless it lacks what this batch must bear.
func TestDatesAreOverprintedOnStockPrintedBefore(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	v := labelled(c, "carrot_miso_dressing", law.GB, 14)
	art := c.send("GET", fmt.Sprintf("/api/labels/%d/artwork", v.ID), nil).ok()
	before := pdfText(t, art.body)
	assert.Contains(t, before, "Ingredients")
	assert.NotContains(t, before, "Use by")
	edition := ""
	print := func(key, part string) reply {
		return c.send("POST", fmt.Sprintf("/api/labels/%d/print?key=%s", v.ID, key),
			map[string]any{"batch": 14, "count": 2, "part": part, "edition": edition})
	}
	print("none", "date").refused(422, "edition")
	edition = regexp.MustCompile(`· ([0-9A-F]{5})`).FindStringSubmatch(before)[1]
	dates := pdfText(t, print("a", "date").ok().body)
	assert.Contains(t, dates, "Use by")
	assert.NotContains(t, dates, "Ingredients")
	assert.Equal(t, 2, labelled(c, "carrot_miso_dressing", law.GB, 14).Printed)
	print("b", "half").refused(422, "part")
	c.reply(labelled(c, "carrot_miso_dressing", law.GB, 0), "named:garlic")
	said := print("c", "date").refused(422, "edition")
	assert.Contains(t, said, "other words", "stock from before the words changed takes no date")
	open := labelled(c, "lentil_tahini_dip", law.GB, 0)
	said = c.send("GET", fmt.Sprintf("/api/labels/%d/artwork", open.ID), nil).refused(422, "")
	assert.Contains(t, said, "Not drawn")
}

// A label on hold is held against its paper as it will be for sale: no surprise comes with the release.
func TestOnHoldTheLabelIsHeldAgainstItsPaperToo(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	v := labelled(c, "lentil_tahini_dip", law.GB, 19)
	require.True(t, v.Hold)
	assert.Equal(t, labelart.Passed, point(t, v, "fits").State)
	assert.Contains(t, v.Sticker, "HOLD")
	small := into[release.LabelView](c.send("PUT", fmt.Sprintf("/api/labels/%d?rev=%d&batch=19", v.ID, v.Rev),
		map[string]any{"width_mm": 72, "height_mm": 30, "confirm": false}).ok())
	assert.True(t, small.Hold)
	assert.Contains(t, point(t, small, "fits").Why, "mm too tall")
	assert.Greater(t, small.Pieces[0].HighMM, 30.0, "what is too much is drawn beyond the edge")
}

// Jars that carry other words than the label has now are told, until as many were labelled anew.
func TestTheJarsThatCarryTheOldWordsAreTold(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	v := labelled(c, "carrot_miso_dressing", law.GB, 14)
	print := func(key string, n int) {
		c.send("POST", fmt.Sprintf("/api/labels/%d/print?key=%s", v.ID, key),
			map[string]any{"batch": 14, "count": n, "sure": true}).ok()
		v = labelled(c, "carrot_miso_dressing", law.GB, 14)
	}
	print("old", 58)
	assert.Empty(t, v.Carry)
	v = c.reply(labelled(c, "carrot_miso_dressing", law.GB, 0), "named:garlic")
	assert.Equal(t, []release.Carrying{{ID: 14, Code: "26-317-A", Jars: 58}}, v.Carry)
	print("some", 8)
	assert.Equal(t, []release.Carrying{{ID: 14, Code: "26-317-A", Jars: 50}}, v.Carry, "eight were labelled anew")
	print("rest", 50)
	assert.Empty(t, v.Carry)
}

// A batch whose label lists what its group was made of carries no other words than it should.
func TestABatchOfAGroupCarriesItsOwnWords(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	c.app.Now = func() time.Time { return *now }
	s := c.sheetOf("House glaze", "vinegar_cider", 400, "rapeseed_oil", 400, "sugar", 200,
		[]string{"dill", "parsley"}, 60)
	v := c.labelOf(s, law.GB, func(v *formula.Version) { v.ProductStyle, v.StyleByLines = "spread", false })
	v = c.reply(c.reply(c.reply(v, "name_says"), "nutrition:local"), "jar:tall-300")
	made := into[production.BatchView](c.send("POST", "/api/batches", map[string]any{"formula": "house_glaze",
		"version": 1,
		"jars":    3, "made_on": now.Format(time.DateOnly)}).ok())
	b := &baker{c, made.ID, 0, now}
	for _, l := range b.view().Record.Lines {
		w := b.weighing(b.id, l, l.Grams)
		if l.Line == "l6" {
			w["draws"] = []map[string]any{{"code": c.deliver("parsley", nil).Code, "grams": l.Grams}}
		}
		b.write(map[string]any{"kind": "weighing", "weighing": w}).ok()
	}
	b.fill(3)
	*now = now.Add(25 * time.Hour)
	b.readAll(3)
	b.decide("released", "").ok()
	v = labelled(c, "house_glaze", law.GB, b.id)
	assert.Contains(t, onPaper(v), "parsley")
	assert.NotContains(t, onPaper(v), "dill")
	require.Empty(t, v.Block)
	c.send("POST", fmt.Sprintf("/api/labels/%d/print?key=g", v.ID), map[string]any{"batch": b.id, "count": 3}).ok()
	assert.Empty(t, labelled(c, "house_glaze", law.GB, b.id).Carry)
	assert.Empty(t, labelled(c, "house_glaze", law.GB, 0).Carry)
}

// Without a batch a label has nothing to put right: what the batch brings is to come.
func TestWithoutABatchNothingIsToBePutRight(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	for _, formula := range []string{"carrot_miso_dressing", "lentil_tahini_dip", "tamarind_date_dressing"} {
		v := labelled(c, formula, law.GB, 0)
		waits := 0
		for _, p := range v.Points {
			assert.NotEqual(t, labelart.Failed, p.State, "%s: %s", formula, p.Title)
			if p.State == labelart.Waits {
				assert.False(t, p.Blocks)
				waits++
			}
		}
		assert.GreaterOrEqual(t, waits, 4, "reading, date, release, lot")
	}
}
