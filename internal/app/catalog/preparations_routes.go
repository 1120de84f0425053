package catalog

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// Route is a way to obtain so many grams of something: by a step, or bought ready.
type Route struct {
	Preparation string `json:"preparation"`
	Ingredient  string `json:"ingredient"` // where no step is named
}

// RouteView is what a route needs and yields for the same grams of output.
type RouteView struct {
	Name        string          `json:"name"`
	Bought      string          `json:"bought"`
	BuyGrams    float64         `json:"buy_g"`
	OutName     string          `json:"out_name"`
	OutGrams    float64         `json:"out_g"`
	CoName      string          `json:"co_name"`
	CoGrams     float64         `json:"co_g"`
	CoSurplus   float64         `json:"co_surplus_g"`
	OutSurplus  float64         `json:"out_surplus_g"`
	Material    *amount.Exact   `json:"material"`
	Labour      amount.Exact    `json:"labour"`
	Total       *amount.Exact   `json:"total"`
	Minutes     float64         `json:"minutes"`
	WaitMinutes float64         `json:"wait_min"`
	PH          *pantry.PHRange `json:"ph"`
	Titratable  float64         `json:"titratable_percent"` // as acetic acid
	Salt        float64         `json:"salt_percent"`
	MakeUp      formula.MakeUp  `json:"make_up"`
	Allergens   []string        `json:"allergens"`
	Declared    string          `json:"declared"`
	LookFor     string          `json:"look_for"`
}

const maxRoutes = 4

// CompareRoutes compares ways to the same grams of output. co is how much of the co-output is needed besides.
func (a *Room) CompareRoutes(ctx context.Context, routes []Route, out, co float64) ([]RouteView, error) {
	st := a.On(ctx)
	if len(routes) == 0 || len(routes) > maxRoutes {
		return nil, kernel.Mistake("routes", "compare 1 to %d ways", maxRoutes)
	}
	if !(out > 0) || out > amount.MaxGrams {
		return nil, kernel.Mistake("out_g", "grams above 0 and up to 10 000 kg")
	}
	b, err := a.Book(st)
	if err != nil {
		return nil, err
	}
	steps, _, err := a.Steps(st)
	if err != nil {
		return nil, err
	}
	views := []RouteView{}
	for i, r := range routes {
		v, err := a.route(st, b, steps, r, out, co)
		if errors.Is(err, kernel.ErrNotFound) {
			return nil, kernel.Mistake(fmt.Sprintf("routes[%d]", i), "this is not there any more")
		}
		var wrong pantry.FieldError
		if errors.As(err, &wrong) {
			return nil, kernel.Mistakes(wrong)
		}
		if err != nil {
			return nil, err
		}
		views = append(views, v)
	}
	return views, nil
}

func (a *Room) route(st kernel.Store, b Book, steps []pantry.Preparation, r Route, out, co float64) (RouteView, error) {
	v := RouteView{OutGrams: out}
	id, bought := r.Ingredient, r.Ingredient
	var p *pantry.Preparation
	if r.Preparation != "" {
		i := slices.IndexFunc(steps, func(p pantry.Preparation) bool { return p.ID == r.Preparation })
		if i < 0 {
			return v, kernel.ErrNotFound
		}
		p = &steps[i]
		id, bought = p.Output, p.Input
	}
	row, err := st.Ingredient(id)
	if err != nil {
		return v, err
	}
	from, err := st.Ingredient(bought)
	if err != nil {
		return v, err
	}
	g := row.Data
	v.OutName, v.Bought, v.BuyGrams, v.Name = g.Name, from.Data.Name, out, "bought as it is"
	if p != nil {
		if err := v.through(st, b, *p, out, co); err != nil {
			return v, err
		}
	}
	a.routeCost(st, b, &v, &from.Data, p)
	v.PH, v.Salt, v.MakeUp = g.PH, g.Composition.Salt(), makeUpOf(g)
	v.Titratable = acidity.TitratableAcidity(acidity.Parts([]formula.Leaf{{Ingredient: &g, Grams: 100}}), 0)
	v.Allergens, v.Declared = g.Allergens[b.Law.Regime], g.LabelFor(b.Law.Regime)
	if list := g.ListFor(b.Law.Regime); list != "" {
		v.Declared += " (" + list + ")"
	}
	return v, nil
}

// routeCost fills in what a route costs, labour included, unless a price on the way is missing.
func (a *Room) routeCost(st kernel.Store, b Book, v *RouteView, from *pantry.Ingredient, p *pantry.Preparation) {
	way := costing.Bought
	if p != nil {
		way = "" // what goes in comes as the shop comes to it
	}
	c, err := b.Terms.Rate(from, way)
	if err != nil {
		return
	}
	in := amount.ExactFloat(v.BuyGrams)
	material, priced := c.PerGram.Times(in), true
	v.Labour = v.Labour.Plus(b.Settings.LabourPerHour.Exact().Times(c.Minutes).Times(in).Over(amount.Whole(60)))
	if p != nil {
		var extras amount.Exact
		extras, priced = a.extrasCost(st, b, *p, v.BuyGrams)
		material = material.Plus(extras)
	}
	if total := material.Plus(v.Labour); priced {
		v.Material, v.Total = &material, &total
	}
}

// through fills in what a step needs to make so many grams, and the labour.
func (v *RouteView) through(st kernel.Store, b Book, p pantry.Preparation, out, co float64) error {
	if p.CoOutput == "" {
		co = 0
	}
	buy, err := p.Buy(out, co)
	if err != nil {
		return err
	}
	v.Name, v.LookFor = strings.ReplaceAll(p.Name, "_", " "), p.LookFor
	v.BuyGrams, v.Minutes, v.WaitMinutes, v.CoSurplus, v.OutSurplus = buy.In, buy.Minutes, p.WaitMinutes,
		buy.SurplusCo, buy.SurplusOut
	if p.CoOutput != "" {
		if c, err := st.Ingredient(p.CoOutput); err == nil {
			v.CoName, v.CoGrams = c.Data.Name, buy.In*p.Expected().Co/100
		}
	}
	v.Labour = b.Settings.LabourPerHour.Exact().Times(amount.ExactFloat(buy.Minutes)).Over(amount.Whole(60))
	return nil
}

// extrasCost is the cost of the extras in the pan that stay in the output. priced is false if one of them has no price.
func (a *Room) extrasCost(st kernel.Store, b Book, p pantry.Preparation, in float64) (sum amount.Exact, priced bool) {
	priced = true
	for _, e := range p.Extras {
		row, err := st.Ingredient(e.Ingredient)
		if err != nil || e.UptakePercent == 0 {
			continue
		}
		if c, err := b.Terms.Rate(&row.Data, ""); err == nil {
			sum = sum.Plus(c.PerGram.Times(amount.ExactFloat(in * e.PerHundred / 100 * e.UptakePercent / 100)))
		} else if !row.Data.Has(pantry.FlagWater) {
			priced = false
		}
	}
	return sum, priced
}
