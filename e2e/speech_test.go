package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// speech is a paste of two spoken recipes, with slips, asides, denials, time stamps and a claim.
const speech = `[00:00] Okay so the smoky carrot and walnut spread, that's the one we do on Fridays.
[00:06] You start with six large carrots, peeled, no wait, five. And a can of chickpeas, drained.
[00:15] About a cup of walnuts, toasted, and let them cool down. My mother always used almonds.
[00:24] Half a cup of tahini and an eighth of a teaspoon of cumin. One cup, no, about half a cup of lime juice.
[00:31] Parsley or dill or mint, a bunch. A heaping tablespoon of white miso. 2 egg yolks, pasteurised.
[00:42] A pinch of salt and two spoons of the red stuff. If I double it I keep the tahini at half a cup.
[00:51] No sugar, the carrots are sweet enough. It keeps three weeks in the fridge.
[01:10] Next the peanut lime sauce. Two hundred grams of peanuts, roasted, and the juice of two limes.`

// grams are what stands in the reader's fields, by the ingredient, in order.
func (p *page) grams() string {
	return js[string](p, `[...document.querySelectorAll('input')].filter((i) => i.labels?.[0]?.textContent.startsWith('Grams of '))
		.map((i) => i.labels[0].textContent.replace('Grams of ', '') + ' ' + (i.value || '-')).join('; ')`)
}

func TestSpeechIsHeardAndItsOpenPointsAreAnsweredByKeyboard(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/reader")
	p.fill("Paste it, or write it down as you would say it", speech)
	p.click("Read it")
	p.sees("More than one recipe stands here: “Smoky carrot and walnut spread” and “Peanut lime sauce”.")
	p.click("read each by itself")
	p.sees("“Peanut lime sauce” waits in the Reader")
	p.sees("3 open")
	assert.Equal(t,
		"Carrot, raw 500; Chickpeas, canned, drained 243; Walnuts, toasted 97; Tahini (sesame paste, no salt) 120; "+
			"Cumin seed, ground 0.3; Lime juice 122; Parsley, raw 40; White miso 23; Egg yolk, liquid pasteurised 34; "+
			"Fine sea salt 0.4", p.grams())
	text := js[string](p, "document.body.innerText")
	assert.Contains(t, text, "the name: Smoky carrot and walnut spread")
	assert.Contains(t, text, "any of the group")
	assert.Contains(t, text, "stays as it is when the rest is doubled")
	assert.Contains(t, text, "weigh your heaping tbsp", "and not a level one")
	assert.NotContains(t, text, "[00:06] is", "a time stamp is no amount")

	// all open points in order, an answer a key
	row := func() string {
		return js[string](p, "document.activeElement?.closest('[data-key]')?.dataset.key ?? ''")
	}
	p.press(kb.ArrowDown, chromedp.KeyModifiers(chromedp.ModifierAlt))
	p.until("document.activeElement?.closest('[data-key]') !== null", "the first open point")
	assert.Contains(t, row(), "chickpeas")
	p.press("1")
	p.sees("Remembered for the shop: a tin of Chickpeas, canned, drained is 400 g.")
	p.until("document.activeElement?.closest('[data-key]')?.dataset.key.includes('almonds')", "the next open point")
	p.press("2")
	p.until("!document.activeElement?.closest('[data-key]')?.dataset.key.includes('almonds')", "the one behind it")
	p.sees("1 open")
	p.press(kb.ArrowUp, chromedp.KeyModifiers(chromedp.ModifierAlt))
	require.NotEmpty(t, row())

	// a typed amount is weighed, or it is a guess
	p.fill("Grams of Fine sea salt", "3")
	p.press(kb.Enter)
	p.sees("weighed by you")
	p.click("it is a guess")
	p.sees("guessed by you")

	p.visit("/reader")
	p.sees("a tin of Chickpeas, canned, drained is 400 g")
	p.click("Take back: a tin of Chickpeas, canned, drained is 400 g")
	p.fill("Why", "our tins changed")
	p.click("Take it back")
	p.until("!document.body.innerText.includes('Chickpeas, canned, drained is 400 g')", "it to go")
}

func TestWhatIsSaidToKeepStandsBesideTheVerdict(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/reader")
	p.fill("Paste it, or write it down as you would say it",
		strings.Join([]string{"Ginger and walnut spread", "120 g of frozen ginger paste, thawed", "300 g walnuts",
			"60 g lemon juice", "6 g fine sea salt", "keeps three weeks in the fridge"}, "\n"))
	p.click("Read it")
	p.sees("You say it keeps 21 days.")
	p.sees("thaw and finish: at or below 5 °C")
	p.click("Make it a draft")
	p.fill("What will the product be called?", "Ginger and walnut spread")
	p.click("Open the draft")
	p.sees("You say it keeps 21 days; the rules")
	p.sees("Ginger paste")
}
