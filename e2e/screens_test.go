package e2e

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var shots = flag.String("shots", "", "folder for the pictures of the main views; empty takes none")

// screen is one view with what shows that it is ready.
type screen struct {
	name, path, ready string
	then              func(*page)
}

func screens() []screen {
	tab := func(name, ready string) func(*page) {
		return func(p *page) {
			p.click(name)
			p.sees(ready)
		}
	}
	costed := func(p *page) { p.sees("What a jar of it costs") }
	return []screen{
		{"today", "/today", "In the cold room", nil},
		{"pantry", "/pantry/miso_white", "a usable kg", nil},
		{"formulas", "/formulas", "15 products and components", nil},
		{"formula-sheet", "/formulas/carrot_miso_dressing", "On the label", nil},
		{"formula-pack", "/formulas/carrot_miso_dressing", "On the label", tab("Pack and cost", "Hands and kitchen")},
		{"formula-words", "/formulas/carrot_miso_dressing", "On the label",
			tab("Keeping and label words", "Own study at 5 °C")},
		{"formula-versions", "/formulas/carrot_miso_dressing", "On the label", tab("Versions", "What changed")},
		{"formula-trials", "/formulas/pea_pistachio_spread?part=trials", "Weigh with care: pH", nil},
		{"formula-variants", "/formulas/carrot_miso_dressing/3?part=variants", "declared, GB", nil},
		{"formula-group", "/formulas/pea_pistachio_spread", "Any of the group", nil},
		{"record-trial", "/formulas/pea_pistachio_spread?part=trials", "Weigh with care: pH",
			tab("Record a making", "How was it?")},
		{"recipes", "/reader", "Read so far", nil},
		{"reader", "/reader/2", "Weigh these three first", nil},
		{"reader-words", "/reader/2", "Weigh these three first", tab("Change the words", "Back to the reading")},
		{"preparations", "/preparations/lime_whole.zest_then_juice", "left over", nil},
		{"stock", "/stock?of=yogurt_strained", "worth", nil},
		{"stock-waiting", "/stock?show=waiting", "nobody has accepted it yet", nil},
		{"receive", "/stock/receive", "Came in on", nil},
		{"lot", "/lots/71", "What it went into", nil},
		{"jars", "/jars", "may leave", nil},
		{"cost", "/costs/carrot_miso_dressing/3", "What moves it", nil},
		{"cost-ask", "/costs/pea_pistachio_spread/2?jars=60", "What to ask", func(p *page) {
			p.click("Lime juice")
			p.sees("through")
			js[any](p, `document.querySelector('[aria-label="What to ask"]').scrollIntoView()`)
		}},
		{"cost-tried", "/costs/carrot_miso_dressing/4", "What moves it", func(p *page) {
			p.click("Try something")
			p.fill("by", "25")
			p.click("Try it")
			p.sees("Let go")
			p.click("Try something")
		}},
		{"price-file", "/pantry/sunflower_oil", "waits for its day", takePriceFile},
		{"pantry-pack", "/pantry/jar_round_190", "a piece", nil},
		{"jars-send", "/jars?send=1", "what ends first:", nil},
		{"parties", "/jars?who=1", "Saltings Deli", nil},
		{"batch-jars", "/batches/21/jars", "jars are out", nil},
		{"batches", "/batches", "23 in the book", nil},
		{"batch-fill", "/batches/21/fill", "none is short", costed},
		{"batch-record", "/batches/14/record", "Everything that happened", nil},
		{"records", "/records", "Follow a lot", nil},
		{"recall", "/recalls/1", "Look here", nil},
		{"recall-start", "/trace/lot/5", "Found in", tab("Start a recall", "A real recall")},
		{"trace-lot", "/trace/lot/5", "Found in", nil},
		{"trace-batch", "/trace/batch/14", "Found in", nil},
		{"plan", "/batches/22/plan", "What to get", nil},
		{"plan-wish", "/plan/pea_pistachio_spread/2?jars=96", "What to get", nil},
		{"devices", "/devices", "labels left", nil},
		{"rehearse", "/rehearse/carrot_miso_dressing/3", "Tare, so that", func(p *page) {
			p.tares()
			p.sees("Hold")
		}},
		{"batch-weigh", "/batches/20", "24 jars planned", nil},
		{"batch-read", "/batches/19", "First and last jar, twice each", costed},
		{"batch-decide", "/batches/5", "rejected", tab("✓ Decide", "Open again, on hold")},
		{"batch-infused", "/batches/23/fill", "Strained", nil},
		{"batch-vessels", "/batches/19/fill", "Made in", nil},
		{"allergens", "/allergens", "Gained and lost", nil},
		{"gained-and-lost", "/allergens/1", "In these versions", nil},
		{"looking-at-a-packet", "/pantry/red_pepper_roasted_jar?look=1", "What did you read", func(p *page) {
			p.fill("The list as the packet", "red peppers, water, wine vinegar, salt, whey powder, wheatflour, "+
				"lecithin. May contain walnuts.")
			p.sees("Its words leave open: soy or egg")
		}},
		{"before-a-lock", "/formulas/tamarind_date_dressing/2", "On the label",
			tab("Lock version 2", "A locked version never")},
		{"danger", "/formulas/slow_garlic_oil", "On the label", nil},
		{"keeping", "/keeping", "Plants in oil", nil},
		{"labels", "/labels", "190 × 48 mm", func(p *page) {
			p.until("[...document.querySelectorAll('li a')].every((a) => a.querySelector('svg image'))",
				"every label on its jar")
		}},
		{"label", "/labels/1?batch=14", "more that hold", nil},
		{"label-check", "/labels/4", "2 for you", nil},
		{"label-hold", "/labels/4?batch=19", "Only HOLD stickers", nil},
		{"shop", "/shop", "Words of our own", nil},
		{"backup", "/shop#backups", "There is none yet", func(p *page) {
			p.click("Make a backup now")
			p.sees("Take the last one away")
		}},
		{"call-back", "/batches/21", "Every jar comes back", nil},
		{"rested", "/batches/14", "released", func(p *page) {
			p.click("✓ Decide")
			p.click("What this rested on")
			p.sees("Kept on")
		}},
		{"printed", "/batches/21", "Every jar comes back", tab("What it said", "with the words of version 2")},
		{"history", "/pantry/horseradish_prepared", "a usable kg", tab("History", "rapeseed oil")},
		{"lock", "/formulas/beetroot_horseradish_dip?part=versions", "Versions",
			tab("What it rested on", "ingredients as they were")},
		{"attach", "/formulas/hazelnut_kale_pesto?part=words", "Documents that rules ask for",
			tab("Attach a document", "Why it is attached")},
		{"bench", "/bench/20", "Smoky lime yolk dressing", func(p *page) {
			p.ticks("first")
			p.stage("weigh")
			p.click("8 Rapeseed (canola) oil")
			p.scale("bench", "clear")
			p.tares()
			p.sees("Stop pouring at")
			p.scale("bench", "put 3012.4")
			p.sees("to go of 3 273.4 g")
			p.until(`/Take 3/.test(document.querySelector("footer").innerText.replace(/\u2009/g, ""))`,
				"a steady weight")
		}},
		{"bench-over", "/bench/20", "Smoky lime yolk dressing", func(p *page) {
			p.stage("weigh")
			p.click("8 Rapeseed (canola) oil")
			p.click("Type the weight instead")
			p.fill("Grams of Rapeseed", "3535")
			p.press(kb.Enter)
			p.stage("over")
		}},
		{"sign-in", "/today", "In the cold room", func(p *page) { // the last: nobody is signed in after it
			p.click("Ines, owner")
			p.click("Sign out")
			p.sees("Who is it?")
		}},
	}
}

