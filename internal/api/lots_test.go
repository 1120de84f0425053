package api

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/lots"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func (c *client) lot(id int64) production.LotView {
	c.t.Helper()
	return get[production.LotView](c, fmt.Sprintf("/api/lots/%d", id))
}

// act writes an act into a lot's record.
func (c *client) act(lot int64, kind string, body map[string]any) reply {
	c.t.Helper()
	c.lots++
	return c.send("POST", fmt.Sprintf("/api/lots/%d/entries?key=act-%d", lot, c.lots),
		map[string]any{"kind": kind, kind: body})
}

// called is the lot of a code.
func (c *client) called(code string) kernel.LotStanding {
	c.t.Helper()
	for _, show := range []string{"there", "barred"} {
		for _, l := range get[production.LotPage](c, "/api/lots?show="+show+"&find="+code).Lots {
			if l.Code == code {
				return l
			}
		}
	}
	c.t.Fatalf("no lot %s", code)
	return kernel.LotStanding{}
}

func (b *baker) line(name string) bench.LineState {
	b.t.Helper()
	for _, l := range b.view().Record.Lines {
		if l.Name == name {
			return l
		}
	}
	b.t.Fatalf("no line %s", name)
	return bench.LineState{}
}

// weigh weighs a line from lots by their codes.
func (b *baker) weigh(l bench.LineState, draws ...map[string]any) reply {
	sum := amount.Grams{}
	for _, d := range draws {
		sum = sum.Plus(amount.G(d["grams"].(float64)))
	}
	return b.write(map[string]any{"kind": "weighing",
		"weighing": map[string]any{"line": l.Line, "grams": sum, "draws": draws,
			"over": l.Entry}})
}

func from(code string, grams float64) map[string]any {
	return map[string]any{"code": code, "grams": grams}
}

// TestASuppliersTextUsedTwiceIsAskedWhereItIsWeighed types the supplier's own words at the bench.
func TestASuppliersTextUsedTwiceIsAskedWhereItIsWeighed(t *testing.T) {
	t.Parallel()
	b := bake(t, withDemo(t), clock())
	l := b.line("Fine sea salt")
	one := b.deliver("salt_sea_fine", map[string]any{"text": "SS 4"})
	v := into[production.BatchView](b.weigh(l, from("ss 4", 20)).ok())
	assert.Equal(t, one.Code, v.Record.Lines[5].Lot, "one lot has these words")
	two := b.deliver("salt_sea_fine", map[string]any{"text": "SS 4"})
	l = b.line("Fine sea salt")
	title := b.weigh(l, from("SS 4", 21)).refused(422, "weighing.draws[0].code")
	assert.Contains(t, title, one.Code+", "+two.Code)
	b.weigh(l, from(two.Code, 21)).ok()
	figures := b.deliver("salt_sea_fine", map[string]any{"text": "20261118"})
	l = b.line("Fine sea salt")
	b.weigh(l, from("20261118", 21)).ok()
	assert.Equal(t, figures.Code, b.line("Fine sea salt").Lot, "a supplier's words may be all figures")
	for typed, says := range map[string]string{"P999999": "o lot is called", "nonsense": "o lot is called",
		b.deliver("sugar", nil).Code: "asks for something else"} {
		l = b.line("Fine sea salt")
		assert.Contains(t, b.weigh(l, from(typed, 21)).refused(422, "weighing.draws[0].code"), says)
	}
}

