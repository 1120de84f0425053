package production

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/allergen"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// kitchen is what a plan needs before its day: what to get, what to prepare, which components to have.
type kitchen struct {
	list  bench.List
	made  []PlanMade
	steps []pantry.Preparation
}

// PlanMade is a component that a plan needs, and what there is of it.
type PlanMade struct {
	Formula string       `json:"formula"`
	Version int          `json:"version"`
	Name    string       `json:"name"`
	Need    amount.Grams `json:"need_g"`
	There   amount.Grams `json:"there_g"`
	Frozen  amount.Grams `json:"frozen_g"` // besides; thawed first
}

// kitchen computes the shopping list of a plan's targets for a day.
func (a *Room) kitchen(st kernel.Store, b catalog.Book, v formula.Version, targets []bench.Target,
	date time.Time) (*kitchen, error) {
	wants, components := bench.WantedBy(v, targets)
	steps, _, err := a.Catalog.Steps(st)
	if err != nil {
		return nil, err
	}
	k := &kitchen{steps: steps, made: []PlanMade{}}
	var ids []string
	for _, w := range wants {
		ids = append(ids, w.Ingredient)
	}
	all := behind(ids, steps)
	rows, err := st.Ingredients(all...)
	if err != nil {
		return nil, err
	}
	have := map[string]*pantry.Ingredient{}
	for i := range rows {
		have[rows[i].ID] = &rows[i].Data
	}
	lots, err := st.LotsThere(all, slices.Collect(maps.Keys(components)))
	if err != nil {
		return nil, err
	}
	there := map[string]amount.Grams{}
	on := day.Of(date)
	for _, l := range lots {
		if l.Formula == "" && l.WhyNot(on) == "" && l.Left.IsPositive() {
			there[l.Ingredient] = there[l.Ingredient].Plus(l.Left)
		}
	}
	market := a.Catalog.Market(st, b.Settings, a.TodayIn(b.Settings))
	if market.Rule == pantry.LotsPrice {
		market.Rule = pantry.NewestPrice // what is bought is bought at an offer
	}
	own := func(g *pantry.Ingredient) (pantry.UnitCost, error) { return g.Cost(market) }
	m, err := a.Catalog.Measures(st, "")
	if err != nil {
		return nil, err
	}
	k.list = bench.ShoppingList(wants, bench.Kitchen{Ingredients: have, Steps: steps, There: there, Offer: own,
		Piece: func(id string) float64 { return kernel.PieceOf(m, id) }})
	k.made, err = madeHere(st, components, lots, on)
	return k, err
}

// madeHere returns the components that a plan needs, with what there is of them.
func madeHere(st kernel.Store, components map[formula.Ref]amount.Grams, lots []kernel.LotStanding,
	on day.Day) ([]PlanMade, error) {
	out := []PlanMade{}
	refs := slices.SortedFunc(maps.Keys(components),
		func(x, y formula.Ref) int { return strings.Compare(x.String(), y.String()) })
	for _, r := range refs {
		f, err := st.Formula(r.Formula)
		if err != nil {
			return nil, err
		}
		m := PlanMade{Formula: r.Formula, Version: r.Version, Name: f.Name, Need: components[r]}
		for _, l := range lots {
			switch {
			case l.Formula != r.Formula || l.Version != r.Version || !l.Left.IsPositive():
			case l.Frozen && l.Bar == "":
				m.Frozen = m.Frozen.Plus(l.Left)
			case l.WhyNot(on) == "":
				m.There = m.There.Plus(l.Left)
			}
		}
		out = append(out, m)
	}
	return out, nil
}

// behind returns ingredients with everything that preparations make them of.
func behind(ids []string, steps []pantry.Preparation) []string {
	seen := map[string]bool{}
	for len(ids) > 0 {
		var next []string
		for _, id := range ids {
			if seen[id] {
				continue
			}
			seen[id] = true
			for _, p := range steps {
				if p.Output == id || p.CoOutput != "" && p.CoOutput == id {
					next = append(next, p.Input)
					for _, e := range p.Extras {
						next = append(next, e.Ingredient)
					}
				}
			}
		}
		ids = next
	}
	return slices.Sorted(maps.Keys(seen))
}

// hotLines marks the lines that come hot from a preparation of this batch: their cooling is logged.
func (d *drafted) hotLines() {
	for _, p := range d.kitchen.list.Prepare {
		if !p.Cools {
			continue
		}
		for i := range d.version.Lines {
			if d.version.Lines[i].Ingredient == p.Step.Output {
				d.batch.Targets[i].Hot = p.Step.ID
			}
		}
	}
	k := d.version.Keeping
	d.batch.Planned.HotFilled = k.HeatMinC >= 57 && k.Asked == law.Chilled
}

