package e2e

import (
	"os/exec"
	"regexp"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// ownSize takes a label off its roll and gives it a size of its own.
func (p *page) ownSize(width string) {
	p.t.Helper()
	p.click("Printed on: Roll, 190 × 48 mm")
	p.fill("Paper", "a size of its own")
	p.sees("printed on single")
	p.press(kb.Escape)
	p.click("Jar and size: 190 ml round jar, label 190 × 48 mm")
	p.fill("Wide", width)
	p.press(kb.Enter)
	p.sees("label " + width + " × 48 mm")
	p.press(kb.Escape)
}

// A label wider than its place on the screen can be scrolled from its first millimetre to its last.
func TestALabelWiderThanItsPlaceIsSeenWhole(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/labels/1?batch=14")
	p.sees("more that hold")
	p.ownSize("290")
	p.click("flat")
	const paper = `document.querySelector('section[aria-label="The label, flat"]')`
	p.until(paper+`?.querySelector('svg')?.getBoundingClientRect().width > 1000`, "the label at its real size")
	ends := js[[]float64](p, `(() => {
		const s = `+paper+`, at = () => s.querySelector('svg').getBoundingClientRect(), box = s.getBoundingClientRect();
		s.scrollLeft = 0;
		const left = at().left - box.left;
		s.scrollLeft = 10000;
		return [left, box.right - at().right];
	})()`)
	assert.GreaterOrEqual(t, ends[0], 0.0, "its left edge")
	assert.GreaterOrEqual(t, ends[1], 0.0, "its right edge")
	assert.False(t, js[bool](p, "document.documentElement.scrollWidth > innerWidth"), "the page itself does not scroll")
}

// The gallery shows each label as it is worn, with its own drawing.
func TestTheGalleryShowsEachLabelOnItsJar(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/labels")
	p.until(`document.querySelectorAll('main li a > svg').length > 6`, "the shelf")
	p.until(`[...document.querySelectorAll('main li a > svg')].every((s) => s.querySelector('image[href]'))`,
		"a drawing in each")
	assert.True(t, js[bool](p, `new Set([...document.querySelectorAll('main li a > svg')].map((s) =>
		s.querySelector('image').getAttribute('href'))).size === document.querySelectorAll('main li a > svg').length`),
		"each has its own")
	p.sees("Hazelnut & kale pesto")
}

// Date and lot go onto stock printed before only where somebody read its edition, and it has this batch's words.
func TestADateGoesOnlyOntoStockOfItsEdition(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/labels/1?batch=14")
	p.sees("more that hold")
	p.click("Printed on: Roll, 190 × 48 mm")
	p.tick("Date and lot alone, on labels printed before")
	p.press(kb.Escape)
	p.click("Print 58 dates")
	p.sees("Type the edition that stands on the stock")
	p.click("Printed on: Roll, 190 × 48 mm")
	p.fill("Edition on that stock, behind the address", "00000")
	p.press(kb.Escape)
	p.click("Print 58 dates")
	p.sees("Edition 00000 has other words")

	p.click("Printed on: Roll, 190 × 48 mm")
	p.click("Artwork without a date, for a printing house")
	artwork, err := exec.Command("pdftotext", p.downloaded(".pdf"), "-").Output()
	require.NoError(t, err)
	edition := regexp.MustCompile(`· ([0-9A-F]{5})`).FindStringSubmatch(string(artwork))
	require.NotEmpty(t, edition, string(artwork))
	p.fill("Edition on that stock, behind the address", edition[1])
	p.press(kb.Escape)
	p.click("Print 58 dates")
	p.sees("58 dates in the PDF")
	p.sees("58 printed, 0 spoilt, 0 still lack one")
}

// A label that another tab changed meanwhile says so, and shows what is stored now.
func TestALabelChangedInAnotherTabSaysSo(t *testing.T) {
	s := serve(t, true)
	p, other := open(t, s, 1280, 800), open(t, s, 1280, 800)
	for _, tab := range []*page{p, other} {
		tab.visit("/labels/1?batch=14")
		tab.sees("more that hold")
	}
	other.click("Laid out: banded")
	js[bool](other, `[...document.querySelectorAll('[role=radiogroup] label')].find((l) =>
		l.innerText.startsWith('front and back')).click() ?? true`)
	other.sees("laid out front and back")
	p.click("Quantities of what is named: ask again")
	p.sees("meanwhile")
	p.sees("laid out front and back")
	p.until(`!document.body.innerText.includes('for you')`, "the answer not to be stored over the other")
}
