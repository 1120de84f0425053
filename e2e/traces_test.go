package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestACodeLeadsToEveryLotAndEveryJar goes from Find to the path of a jar, from there to one of its lots, and to the
// record of a batch.
func TestACodeLeadsToEveryLotAndEveryJar(t *testing.T) {
	s := serve(t, true)
	p := open(t, s, 1280, 800)
	p.visit("/today")
	p.sees("things need a hand")
	p.press("/")
	p.until("document.activeElement?.placeholder === 'Ingredient, formula, batch or lot code'", "the list to be open")
	js[bool](p, "(document.activeElement.select(), true)") // the driver types the shortcut's letter as well
	p.press("26-317-a")
	p.sees("every lot in it, every jar of it")
	js[bool](p, `([...document.querySelectorAll('[cmdk-item]')].find(e => e.innerText.startsWith('Follow')).click(), true)`)
	p.sees("What is in this jar?")
	p.sees("Found in")
	p.sees("Saltings Deli")
	p.until(`document.querySelectorAll('[aria-label="The path"] a').length > 10`, "the path to be drawn")
	assert.Equal(t, js[int](p, `document.querySelectorAll('[aria-label="The path"] a').length`),
		js[int](p, `document.querySelectorAll('table tbody tr').length - `+
			`[...document.querySelectorAll('#t-jars ~ table tbody tr')].length + `+
			`new Set([...document.querySelectorAll('#t-jars ~ table tbody tr')].map(r => r.cells[0].innerText)).size`),
		"every box stands in a table")
	p.click("P1009")
	p.sees("What it went into")
	p.visit("/trace?code=P1009")
	p.sees("Where did this lot go?")
	p.sees("26-317-A")
	p.visit("/trace?code=nothing-of-ours")
	p.sees("No lot and no batch is called “nothing-of-ours”")
	p.visit("/batches/14/fill")
	p.click("The record")
	p.sees("Everything that happened")
	p.sees("released by Bram")
	p.visit("/records")
	p.fill("Follow a lot, or a jar, by its code", "26-317-A")
	p.click("Follow it")
	p.sees("What is in this jar?")
}
