package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

const spokenRecipe = `Squash thing
Makes about two cups

For the bowl:
- 600 g cooked pumpkin
- two spoons of tahini
- 4 tbsp quinse vinegar
- half a cup of rapeseed oil
- 6 oz (200 g) silken tofu
- a handful of kale or rocket
- salt to taste

To serve:
- 2 tbsp pumpkin seeds

Method
Blend until it falls off the spoon.`

// TestFromSpokenWordsToALockedStandard is a maker who talks, weighs, makes it twice and locks what she makes from then
// on.
func TestFromSpokenWordsToALockedStandard(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/formulas")
	p.click("Read a recipe")
	p.fill("Paste it, or write it down", spokenRecipe)
	p.click("Read it")

	// What is open stands on top, each with a way to its line.
	p.sees("Squash thing")
	p.sees("5 open")
	p.sees("said: 473 mL")
	p.sees("Which spoon?")
	p.sees("170.1 g and 200 g were both said")
	p.sees("not known to the pantry")
	p.click("Make it a draft")
	p.click("Open the draft")
	p.sees("First answer what is open")
	p.click("Not yet")
	p.click("the second")
	p.until(gramsRead("Silken tofu")+" === '200'", "the second of the two")
	p.sees("4 open")
	p.click("a tablespoon") // which spoon: hers
	p.sees("3 open")
	p.click("Cider vinegar 5%") // of those it may be
	p.sees("2 open")
	p.click("on top of each jar")
	p.sees("1 open")
	p.fill("Grams of Fine sea salt", "abc")
	p.press(kb.Tab)
	p.sees("“abc” is not a mass: g, kg, oz or lb")
	p.fill("Grams of Fine sea salt", "9")
	p.press(kb.Enter)
	p.sees("all settled")
	p.sees("weighed by you")

	// Her own handful, three times on the scale, wins over the typical one.
	p.click("weigh your handful")
	for i, g := range []string{"26", "31", "28"} {
		p.fill(fmt.Sprintf("Weighing %d", i+1), g)
	}
	p.sees("± 8.9 %, 3 weighings")
	p.click("Let it count")
	p.until(gramsRead("Kale, raw")+" === '28'", "her own handful in the reading")
	p.sees("your own measure")

	p.click("Make it a draft")
	p.fill("What will the product be called?", "Squash & tahini dip")
	p.click("Open the draft")
	p.sees("On the label")
	p.sees("“two spoons of tahini”")
	p.sees("or 1 other")
	p.sees("Any of the group")
	p.click("Pack and cost")
	p.sees("On top of each jar")
	p.sees("Pumpkin seeds, hulled")
	p.click("Sheet")
	p.lock(1)

	// Two makings, with what was added to taste.
	p.click("Trials")
	for _, grams := range [][]string{{"610", "48", "70", "105", "200", "30", "9"},
		{"590", "55", "86", "112", "198", "24", "9.5"}} {
		p.click("Record a making")
		for i, name := range []string{"Pumpkin, cooked", "Tahini (sesame paste, no salt)", "Cider vinegar 5%",
			"Rapeseed (canola) oil", "Silken tofu", "Kale, raw", "Fine sea salt"} {
			p.fill("Grams of "+name, grams[i])
		}
		p.fill("Grams of Cider vinegar 5% added to taste", "12")
		p.fill("Why Cider vinegar 5% was added", "too sweet")
		p.fill("Score", "8")
		p.fill("How was it?", "Good on bread.")
		p.click("Keep the trial")
		p.sees("“Good on bread.”")
	}
	p.sees("It wanders. pH ±0.07")
	p.sees("at least 0.22 GBP a jar")
	p.sees("around the standard")
	p.fill("Standard batch", "0")
	p.sees("say how many grams the reference batch has")
	p.fill("Standard batch", "1000")
	p.click("Make it the draft")
	p.until("location.pathname.endsWith('/2')", "the draft of the standard")
	p.sees("1 000.0")
	p.lock(2)
	p.visit("/reader/3")
	p.sees("Its formula")
}

