package api

import (
	"bytes"
	"fmt"
	"testing"

	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/lots"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// TestADeliveryTypedTwiceIsTakenInOnce sends one note twice: under the same key, under another, and as another
// delivery.
func TestADeliveryTypedTwiceIsTakenInOnce(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	note := `{"supplier":"Pellow Oils","note":"PO 17","day":"2026-11-25","lots":[{"ingredient":` +
		`"Rapeseed (canola) oil","pack":"2 x 10 l","text":"R1","cost":62,"accept":true}]}`
	before := get[production.LotPage](c, "/api/lots?show=there&of=rapeseed_oil").All
	status, raw := c.under("k1", "/api/deliveries", "application/json", note)
	require.Equal(t, 200, status, string(raw))
	first := into[production.Taken](reply{t, status, raw, nil})
	status, raw = c.under("k1", "/api/deliveries", "application/json", note)
	assert.Equal(t, first.Lots[0].Code, into[production.Taken](reply{t, status, raw, nil}).Lots[0].Code,
		"the same errand")
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
	second := into[production.Taken](reply{t, status, raw, nil}).Lots[0]
	assert.NotEqual(t, first.Lots[0].Code, second.Code)
	assert.Equal(t, before+2, get[production.LotPage](c, "/api/lots?show=there&of=rapeseed_oil").All)
	assert.Equal(t, second.Code, c.lot(first.Lots[0].ID).Twins[0].Code, "the same words of the same supplier")
}

// TestWhatCameInIsAcceptedByWhoMay takes in by a helper, warm and cold.
func TestWhatCameInIsAcceptedByWhoMay(t *testing.T) {
	t.Parallel()
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
	l := into[production.Taken](in(row).ok()).Lots[0]
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

// TestDeliveryNotesAreReadFromFiles in the shapes that suppliers send.
func TestDeliveryNotesAreReadFromFiles(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	read := func(raw []byte) reply { return c.raw("POST", "/api/deliveries/read", "application/octet-stream", raw) }
	sheet := excelize.NewFile()
	for i, row := range [][]any{{"Tansydale Dairy"}, {"Item", "Qty", "Batch no", "Use by", "Line total", "Temp"},
		{"Strained (Greek-style) yogurt, whole", "3 x 2 kg", "Y-1", "25/12/2026", "£29.40", "4,2 °C"}} {
		require.NoError(t, sheet.SetSheetRow("Sheet1", fmt.Sprintf("A%d", i+1), &row))
	}
	var book bytes.Buffer
	require.NoError(t, sheet.Write(&book))
	latin := []byte("product;quantity;lot;best before;cost\nCr\xe8me de nowhere;1 kg;A;31.12.2026;1.234,50\n")
	utf16 := []byte(
		"\xff\xfei\x00t\x00e\x00m\x00\t\x00q\x00t\x00y\x00\n\x00S\x00a\x00l\x00t\x00\t\x001\x00 \x00k\x00g\x00\n\x00")
	got := into[[]production.ReadRow](read(book.Bytes()).ok())
	require.Len(t, got, 1)
	assert.Empty(t, got[0].Wrong)
	assert.Equal(t, day.Day("2026-12-25"), got[0].Ends)
	assert.Equal(t, lots.UseBy, got[0].EndKind)
	assert.InDelta(t, 4.2, *got[0].ArrivalC, 0)
	assert.Equal(t, "29.4", got[0].Cost.String())
	got = into[[]production.ReadRow](read(latin).ok())
	assert.Equal(t, "Crème de nowhere", got[0].Ingredient)
	assert.Equal(t, "1234.5", got[0].Cost.String())
	assert.Equal(t, "ingredient", got[0].Wrong[0].Field)
	assert.Equal(t, "Salt", into[[]production.ReadRow](read(utf16).ok())[0].Ingredient)
	got = into[[]production.ReadRow](read([]byte(
		"item,qty,use by,cost\nFine sea salt,2 kg,03/04/2027,\"1,432\"\n")).ok())
	assert.Equal(t, []string{"cost", "ends"}, []string{got[0].Wrong[0].Field, got[0].Wrong[1].Field})
	assert.Contains(t, got[0].Wrong[1].Message, "two ways")
	got = into[[]production.ReadRow](read([]byte("item,qty,unit price,price\nFine sea salt,3 x 2 kg,2.10,\n" +
		"Fine sea salt,3 x 2 kg,,2.10\nFine sea salt,2 kg,,2.10\n")).ok())
	assert.Equal(t, "6.3", got[0].Cost.String(), "three packs at that price")
	assert.Empty(t, got[0].Wrong)
	assert.Contains(t, got[1].Wrong[0].Message, "for all of it, or for one of 3?")
	assert.Empty(t, got[2].Wrong, "of one pack it is the same")
	for _, bad := range []string{"", "hello", "item,qty\n", "PK\x03\x04nonsense"} {
		read([]byte(bad)).refused(422, "file")
	}
	c.send("POST", "/api/deliveries/look", map[string]any{"supplier": "?", "day": "2026-11-25",
		"lots": []any{map[string]any{"ingredient": "tahini", "pack": "much"}}}).ok()
}

// TestWhatCameInIsFoundByItsNames: the words of a name count in any order; what is only typically called so is offered
// and not taken.
func TestWhatCameInIsFoundByItsNames(t *testing.T) {
	t.Parallel()
	c := newClient(t, noon())
	look := func(name string) production.ReadRow {
		return into[[]production.ReadRow](c.send("POST", "/api/deliveries/look",
			map[string]any{"supplier": "Hob & Daughters",
				"day": "2026-11-25", "lots": []any{map[string]any{"ingredient": name, "pack": "2 kg",
					"text": "L1"}}}).ok())[0]
	}
	assert.Equal(t, "Fine sea salt", look("sea salt, FINE").Ingredient)
	typically := look("vegetable oil")
	assert.Equal(t, "vegetable oil", typically.Ingredient, "as it was typed")
	require.NotEmpty(t, typically.Wrong)
	assert.Equal(t, "ingredient", typically.Wrong[0].Field)
	assert.Contains(t, typically.Wrong[0].Message, "is it Sunflower oil")
	assert.NotContains(t, look("qwrtzp").Wrong[0].Message, "is it")
}
