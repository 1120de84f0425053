package e2e

import (
	"fmt"
	"os"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

func (p *page) pic(name string) {
	raw, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
	require.NoError(p.t, err)
	_ = os.MkdirAll("/tmp/shots", 0o755)
	require.NoError(p.t, os.WriteFile("/tmp/shots/"+name+".png", raw, 0o644))
}

func TestZZ(t *testing.T) {
	s := serve(t, true)
	b := planned(t, s, pea, 96, "12 L cutter")
	p := open(t, s, 1024, 768)
	p.visit(fmt.Sprintf("/bench/%d", b.ID))
	p.stage("first")
	p.pic("bench0")
	for js[bool](p, `document.querySelector("[data-stage]").dataset.stage === "first"`) {
		p.do(chromedp.Click(chromedp.JSPath(`document.querySelector("[role=checkbox][aria-checked=false]")`)))
		p.safe()
	}
	p.stage("weigh")
	for _, l := range b.Record.Loads[0].Lines[:3] {
		p.pours(l.Name, s.line(t, b.ID, 1, l.Name).Now.Float())
	}
	p.scale("bench", "put 1100")
	p.until(`[...document.querySelectorAll("footer button")].some((b) => /^Take/.test(b.innerText) && !b.disabled)`, "a weight to take")
	p.pic("bench1")
	p.scale("bench", "put 234")
	p.until(`[...document.querySelectorAll("footer button")].some((b) => /^Take 1/.test(b.innerText) && !b.disabled && !/more/.test(b.innerText))`, "a weight to take")
	p.do(chromedp.KeyEvent("\r"))
	for _, l := range b.Record.Loads[0].Lines[4:6] {
		p.pours(l.Name, s.line(t, b.ID, 1, l.Name).Now.Float())
	}
	p.pours("Rapeseed (canola) oil", s.line(t, b.ID, 1, "Rapeseed").Now.Float()*1.08)
	p.safe()
	p.stage("over")
	p.pic("bench2")
	p.do(chromedp.EmulateViewport(390, 844))
	p.pic("bench3")
	p.do(chromedp.EmulateViewport(1280, 800))
	p.do(chromedp.Click(chromedp.JSPath(`[...document.querySelectorAll("main button")].find((b) => b.innerText === "Put the ratio right" && b.getAttribute("role") !== "radio")`)))
	p.stage("weigh")
	p.do(chromedp.EmulateViewport(390, 844))
	p.pic("bench4")
	p.do(chromedp.EmulateViewport(1280, 800))
	for range 60 {
		p.safe()
		got, err := s.app.Batch(asOwner(), b.ID)
		require.NoError(t, err)
		load := got.Record.Loads[0]
		if load.Ready {
			break
		}
		for _, l := range load.Lines {
			if l.State == "taste" {
				p.stage("taste")
				p.pic("bench5")
				p.click("The rest")
				p.until(`document.querySelector("[data-stage]").dataset.stage !== "taste"`, "the answer")
				break
			}
			if l.State == "open" {
				p.pours(l.Name, l.Now.Minus(l.In).Float())
				break
			}
		}
	}
	p.stage("finish")
	p.pic("bench6")
	p.click("Add for taste or texture")
	p.fill("What goes in", "salt_sea_fine")
	p.fill("Grams", "4")
	p.sees("Estimated pH at most")
	p.pic("bench7")
}