func gramsRead(name string) string {
	return fmt.Sprintf("%s('input', %s)?.value", lookup, quote("Grams of "+name))
}

func TestAVariantIsHeldBesideItsParentAndFollowsIt(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/formulas/carrot_miso_thicker?part=variants")
	p.sees("Carrot & miso dressing has moved on.")
	p.sees("barley, soy, sesame")
	p.click("Show what carrying it over would change")
	p.sees("Both changed these; the variant's own is kept.")
	p.click("Carry it over")
	p.sees("On the label")
	p.click("Variants")
	p.until("!document.body.innerText.includes('has moved on')", "nothing left to carry over")
	p.click("Carrot & miso with tahini")
	p.until("!document.querySelector('section[aria-label=\"Side by side\"]').innerText.includes('with tahini')",
		"one column less")
	p.click("Start a variant")
	p.fill("What will it be called?", "Carrot & miso, without oil")
	p.click("Open the variant")
	p.until("location.pathname === '/formulas/carrot_miso_without_oil/1'", "the variant's draft")
	p.sees("a variant")
}

func TestASwapShowsBeforeAndAfterAndIsTakenOrLetGo(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/formulas/carrot_miso_dressing")
	p.sees("On the label")
	swapTo := func(name string) {
		p.click("More for White miso")
		p.click("Swap for another …")
		p.click("for what?")
		p.fill("Name in the pantry", name)
		p.click(name)
	}
	swapTo("Fish sauce")
	p.sees("Allergen gained: fish.")
	p.sees("No longer: vegan, vegetarian")
	p.click("Let it go")
	p.until("document.querySelector('[role=dialog]') === null", "the dialog to close")
	assert.Equal(t, "72.0", js[string](p, gramsRead("White miso")), "nothing changed")
	swapTo("Tamari")
	p.click("the salt")
	p.sees("Allergen lost: barley.")
	before := p.rev()
	p.click("Take it")
	p.sees("White miso swapped for Tamari")
	p.savedAfter(before)
	p.press("z", chromedp.KeyModifiers(chromedp.ModifierCtrl))
	p.until(gramsRead("White miso")+" === '72.0'", "the swap undone")
}

func TestAYieldIsRecordedAndTheNeedFollows(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/pantry")
	p.click("Preparations")
	p.fill("Find a step", "lime")
	p.click("Lime, whole with peel zest then juice")
	p.sees("from the same pieces")
	p.sees("typical 41.0 % counts as one more")
	p.fill("Went in", "1000")
	p.fill("Came out", "50000")
	p.click("Record it")
	p.sees("are the two swapped?")
	p.fill("Came out", "350")
	p.fill("Beside it", "40")
	p.click("Record it")
	p.sees("over 4, typical")
	p.fill("Lime juice needed", "38")
	p.fill("Lime zest needed", "42")
	p.sees("g Lime juice") // the greater need counts, the juice is left over
	p.click("Change the step")
	p.fill("Yield", "0")
	p.click("Keep the step")
	p.sees("a yield lies above 0")
	p.click("Leave it")

	p.visit("/pantry/tahini")
	p.sees("heaping tbsp")
	p.click("Weigh another measure")
	p.fill("What do you measure with?", "ladle")
	for i, g := range []string{"61", "64", "58"} {
		p.fill(fmt.Sprintf("Weighing %d", i+1), g)
	}
	p.click("Let it count")
	p.until("document.querySelector('[role=dialog]') === null", "the dialog to close")
	p.sees("ladle yours, 3 times")
	p.click("Take your own ladle out")
	p.fill("Why; it stays on record", "the ladle was lost")
	p.click("Take it out")
	p.until("!document.body.innerText.includes('ladle')", "the ladle to go")
}
