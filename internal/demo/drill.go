package demo

import (
	"context"
	"fmt"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/release"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/people"
	"gallipot/internal/core/recall"
)

// drill practises a recall of the ginger: who has jars was told within eleven minutes, and two jars were not found.
func drill(ctx context.Context, a *app.App, now time.Time) error {
	lots, err := a.Production.ListOfLots(ctx, kernel.StockQuery{Show: "there", Ingredient: "ginger"})
	if err != nil {
		return err
	}
	if len(lots.Lots) == 0 {
		return fmt.Errorf("no ginger is there to look for")
	}
	began := now.Add(-2 * time.Hour)
	v, err := at(a, began).Release.StartRecall(kernel.As(ctx, maker), release.NewRecall{Mock: true,
		Lot: lots.Lots[0].ID,
		Why: "The yearly drill: a lot of ginger, drawn by Ola with her eyes shut"})
	if err != nil {
		return err
	}
	n := 0
	act := func(by people.Person, when time.Time, body any) error {
		n++
		_, err := at(a, when).Release.WriteRecall(kernel.As(ctx, by), v.ID, body, fmt.Sprintf("drill-%d", n))
		return err
	}
	step := 11 * time.Minute / time.Duration(max(1, len(v.Parties)))
	for i, p := range v.Parties {
		how := "by phone; read the code back to me"
		if i%2 == 1 {
			how = "by letter, answered at once"
		}
		if v.Reached[i].Market {
			how = "a notice at the stall, held up and taken down again"
		}
		if err := act(maker, began.Add(time.Duration(i+1)*step), &recall.Told{Party: p.ID, How: how}); err != nil {
			return err
		}
	}
	missing := 2
	for i, l := range v.Lines {
		by, body := found(l, &missing)
		if body == nil {
			continue
		}
		if err := act(by, began.Add(11*time.Minute+time.Duration(i)*40*time.Second), body); err != nil {
			return err
		}
	}
	return act(maker, began.Add(47*time.Minute), &recall.Closed{Done: "Everybody was told and answered. Two jars are " +
		"not found: given away at the stall and not written down. Given jars are written down from now on."})
}

// found is what is found of a line, and by whom: all of it, but for jars that are missing in the cold room.
func found(l recall.Line, missing *int) (people.Person, any) {
	switch {
	case l.Written:
		return helper, nil
	case l.Place == bench.With:
		held := l.Jars / 2
		return maker, &recall.Answered{Party: l.Party, Batch: l.Batch, Held: held, Sold: l.Jars - held}
	}
	jars := l.Jars
	if l.Place == bench.ColdRoom && jars > 4 {
		jars, *missing = jars-*missing, 0
	}
	return helper, &recall.Counted{Batch: l.Batch, Place: l.Place, Jars: jars}
}
