package judge

import (
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var made = time.Date(2026, 11, 26, 9, 0, 0, 0, time.UTC)

func with(codes ...string) law.Each[[]string] {
	out := law.Each[[]string]{}
	for _, l := range law.All() {
		out[l.Regime] = codes
	}
	return out
}

func price(s string) []pantry.PriceOffer {
	return []pantry.PriceOffer{{Supplier: "Hob & Daughters", PackAmount: amount.MustQuantity("1"), PackUnit: "kg",
		Price: amount.MustMoney(s), Date: "2026-11-01"}}
}

// carrotDip is a batch of ten jars of 100 g that acts were done to: carrot, tahini with sesame and an optional dukkah
// that alone has nuts.
func carrotDip(t *testing.T, acts ...any) Batch {
	t.Helper()
	lib := formula.Library{Ingredients: map[string]*pantry.Ingredient{
		"carrot": {ID: "carrot", Name: "Carrots", Offers: price("2")},
		"tahini": {ID: "tahini", Name: "Tahini", Allergens: with("sesame"), Offers: price("8")},
		"dukkah": {ID: "dukkah", Name: "Dukkah", Allergens: with("sesame", "nuts:hazelnut"), Offers: price("20")},
		"milk":   {ID: "milk", Name: "Milk", Allergens: with("milk")},
	}}
	v := formula.Blank("carrot-dip")
	v.FillGrams, v.LabourPerHour = amount.G(100), amount.MustMoney("12")
	v.LossPercent, v.OverfillPercent, v.RejectPercent = amount.Pct(0), amount.Pct(0), amount.Pct(0)
	v.Lines = []formula.Line{{ID: "c", Ingredient: "carrot", Grams: amount.G(700)},
		{ID: "t", Ingredient: "tahini", Grams: amount.G(250)},
		{ID: "d", Ingredient: "dukkah", Grams: amount.G(50), Optional: true}}
	nodes, err := lib.Expand(v)
	require.NoError(t, err)
	need := bench.NeedOf(v, 10)
	need.Scale = bench.Scale{Name: "bench scale", Division: amount.G(1)}
	targets, planned, _, err := bench.Plan(v, nodes, need)
	require.NoError(t, err)
	f := bench.NewFold(bench.Needs{Targets: targets, Planned: planned})
	for i, act := range acts {
		f.Add(bench.Entry{ID: int64(i + 1), Seq: i + 1, At: made.Add(time.Duration(i) * time.Minute), By: "Ines",
			Role: people.Owner, Body: act})
	}
	return Batch{Version: v, Lib: lib, Record: f.Record(made.Add(time.Hour)), Targets: targets, Planned: planned,
		Jars: 10}
}

func weighed(line string, grams float64) *bench.Weighing {
	return &bench.Weighing{Line: line, Grams: amount.G(grams)}
}

func refusal(t *testing.T, err error) entry.Refusal {
	t.Helper()
	var r entry.Refusal
	require.ErrorAs(t, err, &r)
	return r
}

func TestWhatWentInCountsOnceAllIsWeighed(t *testing.T) {
	b := carrotDip(t, weighed("c", 720), weighed("t", 250))
	assert.Equal(t, amount.G(1000), b.AsWeighed().GramsIn(), "as planned until all lines are in")
	assert.True(t, b.InBowl().IsZero())
	assert.Nil(t, b.Balance(nil))
	assert.Empty(t, b.Unexplained())

	b = carrotDip(t, weighed("c", 720), weighed("t", 250), weighed("d", 40))
	assert.Equal(t, amount.G(1010), b.AsWeighed().GramsIn())
	assert.Equal(t, amount.G(1010), b.GramsIn())
	assert.Equal(t, amount.G(1010), b.InBowl())
	assert.Len(t, b.Nodes(), 3)
	v, planned := b.Declared()
	assert.True(t, planned, "grams alone change no word of the label")
	assert.Equal(t, b.Version.Lines, v.Lines)
}

func TestWhatWasAddedOrLeftOutIsDeclared(t *testing.T) {
	b := carrotDip(t, weighed("c", 720), weighed("t", 250), &bench.LeftOut{Load: 1, Line: "d", Reason: "none left"},
		&bench.Added{Load: 1, Ingredient: "carrot", Name: "Carrots", Grams: amount.G(30), Purpose: "thicker"})
	v, planned := b.Declared()
	assert.False(t, planned)
	var what []string
	for _, l := range v.Lines {
		what = append(what, l.Ingredient)
	}
	assert.Equal(t, []string{"carrot", "tahini", "carrot"}, what)
	assert.Equal(t, amount.G(1000), v.GramsIn())
}

func TestALineThatAloneBringsAnAllergenStaysIn(t *testing.T) {
	b := carrotDip(t)
	r := refusal(t, b.RefusesLeavingOut("d"))
	assert.Equal(t, "allergen", r.Code)
	assert.Contains(t, r.Message, "nuts:hazelnut")
	assert.NotContains(t, r.Message, "sesame", "the tahini brings that too")
	assert.NoError(t, b.RefusesLeavingOut("c"))
	assert.Error(t, carrotDip(t).RefusesLeavingOut("d"))
	b.Version.Lines[2].Ingredient = "carrot"
	assert.Error(t, b.RefusesLeavingOut("t"), "now the tahini alone has sesame")
}

func TestWhatAnAdditionWouldBring(t *testing.T) {
	b := carrotDip(t)
	assert.Equal(t, []string{"milk"}, b.Lacks(b.Lib.Ingredients["milk"]))
	assert.Empty(t, b.Lacks(b.Lib.Ingredients["tahini"]))
	b.Lib.Ingredients = map[string]*pantry.Ingredient{}
	assert.Equal(t, []string{"sesame"}, b.Lacks(&pantry.Ingredient{Allergens: with("sesame")}),
		"a product that cannot be read has nothing")
}

func TestMoreJarsThanWhatWasWeighedFillsAreRefused(t *testing.T) {
	b := carrotDip(t, weighed("c", 700), weighed("t", 250), weighed("d", 50))
	assert.Equal(t, 10, b.MostJars())
	assert.NoError(t, b.RefusesFill(&bench.Fill{Jars: 9, Rejected: 1}))
	r := refusal(t, b.RefusesFill(&bench.Fill{Jars: 10, Rejected: 1}))
	assert.Equal(t, "fill.jars", r.Field)
	assert.Contains(t, r.Message, "10 jars at most")
	assert.NoError(t, carrotDip(t).RefusesFill(&bench.Fill{Jars: 99}), "nothing is weighed yet: the release asks again")
}

func TestWhereTheGramsWent(t *testing.T) {
	in := []any{weighed("c", 700), weighed("t", 250), weighed("d", 50)}
	b := carrotDip(t, append(in, &bench.Fill{Jars: 9, At: made})...)
	assert.NoError(t, b.RefusesCount(&bench.Counted{Residue: amount.G(95)}))
	r := refusal(t, b.RefusesCount(&bench.Counted{Residue: amount.G(10)}))
	assert.Equal(t, "counted.reason", r.Field)
	assert.Contains(t, r.Message, "90 g of 1000 g are missing")
	assert.NoError(t, b.RefusesCount(&bench.Counted{Residue: amount.G(10), Reason: "a jar fell"}))
	r = refusal(t, b.RefusesCount(&bench.Counted{Residue: amount.G(400)}))
	assert.Equal(t, "counted", r.Field)
	assert.Contains(t, r.Message, "300 g more than was weighed")

	b = carrotDip(t, append(in, &bench.Fill{Jars: 9, At: made}, &bench.Counted{Residue: amount.G(10)})...)
	assert.Contains(t, b.Unexplained(), "the reason why 9 %")
	b = carrotDip(t, append(in, &bench.Fill{Jars: 9, At: made}, &bench.Counted{Residue: amount.G(400)})...)
	assert.Contains(t, b.Unexplained(), "hold 300 g more")
}

func TestWhatIsInTheBowlOfALoad(t *testing.T) {
	_, err := carrotDip(t).InLoad(2)
	assert.Equal(t, "added.load", refusal(t, err).Field)
	_, err = carrotDip(t).InLoad(1)
	assert.Contains(t, refusal(t, err).Message, "nothing is in the bowl")
	v, err := carrotDip(t, &bench.Capture{Load: 1, Line: "t", Grams: amount.G(250)}).InLoad(1)
	require.NoError(t, err)
	require.Len(t, v.Lines, 1)
	assert.Equal(t, amount.G(250), v.Lines[0].Grams)
}

func TestWhatComesHotWaitsForItsCoolingLog(t *testing.T) {
	hot := bench.Target{Line: "c", Name: "Carrots", Hot: "roasted"}
	x := &bench.Capture{Line: "c", Draws: []bench.Draw{{Lot: 1, Step: "roast"}}}
	b := carrotDip(t)
	assert.Equal(t, "cooling", refusal(t, b.RefusesHot(x, hot)).Code)
	assert.NoError(t, b.RefusesHot(x, bench.Target{Line: "c"}), "it is cold")
	assert.NoError(t, b.RefusesHot(&bench.Capture{Line: "c"}, hot), "it is not from a step of this batch")
	b.Record.Cooling = []bench.Cooling{{What: "c", State: bench.CoolingRuns}}
	assert.NoError(t, b.RefusesHot(x, hot))
}

func TestWhatABatchCostAgainstItsStandard(t *testing.T) {
	b := carrotDip(t, weighed("c", 700), weighed("t", 300), weighed("d", 50), &bench.Fill{Jars: 10, At: made},
		&bench.Worked{Minutes: 30})
	terms := costing.Terms{Rate: costing.PricesBy(pantry.Market{Rule: pantry.NewestPrice, Today: made, StaleDays: 90},
		nil, nil).Rate()}
	assert.Nil(t, carrotDip(t).PerGram(terms), "nothing is weighed")
	b.Version.LabourPerHour = amount.Money{}
	v := b.Against("Carrot dip", terms, terms, amount.MustMoney("12"))
	assert.Equal(t, 10, v.Good)
	require.Len(t, v.Lines, 3)
	assert.Equal(t, amount.G(250), v.Lines[1].Planned)
	assert.Equal(t, amount.G(300), v.Lines[1].Actual)
	require.NotNil(t, v.Hands)
	assert.Equal(t, "6.00", v.Hands.Actual.Fixed(2), "half an hour at 12")
	assert.Nil(t, carrotDip(t, weighed("c", 700), weighed("t", 300), weighed("d", 50), &bench.Fill{Jars: 10, At: made}).
		Against("Carrot dip", terms, terms, amount.MustMoney("12")).Hands, "nobody wrote down how long it took")
	b.Lib = formula.Library{}
	assert.Equal(t, []string{"Carrot dip"}, b.CostByLots("Carrot dip", terms).Missing)
}

func TestWhatALawAsksOfNetWeights(t *testing.T) {
	v := carrotDip(t).Version
	table := []law.ShortStep{{To: 500, Fixed: 9}}
	for _, under := range law.All() {
		r := NetRule(v, amount.Pct(5), Stated{100, "g"}, table, "notice 4", under)
		assert.Equal(t, amount.G(100), r.Nominal)
		assert.Equal(t, amount.G(105), r.Aim)
		if len(under.Shortage.Steps) == 0 {
			assert.Equal(t, amount.G(9), r.Short, "the table that the shop entered")
			assert.Contains(t, r.Source, "notice 4")
		} else {
			assert.Equal(t, amount.G(4.5), r.Short, "4.5 % of 100 g")
			assert.NotContains(t, r.Source, "notice 4")
		}
		v.DensityGPerML = 0.9
		r = NetRule(v, amount.Percent{}, Stated{100, "ml"}, table, "notice 4", under)
		assert.Equal(t, amount.G(90), r.Nominal, "100 mL of it")
		assert.True(t, r.Short.Cmp(amount.G(9)) < 0)
	}
	assert.Equal(t, amount.Pct(8), Overfill(v, amount.G(108)))
	assert.Equal(t, v.OverfillPercent, Overfill(v, amount.G(99)), "nobody fills to less than the version says")
}

func TestWhatIngredientsGainedAndLost(t *testing.T) {
	before := map[string]Carries{
		"pesto": {"Pesto", with("milk", "nuts"), []string{"garlic"}},
		"cod":   {"Cod", with("fish:" + law.UnnamedSpecies), nil},
		"oil":   {"Oil", with(), nil}, "gone": {"Gone", with("milk"), nil}}
	now := map[string]Carries{
		"pesto": {"Pesto", with("nuts:hazelnut", "sesame"), nil}, "cod": {"Cod", with("fish:cod"), nil},
		"oil": {"Oil", with(), nil}, "new": {"New", with("milk"), nil}}
	list := Moved(before, now)
	require.Len(t, list, 2, "what was not there gained nothing, what is gone lost nothing: %v", list)
	cod, pesto := list[0], list[1]
	assert.Equal(t, "Cod", cod.Name)
	assert.False(t, cod.Loses(), "the species is told by now: %v", cod)
	assert.True(t, pesto.Gains() && pesto.Loses())
	assert.Equal(t, []string{"garlic"}, pesto.FlagsLost)
	for _, l := range law.All() {
		assert.Equal(t, []string{"milk"}, pesto.Lost[l.Regime], "nuts are told closer by now")
		assert.ElementsMatch(t, []string{"nuts:hazelnut", "sesame"}, pesto.Gained[l.Regime])
	}
	assert.Equal(t, "Cod, Pesto", Names(list))
	assert.Equal(t, "sesame", InWords(with("sesame")))
	assert.Empty(t, InWords(with()))
	for _, l := range law.All() {
		assert.Contains(t, Gained(list)[l.Regime], "sesame")
	}
	assert.Empty(t, Moved(now, now))
}