// TestStockFollowsWhatIsWeighed weighs from two lots, corrects, weighs again, and takes more than there is.
func TestStockFollowsWhatIsWeighed(t *testing.T) {
	t.Parallel()
	b := bake(t, withDemo(t), clock())
	small := b.deliver("vinegar_cider", map[string]any{"pack": "100 g"})
	large := b.deliver("vinegar_cider", map[string]any{"pack": "1 kg"})
	l := b.line("Cider vinegar 5%")
	b.weigh(l, from(small.Code, 60), from(large.Code, 230)).ok()
	left := func(x kernel.LotStanding) float64 { return b.lot(x.ID).Left.Float() }
	assert.InDelta(t, 40, left(small), 0)
	assert.InDelta(t, 770, left(large), 0)
	l = b.line("Cider vinegar 5%")
	assert.Equal(t, small.Code+", "+large.Code, l.Lot)
	b.write(map[string]any{"kind": "weighing",
		"weighing": map[string]any{"line": l.Line, "grams": 290.5, "over": l.Entry,
			"correction": true}}).refused(422, "weighing.draws")
	b.weigh(l, from(small.Code, 290)).ok()
	assert.InDelta(t, -190, left(small), 0, "less than nothing, and it shows")
	assert.InDelta(t, 1000, left(large), 0)
	l = b.line("Cider vinegar 5%")
	b.write(map[string]any{"kind": "weighing", "weighing": map[string]any{"line": l.Line, "grams": 292, "over": l.Entry,
		"correction": true}}).ok()
	assert.InDelta(t, -192, left(small), 0, "a correction keeps the one lot that was named")
	into := b.lot(small.ID).Into
	require.Len(t, into, 1)
	assert.Equal(t, b.id, into[0].ID)
	assert.InDelta(t, 292, into[0].Grams.Float(), 0)
	page := get[production.LotPage](b.client, "/api/lots?show=there&of=vinegar_cider")
	assert.Contains(t, codesIn(page.Lots), small.Code, "it is in the stock, below nothing")
}

func codesIn(list []kernel.LotStanding) []string {
	out := []string{}
	for _, l := range list {
		out = append(out, l.Code)
	}
	return out
}

// TestAPreparedLineTakesMoreOfItsLot weighs boiled beetroot from a lot of raw ones.
func TestAPreparedLineTakesMoreOfItsLot(t *testing.T) {
	t.Parallel()
	b := bake(t, withDemo(t), clock())
	raw := b.deliver("beetroot_raw", map[string]any{"pack": "10 kg", "ends": ""})
	l := b.line("Beetroot, boiled")
	v := into[production.BatchView](b.weigh(l, from(raw.Code, 750)).ok())
	d := v.Record.Lines[0].Draws[0]
	assert.NotEmpty(t, d.Step)
	assert.Greater(t, d.Taken.Float(), 1000.0, "what boiling and peeling lose is taken too")
	assert.Equal(t, amount.G(10000).Minus(d.Taken), b.lot(raw.ID).Left)
	assert.Empty(t, v.Record.Lines[0].UseBy, day.Day("raw beetroots have no use-by of their own"))
}

// TestALotThatMayNotBeUsedIsRefusedAtTheBench tries lots past their date, on hold, refused and not accepted.
func TestALotThatMayNotBeUsedIsRefusedAtTheBench(t *testing.T) {
	t.Parallel()
	b := bake(t, withDemo(t), clock())
	past := b.deliver("salt_sea_fine", map[string]any{"ends": "2026-11-24"})
	held := b.deliver("salt_sea_fine", nil)
	b.act(held.ID, "held", map[string]any{"reason": "wet through"}).ok()
	refused := b.deliver("salt_sea_fine", map[string]any{"accept": false, "refuse": "wrong salt"})
	waits := b.deliver("salt_sea_fine", map[string]any{"accept": false})
	for code, why := range map[string]string{past.Code: "past its best",
		held.Code:    "on hold: wet through",
		refused.Code: "refused: wrong salt", waits.Code: "nobody has accepted it"} {
		for _, who := range []string{"Ola", "Bram"} {
			b.as(who)
			title := b.weigh(b.line("Fine sea salt"), from(code, 26)).refused(422, "weighing.draws[0].code")
			assert.Contains(t, title, why)
			assert.Contains(t, title, "An owner may use it with a reason")
		}
	}
	b.as("Ines")
	l := b.line("Fine sea salt")
	b.weigh(l, from(past.Code, 26)).refused(422, "weighing.draws[0].reason")
	draw := from(past.Code, 26)
	draw["reason"] = "salt does not go off; tasted"
	v := into[production.BatchView](b.weigh(l, draw).ok())
	assert.Contains(t, v.Record.Lines[5].Draws[0].Over, "past its best")
	assert.Empty(t, v.Record.Lines[5].Barred)
}

