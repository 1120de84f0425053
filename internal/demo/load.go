package demo

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
)

// Load fills an empty shop with the demo; it does nothing where there is a shop already.
func Load(ctx context.Context, a *app.App) error {
	shop, err := a.Office.Shop(ctx)
	if err != nil || shop.SetUp {
		return err
	}
	a = a.At(a.Now)
	a.Production.StandIns = true // its scale is made up like all of it
	b, err := Bundle()
	if err != nil {
		return err
	}
	if err := hire(ctx, a); err != nil {
		return err
	}
	ctx = kernel.As(ctx, owner)
	if _, err := a.Office.Import(ctx, b, true); err != nil {
		return fmt.Errorf("demo bundle: %w", err)
	}
	if err := keepShopTime(ctx, a); err != nil {
		return err
	}
	if err := vessels(ctx, a); err != nil {
		return err
	}
	if err := prepare(ctx, a); err != nil {
		return err
	}
	return tellAll(ctx, a)
}

// keepShopTime lets the clock tell the time where the shop is: its days are not those of the machine.
func keepShopTime(ctx context.Context, a *app.App) error {
	shop, err := a.Office.Shop(ctx)
	if err != nil {
		return err
	}
	zone, err := time.LoadLocation(shop.TimeZone)
	if err != nil {
		return fmt.Errorf("demo time zone: %w", err)
	}
	clock := a.Now
	a.Now = func() time.Time { return clock().In(zone) }
	return nil
}

// prepare gives what was written down before the first batch: documents, prices, and who read which packet.
func prepare(ctx context.Context, a *app.App) error {
	if err := attach(ctx, a); err != nil {
		return err
	}
	if err := price(ctx, a, "olive_oil_extra_virgin", "Pellow Oils", "5000", "ml", "46.5"); err != nil {
		return err
	}
	if err := lookAtAll(ctx, a); err != nil {
		return err
	}
	return nil
}

// tellAll tells the batches, and what happened to the shop with them.
func tellAll(ctx context.Context, a *app.App) error {
	now := a.Now()
	room, err := furnish(ctx, a)
	if err != nil {
		return err
	}
	for i, s := range stories {
		id, err := room.tell(now, i, s)
		if err != nil {
			return fmt.Errorf("demo batch %d of %s: %w", i+1, s.formula, err)
		}
		if err := room.sell(now, id, s); err != nil {
			return fmt.Errorf("demo jars of batch %d of %s: %w", i+1, s.formula, err)
		}
	}
	if err := room.tellCallBack(now); err != nil {
		return fmt.Errorf("demo call-back: %w", err)
	}
	if err := room.shelves(now); err != nil {
		return fmt.Errorf("demo stock: %w", err)
	}
	if err := withdraw(ctx, a, now); err != nil {
		return fmt.Errorf("demo document: %w", err)
	}
	if err := room.dangers(now); err != nil {
		return err
	}
	slog.Info("demo shop loaded", "batches", len(stories)+3)
	if err := outdate(ctx, a); err != nil {
		return err
	}
	if err := gainEgg(ctx, a); err != nil {
		return err
	}
	if err := drill(ctx, a, now); err != nil {
		return fmt.Errorf("demo drill: %w", err)
	}
	return nil
}

// at is the shop at a time.
func at(a *app.App, when time.Time) *app.App {
	return a.At(func() time.Time { return when })
}
