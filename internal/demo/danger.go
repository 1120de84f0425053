package demo

import (
	"context"
	"fmt"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/release"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// dangers tells what a shop must not let slip: an infused oil with its four days, a cheese that gained egg, and the
// blender that was not cleaned down.
func (r *room) dangers(now time.Time) error {
	if err := r.strainOil(now); err != nil {
		return fmt.Errorf("demo oil: %w", err)
	}
	if err := r.blend(now); err != nil {
		return fmt.Errorf("demo vessels: %w", err)
	}
	return nil
}

// price gives an ingredient its first offer.
func price(ctx context.Context, a *app.App, id, supplier, amountOf, unit, cost string) error {
	g, err := a.Catalog.Ingredient(ctx, id)
	if err != nil || len(g.Offers) > 0 {
		return err
	}
	g.Offers = []pantry.PriceOffer{{Supplier: supplier, PackAmount: amount.MustQuantity(amountOf), PackUnit: unit,
		Price: amount.MustMoney(cost), Date: day.Of(a.Now().AddDate(0, 0, -40))}}
	_, err = a.Catalog.SaveIngredient(ctx, g.Ingredient, false, g.Rev)
	return err
}

// strainOil makes an infused oil, which has nothing to measure: who strained it says that it is clear.
func (r *room) strainOil(now time.Time) error {
	s := story{formula: "slow_garlic_oil", version: 1, daysAgo: 1, jars: 10, perished: 6}
	id, err := r.tell(now, len(stories)+4, s)
	if err != nil {
		return err
	}
	t := &teller{ctx: r.ctx, app: r.app, id: id, tag: "oil"}
	filled := time.Date(now.Year(), now.Month(), now.Day(), 9, 0, 0, 0, now.Location()).AddDate(0, 0,
		-1).Add(3 * time.Hour)
	if err := t.write(filled.Add(time.Hour), helper, bench.Entry{Body: &bench.Strained{Clear: true,
		Note: "stood two hours, clear against the light"}}); err != nil {
		return err
	}
	if err := t.write(filled.Add(2*time.Hour), owner,
		bench.Entry{Body: &bench.Decided{State: bench.Released}}); err != nil {
		return err
	}
	return t.move(filled.Add(3*time.Hour), bench.Moved{From: bench.Filled, To: bench.ColdRoom, Jars: s.jars})
}

// vessels are what the shop blends in: the cutter, which most is made in, and what stands beside it.
func vessels(ctx context.Context, a *app.App) error {
	for _, v := range []kernel.Vessel{
		{Name: "12 L cutter", Least: amount.G(3000), Greatest: amount.G(10_500), Residue: amount.G(60)},
		{Name: "Blender jug 1", Least: amount.G(600), Greatest: amount.G(2500), Residue: amount.G(25)},
		{Name: "Blender jug 2", Least: amount.G(600), Greatest: amount.G(2500), Residue: amount.G(25)},
		{Name: "Steel bowl, 20 L", Least: amount.G(500), Greatest: amount.G(14_000), Residue: amount.G(20)},
	} {
		if _, err := a.Production.SaveVessel(ctx, v, 0); err != nil {
			return fmt.Errorf("demo vessels: %w", err)
		}
	}
	return nil
}

// blend writes down what was in the shared vessels: the dip of yesterday followed a pesto without a clean-down.
func (r *room) blend(now time.Time) error {
	vessels, err := r.app.Production.Vessels(r.ctx)
	if err != nil {
		return err
	}
	page, err := r.app.Production.Batches(r.ctx, kernel.BatchQuery{}, "")
	if err != nil {
		return err
	}
	newest := func(formula string) (kernel.BatchRow, bool) {
		for _, b := range page.Batches {
			if b.Formula == formula {
				return b, true
			}
		}
		return kernel.BatchRow{}, false
	}
	for i, turn := range []struct {
		vessel  int
		formula string // empty: cleaned down
		hours   int    // after the day of making began
	}{{1, "hazelnut_kale_pesto", 10}, {2, "tamarind_date_dressing", 10}, {2, "", 15}, {1, "lentil_tahini_dip", 11}} {
		e := kernel.VesselEntry{Vessel: vessels[turn.vessel].ID, Kind: bench.VesselCleaned,
			What: "hot water and detergent, rinsed, dried", At: now.AddDate(0, 0, -5)}
		if turn.formula != "" {
			b, there := newest(turn.formula)
			made, err := pantry.ParseDay(b.MadeOn)
			if !there || err != nil {
				return fmt.Errorf("turn %d: no batch of %s", i+1, turn.formula)
			}
			e.Kind, e.What, e.Batch, e.At = bench.VesselUsed, "", b.ID, made.Add(time.Duration(turn.hours)*time.Hour)
		}
		if _, err := r.app.Production.NoteVessel(kernel.As(r.ctx, helper), e); err != nil {
			return err
		}
	}
	return nil
}

// gainEgg reads the new packet of the hard cheese: it is made with an egg protein now.
func gainEgg(ctx context.Context, a *app.App) error {
	v, err := a.Catalog.Ingredient(ctx, "hard_grating_cheese")
	if err != nil {
		return err
	}
	in := release.LookIn{From: "the packet of the last delivery, back panel", Allergens: v.Carries,
		List: law.Each[string]{law.GB: "milk; salt; rennet; preservative: lysozyme (from egg)"}}
	_, err = a.Release.Look(kernel.Because(ctx, "the dairy changed its recipe"), v.ID, in, v.Rev)
	return err
}
