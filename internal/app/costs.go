package app

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// CostStore answers what costs ask of the record.
type CostStore interface {
	JarsMade(formula string, since time.Time) (jars int, first time.Time, err error)
	BatchesFilled(formula string, most int) ([]Batch, error)
}

// CostAsk is what is asked of a version's cost: a batch of so many jars, in a vessel, and what-ifs beside it. Jars 0 is
// the size that the version is costed at; a nil Vessel is the one that it is made in, 0 none.
type CostAsk struct {
	Jars   int        `json:"jars"`
	Vessel *int64     `json:"vessel"`
	Cases  []CostCase `json:"cases"`
}

// CostCase is a what-if: its changes touch no price that is kept.
type CostCase struct {
	Name    string           `json:"name"`
	Changes []costing.Change `json:"changes"`
}

// mostCases is how many what-ifs stand side by side, and mostCaseChanges how many changes one has.
const (
	mostCases       = 4
	mostCaseChanges = 12
)

// CostView is what a jar of a version costs, what moves it, and what to ask for it.
type CostView struct {
	Formula string                  `json:"formula"`
	Name    string                  `json:"name"`
	Version int                     `json:"version"`
	State   string                  `json:"state"`
	Jars    int                     `json:"jars"`
	Vessel  int64                   `json:"vessel"` // 0: none that is named
	Vessels []CostVessel            `json:"vessels"`
	Stack   costing.Stack           `json:"stack"`
	Curve   costing.Curve           `json:"curve"`
	Moves   []costing.Move          `json:"moves"`
	Ways    []costing.Ways          `json:"ways"`
	Pricing costing.Pricing         `json:"pricing"`
	Ladder  []costing.Rung          `json:"ladder"`
	Month   *amount.Exact           `json:"made_a_month"` // jars, lately; nil where none were made
	Cases   []CostCaseView          `json:"cases"`
	Fill    amount.Grams            `json:"fill_g"`
	Pack    []formula.PackagingItem `json:"packaging"`
}

// CostVessel is a vessel that a batch can be costed in.
type CostVessel struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// CostCaseView is a what-if worked out. More is what a jar costs more than today, nil where a missing price lets
// nothing be compared.
type CostCaseView struct {
	CostCase
	Stack  costing.Stack  `json:"stack"`
	More   *amount.Exact  `json:"more"`
	Ladder []costing.Rung `json:"ladder"`
}

// Cost works out what a jar of a version costs. It writes nothing. Errors: ErrNotFound, and Problem for what cannot be.
func (a *App) Cost(ctx context.Context, ref formula.Ref, ask CostAsk) (CostView, error) {
	st := a.on(ctx)
	d := newDesk()
	sheet, err := st.Sheet(ref, &d, Named{})
	if err != nil {
		return CostView{}, err
	}
	v := sheet.Version.Core()
	if ask.Jars == 0 {
		ask.Jars = v.CostingJars
	}
	if ask.Jars < 1 || ask.Jars > 100_000 {
		return CostView{}, field("jars", "between 1 and 100 000 jars")
	}
	p, s, err := a.product(st, d, sheet.Formula, v)
	if err != nil {
		return CostView{}, err
	}
	out := CostView{Formula: v.Formula, Name: sheet.Formula.Name, Version: v.Number, State: v.State, Jars: ask.Jars,
		Pricing: s.Pricing, Cases: []CostCaseView{}, Fill: v.FillGrams, Pack: v.Packaging}
	if err := a.chooseVessel(st, &p, &out, s, ask.Vessel); err != nil {
		return out, err
	}
	steps, _ := a.stepsAmong(d.Steps)
	if err := a.withKinOf(st, &p, s, steps); err != nil {
		return out, err
	}
	if p, err = p.Expanded(); err != nil {
		return out, lineProblem(err)
	}
	out.Stack = p.Jar(ask.Jars)
	out.Curve = p.Curve(costing.CurveFrom, max(costing.CurveTo, ask.Jars), costing.CurvePoints)
	if out.Moves, err = p.Moves(ask.Jars); err != nil {
		return out, mistakeOf(err)
	}
	if out.Ways, err = p.Ways(ask.Jars); err != nil {
		return out, mistakeOf(err)
	}
	out.Ladder = s.Pricing.Ladder(out.Stack.PerJar)
	if out.Month, err = a.madeAMonth(st, v.Formula, s); err != nil {
		return out, err
	}
	out.Cases, err = a.cases(st, p, out, ask)
	return out, err
}

