// Package assess puts the core together: one version in, everything the sheet, the headless command and the label
// need out. It computes nothing of its own that belongs to another package.
package assess

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/allergen"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/declaration"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// Line is one line of a version with what the core knows of it.
type Line struct {
	ID      string         `json:"id"`
	Name    string         `json:"name"`
	Grams   amount.Grams   `json:"grams"`
	Percent amount.Percent `json:"percent"`
	MakeUp  formula.MakeUp `json:"make_up"` // grams
	PerJar  amount.Exact   `json:"per_jar"`
	NoPrice bool           `json:"no_price"`
}

// PH is the estimate as shown: the band rounded outward to 0.05.
type PH struct {
	Estimate   *float64 `json:"estimate"`
	Low        *float64 `json:"low"`
	High       *float64 `json:"high"`
	Incomplete bool     `json:"incomplete"`
	Missing    []string `json:"missing"`
	NoWater    bool     `json:"no_water"`
}

// Caution is a short warning beside the sheet, with the safety posture of handbook 01.
type Caution struct {
	Level string `json:"level"` // needs_you or danger
	Title string `json:"title"`
	Text  string `json:"text"`
}

// Open is an ingredient that nobody has looked at: what is in the product is "at least" what is known.
type Open struct {
	Ingredient string   `json:"ingredient"`
	Name       string   `json:"name"`
	Why        []string `json:"why"`
}

// Panel is what stands beside the sheet.
type Panel struct {
	Grams         amount.Grams   `json:"grams"`
	MixedGrams    amount.Grams   `json:"mixed_grams"`
	FinishedGrams amount.Exact   `json:"finished_grams"`
	Jars          int            `json:"jars"`
	Lines         []Line         `json:"lines"`
	MakeUp        formula.MakeUp `json:"make_up"` // percent of the mixed mass
	Cost          costing.Stack  `json:"cost"`
	PH            PH             `json:"ph"`
	// rounded up to 0.005; null where it cannot be estimated
	WaterActivity     *float64 `json:"water_activity"`
	SaltInWater       float64  `json:"salt_in_water_percent"`
	AceticInWater     float64  `json:"acetic_in_water_percent"`
	TitratableInWater float64  `json:"titratable_in_water_percent"`
	PreservationIndex *float64 `json:"preservation_index"`
	// by volume, as makers say it, where there is a sour liquid
	OilShare        float64                           `json:"-"` // of what is in the bowl
	OilToSour       *float64                          `json:"oil_to_sour"`
	OilToSourWeight *float64                          `json:"oil_to_sour_by_weight"` // the same by weight
	Allergens       law.Each[[]string]                `json:"allergens"`
	Open            []Open                            `json:"open"`        // of which nobody has said what is in it
	MayContain      law.Each[[]string]                `json:"may_contain"` // by suppliers' statements
	Declaration     law.Each[declaration.Declaration] `json:"declaration"`
	Nutrition       law.Each[[]declaration.Figure]    `json:"nutrition"`
	Keeping         law.Each[keeping.Verdict]         `json:"keeping"`
	Cautions        []Caution                         `json:"cautions"`
	SetsInTheCold   []string                          `json:"sets_in_the_cold"`
	Claims          []string                          `json:"claims"`      // what the ingredients allow to be said
	Resolutions     []Resolution                      `json:"resolutions"` // of "any of" groups; none without groups
	// per 100 g, unrounded
	Nutrients declaration.Nutrition `json:"-"`
	leaves    []formula.Leaf
	items     []declaration.Item
	facts     keeping.Facts
	documents []keeping.Document
}

// Inputs are everything the core needs besides the version.
type Inputs struct {
	Library   formula.Library
	Terms     costing.Terms
	Made      func(formula string) costing.Made // how a formula is made; nil: as Terms say
	Rules     []keeping.Rule
	Documents []keeping.Document // in force, the newest first
}

