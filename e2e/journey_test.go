package e2e

import (
	"context"
	"fmt"
	"os/exec"
	"regexp"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/people"
	"gallipot/internal/interchange"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const prices = `ingredient,supplier,pack_amount,pack_unit,price,date
"Strained (Greek-style) yogurt, whole",Tansydale Dairy,2000,g,9.80,2026-11-02
Prepared horseradish in vinegar,Marl Mill Stores,500,g,4.10,2026-10-12
Rapeseed (canola) oil,Pellow Oils,10000,g,31.00,2026-11-02
Fine sea salt,Saltpan Row,3000,g,2.10,2026-09-01
Cider vinegar 5%,Marl Mill Stores,5000,g,8.40,2026-10-12
`

// TestFromPriceToPrintedLabel is one maker's afternoon: she sets up, prices, writes, locks, makes, measures, releases,
// prints.
func TestFromPriceToPrintedLabel(t *testing.T) {
	s := serve(t, false)
	p := open(t, s, 1280, 800)
	yesterday := now().AddDate(0, 0, -2)

	p.visit("/")
	p.sees("You are the first here")
	p.fill("Your name", "Odile")
	p.fill("A PIN of 6 digits, or a passphrase", "280 quern stones")
	p.fill("The same once more", "280 quern stones")
	p.click("Begin as the owner")
	p.sees("Set up the shop")
	p.fill("Name of the shop", "Tinglaze Kitchen")
	p.fill("Address, as it stands on the label", "7 Quern Row, Eddlesham, EX0 0XE")
	p.fill("Your first product", "Beetroot & horseradish dip")
	p.click("Begin")
	p.sees("The ingredient list writes itself")
	require.NoError(t, importPrices(s))

	// The price: wrong first, then right.
	p.visit("/pantry/beetroot_cooked")
	p.sees("no price")
	p.click("A new price")
	p.fill("Supplier", "Fallowfield Veg")
	p.fill("Pack amount", "5000")
	p.fill("Price", "abc")
	p.click("Add")
	p.sees("“abc” is not a number")
	p.fill("Price", "7.25")
	p.click("Add")
	p.sees("1.45")
	p.fill("Usable", "81")
	p.press(kb.Tab)
	p.sees("1.79")
	p.sees("7.25 / 5000 g / 81 % usable")

	// The sheet, by keyboard.
	p.visit("/formulas/beetroot_horseradish_dip")
	for _, l := range []struct {
		name  string
		grams string
	}{{"Beetroot, boiled", "560"}, {"Strained (Greek-style) yogurt, whole", "220"},
		{"Prepared horseradish in vinegar", "70"}, {"Cider vinegar 5%", "120"}, {"Rapeseed (canola) oil", "40"},
		{"Fine sea salt", "11"}} {
		p.fill("Add a line", l.name)
		p.until(fmt.Sprintf("%s('[cmdk-item][data-selected=true]', %s) !== null", lookup, quote(l.name)),
			l.name+" in the list")
		p.press(kb.Enter)
		p.until(fmt.Sprintf("document.activeElement?.getAttribute('aria-label') === %s", quote("Grams of "+l.name)),
			"the gram cell of "+l.name)
		p.press(l.grams + kb.Enter)
	}
	p.sees("1 021.0")
	p.sees("5 jars of 190 g")
	p.fill("Grams of Fine sea salt", "-4")
	p.sees("grams cannot be negative")
	p.fill("Grams of Fine sea salt", "11")
	p.until("!document.body.innerText.includes('cannot be negative')", "the error to go")
	p.sees("100.00")
	p.sees("Allergens: at least milk")
	p.click("Pack and cost")
	p.click("Add an item")
	p.fill("Item 1", "jar")
	p.fill("Price of jar", "0.42")
	p.fill("Spoilt jar", "1")
	p.fill("Jars a batch", "48")
	p.fill("Set up and clean", "95")
	p.fill("Fill, cap, label", "1.1")
	p.fill("Labour", "16.50")
	p.fill("Kitchen", "38")
	p.sees(costPerJar())
	p.click("Keeping and label words")
	p.fill("Descriptive name", "Beetroot dip with strained yogurt and horseradish")
	p.click("Sheet")
	p.click("More for Beetroot, boiled")
	p.click("Named on the label")
	p.sees("Beetroot (55%)")
	p.lock(1)

	deliver(p, yesterday)
	p.visit("/formulas/beetroot_horseradish_dip")
	p.sees("Edit as the next draft")

	// The batch, made two days ago.
	p.click("Make a batch")
	p.fill("Jars wanted", "12")
	p.fill("Made on", yesterday.Format("2006-01-02"))
	p.click("Plan it")
	p.sees("12 jars planned")
	p.sees("on hold")
	// (12 x 190 x 1.01 + 120) / 0.98 = 2472.24 g, up to a tenth, in the bowl
	p.sees("2 472.3")
	weigh(p)
	p.click("All weighed: fill the jars")
	p.fill("Jars filled", "12")
	p.fill("Last jar closed at", yesterday.Format("2006-01-02T15:04"))
	p.click("Record the filling")
	fullJars(p)
	p.sees("Is the meter good today?")
	p.fill("Buffer 4.01", "160")
	p.fill("Buffer 7.00", "4")
	p.click("Judge the meter")
	p.sees("Not accepted.")
	p.fill("Buffer 4.01", "174.5")
	p.fill("Buffer 7.00", "-1.2")
	p.fill("Buffers at", "25")
	p.click("Judge the meter")
	p.sees("slope 99.3 %")
	for _, r := range []struct{ name, ph string }{{"first jar, reading 1", "4.05"}, {"first jar, reading 2", "4.06"},
		{"last jar, reading 1", "4.03"}, {"last jar, reading 2", "4.04"}} {
		p.fill(r.name, r.ph)
	}
	p.click("Record the readings")
	p.sees("Highest jar 4.06 plus uncertainty 0.07 gives 4.13")
	p.sees("Use by")
	p.click("4 Decide")
	p.click("Release 12 jars")
	p.sees("Released by Odile on the equilibrium reading")

	// The label.
	p.visit("/labels")
	p.click("Make a label")
	p.click("Set the label")
	p.sees("Choose a batch above: the date and the lot come from it.")
	p.click("For the batch: no batch yet")
	p.fill("For the batch", "1") // the one that there is
	p.press(kb.Escape)
	// what is for the maker stands first, and is answered there
	p.sees("on 190 ml round jar") // the one that the fill suits
	p.click("Small quantities sold directly or nearby")
	p.sees("Does the name feature prepared horseradish?")
	p.click("Give its percent")
	p.sees("beetroot 55%, prepared horseradish 7%") // that nothing else is stressed was confirmed with the lock
	p.sees("up to date")                            // the words that an answer makes are the label's own
	p.fill("Labels to print", "30")
	p.click("Print 30 labels")
	p.sees("30 labels for 12 jars that still lack one: 12 jars filled, 0 printed")
	p.click("Print fewer")
	p.fill("Labels to print", "3")
	p.click("Print 3 labels")
	checkPDF(t, p.downloaded(".pdf"), yesterday)
}

func importPrices(s site) error {
	_, err := s.app.Catalog.ImportPrices(kernel.As(context.Background(), people.Person{Name: "Odile",
		Role: people.Owner}),
		catalog.PriceFile{Content: []byte(prices)}, interchange.ReadPrices)
	return err
}

// costPerJar is the arithmetic of handbook 07 by hand for the sheet of the journey.
func costPerJar() string {
	ingredients := 560*7.25/5000/0.81 + 220*9.80/2000 + 70*4.10/500 + 120*8.40/5000 + 40*31.0/10000 + 11*2.10/3000
	perJar := ingredients / (1021 * 0.98) * (190*1.01 + 120.0/48) // 120 g of a batch go for samples
	return fmt.Sprintf("%.2f", perJar+0.42*1.01+(95.0/48+1.1)*16.50/60+38.0/48)
}

// deliver takes in what the journey weighs, in one note from two suppliers' prices.
func deliver(p *page, made time.Time) {
	p.visit("/stock/receive")
	p.sees("Came in on")
	p.fill("Supplier", "Tansydale Dairy")
	p.fill("Delivery note", "77-1")
	for i, row := range []struct{ goods, pack, ends string }{
		{"Beetroot, boiled", "5 kg", made.AddDate(0, 0, 20).Format(time.DateOnly)},
		{"Strained (Greek-style) yogurt, whole", "2 kg", made.AddDate(0, 0, 16).Format(time.DateOnly)},
		{"Prepared horseradish in vinegar", "500 g", ""}, {"Cider vinegar 5%", "5 l", ""},
		{"Rapeseed (canola) oil", "10 l", ""},
		{"Fine sea salt", "3 kg", ""},
	} {
		at := func(label string) string { return fmt.Sprintf("%s, row %d", label, i+1) }
		p.fill(at("What came in"), row.goods)
		p.fill(at("How much"), row.pack)
		p.fill(at("Their lot"), fmt.Sprintf("N-%d", i))
		if row.ends != "" {
			p.fill(at("Ends"), row.ends)
		}
	}
	p.fill("Temperature on arrival, row 2", "3.5")
	p.click("Take 6 lots in")
	p.sees("It is in")
}

// weigh enters the target of each line; Enter goes to the lot, takes what ends first, and writes the line down.
func weigh(p *page) {
	names := js[[]string](p,
		"[...document.querySelectorAll('input[data-grams]')].map((e) => e.getAttribute('aria-label').replace('Weighed grams of ', ''))")
	targets := js[[]string](p,
		"[...document.querySelectorAll('input[data-grams]')].map((e) => e.closest('tr').children[2].innerText.replace(/[^0-9.]/g, ''))")
	for i, name := range names {
		lot := fmt.Sprintf("%s('input', %s)", lookup, quote("Lot of "+name))
		p.until(lot+".placeholder !== ''", "a lot of "+name+" to be proposed")
		p.fill("Weighed grams of "+name, targets[i])
		p.press(kb.Enter)
		p.until("document.activeElement === "+lot, "the lot of "+name+" to be asked")
		p.press(kb.Enter)
		p.until(lot+".value !== ''", "the lot of "+name+" to be taken")
		p.press(kb.Enter)
		p.until(fmt.Sprintf("%s('input', %s).closest('tr').innerText.includes('✓')", lookup,
			quote("Weighed grams of "+name)), name+" to be stored")
	}
}

func checkPDF(t *testing.T, file string, made time.Time) {
	t.Helper()
	text, err := exec.Command("pdftotext", file, "-").Output()
	require.NoError(t, err)
	info, err := exec.Command("pdfinfo", file).Output()
	require.NoError(t, err)
	lot := regexp.MustCompile(`L\d\d-\d{3}-A`).FindString(string(text))
	assert.Equal(t, "L"+made.Format("06")+"-"+fmt.Sprintf("%03d", made.YearDay())+"-A", lot)
	flat := strings.Join(strings.Fields(string(text)), " ")
	for _, want := range []string{"Beetroot & horseradish dip", "Ingredients", "Beetroot (55%), strained yogurt (milk,",
		"190 g", "Use by " + made.AddDate(0, 0, 16).Format("2 January"), "Tinglaze Kitchen", "7 Quern Row"} {
		assert.Contains(t, flat, want)
	}
	assert.Regexp(t, `Pages:\s+3`, string(info))
	assert.Regexp(t, `538\.5[78]\d* x 136\.06`, string(info), "190 x 48 mm")
	fonts, err := exec.Command("pdffonts", file).Output()
	require.NoError(t, err)
	assert.Regexp(t, `Commissioner\S* .* yes yes`, string(fonts), "embedded, as subsets")
}
