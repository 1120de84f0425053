package bench

import (
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// limes, peas and nuts: zest and juice of the same limes, peas that are soaked and boiled, nuts that are bought.
func larderOf() Kitchen {
	wet := pantry.Composition{Water: 80}
	have := map[string]*pantry.Ingredient{
		"lime":   {ID: "lime", Name: "Limes", Composition: wet, PieceGrams: 70},
		"juice":  {ID: "juice", Name: "Lime juice", Composition: wet},
		"zest":   {ID: "zest", Name: "Lime zest", Composition: wet},
		"dry":    {ID: "dry", Name: "Split peas, dry", Composition: pantry.Composition{Water: 10}},
		"soaked": {ID: "soaked", Name: "Split peas, soaked", Composition: wet},
		"boiled": {ID: "boiled", Name: "Split peas, boiled", Composition: wet},
		"nuts":   {ID: "nuts", Name: "Walnuts", UsablePercent: 80, PieceGrams: 4},
		"water":  {ID: "water", Name: "Water", Flags: []string{pantry.FlagWater}},
	}
	price := func(grams int, cost string) pantry.UnitCost {
		return pantry.UnitCost{PackGrams: amount.Whole(int64(grams)),
			Offer: pantry.PriceOffer{Supplier: "Marl Mill Stores",
				PackAmount: amount.MustQuantity("1000"), PackUnit: "g", Price: amount.MustMoney(cost)}}
	}
	costs := map[string]pantry.UnitCost{"lime": price(1000, "4"), "dry": price(1000, "2.6"), "nuts": price(1000, "11")}
	return Kitchen{Ingredients: have, There: map[string]amount.Grams{},
		Offer: func(g *pantry.Ingredient) (pantry.UnitCost, error) {
			if c, ok := costs[g.ID]; ok {
				return c, nil
			}
			return pantry.UnitCost{}, pantry.ErrNoPrice
		},
		Steps: []pantry.Preparation{
			{ID: "juice", Name: "juice", Input: "lime", Output: "juice", YieldPercent: 45, MinutesPerKg: 20},
			{ID: "both", Name: "zest_then_juice", Input: "lime", Output: "juice", YieldPercent: 40, CoOutput: "zest",
				CoYield:      5,
				MinutesPerKg: 50},
			{ID: "boil", Name: "boil", Input: "soaked", Output: "boiled", YieldPercent: 105, MinutesPerKg: 5,
				WaitMinutes: 40},
			{ID: "soak", Name: "soak", Input: "dry", Output: "soaked", YieldPercent: 200, MinutesPerKg: 2,
				WaitMinutes: 480,
				Extras:      []pantry.ExtraInput{{Ingredient: "water", PerHundred: 300, UptakePercent: 33}}},
		}}
}

func row(t *testing.T, l List, id string) Buy {
	t.Helper()
	for _, b := range l.Buy {
		if b.Ingredient == id {
			return b
		}
	}
	require.Fail(t, "nothing to get of "+id)
	return Buy{}
}

func TestWhatIsToBeGotForABatch(t *testing.T) {
	k := larderOf()
	l := ShoppingList([]Wanted{{"juice", amount.G(400), ""}, {"zest", amount.G(60), ""}, {"boiled", amount.G(4200), ""},
		{"nuts", amount.G(1000), ""}, {"water", amount.G(500), ""}}, k)
	limes := row(t, l, "lime")
	assert.Equal(t, "1200", limes.Need.String(), "the zest asks for more than the juice; both come of the same limes")
	assert.Equal(t, []int{18, 2}, []int{limes.Pieces, limes.Packs})
	assert.Equal(t, "800", limes.Over.String())
	assert.Equal(t, "2000", row(t, l, "dry").Need.String(), "4200 g boiled of 4000 g soaked of 2000 g dry")
	nuts := row(t, l, "nuts")
	assert.Equal(t, "1250", nuts.Need.String(), "a fifth of them is not usable")
	assert.Zero(t, nuts.Pieces, "nuts are not counted")
	assert.Equal(t, "35.20", l.Cost.Fixed(2), "2 x 4 + 2 x 2.60 + 2 x 11")
	assert.Len(t, l.Buy, 3, "water comes from the tap")

	k.There["zest"], k.There["lime"] = amount.G(60), amount.G(5000)
	k.There["boiled"] = amount.G(2100)
	l = ShoppingList([]Wanted{{"juice", amount.G(400), ""}, {"zest", amount.G(60), ""}, {"boiled", amount.G(4200), ""}},
		k)
	limes = row(t, l, "lime")
	assert.True(t, limes.Short.IsZero() && limes.Cost == nil, "what lies there is taken first")
	assert.Equal(t, "1000", row(t, l, "dry").Need.String(), "half of them lie boiled on the shelf")
	assert.Equal(t, 1, l.Enough)

	l = ShoppingList([]Wanted{{"zest", amount.G(10), ""}, {"boiled", amount.G(100), ""}},
		Kitchen{Ingredients: k.Ingredients,
			Steps: k.Steps, Offer: func(*pantry.Ingredient) (pantry.UnitCost, error) {
				return pantry.UnitCost{},
					pantry.ErrNoPrice
			}})
	assert.ElementsMatch(t, []string{"Limes", "Split peas, dry"}, l.Unpriced, "a missing price is named, never nothing")
}

func TestTheDayIsPlannedBackFromTheBench(t *testing.T) {
	l := ShoppingList([]Wanted{{"juice", amount.G(400), "juice"}, {"boiled", amount.G(4200), ""}}, larderOf())
	start := time.Date(2026, 11, 27, 9, 30, 0, 0, time.UTC)
	gb, err := law.Of(law.GB)
	require.NoError(t, err)
	day := Day{Start: start, Cooling: gb.Cooling, Loads: 2, PerBatch: 20, PerJar: 1, Jars: 40,
		Reads: true}.Plan(l.Prepare)
	at := map[string]Task{}
	for _, x := range day.Tasks {
		at[x.Key] = x
	}
	assert.Equal(t, start, at["cool boil"].To, "cold when it is weighed in")
	assert.Equal(t, 90*time.Minute, at["cool boil"].To.Sub(at["cool boil"].From))
	assert.False(t, at["boil"].To.After(at["cool boil"].From))
	assert.False(t, at["soak"].To.After(at["boil"].From), "soaked before it is boiled")
	assert.GreaterOrEqual(t, at["soak"].To.Sub(at["soak"].From), 8*time.Hour)
	hands := at["soak"].From.Add(time.Duration(at["soak"].Hands * float64(time.Minute)))
	assert.False(t, hands.After(time.Date(2026, 11, 26, 22, 0, 0, 0, time.UTC)), "nobody works by night")
	assert.Contains(t, day.Word, "begin the day before")
	assert.Equal(t, start, at["weigh"].From)
	assert.Equal(t, at["fill"].To, at["read"].From)
	var busy []Task
	for _, x := range day.Tasks {
		if x.Kind != AtBench && x.Hands > 0 {
			busy = append(busy, x)
		}
	}
	for i, a := range busy {
		for _, b := range busy[i+1:] {
			aEnds, bEnds := a.From.Add(minutesOf(a.Hands)), b.From.Add(minutesOf(b.Hands))
			assert.True(t, !a.From.Before(bEnds) || !b.From.Before(aEnds), "one pair of hands: %s and %s", a.Text,
				b.Text)
		}
	}
	bare := Day{Start: start, Loads: 1, Jars: 5}.Plan(nil)
	assert.Contains(t, bare.Word, "Nothing is prepared")
	assert.Equal(t, start, bare.From)
}

func TestSmallLinesGoToTheFineScale(t *testing.T) {
	v := formula.Blank("x")
	v.Lines = []formula.Line{{ID: "a", Ingredient: "oil", Grams: amount.G(990)},
		{ID: "b", Ingredient: "gum", Grams: amount.G(1.5)}}
	n := wholeGrams(v, 1)
	n.Fine = Scale{Name: "fine", Division: amount.MustGrams("0.01")}
	a, err := AskOf(v, 5, n)
	require.NoError(t, err)
	s, err := a.Size()
	require.NoError(t, err)
	sheet := Sheets(v, s, n)[0]
	assert.Zero(t, sheet[0].Steps()%1000, "the oil in whole grams")
	assert.InDelta(t, s.Total.Float()*1.5/991.5, sheet[1].Float(), 0.0051, "the gum to a hundredth")
	p := &Planned{Scale: n.Scale, Fine: n.Fine}
	on, doubt := p.WeighedOn(sheet[1])
	assert.Equal(t, "fine", on.Name)
	assert.Empty(t, doubt)
	_, doubt = p.WeighedOn(amount.MustGrams("0.1"))
	assert.Contains(t, doubt, "0.2 g that the scale weighs well")
	p.Fine = Scale{}
	_, doubt = p.WeighedOn(sheet[1])
	assert.NotEmpty(t, doubt, "without a finer scale it is said")
}
