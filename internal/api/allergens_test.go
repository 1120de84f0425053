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
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// add puts an ingredient into the pantry.
func (c *client) add(name string, change func(g *pantry.Ingredient)) catalog.IngredientView {
	c.t.Helper()
	g := pantry.Ingredient{Name: name, Composition: pantry.Composition{Water: 50}}
	if change != nil {
		change(&g)
	}
	body := map[string]any{"id": "", "name": g.Name, "label_names": map[string]string{}, "composition": g.Composition,
		"acids": g.Acids, "ph": nil, "buffer_mmol_kg_ph": 0, "allergens": g.Allergens, "flags": orNone(g.Flags),
		"typical": false, "offers": []any{}, "supplier_lists": g.SupplierLists, "role": g.Role}
	if g.Allergens == nil {
		body["allergens"] = map[string][]string{}
	}
	if g.SupplierLists == nil {
		body["supplier_lists"] = map[string]string{}
	}
	return into[catalog.IngredientView](c.send("POST", "/api/ingredients", body).ok())
}

func orNone(list []string) []string {
	if list == nil {
		return []string{}
	}
	return list
}

// change writes an ingredient with a change; why is the reason, where one is given.
func (c *client) change(id, why string, change func(g *pantry.Ingredient)) reply {
	c.t.Helper()
	g := get[catalog.IngredientView](c, "/api/ingredients/"+id)
	change(&g.Ingredient)
	query := ""
	if why != "" {
		query = "&why=" + strings.ReplaceAll(why, " ", "+")
	}
	return c.send("PUT", fmt.Sprintf("/api/ingredients/%s?rev=%d%s", id, g.Rev, query), g.Ingredient)
}

// sheetOf makes a formula with lines, ingredient by grams in turn, and returns its sheet.
func (c *client) sheetOf(name string, lines ...any) catalog.SheetView {
	c.t.Helper()
	s := into[catalog.SheetView](c.send("POST", "/api/formulas", map[string]any{"name": name}).ok())
	v := s.Version
	raw := []map[string]any{}
	for i := 0; i < len(lines); i += 2 {
		line := map[string]any{"id": fmt.Sprintf("l%d", i), "grams": lines[i+1]}
		if ref, ok := lines[i].(map[string]any); ok {
			line["component"] = ref
		} else if group, ok := lines[i].([]string); ok {
			line["ingredient"], line["any_of"] = group[0], group
		} else {
			line["ingredient"] = lines[i]
		}
		raw = append(raw, line)
	}
	body := asMap(c.t, v)
	body["lines"] = raw
	return into[catalog.SheetView](c.send("PUT", fmt.Sprintf("/api/formulas/%s/versions/1?rev=%d", s.Formula, s.Rev),
		body).ok())
}

func (c *client) put(s catalog.SheetView, change func(v map[string]any)) reply {
	c.t.Helper()
	body := asMap(c.t, s.Version)
	change(body)
	return c.send("PUT", fmt.Sprintf("/api/formulas/%s/versions/%d?rev=%d", s.Formula, s.Version.Number, s.Rev), body)
}

// TestNoNutIsLostInASupplierList is the first of what was seen: the phrase that kept butter from being milk took the
// nut with it.
func TestNoNutIsLostInASupplierList(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	for list, want := range map[string]string{"peanut butter, salt": "**Peanut** butter", "almond butter": "**Almond**",
		"cashew cream": "**Cashew**", "soya milk": "**Soya**", "oat milk": "**Oat**",
		"pecorino, salt": "Pecorino (**milk**)", "wheatflour": "**Wheatflour**", "marzipan": "(**almonds**)",
		"langoustine": "(**crustaceans**)"} {
		g := c.add("Spread of "+list, func(g *pantry.Ingredient) {
			g.SupplierLists = law.Each[string]{law.GB: list}
		})
		s := c.sheetOf("Product of "+list, g.ID, 100)
		assert.Contains(t, strings.ToLower(s.Panel.Declaration[law.GB].List), strings.ToLower(want), list)
		assert.NotEmpty(t, s.Panel.Allergens[law.GB], list)
		require.Len(t, s.Panel.Open, 1, "nobody has looked at it")
	}
}

