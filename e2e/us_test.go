package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"gallipot/internal/core/formula"
	"gallipot/internal/reference"

	"github.com/chromedp/cdproto/emulation"
	pagecdp "github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// counted is how many clicks and fields a person needed: a field typed into, a choice, a tick or a button each count
// one.
type counted struct {
	*page
	n int
}

func (c *counted) fill(name, value string) { c.n++; c.page.fill(name, value) }
func (c *counted) click(name string)       { c.n++; c.page.click(name) }
func (c *counted) tick(name string)        { c.n++; c.page.tick(name) }

// beginUS sets up a US shop from an empty database.
func beginUS(p *counted, words string) {
	p.visit("/")
	p.sees("You are the first here")
	p.fill("Your name", "Odile")
	p.fill("A PIN of 6 digits, or a passphrase", "280193")
	p.fill("The same once more", "280193")
	p.click("Begin as the owner")
	p.sees("Set up the shop")
	p.fill("Name of the shop", "Tinglaze Kitchen")
	p.fill("Address, as it stands on the label", "7 Quern Row, Eddlesham, VT 05000")
	if words != "" {
		p.fill("or paste its recipe", words)
	}
	p.click("Begin")
}

// TestFromNothingToALabel: an empty US shop comes to a printed label of a typed product of five lines in at most forty
// clicks and fields.
func TestFromNothingToALabel(t *testing.T) {
	s := serve(t, false)
	p := &counted{page: open(t, s, 1280, 800)}
	p.speaks("en-US")
	beginUS(p,
		"Carrot and ginger dip\n\n1 lb carrots, peeled\n8 oz cider vinegar\n2 oz ginger\n4 fl oz canola oil\n1 tbsp sea salt")
	p.sees("Carrot, raw")
	p.click("Make it a draft")
	p.click("Open the draft")
	p.sees("On the label")
	p.click("Lock version 1")
	p.sees("A locked version never changes.")
	p.n += js[int](p.page,
		`(() => { const boxes = [...document.querySelectorAll('[role=dialog] input[type=checkbox]')]; boxes.forEach((x) => x.click()); return boxes.length })()`)
	p.click("Lock it for good")
	p.click("Make a batch")
	p.fill("Jars wanted", "4")
	p.click("Plan it")
	p.sees("4 jars planned")
	p.click("Take the delivery in")
	p.fill("Supplier", "Fallowfield Veg")
	p.n++
	p.page.pasteInto("What came in, row 1",
		"Carrot, raw\t2 lb\tC-1\nCider vinegar 5%\t1 gal\tV-2\nGinger root, raw\t1 lb\tG-3\n"+
			"Canola oil\t1 gal\tO-4\nFine sea salt\t3 lb\tS-5")
	p.sees("Take 5 lots in")
	p.click("Take 5 lots in")
	p.click("Back to the weigh sheet")
	p.sees("4 jars planned")
	for _, name := range js[[]string](p.page,
		`[...document.querySelectorAll('input[data-grams]')].map((e) => e.getAttribute('aria-label'))`) {
		target := js[string](p.page,
			fmt.Sprintf(`%s('input', %s).closest('tr').cells[2].childNodes[0].textContent.replace(/[^0-9.]/g, '')`,
				lookup, quote(name)))
		lot := fmt.Sprintf("%s('input', %s)", lookup, quote(strings.Replace(name, "Weighed grams of", "Lot of", 1)))
		p.until(lot+".placeholder !== ''", name+": a lot is proposed")
		p.fill(name, target)
		p.press(kb.Enter) // to the lot
		p.press(kb.Enter) // the one that is there
		p.press(kb.Enter) // written down
		p.until(fmt.Sprintf(`%s('input', %s)?.closest('tr')?.innerText.includes('✓') ?? false`, lookup, quote(name)),
			name)
	}
	p.click("All weighed: fill the jars")
	p.click("Record the filling")
	fullJars(p.page)
	p.sees("Is the meter good today?")
	p.sleepUntilTomorrow()
	p.n++ // the PIN of the next morning
	p.fill("Buffer 4.01", "174.5")
	p.fill("Buffer 7.00", "-1.2")
	p.press(kb.Enter)
	p.sees("is good:")
	for _, name := range []string{"first jar, reading 1", "first jar, reading 2", "last jar, reading 1",
		"last jar, reading 2"} {
		p.fill(name, "3.6")
	}
	p.click("Record the readings")
	p.click("Release 4 jars")
	p.click("Make its label")
	p.sees("on 190 ml round jar") // the one that the fill suits
	p.click("A small business")
	p.sees("15 hold")
	p.click("Print 4 labels")
	p.downloaded(".pdf")
	assert.LessOrEqual(t, p.n, 40)
}

