package catalog

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
)

// SaveHouseMeasure stores what the maker's own measure weighs. It takes precedence over the typical one.
func (a *Room) SaveHouseMeasure(ctx context.Context, ingredient, measure string, weighings []float64,
	note string) (IngredientView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return IngredientView{}, err
	}
	if _, err := pantry.HouseMeasure(ingredient, measure, note, weighings); err != nil {
		var wrong pantry.FieldError
		if errors.As(err, &wrong) {
			return IngredientView{}, kernel.Mistakes(wrong)
		}
		return IngredientView{}, err
	}
	var out IngredientView
	err = a.In(ctx, func(st kernel.Store) error {
		if _, err := st.Ingredient(ingredient); err != nil {
			return err
		}
		if err := st.PutHouseMeasure(kernel.HouseMeasure{IngredientID: ingredient, Measure: measure,
			Weighings: weighings,
			Note:      note, UpdatedBy: by}); err != nil {
			return err
		}
		out, err = a.IngredientView(st, ingredient)
		return err
	})
	return out, err
}

// DropHouseMeasure removes one of the maker's own measures. From then on the typical one counts.
func (a *Room) DropHouseMeasure(ctx context.Context, ingredient, measure, why string) (IngredientView, error) {
	if _, err := kernel.Signed(ctx); err != nil {
		return IngredientView{}, err
	}
	why, err := kernel.ReasonFor(why)
	if err != nil {
		return IngredientView{}, err
	}
	var out IngredientView
	err = a.In(ctx, func(st kernel.Store) error {
		if _, err := st.Ingredient(ingredient); err != nil {
			return err
		}
		if err := st.DropHouseMeasure(ingredient, measure, why, a.Stamp(ctx)); errors.Is(err, kernel.ErrConflict) {
			return fmt.Errorf("measure %q: %w", measure, kernel.ErrNotFound)
		} else if err != nil {
			return err
		}
		var err error
		out, err = a.IngredientView(st, ingredient)
		return err
	})
	return out, err
}

// Recompute is a line whose grams came from a measure that has since been weighed or dropped.
type Recompute struct {
	Line    string  `json:"line"`
	Measure string  `json:"measure"`
	Now     float64 `json:"now_g"`
	Then    float64 `json:"then_g"`
	Source  string  `json:"source"`
	Spread  float64 `json:"spread_percent"`
	How     string  `json:"how"`
}

// recomputes finds the lines of a draft whose grams a changed measure would alter. Lines weighed or edited since are
// left alone.
func (a *Room) recomputes(st kernel.Store, v formula.Version) ([]Recompute, error) {
	out := []Recompute{}
	if v.State != formula.Draft {
		return out, nil
	}
	var all pantry.Measures
	loaded := false
	for _, l := range v.Lines {
		s := l.Said
		if s == nil || s.Measure == "" || s.Of == "" || s.Times <= 0 || s.Grams <= 0 || l.Grams.Float() != s.Grams {
			continue
		}
		if !loaded {
			var err error
			if all, err = a.Measures(st, ""); err != nil {
				return nil, err
			}
			loaded = true
		}
		house, has := all.House(s.Of, s.Measure)
		typical, known := all.Reference(s.Of, s.Measure)
		r := Recompute{Line: l.ID, Measure: s.Measure, Now: s.Grams, Source: reader.FromHouse}
		switch {
		case s.Source == reader.FromReference && has && known && typical.Grams > 0:
			r.Then, r.Spread = s.Grams*house.Grams/typical.Grams, house.Spread
		case s.Source == reader.FromHouse && !has && known:
			r.Then, r.Spread, r.Source = s.Times*typical.Grams, typical.Spread, reader.FromReference
		default:
			continue
		}
		r.Then = amount.HalfUp(r.Then, 1)
		r.How = fmt.Sprintf("%g × your own %s, weighed %d times", s.Times, strings.ReplaceAll(s.Measure, "_", " "),
			len(house.Weighings))
		if r.Source == reader.FromReference {
			r.How = "the typical measure again; your own was dropped"
		}
		if r.Then != r.Now {
			out = append(out, r)
		}
	}
	return out, nil
}
