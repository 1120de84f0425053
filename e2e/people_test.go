package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"sync/atomic"
	"testing"
	"time"

	"gallipot/internal/demo"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func pin(name string) string {
	for _, p := range demo.MadeUp() {
		if p.Name == name {
			return p.Secret
		}
	}
	return ""
}

// TestHandsChangeAndARestKeepsTheScreen types grams, rests too long, answers with the PIN, and hands over.
func TestHandsChangeAndARestKeepsTheScreen(t *testing.T) {
	s := serve(t, true)
	var rest atomic.Int64
	s.app.Now = func() time.Time { return now().Add(time.Duration(rest.Load())) }
	p := open(t, s, 1280, 800)
	p.visit("/batches/20")
	p.sees("24 jars planned")
	lot := `document.querySelector("[aria-label='Lot of Mustard powder']")`
	p.until(lot+".placeholder !== ''", "a lot to be proposed")
	p.fill("Weighed grams of Mustard powder", "31.2")
	p.press(kb.Enter)
	p.until("document.activeElement === "+lot, "the lot to be asked")
	p.press(kb.Enter)
	p.until(lot+".value !== ''", "a lot to be taken")
	rest.Store(int64(16 * time.Minute))
	p.press(kb.Enter)
	p.sees("Is it still you?")
	p.fill("PIN", "900001")
	p.sees("This is not the right PIN")
	assert.Equal(t, "31.2", js[string](p,
		`document.querySelector("[aria-label='Weighed grams of Mustard powder']").value`))
	p.fill("PIN", pin("Ines"))
	p.until("document.querySelector('[role=dialog]') === null", "the dialog to close")
	p.sees("✓ Ines")

	p.click("Ines, owner")
	p.sees("Who goes on?")
	p.click("Ola helper")
	for _, d := range pin("Ola") {
		p.click(string(d))
	}
	p.sees("Ola, helper")
	p.click("4 Decide")
	p.sees("A helper does not decide")
	p.click("Ola, helper")
	p.click("Sign out")
	p.sees("Who is it?")
	p.click("Bram maker")
	p.click("Somebody else")
	p.click("Bram maker")
	p.click("I have a passphrase")
	p.fill("Passphrase", "a wrong one")
	p.click("Sign in")
	p.sees("This is not the right PIN or passphrase.")
	p.fill("Passphrase", pin("Bram"))
	p.click("Sign in")
	p.sees("Bram, maker")
}

// TestPeopleAreAddedAndRetired in the shop's settings, and a maker sees what is an owner's to change.
func TestPeopleAreAddedAndRetired(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/shop")
	p.click("Add somebody")
	p.fill("Name", "Tove")
	p.fill("First PIN of 6 digits, or a passphrase", "111111")
	p.click("Add")
	p.sees("this PIN is among the first that anybody would try")
	p.fill("First PIN of 6 digits, or a passphrase", "640912")
	p.click("Add")
	p.sees("Tove works here now.")
	p.until("[...document.querySelectorAll('section[aria-label=People] li')].length === 5", "five people")
	js[bool](p,
		"[...document.querySelectorAll('section[aria-label=People] li')].at(-1).querySelector('button').click() ?? true")
	p.fill("Works here no more, because", "moved away")
	p.click("Retire")
	p.sees("Worked here: Tove (moved away).")
	p.click("History")
	p.sees("retired Tove: moved away")
	p.as("Bram")
	p.visit("/shop")
	p.sees("People")
	assert.Zero(t, js[int](p,
		"[...document.querySelectorAll('button')].filter((b) => b.textContent === 'Add somebody').length"))
}

// TestAnotherTabChangesHands signs somebody else in elsewhere while a screen shows the owner.
func TestAnotherTabChangesHands(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/shop")
	p.click("Add somebody")
	p.fill("Name", "Tove")
	p.fill("First PIN of 6 digits, or a passphrase", "640912")
	js[bool](p, fmt.Sprintf(`!!fetch("/api/session", {method: "POST", headers: {"Content-Type": "application/json"},
		body: JSON.stringify({name: "Bram", secret: %q})}).then(() => { window.changed = true })`, pin("Bram")))
	p.until("window.changed === true", "the other tab's sign-in")
	p.click("Add")
	p.sees("Bram signed in here meanwhile, in another tab.")
	p.click("I have a passphrase")
	p.fill("Passphrase", pin("Ines"))
	p.click("Sign in")
	p.sees("Tove works here now.")
}

// TestACallBackIsWorkedOff from Today to the rejection, with what was kept along the way.
func TestACallBackIsWorkedOff(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/today")
	p.sees("47 jars made, 47 labels printed.")
	first := js[string](p, "document.querySelector('section[aria-label=\"What needs a hand\"] li a').textContent")
	assert.Contains(t, first, "Call back")
	p.do(chromedp.Navigate(p.base + "/batches/21"))
	p.sees("Every jar comes back")
	p.as("Bram")
	p.visit("/batches/21")
	p.sees("only an owner takes it out of that, with a reason")
	p.as("Ines")
	p.visit("/batches/21")
	p.click("Reject")
	p.sees("give the reason")
	p.fill("Reason", "All 47 jars are back and poured away.")
	p.click("Reject")
	p.sees("Rejected by Ines: All 47 jars are back and poured away.")
	p.click("What it said")
	p.sees("with the words of version 2")
	p.do(chromedp.KeyEvent(kb.Escape))
	p.click("History")
	p.sees("rejected it: All 47 jars are back and poured away.")
}

// TestADocumentSaysWhatItCovers is attached with mistakes, and withdrawn with a reason.
func TestADocumentSaysWhatItCovers(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	file := filepath.Join(t.TempDir(), "letter.txt")
	require.NoError(t, os.WriteFile(file, []byte("A letter of several words, long enough to be one."), 0o600))
	p.visit("/formulas/hazelnut_kale_pesto")
	p.click("Keeping and label words")
	p.sees("the jars of the last three pulls had stood in the wrong fridge")
	p.click("Attach a document")
	p.fill("What it is", "authority")
	p.fill("Title", "Letter of the authority")
	p.click("Sign off and attach")
	p.sees("attach the document itself")
	p.do(chromedp.SetUploadFiles("input[type=file]", []string{file}))
	p.click("Sign off and attach")
	p.sees("up to which pH does it cover")
	p.fill("Up to pH", "4.2")
	p.fill("Product, as it names it", "Hazelnut pesto")
	p.fill("Issued by", "A made-up laboratory")
	p.fill("Dated", "2026-10-01")
	p.fill("Storage it covers", "ambient")
	p.fill("Heat step, coldest jar", "5")
	p.fill("held for", "10")
	p.click("Sign off and attach")
	p.sees("the heat step it asks for lies between 60 and 130 °C")
	p.fill("Heat step, coldest jar", "88")
	p.fill("Why it is attached", "it came by post")
	p.click("Sign off and attach")
	p.sees("88 °C for 10 min")
	p.sees("Counts for nothing for version")
	p.click("Withdraw")
	p.fill("Why; it stays on record", "of another product")
	p.click("Withdraw it")
	p.sees("Withdrawn by Ines: of another product")
	p.click("Versions")
	p.click("What it rested on")
	p.sees("rested on when it was locked")
}