// takePriceFile begins to take in a file as a supplier sends it.
func takePriceFile(p *page) {
	file := filepath.Join(p.t.TempDir(), "marl-mill-november.csv")
	require.NoError(p.t, os.WriteFile(file, []byte("Item;Pack Size;Net price;Valid from;Shelf\n"+
		"Miso, white;2 kg;22,40;20/11/2026;A1\nSunflower oil;5.000 ml;14,20;20/11/2026;A1\n"+
		"Pistachio kernels, shelled;1 kg;21,90;20/11/2026;B2\nTahini (sesame paste, no salt);3 kg;224,00;20/11/2026;B2\n"+
		"Rice vinegar 4.3%;6 x 750 ml;17,10;20/11/2026;C1\nMaple syrup;1 l;16,20;20/11/2026;C1\n"+
		"Sesame seed;1 box;12,40;20/11/2026;C1\n"), 0o600))
	p.do(chromedp.SetUploadFiles(chromedp.CSS(`input[aria-label="Price list file"]`), []string{file}))
	p.sees("can be read two ways")
}

// pictured are the views whose picture is kept.
var pictured = []string{"today", "pantry", "formula-sheet", "batch-read", "label", "keeping", "reader",
	"formula-trials", "batch-fill", "cost", "price-file", "trace-batch", "batch-record", "label-check", "recall",
	"plan",
	"bench", "bench-over", "backup"}

