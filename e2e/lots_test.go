package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// keys types with the keyboard alone, wherever the focus is.
func (p *page) keys(text ...string) {
	p.t.Helper()
	for _, k := range text {
		p.do(chromedp.KeyEvent(k))
	}
}

// focused waits until a cell of the grid has the focus.
func (p *page) focused(cell string) {
	p.t.Helper()
	p.until(fmt.Sprintf("document.activeElement?.getAttribute('data-cell') === %s", quote(cell)),
		cell+" to have the focus")
}

// TestFromTheVanToTheCustomerAndBack takes a delivery in with the keyboard alone, weighs from two lots, sends the jars,
// calls them back and sees who has them.
func TestFromTheVanToTheCustomerAndBack(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	receiveByKeyboard(t, p)

	at := makes(p, 12)
	p.visit(at + "/weigh")
	p.until("document.querySelector('[aria-label=\"Lot 2 of Fine sea salt\"]') !== null",
		"the salt to be from two lots")
	assert.Equal(t, "20", js[string](p, "document.querySelectorAll('[aria-label^=\"Grams from\"]')[0].value"),
		"the first to end is used up")
	p.visit(at + "/fill")
	fillsYesterday(p, 12)
	fullJars(p)
	releases(p, 12)

	sendAndCallBack(p, at)
}

// makes plans a dip of yesterday and weighs it from what is there; it returns the batch's address.
func makes(p *page, jars int) string {
	p.t.Helper()
	p.visit("/formulas/beetroot_horseradish_dip/2")
	p.click("Make a batch")
	p.fill("Jars wanted", fmt.Sprint(jars))
	p.fill("Made on", now().AddDate(0, 0, -1).Format(time.DateOnly))
	p.click("Plan it")
	p.sees(fmt.Sprintf("%d jars planned", jars))
	at := strings.TrimSuffix(js[string](p, "location.pathname"), "/weigh")
	weigh(p)
	p.click("All weighed: fill the jars")
	return at
}

// fillsYesterday counts the jars that were closed a day ago.
func fillsYesterday(p *page, jars int) {
	p.t.Helper()
	p.fill("Jars filled", fmt.Sprint(jars))
	p.fill("Last jar closed at", now().AddDate(0, 0, -1).Format("2006-01-02T15:04"))
	p.click("Record the filling")
}

// releases reads first and last jar after the equilibrium and releases the batch.
func releases(p *page, jars int) {
	p.t.Helper()
	p.fill("Buffer 4.01", "174.5")
	p.fill("Buffer 7.00", "-1.2")
	p.fill("Buffers at", "25")
	p.click("Judge the meter")
	p.sees("slope 99.3 %")
	for _, r := range []string{"first jar, reading 1", "first jar, reading 2", "last jar, reading 1",
		"last jar, reading 2"} {
		p.fill(r, "4.05")
	}
	p.click("Record the readings")
	p.click("4 Decide")
	p.click(fmt.Sprintf("Release %d jars", jars))
	p.sees("Released by Ines")
}

// receiveByKeyboard takes 20 g of salt in that end before the others, and a yogurt that came warm.
func receiveByKeyboard(t *testing.T, p *page) {
	soon := now().AddDate(0, 0, 20).Format("2 Jan")
	p.visit("/stock/receive")
	p.sees("Came in on")
	p.until("document.activeElement?.tagName === 'INPUT'", "the supplier to have the focus")
	p.keys("Saltpan Row", kb.Tab, "SR-77", kb.Tab)
	p.keys(kb.Tab) // the day stays today
	p.focused("0.ingredient")
	p.keys("fine sea")
	p.until("document.querySelector('[role=option]') !== null", "the pantry to answer")
	p.keys(kb.Tab)
	p.focused("0.pack")
	p.keys("20 crates", kb.Tab)
	p.sees("nobody has weighed “crates” of Fine sea salt")
	p.press(kb.Tab, chromedp.KeyModifiers(chromedp.ModifierShift))
	p.focused("0.pack")
	p.press("a", chromedp.KeyModifiers(chromedp.ModifierCtrl))
	p.keys("20 g", kb.Tab, "In their words", kb.Tab, soon, kb.Tab)
	p.focused("0.cost")
	p.keys("0.05", kb.Tab, kb.Tab)
	p.focused("0.statement")
	p.keys(kb.Tab, kb.Tab, kb.Tab, kb.Tab) // past what is decided on the row
	p.focused("1.ingredient")
	p.keys("strained")
	p.until("document.querySelector('[role=option]') !== null", "the pantry to answer")
	p.keys(kb.Tab, "2 kg", kb.Tab, "Y-9", kb.Tab, soon, kb.Tab, "9.80", kb.Tab, "9,5")
	p.press(kb.Enter, chromedp.KeyModifiers(chromedp.ModifierCtrl))
	p.sees("say why it is accepted all the same")
	p.focused("1.reason")
	p.keys("the second probe says 4")
	p.press(kb.Enter, chromedp.KeyModifiers(chromedp.ModifierCtrl))
	p.sees("It is in")
	assert.Equal(t, 2, js[int](p, "document.querySelectorAll('a[href$=\"/sticker\"]').length"), "a sticker for each")
}

// sendAndCallBack sends jars, calls the batch back and looks for them.
func sendAndCallBack(p *page, at string) {
	p.visit("/jars")
	p.click("Send jars")
	p.fill("To", "2")
	p.fill("Jars of Beetroot & horseradish dip", "5")
	p.click("Send them")
	p.sees("5 jars to Dunmore Farm Shop: 5 of 26-")
	p.visit(at + "/jars")
	p.sees("Dunmore Farm Shop")
	p.click("✓ Decide")
	p.fill("Reason", "a customer found glass")
	p.click("Call back")
	p.sees("Every jar comes back")
	p.visit("/jars")
	p.sees("shop@dunmorefarm.example")
	p.sees("5 of 12 jars are out.")
	p.visit(at + "/jars")
	p.sees("5 jars are out: tell them now.")
	p.click("Came back from Dunmore Farm Shop")
	p.sees("it is never put back")
	p.click("Write it down")
	p.sees("By the book nobody has jars of it any more.")
}