// pasteInto pastes cells of a spreadsheet into a field.
func (p *page) pasteInto(name, cells string) {
	p.t.Helper()
	js[bool](p,
		fmt.Sprintf(`(() => { const e = %s('input', %s); e.focus(); const d = new DataTransfer(); d.setData('text/plain', %s);
		e.dispatchEvent(new ClipboardEvent('paste', {clipboardData: d, bubbles: true, cancelable: true})); return true })()`,
			lookup, quote(name), quote(cells)))
}

// sleepUntilTomorrow lets 25 hours pass for this shop, on its server and in its pages, and comes back to the page.
func (p *page) sleepUntilTomorrow() {
	p.t.Helper()
	const night = 25 * time.Hour
	p.app.Now = func() time.Time { return now().Add(night) }
	_, err := chromedp.Call(p.ctx, pagecdp.AddScriptToEvaluateOnNewDocument,
		pagecdp.AddScriptToEvaluateOnNewDocumentParams{Source: clockAhead(night)})
	require.NoError(p.t, err)
	there := js[string](p, "location.pathname")
	p.as("Odile")
	p.visit(there)
}

// speaks makes the browser one of that language.
func (p *page) speaks(language string) {
	p.t.Helper()
	_, err := chromedp.Call(p.ctx, emulation.SetUserAgentOverride, emulation.SetUserAgentOverrideParams{
		UserAgent: js[string](p, "navigator.userAgent"), AcceptLanguage: language})
	require.NoError(p.t, err)
}

// wordsOnlyIn are the words of one list that the other does not have: the shipped words and names of one English.
func wordsOnlyIn(t *testing.T, one, other string) []string {
	t.Helper()
	read := func(locale string) []string {
		raw, err := os.ReadFile("../web/src/tongue/words/" + locale + ".json")
		require.NoError(t, err)
		list := map[string]string{}
		require.NoError(t, json.Unmarshal(raw, &list))
		names, err := reference.Names()
		require.NoError(t, err)
		var out []string
		for _, text := range append(slices.Collect(maps.Values(list)), slices.Collect(maps.Values(names[locale]))...) {
			out = append(out, regexp.MustCompile(`\pL{4,}`).FindAllString(strings.ToLower(text), -1)...)
		}
		return out
	}
	common := append(read(other), "deseeded") // a step of the kitchen, said in both
	for _, g := range typicalNames(t) {
		common = append(common, g...)
	}
	var only []string
	for _, w := range read(one) {
		if !slices.Contains(common, w) && !slices.Contains(only, w) && !slices.Contains([]string{"used", "before"}, w) {
			only = append(only, w)
		}
	}
	return only
}

// typicalNames are the words of the shipped ingredients that are called the same in both.
func typicalNames(t *testing.T) [][]string {
	t.Helper()
	typical, err := reference.Ingredients()
	require.NoError(t, err)
	names, err := reference.Names()
	require.NoError(t, err)
	var out [][]string
	for _, g := range typical {
		if _, differs := names["en-US"][g.ID]; !differs {
			out = append(out, regexp.MustCompile(`\pL{4,}`).FindAllString(strings.ToLower(g.Name), -1))
		}
	}
	return out
}