// terms are those under which a formula is costed.
func (in Inputs) terms(formulaID string) costing.Terms {
	t := in.Terms
	if in.Made != nil {
		t.Made = in.Made(formulaID)
	}
	t.Item = func(id string) *pantry.Ingredient { return in.Library.Ingredients[id] }
	return t
}

// Nodes assesses a version whose lines are expanded already.
func Nodes(v formula.Version, nodes []formula.Node, in Inputs) (Panel, error) {
	onTop, err := in.Library.OnTop(v)
	if err != nil {
		return Panel{}, err
	}
	everything := nodes
	if len(onTop) > 0 {
		everything = append(slices.Clone(nodes), perBatch(v, onTop)...)
	}
	leaves, off := formula.Leaves(everything)
	off += v.WaterDrivenOff.Float()
	p := Panel{Grams: v.GramsIn(), MixedGrams: v.MixedGrams(), FinishedGrams: v.FinishedGrams(), Jars: v.Jars(),
		Cautions: []Caution{}, Claims: Claims(leaves), Resolutions: []Resolution{}, Open: openAmong(leaves)}
	makeUp := formula.MakeUpOf(leaves, off)
	if t := makeUp.Total(); t > 0 {
		p.MakeUp = makeUp.Scale(100 / t)
	}
	p.Cost = costing.Jar(v, nodes, onTop, in.terms(v.Formula))
	p.lines(v, nodes)
	parts := acidity.Parts(leaves)
	mix := acidity.MixOf(parts, off)
	estimate := mix.Estimate()
	p.acidity(estimate, mix, leaves, off)
	p.OilToSour, p.OilToSourWeight = oilToSour(leaves)
	p.SetsInTheCold = setsInTheCold(leaves)
	if err := p.declare(v, everything, leaves, off); err != nil {
		return p, err
	}
	p.MayContain = mayContain(leaves, p.Allergens)
	p.keep(v, leaves, estimate, in)
	p.caution(v, leaves)
	return p, nil
}

// DrivenOff refuses more water driven off than there is. Errors: pantry.FieldError, and those of
// formula.Library.Expand.
func DrivenOff(v formula.Version, in Inputs) error {
	nodes, err := in.Library.Expand(v)
	if err != nil {
		return err
	}
	leaves, off := formula.Leaves(nodes)
	water := -off
	for _, l := range leaves {
		water += l.Grams * l.Ingredient.Composition.Water / 100
	}
	if v.WaterDrivenOff.IsPositive() && v.WaterDrivenOff.Float() > max(0, water)+0.05 {
		return pantry.FieldError{Field: "water_driven_off_g",
			Message: fmt.Sprintf("there are only %.1f g of water in the bowl", max(0, water))}
	}
	return nil
}

// perBatch is what goes on top, in proportion to the whole mix: grams a jar times the jars that the mix would fill with
// nothing lost.
func perBatch(v formula.Version, onTop []formula.Node) []formula.Node {
	fill := v.FillGrams.Float()
	out := make([]formula.Node, 0, len(onTop))
	for _, n := range onTop {
		if fill > 0 {
			n.Grams *= v.MixedGrams().Float() / fill
		}
		line := *n.Line
		line.Grams = amount.G(n.Grams)
		n.Line = &line
		out = append(out, n)
	}
	return out
}

func (p *Panel) lines(v formula.Version, nodes []formula.Node) {
	percents := v.Percents()
	p.Lines = make([]Line, len(nodes))
	for i := range nodes {
		n := &nodes[i]
		p.Lines[i] = Line{ID: n.Line.ID, Name: n.Name, Grams: n.Line.Grams, Percent: percents[i],
			MakeUp: n.MakeUp(), PerJar: p.Cost.Lines[i].PerJar, NoPrice: p.Cost.Lines[i].Missing}
	}
}

