package office

import (
	"context"
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// AssessedLine is a line in the headless assessment.
type AssessedLine struct {
	Ingredient string         `json:"ingredient"`
	Grams      amount.Grams   `json:"grams"`
	Percent    amount.Percent `json:"percent"`
}

// Assessed is one formula in the headless assessment, by its newest version. Money is rounded to 0.0001.
type Assessed struct {
	ID                string                        `json:"id"`
	Name              string                        `json:"name"`
	Version           int                           `json:"version"`
	State             string                        `json:"state"`
	Lines             []AssessedLine                `json:"lines"`
	Grams             amount.Grams                  `json:"grams"`
	Jars              int                           `json:"jars"`
	CostPerJar        amount.Exact                  `json:"cost_per_jar"`
	CostAtLeast       bool                          `json:"cost_at_least"`
	CostMissing       []string                      `json:"cost_missing"`
	PH                assess.PH                     `json:"ph"`
	WaterActivity     *float64                      `json:"water_activity"`
	SaltInWater       float64                       `json:"salt_in_water_percent"`
	AceticInWater     float64                       `json:"acetic_in_water_percent"`
	PreservationIndex *float64                      `json:"preservation_index"`
	MakeUp            formula.MakeUp                `json:"make_up"`
	Allergens         law.Each[[]string]            `json:"allergens"`
	Declaration       law.Each[AssessedDeclaration] `json:"declaration"`
	Keeping           law.Each[keeping.Verdict]     `json:"keeping"`
	Cautions          []assess.Caution              `json:"cautions"`
}

// AssessedDeclaration is the declaration text under one law.
type AssessedDeclaration struct {
	List     string  `json:"list"`
	Contains *string `json:"contains,omitempty"` // where the law has such a line
}

// Assessment is what the headless command prints.
type Assessment struct {
	Formulas []Assessed `json:"formulas"`
}

// AssessBundle assesses every formula of a bundle on a day, without a database. A bundle that fails its checks is
// refused as a whole.
func AssessBundle(ctx context.Context, b Bundle, today time.Time) (Assessment, error) {
	if errs := b.Check(ctx); len(errs) > 0 {
		return Assessment{}, kernel.Mistakes(errs...)
	}
	lib := b.library()
	measures := b.measures()
	market := pantry.Market{Rule: b.Shop.PriceRule, Today: today, StaleDays: b.Shop.StaleDays, TaxBack: !b.Shop.TaxKept,
		Piece: func(id string) float64 { return kernel.PieceOf(measures, id) }}
	prices := costing.PricesBy(market, b.Preparations,
		func(id string) (pantry.Ingredient, bool) {
			if g := lib.Ingredients[id]; g != nil {
				return *g, true
			}
			return pantry.Ingredient{}, false
		})
	in := assess.Inputs{Library: lib, Terms: b.Shop.Terms(prices), Rules: b.Shop.Rules()}
	out := Assessment{Formulas: []Assessed{}}
	for _, f := range b.Formulas {
		v := f.Versions[len(f.Versions)-1]
		p, err := assess.Version(v, in)
		if err != nil {
			return out, fmt.Errorf("%s: %w", f.Name, err)
		}
		a := Assessed{ID: f.ID, Name: f.Name, Version: v.Number, State: v.State, Lines: []AssessedLine{},
			Grams: p.Grams, Jars: p.Jars,
			CostPerJar: p.Cost.PerJar.Round(4), CostAtLeast: p.Cost.AtLeast, CostMissing: p.Cost.Missing, PH: p.PH,
			WaterActivity: p.WaterActivity, SaltInWater: p.SaltInWater, AceticInWater: p.AceticInWater,
			PreservationIndex: p.PreservationIndex,
			MakeUp:            p.MakeUp, Allergens: p.Allergens, Keeping: p.Keeping, Cautions: p.Cautions}
		for _, l := range p.Lines {
			a.Lines = append(a.Lines, AssessedLine{l.Name, l.Grams, l.Percent})
		}
		a.Declaration = law.Each[AssessedDeclaration]{}
		for r, d := range p.Declaration {
			told := AssessedDeclaration{List: d.List}
			if l, err := law.Of(r); err == nil && l.ContainsLine {
				told.Contains = &d.Contains
			}
			a.Declaration[r] = told
		}
		out.Formulas = append(out.Formulas, a)
	}
	return out, nil
}
