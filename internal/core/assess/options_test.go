package assess

import (
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/reference"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func kitchen(t *testing.T) (formula.Version, Inputs) {
	t.Helper()
	in := inputs()
	list, err := reference.Ingredients()
	require.NoError(t, err)
	for _, g := range list {
		name := g.Name
		in.Library.Ingredients[g.ID] = priced(g)
		in.Library.Ingredients[g.ID].Name = name
	}
	v := formula.Blank("x")
	for i, l := range []struct {
		id    string
		grams float64
	}{{"carrot", 600}, {"sunflower_oil", 200}, {"vinegar_cider", 150}, {"salt_sea_fine", 12}, {"walnut", 40}} {
		v.Lines = append(v.Lines, formula.Line{ID: string(rune('a' + i)), Ingredient: l.id, Grams: amount.G(l.grams)})
	}
	return v, in
}

func TestWandersSayWhatASpreadDoes(t *testing.T) {
	v, in := kitchen(t)
	w, err := Wanders(v, []float64{0.5, 0.5, 6, 0.4, 0}, amount.G(1), in)
	require.NoError(t, err)
	assert.Empty(t, w[0].Care, "half a point of carrot moves nothing")
	assert.Contains(t, w[2].Care, "pH", "six points of vinegar of fifteen move the pH")
	assert.Equal(t, []string{"salt"}, w[3].Care)
	assert.InDelta(t, 0.4, w[3].Salt, 0.05)
	assert.Zero(t, *w[4].PH)

	assert.InDelta(t, 1, w[0].Tolerance, 1e-9, "bulk: 1 %")
	assert.InDelta(t, 100*2/12.0, w[3].Tolerance, 1e-6, "two divisions of 1 g on 12 g of salt, which moves no pH")
	assert.InDelta(t, 2, w[2].Tolerance, 1e-9)
	assert.InDelta(t, 5, w[4].Tolerance, 1e-9, "two divisions on 40 g")
}

func TestAcidIsToleratedOnlyWhileThePHStays(t *testing.T) {
	v, in := kitchen(t)
	v.Lines[2].Grams = amount.G(8)
	w, err := Wanders(v, make([]float64, 5), amount.G(2), in)
	require.NoError(t, err)
	assert.Less(t, w[2].Tolerance, 50.0, "two divisions would be half of it")
	for _, side := range []float64{1 + w[2].Tolerance/100, 1 - w[2].Tolerance/100} {
		base, err := shifted(v, 2, 8, in)
		require.NoError(t, err)
		moved, err := shifted(v, 2, 8*side, in)
		require.NoError(t, err)
		assert.InDelta(t, *base.ph, *moved.ph, 0.0501)
	}
}

func TestGroupsAreJudgedByTheWorst(t *testing.T) {
	v, in := kitchen(t)
	plain, err := Version(v, in)
	require.NoError(t, err)
	assert.Empty(t, plain.Resolutions)
	v.Lines[4].AnyOf = []string{"walnut", "hazelnut", "sunflower_seed"}
	v.Lines[0].AnyOf = []string{"carrot", "peas_cooked"}
	p, err := Version(v, in)
	require.NoError(t, err)
	require.Len(t, p.Resolutions, 6)
	assert.Subset(t, p.Allergens[law.GB], []string{"nut:walnut", "nut:hazelnut"})
	assert.LessOrEqual(t, *p.PH.Low, *plain.PH.Low)
	assert.Greater(t, *p.PH.High, *plain.PH.High, "peas are less sour than carrots")
	for _, r := range p.Resolutions {
		assert.GreaterOrEqual(t, *p.PH.High, *r.PH.High, "%v", r.Used)
		assert.Subset(t, p.Allergens[law.US], r.Allergens[law.US], "%v", r.Used)
	}
	assert.Contains(t, p.Resolutions[0].Declaration[law.GB], "walnuts")
	assert.Contains(t, p.DeclaredList(law.GB), "walnuts")
}

