package api

import (
	"fmt"
	"testing"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAFormulaFromNothingToTheNextDraft(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	s := into[catalog.SheetView](c.send("POST", "/api/formulas", map[string]string{"name": "Beetroot dip"}).ok())
	path := fmt.Sprintf("/api/formulas/%s/versions/1", s.Formula)
	c.send("POST", path+"/lock?rev=1", nil).refused(422, "lines")
	v := s.Version
	v.Lines = []formula.Line{{ID: "a", Ingredient: "beetroot_cooked"}, {ID: "b", Ingredient: "salt_sea_fine"}}
	v.Lines[0].Grams = amount.G(600)
	s = into[catalog.SheetView](c.send("PUT", path+"?rev=1", v).ok())
	assert.Equal(t, 3, s.Panel.Jars)
	require.NotNil(t, s.Effect)
	assert.True(t, s.Effect.Declaration)
	c.send("POST", fmt.Sprintf("%s/lock?rev=%d", path, s.Rev), nil).refused(422, "lines[1].grams")
	v.Lines = v.Lines[:1]
	s = into[catalog.SheetView](c.send("PUT", fmt.Sprintf("%s?rev=%d", path, s.Rev), v).ok())
	c.send("DELETE", fmt.Sprintf("%s?rev=%d", path, s.Rev), nil).refused(422, "")
	s = into[catalog.SheetView](c.lock(path, s.Rev).ok())
	assert.Equal(t, "locked", s.Version.State)
	assert.NotNil(t, s.Version.LockedAt)
	s = into[catalog.SheetView](c.send("POST", fmt.Sprintf("/api/formulas/%s/versions", s.Formula),
		map[string]any{"from": 1}).ok())
	assert.Equal(t, 2, s.Version.Number)
	c.send("POST", fmt.Sprintf("/api/formulas/%s/versions", s.Formula), map[string]any{"from": 1}).refused(409, "")
	c.send("DELETE", fmt.Sprintf("/api/formulas/%s/versions/2?rev=%d", s.Formula, s.Rev), nil).ok()
	c.send("GET", fmt.Sprintf("/api/formulas/%s/versions/2", s.Formula), nil).refused(404, "")
	c.send("PUT", "/api/formulas/"+s.Formula, map[string]any{"name": "Beet dip", "retired": true}).refused(422, "why")
	c.send("PUT", "/api/formulas/"+s.Formula, map[string]any{"name": "Beet dip", "retired": true,
		"why": "nobody bought it"}).ok()
	c.send("PUT", "/api/formulas/"+s.Formula, map[string]any{"name": "", "retired": true}).refused(422, "name")
	for _, f := range get[[]catalog.FormulaRow](c, "/api/formulas") {
		if f.ID == s.Formula {
			assert.True(t, f.Retired)
			assert.Equal(t, "Beet dip", f.Name)
		}
	}
}

func TestComparingVersionsTellsTheEffect(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	v := get[catalog.ComparisonView](c, "/api/formulas/carrot_miso_dressing/compare?before=3&after=4")
	changed := 0
	for _, l := range v.Lines {
		if l.Kind == formula.Changed {
			changed++
			assert.Equal(t, "Garlic, raw peeled cloves", l.Name)
			assert.Equal(t, "6", l.GramsBefore.String())
			assert.Equal(t, "8", l.GramsAfter.String())
		}
	}
	assert.Equal(t, 1, changed)
	assert.Positive(t, v.Effect.PerJar.Float())
	c.send("GET", "/api/formulas/carrot_miso_dressing/compare?before=3&after=44", nil).refused(404, "")
	c.send("GET", "/api/formulas/carrot_miso_dressing/compare?before=x&after=4", nil).refused(422, "before")
}

func TestIngredientsComeAndRetire(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	body := map[string]any{"id": "", "name": "Quince paste", "label_names": map[string]any{"us": "quince paste"},
		"acids": map[string]any{"malic": 0.8},
		"ph":    map[string]any{"typical": 3.6, "low": 3.4, "high": 3.8}, "buffer_mmol_kg_ph": 12, "typical": false,
		"allergens": map[string]any{"us": []string{}}, "flags": []string{},
		"offers": []any{}, "composition": map[string]any{"water": 40, "protein": 0, "fat": 0, "saturates": 0,
			"trans": 0, "carbohydrate": 58, "sugars": 50, "fibre": 4, "alcohol": 0,
			"sodium_mg": 4, "cholesterol_mg": 0, "calcium_mg": 9, "iron_mg": 0.4, "potassium_mg": 80,
			"vitamin_d_ug": 0}}
	g := into[catalog.IngredientView](c.send("POST", "/api/ingredients", body).ok())
	assert.Equal(t, "quince_paste", g.ID)
	assert.Contains(t, g.CostProblem, "no price")
	c.send("POST", "/api/ingredients", body).refused(422, "name")
	c.send("PUT", fmt.Sprintf("/api/ingredients/quince_paste?rev=%d&retired=true&why=rotten", g.Rev), body).ok()
	again := into[catalog.IngredientView](c.send("POST", "/api/ingredients", body).ok())
	assert.Equal(t, "quince_paste_2", again.ID, "a retired name is free again")
}

func TestAReadingIsVoidedOnlyWithItsCause(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	check := b.check()
	for _, r := range []struct {
		jar string
		ph  float64
	}{{"first", 4.0}, {"first", 4.2}, {"last", 4.0}, {"last", 4.0}} {
		b.reading(check.ID, r.jar, r.ph).ok()
	}
	v := b.view()
	assert.Contains(t, v.Record.Missing[0], "a new pair on the first jar")
	v = into[production.BatchView](b.write(map[string]any{"kind": "void",
		"void": map[string]any{"entry": v.Record.Readings[1].ID, "cause": "probe not settled"}}).ok())
	assert.Equal(t, "probe not settled", v.Record.Readings[1].Void)
	assert.Equal(t, "probe not settled", v.Record.Readings[0].Void, "a pair goes together")
	b.reading(check.ID, "first", 4.01).ok()
	b.reading(check.ID, "first", 4.02).ok()
	assert.True(t, b.view().CanRelease)
}

func TestAnAdditionAfterTheReadingsVoidsThem(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	b.readAll(4.0)
	line := b.view().Record.Lines[5]
	v := into[production.BatchView](b.write(map[string]any{"kind": "weighing",
		"weighing": map[string]any{"line": line.Line, "grams": 90, "over": line.Entry,
			"draws": b.draws(b.id, line.Line, amount.G(90))}}).ok())
	assert.False(t, v.CanRelease)
	assert.NotEmpty(t, v.Record.Readings[0].Void)
}

func TestWhatIsDecidedIsNotChangedBehindItsBack(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	b.readAll(4.0)
	b.decide("released", "").ok()
	line := b.view().Record.Lines[0]
	weigh := map[string]any{"kind": "weighing",
		"weighing": map[string]any{"line": line.Line, "grams": 5, "over": line.Entry,
			"draws": []any{map[string]any{"code": line.Lot, "grams": 5}}, "correction": true}}
	assert.Contains(t, b.write(weigh).refused(422, ""), "on hold first")
	b.decide("hold", "a customer called about a lid").ok()
	assert.Contains(t, b.write(weigh).refused(422, ""), "no jar is out", "so large a correction is an addition")
	b.write(map[string]any{"kind": "jars_in",
		"jars_in": map[string]any{"reason": "all 12 stand in the cold room"}}).ok()
	b.write(weigh).ok()
	v := b.view()
	assert.Equal(t, "hold", v.Record.State)
	assert.Equal(t, "a customer called about a lid", v.Record.Decided.Reason)
}

func TestALaboratorysWaterActivityIsUsed(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	b.write(map[string]any{"kind": "laboratory",
		"laboratory": map[string]any{"water_activity": 1.4, "report": "L-9"}}).refused(422, "laboratory.water_activity")
	b.write(map[string]any{"kind": "laboratory",
		"laboratory": map[string]any{"water_activity": 0.84, "report": ""}}).refused(422, "laboratory.report")
	v := into[production.BatchView](b.write(map[string]any{"kind": "laboratory",
		"laboratory": map[string]any{"water_activity": 0.84, "report": "L-9"}}).ok())
	assert.NotNil(t, v.Keeping[law.GB].Days, "at 0.85 or less rule 1 asks for no reading")
	b.write(map[string]any{"kind": "heat", "heat": map[string]any{"coldest_c": 300, "minutes": 5}}).refused(422,
		"heat.coldest_c")
}

func TestANearDateComesBeforeAnOldPrice(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	order := map[string]int{}
	for i, task := range get[kernel.TodayView](c, "/api/today").Tasks {
		order[task.Kind] = i
	}
	assert.Less(t, order["batch"], order["price"])
	assert.Less(t, order["date"], order["price"])
	left := get[kernel.TodayView](c, "/api/today").Batches
	require.NotEmpty(t, left)
	for i := 1; i < len(left); i++ {
		assert.LessOrEqual(t, left[i-1].LastDay, left[i].LastDay)
	}
	assert.GreaterOrEqual(t, left[0].LastDay, day.Day(noon().Format("2006-01-02")))
}

func TestTheShopsTighterDaysBind(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	shop := get[office.ShopView](c, "/api/shop")
	before := *get[catalog.SheetView](c, "/api/formulas/pumpkin_maple_spread/versions/1").Panel.Keeping[law.GB].Days
	shop.Settings.TighterDays = map[string]int{"4": 2}
	c.send("PUT", fmt.Sprintf("/api/shop?rev=%d", shop.Rev), shop.Settings).ok()
	assert.Equal(t, 4, before)
	assert.Equal(t, 2, *get[catalog.SheetView](c,
		"/api/formulas/pumpkin_maple_spread/versions/1").Panel.Keeping[law.GB].Days)
	c.send("PUT", fmt.Sprintf("/api/shop?rev=%d", shop.Rev), shop.Settings).refused(409, "")
}