// TestAGroupInsideAComponentHidesNothing: walnut or peanut in a base, the base in a dip.
func TestAGroupInsideAComponentHidesNothing(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	base := c.sheetOf("Nut base", []string{"walnut", "peanut"}, 100, "rapeseed_oil", 50)
	locked := into[catalog.SheetView](c.lock("/api/formulas/nut_base/versions/1", base.Rev).ok())
	dip := c.sheetOf("Nut dip", map[string]any{"formula": "nut_base", "version": locked.Version.Number}, 40, "carrot",
		200)
	assert.Subset(t, dip.Panel.Allergens[law.GB], []string{"nut:walnut", "peanut"})
	assert.Subset(t, dip.Panel.Allergens[law.US], []string{"tree_nut:walnut", "peanut"})
	require.Len(t, dip.Panel.Resolutions, 2)
}

// TestWhatGoesIntoThePanComesOutOfIt: a step of one's own passes allergens and hazards on, extras included.
func TestWhatGoesIntoThePanComesOutOfIt(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	crumb := c.add("Crunchy crumb", nil)
	step := map[string]any{"id": "", "name": "fry", "input": "walnut", "output": crumb.ID, "yield_percent": 95,
		"spread_percent": 5, "labour_min_per_kg": 5, "wait_min": 0, "typical": false,
		"extras": []map[string]any{{"ingredient": "peanut", "grams_per_100g": 10, "uptake_percent": 0},
			{"ingredient": "sesame_seed", "grams_per_100g": 4, "uptake_percent": 50}}}
	c.send("POST", "/api/preparations", step).ok()
	g := get[catalog.IngredientView](c, "/api/ingredients/"+crumb.ID)
	assert.Equal(t, []string{"nut:walnut", "peanut", "sesame"}, g.Carries[law.GB], "thrown away or not")
	assert.Contains(t, g.Passed.Flags, "nut_or_seed")
	assert.Contains(t, g.Passed.From, "Walnuts")
	assert.Equal(t, "walnuts, sesame seeds", g.Passed.Lists[law.GB], "what stays, in falling order")
	s := c.sheetOf("Crumbed", crumb.ID, 50, "carrot", 100)
	assert.Contains(t, s.Panel.Declaration[law.GB].List, "crunchy crumb (**walnuts**, **sesame** seeds) (**peanuts**)")
	c.send("POST", fmt.Sprintf("/api/formulas/crumbed/versions/1/lock?rev=%d", s.Rev), nil).refused(422, "")

	c.as("Bram").send("POST", fmt.Sprintf("/api/ingredients/%s/lift?rev=%d", crumb.ID, g.Rev),
		map[string]any{"what": "peanut", "off": true, "reason": "the oil is new"}).refused(403, "")
	c.as("Ines").send("POST", fmt.Sprintf("/api/ingredients/%s/lift?rev=%d", crumb.ID, g.Rev),
		map[string]any{"what": "peanut", "off": true, "reason": ""}).refused(422, "why")
	lifted := into[catalog.IngredientView](c.send("POST", fmt.Sprintf("/api/ingredients/%s/lift?rev=%d", crumb.ID,
		g.Rev),
		map[string]any{"what": "peanut", "off": true, "reason": "a tray of its own since Monday"}).ok())
	assert.NotContains(t, lifted.Carries[law.GB], "peanut")
	back := into[catalog.IngredientView](c.send("POST",
		fmt.Sprintf("/api/ingredients/%s/lift?rev=%d", crumb.ID, lifted.Rev),
		map[string]any{"what": "peanut", "off": false, "reason": "the tray is gone"}).ok())
	assert.Contains(t, back.Carries[law.GB], "peanut")
	p := get[[]catalog.PreparationView](c, "/api/preparations")
	mine := p[slices.IndexFunc(p, func(x catalog.PreparationView) bool { return x.Output == crumb.ID })]
	step["id"], step["extras"] = mine.ID, []any{}
	put := func(query string) reply {
		return c.send("PUT", fmt.Sprintf("/api/preparations/%s?rev=%d%s", mine.ID, mine.Rev, query), step)
	}
	assert.Contains(t, put("").refused(422, ""), "Crunchy crumb loses")
	put("&why=fried+dry+now").ok()
}