// TestALotMergedIntoTwoComponentsHoldsBothAndWhatTheyWentInto follows one sack of salt.
func TestALotMergedIntoTwoComponentsHoldsBothAndWhatTheyWentInto(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	c.app.Now = func() time.Time { return *now }
	salt := c.deliver("salt_sea_fine", map[string]any{"pack": "10 kg"})
	make := func(formula string, ph float64) *baker {
		v := into[production.BatchView](c.send("POST", "/api/batches",
			map[string]any{"formula": formula, "version": 1, "jars": 4,
				"made_on": now.Format(time.DateOnly)}).ok())
		b := &baker{c, v.ID, 0, now}
		for _, l := range v.Record.Lines {
			w := b.weighing(b.id, l, l.Grams)
			if l.Name == "Fine sea salt" {
				w["draws"] = []any{map[string]any{"code": salt.Code, "grams": l.Grams}}
			}
			b.write(map[string]any{"kind": "weighing", "weighing": w}).ok()
		}
		b.fill(4)
		*now = now.Add(25 * time.Hour)
		b.readAll(ph)
		b.decide("released", "above the target is fine for a base").ok()
		return b
	}
	ginger, base := make("ginger_paste", 3.2), make("lime_garlic_base", 2.7)
	of := func(b *baker) kernel.LotStanding { return c.called(b.view().Code) }
	traced := codes(c.trace(fmt.Sprintf("lot=%d", salt.ID)), "batch")
	assert.Subset(t, traced, []string{ginger.view().Code, base.view().Code}, "the lot is followed into both")
	assert.Empty(t, of(ginger).Bar)
	v := into[production.BatchView](c.send("POST", "/api/batches",
		map[string]any{"formula": "pumpkin_cumin_spread", "version": 1,
			"jars": 6, "made_on": now.Format(time.DateOnly)}).ok())
	spread := &baker{c, v.ID, 0, now}
	line := spread.line("Lime & garlic base")
	spread.weigh(line, from(of(base).Code, line.Grams.Float())).ok()
	dressing := into[production.BatchView](c.send("POST", "/api/batches",
		map[string]any{"formula": "carrot_miso_dressing",
			"version": 3, "jars": 6, "made_on": now.Format(time.DateOnly)}).ok())
	wrong := &baker{c, dressing.ID, 0, now}
	assert.Contains(t, wrong.weigh(wrong.line("Ginger paste"), from(of(ginger).Code, 20)).refused(422,
		"weighing.draws[0].code"), "Ginger paste, version 1; this line asks for something else")

	c.act(salt.ID, "held", map[string]any{"reason": "the mill calls it back"}).ok()
	for _, b := range []*baker{ginger, base} {
		assert.Equal(t, lots.OnHold, of(b).State)
		assert.Contains(t, of(b).Bar, "it was made with lot "+salt.Code+" of Fine sea salt: it is on hold")
		assert.Equal(t, "released", b.view().Record.State, "what was decided stays; an owner decides anew")
	}
	missing := fmt.Sprint(spread.view().Record.Missing)
	assert.Contains(t, missing, "a decision on lot "+of(base).Code)
	assert.Contains(t, missing, salt.Code, "down to the sack")
	danger := ""
	for _, task := range get[kernel.TodayView](c, "/api/today").Tasks {
		if task.Kind == "lot_barred" {
			danger += task.Title + " " + task.Text
		}
	}
	assert.Contains(t, danger, salt.Code)
	assert.Contains(t, danger, ginger.view().Code)
	assert.Contains(t, danger, base.view().Code)

	send := func() reply {
		return c.send("POST", "/api/dispatches", map[string]any{"party": 1, "rows": []any{map[string]any{
			"formula": "ginger_paste", "batch": ginger.id, "jars": 1, "reason": "they want this one"}}})
	}
	send().refused(422, "rows[0].jars")
	ginger.write(map[string]any{"kind": "moved", "moved": map[string]any{"from": "filled", "to": "with", "party": 1,
		"jars": 1}}).refused(422, "")

	c.act(salt.ID, "freed", map[string]any{"reason": "another sack was meant"}).ok()
	send().ok()
	assert.Empty(t, of(base).Bar)
	assert.NotContains(t, fmt.Sprint(spread.view().Record.Missing), "a decision on lot")
}

