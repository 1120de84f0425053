package demo

import (
	"context"
	"fmt"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
)

// attach gives products and components the maker's own studies, which replace the quality cap.
func attach(ctx context.Context, a *app.App) error {
	versions := map[string][]int{"carrot_miso_dressing": {1, 2, 3, 4}, "tamarind_date_dressing": {1},
		"ginger_paste": {1, 2}, "lime_garlic_base": {1}}
	for id, days := range map[string]int{"carrot_miso_dressing": 35, "tamarind_date_dressing": 42, "ginger_paste": 56,
		"lime_garlic_base": 49} {
		d := days
		text := fmt.Sprintf(
			"Own keeping study, jars pulled at 5 °C over eight weeks. Taste and colour good to the last pull; study life %d days.\n", days)
		paper := keeping.Document{Kind: keeping.QualityStudy, Title: "Own study at 5 °C, eight weeks", Days: &d,
			Versions: versions[id]}
		_, err := a.Release.Attach(ctx, kernel.Evidence{Document: paper, FormulaID: id, FileName: "study.txt",
			MediaType: "text/plain", Content: []byte(text), AttachedWhy: "eight weeks of pulls are in"})
		if err != nil {
			return fmt.Errorf("demo evidence: %w", err)
		}
	}
	return nil
}

// withdraw attaches a study after the fact and takes it back: what was decided before keeps its dates.
func withdraw(ctx context.Context, a *app.App, now time.Time) error {
	days := 75
	e, err := at(a, now.AddDate(0, 0, -4)).Release.Attach(ctx, kernel.Evidence{FormulaID: "hazelnut_kale_pesto",
		Document: keeping.Document{Kind: keeping.QualityStudy, Title: "Own study at 5 °C, ten pulls", Days: &days,
			Versions: []int{1, 2}}, FileName: "pesto-study.txt", MediaType: "text/plain",
		Content:     []byte("Own keeping study, ten pulls at 5 °C over sixteen weeks; study life 75 days.\n"),
		AttachedWhy: "the last pull still tasted fresh"})
	if err != nil {
		return err
	}
	return at(a, now.AddDate(0, 0, -1)).Release.Withdraw(ctx, e.ID,
		"the jars of the last three pulls had stood in the wrong fridge")
}

// outdate changes one supplier's list after the label was confirmed, as happens, and locks a version with it.
func outdate(ctx context.Context, a *app.App) error {
	g, err := a.Catalog.Ingredient(ctx, "horseradish_prepared")
	if err != nil {
		return err
	}
	g.SupplierLists[law.GB] = "horseradish; spirit vinegar; water; rapeseed oil; salt; preservative: sulphur dioxide"
	g.Note = "Supplier changed the recipe: rapeseed oil added."
	if _, err = a.Catalog.SaveIngredient(ctx, g.Ingredient, false, g.Rev); err != nil {
		return err
	}
	if err := lookAt(ctx, a, g.ID); err != nil {
		return err
	}
	last := formula.Ref{Formula: "beetroot_horseradish_dip", Version: 2}
	next, err := a.Catalog.NextDraft(ctx, last, nil)
	if err != nil {
		return err
	}
	last.Version = next.Version.Number
	points, err := a.Catalog.BeforeLock(ctx, last)
	if err != nil {
		return err
	}
	_, err = a.Catalog.LockSheet(ctx, last, next.Rev, keysOf(points))
	return err
}