// TestNobodyLookedAtIsNoGreenPass: what is not known is open, says at least, and cannot be locked or printed.
func TestNobodyLookedAtIsNoGreenPass(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	g := c.add("Savoury base", func(g *pantry.Ingredient) {
		g.SupplierLists = law.Each[string]{law.GB: "water; lecithin; flavouring. May contain walnuts"}
	})
	assert.NotEmpty(t, g.Open)
	s := c.sheetOf("Based", g.ID, 100, "carrot", 100)
	require.Len(t, s.Panel.Open, 1)
	points := get[[]assess.Point](c, "/api/formulas/based/versions/1/before-lock")
	require.Equal(t, "open:"+g.ID, points[0].Key)
	assert.True(t, points[0].Blocks)
	sentence := c.send("POST",
		fmt.Sprintf("/api/formulas/based/versions/1/lock?rev=%d&confirmed=open:%s&confirmed=quid",
			s.Rev, g.ID), nil).refused(422, "")
	assert.Contains(t, sentence, "Look at Savoury base", "confirming what blocks does not help")

	look := func(in release.LookIn) reply {
		return c.send("POST", fmt.Sprintf("/api/ingredients/%s/look?rev=%d", g.ID, g.Rev), in)
	}
	in := release.LookIn{From: "", Allergens: law.Each[[]string]{}, List: g.SupplierLists, Answers: []pantry.Answer{}}
	look(in).refused(422, "from")
	in.From = "the packet"
	look(in).refused(422, "answers[0]")
	in.Answers = []pantry.Answer{{Ask: "soy or egg", Says: "soya, says the supplier's sheet"},
		{Ask: "may contain", Says: "walnuts"}}
	look(in).refused(422, "answers[1]") // it names soya, which is not ticked
	in.Answers[0].Says = "sunflower, says the supplier's sheet"
	look(in).refused(422, "may_contain") // what the packet states is not left out
	in.MayContain, in.Statement = law.Each[[]string]{law.GB: {"nut:walnut"}, law.US: {"tree_nut:walnut"}},
		"May contain walnuts"
	c.as("Ola")
	look(in).refused(403, "")
	c.as("Ines")
	looked := into[catalog.IngredientView](look(in).ok())
	assert.Empty(t, looked.Open)
	assert.Equal(t, "Ines", looked.Looked.By)
	s = get[catalog.SheetView](c, "/api/formulas/based/versions/1")
	assert.Empty(t, s.Panel.Open)
	assert.Equal(t, []string{"nut:walnut"}, s.Panel.MayContain[law.GB])
	into[catalog.SheetView](c.lock("/api/formulas/based/versions/1", s.Rev).ok())

	again := into[catalog.IngredientView](c.change(g.ID, "", func(g *pantry.Ingredient) {
		g.SupplierLists = law.Each[string]{law.GB: "water; lecithin; sugar. May contain walnuts"}
	}).ok())
	assert.NotEmpty(t, again.Open, "a new list opens it again")
	label := into[release.LabelView](c.send("POST", "/api/labels",
		map[string]any{"formula": "based", "regime": "GB", "width_mm": 95, "height_mm": 65}).ok())
	assert.Contains(t, strings.Join(label.Block, " "), "Nobody has said what is in Savoury base", "a print waits")
	var open []string
	for _, x := range get[[]release.OpenIngredient](c, "/api/allergens/open") {
		open = append(open, x.Name)
	}
	assert.Contains(t, open, "Savoury base")
	for _, f := range get[[]catalog.FormulaRow](c, "/api/formulas") {
		if f.ID == "based" {
			assert.Equal(t, 1, f.Open, "the list of formulas does not say that there are none")
		}
	}
}