// TestAComponentsEndIsTakenFromTheBook: nothing typed can make a component keep longer than it does.
func TestAComponentsEndIsTakenFromTheBook(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	c.app.Now = func() time.Time { return *now }
	v := into[production.BatchView](c.send("POST", "/api/batches",
		map[string]any{"formula": "carrot_miso_dressing", "version": 3,
			"jars": 6, "made_on": now.Format(time.DateOnly)}).ok())
	b := &baker{c, v.ID, 0, now}
	l := b.line("Ginger paste")
	b.write(map[string]any{"kind": "weighing", "weighing": map[string]any{"line": l.Line, "grams": 24,
		"use_by": "2036-01-01"}}).refused(422, "weighing.lot")
	paste := c.called("26-303-A")
	require.Equal(t, day.Day("2026-12-25"), paste.Ends)
	b.weigh(l, from(paste.Code, 27)).ok()
	assert.Equal(t, paste.Ends, b.line("Ginger paste").UseBy)
	c.act(paste.ID, "corrected", map[string]any{"ingredient": "ginger", "pack": "9 kg", "supplier": "x",
		"day":  "2026-11-25",
		"ends": "2036-01-01", "why": "keeps for ever"}).refused(422, "")
	assert.Equal(t, paste.Ends, c.called("26-303-A").Ends)
	require.NotNil(t, paste.PerGram, "what it cost comes from the book, too")
}

// TestALotCorrectedAfterItWasUsed: a stricter end counts for what it went into, released or not.
func TestALotCorrectedAfterItWasUsed(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	milk := b.called(b.line("Strained (Greek-style) yogurt, whole").Lot)
	*now = now.Add(25 * time.Hour)
	b.readAll(4.0)
	fix := func(ends string) map[string]any {
		return map[string]any{"ingredient": "yogurt_strained", "supplier": fenwick, "day": "2026-11-25",
			"pack": "50 kg",
			"ends": ends, "arrival_c": 3, "statement": "certificate 1", "why": "the lid says another day"}
	}
	b.as("Bram")
	b.act(milk.ID, "corrected", fix("2026-12-07")).ok()
	assert.Equal(t, day.Day("2026-12-07"), b.view().LastDay["GB"], "twelve days in the place of the 21 of the style")
	b.act(milk.ID, "corrected", fix("2026-12-20")).refused(403, "")
	b.as("Ines")
	b.act(milk.ID, "corrected", fix("2026-12-20")).ok()
	b.decide("released", "").ok()
	assert.Equal(t, day.Day("2026-12-16"), b.view().LastDay["GB"])
	b.act(milk.ID, "corrected", fix("2026-12-02")).ok()
	v := b.view()
	assert.Equal(t, day.Day("2026-12-16"), v.LastDay["GB"],
		"what was decided, and stands on the jars, does not move by itself")
	assert.Contains(t, v.Sooner, "ends on 2026-12-02, and the jars say 2026-12-16")
	text := ""
	for _, task := range get[kernel.TodayView](b.client, "/api/today").Tasks {
		if task.Kind == "sooner" {
			assert.Equal(t, "danger", task.Level)
			text += task.Title
		}
	}
	assert.Contains(t, text, v.Code)
	title := b.send("POST", "/api/labels/2/print?key=doubt", map[string]any{"batch": b.id, "count": 2}).refused(422, "")
	assert.Contains(t, title, "An owner decides on the batch first")
	kept := get[production.Rested](b.client, fmt.Sprintf("/api/batches/%d/rested/%d", b.id, v.RestedEntry))
	ends := map[string]string{}
	for _, f := range kept.Lots {
		ends[f.Code] = string(f.Ends)
	}
	assert.Equal(t, "2026-12-20", ends[milk.Code], "the record shows what was true on the day")
}

// TestALotOfAnotherIngredientThanWasTyped is put right before anything was taken, and not after.
func TestALotOfAnotherIngredientThanWasTyped(t *testing.T) {
	t.Parallel()
	b := bake(t, withDemo(t), clock())
	l := b.deliver("sugar", map[string]any{"pack": "2 kg"})
	fix := map[string]any{"ingredient": "salt_sea_fine", "supplier": fenwick, "day": "2026-11-25", "pack": "2 kg",
		"ends": l.Ends, "statement": "certificate 1", "arrival_c": 3, "why": "it is salt"}
	b.as("Bram")
	b.act(l.ID, "corrected", fix).refused(403, "")
	b.as("Ines")
	b.act(l.ID, "corrected", fix).ok()
	assert.Equal(t, "Fine sea salt", b.lot(l.ID).Name)
	b.weigh(b.line("Fine sea salt"), from(l.Code, 26)).ok()
	before := b.lot(l.ID).LotStanding
	_, err := b.app.Production.Rebuild(context.Background())
	require.NoError(t, err)
	assert.Equal(t, before, b.lot(l.ID).LotStanding)
	fix["ingredient"] = "sugar"
	b.act(l.ID, "corrected", fix).refused(422, "corrected.ingredient")
}

