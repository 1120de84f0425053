package e2e

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"gallipot/internal/app/production"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/lots"

	pagecdp "github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// pea is the demo's product with garlic that is held back, made in the bowl.
var pea = formula.Ref{Formula: "pea_pistachio_spread", Version: 2}

// planned plans a batch for today, with lots enough of all that goes into it.
func planned(t testing.TB, s site, ref formula.Ref, jars int, vessel string) production.BatchView {
	t.Helper()
	ctx := asOwner()
	ask := production.PlanAsk{Ref: ref, Jars: jars, MadeOn: day.Of(now())}
	list, err := s.app.Production.Vessels(ctx)
	require.NoError(t, err)
	for _, v := range list {
		if v.Name == vessel {
			ask.Vessel = &v.ID
		}
	}
	require.NotNil(t, ask.Vessel)
	b, err := s.app.Production.PlanBatch(ctx, ask)
	require.NoError(t, err)
	stocked(t, s, b.ID)
	return b
}

// stocked brings lots enough of all that goes into a batch, of the things as they are used: their cooling is no matter.
func stocked(t testing.TB, s site, batch int64) {
	t.Helper()
	ctx := asOwner()
	all, err := s.app.Production.LotsFor(ctx, batch)
	require.NoError(t, err)
	in := production.NewDelivery{Supplier: "Fallowfield Veg", Note: "77", Day: day.Of(now())}
	for _, l := range all {
		if len(l.Of) == 0 || l.Of[0] == "water" {
			continue
		}
		g, err := s.app.Catalog.Ingredient(ctx, l.Of[0])
		require.NoError(t, err)
		row := production.NewLot{Ingredient: g.ID, Pack: "20 kg", Accept: true, Text: "T-" + g.ID[:3] + "-" + l.Line}
		if lots.NeedsEnd(&g.Ingredient) {
			row.Ends = day.Of(now().AddDate(0, 0, 20))
		}
		if lots.ArrivesCold(&g.Ingredient) {
			cold := 3.0
			row.ArrivalC = &cold
		}
		if lots.NeedsProof(&g.Ingredient) {
			row.Statement = "steam treated"
		}
		in.Lots = append(in.Lots, row)
	}
	_, err = s.app.Production.Receive(ctx, in)
	require.NoError(t, err)
}

// scale plays with the stand-in of a scale.
func (p *page) scale(id, command string) {
	p.t.Helper()
	_, err := p.app.Production.AskDevice(asOwner(), id, "sim "+command)
	require.NoError(p.t, err)
}

// stage waits for a stage of the bench.
func (p *page) stage(name string) {
	p.t.Helper()
	p.until(fmt.Sprintf(`document.querySelector("[data-stage]")?.dataset.stage === %q`, name), "the stage "+name)
}

// safe waits until nothing is kept on the tablet alone.
func (p *page) safe() {
	p.t.Helper()
	p.until(`document.querySelector("[data-safe]")?.dataset.safe === "true"`, "everything safe")
}

// ticks ticks all that a stage asks for, one after the other: a tick that is not seen yet would be taken off by the
// next.
func (p *page) ticks(stage string) {
	p.t.Helper()
	const open = `document.querySelectorAll("main [role=checkbox][aria-checked=false]").length`
	here := fmt.Sprintf(`document.querySelector("[data-stage]").dataset.stage === %q`, stage)
	for js[bool](p, here+` && `+open+` > 0`) {
		left := js[int](p, open)
		p.hitAt(`document.querySelector("main [role=checkbox][aria-checked=false]")`, "what is asked for")
		p.until(fmt.Sprintf(`!(%s) || %s < %d`, here, open, left), "the tick")
		p.safe()
	}
}

// tares tares the scale that is looked at where the bench asks for it, with what stands on it.
func (p *page) tares() {
	p.t.Helper()
	p.until(`/is steady/.test(document.querySelector("header").innerText)`, "a steady scale")
	p.until(goes+` !== ""`, "what the main key does")
	if !js[bool](p, `["Tare first", "Below zero"].some((s) => (`+goes+`).startsWith(s))`) {
		return
	}
	p.do(chromedp.KeyEvent("t"))
	p.until(`(`+goes+`).startsWith("Pour")`, "the tare")
}

// goes is what the main key of the bench says.
const goes = `([...document.querySelectorAll("footer button")].at(-1)?.innerText ?? "")`