// TestOneTickOneListBothLaws: walnuts in the list of one law stop the labels of both.
func TestOneTickOneListBothLaws(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	c.change("miso_white", "", func(g *pantry.Ingredient) {
		g.SupplierLists = law.Each[string]{law.GB: "soybeans; rice; salt; barley; walnuts",
			law.US: "soybeans; rice; salt"}
	}).ok()
	states := map[law.Regime]string{}
	for _, l := range get[[]kernel.LabelRow](c, "/api/labels") {
		if l.Formula == "carrot_miso_dressing" {
			states[l.Regime] = l.State
		}
	}
	assert.Equal(t, map[law.Regime]string{law.GB: kernel.LabelStop, law.US: kernel.LabelStop}, states)
}

// TestLosingAnAllergenIsAnAct takes an allergen off, renames what carries one, and hides one by a word of the shop.
func TestLosingAnAllergenIsAnAct(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	paste := c.add("Peanut paste", func(g *pantry.Ingredient) {
		g.Allergens = law.Each[[]string]{law.GB: {"peanut"}, law.US: {"peanut"}}
	})
	c.sheetOf("Satisfying dip", paste.ID, 50, "carrot", 100)
	rename := func(g *pantry.Ingredient) { g.Name = "Savoury paste" }
	said := c.change(paste.ID, "", rename).refused(422, "")
	c.change(paste.ID, " ", rename).refused(422, "") // a blank is no reason
	assert.Contains(t, said, "Satisfying dip")
	both := func(g *pantry.Ingredient) { g.Name, g.Allergens = "Savoury paste", law.Each[[]string]{} }
	assert.Contains(t, c.change(paste.ID, "", both).refused(422, ""), "loses peanut")
	c.as("Bram")
	c.change(paste.ID, "a slip", both).refused(403, "")
	c.change(paste.ID, "the wholesaler calls it so", rename).ok()
	assert.Equal(t, []string{"peanut"}, get[catalog.IngredientView](c, "/api/ingredients/"+paste.ID).Carries[law.GB])
	c.as("Ines")
	c.change(paste.ID, "it was sunflower all along", both).ok()
	changes := get[[]release.ChangeView](c, "/api/allergens/changes")
	assert.Equal(t, []string{"peanut"}, changes[slices.IndexFunc(changes, func(v release.ChangeView) bool {
		return v.Ingredients[0].ID == paste.ID
	})].Ingredients[0].Lost[law.GB])
	c.change("egg_yolk_pasteurised", "", func(g *pantry.Ingredient) { g.Flags = []string{} }).refused(422, "")

	shop := get[office.ShopView](c, "/api/shop")
	settings := asMap(t, shop.Settings)
	settings["allergen_words"] = []map[string]any{{"words": "hazelnuts, roasted", "says": map[string]any{}}}
	words := func(query string) reply {
		return c.send("PUT", fmt.Sprintf("/api/shop?rev=%d%s", shop.Rev, query), settings)
	}
	settings["allergen_words"] = []map[string]any{{"words": "x", "says": map[string]any{}}}
	words("").refused(422, "allergen_words[0]")
	settings["allergen_words"] = []map[string]any{{"words": "tamarind", "says": map[string]any{"gb": []map[string]any{
		{"code": "lupin", "plainly": false}}}}}
	words("").ok()
	assert.Equal(t, []string{"lupin"}, get[catalog.IngredientView](c,
		"/api/ingredients/tamarind_paste").Carries[law.GB])
	shop = get[office.ShopView](c, "/api/shop")
	settings["allergen_words"] = []any{}
	assert.Contains(t, words("").refused(422, ""), "loses lupin")
}

