package costing

import (
	"fmt"
	"testing"
	"time"

	"gallipot/internal/cases"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var today = time.Date(2026, 3, 2, 0, 0, 0, 0, time.UTC)

func offer(packG, price string) []pantry.PriceOffer {
	return []pantry.PriceOffer{{Supplier: "Marl Mill", PackAmount: amount.MustQuantity(packG), PackUnit: "g",
		Price: amount.MustMoney(price), Date: "2026-02-20"}}
}

func terms() Terms {
	return Terms{Rate: PricesBy(pantry.Market{Rule: pantry.NewestPrice, Today: today, StaleDays: 90}, nil, nil).Rate()}
}

func TestJarReproducesWorkedCases(t *testing.T) {
	var file struct {
		Cases []struct {
			Name  string
			Lines []struct {
				Ingredient string
				Grams      amount.Grams
				PackG      amount.Grams `json:"pack_g"`
				PackPrice  amount.Money `json:"pack_price"`
				Yield      float64      `json:"yield_percent,string"`
			}
			Loss      amount.Percent `json:"loss_percent"`
			Jars      int            `json:"jars,string"`
			Fill      amount.Grams   `json:"fill_g"`
			Overfill  amount.Percent `json:"overfill_percent"`
			Packaging []formula.PackagingItem
			Batch     amount.Minutes `json:"minutes_per_batch"`
			PerJar    amount.Minutes `json:"minutes_per_jar"`
			Rate      amount.Money   `json:"labour_per_hour"`
			Overhead  amount.Money   `json:"overhead_per_batch"`
			Want      map[string]string
		}
	}
	cases.Load(t, "costing.json", &file)
	require.NotEmpty(t, file.Cases)
	for _, c := range file.Cases {
		t.Run(c.Name, func(t *testing.T) {
			lib := formula.Library{Ingredients: map[string]*pantry.Ingredient{}}
			v := formula.Version{Formula: "x", LossPercent: c.Loss, CostingJars: c.Jars, FillGrams: c.Fill,
				OverfillPercent: c.Overfill,
				Packaging:       c.Packaging, MinutesPerBatch: c.Batch, MinutesPerJar: c.PerJar, LabourPerHour: c.Rate,
				OverheadPerBatch: c.Overhead}
			for i, l := range c.Lines {
				lib.Ingredients[l.Ingredient] = &pantry.Ingredient{ID: l.Ingredient, Name: l.Ingredient,
					UsablePercent: l.Yield, Offers: offer(l.PackG.String(), l.PackPrice.String())}
				v.Lines = append(v.Lines, formula.Line{ID: fmt.Sprint(i), Ingredient: l.Ingredient, Grams: l.Grams})
			}
			nodes, err := lib.Expand(v)
			require.NoError(t, err)
			s := Jar(v, nodes, nil, terms())
			margin, err := PriceAtMargin(s.PerJar, amount.Pct(45))
			require.NoError(t, err)
			got := map[string]amount.Exact{"cost_per_kg_ingredients": s.PerKgIngredients, "ingredients": s.Ingredients,
				"packaging": s.Packaging,
				"labour":    s.Labour, "overhead": s.Overhead, "per_jar": s.PerJar, "price_at_margin_45": margin,
				"price_at_markup_45": PriceAtMarkUp(s.PerJar, amount.Pct(45))}
			for key, want := range c.Want {
				require.Contains(t, got, key)
				assert.Equal(t, want, got[key].Fixed(4), key)
			}
			assert.False(t, s.AtLeast)
		})
	}
}

func TestAMissingPriceSaysAtLeastAndNamesIt(t *testing.T) {
	lib := formula.Library{Ingredients: map[string]*pantry.Ingredient{
		"beet": {ID: "beet", Name: "Beetroot", Offers: offer("1000", "2")}, "miso": {ID: "miso", Name: "White miso"}}}
	v := formula.Blank("x")
	v.Lines = []formula.Line{{ID: "1", Ingredient: "beet", Grams: amount.G(500)},
		{ID: "2", Ingredient: "miso", Grams: amount.G(50)}}
	nodes, err := lib.Expand(v)
	require.NoError(t, err)
	s := Jar(v, nodes, nil, terms())
	assert.True(t, s.AtLeast)
	assert.Equal(t, []string{"White miso"}, s.Missing)
	assert.True(t, s.Lines[1].Missing)
}

func TestAComponentCarriesItsOwnLossAndHands(t *testing.T) {
	lib := formula.Library{
		Ingredients: map[string]*pantry.Ingredient{"ginger": {ID: "ginger", Name: "Ginger",
			Offers: offer("1000", "10")}},
		Versions: map[formula.Ref]formula.Version{{Formula: "paste", Version: 1}: {Formula: "paste", Number: 1,
			LossPercent:     amount.Pct(20),
			MinutesPerBatch: amount.Min(30), LabourPerHour: amount.MustMoney("16"),
			Lines: []formula.Line{{ID: "1", Ingredient: "ginger", Grams: amount.G(1000)}}}},
	}
	v := formula.Version{Formula: "d", FillGrams: amount.G(100), CostingJars: 1,
		Lines: []formula.Line{{ID: "1", Component: &formula.Ref{Formula: "paste", Version: 1}, Grams: amount.G(100)}}}
	nodes, err := lib.Expand(v)
	require.NoError(t, err)
	s := Jar(v, nodes, nil, terms())
	// 100 g of paste: 100/0.8 g ginger at 0.01, and 30 min x 16/h = 8.00 over 800 g.
	assert.Equal(t, "2.2500", s.Ingredients.Fixed(4))
}

func TestLossesAreCarvedOutNeverAdded(t *testing.T) {
	lib := formula.Library{Ingredients: map[string]*pantry.Ingredient{"beet": {ID: "beet", Name: "Beetroot",
		Offers: offer("1000", "2")}}}
	v := formula.Blank("x")
	v.LossPercent, v.OverfillPercent = amount.Pct(10), amount.Percent{}
	v.Lines = []formula.Line{{ID: "1", Ingredient: "beet", Grams: amount.G(1000)}}
	v.Packaging = []formula.PackagingItem{{Name: "jar", Price: amount.MustMoney("1"), LossPercent: amount.Pct(5)}}
	nodes, err := lib.Expand(v)
	require.NoError(t, err)
	s := Jar(v, nodes, nil, terms())
	sum := s.Ingredients.Plus(s.Packaging).Plus(s.Labour).Plus(s.Overhead)
	assert.Zero(t, sum.Cmp(s.PerJar))
	// 0.19 kg at 2.00 is 0.38; a tenth lost makes it 0.4222; the jar loses 0.05.
	assert.Equal(t, "0.0922", s.Losses.Fixed(4))
}

func TestAMarginOfAHundredPercentIsRefused(t *testing.T) {
	_, err := PriceAtMargin(amount.Whole(2), amount.Pct(100))
	assert.Error(t, err)
}
