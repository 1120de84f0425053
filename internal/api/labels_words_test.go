package api

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/app/release"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pack"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// labelOf locks a draft, after a change of it, and makes its label under a law.
func (c *client) labelOf(s catalog.SheetView, regime law.Regime, change func(v *formula.Version)) release.LabelView {
	c.t.Helper()
	path := fmt.Sprintf("/api/formulas/%s/versions/%d", s.Formula, s.Version.Number)
	if s = get[catalog.SheetView](c, path); s.Version.State == formula.Draft {
		v := s.Version
		v.FillGrams = amount.G(250)
		if change != nil {
			change(&v)
		}
		s = into[catalog.SheetView](c.send("PUT", fmt.Sprintf("%s?rev=%d", path, s.Rev), v).ok())
		c.lock(path, s.Rev).ok()
	}
	return into[release.LabelView](c.send("POST", "/api/labels", map[string]any{"formula": s.Formula, "regime": regime,
		"width_mm": 120, "height_mm": 70, "design": map[string]any{"form": labelart.Plain}}).ok())
}

// listed is the list of ingredients of a label in plain words.
func listed(v release.LabelView) string {
	_, list, _ := strings.Cut(onPaper(v), "Ingredients: ")
	list, _, _ = strings.Cut(list, ". ")
	return strings.ReplaceAll(list, "&amp;", "&")
}

// Water that a component lost is gone from its grams: the label of what it goes into takes it off once, and shows in
// the sub-list the water that the component's own label shows.
func TestWaterOfAComponentOnTheLabel(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	base := c.sheetOf("Reduced carrots", "carrot", 500, "water", 100)
	own := c.labelOf(base, law.GB, func(v *formula.Version) { v.WaterDrivenOff = amount.G(250) })
	assert.Equal(t, "Carrots", listed(own), "all of the added water was boiled away")
	dip := c.sheetOf("Carrot dip", "rapeseed_oil", 650, map[string]any{"formula": "reduced_carrots", "version": 1}, 350)
	v := c.labelOf(dip, law.GB, func(v *formula.Version) { v.Lines[1].Quid = true })
	assert.Equal(t, "Rapeseed oil, reduced carrots (35%) (carrots)", listed(v))

	wet := c.sheetOf("Wet carrots", "carrot", 500, "water", 100)
	assert.Equal(t, "Carrots, water", listed(c.labelOf(wet, law.GB, nil)))
	soup := c.sheetOf("Second dip", "rapeseed_oil", 650, map[string]any{"formula": "wet_carrots", "version": 1}, 350)
	assert.Contains(t, listed(c.labelOf(soup, law.GB, nil)), "wet carrots (carrots, water)")
	assert.Equal(t, "Canola oil, wet carrots (carrots, water)", listed(c.labelOf(soup, law.US, nil)))
}

// What is in the list under its right name: classes of additives, herbs that are no spices, one salt, a fish told once.
func TestTheListOnTheLabelHasTheLawsWords(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	soda := c.sheetOf("House spread", "carrot", 900, "rapeseed_oil", 90, "baking_soda", 2)
	assert.Equal(t, "Carrots, rapeseed oil, acidity regulator: sodium bicarbonate",
		listed(c.labelOf(soda, law.GB, nil)))
	assert.NotContains(t, listed(c.labelOf(soda, law.US, nil)), "acidity")

	grouped := func(v *formula.Version) { v.Wording.GroupSpices = true }
	thyme := c.add("Thyme, dried", func(g *pantry.Ingredient) { g.Role, g.Flags = "herb", []string{"spice_group"} })
	herbs := c.sheetOf("House relish", "carrot", 960, "oregano_dried", 9, thyme.ID, 3, "cumin", 8,
		"black_pepper", 5)
	assert.Equal(t, "Carrots, spices, herbs", listed(c.labelOf(herbs, law.GB, grouped)))
	us := listed(c.labelOf(herbs, law.US, grouped))
	assert.Regexp(t, "^Carrots, .*spices", us)
	assert.NotContains(t, us, "herbs", "the US has one word for both")

	salts := c.sheetOf("House crush", "carrot", 900, "salt_sea_fine", 5, "salt_flake", 3, "rapeseed_oil", 7,
		"salt_table", 1)
	for regime, oil := range map[law.Regime]string{law.GB: "rapeseed oil", law.US: "canola oil"} {
		assert.Equal(t, "Carrots, salt, "+oil, listed(c.labelOf(salts, regime, nil)), "9 g of one thing, %s", regime)
	}

	fish := c.sheetOf("Anchovy spread", "carrot", 940, "anchovy_fillets_oil", 60)
	v := c.labelOf(fish, law.GB, func(v *formula.Version) { v.Lines[1].Quid = true })
	assert.Equal(t, 1, strings.Count(listed(v), "(fish)"), listed(v))
	assert.Equal(t, 1, strings.Count(listed(v), "(6%)"), listed(v))
}