// TestAGainedAllergenIsWorkedOff: two batches are out with the old words; confirming the label closes nothing.
func TestAGainedAllergenIsWorkedOff(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	b := released(t, c, now)
	v := b.view()
	labels := get[[]kernel.LabelRow](c, "/api/labels")
	label := labels[slices.IndexFunc(labels, func(l kernel.LabelRow) bool {
		return l.Formula == v.Formula && l.Regime == law.GB
	})]
	c.as("Ines")
	c.change("yogurt_strained", "", func(g *pantry.Ingredient) {
		g.SupplierLists = law.Each[string]{law.GB: "milk; live cultures; lupin flour"}
	}).ok()
	changes := get[[]release.ChangeView](c, "/api/allergens/changes")
	require.True(t, changes[0].Open)
	id := changes[0].ID
	at := fmt.Sprintf("/api/allergens/changes/%d", id)
	change := get[release.ChangeView](c, at)
	mine := slices.IndexFunc(change.Batches, func(x release.ChangeBatch) bool { return x.Batch.ID == b.id })
	require.GreaterOrEqual(t, mine, 0)
	assert.Equal(t, bench.CalledBack, b.view().Record.State)
	assert.Contains(t, b.view().Record.Recalled[0].Why, "lupin")

	looked := get[release.LabelView](c, fmt.Sprintf("/api/labels/%d", label.ID))
	assert.Equal(t, kernel.LabelStop, looked.State)
	c.look("yogurt_strained")
	c.send("PUT", fmt.Sprintf("/api/labels/%d?rev=%d", label.ID, looked.Rev),
		map[string]any{"width_mm": 95, "height_mm": 65, "confirm": true}).ok()
	change = get[release.ChangeView](c, at)
	assert.True(t, change.Open, "confirming the label closes no batch")
	assert.Equal(t, bench.CalledBack, b.view().Record.State)
	assert.Contains(t, b.decide("released", "looked at the jars").refused(422, ""), "lack lupin",
		"it ends only as the words are dealt with")

	good := func(how string, more map[string]any) reply {
		body := map[string]any{"change": id, "how": how, "reason": "all jars were fetched back"}
		for k, x := range more {
			body[k] = x
		}
		return b.write(map[string]any{"kind": "made_good", "made_good": body})
	}
	c.as("Bram")
	good("withdrawn", nil).refused(403, "")
	c.as("Ines")
	good("relabelled", nil).refused(422, "")
	good("gone", nil).refused(422, "made_good.told")
	good("gone", map[string]any{"told": "Deli, by phone"}).refused(422, "made_good.authority")
	good("gone", map[string]any{"told": "Deli", "authority": "the council", "day": "2030-01-01"}).refused(422,
		"made_good.day")
	good("eaten", nil).refused(422, "made_good.how")
	print := c.send("POST", fmt.Sprintf("/api/labels/%d/print?key=relabel", label.ID),
		map[string]any{"batch": b.id, "count": 11}).ok()
	assert.Contains(t, print.header.Get("Content-Disposition"), "label-", "new labels may be printed for it")
	*now = now.Add(time.Hour)
	good("relabelled", nil).ok()
	good("withdrawn", nil).refused(422, "")
	assert.Equal(t, "relabelled", b.view().Record.Words[0].How)
	b.decide("released", "every jar carries the new label").ok()
	for _, x := range get[release.ChangeView](c, at).Batches {
		if x.Lacking.How == "" {
			other := &baker{c, x.Batch.ID, 900, now}
			other.write(map[string]any{"kind": "made_good", "made_good": map[string]any{"change": id, "how": "gone",
				"reason": "eaten at once, says the market", "told": "a notice at the stall",
				"authority": "the council, by mail",
				"day":       now.Format("2006-01-02")}}).ok()
		}
	}
	assert.False(t, get[release.ChangeView](c, at).Open)
	for _, task := range get[kernel.TodayView](c, "/api/today").Tasks {
		assert.False(t, task.Kind == "gained" && strings.Contains(task.Title, "lupin"), "%+v", task)
	}
}