// pours puts so much on the scale that weighs the line, and takes it once it is steady.
func (p *page) pours(title string, grams float64) {
	p.t.Helper()
	p.until(fmt.Sprintf(
		`document.querySelector("main h1")?.innerText === %q && document.querySelector("[data-stage]").dataset.stage === "weigh"`, title), title)
	id := "bench"
	if js[bool](p, `document.querySelector("header").innerText.includes("Fine scale")`) {
		id = "fine"
	}
	p.tares()
	before := js[string](p, `document.querySelector("main h1").innerText + document.querySelector("ol").innerText`)
	p.scale(id, fmt.Sprintf("put %g", grams))
	p.until(`[...document.querySelectorAll("footer button")].some((b) => /^Take/.test(b.innerText) && !b.disabled)`,
		"a weight to take")
	p.do(chromedp.KeyEvent("\r"))
	p.until(fmt.Sprintf(
		`(document.querySelector("main h1")?.innerText ?? "") + document.querySelector("ol").innerText !== %q`,
		before), "that it was taken")
}

// line is a line of a load as the server has it.
func (s site) line(t *testing.T, batch int64, load int, name string) bench.BenchLine {
	t.Helper()
	b, err := s.app.Production.Batch(asOwner(), batch)
	require.NoError(t, err)
	for _, l := range b.Record.Loads[load-1].Lines {
		if strings.HasPrefix(l.Name, name) {
			return l
		}
	}
	require.Fail(t, "no line "+name)
	return bench.BenchLine{}
}

// TestABatchIsWeighedAtTheBench plans two loads and makes the first on a tablet with a scale that talks: oil is
// over-poured by 8 %, the ratio is put right, garlic is held back and tasted, salt is added to taste, and the load is
// closed.
func TestABatchIsWeighedAtTheBench(t *testing.T) {
	s := serve(t, true)
	p := open(t, s, 1024, 768)
	p.visit("/plan/pea_pistachio_spread/2")
	p.sees("What to get")
	p.fill("Jars wanted", "96")
	p.fill("Vessel", "12 L cutter")
	p.sees("2 equal loads")
	p.click("Plan it")
	p.until(`/\/batches\/\d+\/weigh/.test(location.pathname)`, "the batch")
	id, err := strconv.ParseInt(js[string](p, `location.pathname.split("/")[2]`), 10, 64)
	require.NoError(t, err)
	b, err := s.app.Production.Batch(asOwner(), id)
	require.NoError(t, err)
	require.Len(t, b.Record.Loads, 2)
	stocked(t, s, b.ID)
	p.click("Weigh at the bench")
	p.stage("first")
	p.ticks("first")
	p.stage("weigh")
	for _, l := range b.Record.Loads[0].Lines {
		now := s.line(t, b.ID, 1, l.Name)
		grams := now.Now.Float()
		if strings.HasPrefix(l.Name, "Rapeseed") {
			p.pours(l.Name, grams*1.08)
			p.safe()
			p.stage("over")
			p.sees("8.0 % too much")
			p.click("Put the ratio right")
			break
		}
		p.pours(l.Name, grams)
	}
	p.stage("weigh")
	before := b.Record.Loads[0].Lines
	for i, l := range before {
		now := s.line(t, b.ID, 1, l.Name)
		assert.InDelta(t, before[i].Planned.Float()*1.08, now.Target.Float(), 0.11, l.Name)
	}
	finishLoad(t, p, s, b, 1)
	got, err := s.app.Production.Batch(asOwner(), b.ID)
	require.NoError(t, err)
	load := got.Record.Loads[0]
	assert.Equal(t, "Ines", load.ClosedBy)
	require.Len(t, load.Added, 1)
	assert.Equal(t, "salt", load.Added[0].Purpose)
	garlic := s.line(t, b.ID, 1, "Garlic")
	assert.InDelta(t, before[7].Planned.Float()*1.08, garlic.In.Float(), 0.3)
	assert.False(t, got.Record.Weighed, "the second load is still to come")
}

// weighAll weighs what is open in a load, tops up, and answers the taste, until all of it is in.
func weighAll(t *testing.T, p *page, s site, batch int64, no int) {
	t.Helper()
	for range 60 {
		p.safe()
		got, err := s.app.Production.Batch(asOwner(), batch)
		require.NoError(t, err)
		load := got.Record.Loads[no-1]
		if load.Ready {
			break
		}
		for _, l := range load.Lines {
			if l.State == bench.LineTaste {
				p.stage("taste")
				p.click("The rest")
				p.until(`document.querySelector("[data-stage]").dataset.stage !== "taste"`, "the answer")
				break
			}
			if l.State == bench.LineOpen {
				p.pours(l.Name, l.Now.Minus(l.In).Float())
				break
			}
		}
	}
	p.stage("finish")
}

