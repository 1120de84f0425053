package formula

import (
	"fmt"

	"gallipot/internal/core/amount"

	"github.com/shopspring/decimal"
)

// Change kinds between two versions.
const (
	Added   = "added"
	Removed = "removed"
	Changed = "changed"
	Same    = "same"
)

// LineChange is one line in two versions side by side. Percents are of everything in the bowl.
type LineChange struct {
	Name          string          `json:"name"`
	Kind          string          `json:"kind"`
	GramsBefore   amount.Grams    `json:"grams_before"`
	GramsAfter    amount.Grams    `json:"grams_after"`
	PercentBefore decimal.Decimal `json:"percent_before"`
	PercentAfter  decimal.Decimal `json:"percent_after"`
}

// FieldChange is a setting of the version that differs.
type FieldChange struct {
	Field  string `json:"field"`
	Before string `json:"before"`
	After  string `json:"after"`
}

// Comparison is what changed from one version to another.
type Comparison struct {
	Lines  []LineChange  `json:"lines"`
	Fields []FieldChange `json:"fields"`
}

// Compare pairs the lines of two versions by what they are (the n-th line of an ingredient with the n-th) and
// lists the settings that differ. The order is that of the later version, removed lines last.
func (l Library) Compare(before, after Version) Comparison {
	type side struct {
		grams   amount.Grams
		percent decimal.Decimal
		name    string
	}
	index := func(v Version) (map[string]side, []string) {
		m, order, count := map[string]side{}, []string{}, map[string]int{}
		pct := v.Percents()
		for i, line := range v.Lines {
			key, name := l.lineIdentity(line)
			count[key]++
			k := fmt.Sprintf("%s#%d", key, count[key])
			m[k] = side{line.Grams, pct[i], name}
			order = append(order, k)
		}
		return m, order
	}
	a, orderA := index(before)
	b, orderB := index(after)
	out := Comparison{Lines: []LineChange{}, Fields: compareFields(before, after)}
	for _, k := range orderB {
		was, had := a[k]
		now := b[k]
		kind := Same
		switch {
		case !had:
			kind = Added
		case !was.grams.Equal(now.grams.Decimal):
			kind = Changed
		}
		out.Lines = append(out.Lines, LineChange{now.name, kind, was.grams, now.grams, was.percent, now.percent})
	}
	for _, k := range orderA {
		if _, still := b[k]; !still {
			out.Lines = append(out.Lines, LineChange{a[k].name, Removed, a[k].grams, amount.Grams{}, a[k].percent, decimal.Zero})
		}
	}
	return out
}

func (l Library) lineIdentity(line Line) (key, name string) {
	if line.Component != nil {
		return "formula:" + line.Component.Formula, fmt.Sprintf("%s, version %d", l.Name(line.Component.Formula), line.Component.Version)
	}
	if g, ok := l.Ingredients[line.Ingredient]; ok {
		return line.Ingredient, g.Name
	}
	return line.Ingredient, line.Ingredient
}

func compareFields(a, b Version) []FieldChange {
	out := []FieldChange{}
	add := func(field, before, after string) {
		if before != after {
			out = append(out, FieldChange{field, before, after})
		}
	}
	add("fill", a.FillGrams.String()+" g", b.FillGrams.String()+" g")
	add("process loss", a.LossPercent.String()+" %", b.LossPercent.String()+" %")
	add("overfill", a.OverfillPercent.String()+" %", b.OverfillPercent.String()+" %")
	add("water driven off", a.WaterDrivenOff.String()+" g", b.WaterDrivenOff.String()+" g")
	add("pH limit", fmt.Sprint(a.PHLimit), fmt.Sprint(b.PHLimit))
	add("pH target", fmt.Sprint(a.PHTarget), fmt.Sprint(b.PHTarget))
	add("largest piece", fmt.Sprintf("%g mm", a.LargestPieceMM), fmt.Sprintf("%g mm", b.LargestPieceMM))
	add("minutes a batch", a.MinutesPerBatch.String(), b.MinutesPerBatch.String())
	add("minutes a jar", a.MinutesPerJar.String(), b.MinutesPerJar.String())
	add("labour an hour", a.LabourPerHour.String(), b.LabourPerHour.String())
	add("overhead a batch", a.OverheadPerBatch.String(), b.OverheadPerBatch.String())
	add("jars costed", fmt.Sprint(a.CostingJars), fmt.Sprint(b.CostingJars))
	add("kept", a.Keeping.Asked, b.Keeping.Asked)
	add("keeping styles", fmt.Sprint(a.Keeping.Styles), fmt.Sprint(b.Keeping.Styles))
	add("product style", a.ProductStyle, b.ProductStyle)
	add("emulsion", a.EmulsionStyle, b.EmulsionStyle)
	add("packaging", packagingText(a), packagingText(b))
	add("on top of each jar", toppingText(a), toppingText(b))
	add("consistency", a.Consistency, b.Consistency)
	return out
}

func toppingText(v Version) string {
	s := ""
	for i, t := range v.Toppings {
		if i > 0 {
			s += ", "
		}
		s += t.Grams.String() + " g " + t.Ingredient
	}
	return s
}

func packagingText(v Version) string {
	s := ""
	for i, p := range v.Packaging {
		if i > 0 {
			s += ", "
		}
		s += p.Name + " " + p.Price.String()
	}
	return s
}
