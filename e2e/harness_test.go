// Package e2e drives the app in a real browser, the way a maker would.
package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"gallipot/internal/api"
	"gallipot/internal/app"
	"gallipot/internal/backup"
	"gallipot/internal/core/pantry"
	"gallipot/internal/demo"
	"gallipot/internal/device"
	"gallipot/internal/reference"
	"gallipot/internal/store"
	"gallipot/internal/testdb"
	"gallipot/web"

	"github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	pagecdp "github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { testdb.Main(m, closeBrowser) }

// patience is how long a condition may take before the test fails.
const patience = 20 * time.Second

// haste is how many times faster than real ones the stand-ins of the devices move.
const haste = 5

// The journeys' clock begins at noon of a fixed day, on the server and in the pages, so that no day changes under a
// test.
var (
	noon  = time.Date(2026, 11, 25, 12, 0, 0, 0, time.Local)
	shift = time.Until(noon)
)

func now() time.Time { return time.Now().Add(shift) }

// clockOfPages makes a page's clock the journeys' own.
func clockOfPages() string { return clockAhead(shift) }

// clockAhead makes a page's clock run ahead of the one it has.
func clockAhead(by time.Duration) string {
	return fmt.Sprintf(`(() => { const Wall = Date, shift = %d;
		globalThis.Date = class extends Wall { constructor(...a) { if (a.length) super(...a); else super(Wall.now() + shift) } static now() { return Wall.now() + shift } } })()`,
		by.Milliseconds())
}

var seeded, shown testdb.Filled

func seed(s *store.Store) error {
	typical, err := reference.Ingredients()
	if err != nil {
		return err
	}
	return app.New(s, now, pantry.Typical{}).Catalog.Seed(context.Background(), typical)
}

func fillDemo(s *store.Store) error {
	typical, err := reference.Kitchen()
	if err != nil {
		return err
	}
	if err := seed(s); err != nil {
		return err
	}
	return demo.Load(context.Background(), app.New(s, now, typical))
}

// site is a served app.
type site struct {
	app     *app.App
	base    string
	handler http.Handler
	server  *httptest.Server
	address string // of its database, for the role that owns it
}

// stop takes the server away, start brings it back under the same address.
func (s *site) stop() { s.server.Close() }

func (s *site) start(t *testing.T) {
	t.Helper()
	var listener net.Listener
	require.Eventually(t, func() (ok bool) { // the port may linger for a moment
		var err error
		listener, err = net.Listen("tcp", strings.TrimPrefix(s.base, "http://"))
		return err == nil
	}, patience, 50*time.Millisecond)
	s.server = httptest.NewUnstartedServer(s.handler)
	require.NoError(t, s.server.Listener.Close())
	s.server.Listener = listener
	s.server.Start()
	t.Cleanup(s.server.Close)
}

// serve serves a shop with a database of its own. Journeys run two at a time.
func serve(t testing.TB, withDemo bool) site {
	t.Helper()
	if x, ok := t.(*testing.T); ok {
		x.Parallel()
	}
	var s *store.Store
	var address string
	if withDemo {
		s, address = shown.Beside(t, fillDemo)
	} else {
		s, address = seeded.Beside(t, seed)
	}
	typical, err := reference.Kitchen()
	require.NoError(t, err)
	a := app.New(s, now, typical)
	a.Production.StandIns, a.Production.Instruments = true, device.NewHubAt(haste)
	a.Office.Keeper = shelf{backup.Keeper{URL: address, Dir: t.TempDir()}}
	h, err := api.New(a, web.Files(), api.Options{})
	require.NoError(t, err)
	server := httptest.NewServer(h)
	t.Cleanup(server.Close)
	return site{a, server.URL, h, server, address}
}

// shelf keeps backups where the test does, and says it was where a shop would.
type shelf struct{ backup.Keeper }

func (shelf) Folder() string { return "/srv/gallipot/backups" }

// browser is the one Chromium of this test binary; each test has a context of its own in it.
var (
	browserOnce sync.Once
	browserCtx  context.Context
	browserErr  error
	browserEnd  []context.CancelFunc
)