func TestWhatGoesOnTopCountsEverywhereButInTheBowl(t *testing.T) {
	v, in := kitchen(t)
	plain, err := Version(v, in)
	require.NoError(t, err)
	v.Toppings = []formula.Topping{{ID: "t", Ingredient: "hazelnut", Grams: amount.G(5)}}
	p, err := Version(v, in)
	require.NoError(t, err)
	assert.Contains(t, p.Allergens[law.GB], "nut:hazelnut", "no topping hides an allergen")
	assert.Contains(t, p.Declaration[law.GB].List, "hazelnuts")
	assert.Equal(t, plain.Grams.String(), p.Grams.String())
	assert.Len(t, p.Lines, len(plain.Lines))
	assert.InDelta(t, 5*0.004, p.Cost.PerJar.Minus(plain.Cost.PerJar).Float(), 1e-9,
		"5 g at 4.00 a kg, nothing of it lost")
	assert.Equal(t, "195", v.NetGrams().String())

	assert.False(t, plain.facts.PlantsInOil, "a fifth of oil is no cover")
	v.Toppings[0].Ingredient = "sunflower_oil"
	oiled, err := Version(v, in)
	require.NoError(t, err)
	assert.True(t, oiled.facts.PlantsInOil, "a spoon of oil on top keeps the air out")

	v.Toppings[0].Ingredient = "nothing"
	_, err = Version(v, in)
	assert.ErrorContains(t, err, "on top")
	in.Library.Ingredients["hazelnut"].Offers = nil
	v.Toppings[0].Ingredient = "hazelnut"
	p, err = Version(v, in)
	require.NoError(t, err)
	assert.True(t, p.Cost.AtLeast)
}

func TestOilToSourIsSaidByVolumeAndByWeight(t *testing.T) {
	v, in := kitchen(t)
	p, err := Version(v, in)
	require.NoError(t, err)
	assert.InDelta(t, 200/0.92/(150/in.Library.Ingredients["vinegar_cider"].DensityGPerML), *p.OilToSour, 0.001)
	assert.InDelta(t, 200.0/150, *p.OilToSourWeight, 1e-9)
}

func TestClaimsFollowTheIngredients(t *testing.T) {
	_, in := kitchen(t)
	of := func(ids ...string) []string {
		var leaves []formula.Leaf
		for _, id := range ids {
			leaves = append(leaves, formula.Leaf{Ingredient: in.Library.Ingredients[id], Grams: 1})
		}
		return Claims(leaves)
	}
	assert.Equal(t, []string{"vegan", "vegetarian", "no gluten cereals", "no milk", "no egg", "no nuts",
		"no added sugar"}, of("carrot", "sunflower_oil"))
	assert.NotContains(t, of("honey"), "vegan")
	assert.Contains(t, of("honey"), "vegetarian")
	assert.NotContains(t, of("fish_sauce"), "vegetarian")
	assert.NotContains(t, of("soy_sauce"), "no gluten cereals")
	assert.NotContains(t, of("vinegar_malt"), "no gluten cereals")
	assert.NotContains(t, of("yogurt_whole"), "no milk")
	assert.NotContains(t, of("pistachio"), "no nuts")
	assert.Equal(t, []string{"vegan"}, Without(of("carrot"), of("honey"))[:1])
}

func TestTitratableComparesSourIngredients(t *testing.T) {
	_, in := kitchen(t)
	juice, vinegar := Titratable(*in.Library.Ingredients["lemon_juice"]),
		Titratable(*in.Library.Ingredients["vinegar_cider"])
	assert.InDelta(t, 5, vinegar, 0.5, "grams as acetic in 100 g of 5 % vinegar")
	assert.Greater(t, juice, 3.5)
	assert.Greater(t, Titratable(*in.Library.Ingredients["citric_acid"]), 80.0)
	assert.InDelta(t, 0, Titratable(pantry.Ingredient{Composition: pantry.Composition{Fat: 100}, Role: "oil"}), 0.001)
}

func TestASwapKeepsTheSaltOrTheAcidOfTheProduct(t *testing.T) {
	v, in := kitchen(t)
	salt := func(x formula.Version) float64 {
		nodes, err := in.Library.Expand(x)
		require.NoError(t, err)
		return look(x, nodes, in).salt * x.MixedGrams().Float() / 100
	}
	swapped, err := in.Library.Swap(v, "d", "soy_sauce", formula.KeepSalt, Titratable)
	require.NoError(t, err)
	assert.InDelta(t, salt(v), salt(swapped), 0.02, "grams of salt")
	assert.Greater(t, swapped.Lines[3].Grams.Float(), 60.0, "soy sauce takes more of it")

	sour, err := in.Library.Swap(v, "c", "lime_juice", formula.KeepAcid, Titratable)
	require.NoError(t, err)
	want := v.Lines[2].Grams.Float() * Titratable(*in.Library.Ingredients["vinegar_cider"])
	assert.InDelta(t, want, sour.Lines[2].Grams.Float()*Titratable(*in.Library.Ingredients["lime_juice"]), want*0.001)
}

func TestTheStricterVerdictIsTheWorse(t *testing.T) {
	days := func(n int) *int { return &n }
	refused, none, four, seven := keeping.Verdict{Refused: true, Days: days(9)}, keeping.Verdict{},
		keeping.Verdict{Days: days(4)}, keeping.Verdict{Days: days(7)}
	order := []keeping.Verdict{refused, none, four, seven}
	for i := range order {
		for j := range order {
			assert.Equal(t, i < j, worse(order[i], order[j]), "%d %d", i, j)
		}
	}
}