// TestAListPrintedDifferentlyIsLookedAtAgain brings a packet whose list has changed.
func TestAListPrintedDifferentlyIsLookedAtAgain(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	miso := get[catalog.IngredientView](c, "/api/ingredients/miso_white")
	known := miso.ListFor("GB")
	require.NotEmpty(t, known)
	same := c.deliver("miso_white", map[string]any{"list": known})
	assert.False(t, same.Differs)
	other := c.deliver("miso_white", map[string]any{"list": known + ", barley malt"})
	assert.True(t, other.Differs)
	v := c.lot(other.ID)
	assert.Contains(t, v.WhyNot, "nobody has looked at the allergens again")
	assert.Contains(t, codesIn(get[production.LotPage](c, "/api/lots?show=waiting").Lots), other.Code)
	c.as("Bram")
	c.act(other.ID, "compared", map[string]any{"reason": "looked"}).refused(403, "")
	c.as("Ines")
	c.act(other.ID, "compared", map[string]any{"reason": "barley was added to the allergens"}).ok()
	assert.Empty(t, c.lot(other.ID).WhyNot)
	assert.False(t, c.deliver("miso_white", map[string]any{"list": known + ", barley malt"}).Differs,
		"the next of the same print is held against it")
	assert.True(t, c.deliver("miso_white", map[string]any{"list": known}).Differs, "and the old print differs now")
}

// TestAFrozenPartIsALotOfItsOwn freezes, thaws and uses a part of a component.
func TestAFrozenPartIsALotOfItsOwn(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	c.app.Now = func() time.Time { return *now }
	paste := c.called("26-303-A")
	freeze := func(grams float64, day string) reply {
		return c.send("POST", fmt.Sprintf("/api/lots/%d/parts", paste.ID), map[string]any{"grams": grams, "day": day})
	}
	freeze(99999, "2026-11-25").refused(422, "grams")
	freeze(500, "2026-11-26").refused(422, "day")
	part := into[production.LotView](freeze(500, "2026-11-25").ok())
	assert.Equal(t, day.Day("2027-02-23"), part.Ends, "90 days")
	assert.Equal(t, amount.G(500), part.Left)
	for _, row := range get[production.StockView](c, "/api/stock").Rows {
		if row.Formula == "ginger_paste" {
			assert.Equal(t, row.There.Minus(amount.G(1500)), row.Usable,
				"what is frozen is there and not to be used yet")
		}
	}
	assert.Equal(t, paste.Left.Minus(amount.G(500)), c.called("26-303-A").Left)
	c.send("POST", fmt.Sprintf("/api/lots/%d/parts", part.ID),
		map[string]any{"grams": 100, "day": "2026-11-25"}).refused(422, "")
	v := into[production.BatchView](c.send("POST", "/api/batches",
		map[string]any{"formula": "carrot_miso_dressing", "version": 3,
			"jars": 6, "made_on": now.Format(time.DateOnly)}).ok())
	b := &baker{c, v.ID, 0, now}
	assert.Contains(t, b.weigh(b.line("Ginger paste"), from(part.Code, 27)).refused(422, "weighing.draws[0].reason"),
		"thaw it first")
	c.act(part.ID, "thawed", map[string]any{"day": "2026-11-25"}).ok()
	assert.Equal(t, day.Day("2026-11-29"), c.lot(part.ID).Ends, "four days")
	b.weigh(b.line("Ginger paste"), from(part.Code, 27)).ok()
	assert.Equal(t, day.Day("2026-11-29"), b.line("Ginger paste").UseBy)
	assert.Equal(t, amount.G(473), c.lot(part.ID).Left)
	c.as("Ola")
	c.send("POST", fmt.Sprintf("/api/lots/%d/parts", paste.ID),
		map[string]any{"grams": 1, "day": "2026-11-25"}).refused(403, "")
}

