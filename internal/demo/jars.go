package demo

import (
	"context"
	"fmt"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/people"
)

// room is the made-up shop while it is told: what it buys, and who buys of it.
type room struct {
	ctx     context.Context
	app     *app.App
	larder  *larder
	parties []kernel.Party // customers first, then market days
	markets int            // from here on
	turn    int
	cutter  int64
	jug     int64
}

// furnish lets the made-up customers and market days be known.
func furnish(ctx context.Context, a *app.App) (*room, error) {
	r := &room{ctx: ctx, app: a, larder: newLarder(ctx, a)}
	for _, p := range []kernel.Party{
		{Name: "Copper Kettle Café", Kind: kernel.Customer, Contact: "Tamsin Hale, 01632 960 014"},
		{Name: "Dunmore Farm Shop", Kind: kernel.Customer, Contact: "shop@dunmorefarm.example"},
		{Name: "Saltings Deli", Kind: kernel.Customer, Contact: "Oren Pike, 01632 960 227"},
	} {
		p, err := a.Production.AddParty(ctx, p)
		if err != nil {
			return nil, fmt.Errorf("demo customers: %w", err)
		}
		r.parties = append(r.parties, p)
	}
	r.markets = len(r.parties)
	list, err := a.Production.Vessels(ctx)
	if err != nil {
		return nil, err
	}
	for _, v := range list {
		switch v.Name {
		case "12 L cutter":
			r.cutter = v.ID
		case "Blender jug 2":
			r.jug = v.ID
		}
	}
	now := a.Now()
	for _, back := range []int{28, 14, 0, -7} {
		on := lastSaturday(now).AddDate(0, 0, -back)
		p, err := a.Production.AddParty(ctx, kernel.Party{Name: "Eddlesham market", Kind: kernel.Market,
			Day: day.Of(on)})
		if err != nil {
			return nil, fmt.Errorf("demo market days: %w", err)
		}
		r.parties = append(r.parties, p)
	}
	return r, nil
}

// lastSaturday is the newest Saturday up to a day.
func lastSaturday(now time.Time) time.Time {
	return now.AddDate(0, 0, -int(now.Weekday()+1)%7)
}

func (t *teller) move(at time.Time, m bench.Moved) error {
	return t.write(at, helper, bench.Entry{Body: &m})
}

// sell tells where the jars of a released batch went: samples, the cold room, two customers and a market, and what was
// left at the end of its life.
func (r *room) sell(now time.Time, id int64, s story) error {
	if s.decision == "rejected" {
		t := &teller{ctx: r.ctx, app: r.app, id: id, tag: fmt.Sprintf("jars-%d", id)}
		return t.move(now.AddDate(0, 0, -s.daysAgo+2), bench.Moved{From: bench.Filled, To: bench.Withdrawn,
			Jars: s.jars - s.short})
	}
	if s.decision != bench.Released {
		return nil
	}
	b, err := r.app.Production.Batch(r.ctx, id)
	if err != nil {
		return err
	}
	component := s.formula == "ginger_paste" || s.formula == "lime_garlic_base"
	t := &teller{ctx: r.ctx, app: r.app, id: id, tag: fmt.Sprintf("jars-%d", id)}
	jars, at := s.jars-s.short, b.Record.DecideAt.Add(time.Hour)
	if component {
		return t.move(at, bench.Moved{From: bench.Filled, To: bench.ColdRoom, Jars: jars})
	}
	if err := t.move(at, bench.Moved{From: bench.Filled, To: bench.Samples, Jars: 2}); err != nil {
		return err
	}
	left := jars - 2
	if err := t.move(at.Add(time.Minute), bench.Moved{From: bench.Filled, To: bench.ColdRoom, Jars: left}); err != nil {
		return err
	}
	for i, part := range []int{jars / 4, jars / 5, jars / 4} {
		when := at.AddDate(0, 0, 1+2*i)
		if when.After(now) || day.Of(when) > b.LastDay[b.Regime] {
			break
		}
		who := r.parties[(r.turn+i)%r.markets]
		if i == 1 {
			who = r.marketNear(when)
		}
		r.turn++
		if err := t.move(when, bench.Moved{From: bench.ColdRoom, To: bench.With, Jars: part,
			Party: who.ID}); err != nil {
			return err
		}
		left -= part
	}
	return r.clear(t, now, b, left)
}

