package e2e

import (
	"fmt"
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// fullJars weighs as many full jars as are asked for, a gram over what the label says, and accounts for the rest.
func fullJars(p *page) {
	p.t.Helper()
	p.until(`document.querySelector('[data-jars]') !== null`, "the drawing of the jars")
	net := js[float64](p, `Number(document.querySelector('[data-jars]').ariaLabel.match(/label says ([0-9.]+)/)[1])`)
	jars := js[int](p,
		`[...document.querySelectorAll('label')].filter(l => l.textContent.startsWith('Full jar')).length`)
	p.fill("Empty jar", "120")
	for i := range jars {
		p.fill(fmt.Sprintf("Full jar %d", i+1), fmt.Sprint(net+121))
	}
	p.click("Write the weights down")
	p.sees("on average, deviation")
	p.fill("Seals looked at", fmt.Sprint(jars))
	if js[bool](p, `document.body.innerText.includes('Where the rest went')`) {
		p.fill("Where the rest went", "into the tasting")
	}
	p.click("Seals and rest are as said")
}

// TestShortJarsAreFoundAndTheFillIsRaised: two of three jars are short; the fill is raised with its reason, and good
// jars let the batch go on.
func TestShortJarsAreFoundAndTheFillIsRaised(t *testing.T) {
	s := serve(t, true)
	p := open(t, s, 1280, 800)
	b := planned(t, s, pea, 12, "12 L cutter")
	p.visit(fmt.Sprintf("/batches/%d/fill", b.ID))
	p.sees("Count the jars first.")
	p.fill("Jars filled", "12")
	p.click("Record the filling")
	p.sees("the net weights of 3 jars")
	p.fill("Empty jar", "120")
	for i, g := range []string{"270", "273", "283"} {
		p.fill(fmt.Sprintf("Full jar %d", i+1), g)
	}
	p.visit(fmt.Sprintf("/batches/%d/fill", b.ID))
	p.sees("What full jars weigh")
	assert.Equal(t, "273", js[string](p, lookup+"('input', 'Full jar 2').value"), "what was typed outlives a reload")
	p.click("Write the weights down")
	p.sees("Short: the average of 155.33 g is under the 162.2 g of the label; 2 jars are under 154.9 g.")
	p.sees("full jars: the average of 155.33 g")
	p.click("Fill to this from now on")
	p.sees("and the next batch is planned with it")
	p.click("Weigh jars again")
	for i, g := range []string{"283", "40", "283.5"} {
		p.fill(fmt.Sprintf("Full jar %d", i+1), g)
	}
	p.click("Write the weights down")
	p.sees("jar 2 weighs less than an empty one")
	p.fill("Full jar 2", "284")
	p.click("Write the weights down")
	p.sees("163.5 g on average, deviation 0.50 g: none is short.")
	p.visit(fmt.Sprintf("/plan/%s/%d?jars=48", pea.Formula, pea.Version))
	p.sees("since")
	p.sees(b.Code)
}

// TestOneBowlFillsJarsOfTwoSizes: three larger jars are filled from the bowl of a batch; they are a batch of their own,
// weighed with it, and the grams of the first know where theirs went.
func TestOneBowlFillsJarsOfTwoSizes(t *testing.T) {
	s := serve(t, true)
	ctx := asOwner()
	next, err := s.app.Catalog.NextDraft(ctx, formula.Ref{Formula: "beetroot_horseradish_dip", Version: 2}, nil)
	require.NoError(t, err)
	ref := formula.Ref{Formula: next.Formula, Version: next.Version.Number}
	v := next.Version
	v.FillGrams = amount.G(380)
	saved, err := s.app.Catalog.SaveSheet(ctx, v, next.Rev)
	require.NoError(t, err)
	points, err := s.app.Catalog.BeforeLock(ctx, ref)
	require.NoError(t, err)
	var seen []string
	for _, x := range points {
		seen = append(seen, x.Key)
	}
	_, err = s.app.Catalog.LockSheet(ctx, ref, saved.Rev, seen)
	require.NoError(t, err)
	p := open(t, s, 1280, 800)
	makes(p, 12)
	p.click("Part of it goes into other jars")
	p.sees("380 g a jar")
	p.fill("Jars", "30")
	p.click("Fill them from this bowl")
	p.sees("of the bowl are not in other jars")
	p.fill("Jars", "3")
	p.click("Fill them from this bowl")
	p.sees("of the bowl went into 3 jars of another size")
	fillsYesterday(p, 6)
	p.until(`document.querySelector('[data-jars]') !== null`, "the drawing of the jars")
	p.sees("in other jars")
	p.hitAt(`[...document.querySelectorAll("main a")].find((a) => /^\d\d-\d{3}-[A-Z]$/.test(a.innerText) && a.href.endsWith("/fill"))`, "its jars")
	p.sees("from the bowl of")
	p.click("✓ Weigh")
	p.sees("3 jars planned")
	assert.Zero(t, js[int](p, `document.querySelectorAll("tbody tr input[data-grams]:placeholder-shown").length`),
		"every line has its share of what was weighed")
}