// TestALotsOwnStrengthMovesTheEstimate weighs vinegar that states less acid than it usually has.
func TestALotsOwnStrengthMovesTheEstimate(t *testing.T) {
	t.Parallel()
	estimate := func(strength any) float64 {
		b := bake(t, withDemo(t), clock())
		weak := b.deliver("vinegar_cider", map[string]any{"strength": strength})
		for _, l := range b.view().Record.Lines {
			w := b.weighing(b.id, l, l.Grams)
			if l.Name == "Cider vinegar 5%" {
				w["draws"] = []any{map[string]any{"code": weak.Code, "grams": l.Grams}}
			}
			b.write(map[string]any{"kind": "weighing", "weighing": w}).ok()
		}
		return *b.view().Estimate.Estimate
	}
	usual, weak := estimate(nil), estimate(2.5)
	assert.Greater(t, weak, usual+0.05)
}

// TestWhatABatchCostByItsLots beside today's prices.
func TestWhatABatchCostByItsLots(t *testing.T) {
	t.Parallel()
	b := bake(t, withDemo(t), clock())
	dear := b.deliver("salt_sea_fine", map[string]any{"pack": "1 kg", "cost": 100})
	for _, l := range b.view().Record.Lines {
		w := b.weighing(b.id, l, l.Grams)
		if l.Name == "Fine sea salt" {
			w["draws"] = []any{map[string]any{"code": dear.Code, "grams": l.Grams}}
		}
		b.write(map[string]any{"kind": "weighing", "weighing": w}).ok()
	}
	b.write(map[string]any{"kind": "fill", "fill": map[string]any{"jars": 12, "at": *b.now}}).ok()
	cost := get[production.BatchCost](b.client, fmt.Sprintf("/api/batches/%d/cost", b.id))
	salt := b.line("Fine sea salt").Actual.Float()
	assert.InDelta(t, cost.Today.Float()-salt*2.1/3000+salt*0.1, cost.ByLots.Float(), 1e-9)
	assert.InDelta(t, cost.ByLots.Float()/12, cost.PerJar.Float(), 1e-9)
	assert.Len(t, cost.AtToday, 5, "fenwick's other lots tell no cost: %v", cost.AtToday)
	assert.Empty(t, cost.Missing)
}

// TestWhatGoesOntoTheJarsCostsToo: a paste with sesame on top costs that much more than its lines alone.
func TestWhatGoesOntoTheJarsCostsToo(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	v := into[production.BatchView](c.send("POST", "/api/batches", map[string]any{"formula": "pea_pistachio_spread",
		"version": 1, "jars": 10, "made_on": "2026-11-25"}).ok())
	at := slices.IndexFunc(v.Record.Lines, func(l bench.LineState) bool { return l.Name == "Sesame seed, toasted" })
	require.GreaterOrEqual(t, at, 0)
	sesame := v.Record.Lines[at]
	assert.Equal(t, amount.G(22), sesame.Grams, "2.2 g a jar")
	today := func() amount.Exact {
		return get[production.BatchCost](c, fmt.Sprintf("/api/batches/%d/cost", v.ID)).Today
	}
	before := today()
	b := &baker{c, v.ID, 0, clock()}
	b.write(map[string]any{"kind": "weighing", "weighing": b.weighing(b.id, sesame, amount.G(44))}).ok()
	assert.Greater(t, today().Float(), before.Float()*1.0001, "twice the sesame")
}

func TestUnknownLotsAndActs(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	c.send("GET", "/api/lots/99999", nil).refused(404, "")
	c.send("GET", "/api/lots/99999/sticker", nil).refused(404, "")
	c.send("POST", "/api/lots/99999/parts", map[string]any{"grams": 1, "day": "2026-11-25"}).refused(404, "")
	c.act(99999, "held", map[string]any{"reason": "no such lot"}).refused(404, "")
	c.act(71, "froze", map[string]any{}).refused(422, "kind")
	c.send("POST", "/api/lots/71/entries?key=x", map[string]any{"kind": "held"}).refused(422, "kind")
	c.send("GET", "/api/lots?show=moon", nil).refused(422, "show")
	assert.Equal(t, http.StatusUnprocessableEntity, c.send("GET", "/api/lots/71/sticker?count=201", nil).status)
	require.ErrorAs(t, lots.NewFold(lots.OfBatch, nil).Refuses(lots.Entry{Head: entry.Head{Role: "owner"},
		Body: &lots.Corrected{}}, lots.Moment{}), &entry.Refusal{})
}