func theBrowser(t testing.TB) context.Context {
	t.Helper()
	browserOnce.Do(func() {
		ctx, stop := chromedp.NewExecAllocator(context.Background(), chromedp.Headless, chromedp.NoFirstRun,
			chromedp.DisableGPU, chromedp.NoSandbox, chromedp.ExecPath("chromium-headless-shell"),
			chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-component-update", true),
			chromedp.Flag("disable-quic", true),
			chromedp.Flag("disable-sync", true), chromedp.Flag("hide-scrollbars", true),
			chromedp.Flag("force-prefers-reduced-motion", true),
			chromedp.Flag("disable-background-timer-throttling", true),
			chromedp.Flag("disable-renderer-backgrounding", true),
			chromedp.Flag("disable-backgrounding-occluded-windows", true), chromedp.Flag("lang", "en-GB"))
		var end context.CancelFunc
		browserCtx, end = chromedp.NewContext(ctx)
		browserEnd = []context.CancelFunc{end, stop}
		browserErr = chromedp.Do(browserCtx)
	})
	require.NoError(t, browserErr)
	return browserCtx
}

func closeBrowser() {
	for _, end := range browserEnd {
		end()
	}
}

// page is a tab of the browser.
type page struct {
	t         testing.TB
	ctx       context.Context
	app       *app.App
	base      string
	downloads string
	mu        sync.Mutex
	errors    []string
	quiet     bool // the console may complain: the server is away on purpose
	warned    int  // how often the browser asked before leaving
}

// open opens a tab in a browser context of its own; console errors are collected from before the first page and fail
// the test at its end.
func open(t testing.TB, s site, width, height int) *page {
	t.Helper()
	ctx, end := chromedp.NewContext(theBrowser(t), chromedp.WithNewBrowserContext())
	t.Cleanup(end)
	ctx, cancel := context.WithTimeout(ctx, 10*time.Minute)
	t.Cleanup(cancel)
	p := &page{t: t, ctx: ctx, app: s.app, base: s.base, downloads: t.TempDir()}
	require.NoError(t, chromedp.Listen(ctx, func(ev any) {
		p.mu.Lock()
		defer p.mu.Unlock()
		switch e := ev.(type) {
		case *runtime.EventConsoleAPICalled:
			if e.Type == "error" {
				p.errors = append(p.errors, fmt.Sprint(consoleText(e)))
			}
		case *runtime.EventExceptionThrown:
			p.errors = append(p.errors, e.ExceptionDetails.Text)
		case *pagecdp.EventJavascriptDialogOpening:
			p.warned++
			go func() { // "leave with words that are not stored?": the journeys leave
				_, _ = chromedp.Call(ctx, pagecdp.HandleJavaScriptDialog,
					pagecdp.HandleJavaScriptDialogParams{Accept: true})
			}()
		}
	}))
	p.do(chromedp.EmulateViewport(int64(width), int64(height)))
	p.speaks("en-GB")
	_, err := chromedp.Call(ctx, pagecdp.AddScriptToEvaluateOnNewDocument,
		pagecdp.AddScriptToEvaluateOnNewDocumentParams{Source: clockOfPages()})
	require.NoError(t, err)
	_, err = chromedp.Call(ctx, browser.SetDownloadBehavior,
		browser.SetDownloadBehaviorParams{Behavior: browser.SetDownloadBehaviorBehaviorAllow,
			BrowserContextID: chromedp.FromContext(ctx).BrowserContextID, DownloadPath: p.downloads})
	require.NoError(t, err)
	t.Cleanup(func() {
		p.mu.Lock()
		defer p.mu.Unlock()
		if !p.quiet {
			require.Empty(t, p.errors, "the console stays clean")
		}
	})
	if people, err := s.app.Office.People(ctx); err == nil && len(people) > 0 {
		p.as(people[0].Name)
	}
	return p
}

// as signs somebody in, in the place of whoever was: the next page that is visited is theirs.
func (p *page) as(name string) {
	p.t.Helper()
	once, err := p.app.Office.SingleSignIn(p.ctx, name)
	require.NoError(p.t, err)
	token, err := p.app.Office.UseSingleSignIn(p.ctx, once)
	require.NoError(p.t, err)
	yes := true
	_, err = chromedp.Call(p.ctx, network.SetCookie,
		network.SetCookieParams{Name: api.CookieName, Value: token, URL: p.base, HTTPOnly: &yes})
	require.NoError(p.t, err)
}

func consoleText(e *runtime.EventConsoleAPICalled) string {
	raw, err := json.Marshal(e.Args)
	if err != nil {
		return err.Error()
	}
	return string(raw)
}

func (p *page) do(steps ...chromedp.Action[chromedp.Void]) {
	p.t.Helper()
	require.NoError(p.t, chromedp.Do(p.ctx, steps...))
}

func (p *page) visit(path string) {
	p.t.Helper()
	p.do(chromedp.Navigate(p.base + path))
}

