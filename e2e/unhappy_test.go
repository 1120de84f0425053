package e2e

import (
	"context"
	"fmt"
	"os/exec"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/people"
	"gallipot/internal/demo"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTwoTabsOnOneIngredientKeepBothSides(t *testing.T) {
	s := serve(t, true)
	one, two := open(t, s, 1280, 800), open(t, s, 1280, 800)
	for _, p := range []*page{one, two} {
		p.visit("/pantry/lime_juice")
		p.sees("a usable kg")
	}
	one.fill("Usable", "90")
	one.press(kb.Tab)
	one.sees("90 % usable")
	// another field: both are kept, and neither asks
	two.fill("Note", "from the second tab")
	two.press(kb.Tab)
	two.until(fmt.Sprintf("%s('input', 'Usable')?.value === '90'", lookup), "what the other tab typed")
	// the same field: both sides stand until one is chosen
	one.fill("Usable", "91")
	one.press(kb.Tab)
	one.sees("91 % usable")
	two.fill("Usable", "92")
	two.press(kb.Tab)
	two.sees("Changed meanwhile")
	two.sees("usable percent 92 91")
	two.click("Keep mine")
	two.until("!document.querySelector('[role=dialog]')", "the dialog to close")
	two.sees("92 % usable")
	require.Eventually(t, func() bool { // the dialog closes before the answer is there
		g, err := s.app.Catalog.Ingredient(context.Background(), "lime_juice")
		return err == nil && g.Note == "from the second tab"
	}, patience, 50*time.Millisecond)
	two.visit("/pantry/lime_juice")
	two.until(fmt.Sprintf("%s('input', 'Note')?.value === 'from the second tab'", lookup), "what was kept")
}

func TestASupplierListIsReadAsItIsTyped(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/pantry/miso_white")
	p.sees("a usable kg")
	p.fill("Supplier's ingredient list, GB wording", "soybeans; rice (white; salt")
	p.sees("this bracket is never closed")
	p.press(")")
	p.sees("2 entries: soybeans, rice (2)")
	p.fill("Allergens, US", "tree_nut")
	p.press(kb.Tab)
	p.sees("for nuts, fish and cereals add the kind")
	p.visit("/pantry/miso_white")
	p.until(fmt.Sprintf("%s('input', 'Allergens, US')?.value.startsWith('soy') ?? false", lookup),
		"the wrong code was not stored")
}

func TestALabelThatDoesNotFitSaysSoAndHoldPrintsHold(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/labels/1?batch=14")
	p.sees("more that hold")
	p.click("Printed on: Roll, 190 × 48 mm")
	p.fill("Paper", "a size of its own")
	p.sees("printed on single")
	p.press(kb.Escape)
	p.click("Jar and size: 190 ml round jar, label 190 × 48 mm")
	p.fill("High", "30")
	p.press(kb.Enter)
	p.sees("mm too tall at the least legal type")
	p.sees("what is tinted lies beyond the paper")
	p.press(kb.Escape)
	p.until(fmt.Sprintf("%s('button', 'Print 58 labels')?.disabled ?? false", lookup), "printing to be off")
	p.click("Jar and size: 190 ml round jar, label 190 × 30 mm")
	p.fill("High", "abc")
	p.sees("“abc” is not a length: mm, cm or in")
	p.fill("High", "5")
	p.press(kb.Enter)
	p.sees("a label side lies between 20 and 300 mm")

	p.visit("/labels/4?batch=19")
	p.sees("Only HOLD stickers")
	p.sees("2 for you")
	p.click("Nothing else")
	p.sees("1 for you")
	p.click("Quantities of what is named: ask again")
	p.sees("2 for you")
	p.fill("Labels to print", "2")
	p.click("Print 2 HOLD stickers")
	text, err := exec.Command("pdftotext", p.downloaded(".pdf"), "-").Output()
	require.NoError(t, err)
	assert.Contains(t, string(text), "HOLD")
	assert.NotContains(t, string(text), "Use by")
}

func TestAnOutOfDateLabelShowsTheWordsThatChanged(t *testing.T) {
	s := serve(t, true)
	p := open(t, s, 1280, 800)
	labels, err := s.app.Release.Labels(context.Background())
	require.NoError(t, err)
	came := map[string]string{"beetroot_horseradish_dip": "rapeseed oil,", "hazelnut_kale_pesto": "rennet) (egg),"}
	stale := 0
	for _, l := range labels {
		if l.State == "current" {
			continue
		}
		stale++
		p.visit(fmt.Sprintf("/labels/%d", l.ID))
		p.sees("What changed since the label was confirmed")
		assert.Equal(t, came[l.Formula], js[string](p, "document.querySelector('ins').innerText"))
		p.sees("Send to label printer") // it comes last, and moves its neighbour
		p.click("Bring the words up to date")
		p.sees("The label has the formula's words now.")
		p.until("!document.body.innerText.includes('What changed since')", "the difference to go")
	}
	assert.Equal(t, len(came), stale, "labels of the demo that are out of date")
}

func TestRejectingNeedsAReason(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/batches/19")
	p.sees("First and last jar, twice each")
	p.click("4 Decide")
	p.click("Reject")
	p.sees("give the reason")
	p.fill("Reason", "A lid was found open.")
	p.click("Reject")
	p.sees("Rejected by Ines: A lid was found open.")
	p.sees("No date: the batch is rejected.")
}

// TestALongBookKeepsItsPlace pages through more batches than a list shows at once, on a tablet, with one scroll bar.
func TestALongBookKeepsItsPlace(t *testing.T) {
	s := serve(t, true)
	ref := formula.Ref{Formula: "beetroot_horseradish_dip", Version: 2}
	for n := range 60 {
		made := day.Of(now().AddDate(0, 0, -100-n))
		_, err := s.app.Production.PlanBatch(asOwner(), production.PlanAsk{Ref: ref, Jars: 12, MadeOn: made})
		require.NoError(t, err)
	}
	p := open(t, s, 820, 1180)
	p.visit("/batches")
	p.sees("83 in the book")
	rows := `document.querySelectorAll("tbody tr").length`
	newest := js[string](p, `document.querySelector("tbody tr a").textContent`)
	assert.Equal(t, 50, js[int](p, rows))
	p.click("Show older batches")
	p.until(rows+" === 83", "the older batches")
	assert.Equal(t, newest, js[string](p, `document.querySelector("tbody tr a").textContent`), "the newest stay on top")
	assert.Positive(t, js[int](p, `document.querySelector("main").scrollTop`), "the page stays where it was")
	oneBar := `document.documentElement.scrollHeight <= innerHeight && document.querySelector("main").scrollWidth <= document.querySelector("main").clientWidth`
	assert.True(t, js[bool](p, oneBar))
	p.visit("/today")
	p.sees("things need a hand")
	assert.True(t, js[bool](p, oneBar))
}

// TestALongNameHidesNothing: the days left and the lot stay in sight, and a batch says at the bench what it is.
func TestALongNameHidesNothing(t *testing.T) {
	s := serve(t, true)
	long := strings.Repeat("Slow-blended carrot and miso dressing with ginger ", 2)
	require.NoError(t, s.app.Catalog.RenameFormula(asOwner(), "carrot_miso_dressing", long, false))
	for _, width := range []int{1280, 820} {
		p := open(t, s, width, 1180)
		p.visit("/today")
		p.sees("In the cold room")
		hidden := js[[]string](p,
			`[...document.querySelectorAll('main li span')].filter((e) => e.getBoundingClientRect().right > innerWidth)
			.map((e) => e.innerText)`)
		assert.Empty(t, hidden, "at %d", width)
		assert.Empty(t, js[[]string](p,
			`[...document.querySelectorAll('main section[aria-label="What needs a hand"] span')]
			.filter((e) => e.scrollWidth > e.clientWidth + 1 && e.clientWidth > 1 && getComputedStyle(e).overflow !== 'visible').map((e) => e.innerText)`))
		p.visit("/batches/14")
		p.sees("lot ")
		if width == 820 {
			assert.True(t, js[bool](p,
				`document.querySelector("h1").scrollWidth <= document.querySelector("h1").clientWidth`))
		}
	}
}

// asOwner is a context in which the demo's owner acts.
func asOwner() context.Context {
	return kernel.As(context.Background(), people.Person{Name: demo.Owner(), Role: people.Owner})
}

// TestASecondEnterWritesNothingTwice: two Enters before the answer are one weighing, and no clash with oneself.
func TestASecondEnterWritesNothingTwice(t *testing.T) {
	s := serve(t, true)
	p := open(t, s, 1280, 800)
	p.visit("/batches/20")
	p.sees("24 jars planned")
	lot := lookup + "('input', 'Lot of Mustard powder')"
	p.until(lot+".placeholder !== ''", "a lot to be proposed")
	p.fill("Weighed grams of Mustard powder", "56.2")
	p.press(kb.Enter)
	p.press(kb.Enter)
	p.until(lot+".value !== ''", "a lot to be taken")
	before, err := s.app.Production.Batch(asOwner(), 20)
	require.NoError(t, err)
	js[bool](p, fmt.Sprintf(`[1, 2, 3].forEach(() => %s.dispatchEvent(new KeyboardEvent('keydown',
		{key: 'Enter', bubbles: true, cancelable: true}))) === undefined`, lot))
	p.sees("✓ Ines")
	after, err := s.app.Production.Batch(asOwner(), 20)
	require.NoError(t, err)
	assert.Len(t, after.Entries, len(before.Entries)+1)
	assert.NotContains(t, js[string](p, "document.querySelector('main').innerText"), "weighed this line meanwhile")
}