// A fill by volume gives the ounces of the volume, not those of a weight turned round twice.
func TestOuncesOfAVolumeOnTheLabel(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	s := c.sheetOf("House pour", "carrot", 200, "rapeseed_oil", 300)
	v := c.labelOf(s, law.US, func(v *formula.Version) {
		v.ProductStyle, v.DensityGPerML, v.FillGrams = "pourable dressing", 0.96, amount.G(227)
	})
	assert.Contains(t, onPaper(v), "8 fl oz (236 mL)")
	assert.NotContains(t, onPaper(v), "7.9")
}

// Each condition has its sentence on the label, after opening too, in the degrees of the law.
func TestStorageSentencesOnTheLabel(t *testing.T) {
	t.Parallel()
	for asked, want := range map[string]law.Each[string]{
		"frozen": {law.GB: "Keep frozen at or below -18 °C. Thaw in the fridge; do not refreeze.",
			law.US: "Keep frozen at or below 0 °F. Thaw in the refrigerator; do not refreeze."},
		"chilled": {law.GB: "Keep refrigerated at or below 5 °C. Once opened, use within 3 days.",
			law.US: "Keep refrigerated at or below 41 °F. Once opened, use within 3 days."},
	} {
		c := withDemo(t)
		s := c.sheetOf("House dip", "carrot", 500, "vinegar_cider", 300, "rapeseed_oil", 100)
		kept := func(v *formula.Version) { v.Keeping.Asked, v.Keeping.AfterOpening = asked, 3 }
		for regime, words := range want {
			assert.Contains(t, onPaper(c.labelOf(s, regime, kept)), words, "%s %s", asked, regime)
		}
	}
}

// Oils that set ask for a warm counter; a trace of one that does not, or a name with it, asks for nothing.
func TestOnlyAnOilThatSetsIsToldOnTheLabel(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	sesame := c.sheetOf("Sesame carrot spread", "carrot", 700, "rapeseed_oil", 180, "sesame_oil_toasted", 75,
		"vinegar_cider", 45)
	assert.NotContains(t, onPaper(c.labelOf(sesame, law.GB, nil)), "sets")
	olive := c.sheetOf("House green spread", "carrot", 500, "olive_oil_extra_virgin", 400, "vinegar_cider", 100)
	assert.Contains(t, onPaper(c.labelOf(olive, law.GB, nil)), "room temperature")
}

// The date on a label is never later than the last day: that day itself, or, where it is more than three months away,
// a month that is over before it.
func TestTheDateOnALabelIsNeverLaterThanTheLastDay(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	c.app.Now = func() time.Time { return *now }
	s := c.sheetOf("House glaze", "vinegar_cider", 400, "rapeseed_oil", 400, "sugar", 200, "salt_sea_fine", 30)
	c.labelOf(s, law.GB, func(v *formula.Version) {
		v.ProductStyle, v.StyleByLines, v.Keeping.Styles = "spread", false, []string{"shaken_nothing_fresh"}
	})
	made := into[production.BatchView](c.send("POST", "/api/batches", map[string]any{"formula": "house_glaze",
		"version": 1,
		"jars":    12, "made_on": now.Format(time.DateOnly)}).ok())
	b := &baker{c, made.ID, 0, now}
	b.weighAndFill()
	*now = now.Add(25 * time.Hour)
	b.readAll(3)
	b.decide("released", "").ok()
	assert.Equal(t, day.Day("2027-05-24"), b.view().LastDay[law.GB], "180 days")
	assert.Contains(t, onPaper(labelled(c, "house_glaze", law.GB, b.id)), "Best before end April 2027")

	rows := get[[]kernel.LabelRow](c, "/api/labels")
	kinds, dated := map[string]string{"use_by": "Use by", "best_before": "Best before"}, 0
	for _, row := range get[production.BatchPage](c, "/api/batches").Batches {
		last, _ := day.Parse(row.LastDay)
		if row.ID == b.id || row.State != "released" || last.Before(*now) {
			continue
		}
		for _, l := range rows {
			if l.Formula == row.Formula && l.Regime == law.GB {
				v := get[release.LabelView](c, fmt.Sprintf("/api/labels/%d?batch=%d", l.ID, row.ID))
				assert.Contains(t, onPaper(v), kinds[row.DateKind]+last.Format(" 2 January"), row.Code)
				dated++
			}
		}
	}
	assert.GreaterOrEqual(t, dated, 3)
}

