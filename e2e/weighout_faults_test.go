package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/day"

	"github.com/chromedp/cdproto/input"
	pagecdp "github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// begins opens the bench of a fresh batch and ticks what comes first.
func begins(t *testing.T, s site) (*page, int64) {
	t.Helper()
	b := planned(t, s, pea, 48, "12 L cutter")
	p := open(t, s, 1280, 800)
	p.toBench(b.ID)
	return p, b.ID
}

func (p *page) toBench(id int64) {
	p.t.Helper()
	p.visit(fmt.Sprintf("/bench/%d", id))
	p.until(`["first", "weigh"].includes(document.querySelector("[data-stage]")?.dataset.stage)`, "the bench")
	p.ticks("first")
	p.stage("weigh")
}

// grams is what is in the bowl of the first load of a line.
func (s site) grams(t *testing.T, batch int64, line string) float64 {
	t.Helper()
	return s.line(t, batch, 1, line).In.Float()
}

// takes puts so much on the bench scale and presses Enter once it may be taken.
func (p *page) takes(grams float64) {
	p.t.Helper()
	p.tares()
	p.scale("bench", fmt.Sprintf("put %g", grams))
	p.until(`[...document.querySelectorAll("footer button")].some((b) => /^Take/.test(b.innerText) && !b.disabled)`,
		"a weight to take")
	p.do(chromedp.KeyEvent("\r"))
}

// TestACaptureOutlivesItsServerAndItsTablet: what was taken while nothing answered is shown as not safe, is still there
// after a reload, and is written down once when the server is back. A timer runs over all of it.
func TestACaptureOutlivesItsServerAndItsTablet(t *testing.T) {
	s := serve(t, true)
	p, id := begins(t, s)
	first := s.line(t, id, 1, "Green peas")
	p.pours(first.Name, first.Now.Float())
	p.safe()
	p.until(`document.querySelector("main h1").innerText.startsWith("Rocket")`, "the next line")
	p.tares()
	rocket := s.line(t, id, 1, "Rocket").Now.Float()
	p.scale("bench", fmt.Sprintf("put %g", rocket))
	p.until(`[...document.querySelectorAll("footer button")].some((b) => /^Take/.test(b.innerText) && !b.disabled)`,
		"a weight to take")
	s.stop()
	p.do(chromedp.KeyEvent("\r"))
	p.sees("1 kept here, not safe yet")
	p.until(`document.querySelector("main h1").innerText.startsWith("Pistachio")`, "the line counts as done here")
	s.start(t)
	p.safe()
	assert.InDelta(t, rocket, s.grams(t, id, "Rocket"), 0.11)

	s.stop()
	p.until(`/does not answer/.test(document.querySelector("header").innerText)`, "the scale to be missed")
	p.click("Type the weight instead")
	p.fill("Grams of Pistachio", "370")
	p.do(chromedp.KeyEvent("\r"))
	p.sees("1 kept here, not safe yet")
	key := js[string](p, `Object.keys(localStorage).find((k) => k.startsWith("outbox `+fmt.Sprint(id)+` "))`)
	s.start(t)
	p.visit(fmt.Sprintf("/bench/%d", id)) // the tablet was off meanwhile
	p.stage("weigh")
	p.safe()
	assert.InDelta(t, 370, s.grams(t, id, "Pistachio"), 0.001)
	b, err := s.app.Production.Batch(asOwner(), id)
	require.NoError(t, err)
	n := 0
	for _, e := range b.Entries {
		if e.Kind() == "capture" {
			n++
		}
	}
	assert.Equal(t, 3, n, "each was written down once; the last under "+key)
}

// TestTwoTabletsOnALineShowTheFirst: the second hand sees what the first captured, and adds nothing.
func TestTwoTabletsOnALineShowTheFirst(t *testing.T) {
	s := serve(t, true)
	p, id := begins(t, s)
	other := open(t, s, 1024, 768)
	other.as("Bram")
	other.visit(fmt.Sprintf("/bench/%d", id))
	other.stage("weigh")
	line := s.line(t, id, 1, "Green peas")
	other.click("Type the weight instead")
	other.fill("Grams of Green peas", "1900")
	p.click("Type the weight instead")
	p.fill("Grams of Green peas", line.Now.String())
	p.do(chromedp.KeyEvent("\r"))
	p.safe()
	other.do(chromedp.KeyEvent("\r"))
	other.sees("Not written down: 1 900.0 g of Green peas, cooked.")
	other.sees("Ines captured Green peas, cooked in load 1 meanwhile")
	assert.Equal(t, line.Now.Float(), s.grams(t, id, "Green peas"))
	other.click("I have seen it")
	other.until(`!document.body.innerText.includes("Not written down")`, "the answer to be put away")
}

