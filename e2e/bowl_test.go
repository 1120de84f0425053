package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// shownGrams is the big figure of the bench, in grams.
const shownGrams = `Number(document.querySelector("[data-grams]")?.dataset.grams)`

// TestAnotherTabletGoesOnFromWhatIsInTheBowl: what was taken on one tablet is no part of the next line on another, nor
// in a new session of the browser.
func TestAnotherTabletGoesOnFromWhatIsInTheBowl(t *testing.T) {
	s := serve(t, true)
	p, id := begins(t, s)
	peas := s.line(t, id, 1, "Green peas")
	p.scale("bench", "put 812.4") // the bowl itself
	p.sees("812.4")
	p.until(goes+`.startsWith("Tare first")`, "that a bowl which nobody tared is no ingredient")
	p.do(chromedp.KeyEvent("\r"))
	p.until(`[...document.querySelectorAll("[role=alert]")].some((a) => /then tare/.test(a.innerText))`,
		"what to do first")
	assert.Zero(t, s.grams(t, id, "Green peas"))
	p.pours(peas.Name, peas.Now.Float())
	p.safe()

	other := open(t, s, 1024, 768)
	other.as("Bram")
	other.visit(fmt.Sprintf("/bench/%d", id))
	other.stage("weigh")
	other.until(`document.querySelector("main h1").innerText.startsWith("Rocket")`, "the next line")
	other.until(shownGrams+` === 0`, "nothing of it on the scale yet")
	rocket := s.line(t, id, 1, "Rocket")
	other.scale("bench", fmt.Sprintf("put %g", rocket.Now.Float()))
	other.until(goes+`.startsWith("Take")`, "a weight to take")
	other.do(chromedp.KeyEvent("\r"))
	other.safe()
	assert.InDelta(t, rocket.Now.Float(), s.grams(t, id, "Rocket"), 0.11)
	assert.InDelta(t, peas.Now.Float(), s.grams(t, id, "Green peas"), 0.11)
}

// TestEnterNeverTares: after the key for the tare was touched, Enter takes what was poured; so does the pedal.
func TestEnterNeverTares(t *testing.T) {
	s := serve(t, true)
	p, id := begins(t, s)
	p.until(goes+`.startsWith("Tare first")`, "the scale")
	p.hitAt(`[...document.querySelectorAll("footer button")].find((b) => b.innerText === "Tare")`, "the tare")
	p.until(goes+`.startsWith("Pour")`, "the tare")
	peas := s.line(t, id, 1, "Green peas")
	p.scale("bench", fmt.Sprintf("put %g", peas.Now.Float()))
	p.until(goes+`.startsWith("Take")`, "a weight to take")
	p.press(kb.Enter)
	p.safe()
	p.until(`document.querySelector("main h1").innerText.startsWith("Rocket")`, "the next line")
	assert.InDelta(t, peas.Now.Float(), s.grams(t, id, "Green peas"), 0.11)

	p.scale("bench", "put 300")
	p.until(goes+`.startsWith("Take")`, "a weight to take")
	p.do(chromedp.KeyEvent("t"))
	p.sees("300.0 g on the scale were not taken.")
	p.click("Cancel")
	p.until(`(() => { const b = [...document.querySelectorAll("footer button")].find((b) => b.innerText === "Tare"); b.focus(); return document.activeElement === b })()`, "the focus")
	p.press(kb.Enter)
	p.until(`!document.body.innerText.includes("were not taken")`, "no tare")
	p.safe()
	assert.InDelta(t, 300, s.grams(t, id, "Rocket"), 0.11, "it was taken")
}

// TestTheScaleBelowItsZeroIsShownSo: a bowl that was lifted off is no settled nothing, and what moves is not taken.
func TestTheScaleBelowItsZeroIsShownSo(t *testing.T) {
	s := serve(t, true)
	p, id := begins(t, s)
	p.scale("bench", "put 677.1")
	p.sees("677.1")
	p.tares()
	p.scale("bench", "clear")
	p.until(goes+`.startsWith("Below zero")`, "that it is below")
	p.until(shownGrams+` < -676`, "how far")
	p.sees("The scale is below its zero.")
	p.do(chromedp.KeyEvent("\r"))
	p.tares()
	p.scale("bench", "put 900")
	p.until(goes+`.startsWith("Take")`, "a weight to take")
	p.click("This is all of it")
	p.fill("Why does no more", "the bag is empty")
	p.scale("bench", "restless")
	p.until(`[...document.querySelectorAll("footer button")].at(-1).disabled`, "that what moves is not taken")
	p.press(kb.Enter)
	p.until(`(() => { document.activeElement.blur(); return document.activeElement === document.body })()`, "no focus")
	p.do(chromedp.KeyEvent("\r"))
	p.sees("The scale is still moving.")
	assert.Zero(t, s.grams(t, id, "Green peas"))
}
