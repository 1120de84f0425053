package e2e

import (
	"os"
	"path/filepath"
	"regexp"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAPriceFileIsMatchedBeforeItIsTakenIn sends files as suppliers write them to an open page: what is wrong and what
// can be read two ways stands there at once, and the page shows the new price by itself.
func TestAPriceFileIsMatchedBeforeItIsTakenIn(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/pantry/pumpkin_cooked")
	p.sees("no price")
	file := filepath.Join(t.TempDir(), "november.csv")
	upload := func(text string) {
		require.NoError(t, os.WriteFile(file, []byte(text), 0o600))
		p.do(chromedp.SetUploadFiles(chromedp.CSS(`input[aria-label="Price list file"]`), []string{file}))
	}
	upload("")
	p.sees("the file is empty")
	p.press(kb.Escape)
	upload("Item;Pack Size;Net price;Valid from\nCooked pumpkin flesh;5.000 g;£ 6,40;20/11/2026\n" +
		"Moon dust;1 kg;3,00;20/11/2026\nLime juice;1 kg;abc;20/11/2026\n")
	p.sees("5.000 can be read two ways")
	p.sees("Whose prices are these?")
	p.sees("\"abc\" is no number")
	p.click("5000")
	p.fill("Whose prices are these?", "Fallowfield Veg")
	p.click("So it is")
	p.gone("Whose prices are these?")
	p.click("Pumpkin, cooked")
	p.sees("1 to take in") // what is settled moves down: the next is pressed where it stands then
	p.click("Leave out: Moon dust")
	p.sees("1 left out")
	p.click("Leave out: Lime juice")
	p.sees("2 left out")
	p.click("Take 1 price in")
	p.sees("1 price added")
	p.sees("1.28")
	p.sees("6.40 / 5000 g")
	p.gone("no price")
}

// TestThePriceStandsByTheLitreAndThePieceWithOneFormOfDates reads the card of a price as a buyer would.
func TestThePriceStandsByTheLitreAndThePieceWithOneFormOfDates(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/pantry/sunflower_oil")
	p.sees("GBP for 1 L")
	card := js[string](p, `[...document.querySelectorAll('section')].find((e) => e.querySelector('h2, h3')?.textContent ===
		'What a usable gram costs').innerText`)
	// 24.60 for 10 L of 0.92 g/mL is 2.67 a kilo and 2.46 a litre; that of January waits
	assert.Contains(t, card, "2.67")
	assert.Contains(t, card, "2.46 GBP for 1 L")
	days := regexp.MustCompile(`\d[\d./-]* ?(\w{3} )?20\d\d|20\d\d-\d\d-\d\d`).FindAllString(card, -1)
	assert.GreaterOrEqual(t, len(days), 3)
	for _, d := range days {
		assert.Regexp(t, `^\d{1,2} [A-Z][a-z]{2} 20\d\d$`, d)
	}
	p.visit("/pantry/lime_whole")
	p.sees("GBP a piece")
}

// TestWhatAJarCostsIsTheSameOnItsSheet opens the cost of a product from its sheet, follows a figure to its source, and
// tries what-ifs that change nothing.
func TestWhatAJarCostsIsTheSameOnItsSheet(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/formulas/pea_pistachio_spread/2")
	p.sees("On the label")
	onSheet := js[string](p,
		`[...document.querySelectorAll('aside div')].map((e) => e.textContent.match(/^([0-9.]+)a jar, GBP$/)?.[1]).find(Boolean)`)
	p.click("Cost")
	p.sees("What moves it")
	stack := func() string {
		return js[string](p, `document.querySelector('[aria-label="The stack of one jar"] p').textContent`)
	}
	assert.Equal(t, onSheet, stack())
	for _, row := range []string{"Sesame seed, toasted", "jar, 190 mL", "set up and clean", "fill, cap, label",
		"Lime juice: zest then juice", "overhead a batch"} {
		p.sees(row)
	}
	p.click("Sesame seed, toasted")
	p.sees("2.20 g x")
	p.click("Try something")
	p.fill("by", "25")
	p.click("Try it")
	p.sees("up 25 %")
	p.click("Try something")
	p.fill("What changes", "another fill of the jar")
	p.fill("a jar of", "320")
	p.click("Try it")
	p.sees("a jar of 320 g")
	p.gone("being worked out")
	p.click("Let go: a jar of 320 g")
	p.gone("a jar of 320 g")
	assert.Equal(t, onSheet, stack(), "what was tried changed nothing")
	p.fill("A batch of", "240")
	p.press(kb.Enter)
	p.sees("240 jars in")
	assert.NotEqual(t, onSheet, stack())
}

// TestABatchTellsTheOneCauseFirst writes down how long hands were at a batch: the cause beside it follows, and its
// place in the line of batches shows the parts.
func TestABatchTellsTheOneCauseFirst(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/batches/19/decide")
	p.sees("Against the standard of that day")
	p.click("Say how long hands were at it")
	p.fill("Hands, all together", "600")
	p.click("Write it down")
	p.sees("10.0 h of hands")
	p.sees("Hands made it")
	p.click("What a jar of it costs")
	p.sees("What it was")
	p.sees("what the ingredients cost")
	p.sees("Hands made it")
}

func TestAMarkUpIsSaidByItsName(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/costs/carrot_miso_dressing/3")
	p.sees("you 6.4")
	p.sees("(margin 55 %)")
	p.click("How this shop prices")
	p.sees("What each adds")
	js[any](p, `document.querySelector('#prices tbody button:last-of-type').click()`)
	p.fill("You, at a stall, percent", "20")
	p.press(kb.Tab)
	p.sees("saved")
	p.visit("/costs/carrot_miso_dressing/3")
	p.sees("(mark-up 20 %)")
}