// The least type is that of the pack: the same label on a small and on a large jar.
func TestTheJarSetsTheLeastTypeOfTheLabel(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	jars := get[office.ShopView](c, "/api/shop").Jars
	slices.SortFunc(jars, func(a, b pack.Jar) int { return int(a.SurfaceCM2() - b.SurfaceCM2()) })
	require.Greater(t, len(jars), 3)
	v := c.labelOf(c.sheetOf("House pour", "carrot", 200, "rapeseed_oil", 300), law.GB, nil)
	least := func(jar string) labelart.Point {
		v = into[release.LabelView](c.design(v, func(d *kernel.LabelDesign) { d.Jar = jar }).ok())
		return point(t, v, "type")
	}
	small, large := least(jars[0].ID), least(jars[len(jars)-1].ID)
	assert.Contains(t, large.Why, "asks 1.20 mm")
	assert.Contains(t, small.Why, "asks 0.90 mm")
}

// A shop that measured no jar is told where to do so; its label waits, because nobody knows the least type.
func TestALabelWithoutAJarSaysWhereItsSizesAreEntered(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	shop := get[office.ShopView](c, "/api/shop")
	jars := shop.Jars
	shop.Jars = []pack.Jar{}
	c.send("PUT", fmt.Sprintf("/api/shop?rev=%d", shop.Rev), shop.Settings).ok()
	v := c.labelOf(c.sheetOf("House pour", "carrot", 200, "rapeseed_oil", 300), law.GB, nil)
	asked := point(t, v, "jar")
	assert.Equal(t, labelart.Decides, asked.State)
	assert.Empty(t, asked.Answers)
	assert.Contains(t, asked.Why, "Shop settings")
	assert.Contains(t, strings.Join(v.Block, "; "), "Which jar")

	shop = get[office.ShopView](c, "/api/shop")
	shop.Jars = jars
	c.send("PUT", fmt.Sprintf("/api/shop?rev=%d", shop.Rev), shop.Settings).ok()
	v = get[release.LabelView](c, fmt.Sprintf("/api/labels/%d", v.ID))
	asked = point(t, v, "jar")
	require.NotEmpty(t, asked.Answers)
	v = c.reply(v, asked.Answers[0].Key)
	assert.Equal(t, labelart.Passed, point(t, v, "jar").State)
	assert.NotContains(t, strings.Join(v.Block, "; "), "Which jar")
}

// Quantities of what is named are told to a half under five percent and to whole percents above.
func TestQuantitiesOnTheLabel(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	for grams, want := range map[int]string{44: "4.5%", 26: "2.5%", 52: "5%", 56: "6%", 146: "15%"} {
		name := fmt.Sprintf("House number %d", grams)
		s := c.sheetOf(name, "carrot", 1000-grams, "ginger", grams)
		v := c.labelOf(s, law.GB, func(v *formula.Version) { v.Lines[1].Quid = true })
		assert.Equal(t, "Carrots, ginger ("+want+")", listed(v), "%d g", grams)
		assert.Contains(t, point(t, v, "quid").Why, want)
	}
}

// US: added water stands in the list where its weight puts it, however little it is.
func TestAddedWaterOnAUSLabel(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	for grams, want := range map[int][2]string{300: {"Water, carrots, canola oil", "Water, carrots, rapeseed oil"},
		150: {"Carrots, water, canola oil", "Carrots, water, rapeseed oil"},
		12:  {"Carrots, canola oil, water", "Carrots, rapeseed oil"}} {
		s := c.sheetOf(fmt.Sprintf("House pour %d", grams), "carrot", 200, "water", grams, "rapeseed_oil", 100)
		assert.Equal(t, want[0], listed(c.labelOf(s, law.US, nil)), "%d g", grams)
		assert.Equal(t, want[1], listed(c.labelOf(s, law.GB, nil)), "%d g: GB leaves out 5 %% or less", grams)
	}
}