func (p *Panel) acidity(e acidity.Estimate, mix acidity.Mix, leaves []formula.Leaf, off float64) {
	p.PH = PH{Incomplete: e.Incomplete(), Missing: e.Missing, NoWater: e.NoWater}
	s := acidity.SolutesOf(leaves, off)
	if !e.NoWater {
		p.SaltInWater, p.AceticInWater = s.SaltInWater(), s.AceticInWater()
	}
	if aq := s.Aqueous(); aq > 0 {
		p.TitratableInWater = 100 * mix.Titratable() / aq
	}
	if aw, err := s.WaterActivity(); err == nil {
		shown := acidity.ShownWaterActivity(aw)
		p.WaterActivity = &shown
		rule := acidity.RuleWaterActivity(aw)
		p.facts.AW = &rule
	}
	if e.NoWater {
		return
	}
	low, high := e.Shown()
	ph := amount.HalfUp(e.PH, 2)
	p.PH.Estimate, p.PH.Low, p.PH.High = &ph, &low, &high
	index := s.PreservationIndex(e.PH)
	p.PreservationIndex = &index
}

// oilToSour is the ratio oil to sour liquid by volume and by weight; nil where either is missing.
func oilToSour(leaves []formula.Leaf) (byVolume, byWeight *float64) {
	oil, sour, oilGrams, sourGrams := 0.0, 0.0, 0.0, 0.0
	for _, l := range leaves {
		density := l.Ingredient.DensityGPerML
		if density <= 0 {
			density = 1
		}
		switch {
		case l.Ingredient.IsOil():
			oil, oilGrams = oil+l.Grams/density, oilGrams+l.Grams
		case l.Ingredient.Has("acidulant") && l.Ingredient.Chemistry != pantry.ChemistryPureAcid:
			sour, sourGrams = sour+l.Grams/density, sourGrams+l.Grams
		}
	}
	if sour <= 0 || oil <= 0 {
		return nil, nil
	}
	volume, weight := oil/sour, oilGrams/sourGrams
	return &volume, &weight
}

// coldSetting are words of oils that turn firm in a refrigerator: those rich in oleic or in saturated fat. Sesame,
// sunflower, rapeseed and nut oils stay liquid.
var coldSetting = []string{"olive", "coconut", "avocado", "macadamia", "palm"}

// leastSetting is the share of the oil that has to set before a jar of it does.
const leastSetting = 1.0 / 3

// setsInTheCold names the oils that set, where there is enough of them among the oils for the jar to.
func setsInTheCold(leaves []formula.Leaf) []string {
	out, oil, sets := []string{}, 0.0, 0.0
	for _, l := range leaves {
		if !l.Ingredient.IsOil() {
			continue
		}
		oil += l.Grams
		words := strings.FieldsFunc(strings.ToLower(l.Ingredient.Name),
			func(r rune) bool { return !allergen.InWord(r) })
		if !slices.ContainsFunc(words, func(w string) bool { return slices.Contains(coldSetting, w) }) {
			continue
		}
		sets += l.Grams
		if !slices.Contains(out, l.Ingredient.Name) {
			out = append(out, l.Ingredient.Name)
		}
	}
	if sets < leastSetting*oil {
		return []string{}
	}
	return out
}

func (p *Panel) declare(v formula.Version, nodes []formula.Node, leaves []formula.Leaf, off float64) error {
	n := declaration.NutritionOf(leaves, off)
	items := declaration.Items(nodes)
	p.Nutrients, p.items, p.leaves = n, items, leaves
	p.Declaration, p.Allergens, p.Nutrition = law.Each[declaration.Declaration]{}, law.Each[[]string]{},
		law.Each[[]declaration.Figure]{}
	for _, l := range law.All() {
		options := declaration.Options{Law: l, TailPercent: v.Wording.TailPercent, GroupSpices: v.Wording.GroupSpices,
			DrivenOff: off, Named: v.Wording.Named}
		d, err := declaration.Declare(items, options)
		if err != nil {
			return fmt.Errorf("declaration: %w", err)
		}
		p.Declaration[l.Regime], p.Allergens[l.Regime], p.Nutrition[l.Regime] = d, d.Allergens, n.Figures(l)
	}
	return nil
}