// js evaluates an expression.
func js[T any](p *page, expression string) T {
	p.t.Helper()
	v, err := chromedp.Run(p.ctx, chromedp.Evaluate[T](expression))
	require.NoError(p.t, err, expression)
	return v
}

// until waits for an expression to become true.
func (p *page) until(expression, what string) {
	p.t.Helper()
	if p.comes(func() bool { return js[bool](p, expression) }) {
		return
	}
	p.shot(filepath.Join(os.TempDir(), "gallipot-e2e-failed.png"))
	p.t.Fatalf("waited in vain for %s; the page says:\n%s", what,
		js[string](p, "document.body.innerText.replace(/\\s+/g, ' ').slice(0, 3000)"))
}

// comes asks again and again whether a condition holds, at first often and then less, and gives up when patience ends.
func (p *page) comes(holds func() bool) bool {
	const often, seldom = 15 * time.Millisecond, 150 * time.Millisecond
	pause := often
	for end := time.Now().Add(patience); time.Now().Before(end); time.Sleep(pause) {
		if holds() {
			return true
		}
		pause = min(pause*3/2, seldom)
	}
	return false
}

// rev is the revision of the sheet on the page; savedAfter waits for a later one to be stored and shown.
func (p *page) rev() int {
	p.t.Helper()
	p.until("document.querySelector('[data-rev]') !== null", "the sheet's revision")
	return js[int](p, "Number(document.querySelector('[data-rev]').dataset.rev)")
}

func (p *page) savedAfter(rev int) {
	p.t.Helper()
	p.until(fmt.Sprintf(`(() => { const e = document.querySelector('[data-rev]');
		return Number(e?.dataset.rev) > %d && e.innerText.startsWith('saved') })()`, rev), "the save")
}

func quote(s string) string {
	raw, err := json.Marshal(s)
	if err != nil {
		panic(err) // a string always has a JSON form
	}
	return string(raw)
}

// sees waits until the page shows the text; thin spaces and line breaks count as blanks.
func (p *page) sees(text string) {
	p.t.Helper()
	p.until(fmt.Sprintf(`document.body.innerText.replace(/\s+/g, " ").includes(%s)`, quote(text)), "“"+text+"”")
}

// gone waits until a text stands nowhere.
func (p *page) gone(text string) {
	p.t.Helper()
	p.until(fmt.Sprintf(`!document.body.innerText.replace(/\s+/g, " ").includes(%s)`, quote(text)), "“"+text+"” to go")
}

// lookup finds a control by its accessible name: exact first, then by its beginning.
const lookup = `((kind, name) => {
  const scope = [...document.querySelectorAll('[role=dialog]')].at(-1) ?? document;
  const text = (e) => (e.getAttribute('aria-label') ?? (e.labels?.[0]?.innerText || e.innerText || '')).replace(/\s+/g, ' ').trim();
  const all = [...scope.querySelectorAll(kind)].filter((e) => e.offsetParent !== null || e.getClientRects().length > 0);
  return all.find((e) => text(e) === name) ?? all.find((e) => text(e).startsWith(name)) ?? null;
})`

const (
	fields  = "input,[role=combobox],textarea"
	buttons = "button,a,[role=tab],[role=menuitem],[role=option]"
)

func find(kind, name string) chromedp.JSPath {
	return chromedp.JSPath(fmt.Sprintf("%s(%s, %s)", lookup, quote(kind), quote(name)))
}

// hit clicks a control.
func (p *page) hit(kind, name string) {
	p.t.Helper()
	p.stands(kind, name)
	p.hitAt(find(kind, name), name)
}

// hitAt clicks what an expression finds. Between finding it and clicking it the page may draw it anew, and what was
// found is gone then: it is looked for again until the click lands.
func (p *page) hitAt(at chromedp.JSPath, name string) {
	p.t.Helper()
	var err error
	p.comes(func() bool {
		err = chromedp.Do(p.ctx, chromedp.Click(at))
		return err == nil || !strings.Contains(err.Error(), "Could not find node")
	})
	require.NoError(p.t, err, "click on “%s”", name)
}

// stands waits until a control no longer moves, so that the pointer meets it.
func (p *page) stands(kind, name string) {
	p.t.Helper()
	place := fmt.Sprintf("JSON.stringify(%s(%s, %s)?.getBoundingClientRect() ?? null)", lookup, quote(kind),
		quote(name))
	before := ""
	if p.comes(func() bool {
		was := before
		before = js[string](p, place)
		return before == was && before != "null"
	}) {
		return
	}
	p.t.Fatalf("“%s” does not come to rest", name)
}