// marketNear is the market day that is nearest to a time.
func (r *room) marketNear(when time.Time) kernel.Party {
	best, least := r.parties[r.markets], time.Duration(1<<62)
	for _, p := range r.parties[r.markets:] {
		day, err := day.Parse(p.Day)
		if off := when.Sub(day).Abs(); err == nil && off < least {
			best, least = p, off
		}
	}
	return best
}

// clear takes what was left of a batch past its date out of sale.
func (r *room) clear(t *teller, now time.Time, b production.BatchView, left int) error {
	last := b.LastDay[b.Regime]
	if last == "" || last >= day.Of(now) || left < 1 {
		return nil
	}
	day, err := day.Parse(last)
	if err != nil {
		return err
	}
	at := day.AddDate(0, 0, 1).Add(9 * time.Hour)
	if at.After(now) {
		at = now
	}
	if err := t.move(at, bench.Moved{From: bench.ColdRoom, To: bench.Broken, Jars: 1}); err != nil {
		return err
	}
	if left == 1 {
		return nil
	}
	return t.move(at, bench.Moved{From: bench.ColdRoom, To: bench.Withdrawn, Jars: left - 1})
}

// sendBack sends jars of the batch that is called back a day later, and lets some of them come back.
func (r *room) sendBack(t *teller, at time.Time) error {
	moves := []bench.Moved{
		{From: bench.Filled, To: bench.Samples, Jars: 2},
		{From: bench.Filled, To: bench.ColdRoom, Jars: 45},
		{From: bench.ColdRoom, To: bench.With, Jars: 12, Party: r.parties[0].ID},
		{From: bench.ColdRoom, To: bench.With, Jars: 8, Party: r.parties[2].ID},
	}
	for i, m := range moves {
		if err := t.move(at.Add(time.Duration(i)*time.Minute), m); err != nil {
			return err
		}
	}
	return nil
}

// shelves leaves the stock as a shop's is: something waits, something is on hold, something ends tomorrow, some is
// frozen, and something was thrown away too late.
func (r *room) shelves(now time.Time) error {
	on := func(back int) day.Day { return day.Of(now.AddDate(0, 0, -back)) }
	ends := func(ahead int) day.Day { return day.Of(now.AddDate(0, 0, ahead)) }
	if _, err := at(r.app, now.AddDate(0, 0, -9)).Production.Receive(kernel.As(r.ctx, maker),
		production.NewDelivery{Supplier: "Tansydale Dairy",
			Note: "TD-2207", Day: on(9), Lots: []production.NewLot{
				{Ingredient: "yogurt_strained", Text: "Y-3318", Pack: "1 x 2 kg", Ends: ends(1), Cost: money("9.8"),
					ArrivalC: celsius(3.1), Accept: true},
				{Ingredient: "hard_grating_cheese", Text: "HC-19", Pack: "1 kg", Ends: ends(-2), Cost: money("15.2"),
					Accept: true},
			}}); err != nil {
		return err
	}
	if err := r.dryGoods(now); err != nil {
		return err
	}
	came := now.Add(-50 * time.Minute) // just after midnight that is yesterday
	if _, err := at(r.app, came).Production.Receive(kernel.As(r.ctx, helper), production.NewDelivery{
		Supplier: "Tansydale Dairy", Note: "TD-2241", Day: day.Of(came), Lots: []production.NewLot{
			{Ingredient: "yogurt_strained", Text: "Y-3402", Pack: "3 x 2 kg", Ends: ends(17), Cost: money("29.4"),
				ArrivalC: celsius(4.2)},
			{Ingredient: "egg_yolk_pasteurised", Text: "EY-118", Pack: "2 kg", Ends: ends(24), Cost: money("22.6"),
				ArrivalC: celsius(9.4)},
		}}); err != nil {
		return err
	}
	if err := r.freeze(now.AddDate(0, 0, -20)); err != nil {
		return err
	}
	if err := r.thrown(now); err != nil {
		return err
	}
	return r.plan(now)
}