// errands returns what is ticked at the bench: guards, a clean vessel, what is prepared, and the version's own steps.
func (d *drafted) errands(st kernel.Store) error {
	p := d.batch.Planned
	if v := p.Vessel; v.ID != 0 {
		look, err := d.cleanDown(st, v)
		if err != nil {
			return err
		}
		if look != "" {
			p.Errands = append(p.Errands, bench.Errand{Key: bench.CleanDown, Text: "Clean " + v.Name + " down",
				Look: look,
				Once: true, First: true})
		}
		p.Errands = append(p.Errands, bench.Errand{Key: "guards", Text: "Guards on, blade seated, hands out",
			First: true})
	}
	for _, x := range d.kitchen.list.Prepare {
		p.Errands = append(p.Errands, bench.Errand{Key: "prep-" + x.Key,
			Text: sentenceCase(strings.ReplaceAll(x.Name, "_", " ")) + ": " + x.Input,
			Look: x.Look, Minutes: x.Wait, Once: true})
	}
	for i, s := range d.version.Steps {
		p.Errands = append(p.Errands, bench.Errand{Key: fmt.Sprintf("step-%d", i+1), Text: s.Text, Look: s.Check,
			Vessel: s.Vessel, Minutes: s.Minutes, Celsius: s.Celsius})
	}
	return nil
}

func sentenceCase(s string) string { return strings.TrimSuffix(field.Sentence(s), ".") }

// cleanDown words which allergens the vessel carries that this product does not have; empty if none.
func (d *drafted) cleanDown(st kernel.Store, v bench.Vessel) (string, error) {
	turns, err := turnsOf(st, []kernel.Vessel{{ID: v.ID}})
	if err != nil {
		return "", err
	}
	under, own := d.book.Settings.Regime, law.Each[[]string]{}
	for _, n := range leavesOf(d.nodes) {
		own[under] = append(own[under], n.Allergens[under]...)
	}
	var words []string
	for _, c := range allergen.CarriedInto(append(asTurns(turns[v.ID]), allergen.Turn{Batch: -1}), -1, own)[under] {
		if w := d.book.Law.Word(c.Code); !slices.Contains(words, w) {
			words = append(words, w)
		}
	}
	if len(words) == 0 {
		return "", nil
	}
	return "it carries " + strings.Join(words, ", "), nil
}

func leavesOf(nodes []formula.Node) []*pantry.Ingredient {
	leaves, _ := formula.Leaves(nodes)
	out := make([]*pantry.Ingredient, len(leaves))
	for i, l := range leaves {
		out[i] = l.Ingredient
	}
	return out
}

// PlanLine is a line of a plan over its loads.
type PlanLine struct {
	Line   string         `json:"line"`
	Name   string         `json:"name"`
	Phase  string         `json:"phase"`
	Grams  amount.Grams   `json:"grams"`
	Loads  []amount.Grams `json:"loads"`
	Scale  string         `json:"scale"`
	Doubt  string         `json:"doubt"`
	Hold   float64        `json:"hold_back_percent"`
	Hot    string         `json:"hot"`
	MakeUp formula.MakeUp `json:"make_up"`
}

// PlanView is a plan with everything derived from it.
type PlanView struct {
	Batch    int64           `json:"batch"` // 0: nobody has said yes to it
	Formula  string          `json:"formula"`
	Version  int             `json:"version"`
	Name     string          `json:"name"`
	Code     string          `json:"code"`
	Jars     int             `json:"jars"`
	MadeOn   day.Day         `json:"made_on"`
	StartAt  string          `json:"start_at"`
	Fill     amount.Grams    `json:"fill_g"`
	Over     amount.Percent  `json:"overfill_percent"`
	Loss     amount.Percent  `json:"loss_percent"`
	Samples  amount.Grams    `json:"sample_g"`
	Vessel   bench.Vessel    `json:"vessel"`
	Vessels  []bench.Vessel  `json:"vessels"` // that may be chosen
	Total    amount.Grams    `json:"total_g"`
	Loads    []amount.Grams  `json:"loads"`
	Below    bool            `json:"below_least"`
	Word     string          `json:"word"`
	Lines    []PlanLine      `json:"lines"`
	MakeUp   formula.MakeUp  `json:"make_up"`
	Expected int             `json:"jars_expected"`
	Day      bench.Timetable `json:"day"`
	Shopping bench.List      `json:"shopping"`
	Made     []PlanMade      `json:"made"`
	Errands  []bench.Errand  `json:"errands"`
	// what the jars are filled to since a batch before; nil: as the version says
	Aim *kernel.AimedAt `json:"aimed"`
}

