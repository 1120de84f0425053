package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp/kb"
)

func TestTwoTabsOnOneRecipeKeepBothSides(t *testing.T) {
	s := serve(t, true)
	one, two := open(t, s, 1280, 800), open(t, s, 1280, 800)
	for _, p := range []*page{one, two} {
		p.visit("/reader/2")
		p.sees("3 open")
	}
	one.fill("Grams of Flake kosher-style salt", "6")
	one.press(kb.Enter)
	one.sees("weighed by you")
	two.fill("Grams of Ginger root, raw", "14")
	two.press(kb.Enter)
	two.until(gramsRead("Ginger root, raw")+" === '14'", "what was typed here")
	two.until(gramsRead("Flake kosher-style salt")+" === '6'", "what was answered in the other tab")
	two.click("no, double every amount")
	two.until(gramsRead("Lentils, boiled")+" === '480'", "the tin of lentils, twice")
	two.visit("/reader/2")
	two.sees(", doubled")
}

func TestWordsAreReadAgainAsTheyChange(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/reader")
	p.click("Try it with an example")
	p.click("Read it")
	p.sees("Carrot, raw")
	p.click("Change the words")
	p.fill("The words", "2 tbsp tahini\n\u202bطحينة\u202c\n<li>1 cup buttermilk</li>")
	p.sees("Cultured buttermilk, low fat")
	p.fill("Name of the recipe", "Nan's white sauce")
	p.click("Back to the reading")
	p.sees("Nan's white sauce")
	p.sees("This was not understood. It is kept with the recipe.")
	p.click("leave out")
	p.sees("take it in")
	p.visit("/reader")
	p.click("Throw away Nan's white sauce")
	p.click("Leave it")
	p.sees("Nan's white sauce")
	p.click("Throw away Nan's white sauce")
	p.fill("Why; it stays on record", "never cooked")
	p.click("Throw it away")
	p.until("!document.body.innerText.includes(\"Nan's white sauce\")", "the recipe to go")
}

func TestAnUnknownIngredientGoesIntoThePantryAndIsKnownFromThenOn(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/reader/2")
	p.sees("not known to the pantry")
	p.click("add to the pantry")
	p.until(fmt.Sprintf("%s('input', 'What do you call it?')?.value === 'Quince cordial'", lookup),
		"the words as a name")
	p.press(kb.Enter)
	p.sees("Quince cordial")
	p.until("location.pathname === '/pantry/quince_cordial'", "its page")
	p.visit("/reader/2")
	p.sees("assumed water-like")
	p.until("!document.body.innerText.includes('not known to the pantry')", "the line to know it")
}

func TestAMeasureWeighedLaterOffersTheLineAnew(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/reader")
	p.fill("Paste it, or write it down", "600 g cooked pumpkin\n4 tbsp cider vinegar\n1 tsp salt")
	p.click("Read it")
	p.sees("all settled")
	p.click("Make it a draft")
	p.fill("What will the product be called?", "Plain squash")
	p.click("Open the draft")
	p.sees("“4 tbsp cider vinegar”")
	p.visit("/pantry/vinegar_cider")
	p.click("Weigh another measure")
	p.fill("What do you measure with?", "tbsp")
	for i, g := range []string{"18", "17", "18.5"} {
		p.fill(fmt.Sprintf("Weighing %d", i+1), g)
	}
	p.click("Let it count")
	p.sees("tbsp yours, 3 times")
	p.visit("/formulas/plain_squash/1")
	p.sees("60.0 g would be 71.8 g")
	p.click("take it over")
	p.until(gramsRead("Cider vinegar 5%")+" === '71.8'", "the new grams")
	p.until("!document.body.innerText.includes('would be')", "the offer to go")
}

func TestABatchOfAGroupIsWeighedByWhatWasTaken(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/formulas/pea_pistachio_spread/2")
	p.click("Make a batch")
	p.fill("Jars wanted", "12")
	p.fill("Made on", now().Format("2006-01-02"))
	p.click("Plan it")
	p.sees("12 jars planned")
	p.sees("Onto the jars")
	p.sees("no lot is there") // while the lots are asked for, Enter goes on to theirs
	p.fill("Grams of Rocket (arugula), raw taken", "40")
	p.fill("Grams of Watercress, raw taken", "abc")
	p.fill("Grams of Watercress, raw taken", "25.5")
	p.press(kb.Enter)
	p.until(fmt.Sprintf("%s('input', 'Weighed grams of Rocket (arugula), raw')?.value === '65.5'", lookup),
		"the sum of what was taken")
	p.sees("✓ Ines")
}