func show(p *page, s screen) {
	p.t.Helper()
	p.visit(s.path)
	p.ready(s)
}

// goTo shows a screen as a link inside the app does, without loading the app again.
func (p *page) goTo(s screen) {
	p.t.Helper()
	js[bool](p, fmt.Sprintf(`(history.pushState({}, "", %s), dispatchEvent(new PopStateEvent("popstate")), true)`,
		quote(s.path)))
	p.ready(s)
}

// ready waits until a screen shows what is its own, and brings it where it is looked at.
func (p *page) ready(s screen) {
	p.t.Helper()
	p.sees(s.ready)
	if s.then != nil {
		s.then(p)
	}
	p.until("document.fonts.status === 'loaded'", "the fonts")
}

// pageful is how many screens one page of the browser looks at: its time is bounded.
const pageful = 20

// TestEveryScreenLetsEverybodyInAndFits looks at each screen once: axe runs on it, and nothing of it is cut off at the
// right, at a desk and on a tablet.
func TestEveryScreenLetsEverybodyInAndFits(t *testing.T) {
	axe, err := os.ReadFile(filepath.Join("..", "web", "node_modules", "axe-core", "axe.min.js"))
	require.NoError(t, err)
	s := serve(t, true)
	var p *page
	for i, sc := range screens() {
		if i%pageful == 0 {
			p = open(t, s, 1280, 800)
			p.visit("/keeping") // from here on each screen is a step inside the app
			p.sees("Plants in oil")
			js[bool](p, string(axe)+"; true")
		}
		p.goTo(sc)
		p.keepsNobodyOut(sc.name)
		for _, size := range [][2]int64{{1024, 768}, {1280, 800}} {
			p.do(chromedp.EmulateViewport(size[0], size[1]))
			p.fits(fmt.Sprintf("%s at %d", sc.name, size[0]))
		}
	}
}

// keepsNobodyOut runs axe, which the page has loaded, on what it shows.
func (p *page) keepsNobodyOut(name string) {
	p.t.Helper()
	found, err := chromedp.Run(p.ctx,
		chromedp.Evaluate[[]string](`axe.run(document, {resultTypes: ['violations']}).then((r) => r.violations
			.filter((v) => v.impact === 'serious' || v.impact === 'critical')
			.map((v) => v.id + ': ' + v.nodes.slice(0, 3).map((n) => n.html.slice(0, 160)).join(' | ')))`,
			chromedp.EvalAwaitPromise))
	require.NoError(p.t, err)
	assert.Empty(p.t, found, "axe on %s", name)
}

// fits looks for what is cut off at the right, and for titles that are.
func (p *page) fits(name string) {
	p.t.Helper()
	_, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool](
		"new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(true))))",
		chromedp.EvalAwaitPromise))
	require.NoError(p.t, err, "it is drawn anew")
	wide := js[[]string](p, `[...document.querySelectorAll('main *')]
		.filter((e) => { const r = e.getBoundingClientRect(); return r.width > 0 && r.right > innerWidth + 1; })
		.filter((e) => !e.closest('.overflow-x-auto') && !e.ownerSVGElement && e.checkVisibility())
		.slice(0, 3).map((e) => e.tagName + ' ' + e.innerText?.slice(0, 60))`)
	assert.Empty(p.t, wide, name)
	cut := js[[]string](p, `[...document.querySelectorAll('h1, .bench-key')].filter((e) => e.scrollWidth > e.clientWidth + 1)
		.map((e) => e.innerText)`)
	assert.Empty(p.t, cut, "the title of %s, or a key", name)
}

// TestTheBenchAndTheDayFitATabletAndAPhone: Today and the readings are used away from the desk.
func TestTheBenchAndTheDayFitATabletAndAPhone(t *testing.T) {
	s := serve(t, true)
	for _, size := range [][2]int{{1024, 768}, {390, 844}} {
		p := open(t, s, size[0], size[1])
		for _, sc := range screens() {
			if sc.name == "today" || sc.name == "batch-read" {
				show(p, sc)
				assert.LessOrEqual(t, js[int](p,
					"Math.max(...[...document.querySelectorAll('main, main section, main aside')].map((e) => e.getBoundingClientRect().right))"), size[0], "%s at %v", sc.name, size)
			}
		}
	}
}

