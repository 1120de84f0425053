package office

import (
	"encoding/json"
	"slices"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pantry"
)

func importIngredients(st kernel.Store, b Bundle, plan *ImportPlan, by kernel.Stamp) error {
	have, err := st.Ingredients()
	if err != nil {
		return err
	}
	gone, err := st.RetiredOffers()
	if err != nil {
		return err
	}
	for _, g := range b.Ingredients {
		g.Offers = joined(nil, g.Offers, gone[g.ID])
		i := slices.IndexFunc(have, func(x kernel.Ingredient) bool { return x.ID == g.ID })
		if i < 0 {
			plan.New = append(plan.New, g.Name)
			if err := st.AddIngredient(catalog.Tidy(g.Ingredient), g.Retired, by.By); err != nil {
				return catalog.Taken(err, g.Name)
			}
			continue
		}
		if sameIngredient(have[i], g) {
			plan.Same++
			continue
		}
		if have[i].Data.IsPackaging() != g.IsPackaging() {
			plan.Forbidden = append(plan.Forbidden, g.Name+" is a part of the pack on one side only")
			continue
		}
		plan.Different = append(plan.Different, g.Name)
		if err := st.SaveIngredient(g.over(have[i]), g.Retired, have[i].Rev, by.By); err != nil {
			return catalog.Taken(err, g.Name)
		}
		if err := st.ReplaceOffers(g.ID, joined(have[i].Data.Offers, g.Offers, nil), by); err != nil {
			return err
		}
	}
	return nil
}

// joined adds to the shop's offers those of a bundle that it lacks. What was bought here since stays, and what was
// taken out here does not come back.
func joined(own, brought, gone []pantry.PriceOffer) []pantry.PriceOffer {
	out := append([]pantry.PriceOffer{}, own...)
	for _, o := range brought {
		if !match.Has(out, o) && !match.Has(gone, o) {
			out = append(out, o)
		}
	}
	return out
}

// over puts the bundle's ingredient in place of the shop's. Who looked at it here and what was taken off it here stay
// as they are, but if its texts differ it must be looked at again.
func (g BundleIngredient) over(have kernel.Ingredient) pantry.Ingredient {
	out, here := catalog.Tidy(g.Ingredient), have.Data
	if here.Looked != nil && here.Looked.By != kernel.TheProgram.Name || out.Looked == nil {
		out.Looked = here.Looked
	}
	if here.MayContain != nil {
		out.MayContain = here.MayContain
	}
	if len(here.Lifted) > 0 {
		out.Lifted = here.Lifted
	}
	return out
}

func sameIngredient(have kernel.Ingredient, g BundleIngredient) bool {
	a, b := have.Data, g.over(have)
	a.Offers, b.Offers = plainOffers(a.Offers), plainOffers(joined(a.Offers, b.Offers, nil))
	return have.Retired == g.Retired && match.SameJSON(a, b)
}

func plainOffers(list []pantry.PriceOffer) []pantry.PriceOffer {
	out := slices.Clone(list)
	for i := range out {
		out[i].ID = ""
	}
	slices.SortFunc(out, func(x, y pantry.PriceOffer) int {
		a, _ := json.Marshal(x)
		b, _ := json.Marshal(y)
		return slices.Compare(a, b)
	})
	return out
}