// TestAUSShopSpeaksItsOwnTongue: on no screen of a US shop stands a word of the other English, a date of another form,
// or a sentence put together wrongly.
func TestAUSShopSpeaksItsOwnTongue(t *testing.T) {
	s := serve(t, false)
	p := &counted{page: open(t, s, 1280, 800)}
	p.speaks("en-US")
	beginUS(p,
		"Beet and cashew dip\n\n1 lb beets, boiled\n6 oz cider vinegar\n3 oz cashews\n1/2 cup canola oil\n1 tbsp sea salt")
	p.sees("weighed line")
	p.click("Make it a draft")
	p.click("Open the draft")
	p.sees("On the label")
	p.lock(1)
	p.click("Make a batch")
	p.fill("Jars wanted", "1")
	p.click("Plan it")
	p.sees("1 jar planned")
	theirs := wordsOnlyIn(t, "en-GB", "en-US")
	require.Contains(t, theirs, "labour")
	require.Contains(t, theirs, "aubergine")
	theirs = append(theirs, "colour", "flavour", "litre", "mould", "tinned", "pasteurised", "gb rules", "sulphite")
	found := []string{}
	for _, at := range []string{"/today", "/pantry/beetroot_cooked", "/pantry/chilli_raw", "/formulas",
		"/formulas/beet_and_cashew_dip", "/formulas/beet_and_cashew_dip/1?part=pack",
		"/formulas/beet_and_cashew_dip/1?part=words", "/formulas/beet_and_cashew_dip/1?part=trials",
		"/formulas/beet_and_cashew_dip/1?part=variants", "/formulas/beet_and_cashew_dip/1?part=versions", "/reader",
		"/reader/1", "/preparations/beetroot_raw.roast_and_peel", "/batches", "/batches/1/weigh", "/batches/1/fill",
		"/batches/1/read", "/batches/1/decide", "/jars", "/stock", "/stock/receive", "/allergens", "/keeping",
		"/labels", "/shop"} {
		p.visit(at)
		p.until("document.querySelector('h1') !== null && !document.body.innerText.includes('Fetching')", at)
		text := strings.ToLower(js[string](p.page,
			`[document.body.innerText, ...[...document.querySelectorAll('[placeholder],[aria-label],[title]')]
			.flatMap((e) => [e.placeholder, e.ariaLabel, e.title])].filter(Boolean).join('\n')`))
		for _, w := range theirs {
			if regexp.MustCompile(`(^|[^\pL])` + w + `($|[^\pL])`).MatchString(text) {
				found = append(found, at+": "+w)
			}
		}
		for _, wrong := range []string{`\b20\d\d-\d\d-\d\d\b`,
			`\b\d?\d (jan|feb|mar|apr|jun|jul|aug|sep|oct|nov|dec)\b`,
			`\b0\d:\d\d [ap]m`, `\b1[3-9]:\d\d\b`, `\b1 jars\b`, `\.\.[^.]`, `-0\.0 %`, `(\b\pL{4,}) first(first)`,
			`tree_nut`, `must be an integer`} {
			// the settings show both forms
			if hit := regexp.MustCompile(wrong).FindString(text); hit != "" && at != "/shop" {
				found = append(found, at+": "+hit)
			}
		}
	}
	assert.Empty(t, found)
}

// TestWhatIsTypedOnASheetIsNotMisread: an empty sheet begins in its first line, a figure with two readings is asked, of
// what cannot be read nothing is taken, and what has no price is the way to it.
func TestWhatIsTypedOnASheetIsNotMisread(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/formulas")
	p.click("Start a formula")
	p.fill("What will it be called?", "Leek spread")
	p.click("Open the sheet")
	p.until("document.activeElement?.dataset.cell === 'add'", "the first line to have the focus")
	p.press("Pumpkin, cooked")
	p.until("document.querySelector('[cmdk-item][data-selected=true]')?.innerText.startsWith('Pumpkin, cooked') ?? false",
		"the pantry to answer")
	p.press(kb.Enter)
	p.until("document.activeElement?.getAttribute('aria-label') === 'Grams of Pumpkin, cooked'", "its cell")
	cell := valueOf("Grams of Pumpkin, cooked")
	stored := func() float64 {
		v, err := p.app.Catalog.Sheet(context.Background(), formula.Ref{Formula: "leek_spread", Version: 1})
		require.NoError(t, err)
		if len(v.Version.Lines) == 0 {
			return -1 // the line itself is on its way
		}
		return v.Version.Lines[0].Grams.Float()
	}
	p.press("9 oxen" + kb.Enter)
	p.sees("“9 oxen” is not a mass: g, kg, oz or lb")
	assert.Eventually(t, func() bool { return stored() == 0 }, patience, 50*time.Millisecond, "no prefix is taken")
	p.press(kb.Escape)
	p.press("a", ctrl())
	p.press("1,432" + kb.Enter)
	p.sees("“1,432” can be read two ways")
	assert.Eventually(t, func() bool { return stored() == 0 }, patience, 50*time.Millisecond,
		"neither reading is taken unasked, nor what was typed on the way")
	p.click("Grams of Pumpkin, cooked: 1 432 g")
	p.until(cell+".replace(/\\s/g, '') === '1432.0'", "what was chosen")
	p.fill("Grams of Pumpkin, cooked", "2 lb")
	p.press(kb.Enter)
	p.until(cell+" === '907.185'", "two pounds in grams")
	p.click("Pumpkin, cooked") // in “No price for …”
	p.until("location.pathname === '/pantry/pumpkin_cooked'", "the page where its price is given")
}