// product is a version with what its cost is worked out of.
func (a *App) product(st Store, d Desk, f Formula, v formula.Version) (costing.Product, Settings, error) {
	in, err := a.inputs(st, d, f, v)
	if err != nil {
		return costing.Product{}, d.Settings, err
	}
	if in.Library, err = frozen(st, in.Library, v); err != nil {
		return costing.Product{}, d.Settings, err
	}
	s := d.Settings.WithDefaults().withThings()
	steps, _ := a.stepsAmong(d.Steps)
	terms, prices := a.termsOf(st, s, steps, map[string]pantry.Ingredient{})
	terms.Told, terms.Made = true, in.Made(v.Formula)
	return costing.Product{Version: v, Library: in.Library, Terms: terms, Prices: prices}, s, nil
}

// withKinOf finds what is the same food as a line's come to in another way: it has the same name on a label, is as raw
// or as cooked, about as wet, is not made of it, and has a price or a step that makes it. A component's is what is
// bought by the words of its name.
func (a *App) withKinOf(st Store, p *costing.Product, s Settings, steps []pantry.Preparation) error {
	rows, err := st.Ingredients()
	if err != nil {
		return err
	}
	p.Kin = map[string][]string{}
	p.Library.Ingredients = maps.Clone(p.Library.Ingredients)
	for _, l := range p.Version.Lines {
		g, words := p.Library.Ingredients[l.Ingredient], ""
		if l.Component != nil {
			words = wordsIn(p.Library.Name(l.Component.Formula))
		}
		for i := range rows {
			o := &rows[i].Data
			same := g != nil && sameFood(g, o, s.Regime) && !madeOf(steps, g.ID, o.ID)
			bought := words != "" && !o.IsPackaging() && slices.Contains(a.calledBy(o), words)
			if rows[i].Retired || !same && !bought {
				continue
			}
			if p.Library.Ingredients[o.ID] == nil {
				p.Library.Ingredients[o.ID] = o
			}
			if _, err := p.Terms.Rate(p.Library.Ingredients[o.ID], ""); err == nil {
				p.Kin[l.ID] = append(p.Kin[l.ID], o.ID)
			}
		}
	}
	return nil
}

// madeOf reports whether one of two is made of the other: then they are one food in two states.
func madeOf(steps []pantry.Preparation, a, b string) bool {
	return slices.ContainsFunc(steps, func(p pantry.Preparation) bool {
		return p.Input == a && (p.Output == b || p.CoOutput == b) || p.Input == b && (p.Output == a || p.CoOutput == a)
	})
}

// rawFlags are of what was not cooked.
var rawFlags = []string{"raw_vegetable", "raw_herb", "raw_allium"}

// mostWetter is by how many grams of water in 100 g the same food may differ.
const mostWetter = 10

func sameFood(g, o *pantry.Ingredient, regime law.Regime) bool {
	return o.ID != g.ID && o.LabelFor(regime) == g.LabelFor(regime) && !o.IsPackaging() &&
		o.HasAny(rawFlags...) == g.HasAny(rawFlags...) &&
		math.Abs(o.Composition.Water-g.Composition.Water) <= mostWetter
}

// chooseVessel puts the product into the vessel that was asked for, and lists those that there are.
func (a *App) chooseVessel(st Store, p *costing.Product, out *CostView, s Settings, ask *int64) error {
	vessels, err := st.Vessels()
	if err != nil {
		return err
	}
	out.Vessels = []CostVessel{}
	for _, v := range vessels {
		if !v.Retired && v.Greatest.IsPositive() {
			out.Vessels = append(out.Vessels, CostVessel{v.ID, v.Name})
		}
	}
	out.Vessel = p.Terms.Made.Vessel.ID
	if ask == nil || *ask == out.Vessel {
		return nil
	}
	in := bench.Vessel{Residue: s.Residue}
	if *ask != 0 {
		at := slices.IndexFunc(vessels, func(v Vessel) bool { return v.ID == *ask })
		if at < 0 {
			return field("vessel", "this vessel is not there any more")
		}
		v := vessels[at]
		in = bench.Vessel{ID: v.ID, Name: v.Name, Least: v.Least, Greatest: v.Greatest, Residue: v.Residue}
	}
	p.Terms.Made, out.Vessel = s.made(in), in.ID
	return nil
}

