package catalog

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/shop"
)

// CostAsk asks what a version costs: in a batch of so many jars, in a vessel, with what-ifs beside it. Jars 0 means the
// size the version is costed at. A nil Vessel means the one it is made in; 0 means none.
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

// CostCaseView is a what-if worked out. More is how much more a jar costs than today, or nil where a missing price
// makes the two incomparable.
type CostCaseView struct {
	CostCase
	Stack  costing.Stack  `json:"stack"`
	More   *amount.Exact  `json:"more"`
	Ladder []costing.Rung `json:"ladder"`
}

// Cost works out what a jar of a version costs. It writes nothing. Errors: ErrNotFound, and a Problem for bad input.
func (a *Room) Cost(ctx context.Context, ref formula.Ref, ask CostAsk) (CostView, error) {
	st := a.On(ctx)
	d := kernel.NewDesk()
	sheet, err := st.Sheet(ref, &d, kernel.Named{})
	if err != nil {
		return CostView{}, err
	}
	v := sheet.Version.Core()
	if ask.Jars == 0 {
		ask.Jars = v.CostingJars
	}
	if ask.Jars < 1 || ask.Jars > 100_000 {
		return CostView{}, kernel.Mistake("jars", "between 1 and 100 000 jars")
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
	steps, _ := a.StepsAmong(d.Steps)
	if err := a.withKinOf(st, &p, s, steps); err != nil {
		return out, err
	}
	if p, err = p.Expanded(); err != nil {
		return out, LineProblem(err)
	}
	out.Stack = p.Jar(ask.Jars)
	out.Curve = p.Curve(costing.CurveFrom, max(costing.CurveTo, ask.Jars), costing.CurvePoints)
	if out.Moves, err = p.Moves(ask.Jars); err != nil {
		return out, kernel.MistakeOf(err)
	}
	if out.Ways, err = p.Ways(ask.Jars); err != nil {
		return out, kernel.MistakeOf(err)
	}
	out.Ladder = s.Pricing.Ladder(out.Stack.PerJar)
	if out.Month, err = a.madeAMonth(st, v.Formula, s); err != nil {
		return out, err
	}
	out.Cases, err = a.cases(st, p, out, ask)
	return out, err
}

// product is a version together with everything its cost is worked out from.
func (a *Room) product(st kernel.Store, d kernel.Desk, f kernel.Formula, v formula.Version) (costing.Product,
	shop.Settings, error) {
	in, err := a.inputs(st, d, f, v)
	if err != nil {
		return costing.Product{}, d.Settings, err
	}
	if in.Library, err = Frozen(st, in.Library, v); err != nil {
		return costing.Product{}, d.Settings, err
	}
	s := d.Settings.WithDefaults().WithThings()
	steps, _ := a.StepsAmong(d.Steps)
	terms, prices := a.TermsOf(st, s, steps, map[string]pantry.Ingredient{})
	terms.Told, terms.Made = true, in.Made(v.Formula)
	return costing.Product{Version: v, Library: in.Library, Terms: terms, Prices: prices}, s, nil
}

// withKinOf adds the ingredients a line could be swapped for: the same food reached another way, or one that goes by a
// component's name, provided it has a price or a step that makes it.
func (a *Room) withKinOf(st kernel.Store, p *costing.Product, s shop.Settings, steps []pantry.Preparation) error {
	rows, err := st.Ingredients()
	if err != nil {
		return err
	}
	shelf := match.Shelf{Names: a.NamesOf(rows), Steps: steps, Law: s.Regime}
	for i := range rows {
		if !rows[i].Retired {
			shelf.Items = append(shelf.Items, &rows[i].Data)
		}
	}
	p.Kin = map[string][]string{}
	p.Library.Ingredients = maps.Clone(p.Library.Ingredients)
	for _, l := range p.Version.Lines {
		var kin []*pantry.Ingredient
		if g := p.Library.Ingredients[l.Ingredient]; g != nil {
			kin = shelf.Kin(g)
		} else if l.Component != nil {
			kin = shelf.Called(p.Library.Name(l.Component.Formula))
		}
		for _, o := range kin {
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

// chooseVessel puts the product into the vessel asked for, and lists the vessels of the shop.
func (a *Room) chooseVessel(st kernel.Store, p *costing.Product, out *CostView, s shop.Settings, ask *int64) error {
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
		at := slices.IndexFunc(vessels, func(v kernel.Vessel) bool { return v.ID == *ask })
		if at < 0 {
			return kernel.Mistake("vessel", "this vessel is not there any more")
		}
		v := vessels[at]
		in = bench.Vessel{ID: v.ID, Name: v.Name, Least: v.Least, Greatest: v.Greatest, Residue: v.Residue}
	}
	p.Terms.Made, out.Vessel = s.Made(in), in.ID
	return nil
}

// cases works out each what-if on its own.
func (a *Room) cases(st kernel.Store, p costing.Product, today CostView, ask CostAsk) ([]CostCaseView, error) {
	out := []CostCaseView{}
	if len(ask.Cases) > mostCases {
		return out, kernel.Mistake("cases", "at most %d side by side", mostCases)
	}
	for i, c := range ask.Cases {
		at := fmt.Sprintf("cases[%d].", i)
		if len(c.Changes) > mostCaseChanges {
			return out, kernel.Mistake(at+"changes", "at most %d changes", mostCaseChanges)
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
			return out, within(at, kernel.MistakeOf(err))
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

// within prefixes the fields of a mistake with the place where they were typed.
func within(at string, err error) error {
	var p kernel.Problem
	if !errors.As(err, &p) {
		return err
	}
	p.Fields = slices.Clone(p.Fields)
	for i := range p.Fields {
		p.Fields[i].Field = at + p.Fields[i].Field
	}
	return p
}

// The days over which jars that were really made are counted, and the days of a month.
const lately = 91

var monthDays = amount.Ratio(365, 12)

// madeAMonth is how many jars of a formula were made in a month, lately.
func (a *Room) madeAMonth(st kernel.Store, id string, s shop.Settings) (*amount.Exact, error) {
	today := a.TodayIn(s)
	jars, first, err := st.JarsMade(id, today.AddDate(0, 0, -lately))
	if err != nil || jars == 0 {
		return nil, err
	}
	days := int64(min(lately, max(30, int(today.Sub(first).Hours()/24)+1)))
	n := amount.Whole(int64(jars)).Times(monthDays).Over(amount.Whole(days))
	return &n, nil
}