// TestATypedGramAsksForNothingButItsSheet reads from the browser which addresses a typed gram asked.
func TestATypedGramAsksForNothingButItsSheet(t *testing.T) {
	s := serve(t, true)
	p := open(t, s, 1280, 800)
	p.visit("/formulas/carrot_miso_dressing")
	p.sees("On the label")
	p.until(`['today', 'ingredients', 'formulas', 'shop', 'session'].every((a) =>
		performance.getEntriesByType('resource').some((e) => e.responseEnd > 0 && e.name.endsWith('/api/' + a)))`,
		"what the page asks for as it opens")
	before := p.rev()
	js[bool](p, "(performance.clearResourceTimings(), true)")
	p.fill("Grams of White miso", "75")
	p.press(kb.Enter)
	p.savedAfter(before)
	p.sees("White miso 72.0 to 75.0 g")
	asked := js[[]string](p,
		"performance.getEntriesByType('resource').map((e) => new URL(e.name).pathname).filter((a) => a.startsWith('/api/'))")
	assert.NotEmpty(t, asked)
	for _, address := range asked {
		assert.Equal(t, "/api/formulas/carrot_miso_dressing/versions/4", address)
	}
}

func TestTheSheetIsDrivenByKeyboard(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	p.visit("/formulas/carrot_miso_dressing")
	p.sees("On the label")
	active := func(name string) {
		p.t.Helper()
		p.until(fmt.Sprintf("document.activeElement?.getAttribute('aria-label') === %s", quote(name)), name+" in focus")
	}
	p.fill("Grams of Carrot, raw", "310")
	p.press(kb.Enter)
	active("Grams of Rice vinegar 4.3%")
	p.press(kb.ArrowDown)
	active("Grams of White miso")
	p.press(kb.ArrowUp)
	active("Grams of Rice vinegar 4.3%")
	p.press(kb.ArrowUp, chromedp.KeyModifiers(chromedp.ModifierAlt))
	p.until(`[...document.querySelectorAll('input[data-cell=grams]')][0].getAttribute('aria-label') === 'Grams of Rice vinegar 4.3%'`, "vinegar moved up")
	p.press("z", chromedp.KeyModifiers(chromedp.ModifierCtrl))
	p.until(`[...document.querySelectorAll('input[data-cell=grams]')][0].getAttribute('aria-label') === 'Grams of Carrot, raw'`, "the order undone")
	p.press("z", chromedp.KeyModifiers(chromedp.ModifierCtrl))
	p.until(fmt.Sprintf("%s('input', 'Grams of Carrot, raw').value === '300.0'", lookup), "the grams undone")
	js[bool](p,
		fmt.Sprintf(`(() => { const e = %s('input', 'Grams of Carrot, raw'); e.focus(); const d = new DataTransfer(); d.setData('text', '301\n236\n73');
		e.dispatchEvent(new ClipboardEvent('paste', {clipboardData: d, bubbles: true, cancelable: true})); return true })()`, lookup))
	p.until(fmt.Sprintf("%s('input', 'Grams of White miso').value === '73.0'", lookup), "the pasted column")
	js[bool](p, "(document.activeElement.blur(), true)")
	p.press("/")
	p.until("document.activeElement?.placeholder?.startsWith('Ingredient, formula') ?? false", "the finder in focus")
	js[bool](p, "(document.activeElement.select(), true)") // the driver types the shortcut's letter as well
	p.press("beetroot & horse")
	p.until(`document.querySelector('[cmdk-item][data-selected=true]')?.innerText.startsWith('Beetroot & horseradish dip') ?? false`, "what was looked for")
	p.press(kb.Enter)
	p.sees("Beetroot & horseradish dip")
	p.until("location.pathname === '/formulas/beetroot_horseradish_dip'", "its page")
}

func TestScreenshots(t *testing.T) {
	if *shots == "" {
		t.Skip("pictures are taken by make screenshots")
	}
	require.NoError(t, os.MkdirAll(*shots, 0o755))
	p := open(t, serve(t, true), 1280, 800)
	for _, sc := range screens() {
		if slices.Contains(pictured, sc.name) || os.Getenv("GALLIPOT_SHOTS") == "all" {
			show(p, sc)
			p.shot(filepath.Join(*shots, sc.name+".png"))
		}
	}
}