// finishLoad weighs what is open, ticks, adds salt and closes.
func finishLoad(t *testing.T, p *page, s site, b production.BatchView, no int) {
	t.Helper()
	weighAll(t, p, s, b.ID, no)
	p.ticks("finish")
	p.click("Add for taste or texture")
	p.fill("What goes in", "salt_sea_fine")
	p.fill("Grams", "4")
	p.sees("Estimated pH at most")
	p.click("Add 4.0 g")
	p.sees("for salt")
	p.click(fmt.Sprintf("Close load %d", no))
	p.until(`document.querySelector("[data-stage]").dataset.stage !== "finish"`, "the next load")
}

// TestAnOverPourOnTheSheetIsPutRight: without a tablet too: what was poured too much is said, with its ways out.
func TestAnOverPourOnTheSheetIsPutRight(t *testing.T) {
	s := serve(t, true)
	p := open(t, s, 1280, 800)
	p.visit("/batches/20/weigh")
	p.sees("24 jars planned")
	lot := fmt.Sprintf("%s('input', %s)", lookup, quote("Lot of Rapeseed (canola) oil"))
	p.until(lot+".placeholder !== ''", "a lot to be proposed")
	p.fill("Weighed grams of Rapeseed (canola) oil", "3535.3")
	p.press(kb.Enter)
	p.until("document.activeElement === "+lot, "the lot to be asked")
	p.press(kb.Enter)
	p.until(lot+".value !== ''", "the lot to be taken")
	p.press(kb.Enter)
	p.sees("8.0 % too much: Rapeseed (canola) oil.")
	p.sees("Topped up: Egg yolk")
	p.click("Put the ratio right")
	p.until(`!document.body.innerText.includes("too much:")`, "the ratio")
	b, err := s.app.Production.Batch(asOwner(), 20)
	require.NoError(t, err)
	for _, l := range b.Record.Lines {
		if strings.HasPrefix(l.Name, "Fine sea salt") {
			assert.InDelta(t, 56.9*1.08, l.Grams.Float(), 0.11)
		}
	}
	p.sees("61.5")
}

// onPaper is what the page says when it is printed on A4.
func (p *page) onPaper() string {
	p.t.Helper()
	paper, err := chromedp.Call(p.ctx, pagecdp.PrintToPDF,
		pagecdp.PrintToPDFParams{PaperWidth: 8.27, PaperHeight: 11.69})
	require.NoError(p.t, err)
	file := filepath.Join(p.t.TempDir(), "paper.pdf")
	require.NoError(p.t, os.WriteFile(file, paper.Data, 0o644))
	raw, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	require.NoError(p.t, err)
	return string(raw)
}

// TestARecordAndATracePrintWhole: the record is all that happened, not the step that was open.
func TestARecordAndATracePrintWhole(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/batches/14/fill")
	p.click("The record")
	p.sees("Everything that happened")
	text := p.onPaper()
	for _, line := range []string{"Carrot & miso dressing", "26-317-A", "58 jars filled", "weighed Carrot, raw",
		"released it", "Saltings Deli", "P1036", "batch record"} {
		assert.Contains(t, text, line)
	}
	for _, screen := range []string{"Formulas", "Record again", "As PDF"} {
		assert.NotContains(t, text, screen)
	}
	p.visit("/trace/batch/14")
	p.sees("Found in")
	text = p.onPaper()
	for _, line := range []string{"What is in this jar?", "What came in", "P1036", "Fallowfield Veg",
		"Where the jars are"} {
		assert.Contains(t, text, line)
	}
}

// TestAPlanPrintsWhole: loads, shopping list and what is weighed in, on paper, with nothing of the window around it.
func TestAPlanPrintsWhole(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/batches/22/plan")
	p.sees("What to get")
	text := p.onPaper()
	for _, line := range []string{"Pumpkin & cumin spread", "60 jars", "Pumpkin, whole", "Rapeseed (canola) oil",
		"load by load", "load 2"} {
		assert.Contains(t, text, line)
	}
	assert.NotContains(t, text, "Formulas", "the places stay on screen")
}