func (p *page) click(name string) {
	p.t.Helper()
	p.until(fmt.Sprintf("(() => { const e = %s(%s, %s); return e !== null && !e.disabled })()", lookup, quote(buttons),
		quote(name)), "the button “"+name+"”")
	p.hit(buttons, name)
}

// fill types into a field as a person does; of a list it chooses one.
func (p *page) fill(name, value string) {
	p.t.Helper()
	at := fmt.Sprintf("%s(%s, %s)", lookup, quote(fields), quote(name))
	p.until(at+" !== null", "the field “"+name+"”")
	switch js[string](p, at+".tagName") {
	case "BUTTON": // a list to choose from, by its value or by its words
		p.hit(fields, name)
		option := fmt.Sprintf(
			`[...document.querySelectorAll('[role=option]')].find((o) => o.dataset.value === %[1]s || o.innerText.trim() === %[1]s)`,
			quote(value))
		p.until(option+" !== undefined", "the choice “"+value+"”")
		js[bool](p, "("+option+".focus(), true)")
		p.press(kb.Enter)
		p.until(fmt.Sprintf("document.querySelector('[role=option]') === null && %s !== null", at), "the list to close")
	default:
		p.hit(fields, name)
		js[bool](p, fmt.Sprintf("(%s.select(), true)", at))
		p.types(value)
	}
}

// types puts words into the field that has the focus: all but the last letter at once, as a keyboard that completes
// words does, since each key costs the page a picture; the last by its key.
func (p *page) types(words string) {
	p.t.Helper()
	letters := []rune(words)
	if len(letters) == 0 {
		return
	}
	last := len(letters) - 1
	if last > 0 {
		_, err := chromedp.Call(p.ctx, input.InsertText, input.InsertTextParams{Text: string(letters[:last])})
		require.NoError(p.t, err)
	}
	p.press(string(letters[last]))
}

// tick presses a check box.
func (p *page) tick(name string) {
	p.t.Helper()
	p.until(fmt.Sprintf("%s(%s, %s) !== null", lookup, quote(fields), quote(name)), "the box “"+name+"”")
	p.hit(fields, name)
}

// lock goes through the list before the lock: it reads the packets that nobody looked at, confirms the rest, and locks.
func (p *page) lock(version int) {
	p.t.Helper()
	address := js[string](p, "location.pathname")
	before := fmt.Sprintf("Before version %d is locked", version)
	for range 20 {
		p.click(fmt.Sprintf("Lock version %d", version))
		p.sees(before)
		p.sees("A locked version never changes.")
		next := js[string](p, `document.querySelector('[role=dialog] a[href*="look=1"]')?.getAttribute('href') ?? ''`)
		if next == "" {
			break
		}
		p.look(next)
		p.visit(address)
		p.sees("On the label")
	}
	js[bool](p, `(document.querySelectorAll('[role=dialog] input[type=checkbox]').forEach((x) => x.click()), true)`)
	p.click("Lock it for good")
	p.sees("Edit as the next draft")
	p.until("document.querySelector('[role=dialog]') === null", "the list before the lock to close")
}

// look signs that the packet of an ingredient was read, and answers none to what its words leave open.
func (p *page) look(address string) {
	p.t.Helper()
	p.visit(address)
	p.sees("What did you read?")
	p.until(`document.querySelector('section[aria-label="What is in it"] form')?.dataset.read === 'yes'`,
		"the words read")
	for _, name := range js[[]string](p,
		`[...document.querySelectorAll('section[aria-label="What is in it"] form label')]
		.map((l) => l.innerText).filter((t) => t.startsWith('Its words leave open'))`) {
		p.fill(name, "none by the packet")
	}
	p.fill("What did you read?", "the packet")
	p.click("Sign it")
	p.sees("is looked at.")
}

func (p *page) press(keys string, options ...chromedp.KeyOption) {
	p.t.Helper()
	p.do(chromedp.KeyEvent(keys, options...))
}

func (p *page) shot(file string) {
	p.t.Helper()
	raw, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
	require.NoError(p.t, err)
	require.NoError(p.t, os.WriteFile(file, raw, 0o644))
}

// downloaded waits for a file of that ending.
func (p *page) downloaded(ending string) string {
	p.t.Helper()
	file := ""
	if p.comes(func() bool {
		entries, err := os.ReadDir(p.downloads)
		require.NoError(p.t, err)
		for _, e := range entries {
			if strings.HasSuffix(e.Name(), ending) {
				file = filepath.Join(p.downloads, e.Name())
			}
		}
		return file != ""
	}) {
		return file
	}
	p.t.Fatalf("no %s was downloaded", ending)
	return ""
}