// The salt that is printed is the salt in the jar: 12 g of it in a kilogram, and what the carrots bring.
func TestSaltOnThePanelOfTheLabel(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	s := c.sheetOf("House crush", "carrot", 788, "rapeseed_oil", 200, "salt_table", 12)
	for regime, want := range map[law.Regime]string{law.GB: `Salt 1\.3 g`, law.US: `Sodium 160 mg`} {
		v := c.labelOf(s, regime, nil)
		assert.NotContains(t, onPaper(v), "Protein")
		assert.Regexp(t, want, onPaper(c.reply(v, "nutrition:shown")))
	}
}

// US: the figures of the quantity grow with the display panel (21 CFR 101.7(h)).
func TestFiguresOfAUSLabelGrowWithTheJar(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	shop := get[office.ShopView](c, "/api/shop")
	round := func(id string, ml, high, across float64) pack.Jar {
		return pack.Jar{ID: id, Name: id, ML: ml, Shape: "round", HeightMM: high, DiameterMM: across, LidMM: 10,
			WallMM: high / 2}
	}
	shop.Jars = []pack.Jar{round("thimble", 40, 46, 40), round("jar", 200, 100, 65), round("crock", 3600, 240, 150)}
	c.send("PUT", fmt.Sprintf("/api/shop?rev=%d", shop.Rev), shop.Settings).ok()
	v := c.labelOf(c.sheetOf("House pour", "carrot", 200, "rapeseed_oil", 300), law.US, nil)
	for jar, least := range map[string]string{"thimble": "at least 1.6 mm", "jar": "at least 3.2 mm",
		"crock": "at least 4.8 mm"} {
		v = into[release.LabelView](c.design(v, func(d *kernel.LabelDesign) { d.Jar = jar }).ok())
		assert.Contains(t, point(t, v, "figures").Why, least, jar)
	}
}

// A pack under 10 cm² bears name, quantity, date and allergens, and can be printed so: what it need not bear is not
// missed. Its name is the one that says what it is.
func TestAVerySmallPackIsPrintedWithTheReducedSet(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	c.app.Now = func() time.Time { return *now }
	shop := get[office.ShopView](c, "/api/shop")
	shop.Jars = append(shop.Jars, pack.Jar{ID: "cube", Name: "25 ml cube", ML: 25, Shape: "sided", HeightMM: 42,
		WidthMM: 30, DepthMM: 30, LidMM: 12, WallMM: 28})
	c.send("PUT", fmt.Sprintf("/api/shop?rev=%d", shop.Rev), shop.Settings).ok()
	s := c.sheetOf("Hollin glaze", "vinegar_cider", 400, "rapeseed_oil", 400, "sugar", 200, "mustard_seed", 30)
	v := c.labelOf(s, law.GB, func(v *formula.Version) {
		v.ProductStyle, v.FillGrams, v.Jar, v.Wording.LegalName = "spread", amount.G(20), "cube", "Mustard glaze"
	})
	made := into[production.BatchView](c.send("POST", "/api/batches", map[string]any{"formula": "hollin_glaze",
		"version": 1,
		"jars":    12, "made_on": now.Format(time.DateOnly)}).ok())
	b := &baker{c, made.ID, 0, now}
	b.weighAndFill()
	*now = now.Add(25 * time.Hour)
	b.readAll(3)
	b.decide("released", "").ok()
	v = get[release.LabelView](c, fmt.Sprintf("/api/labels/%d", v.ID))
	v = into[release.LabelView](c.send("PUT", fmt.Sprintf("/api/labels/%d?rev=%d", v.ID, v.Rev),
		map[string]any{"width_mm": 112, "height_mm": 28, "confirm": false, "design": v.Design}).ok())
	v = c.reply(c.reply(v, "nothing_else"), "nutrition:small_pack")
	v = labelled(c, "hollin_glaze", law.GB, b.id)
	assert.Empty(t, v.Block)
	for _, want := range []string{"Hollin glaze", "Mustard glaze", "20 g", "Contains: mustard", "Best before end"} {
		assert.Contains(t, onPaper(v), want)
	}
	assert.NotContains(t, onPaper(v), "Ingredients")
	c.send("POST", fmt.Sprintf("/api/labels/%d/print?key=small", v.ID), map[string]any{"batch": b.id, "count": 12}).ok()
}
