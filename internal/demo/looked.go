package demo

import (
	"context"
	"fmt"

	"gallipot/internal/app"
	"gallipot/internal/app/release"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/pantry"
)

// leftOpen is the one ingredient that waits for somebody to look at it.
const leftOpen = "red_pepper_roasted_jar"

// lookAtAll lets the owner read the packets of all that is open, but of one.
func lookAtAll(ctx context.Context, a *app.App) error {
	list, err := a.Catalog.Pantry(ctx)
	if err != nil {
		return err
	}
	for _, g := range list {
		if g.Open && g.ID != leftOpen && (g.PerKg != nil || g.Used > 0) {
			if err := lookAt(ctx, a, g.ID); err != nil {
				return fmt.Errorf("demo look at %s: %w", g.Name, err)
			}
		}
	}
	return nil
}

// lookAt signs what the packet of an ingredient says.
func lookAt(ctx context.Context, a *app.App, id string) error {
	v, err := a.Catalog.Ingredient(ctx, id)
	if err != nil {
		return err
	}
	in := release.LookIn{From: "the packet, back panel", Allergens: v.Carries, List: v.SupplierLists,
		Sulphites: v.SulphitesMgKg}
	for _, ask := range v.Asks {
		in.Answers = append(in.Answers, pantry.Answer{Ask: ask, Says: "as ticked; the packet names no other"})
	}
	_, err = a.Release.Look(ctx, id, in, v.Rev)
	return err
}

func keysOf(points []assess.Point) []string {
	var keys []string
	for _, p := range points {
		keys = append(keys, p.Key)
	}
	return keys
}
