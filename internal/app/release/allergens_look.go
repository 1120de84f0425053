package release

import (
	"context"
	"slices"
	"strings"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/allergen"
	"gallipot/internal/core/day"
	"gallipot/internal/core/field"
	"gallipot/internal/core/judge"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
	"gallipot/internal/core/shop"
)

// LookIn is what somebody found by looking at an ingredient: what they read, which allergens are in it under each law,
// what it may contain according to the supplier, and answers to what its words leave open.
type LookIn struct {
	From       string             `json:"from"`
	Allergens  law.Each[[]string] `json:"allergens"`
	MayContain law.Each[[]string] `json:"may_contain"`
	Statement  string             `json:"statement"`
	Answers    []pantry.Answer    `json:"answers"`
	List       law.Each[string]   `json:"supplier_lists"` // as it stands on the packet
	Sulphites  *float64           `json:"sulphites_mg_kg"`
}

// Look records that somebody read what is in an ingredient and signed for it (handbook 08, "Looked at").
func (a *Room) Look(ctx context.Context, id string, in LookIn, rev int) (catalog.IngredientView, error) {
	if err := kernel.May(ctx, people.Maker, "Saying what is in an ingredient"); err != nil {
		return catalog.IngredientView{}, err
	}
	return a.saidOf(ctx, id, rev, func(s shop.Settings, g *pantry.Ingredient) error {
		g.Allergens, g.SupplierLists, g.SulphitesMgKg = in.Allergens, in.List, in.Sulphites
		g.MayContain = nil
		if judge.AnyCode(in.MayContain) || strings.TrimSpace(in.Statement) != "" {
			g.MayContain = &pantry.Stated{Allergens: in.MayContain, Words: strings.TrimSpace(in.Statement)}
		}
		*g = catalog.Tidy(*g)
		looked := pantry.Looked{By: kernel.Actor(ctx).Name, On: day.Of(a.TodayIn(s)),
			From: strings.TrimSpace(in.From), Texts: g.Texts(), Answers: in.Answers}
		if errs := append(g.Check(), g.Look(looked)...); len(errs) > 0 {
			return kernel.Mistakes(errs...)
		}
		g.Looked = &looked
		return nil
	})
}

// Lift takes an inherited allergen or hazard flag off an ingredient, or puts it back (off is false).
func (a *Room) Lift(ctx context.Context, id, what string, off bool, reason string, rev int) (catalog.IngredientView,
	error) {
	if err := kernel.May(ctx, people.Owner, "Taking off what an ingredient inherits"); err != nil {
		return catalog.IngredientView{}, err
	}
	why, err := kernel.ReasonFor(reason)
	if err != nil {
		return catalog.IngredientView{}, err
	}
	ctx = kernel.Because(ctx, why)
	return a.saidOf(ctx, id, rev, func(s shop.Settings, g *pantry.Ingredient) error {
		g.Lifted = slices.DeleteFunc(slices.Clone(g.Lifted), func(x pantry.Lifted) bool { return x.What == what })
		if off {
			if !g.Inherited.Has(what) {
				return kernel.Mistake("what", "it does not inherit %s", field.Clip(what))
			}
			g.Lifted = append(g.Lifted, pantry.Lifted{What: what, Reason: why, By: kernel.Actor(ctx).Name,
				On: day.Of(a.TodayIn(s))})
		}
		return nil
	})
}

// saidOf changes what is said of an ingredient, guarded, and re-judges what depends on it.
func (a *Room) saidOf(ctx context.Context, id string, rev int, change func(s shop.Settings,
	g *pantry.Ingredient) error) (
	catalog.IngredientView, error) {
	var v catalog.IngredientView
	err := a.In(ctx, func(st kernel.Store) error {
		s, _, err := a.Settings(st)
		if err != nil {
			return err
		}
		row, err := st.Ingredient(id)
		if err != nil {
			return err
		}
		g := row.Data
		if err := change(s, &g); err != nil {
			return err
		}
		err = a.Guarded(ctx, st, func() error {
			if err := st.SaveIngredient(g, row.Retired, rev, kernel.Actor(ctx).Name); err != nil {
				return a.Catalog.IngredientClash(st, row, err)
			}
			return a.Catalog.JudgeIngredient(ctx, st, id)
		})
		if err != nil {
			return err
		}
		v, err = a.Catalog.IngredientView(st, id)
		return err
	})
	return v, err
}

// TextMark is a word of a text that says something of allergens.
type TextMark struct {
	Start     int                `json:"start"` // in UTF-16 units, as browsers count
	End       int                `json:"end"`
	Kind      string             `json:"kind"` // names, betrays, asks or states
	Allergens law.Each[[]string] `json:"allergens"`
	Asks      string             `json:"asks"`
}

// ReadText marks the words of a packet's list by the shop's lexicon.
func (a *Room) ReadText(ctx context.Context, text string) ([]TextMark, error) {
	if len(text) > maxPacketText {
		return nil, kernel.Mistake("text", "at most %d characters", maxPacketText)
	}
	s, _, err := a.Settings(a.On(ctx))
	if err != nil {
		return nil, err
	}
	reading := kernel.Lexicons.Of(s.AllergenWords).Read(text)
	out := []TextMark{}
	for _, f := range reading.Finds {
		m := TextMark{Start: utf16At(text, f.Start), End: utf16At(text, f.End), Kind: "asks",
			Allergens: law.Each[[]string]{}}
		plainly, says := true, false
		for _, t := range f.Terms {
			if t.Asks != "" {
				m.Asks = t.Asks
			}
			for _, l := range law.All() {
				for _, x := range t.Says[l.Regime] {
					m.Allergens[l.Regime] = append(m.Allergens[l.Regime], x.Code)
					plainly, says = plainly && x.Plainly, true
				}
			}
		}
		switch {
		case says && plainly:
			m.Kind = "names"
		case says:
			m.Kind = "betrays"
		case m.Asks == "":
			continue // it only hides
		}
		out = append(out, m)
	}
	for _, s := range reading.Statements {
		out = append(out, TextMark{utf16At(text, s.Start), utf16At(text, s.End), "states", s.Codes,
			allergen.MayContain})
	}
	slices.SortFunc(out, func(x, y TextMark) int { return x.Start - y.Start })
	return out, nil
}

const maxPacketText = 4000

// utf16At is how many UTF-16 units lie before a byte.
func utf16At(text string, at int) int {
	n := 0
	for _, r := range text[:at] {
		n++
		if r > 0xFFFF {
			n++
		}
	}
	return n
}