// TestFromALotOnEarlierBatchesAreLetGo: the book says which lots went in.
func TestFromALotOnEarlierBatchesAreLetGo(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	b := released(t, c, now)
	c.as("Ines")
	c.change("yogurt_strained", "", func(g *pantry.Ingredient) {
		g.Allergens[law.GB] = append(g.Allergens[law.GB], "celery")
	}).ok()
	id := get[[]release.ChangeView](c, "/api/allergens/changes")[0].ID
	at := fmt.Sprintf("/api/allergens/changes/%d", id)
	v := get[release.ChangeView](c, at)
	require.Greater(t, len(v.Lots), 1)
	last := v.Lots[len(v.Lots)-1].ID
	c.send("POST", at+"/from-lot", map[string]any{"lot": 999999, "reason": "the dairy said so"}).refused(422, "lot")
	c.as("Bram").send("POST", at+"/from-lot", map[string]any{"lot": last, "reason": "the dairy said so"}).refused(403,
		"")
	c.as("Ines")
	after := into[release.ChangeView](c.send("POST", at+"/from-lot", map[string]any{"lot": last,
		"reason": "the dairy said so"}).ok())
	let, stay := 0, 0
	for _, x := range after.Batches {
		if x.Lacking.How == bench.Unaffected {
			let++
		} else {
			stay++
			assert.Equal(t, b.id, x.Batch.ID, "it took the newest lot")
		}
	}
	assert.Positive(t, let)
	assert.Equal(t, 1, stay)
}

// TestVesselsCarryIntoTheNextProduct: without a clean-down between, in the order of the day.
func TestVesselsCarryIntoTheNextProduct(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	b := released(t, c, now)
	c.as("Ines")
	c.send("POST", "/api/vessels", map[string]any{"name": " "}).refused(422, "name")
	all := into[[]production.VesselView](c.send("POST", "/api/vessels", map[string]any{"name": "Mincer"}).ok())
	c.send("POST", "/api/vessels", map[string]any{"name": "mincer"}).refused(422, "name")
	mincer := all[slices.IndexFunc(all, func(v production.VesselView) bool { return v.Name == "Mincer" })]
	turn := func(body map[string]any, hour int) reply {
		body["at"] = now.Add(time.Duration(hour-10) * time.Hour)
		return c.send("POST", fmt.Sprintf("/api/vessels/%d/turns", mincer.ID), body)
	}
	turn(map[string]any{"kind": "used", "what": "Almond brittle",
		"allergens": map[string]any{"gb": []string{"nut:joy:"},
			"us": []string{"joy"}}}, 1).refused(422, "allergens")
	turn(map[string]any{"kind": "used"}, 1).refused(422, "what")
	turn(map[string]any{"kind": "used", "what": "x"}, 30).refused(422, "at")
	turn(map[string]any{"kind": "used", "what": "Almond brittle",
		"allergens": map[string]any{"gb": []string{"nut:almond"},
			"us": []string{"tree_nut:almond"}}}, 1).ok()
	turn(map[string]any{"kind": "cleaned", "what": "hot and wet"}, 2).ok()
	turn(map[string]any{"kind": "used", "what": "Crab paste", "allergens": map[string]any{"gb": []string{"crustacean"},
		"us": []string{"crustacean:crab"}}}, 3).ok()
	turn(map[string]any{"kind": "used", "batch": b.id}, 4).ok()
	v := b.view()
	require.Len(t, v.Contact.MayContain[law.GB], 1, "what came before the clean-down is gone")
	assert.Equal(t, production.Contact{Code: "crustacean", From: []string{"Mincer, after Crab paste"}},
		v.Contact.MayContain[law.GB][0])
	assert.Equal(t, []string{"Mincer"}, v.Contact.Vessels)
	label := get[release.LabelView](c, fmt.Sprintf("/api/labels/2?batch=%d", b.id))
	point := label.Points[slices.IndexFunc(label.Points,
		func(p labelart.Point) bool { return p.Title == "May contain" })]
	assert.Contains(t, point.Why, "May contain crustaceans.")
	assert.Contains(t, point.Why, "after Crab paste")
}
