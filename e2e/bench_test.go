package e2e

import (
	"fmt"
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

// BenchmarkStableToSafe takes weights at the bench in a real browser: from the key on a steady weight to “all is safe”.
func BenchmarkStableToSafe(b *testing.B) {
	s := serve(b, true)
	batch := planned(b, s, pea, 96, "12 L cutter")
	p := open(b, s, 1024, 768)
	p.toBench(batch.ID)
	var took []float64
	js[bool](p, `(() => { const now = () => performance.now(); window.took = [];
		window.addEventListener("keydown", (e) => { if (e.key !== "Enter") return; const from = now(); let waited = false;
			const look = () => { const safe = document.querySelector("[data-safe]")?.dataset.safe === "true"; waited = waited || !safe;
				if (waited && safe) window.took.push(now() - from); else if (now() - from < 5000) requestAnimationFrame(look) };
			requestAnimationFrame(look) }, true); return true })()`)
	n := 0
	for b.Loop() {
		p.takes(20)
		n++
		p.until(fmt.Sprintf("window.took.length === %d", n), "it to be safe")
		took = append(took, js[float64](p, "window.took.at(-1)"))
	}
	slices.Sort(took)
	b.ReportMetric(took[len(took)*95/100], "p95-ms")
}
