package demo

import (
	"context"
	"fmt"
	"slices"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"
)

// otherSupplier brings what has no price in the list.
const otherSupplier = "Fallowfield Veg"

// chilledC is what the made-up dairy's van is read at.
const chilledC = 3.4

// larder buys for the made-up shop what its batches need, a day before they are made.
type larder struct {
	ctx   context.Context
	app   *app.App
	notes int
	goods map[string]pantry.Ingredient
}

func newLarder(ctx context.Context, a *app.App) *larder {
	return &larder{ctx: ctx, app: a, goods: map[string]pantry.Ingredient{}}
}

func (s *larder) ingredient(id string) (pantry.Ingredient, error) {
	if g, have := s.goods[id]; have {
		return g, nil
	}
	v, err := s.app.Catalog.Ingredient(s.ctx, id)
	if err != nil {
		return pantry.Ingredient{}, err
	}
	s.goods[id] = v.Ingredient
	return v.Ingredient, nil
}

// batches is for how many batches like this one is bought at a time.
func batches(g pantry.Ingredient) int64 {
	if lots.NeedsEnd(&g) || g.HasAny("raw_vegetable", "raw_allium", "raw_fruit") {
		return 1
	}
	return 4
}

// buy sees to it that every line of a batch has lots enough, and answers the lots by line.
func (s *larder) buy(b production.BatchView, made time.Time, left int) (map[string][]production.Candidate, error) {
	then := at(s.app, made)
	all, err := then.Production.LotsFor(s.ctx, b.ID)
	if err != nil {
		return nil, err
	}
	orders := map[string][]production.NewLot{}
	for i, l := range b.Record.Lines {
		need := l.Grams.Exact().Times(amount.Ratio(102, 100)).Grams()
		for _, c := range all[i].Lots {
			if c.WhyNot == "" {
				need = need.Minus(c.Reaches)
			}
		}
		if !need.IsPositive() || len(all[i].Of) == 0 || all[i].Of[0] == "water" {
			continue
		}
		supplier, row, err := s.order(all[i].Of[0], need, made, left+i)
		if err != nil {
			return nil, err
		}
		orders[supplier] = append(orders[supplier], row)
	}
	for _, supplier := range sorted(orders) {
		s.notes++
		_, err := at(s.app, made.Add(-20*time.Hour)).Production.Receive(kernel.As(s.ctx, maker),
			production.NewDelivery{Supplier: supplier,
				Note: fmt.Sprintf("%04d", 4100+s.notes*7), Day: day.Of(made.Add(-20 * time.Hour)),
				Lots: orders[supplier]})
		if err != nil {
			return nil, fmt.Errorf("delivery of %s: %w", supplier, err)
		}
	}
	if all, err = then.Production.LotsFor(s.ctx, b.ID); err != nil {
		return nil, err
	}
	out := map[string][]production.Candidate{}
	for _, l := range all {
		out[l.Line] = l.Lots
	}
	return out, nil
}

// order is a row of the next delivery: packs of the newest offer, as many as the need of a batch or some.
func (s *larder) order(id string, need amount.Grams, made time.Time, left int) (string, production.NewLot, error) {
	g, err := s.ingredient(id)
	if err != nil {
		return "", production.NewLot{}, err
	}
	bought := need.Float() * float64(batches(g)) * 100 / g.Usable()
	supplier, pack := otherSupplier, amount.MustQuantity("1000")
	unit, price := "g", amount.MustMoney("6.4")
	if n := len(g.Offers); n > 0 {
		o := g.Offers[n-1]
		supplier, pack, unit, price = o.Supplier, o.PackAmount, o.PackUnit, o.Price
	}
	each := pack.Float()
	if unit == "ml" {
		each *= g.DensityGPerML
	}
	packs := int64(bought/each) + 1
	row := production.NewLot{Ingredient: id, Text: fmt.Sprintf("%c%d/%02d", 'A'+len(id)%26, 200+s.notes*13+len(g.Name),
		s.notes%90+1),
		Pack: fmt.Sprintf("%d x %s %s", packs, pack, unit), Accept: true}
	cost := price.Exact().Times(amount.Whole(packs)).Money()
	row.Cost = &cost
	switch {
	case lots.NeedsEnd(&g):
		row.Ends = day.Of(made.AddDate(0, 0, left))
	case !g.HasAny("raw_vegetable", "raw_allium", "raw_fruit"):
		row.Ends = day.Of(made.AddDate(0, 0, 240+len(id)*3))
	}
	if lots.ArrivesCold(&g) {
		c := chilledC
		row.ArrivalC = &c
	}
	if lots.NeedsProof(&g) {
		row.Statement = fmt.Sprintf("Steam treated, certificate MM-%d", 310+s.notes)
	}
	return supplier, row, nil
}

// draws takes a line's grams from its lots, what ends first first.
func draws(grams amount.Grams, from []production.Candidate) []bench.Draw {
	var out []bench.Draw
	for _, c := range from {
		part := grams
		if c.Reaches.Cmp(part) < 0 {
			part = c.Reaches
		}
		if c.WhyNot != "" || !part.IsPositive() {
			continue
		}
		out = append(out, bench.Draw{Code: c.Code, Grams: part})
		grams = grams.Minus(part)
	}
	return out
}

func sorted(orders map[string][]production.NewLot) []string {
	var names []string
	for name := range orders {
		names = append(names, name)
	}
	slices.Sort(names)
	return names
}
