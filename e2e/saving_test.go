package e2e

import (
	"database/sql"
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// valueOf is what stands in a field.
func valueOf(name string) string {
	return fmt.Sprintf("%s('input,textarea', %s)?.value", lookup, quote(name))
}

func ctrl() chromedp.KeyOption { return chromedp.KeyModifiers(chromedp.ModifierCtrl) }

// TestTwoTabsOnOneDraftKeepBothSides: what two people typed in different places is put together; in the same place both
// stand until one is chosen, and no key chooses by itself.
func TestTwoTabsOnOneDraftKeepBothSides(t *testing.T) {
	s := serve(t, true)
	one, two := open(t, s, 1280, 800), open(t, s, 1280, 800)
	for _, p := range []*page{one, two} {
		p.visit("/formulas/carrot_miso_dressing")
		p.sees("On the label")
	}
	type_ := func(p *page, name, grams string) {
		t.Helper()
		before := p.rev()
		p.fill("Grams of "+name, grams)
		p.press(kb.Enter)
		p.savedAfter(before)
	}
	type_(one, "White miso", "75")
	type_(two, "Fine sea salt", "9")
	two.until(valueOf("Grams of White miso")+" === '75.0'", "what the other tab typed")
	two.until("document.querySelector('[role=dialog]') === null", "no question")

	one.visit("/formulas/carrot_miso_dressing")
	one.sees("On the label")
	type_(one, "Fine sea salt", "8")
	two.until(valueOf("Grams of Fine sea salt")+" === '9.0'", "the stale figure")
	two.fill("Grams of Fine sea salt", "7")
	two.sees("Changed meanwhile")
	two.sees("Fine sea salt 7.0 g 8.0 g")
	assert.Equal(t, "H2", js[string](two, "document.activeElement.tagName"), "no button is the default")
	two.press(kb.Enter)
	two.sees("Keep mine")
	two.press(kb.Escape)
	two.until("document.querySelector('[role=dialog]') === null", "the dialog to close")
	assert.Equal(t, "7.0", js[string](two, valueOf("Grams of Fine sea salt")), "Esc keeps what was typed")
	two.sees("is not stored")
	two.click("Look at both")
	two.click("Take theirs")
	two.until(valueOf("Grams of Fine sea salt")+" === '8.0'", "the other tab's grams")

	one.lock(4)
	two.fill("Grams of Fine sea salt", "7")
	two.sees("Locked meanwhile")
	two.click("Put mine into the next draft")
	two.until("location.pathname.endsWith('/5') && "+valueOf("Grams of Fine sea salt")+" === '7.0'",
		"version 5 with what was typed")
}

// TestTheStandardReachesTheOpenSheet: “Make it the draft” changes the sheet that is open, and undo brings back what
// stood.
func TestTheStandardReachesTheOpenSheet(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/formulas/pea_pistachio_spread?part=trials")
	p.sees("its makings around the standard")
	p.click("Make it the draft")
	p.until("location.pathname.endsWith('/3')", "the draft of the standard")
	p.click("Sheet")
	p.sees("1 000.0")
	p.click("Trials")
	p.fill("Standard batch", "2000")
	p.sees("2 000.0")
	p.click("Make it the draft")
	p.sees("The standard is draft 3 now.")
	p.click("Sheet")
	p.until(`[...document.querySelectorAll('section[aria-label="Lines of the formula"]')].some((e) => e.innerText.replace(/\s/g, ' ').includes('2 000.0'))`,
		"the standard on the open sheet")
	// the next edit stands beside the standard, and does not take it back
	peas := js[string](p, valueOf("Grams of Green peas, cooked"))
	at := p.rev()
	p.fill("Grams of Fine sea salt", "17")
	p.press(kb.Enter)
	p.savedAfter(at)
	p.visit("/formulas/pea_pistachio_spread/3")
	p.until(valueOf("Grams of Green peas, cooked")+" === "+quote(peas), "the standard, stored")
	assert.Equal(t, "17.0", js[string](p, valueOf("Grams of Fine sea salt")))
}

// TestUndoBelongsToWhatHasTheFocus: Ctrl+Z in Find or in a note changes no gram.
func TestUndoBelongsToWhatHasTheFocus(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/formulas/carrot_miso_dressing")
	p.sees("On the label")
	at := p.rev()
	p.fill("Grams of Water", "97")
	p.press(kb.Enter)
	p.savedAfter(at)
	p.fill("Note on Water", "from the tap")
	p.press("z", ctrl())
	assert.Equal(t, "97.0", js[string](p, valueOf("Grams of Water")))
	js[bool](p, "(document.activeElement.blur(), true)")
	p.press("/")
	p.until("document.activeElement?.placeholder?.startsWith('Ingredient, formula') ?? false", "the finder")
	p.press("carr")
	p.press("z", ctrl())
	p.press(kb.Escape)
	p.until("document.querySelector('[role=dialog]') === null", "the finder closed")
	assert.Equal(t, "97.0", js[string](p, valueOf("Grams of Water")))
	js[bool](p, "(document.activeElement.blur(), true)")
	p.press("z", ctrl())
	if js[string](p, valueOf("Grams of Water")) == "97.0" { // the note was the last edit of the sheet
		p.press("z", ctrl())
	}
	p.until(valueOf("Grams of Water")+" !== '97.0'", "the sheet's own undo")
}

// TestALongColumnDropsNothing: more rows than lines, and none of it is taken, in words.
func TestALongColumnDropsNothing(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/formulas/carrot_miso_dressing")
	p.sees("On the label")
	paste := func(text string) {
		js[bool](p,
			fmt.Sprintf(`(() => { const e = %s('input', 'Grams of Sunflower oil'); e.focus(); const d = new DataTransfer(); d.setData('text', %s);
		e.dispatchEvent(new ClipboardEvent('paste', {clipboardData: d, bubbles: true, cancelable: true})); return true })()`, lookup, quote(text)))
	}
	before := js[string](p, valueOf("Grams of Sunflower oil"))
	paste("250\n12\n13")
	p.sees("The column has 3 rows and one line stands from here on: none of it was taken")
	assert.Equal(t, before, js[string](p, valueOf("Grams of Sunflower oil")))
	assert.Equal(t, "250\n12\n13", js[string](p, valueOf("Pasted, and not on the sheet")))
	p.click("Batches")
	p.sees("Pasted rows. Leaving lets it go.")
	p.click("Stay here")
	p.sees("none of it was taken")
}

// TestNothingTypedOnTheWeighSheetIsLost: leaving a row writes it down, and what cannot be written down yet is still
// there after another step and a reload.
func TestNothingTypedOnTheWeighSheetIsLost(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/batches/20/weigh")
	p.sees("jars planned")
	rows := js[[]string](p,
		`[...document.querySelectorAll('input[data-grams]')].filter((e) => !e.value && !e.readOnly).map((e) => e.getAttribute('aria-label').replace('Weighed grams of ', ''))`)
	require.NotEmpty(t, rows)
	first := rows[0]
	target := js[string](p, fmt.Sprintf(`%s('input', %s).closest('tr').cells[2].innerText.replace(/[^0-9.]/g, '')`,
		lookup,
		quote("Weighed grams of "+first)))
	p.fill("Weighed grams of "+first, target)
	p.press(kb.Tab) // to the lot
	p.press(kb.Tab) // to the choice of lots
	p.click("2 Fill")
	p.sees("Jars filled")
	p.fill("Set aside", "3")
	p.click("1 Weigh")
	p.until(valueOf("Weighed grams of "+first)+" > ''", "the grams that were typed")
	p.until(fmt.Sprintf(`%s('input', %s)?.closest('tr')?.innerText.includes('✓') ?? false`, lookup,
		quote("Weighed grams of "+first)), "that it is written down")

	p.fill("Weighed grams of "+first, "not a weight")
	p.press(kb.Tab)
	p.sees("“not a weight” is not a mass: g, kg, oz or lb")
	p.sees("one row is not stored yet")
	warned := p.warned
	p.visit("/batches/20/fill")
	p.until(valueOf("Set aside")+" === '3'", "what was typed before the filling was recorded")
	assert.Greater(t, p.warned, warned, "the browser asks before words that are not stored go")
	p.click("1 Weigh")
	p.until(valueOf("Weighed grams of "+first)+" === 'not a weight'", "what is still to be put right")
	js[bool](p, "(history.back(), true)")
	p.sees("Jars filled")
}

// TestTwoWindowsOnOneWeighSheet: what somebody else wrote down is taken in where nothing is typed, and never written
// over unasked where something is.
func TestTwoWindowsOnOneWeighSheet(t *testing.T) {
	s := serve(t, true)
	one, two := open(t, s, 1280, 800), open(t, s, 1280, 800)
	for _, p := range []*page{one, two} {
		p.visit("/batches/20/weigh")
		p.sees("jars planned")
	}
	name := js[string](one,
		`[...document.querySelectorAll('input[data-grams]')].find((e) => !e.value && !e.readOnly).getAttribute('aria-label')`)
	again := func(p *page) {
		js[bool](p,
			"(window.dispatchEvent(new Event('visibilitychange')), document.dispatchEvent(new Event('visibilitychange')), true)")
	}
	two.fill(name, "11")
	one.fill(name, "12")
	one.press(kb.Enter)
	one.press(kb.Enter)
	one.press(kb.Enter)
	one.until(fmt.Sprintf(`%s('input', %s)?.closest('tr')?.innerText.includes('✓') ?? false`, lookup, quote(name)),
		"written down in the first")
	require.True(t, two.comes(func() bool { // what a page has read counts as fresh for two seconds
		again(two)
		return js[bool](two, `document.body.innerText.includes("Written down meanwhile by Ines")`)
	}), "what was written meanwhile")
	assert.Equal(t, "11", js[string](two, valueOf(name)), "what is typed stands")
	two.press(kb.Enter)
	two.sees("Typed here: 11")
	two.click("Theirs stands")
	two.until(valueOf(name)+" === '12'", "the other window's weighing")
}

// TestTheServerGoesAndComesBack: typing goes on, is said not to be stored, and is stored once the server is back.
func TestTheServerGoesAndComesBack(t *testing.T) {
	s := serve(t, true)
	p := open(t, s, 1280, 800)
	p.quiet = true // a browser writes failed requests into its console
	p.visit("/formulas/carrot_miso_dressing")
	p.sees("On the label")
	before := p.rev()
	s.stop()
	p.click("Trials") // what is looked at says so too
	p.sees("Gallipot does not answer.")
	p.click("Sheet")
	p.fill("Grams of White miso", "75")
	p.press(kb.Enter)
	p.sees("Gallipot does not answer. What you typed is kept here and sent as soon as it does: Carrot & miso dressing, version 4.")
	p.fill("Grams of Water", "96")
	p.press(kb.Enter)
	p.click("Pack and cost")
	p.sees("Gallipot does not answer.")
	s.start(t)
	p.click("Try now")
	p.until("!document.body.innerText.includes('Gallipot does not answer')", "the word that it is stored")
	p.click("Sheet")
	p.savedAfter(before)
	p.visit("/formulas/carrot_miso_dressing")
	p.until(valueOf("Grams of White miso")+" === '75.0'", "what was typed while it was away")
	assert.Equal(t, "96.0", js[string](p, valueOf("Grams of Water")))
}

// TestAFullDiskIsNamed: what is weighed and typed while the database has no room says why it waits, and is stored once
// there is room.
func TestAFullDiskIsNamed(t *testing.T) {
	s := serve(t, true)
	p, id := begins(t, s)
	line := s.line(t, id, 1, "Green peas")
	db, err := sql.Open("pgx", s.address)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec(`CREATE FUNCTION full_disk() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
			RAISE EXCEPTION 'could not extend file: No space left on device' USING ERRCODE = 'disk_full'; END $$;
		CREATE TRIGGER full_disk BEFORE INSERT ON batch_entries EXECUTE FUNCTION full_disk();
		CREATE TRIGGER full_disk BEFORE UPDATE ON versions EXECUTE FUNCTION full_disk()`)
	require.NoError(t, err)
	p.click("Type the weight instead")
	p.fill("Grams of Green peas", line.Now.String())
	p.do(chromedp.KeyEvent("\r"))
	p.sees("1 kept here, not safe yet: the disk is full")

	two := open(t, s, 1280, 800)
	two.quiet = true // a browser writes failed requests into its console
	two.visit("/formulas/carrot_miso_dressing")
	before := two.rev()
	two.fill("Grams of White miso", "75")
	two.press(kb.Enter)
	two.sees("The disk of the database is full. What you typed is kept here and stored as soon as there is room: " +
		"Carrot & miso dressing, version 4.")

	_, err = db.Exec("DROP FUNCTION full_disk() CASCADE")
	require.NoError(t, err)
	two.click("Try now")
	two.until("!document.body.innerText.includes('is full')", "it to be stored")
	two.savedAfter(before)
	p.sees("all is safe")
	b, err := s.app.Production.Batch(asOwner(), id)
	require.NoError(t, err)
	assert.Equal(t, "capture", b.Entries[len(b.Entries)-1].Kind())
}

// TestADoubleClickPlansOneBatch: the button is busy while it makes one.
func TestADoubleClickPlansOneBatch(t *testing.T) {
	s := serve(t, true)
	p := open(t, s, 1280, 800)
	count := func() int {
		return js[int](p,
			`(() => { const x = new XMLHttpRequest(); x.open('GET', '/api/batches', false); x.send(); return JSON.parse(x.responseText).all })()`)
	}
	p.visit("/formulas/carrot_miso_dressing/3")
	p.click("Make a batch")
	p.fill("Jars wanted", "12")
	before := count()
	js[bool](p,
		`(() => { const b = [...document.querySelectorAll('button')].find((b) => b.innerText === 'Plan it'); b.click(); b.click(); b.click(); return true })()`)
	p.sees("12 jars planned")
	assert.Equal(t, before+1, count())
}

// TestAWeightWaitsForWhoTookIt: what Ines took while nothing answered is not sent as Bram, who signs in next; it is
// sent when she is back, on whichever screen.
func TestAWeightWaitsForWhoTookIt(t *testing.T) {
	s := serve(t, true)
	p, id := begins(t, s)
	line := s.line(t, id, 1, "Green peas")
	s.stop()
	p.click("Type the weight instead")
	p.fill("Grams of Green peas", line.Now.String())
	p.do(chromedp.KeyEvent("\r"))
	p.sees("1 kept here, not safe yet")
	p.as("Bram")
	s.start(t)
	p.visit("/batches")
	p.sees("it waits here for Ines")
	b, err := s.app.Production.Batch(asOwner(), id)
	require.NoError(t, err)
	for _, e := range b.Entries {
		assert.NotEqual(t, "capture", e.Kind(), "nothing of hers is written as his")
	}
	p.as("Ines")
	p.visit("/batches")
	require.Eventually(t, func() bool {
		b, err := s.app.Production.Batch(asOwner(), id)
		require.NoError(t, err)
		last := b.Entries[len(b.Entries)-1]
		return last.Kind() == "capture" && last.By == "Ines"
	}, patience, 50*time.Millisecond, "sent as hers, once she is back")
	p.until(`Object.keys(localStorage).every((k) => !k.startsWith("outbox "))`, "nothing waits any more")
}