// cases works out the what-ifs, each by itself.
func (a *App) cases(st Store, p costing.Product, today CostView, ask CostAsk) ([]CostCaseView, error) {
	out := []CostCaseView{}
	if len(ask.Cases) > mostCases {
		return out, field("cases", "at most %d side by side", mostCases)
	}
	for i, c := range ask.Cases {
		at := fmt.Sprintf("cases[%d].", i)
		if len(c.Changes) > mostCaseChanges {
			return out, field(at+"changes", "at most %d changes", mostCaseChanges)
		}
		lib := p.Library
		lib.Ingredients = maps.Clone(lib.Ingredients)
		for _, x := range c.Changes {
			named := x.To != "" && (x.Kind == costing.ChangeSwap || x.Kind == costing.ChangePack)
			if named && lib.Ingredients[x.To] == nil {
				if row, err := st.Ingredient(x.To); err == nil {
					lib.Ingredients[x.To] = &row.Data
				}
			}
		}
		q := p
		q.Library = lib
		changed, err := q.With(c.Changes...)
		if err != nil {
			return out, within(at, mistakeOf(err))
		}
		v := CostCaseView{CostCase: c, Stack: changed.Jar(ask.Jars)}
		if more, comparable := costing.Saves(today.Stack, v.Stack); comparable {
			v.More = &more
		}
		v.Ladder = today.Pricing.Ladder(v.Stack.PerJar)
		out = append(out, v)
	}
	return out, nil
}

// within puts the fields of a mistake under the place where they were typed.
func within(at string, err error) error {
	var p Problem
	if !errors.As(err, &p) {
		return err
	}
	p.Fields = slices.Clone(p.Fields)
	for i := range p.Fields {
		p.Fields[i].Field = at + p.Fields[i].Field
	}
	return p
}

// Over how many days jars are counted that were really made, and how many days a month has.
const lately = 91

var monthDays = amount.Ratio(365, 12)

// madeAMonth is how many jars a month were made of a formula lately.
func (a *App) madeAMonth(st Store, id string, s Settings) (*amount.Exact, error) {
	today := a.today(s)
	jars, first, err := st.JarsMade(id, today.AddDate(0, 0, -lately))
	if err != nil || jars == 0 {
		return nil, err
	}
	days := int64(min(lately, max(30, int(today.Sub(first).Hours()/24)+1)))
	n := amount.Whole(int64(jars)).Times(monthDays).Over(amount.Whole(days))
	return &n, nil
}

// BatchVariance is what a batch cost against its standard.
type BatchVariance struct {
	costing.Variance
	Batch      int64        `json:"batch"`
	Code       string       `json:"code"`
	MadeOn     string       `json:"made_on"`
	Difference amount.Exact `json:"difference"`
}

// VarianceOf is what a batch cost against its standard on the day it was made. Errors: ErrNotFound, and Problem where
// it was not weighed and filled yet.
func (a *App) VarianceOf(ctx context.Context, id int64) (BatchVariance, error) {
	st := a.on(ctx)
	l, err := a.load(st, id)
	if err != nil {
		return BatchVariance{}, err
	}
	return a.variance(st, l, map[string]pantry.Ingredient{})
}

// standardOf are the terms of a batch's standard: by the offers of the day it was made, whatever the lots cost that are
// on hand now.
func (a *App) standardOf(st Store, l loaded, behind map[string]pantry.Ingredient) costing.Terms {
	s := l.book.settings
	if s.PriceRule == pantry.LotsPrice {
		s.PriceRule = pantry.NewestPrice
	}
	terms, _ := a.termsOn(st, s, l.book.steps, behind, l.row.MadeOn)
	terms.Item = func(id string) *pantry.Ingredient { return l.lib.Ingredients[id] }
	return terms
}

// variance sets what a batch met against its standard. behind are ingredients behind steps that are known.
func (a *App) variance(st Store, l loaded, behind map[string]pantry.Ingredient) (BatchVariance, error) {
	out := BatchVariance{Batch: l.row.ID, Code: l.row.Code, MadeOn: l.row.MadeOn.Format(pantry.DateLayout)}
	if !l.record.Weighed || l.record.Fill == nil {
		return out, refused("not_filled", "What it cost against its standard is known once it is weighed and filled.")
	}
	if len(l.record.Splits) > 0 {
		return out, refused("split", "Part of its bowl went into other jars: what it cost against its standard cannot be told apart.")
	}
	terms := a.standardOf(st, l, behind)
	out.Variance = costing.Against(l.met(terms), l.row.Jars, l.record.Fill.Jars)
	pack := packOf(l, terms)
	out.Packaging, out.Hands = &pack, l.handsAgainst(terms)
	out.Variance = out.Named()
	out.Difference = out.Variance.Difference()
	return out, nil
}

