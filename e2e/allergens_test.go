package e2e

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// TestAPacketIsReadAndWhatItGainedIsWorkedOff goes from Today to the packet that nobody read, signs what it says with
// the keyboard, and follows a gained allergen to the last jar.
func TestAPacketIsReadAndWhatItGainedIsWorkedOff(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	readPacket(t, p)
	workOff(t, p)
	dangerStandsFirst(t, p)
}

func readPacket(t *testing.T, p *page) {
	p.visit("/formulas")
	p.until(`[...document.querySelectorAll('tr')].some((r) => r.innerText.includes('Charred pepper') && r.innerText.includes('not known yet'))`,
		"the list to say that nobody has looked")
	p.visit("/today")
	p.sees("Nobody has said which allergens are in it")
	p.click("needs you: Look at Roasted red peppers")
	p.sees("What did you read?")
	p.until("document.activeElement?.tagName === 'TEXTAREA'", "the list to have the focus")
	p.fill("The list as the packet", "red peppers, water, whey powder, lecithin, salt. May contain walnuts.")
	p.sees("Its words leave open: soy or egg")
	p.fill("Its words leave open", "")
	p.press(kb.Enter)
	p.sees("what you read, in at most")
	p.fill("Its words leave open", "soya")
	p.fill("What did you read", "the jar's back label")
	p.keys(kb.Enter)
	p.sees("which is not ticked")
	p.tick("soya")
	p.click("Sign it")
	p.sees("is looked at.")
	p.sees("the jar's back label")
	p.sees("May contain walnuts")
	p.visit("/formulas")
	p.until(`[...document.querySelectorAll('tr')].some((r) => r.innerText.includes('Charred pepper') && r.innerText.includes('milk'))`,
		"what the packet said to count")
}

func workOff(t *testing.T, p *page) {
	p.visit("/today")
	p.sees("gained egg")
	p.visit("/allergens/1")
	p.sees("Hazelnut & kale pesto")
	p.click("Gone: who was told?")
	p.sees("The jars are gone")
	p.fill("What was done with the jars", "sold at the market, none is left")
	p.press(kb.Enter)
	p.sees("told")
	assert.NotContains(t, js[string](p, "document.querySelector('main').innerText"), "The jars are gone,")
	p.fill("Which customers were told", "a notice at the stall and by mail")
	p.fill("Who of the authority was told", "the council's food officer, by telephone")
	p.click("Keep it on record")
	p.sees("Told: a notice at the stall and by mail.")
}

func dangerStandsFirst(t *testing.T, p *page) {
	p.visit("/formulas/slow_garlic_oil")
	p.sees("On the label")
	top := js[float64](p,
		`[...document.querySelectorAll('aside *, section *')].find((e) => e.children.length === 0 && /under oil|in oil/i.test(e.innerText))?.getBoundingClientRect().bottom ?? 9999`)
	assert.Less(t, top, 800.0, "the danger is seen without scrolling")
	p.visit("/formulas/tamarind_date_dressing/2")
	p.sees("On the label")
	p.click("Lock version 2")
	p.sees("A locked version never changes.")
	assert.True(t, js[bool](p,
		`[...document.querySelectorAll('[role=dialog] button')].find((b) => b.innerText.includes('Lock it for good')).disabled`),
		"a refused wish stands in the way")
}

// TestAWordOfTheShopsOwnCounts: added in the settings, read in the pantry, and not taken off without a reason.
func TestAWordOfTheShopsOwnCounts(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/shop")
	p.sees("Words of our own")
	p.click("Add the word")
	p.sees("Two letters at least.")
	p.fill("A word, as packets print it", "tamarind")
	p.press(kb.Enter)
	p.sees("Tick what it says.")
	p.tick("lupin")
	p.click("Add the word")
	p.sees("is a sign of lupin")
	p.sees("Shop settings saved ")
	p.visit("/allergens")
	p.sees("gained lupin")
	p.visit("/shop")
	p.click("Take off tamarind")
	p.sees("An allergen would be lost")
	p.fill("Why; it stays on record", "it was a slip of mine")
	p.click("Take it off all the same")
	p.sees("Shop settings saved ")
}

// TestTakingAnAllergenOffAsksOnceAndForAll: the reason is sent once, and the form behind the dialog is not.
func TestTakingAnAllergenOffAsksOnceAndForAll(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/pantry/hard_grating_cheese?look=1")
	p.sees("What did you read?")
	p.fill("The list as the packet", "milk; salt; rennet")
	p.fill("What did you read?", "the new packet")
	p.until(`[...document.querySelectorAll('label')].some((l) => l.innerText.trim() === 'egg' && !l.querySelector('input').disabled)`,
		"the words read")
	js[bool](p, `(window.sent = 0, window.own = window.fetch, window.fetch = (...a) => {
		if (String(a[0]?.url ?? a[0]).includes('/look')) window.sent++;
		return window.own(...a) }, true)`)
	if js[bool](p, lookup+"('input', 'egg').checked") {
		p.tick("egg")
	}
	p.click("Sign it")
	p.sees("An allergen is taken off")
	p.fill("Why; it stays on record", "the dairy took it out again")
	p.click("Take it off")
	p.sees("is looked at.")
	p.until("document.querySelector('[role=dialog]') === null", "the question to be closed")
	assert.Equal(t, 2, js[int](p, "window.sent"), "once without the reason, once with it")
}

// TestAPacketReadInTwoTabsLosesNeitherSide: who signs second is told, keeps what was typed, and signs over what is
// there.
func TestAPacketReadInTwoTabsLosesNeitherSide(t *testing.T) {
	s := serve(t, true)
	one, two := open(t, s, 1280, 800), open(t, s, 1280, 800)
	for i, p := range []*page{one, two} {
		p.visit("/pantry/red_pepper_roasted_jar?look=1")
		p.sees("What did you read?")
		p.fill("The list as the packet", []string{"red peppers, celery, salt", "red peppers, salt"}[i])
		p.fill("What did you read?", []string{"the front", "the back"}[i])
	}
	one.click("Sign it")
	one.sees("is looked at.")
	two.click("Sign it")
	two.sees("was changed meanwhile by Ines; what you typed is kept here.")
	two.sees("Contains celery")
	two.until(lookup+`("textarea", "The list as the packet")?.value === "red peppers, salt"`, "what was typed")
	two.click("Sign it")
	two.sees("is looked at.")
	two.visit("/pantry/red_pepper_roasted_jar")
	two.sees("Contains celery") // what the other tab found is not lost by what this one read
}