// thrown tells what was thrown away in time: all that ended more than three days ago.
func (r *room) thrown(now time.Time) error {
	stock, err := r.app.Production.StockOf(r.ctx)
	if err != nil {
		return err
	}
	for _, l := range stock.Throw {
		end, err := day.Parse(l.Ends)
		if err != nil {
			return err
		}
		when := end.AddDate(0, 0, 1).Add(9 * time.Hour)
		if when.AddDate(0, 0, 3).After(now) {
			continue
		}
		if l.Kind == lots.OfBatch {
			b, err := r.app.Production.Batch(r.ctx, l.Batch)
			if err != nil {
				return err
			}
			t := &teller{ctx: r.ctx, app: r.app, id: l.Batch, tag: fmt.Sprintf("past-%d", l.Batch)}
			if err := t.move(when, bench.Moved{From: bench.ColdRoom, To: bench.Withdrawn,
				Jars: b.Record.JarsIn(bench.ColdRoom)}); err != nil {
				return err
			}
		} else {
			act := lots.Counted{Change: amount.Grams{}.Minus(l.Left), Thrown: true, Reason: "past its use-by"}
			if err := r.act(when, helper, l.ID, &act); err != nil {
				return err
			}
		}
	}
	return nil
}

func money(s string) *amount.Money { m := amount.MustMoney(s); return &m }

func celsius(c float64) *float64 { return &c }

// dryGoods are what the mill brought three days ago; one sack of it is on hold.
func (r *room) dryGoods(now time.Time) error {
	ends := func(ahead int) day.Day { return day.Of(now.AddDate(0, 0, ahead)) }
	strength := 4.3
	taken, err := at(r.app, now.AddDate(0, 0, -3)).Production.Receive(kernel.As(r.ctx, owner), production.NewDelivery{
		Supplier: "Marl Mill Stores", Note: "88214", Day: ends(-3), Lots: []production.NewLot{
			{Ingredient: "hazelnut_roasted", Text: "HZ 26-118", Pack: "2 x 2500 g", Ends: ends(170), Cost: money("77"),
				Statement: "Roaster's certificate 0926-4", Accept: true},
			{Ingredient: "vinegar_rice", Text: "RV-0931", Pack: "5 l", Ends: ends(400), Cost: money("16.5"),
				Strength: &strength, Accept: true},
			{Ingredient: "tahini", Text: "TAH/77", Pack: "3 kg", Ends: ends(210), Cost: money("22.5"),
				Statement: "Steam treated, certificate MM-402", Accept: true},
		}})
	if err != nil {
		return err
	}
	return r.act(now.AddDate(0, 0, -2), maker, taken.Lots[2].ID,
		&lots.Held{Reason: "smells of paint; the mill was asked"})
}

func (r *room) act(when time.Time, by people.Person, lot int64, act any) error {
	_, err := at(r.app, when).Production.ActOnLot(kernel.As(r.ctx, by), lot, act, fmt.Sprintf("demo-act-%d-%d", lot,
		when.Unix()))
	return err
}

// freeze puts a part of the newest ginger paste on ice.
func (r *room) freeze(when time.Time) error {
	page, err := r.app.Production.ListOfLots(r.ctx, kernel.StockQuery{Show: "there", Ingredient: "ginger_paste"})
	if err != nil {
		return err
	}
	for _, l := range page.Lots {
		if l.Kind == lots.OfBatch && l.Bar == "" && l.Version == 2 && l.Ends >= day.Of(when) {
			_, err := at(r.app, when).Production.Freeze(kernel.As(r.ctx, maker), l.ID, amount.G(1000),
				day.Of(when))
			return err
		}
	}
	return fmt.Errorf("no ginger paste is there to freeze")
}

// planned is what is made tomorrow.
var planned = formula.Ref{Formula: "pumpkin_cumin_spread", Version: 1}

// plan plans tomorrow's batch, for which something is short.
func (r *room) plan(now time.Time) error {
	_, err := r.app.Production.PlanBatch(kernel.As(r.ctx, maker), production.PlanAsk{Ref: planned, Jars: 60,
		MadeOn: day.Of(now.AddDate(0, 0, 1))})
	return err
}