// packOf is the packaging of a batch: planned for its good jars with what is usually spoilt, and what was filled.
func packOf(l loaded, terms costing.Terms) costing.TwoWays {
	s := costing.Jar(l.version, nil, nil, terms)
	bare := s.Packaging.Times(l.version.RejectPercent.Rest())
	good := amount.Whole(int64(l.record.Fill.Jars))
	used := amount.Whole(int64(l.record.Fill.Jars + l.record.Fill.Rejected))
	return costing.Between(good.Over(l.version.RejectPercent.Rest()), used, bare, bare)
}

// handsAgainst are the hands of a batch: planned for its good jars, and as somebody wrote down at what an hour costs
// today; nil where nobody did.
func (l loaded) handsAgainst(terms costing.Terms) *costing.TwoWays {
	w := l.record.Worked
	nodes, err := l.lib.Expand(l.version)
	if w == nil || err != nil || l.row.Jars == 0 {
		return nil
	}
	onTop, err := l.lib.OnTop(l.version)
	if err != nil {
		return nil
	}
	if p := l.row.Planned; p != nil {
		terms.Made = costing.Made{Vessel: p.Vessel, Samples: p.Samples}
	}
	v := l.version
	v.CostingJars = l.row.Jars
	standard := costing.Jar(v, nodes, onTop, terms)
	hour := amount.Whole(60)
	each := standard.Minutes.Over(amount.Whole(int64(l.row.Jars)))
	out := costing.Between(each.Times(amount.Whole(int64(l.record.Fill.Jars))), amount.ExactFloat(w.Minutes),
		v.LabourPerHour.Exact().Over(hour), l.book.settings.LabourPerHour.Exact().Over(hour))
	return &out
}

// met are the lines of a batch as planned and as weighed, with their standard and what their lots cost.
func (l loaded) met(terms costing.Terms) []costing.Met {
	planned := map[string]amount.Grams{}
	for _, t := range l.row.Targets {
		planned[t.Line] = t.Grams
	}
	paid := map[string]costing.Paid{}
	for _, p := range l.costByLots().Lines {
		paid[p.Line] = p
	}
	out := []costing.Met{}
	seen := map[string]bool{}
	for _, n := range l.asMade() {
		base, _ := formula.Whole(n.Line.ID)
		m := costing.Met{Line: base, Name: n.Name, Planned: planned[n.Line.ID], Actual: n.Line.Grams,
			Paid: paid[n.Line.ID].ByLots}
		if per, complete := costing.PerGram(&n, terms); complete {
			m.PerGram = &per
		}
		seen[base] = true
		out = append(out, m)
	}
	whole, err := l.lib.Expand(l.version)
	if err != nil {
		return out
	}
	for _, n := range whole { // what was left out
		if seen[n.Line.ID] {
			continue
		}
		m := costing.Met{Line: n.Line.ID, Name: n.Name, Planned: planned[n.Line.ID]}
		if per, complete := costing.PerGram(&n, terms); complete {
			m.PerGram = &per
		}
		out = append(out, m)
	}
	return out
}

// FormulaVariances are the last filled batches of a formula against their standards, the oldest first.
type FormulaVariances struct {
	Batches []BatchVariance `json:"batches"`
}

// mostVariances is how many batches stand in the line of a formula.
const mostVariances = 12

// VariancesOf sets the last batches of a formula against their standards.
func (a *App) VariancesOf(ctx context.Context, id string) (FormulaVariances, error) {
	st := a.on(ctx)
	out := FormulaVariances{Batches: []BatchVariance{}}
	if _, err := st.Formula(id); err != nil {
		return out, err
	}
	rows, err := st.BatchesFilled(id, mostVariances)
	if err != nil || len(rows) == 0 {
		return out, err
	}
	desk, err := a.judging(st)
	if err != nil {
		return out, err
	}
	list, err := desk.read(st, rows)
	if err != nil {
		return out, err
	}
	behind := map[string]pantry.Ingredient{}
	for _, l := range list {
		if !l.record.Weighed || l.record.Fill == nil || len(l.record.Splits) > 0 {
			continue
		}
		v, err := a.variance(st, l, behind)
		if err != nil {
			return out, err
		}
		out.Batches = append(out.Batches, v)
	}
	slices.SortStableFunc(out.Batches, func(x, y BatchVariance) int {
		if x.MadeOn != y.MadeOn {
			return strings.Compare(x.MadeOn, y.MadeOn)
		}
		return int(x.Batch - y.Batch)
	})
	return out, nil
}
