package e2e

import (
	"fmt"
	"os/exec"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestFromBowlToCustomerAndBack makes of a received lot, finds the short jars, raises the fill, sends jars, follows the
// lot to who has them, practises a recall of it, and prints the record.
func TestFromBowlToCustomerAndBack(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	receiveByKeyboard(t, p)
	at := makes(p, 12)
	fillsYesterday(p, 12)
	shortThenRight(p)
	releases(p, 12)
	code := js[string](p, `/\d\d-\d{3}-[A-Z]/.exec(document.querySelector("main").innerText)[0]`)
	p.visit("/jars")
	p.click("Send jars")
	p.fill("To", "2")
	p.fill("Jars of Beetroot & horseradish dip", "5")
	p.click("Send them")
	p.sees("5 jars to Dunmore Farm Shop")

	p.visit("/trace?code=In+their+words")
	p.sees("Where did this lot go?")
	for _, said := range []string{"Saltpan Row", code, "Dunmore Farm Shop"} {
		p.sees(said)
	}
	practise(p)
	p.visit("/records")
	p.sees("Recalls and drills")
	p.sees("1 of 12 jars were not found.")
	printsRecord(t, p, at, code)
}

// shortThenRight weighs jars that are short, raises the fill for it, and weighs good ones.
func shortThenRight(p *page) {
	p.t.Helper()
	p.fill("Empty jar", "120")
	for i, g := range []string{"298", "299.5", "309"} {
		p.fill(fmt.Sprintf("Full jar %d", i+1), g)
	}
	p.click("Write the weights down")
	p.sees("Short: the average")
	p.click("Fill to this from now on")
	p.sees("and the next batch is planned with it")
	p.click("Weigh jars again")
	fullJars(p)
}

// practise begins a drill at the trace and brings it to its end: told, answered, counted, closed.
func practise(p *page) {
	p.t.Helper()
	p.click("Start a recall")
	p.fill("Why now?", "drill")
	p.click("Start the drill")
	p.sees("say why, in at least 10 letters")
	p.fill("Why now?", "We practise with the newest lot of salt")
	p.click("Start the drill")
	p.sees("of 12 jars still to look for")
	p.click("They are told: Dunmore Farm Shop")
	p.fill("How Dunmore Farm Shop was told", "x")
	p.press(kb.Enter)
	p.sees("say how, and whom you reached")
	p.fill("How Dunmore Farm Shop was told", "by mail; they wrote back")
	p.press(kb.Enter)
	p.sees("all were told")
	answer := js[string](p, `document.querySelector("[aria-label*='that Dunmore Farm Shop set apart']").ariaLabel`)
	p.fill(answer, "3")
	p.fill(strings.Replace(answer, "set apart", "sold or used", 1), "2")
	p.press(kb.Enter)
	p.sees("3 set apart, 2 sold or used")
	here := js[string](p, `document.querySelector("[aria-label^='Jars of'][aria-label*=' found ']").ariaLabel`)
	p.fill(here, "six")
	p.press(kb.Enter)
	p.sees("a whole number of jars")
	p.visit(js[string](p, "location.pathname")) // what was written down is still there
	p.sees("3 set apart, 2 sold or used")
	p.fill(here, "6")
	p.press(kb.Enter)
	p.sees("1 not found")
	p.click("Close the drill")
	p.fill("What was done; it stays on record", "All told by mail; one jar was given away at the door")
	p.click("Close it")
	p.sees("one jar was given away at the door")
	p.sees("drill, done")
}

// printsRecord opens the record of a batch as a PDF: one page with all that happened.
func printsRecord(t *testing.T, p *page, at, code string) {
	t.Helper()
	p.visit(at + "/record")
	p.sees("Everything that happened")
	p.click("As PDF")
	file := p.downloaded(".pdf")
	info, err := exec.Command("pdfinfo", file).Output()
	require.NoError(t, err)
	assert.Regexp(t, `Pages:\s+1\b`, string(info))
	text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	require.NoError(t, err)
	flat := strings.Join(strings.Fields(string(text)), " ")
	for _, want := range []string{code, "Beetroot", "In their words", "released by Ines", "Dunmore Farm Shop",
		"the average of", "none is short", now().AddDate(0, 0, -1).Format("2 Jan 2006")} {
		assert.Contains(t, flat, want)
	}
}