// TestAScaleThatFailsLeavesTheHandItsWay: too much on it, never at rest, unplugged in the middle of a line.
func TestAScaleThatFailsLeavesTheHandItsWay(t *testing.T) {
	s := serve(t, true)
	p, id := begins(t, s)
	p.scale("bench", "put 16000")
	p.sees("Too much on the scale")
	assert.True(t, js[bool](p, `[...document.querySelectorAll("footer button")].at(-1).disabled`))
	p.scale("bench", "clear")
	p.until(`/is steady/.test(document.querySelector("header").innerText)`, "it to settle")
	p.tares()
	p.scale("bench", "restless")
	p.scale("bench", "put 900")
	p.sees("settling")
	p.until(`Number(document.querySelector("[data-grams]")?.dataset.grams) > 899.5`, "what is on it")
	p.click("It does not settle")
	p.fill("The scale has not settled", "the fan blows on it")
	p.until(`[...document.querySelectorAll("footer button")].some((b) => /^Take it unsettled/.test(b.innerText) && !b.disabled)`, "the way out")
	p.hitAt(`[...document.querySelectorAll("footer button")].at(-1)`, "what was found")
	p.safe()
	got := s.line(t, id, 1, "Green peas")
	assert.InDelta(t, 900, got.In.Float(), 1)
	assert.Equal(t, "the fan blows on it", got.Reason)
	p.scale("bench", "settle")
	p.scale("bench", "unplug")
	p.sees("Bench scale does not answer")
	p.sees("Type the weight")
	p.click("Type the weight instead")
	p.fill("Grams of Green peas", "100")
	p.do(chromedp.KeyEvent("\r"))
	p.safe()
	assert.InDelta(t, got.In.Float()+100, s.grams(t, id, "Green peas"), 0.001)
	p.scale("bench", "plug")
	p.until(`!/does not answer/.test(document.querySelector("header").innerText)`, "it to be heard again")
}

// TestATabletsWrongClockMovesNothing: a tablet whose clock is a day ahead weighs, times and cools by the server's.
func TestATabletsWrongClockMovesNothing(t *testing.T) {
	s := serve(t, true)
	b := planned(t, s, pea, 48, "12 L cutter")
	p := open(t, s, 1280, 800)
	_, err := chromedp.Call(p.ctx, pagecdp.AddScriptToEvaluateOnNewDocument,
		// on top of the journeys' own
		pagecdp.AddScriptToEvaluateOnNewDocumentParams{Source: clockAhead(24 * time.Hour)})
	require.NoError(t, err)
	p.toBench(b.ID)
	line := s.line(t, b.ID, 1, "Green peas")
	p.pours(line.Name, line.Now.Float())
	p.safe()
	got, err := s.app.Production.Batch(asOwner(), b.ID)
	require.NoError(t, err)
	last := got.Entries[len(got.Entries)-1]
	assert.WithinDuration(t, now(), last.At, time.Minute)
	require.NotNil(t, last.ClientAt)
	assert.Greater(t, last.ClientAt.Sub(last.At), 20*time.Hour, "what the hand's clock said is kept beside")
}

// TestATimerRunsOverARestart: it is in the record, so that another tablet and another server show the same.
func TestATimerRunsOverARestart(t *testing.T) {
	s := serve(t, true)
	p, id := begins(t, s)
	weighAll(t, p, s, id, 1)
	p.click("Start the timer")
	p.safe()
	p.until(`/\d\d:\d\d to go/.test(document.body.innerText)`, "the timer")
	s.stop()
	s.start(t)
	p.visit(fmt.Sprintf("/bench/%d", id))
	p.stage("finish")
	p.until(`/\d\d:\d\d to go/.test(document.body.innerText)`, "the same timer")
	assert.False(t, strings.Contains(js[string](p, "document.body.innerText"), "Time is up"))
}

