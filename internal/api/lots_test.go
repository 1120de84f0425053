package api

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"sync"
	"testing"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/lots"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

func (c *client) lot(id int64) app.LotView {
	c.t.Helper()
	return get[app.LotView](c, fmt.Sprintf("/api/lots/%d", id))
}

// act writes an act into a lot's record.
func (c *client) act(lot int64, kind string, body map[string]any) reply {
	c.t.Helper()
	c.lots++
	return c.send("POST", fmt.Sprintf("/api/lots/%d/entries?key=act-%d", lot, c.lots),
		map[string]any{"kind": kind, kind: body})
}

// called is the lot of a code.
func (c *client) called(code string) app.LotStanding {
	c.t.Helper()
	for _, show := range []string{"there", "barred"} {
		for _, l := range get[app.LotPage](c, "/api/lots?show="+show+"&find="+code).Lots {
			if l.Code == code {
				return l
			}
		}
	}
	c.t.Fatalf("no lot %s", code)
	return app.LotStanding{}
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

// TestADeliveryTypedTwiceIsTakenInOnce sends one note twice: under the same key, under another, and as another
// delivery.
func TestADeliveryTypedTwiceIsTakenInOnce(t *testing.T) {
	c := withDemo(t)
	note := `{"supplier":"Pellow Oils","note":"PO 17","day":"2026-11-25","lots":[{"ingredient":` +
		`"Rapeseed (canola) oil","pack":"2 x 10 l","text":"R1","cost":62,"accept":true}]}`
	before := get[app.LotPage](c, "/api/lots?show=there&of=rapeseed_oil").All
	status, raw := c.under("k1", "/api/deliveries", "application/json", note)
	require.Equal(t, 200, status, string(raw))
	first := into[app.Taken](reply{t, status, raw, nil})
	status, raw = c.under("k1", "/api/deliveries", "application/json", note)
	assert.Equal(t, first.Lots[0].Code, into[app.Taken](reply{t, status, raw, nil}).Lots[0].Code, "the same errand")
	assert.Equal(t, amount.G(18300), first.Lots[0].Left, "20 litres at 0.915 g/mL")
	assert.Equal(t, "Rapeseed (canola) oil", first.Lots[0].Name)
	status, raw = c.under("k2", "/api/deliveries", "application/json", note)
	assert.Equal(t, 422, status)
	assert.Contains(t, string(raw), "Note PO 17 of Pellow Oils was taken in on 2026-11-25 by Ines")
	status, _ = c.under("k1", "/api/deliveries", "application/json", note[:len(note)-1]+`,"again":"x"}`)
	assert.Equal(t, 409, status, "other content under the same key")
	again := note[:len(note)-1] + `,"again":"they write one number a month"}`
	status, raw = c.under("k3", "/api/deliveries", "application/json", again)
	require.Equal(t, 200, status, string(raw))
	second := into[app.Taken](reply{t, status, raw, nil}).Lots[0]
	assert.NotEqual(t, first.Lots[0].Code, second.Code)
	assert.Equal(t, before+2, get[app.LotPage](c, "/api/lots?show=there&of=rapeseed_oil").All)
	assert.Equal(t, second.Code, c.lot(first.Lots[0].ID).Twins[0].Code, "the same words of the same supplier")
}

// TestASuppliersTextUsedTwiceIsAskedWhereItIsWeighed types the supplier's own words at the bench.
func TestASuppliersTextUsedTwiceIsAskedWhereItIsWeighed(t *testing.T) {
	b := bake(t, withDemo(t), clock())
	l := b.line("Fine sea salt")
	one := b.deliver("salt_sea_fine", map[string]any{"text": "SS 4"})
	v := into[app.BatchView](b.weigh(l, from("ss 4", 20)).ok())
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
	b := bake(t, withDemo(t), clock())
	small := b.deliver("vinegar_cider", map[string]any{"pack": "100 g"})
	large := b.deliver("vinegar_cider", map[string]any{"pack": "1 kg"})
	l := b.line("Cider vinegar 5%")
	b.weigh(l, from(small.Code, 60), from(large.Code, 230)).ok()
	left := func(x app.LotStanding) float64 { return b.lot(x.ID).Left.Float() }
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
	page := get[app.LotPage](b.client, "/api/lots?show=there&of=vinegar_cider")
	assert.Contains(t, codesIn(page.Lots), small.Code, "it is in the stock, below nothing")
}

func codesIn(list []app.LotStanding) []string {
	out := []string{}
	for _, l := range list {
		out = append(out, l.Code)
	}
	return out
}

// TestAPreparedLineTakesMoreOfItsLot weighs boiled beetroot from a lot of raw ones.
func TestAPreparedLineTakesMoreOfItsLot(t *testing.T) {
	b := bake(t, withDemo(t), clock())
	raw := b.deliver("beetroot_raw", map[string]any{"pack": "10 kg", "ends": ""})
	l := b.line("Beetroot, boiled")
	v := into[app.BatchView](b.weigh(l, from(raw.Code, 750)).ok())
	d := v.Record.Lines[0].Draws[0]
	assert.NotEmpty(t, d.Step)
	assert.Greater(t, d.Taken.Float(), 1000.0, "what boiling and peeling lose is taken too")
	assert.Equal(t, amount.G(10000).Minus(d.Taken), b.lot(raw.ID).Left)
	assert.Empty(t, v.Record.Lines[0].UseBy, "raw beetroots have no use-by of their own")
}

// TestALotThatMayNotBeUsedIsRefusedAtTheBench tries lots past their date, on hold, refused and not accepted.
func TestALotThatMayNotBeUsedIsRefusedAtTheBench(t *testing.T) {
	b := bake(t, withDemo(t), clock())
	past := b.deliver("salt_sea_fine", map[string]any{"ends": "2026-11-24"})
	held := b.deliver("salt_sea_fine", nil)
	b.act(held.ID, "held", map[string]any{"reason": "wet through"}).ok()
	refused := b.deliver("salt_sea_fine", map[string]any{"accept": false, "refuse": "wrong salt"})
	waits := b.deliver("salt_sea_fine", map[string]any{"accept": false})
	for code, why := range map[string]string{past.Code: "past its best-before 2026-11-24",
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
	v := into[app.BatchView](b.weigh(l, draw).ok())
	assert.Contains(t, v.Record.Lines[5].Draws[0].Over, "best-before")
	assert.Empty(t, v.Record.Lines[5].Barred)
}

// TestALotMergedIntoTwoComponentsHoldsBothAndWhatTheyWentInto follows one sack of salt.
func TestALotMergedIntoTwoComponentsHoldsBothAndWhatTheyWentInto(t *testing.T) {
	now := clock()
	c := withDemo(t)
	c.app.Now = func() time.Time { return *now }
	salt := c.deliver("salt_sea_fine", map[string]any{"pack": "10 kg"})
	make := func(formula string, ph float64) *baker {
		v := into[app.BatchView](c.send("POST", "/api/batches",
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
		b.write(map[string]any{"kind": "fill", "fill": map[string]any{"jars": 4, "at": *now}}).ok()
		*now = now.Add(25 * time.Hour)
		b.readAll(ph)
		b.decide("released", "above the target is fine for a base").ok()
		return b
	}
	ginger, base := make("ginger_paste", 3.2), make("lime_garlic_base", 2.7)
	of := func(b *baker) app.LotStanding { return c.called(b.view().Code) }
	assert.Empty(t, of(ginger).Bar)
	v := into[app.BatchView](c.send("POST", "/api/batches",
		map[string]any{"formula": "pumpkin_cumin_spread", "version": 1,
			"jars": 6, "made_on": now.Format(time.DateOnly)}).ok())
	spread := &baker{c, v.ID, 0, now}
	line := spread.line("Lime & garlic base")
	spread.weigh(line, from(of(base).Code, line.Grams.Float())).ok()
	dressing := into[app.BatchView](c.send("POST", "/api/batches", map[string]any{"formula": "carrot_miso_dressing",
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
	for _, task := range get[app.TodayView](c, "/api/today").Tasks {
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
	now := clock()
	c := withDemo(t)
	c.app.Now = func() time.Time { return *now }
	v := into[app.BatchView](c.send("POST", "/api/batches",
		map[string]any{"formula": "carrot_miso_dressing", "version": 3,
			"jars": 6, "made_on": now.Format(time.DateOnly)}).ok())
	b := &baker{c, v.ID, 0, now}
	l := b.line("Ginger paste")
	b.write(map[string]any{"kind": "weighing", "weighing": map[string]any{"line": l.Line, "grams": 24,
		"use_by": "2036-01-01"}}).refused(422, "weighing.lot")
	paste := c.called("26-303-A")
	require.Equal(t, "2026-12-25", paste.Ends)
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
	assert.Equal(t, "2026-12-07", b.view().LastDay["GB"], "twelve days in the place of the 21 of the style")
	b.act(milk.ID, "corrected", fix("2026-12-20")).refused(403, "")
	b.as("Ines")
	b.act(milk.ID, "corrected", fix("2026-12-20")).ok()
	b.decide("released", "").ok()
	assert.Equal(t, "2026-12-16", b.view().LastDay["GB"])
	b.act(milk.ID, "corrected", fix("2026-12-02")).ok()
	v := b.view()
	assert.Equal(t, "2026-12-16", v.LastDay["GB"], "what was decided, and stands on the jars, does not move by itself")
	assert.Contains(t, v.Sooner, "ends on 2026-12-02, and the jars say 2026-12-16")
	text := ""
	for _, task := range get[app.TodayView](b.client, "/api/today").Tasks {
		if task.Kind == "sooner" {
			assert.Equal(t, "danger", task.Level)
			text += task.Title
		}
	}
	assert.Contains(t, text, v.Code)
	title := b.send("POST", "/api/labels/2/print?key=doubt", map[string]any{"batch": b.id, "count": 2}).refused(422, "")
	assert.Contains(t, title, "An owner decides on the batch first")
	kept := get[app.Rested](b.client, fmt.Sprintf("/api/batches/%d/rested/%d", b.id, v.RestedEntry))
	ends := map[string]string{}
	for _, f := range kept.Lots {
		ends[f.Code] = f.Ends
	}
	assert.Equal(t, "2026-12-20", ends[milk.Code], "the record shows what was true on the day")
}

// TestWhatCameInIsAcceptedByWhoMay takes in by a helper, warm and cold.
func TestWhatCameInIsAcceptedByWhoMay(t *testing.T) {
	c := withDemo(t)
	c.as("Ola")
	in := func(row map[string]any) reply {
		return c.send("POST", "/api/deliveries", map[string]any{"supplier": "Tansydale Dairy", "day": "2026-11-25",
			"lots": []any{row}})
	}
	row := map[string]any{"ingredient": "yogurt_strained", "pack": "2 kg", "ends": "2026-12-05", "arrival_c": 9.5}
	row["accept"] = true
	in(row).refused(403, "lots[0].accept")
	row["accept"] = false
	l := into[app.Taken](in(row).ok()).Lots[0]
	assert.Equal(t, lots.Waiting, l.State)
	v := c.lot(l.ID)
	assert.Equal(t, "it arrived at 9.5 °C, over 8 °C", v.Asks, "the limit of the law where none was typed")
	c.act(l.ID, "accepted", map[string]any{}).refused(403, "")
	c.as("Bram")
	c.act(l.ID, "accepted", map[string]any{"reason": "it will do"}).refused(403, "")
	c.as("Ines")
	c.act(l.ID, "accepted", map[string]any{}).refused(422, "accepted.reason")
	c.act(l.ID, "accepted", map[string]any{"reason": "the probe was wrong; 4 °C by the second"}).ok()
	assert.Equal(t, lots.Open, c.lot(l.ID).State)
	assert.Equal(t, "Ines", c.lot(l.ID).Record.By)
	delete(row, "ends")
	in(row).refused(422, "lots[0].ends")
	in(map[string]any{"ingredient": "nothing we know", "pack": "2 kg"}).refused(422, "lots[0].ingredient")
	in(map[string]any{"ingredient": "yogurt_strained", "pack": "1,432 g", "ends": "2026-12-05"}).refused(422,
		"lots[0].pack")
	in(map[string]any{"ingredient": "tahini", "pack": "2 crates"}).refused(422, "lots[0].pack")
	twice := c.send("POST", fmt.Sprintf("/api/lots/%d/entries?key=same", l.ID), map[string]any{"kind": "held",
		"held": map[string]any{"reason": "mould"}})
	twice.ok()
	c.send("POST", fmt.Sprintf("/api/lots/%d/entries?key=same", l.ID), map[string]any{"kind": "held",
		"held": map[string]any{"reason": "mould"}}).ok()
	c.send("POST", fmt.Sprintf("/api/lots/%d/entries?key=same", l.ID), map[string]any{"kind": "held",
		"held": map[string]any{"reason": "no mould"}}).refused(409, "")
	assert.Len(t, c.lot(l.ID).Entries, 3)
}

// TestALotOfAnotherIngredientThanWasTyped is put right before anything was taken, and not after.
func TestALotOfAnotherIngredientThanWasTyped(t *testing.T) {
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
	_, err := b.app.Rebuild(context.Background())
	require.NoError(t, err)
	assert.Equal(t, before, b.lot(l.ID).LotStanding)
	fix["ingredient"] = "sugar"
	b.act(l.ID, "corrected", fix).refused(422, "corrected.ingredient")
}

// TestAListPrintedDifferentlyIsLookedAtAgain brings a packet whose list has changed.
func TestAListPrintedDifferentlyIsLookedAtAgain(t *testing.T) {
	c := withDemo(t)
	miso := get[app.IngredientView](c, "/api/ingredients/miso_white")
	known := miso.ListFor("GB")
	require.NotEmpty(t, known)
	same := c.deliver("miso_white", map[string]any{"list": known})
	assert.False(t, same.Differs)
	other := c.deliver("miso_white", map[string]any{"list": known + ", barley malt"})
	assert.True(t, other.Differs)
	v := c.lot(other.ID)
	assert.Contains(t, v.WhyNot, "nobody has looked at the allergens again")
	assert.Contains(t, codesIn(get[app.LotPage](c, "/api/lots?show=waiting").Lots), other.Code)
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
	now := clock()
	c := withDemo(t)
	c.app.Now = func() time.Time { return *now }
	paste := c.called("26-303-A")
	freeze := func(grams float64, day string) reply {
		return c.send("POST", fmt.Sprintf("/api/lots/%d/parts", paste.ID), map[string]any{"grams": grams, "day": day})
	}
	freeze(99999, "2026-11-25").refused(422, "grams")
	freeze(500, "2026-11-26").refused(422, "day")
	part := into[app.LotView](freeze(500, "2026-11-25").ok())
	assert.Equal(t, "2027-02-23", part.Ends, "90 days")
	assert.Equal(t, amount.G(500), part.Left)
	assert.Equal(t, paste.Left.Minus(amount.G(500)), c.called("26-303-A").Left)
	c.send("POST", fmt.Sprintf("/api/lots/%d/parts", part.ID),
		map[string]any{"grams": 100, "day": "2026-11-25"}).refused(422, "")
	v := into[app.BatchView](c.send("POST", "/api/batches",
		map[string]any{"formula": "carrot_miso_dressing", "version": 3,
			"jars": 6, "made_on": now.Format(time.DateOnly)}).ok())
	b := &baker{c, v.ID, 0, now}
	assert.Contains(t, b.weigh(b.line("Ginger paste"), from(part.Code, 27)).refused(422, "weighing.draws[0].reason"),
		"thaw it first")
	c.act(part.ID, "thawed", map[string]any{"day": "2026-11-25"}).ok()
	assert.Equal(t, "2026-11-29", c.lot(part.ID).Ends, "four days")
	b.weigh(b.line("Ginger paste"), from(part.Code, 27)).ok()
	assert.Equal(t, "2026-11-29", b.line("Ginger paste").UseBy)
	assert.Equal(t, amount.G(473), c.lot(part.ID).Left)
	c.as("Ola")
	c.send("POST", fmt.Sprintf("/api/lots/%d/parts", paste.ID),
		map[string]any{"grams": 1, "day": "2026-11-25"}).refused(403, "")
}

// TestALotsOwnStrengthMovesTheEstimate weighs vinegar that states less acid than it usually has.
func TestALotsOwnStrengthMovesTheEstimate(t *testing.T) {
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
	cost := get[app.BatchCost](b.client, fmt.Sprintf("/api/batches/%d/cost", b.id))
	salt := b.line("Fine sea salt").Actual.Float()
	assert.InDelta(t, cost.Today.Float()-salt*2.1/3000+salt*0.1, cost.ByLots.Float(), 1e-9)
	assert.InDelta(t, cost.ByLots.Float()/12, cost.PerJar.Float(), 1e-9)
	assert.Len(t, cost.AtToday, 5, "fenwick's other lots tell no cost: %v", cost.AtToday)
	assert.Empty(t, cost.Missing)
}

// TestDeliveryNotesAreReadFromFiles in the shapes that suppliers send.
func TestDeliveryNotesAreReadFromFiles(t *testing.T) {
	c := withDemo(t)
	read := func(raw []byte) reply { return c.raw("POST", "/api/deliveries/read", "application/octet-stream", raw) }
	sheet := excelize.NewFile()
	for i, row := range [][]any{{"Tansydale Dairy"}, {"Item", "Qty", "Batch no", "Use by", "Price", "Temp"},
		{"Strained (Greek-style) yogurt, whole", "3 x 2 kg", "Y-1", "25/12/2026", "£29.40", "4,2 °C"}} {
		require.NoError(t, sheet.SetSheetRow("Sheet1", fmt.Sprintf("A%d", i+1), &row))
	}
	var book bytes.Buffer
	require.NoError(t, sheet.Write(&book))
	latin := []byte("product;quantity;lot;best before;cost\nCr\xe8me de nowhere;1 kg;A;31.12.2026;1.234,50\n")
	utf16 := []byte("\xff\xfei\x00t\x00e\x00m\x00\t\x00q\x00t\x00y\x00\n\x00S\x00a\x00l\x00t\x00\t\x001\x00 \x00k\x00g\x00\n\x00")
	got := into[[]app.ReadRow](read(book.Bytes()).ok())
	require.Len(t, got, 1)
	assert.Empty(t, got[0].Wrong)
	assert.Equal(t, "2026-12-25", got[0].Ends)
	assert.Equal(t, lots.UseBy, got[0].EndKind)
	assert.InDelta(t, 4.2, *got[0].ArrivalC, 0)
	assert.Equal(t, "29.4", got[0].Cost.String())
	got = into[[]app.ReadRow](read(latin).ok())
	assert.Equal(t, "Crème de nowhere", got[0].Ingredient)
	assert.Equal(t, "1234.5", got[0].Cost.String())
	assert.Equal(t, "ingredient", got[0].Wrong[0].Field)
	assert.Equal(t, "Salt", into[[]app.ReadRow](read(utf16).ok())[0].Ingredient)
	got = into[[]app.ReadRow](read([]byte("item,qty,use by,cost\nFine sea salt,2 kg,03/04/2027,\"1,432\"\n")).ok())
	assert.Equal(t, []string{"cost", "ends"}, []string{got[0].Wrong[0].Field, got[0].Wrong[1].Field})
	assert.Contains(t, got[0].Wrong[1].Message, "two ways")
	for _, bad := range []string{"", "hello", "item,qty\n", "PK\x03\x04nonsense"} {
		read([]byte(bad)).refused(422, "file")
	}
	c.send("POST", "/api/deliveries/look", map[string]any{"supplier": "?", "day": "2026-11-25",
		"lots": []any{map[string]any{"ingredient": "tahini", "pack": "much"}}}).ok()
}

// TestTwoTabletsCannotSendTheSameJars dispatches more than there is, at once.
func TestTwoTabletsCannotSendTheSameJars(t *testing.T) {
	c := withDemo(t)
	send := func(key string, jars int) (int, []byte) {
		return c.under(key, "/api/dispatches", "application/json",
			fmt.Sprintf(`{"party":1,"rows":[{"formula":"hazelnut_kale_pesto","jars":%d}]}`, jars))
	}
	ready := 0
	for _, r := range get[app.JarsView](c, "/api/jars").Rows {
		if r.Formula == "hazelnut_kale_pesto" {
			ready += r.Ready
		}
	}
	require.Equal(t, 18, ready)
	var all sync.WaitGroup
	var mu sync.Mutex
	status := map[int]int{}
	for i := range 4 {
		all.Go(func() {
			code, raw := send(fmt.Sprintf("tablet %d", i), 10)
			mu.Lock()
			defer mu.Unlock()
			status[code]++
			if code == 422 {
				assert.Contains(t, string(raw), "only 8 jars may leave")
			}
		})
	}
	all.Wait()
	assert.Equal(t, map[int]int{200: 1, 422: 3}, status)
	code, raw := send("again", 8)
	require.Equal(t, 200, code, string(raw))
	code, again := send("again", 8)
	assert.Equal(t, 200, code)
	assert.JSONEq(t, string(raw), string(again), "the same errand sends nothing twice")
	code, _ = send("more", 1)
	assert.Equal(t, 422, code)
}

// TestWhatEndsFirstIsSentFirst over two batches of one product, and from the later one by a reason.
func TestWhatEndsFirstIsSentFirst(t *testing.T) {
	now := clock()
	b := bake(t, withDemo(t), now)
	b.weighAndFill()
	*now = now.Add(25 * time.Hour)
	b.readAll(4.0)
	b.decide("released", "").ok()
	send := func(row map[string]any) reply {
		row["formula"] = "beetroot_horseradish_dip"
		return b.send("POST", "/api/dispatches", map[string]any{"party": 2, "rows": []any{row}})
	}
	sent := into[app.Sent](send(map[string]any{"jars": 15}).ok())
	require.Len(t, sent.Parts, 2)
	assert.Equal(t, "26-311-A", sent.Parts[0].Code)
	assert.Equal(t, 13, sent.Parts[0].Jars)
	assert.Equal(t, 2, sent.Parts[1].Jars)
	send(map[string]any{"jars": 11}).refused(422, "rows[0].jars")
	send(map[string]any{"jars": 0}).refused(422, "rows[0].jars")
	b.send("POST", "/api/dispatches", map[string]any{"party": 99, "rows": []any{map[string]any{"formula": "x",
		"jars": 1}}}).refused(422, "party")

	c := withDemo(t)
	late := into[app.JarsView](c.send("GET", "/api/jars", nil).ok())
	var first app.JarsRow
	for _, r := range late.Rows {
		if r.Formula == "ginger_paste" && r.Ready > 0 {
			first = r
		}
	}
	assert.Equal(t, 5, first.Ready, "three of the eight jars are opened for the bowl and the ice")
}

// TestAJarReturnedAfterItsBatchWasCalledBackIsNeverSoldAgain follows the jars of the demo's call-back.
func TestAJarReturnedAfterItsBatchWasCalledBackIsNeverSoldAgain(t *testing.T) {
	c := withDemo(t)
	n := 0
	move := func(m map[string]any) reply {
		n++
		return c.send("POST", fmt.Sprintf("/api/batches/21/entries?key=back-%d", n),
			map[string]any{"kind": "moved", "moved": m})
	}
	c.as("Ola")
	move(map[string]any{"from": "cold_room", "to": "with", "party": 1, "jars": 1}).refused(422, "")
	move(map[string]any{"from": "with", "to": "returned", "party": 1, "jars": 13}).refused(422, "moved.jars")
	v := into[app.BatchView](move(map[string]any{"from": "with", "to": "returned", "party": 1, "jars": 12}).ok())
	assert.Equal(t, "called_back", v.Record.State)
	c.as("Ines")
	move(map[string]any{"from": "returned", "to": "cold_room", "jars": 12,
		"reason": "they were never opened"}).refused(422, "")
	move(map[string]any{"from": "returned", "to": "withdrawn", "jars": 12}).ok()
	for _, r := range get[app.JarsView](c, "/api/jars").Rows {
		if r.ID == 21 {
			assert.Zero(t, r.Ready)
			assert.Contains(t, r.Why, "called back")
		}
	}
	for _, task := range get[app.TodayView](c, "/api/today").Tasks {
		if task.Kind == "call_back" {
			assert.Contains(t, task.Text, "Saltings Deli has 8")
			assert.NotContains(t, task.Text, "Copper Kettle")
		}
	}
}

func TestPartiesAreKeptAndRetiredWithAReason(t *testing.T) {
	c := withDemo(t)
	add := func(p map[string]any) reply { return c.send("POST", "/api/parties", p) }
	add(map[string]any{"name": "Deli", "kind": "customer"}).refused(422, "contact")
	add(map[string]any{"name": "Deli", "kind": "market"}).refused(422, "day")
	add(map[string]any{"name": " ", "kind": "customer", "contact": "x"}).refused(422, "name")
	add(map[string]any{"name": "Deli", "kind": "moon", "contact": "x"}).refused(422, "kind")
	add(map[string]any{"name": "saltings deli", "kind": "customer", "contact": "x"}).refused(422, "name")
	p := into[app.Party](add(map[string]any{"name": "Deli", "kind": "customer", "contact": "01632 960 001"}).ok())
	p.Contact = "01632 960 002"
	put := func(p app.Party, why string) reply {
		return c.send("PUT", fmt.Sprintf("/api/parties/%d%s", p.ID, why), p)
	}
	saved := into[app.Party](put(p, "").ok())
	put(p, "").refused(409, "")
	saved.Retired = true
	put(saved, "").refused(422, "why")
	put(saved, "?why=closed%20down").ok()
	c.send("POST", "/api/dispatches", map[string]any{"party": p.ID, "rows": []any{map[string]any{
		"formula": "hazelnut_kale_pesto", "jars": 1}}}).refused(422, "rows[0].party")
	c.as("Ola")
	add(map[string]any{"name": "Deli 2", "kind": "customer", "contact": "x"}).refused(403, "")
}

func TestUnknownLotsAndActs(t *testing.T) {
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
