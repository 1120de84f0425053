package e2e

import (
	"slices"
	"strconv"
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// watching notes, for every key pressed in a gram, how long it takes until the panel that the core computed for it is
// painted.
const watching = `(() => {
	window.took = []; let pressed = 0;
	document.addEventListener('keydown', (e) => { if (e.target.dataset?.cell === 'grams' && /\d/.test(e.key)) pressed = performance.now(); }, true);
	new MutationObserver(() => { if (!pressed) return; const at = pressed; pressed = 0;
		requestAnimationFrame(() => window.took.push(performance.now() - at)); })
		.observe(document.querySelector('aside[aria-label="What it makes"]'), {subtree: true, childList: true, characterData: true});
	return true })()`

// BenchmarkKeystrokeToPanel types grams on a sheet of the demo, key by key, and reports the slowest of twenty.
func BenchmarkKeystrokeToPanel(b *testing.B) {
	p := open(b, serve(b, true), 1280, 800)
	p.visit("/formulas/carrot_miso_dressing")
	p.sees("On the label")
	js[bool](p, watching)
	keys := []string{"2", "4", "8", "1", "6", "3", "9", "5", "7"}
	b.ResetTimer()
	for i := range b.N * 40 {
		before := js[int](p, "window.took.length")
		if i%2 == 0 {
			p.hit(fields, "Grams of White miso")
			p.press("a", ctrl())
		}
		p.press(keys[i%len(keys)])
		p.until("window.took.length > "+strconv.Itoa(before), "the panel after a key")
	}
	b.StopTimer()
	p.press(kb.Escape)
	took := js[[]float64](p, "window.took")
	slices.Sort(took)
	b.ReportMetric(took[len(took)*95/100], "p95-ms")
	b.ReportMetric(took[len(took)/2], "median-ms")
}
