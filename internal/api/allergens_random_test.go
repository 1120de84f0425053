package api

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"gallipot/internal/app/catalog"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
)

// TestNothingVanishesWithoutASignedAct does at random what a careless or hurried maker does, never with a reason:
// renames, other lists, unticking, retiring, swaps, new versions and locks. No allergen of an ingredient and none of a
// locked version is ever fewer for it.
func TestNothingVanishesWithoutASignedAct(t *testing.T) {
	t.Parallel()
	for seed := range uint64(2) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			c := withDemo(t)
			r := rand.New(rand.NewPCG(seed, 11))
			some := []string{"yogurt_strained", "miso_white", "hazelnut_roasted", "tahini", "egg_yolk_pasteurised",
				"carrot"}
			lists := []string{"", "water; salt", "milk; salt", "peanut butter; sugar", "milk-free blend",
				"soya sauce; sugar"}
			formulas := []string{"carrot_miso_dressing", "beetroot_horseradish_dip", "lentil_tahini_dip"}
			had := map[string]law.Each[[]string]{}
			see := func(what string, now law.Each[[]string], act string) {
				for _, l := range law.All() {
					for _, code := range had[what][l.Regime] {
						assert.Contains(t, now[l.Regime], code, "%s lost it by %s", what, act)
					}
				}
				had[what] = now
			}
			look := func(act string) {
				for _, id := range some {
					see(id, get[catalog.IngredientView](c, "/api/ingredients/"+id).Carries, act)
				}
				for _, f := range formulas {
					for _, v := range get[catalog.SheetView](c, "/api/formulas/"+f+"/versions/0").Versions {
						if v.State == "locked" {
							at := fmt.Sprintf("/api/formulas/%s/versions/%d", f, v.Number)
							see(at, get[catalog.SheetView](c, at).Panel.Allergens, act)
						}
					}
				}
			}
			look("nothing")
			for range 24 {
				c.as([]string{"Bram", "Ines"}[r.IntN(2)])
				look(careless(c, r, some, lists, formulas))
			}
		})
	}
}

// careless does one thing without a reason, and says what.
func careless(c *client, r *rand.Rand, some, lists, formulas []string) string {
	id, formula := some[r.IntN(len(some))], formulas[r.IntN(len(formulas))]
	newest := get[catalog.SheetView](c, "/api/formulas/"+formula+"/versions/0")
	change := func(what string, f func(g *pantry.Ingredient)) string {
		status := c.change(id, "", f).status
		return fmt.Sprintf("%s of %s (%d)", what, id, status)
	}
	switch r.IntN(7) {
	case 0:
		return change("a new name", func(g *pantry.Ingredient) { g.Name = fmt.Sprint("Savoury blend ", r.IntN(1000)) })
	case 1:
		return change("another list", func(g *pantry.Ingredient) {
			g.SupplierLists = law.Each[string]{law.GB: lists[r.IntN(len(lists))]}
		})
	case 2:
		return change("unticking", func(g *pantry.Ingredient) { g.Allergens = law.Each[[]string]{} })
	case 3:
		return change("other flags", func(g *pantry.Ingredient) { g.Flags = []string{pantry.FlagRefinedOil} })
	case 4:
		if newest.Version.State == "locked" {
			c.send("POST", "/api/formulas/"+formula+"/versions", map[string]any{"from": newest.Version.Number})
			return "a new draft of " + formula
		}
		points := get[[]assess.Point](c, fmt.Sprintf("/api/formulas/%s/versions/%d/before-lock", formula,
			newest.Version.Number))
		query := ""
		for _, p := range points {
			query += "&confirmed=" + p.Key
		}
		c.send("POST", fmt.Sprintf("/api/formulas/%s/versions/%d/lock?rev=%d%s", formula, newest.Version.Number,
			newest.Rev,
			query), nil)
		return "a lock of " + formula
	case 5:
		if newest.Version.State == "locked" {
			return "nothing"
		}
		c.put(newest, func(v map[string]any) {
			lines := v["lines"].([]any)
			line := lines[r.IntN(len(lines))].(map[string]any)
			if line["component"] == nil {
				line["ingredient"] = id
			}
		})
		return "a swap in " + formula
	}
	rows := get[[]catalog.PreparationView](c, "/api/preparations")
	i := slices.IndexFunc(rows, func(p catalog.PreparationView) bool { return p.Output == id })
	if i < 0 {
		return "nothing"
	}
	step := asMap(c.t, rows[i].Preparation)
	step["input"] = "water"
	status := c.send("PUT", fmt.Sprintf("/api/preparations/%s?rev=%d", rows[i].ID, rows[i].Rev), step).status
	return fmt.Sprintf("another input of what makes %s (%d)", id, status)
}