// PreviewPlan shows what a plan comes to; nothing is written.
func (a *Room) PreviewPlan(ctx context.Context, ask PlanAsk) (PlanView, error) {
	st := a.On(ctx)
	d, err := a.draft(st, ask)
	if err != nil {
		return PlanView{}, err
	}
	return d.view(), nil
}

// PlanOf shows the plan of a batch as decided, with the shopping list by today's stock.
func (a *Room) PlanOf(ctx context.Context, id int64) (PlanView, error) {
	st := a.On(ctx)
	b, err := st.Batch(id)
	if err != nil {
		return PlanView{}, err
	}
	if b.Planned == nil {
		return PlanView{}, kernel.Refuse("no_plan", "This batch was planned before plans were kept.")
	}
	d, err := a.draftOf(st, formula.Ref{Formula: b.FormulaID, Version: b.Version})
	if err != nil {
		return PlanView{}, err
	}
	d.batch = b
	d.ask, d.size = bench.Sized(b.Planned, b.Jars)
	clock, err := time.Parse("15:04", b.Planned.StartAt)
	if err != nil {
		return PlanView{}, errors.Join(errors.New("plan of "+b.Code), err)
	}
	d.start = time.Date(b.MadeOn.Year(), b.MadeOn.Month(), b.MadeOn.Day(), clock.Hour(), clock.Minute(), 0, 0,
		d.book.Settings.Zone())
	if d.kitchen, err = a.kitchen(st, d.book, d.version, b.Targets, b.MadeOn); err != nil {
		return PlanView{}, err
	}
	return d.view(), nil
}

func (d *drafted) view() PlanView {
	b, p := d.batch, d.batch.Planned
	v := PlanView{Batch: b.ID, Formula: b.FormulaID, Version: b.Version, Name: d.lib.Name(b.FormulaID), Code: b.Code,
		Jars: b.Jars, MadeOn: day.Of(b.MadeOn), StartAt: p.StartAt, Fill: p.Fill, Over: p.Over,
		Loss: p.Loss, Samples: p.Samples, Vessel: p.Vessel, Vessels: []bench.Vessel{}, Total: d.size.Total,
		Loads: d.size.Load, Below: d.size.BelowLeast, Word: d.ask.Word(d.size, p.Vessel.Name), Lines: []PlanLine{},
		Shopping: d.kitchen.list, Made: d.kitchen.made, Errands: p.Errands, Aim: d.aim}
	for _, x := range d.vessels {
		v.Vessels = append(v.Vessels, bench.Vessel{ID: x.ID, Name: x.Name, Least: x.Least, Greatest: x.Greatest,
			Residue: x.Residue})
	}
	leaves, off := formula.Leaves(d.nodes)
	v.MakeUp = formula.MakeUpOf(leaves, off)
	for i := range d.nodes {
		t := b.Targets[i]
		line := PlanLine{Line: t.Line, Name: t.Name, Phase: t.Phase, Grams: t.Grams, Hold: t.Hold, Hot: t.Hot,
			Loads: []amount.Grams{}, MakeUp: d.nodes[i].MakeUp()}
		for _, load := range p.Loads {
			line.Loads = append(line.Loads, load[i])
		}
		on, doubt := p.WeighedOn(line.Loads[len(line.Loads)-1])
		line.Scale, line.Doubt = on.Name, doubt
		v.Lines = append(v.Lines, line)
	}
	v.Expected = d.ask.JarsOf(d.size.Total.Exact(), d.size.Loads)
	v.Day = bench.Day{Start: d.start, Cooling: d.book.Law.Cooling, Loads: d.size.Loads, Jars: b.Jars,
		PerBatch: d.version.MinutesPerBatch.Float() / float64(d.size.Loads), PerJar: d.version.MinutesPerJar.Float(),
		Steps: stepMinutes(d.version), Reads: true}.Plan(d.kitchen.list.Prepare)
	return v
}

func stepMinutes(v formula.Version) float64 {
	sum := 0.0
	for _, s := range v.Steps {
		sum += s.Minutes
	}
	return sum
}
