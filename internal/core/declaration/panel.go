package declaration

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"gallipot/internal/core/law"
)

// NutritionRow is a row of a panel with a value a column.
type NutritionRow struct {
	Name   string   `json:"name"`
	Values []string `json:"values"`
	Indent int      `json:"indent,omitempty"`
	Strong bool     `json:"strong,omitempty"`
}

// NutritionPanel is the nutrition declaration as it is set on a label.
type NutritionPanel struct {
	Title   string         `json:"title"`
	Serving []string       `json:"serving"` // lines over the figures
	Columns []string       `json:"columns"`
	Rows    []NutritionRow `json:"rows"`
	Foot    string         `json:"foot"`
	Heavy   bool           `json:"heavy,omitempty"` // the title stands out
}

// Width is how many columns of values it has.
func (p *NutritionPanel) Width() int { return len(p.Columns) }

// Words are all its words.
func (p *NutritionPanel) Words() []string {
	out := append([]string{p.Title}, p.Serving...)
	out = append(out, p.Columns...)
	for _, r := range p.Rows {
		out = append(append(out, r.Name), r.Values...)
	}
	return append(out, p.Foot)
}

// PanelAsk is what a panel needs to know about the product besides its figures.
type PanelAsk struct {
	Style         string  // of the product
	DensityGPerML float64 // g per mL; 0 where nobody measured it
	NetGrams      float64
	ByVolume      bool    // its quantity is stated by volume
	ServingGrams  float64 // the shop's own; 0 for the usual one
}

// Spoons and cups of a serving in mL (21 CFR 101.9(b)(5)(viii)).
const (
	tablespoonML = 15
	quarterCupML = 60
)

// usual is the reference amount of a style in grams and in words (21 CFR 101.12(b), handbook 08).
func (a PanelAsk) usual() (grams float64, words string) {
	density := a.DensityGPerML
	if density <= 0 {
		density = 1
	}
	switch a.Style {
	case "dip", "spread":
		return 2 * tablespoonML * density, "2 tbsp"
	case "pesto":
		return quarterCupML * density, "1/4 cup"
	case "marinade":
		return tablespoonML * density, "1 tbsp"
	}
	return 30, "2 tbsp"
}

// Shares of the reference amount: under the first a container is one serving, up to the second the whole of it gets a
// column of its own (21 CFR 101.9(b)(6) and (b)(12)).
const (
	oneServing  = 2.0
	withColumn  = 3.0
	halfSteps   = 5.0 // servings up to which are told to a half
	typicalGB   = "Typical values"
	dailyFooter = "* The % Daily Value (DV) tells you how much a nutrient in a serving of food contributes to a " +
		"daily diet. 2,000 calories a day is used for general nutrition advice."
)

// Panel is the nutrition declaration of figures per 100 g under a law.
func (n Nutrition) Panel(l *law.Law, a PanelAsk) *NutritionPanel {
	if l.Servings {
		return n.perServing(l, a)
	}
	return n.perHundred(l, a)
}

// perHundred gives figures per 100 g, or per 100 ml of what is sold by volume (Regulation 1169/2011 article 32).
func (n Nutrition) perHundred(l *law.Law, a PanelAsk) *NutritionPanel {
	p := &NutritionPanel{Title: "Nutrition", Serving: []string{}, Columns: []string{"per 100 g"}}
	scale := 1.0
	if a.ByVolume && a.DensityGPerML > 0 {
		scale, p.Columns[0] = a.DensityGPerML, "per 100 ml"
	}
	p.Serving = append(p.Serving, typicalGB)
	values := n.values()
	for _, r := range l.Nutrition {
		text, err := Round(l, r.Rounds, scale*values[r.Figure])
		if err != nil {
			continue
		}
		if last := len(p.Rows) - 1; last >= 0 && p.Rows[last].Name == r.Name { // both energies on a line
			p.Rows[last].Values[0] += " / " + text
			continue
		}
		p.Rows = append(p.Rows, NutritionRow{Name: r.Name, Values: []string{text}, Indent: r.Indent})
	}
	return p
}

// perServing tells figures of a serving with their share of a day, and of the container where it holds two to three.
func (n Nutrition) perServing(l *law.Law, a PanelAsk) *NutritionPanel {
	reference, words := a.usual()
	grams := reference
	if a.ServingGrams > 0 {
		grams, words = a.ServingGrams, ""
	}
	p := &NutritionPanel{Title: "Nutrition Facts", Foot: dailyFooter, Heavy: true}
	share := a.NetGrams / reference
	if share < oneServing && a.NetGrams > 0 {
		grams, words = a.NetGrams, "1 container"
	}
	size := strconv.FormatFloat(math.Round(grams), 'f', -1, 64) + " g"
	if words != "" {
		size = words + " (" + size + ")"
	}
	p.Serving = []string{servings(a.NetGrams/grams) + " per container", "Serving size " + size}
	amounts := []float64{grams / 100}
	p.Columns = []string{"Per serving", "% DV*"}
	if share >= oneServing && share <= withColumn {
		amounts = append(amounts, a.NetGrams/100)
		p.Columns = append(p.Columns, "Per container", "% DV*")
	}
	values := n.values()
	for _, r := range l.Nutrition {
		row := NutritionRow{Name: r.Name, Indent: r.Indent, Strong: r.Strong}
		for _, k := range amounts {
			x := k * values[r.Figure]
			text, err := Round(l, r.Rounds, x)
			if err != nil {
				break
			}
			row.Values = append(row.Values, text, daily(r, x, text))
		}
		p.Rows = append(p.Rows, row)
	}
	return p
}

// servings is how many a container holds: from 2 to 5 to a half, above to one, "about" where that was rounded.
func servings(x float64) string {
	if x < oneServing {
		return "1 serving"
	}
	step := 1.0
	if x <= halfSteps {
		step = 0.5
	}
	told := math.Floor(x/step+0.5) * step
	text := strconv.FormatFloat(told, 'f', -1, 64) + " servings"
	if math.Abs(told-x) > 1e-6 {
		return "about " + text
	}
	return text
}

// daily is the percent of the daily value: whole, of vitamins and minerals in steps of 2, 5 and 10 (21 CFR 101.9(c)(7)
// and (8)(iii)). What is told as nothing is nothing of a day.
func daily(r law.Row, x float64, told string) string {
	switch {
	case r.Daily <= 0:
		return ""
	case strings.HasPrefix(told, "0 "):
		return "0%"
	}
	p := 100 * x / r.Daily
	step := 1.0
	if r.Mineral {
		switch {
		case p < 2:
			return "0%"
		case p <= 10:
			step = 2
		case p <= 50:
			step = 5
		default:
			step = 10
		}
	}
	return fmt.Sprintf("%g%%", math.Floor(p/step+0.5+1e-9)*step)
}