// TestARehearsalTeachesThePour: the same bench, a scale of its own, nothing written; it ends with what was off.
func TestARehearsalTeachesThePour(t *testing.T) {
	s := serve(t, true)
	before, err := s.app.Production.Batches(asOwner(), kernel.BatchQuery{}, "")
	require.NoError(t, err)
	p := open(t, s, 1024, 768)
	p.as("Ola")
	p.visit("/plan/carrot_miso_dressing/3")
	p.click("Rehearse it")
	p.sees("nothing is written")
	p.stage("weigh")
	for n := 0; js[bool](p, `document.querySelector("[data-stage]") !== null`) && n < 60; n++ {
		switch js[string](p, `document.querySelector("[data-stage]")?.dataset.stage ?? ""`) {
		case "weigh":
			want := js[float64](p,
				`(() => { const t = document.querySelector("main p.text-ink-2").innerText.replace(/[\s\u2009]/g, ""); return Number(/([\d.]+)gtogo/.exec(t)?.[1] ?? 0) })()`)
			if want <= 0 {
				continue
			}
			if n == 3 {
				want *= 1.1
			}
			title := js[string](p,
				`document.querySelector("main h1").innerText + document.querySelector("ol").innerText`)
			p.tares()
			p.puts(want)
			p.until(`[...document.querySelectorAll("footer button")].some((b) => /^Take/.test(b.innerText) && !b.disabled)`, "a weight to take")
			p.do(chromedp.KeyEvent("\r"))
			p.until(fmt.Sprintf(
				`document.querySelector("[data-stage]")?.dataset.stage !== "weigh" || (document.querySelector("main h1")?.innerText ?? "") + document.querySelector("ol").innerText !== %q`, title), "that it was taken")
		case "over":
			p.hitAt(`[...document.querySelectorAll("main button")].find((b) => b.innerText === "Put the ratio right" && b.getAttribute("role") !== "radio")`, "what was found")
			p.until(`document.querySelector("[data-stage]").dataset.stage !== "over"`, "the ratio")
		case "taste":
			p.click("The rest")
			p.until(`document.querySelector("[data-stage]").dataset.stage !== "taste"`, "the answer")
		case "finish":
			p.ticks("finish")
			p.click("Close load 1")
			p.until(`document.querySelector("[data-stage]")?.dataset.stage !== "finish"`, "the end")
		default: // between two stages
			p.comes(func() bool {
				return js[bool](p, `document.querySelector("[data-stage]") === null ||
					["weigh", "over", "taste", "finish"].includes(document.querySelector("[data-stage]").dataset.stage)`)
			})
		}
	}
	p.sees("On average")
	p.sees("1 over-pour settled")
	p.sees("Nothing was written.")
	p.click("Once more")
	p.stage("weigh")
	after, err := s.app.Production.Batches(asOwner(), kernel.BatchQuery{}, "")
	require.NoError(t, err)
	assert.Equal(t, before.All, after.All)
}

// puts puts grams on the stand-in of a rehearsal, whichever it looks at, through its panel's own way.
func (p *page) puts(grams float64) {
	p.t.Helper()
	p.until(fmt.Sprintf(`(() => { const id = performance.getEntriesByType("resource").map((e) => /devices\/(rehearse-[a-z0-9]+)\/reading/.exec(e.name)?.[1]).filter(Boolean).at(-1); if (!id) return false;
		if (!window.putting) { window.putting = fetch("/api/devices/" + id + "/ask", { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ command: "sim put %g" }) }).then((r) => { window.put = r.status }) }
		const done = window.put; if (done) { window.putting = null; window.put = null } return done === 200 })()`,
		grams), "the weight on the scale")
}

// scans types a code and Enter as a scanner does, a key each 4 ms by the clock of the keyboard, whatever else the
// machine has to do.
func (p *page) scans(code string) {
	p.t.Helper()
	at := float64(time.Now().UnixMilli()) / 1000
	for _, r := range code + "\r" {
		at += 0.004
		p.do(chromedp.KeyEvent(string(r), func(k *input.DispatchKeyEventParams) {
			k.Timestamp = input.TimeSinceEpoch(at)
		}))
	}
}

// TestAScannedLotIsTaken: a scanner types a code and Enter; one that is not of the line, or may not be used, is said.
func TestAScannedLotIsTaken(t *testing.T) {
	s := serve(t, true)
	p, id := begins(t, s)
	taken, err := s.app.Production.Receive(asOwner(), production.NewDelivery{Supplier: "Fallowfield Veg", Note: "78",
		Day: day.Of(now()), Lots: []production.NewLot{
			{Ingredient: "peas_cooked", Pack: "9 kg", Accept: true, Text: "second bag",
				Ends: day.Of(now().AddDate(0, 0, 25))},
			{Ingredient: "peas_cooked", Pack: "9 kg", Text: "third bag",
				Ends: day.Of(now().AddDate(0, 0, 9))},
			{Ingredient: "tahini", Pack: "1 kg", Accept: true, Text: "jar"}}})
	require.NoError(t, err)
	p.toBench(id)
	sees := func(code string) {
		p.until(fmt.Sprintf(`document.querySelector("main").innerText.includes("lot %s")`, code), "the lot "+code)
	}
	p.until(`document.querySelector("main").innerText.includes("lot P")`, "a lot to be proposed")
	p.scans(taken.Lots[0].Code)
	sees(taken.Lots[0].Code)
	p.scans(taken.Lots[2].Code)
	p.sees("is no lot of Green peas, cooked")
	sees(taken.Lots[0].Code)
	p.scans(taken.Lots[1].Code)
	p.sees("Not used:")
	p.scans(taken.Lots[0].Code)
	sees(taken.Lots[0].Code)
	line := s.line(t, id, 1, "Green peas")
	p.pours(line.Name, line.Now.Float())
	p.safe()
	b, err := s.app.Production.Batch(asOwner(), id)
	require.NoError(t, err)
	require.Len(t, b.Record.Lines[0].Draws, 1)
	assert.Equal(t, taken.Lots[0].Code, b.Record.Lines[0].Draws[0].Code)
}
