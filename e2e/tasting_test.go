package e2e

import (
	"context"
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAMakingIsLoggedAsItHappensAndBecomesATrial on a tablet: in the maker's order, over a reload, with something that
// stood in for something.
func TestAMakingIsLoggedAsItHappensAndBecomesATrial(t *testing.T) {
	s := serve(t, true)
	p := open(t, s, 1024, 768)
	before, err := s.app.Catalog.Trials(context.Background(), "hazelnut_kale_pesto")
	require.NoError(t, err)
	p.visit("/formulas/hazelnut_kale_pesto?part=trials")
	p.click("Log it as it happens")
	p.sees("Nothing yet. Touch what goes in first.")
	p.click("Kale, raw sheet 290.0 not yet")
	p.click("It went in")
	p.sees("how many grams?")
	p.fill("Grams of Kale, raw", "288")
	p.click("It went in")
	p.sees("288.0 g Kale, raw went in")
	p.click("Hazelnuts, roasted sheet 150.0 not yet")
	p.click("Something else instead of Hazelnuts, roasted: instead …")
	p.fill("Name in the pantry", "pecan nuts")
	p.sees("Pecan nuts, toasted") // the pantry is there to choose from
	p.press(kb.Enter)
	p.sees("Pecan nuts instead of Hazelnuts, roasted")
	p.fill("Grams of Pecan nuts", "140")
	p.click("It went in")
	p.sees("140.0 g Pecan nuts, instead of Hazelnuts, roasted went in")
	p.click("flat")
	p.sees("tasted: flat")
	p.visit(js[string](p, "location.pathname"))
	p.sees("tasted: flat")
	p.click("Lemon juice sheet 185.0 not yet")
	p.fill("Grams of Lemon juice", "12")
	p.click("Added to taste")
	p.fill("Why Lemon juice was added", "too flat")
	p.click("Added to taste")
	p.sees("added 12.0 g Lemon juice: too flat")
	p.click("It is made")
	p.fill("Made", "430")
	p.fill("Score", "8")
	p.click("Make it a trial")
	p.sees("The making is a trial now.")

	after, err := s.app.Catalog.Trials(context.Background(), "hazelnut_kale_pesto")
	require.NoError(t, err)
	require.Len(t, after.Trials, len(before.Trials)+1)
	made := after.Trials[len(after.Trials)-1]
	assert.False(t, made.Open)
	assert.Equal(t, 8, made.Score)
	require.Len(t, made.Log, 4)
	assert.Equal(t, []string{"in", "in", "tasted", "added"},
		[]string{made.Log[0].Kind, made.Log[1].Kind, made.Log[2].Kind, made.Log[3].Kind})
	assert.Equal(t, []formula.TrialLine{
		{Ingredient: "kale", Grams: amount.G(288)},
		{Ingredient: "pecan", Grams: amount.G(140), Instead: "hazelnut_roasted"},
		{Ingredient: "lemon_juice", Grams: amount.G(12), Added: amount.G(12), Reason: "too flat"},
	}, made.Lines)
}

// TestAHalfEmptyMakingIsNotStoredByEnter: Enter goes on to the next field, and what has no grams is named first.
func TestAHalfEmptyMakingIsNotStoredByEnter(t *testing.T) {
	s := serve(t, true)
	p := open(t, s, 1280, 800)
	before, err := s.app.Catalog.Trials(context.Background(), "hazelnut_kale_pesto")
	require.NoError(t, err)
	p.visit("/formulas/hazelnut_kale_pesto?part=trials")
	p.click("Record a making")
	p.fill("Grams of Kale, raw", "290")
	p.press(kb.Enter)
	assert.Equal(t, "Grams of Kale, raw added to taste", js[string](p, "document.activeElement.labels[0].textContent"))
	p.click("Keep the trial")
	p.sees("Without grams: Garlic, raw peeled cloves, Lemon juice")
	still, err := s.app.Catalog.Trials(context.Background(), "hazelnut_kale_pesto")
	require.NoError(t, err)
	assert.Len(t, still.Trials, len(before.Trials))
	p.click("Keep it without")
	p.sees("Log it as it happens")
}
