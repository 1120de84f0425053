package e2e

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
)

// fullJars weighs as many full jars as are asked for, a gram over what the label says, and accounts for the rest.
func fullJars(p *page) {
	p.t.Helper()
	p.until(`document.querySelector('[data-jars]') !== null`, "the drawing of the jars")
	net := js[float64](p, `Number(document.querySelector('[data-jars]').ariaLabel.match(/label says ([0-9.]+)/)[1])`)
	jars := js[int](p, `[...document.querySelectorAll('label')].filter(l => l.textContent.startsWith('Full jar')).length`)
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
