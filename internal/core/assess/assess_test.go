package assess

import (
	"fmt"
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/declaration"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var today = time.Date(2026, 3, 2, 0, 0, 0, 0, time.UTC)

func priced(g pantry.Ingredient) *pantry.Ingredient {
	g.Name = g.ID
	g.Offers = []pantry.PriceOffer{{Supplier: "M", PackAmount: amount.MustQuantity("1000"), PackUnit: "g",
		Price: amount.MustMoney("4"), Date: "2026-02-01"}}
	return &g
}

func ph(p float64) *pantry.PHRange { return &pantry.PHRange{Typical: p, Low: p - 0.2, High: p + 0.2} }

func inputs() Inputs {
	list := []pantry.Ingredient{
		{ID: "garlic", Composition: pantry.Composition{Water: 59, Carbohydrate: 33}, PH: ph(6.1), BufferMmol: 26,
			Flags: []string{"raw_allium"}},
		{ID: "oil", Role: "oil", DensityGPerML: 0.92, Composition: pantry.Composition{Fat: 100}},
		{ID: "olive oil", Role: "oil", DensityGPerML: 0.91, Composition: pantry.Composition{Fat: 100}},
		{ID: "vinegar", DensityGPerML: 1.01, Composition: pantry.Composition{Water: 93}, Acids: pantry.Acids{Acetic: 6},
			PH: ph(2.55), BufferMmol: 1, Flags: []string{"acidulant"}},
		{ID: "yogurt", Composition: pantry.Composition{Water: 77, Protein: 9}, Acids: pantry.Acids{Lactic: 1},
			PH: ph(4.25), BufferMmol: 48, Allergens: law.Each[[]string]{law.US: []string{"milk"},
				law.GB: []string{"milk"}}, Flags: []string{"fresh_dairy"},
			SupplierLists: law.Each[string]{law.GB: "cultured milk"}},
		{ID: "salt", Flags: []string{"salt"}, Composition: pantry.Composition{Water: 0.5, SodiumMg: 38300}},
		{ID: "egg", Composition: pantry.Composition{Water: 55}, PH: ph(6.2), BufferMmol: 80, Flags: []string{"raw_egg"},
			Allergens: law.Each[[]string]{law.US: []string{"egg"}, law.GB: []string{"egg"}}},
	}
	in := Inputs{Library: formula.Library{Ingredients: map[string]*pantry.Ingredient{},
		Versions: map[formula.Ref]formula.Version{}, Names: map[string]string{}},
		Terms: costing.Terms{Rate: costing.PricesBy(pantry.Market{Rule: pantry.NewestPrice, Today: today,
			StaleDays: 90}, nil, nil).Rate()}, Rules: keeping.Rules()}
	for _, g := range list {
		in.Library.Ingredients[g.ID] = priced(g)
	}
	return in
}

func sheet(lines ...any) formula.Version {
	v := formula.Blank("x")
	for i := 0; i < len(lines); i += 2 {
		v.Lines = append(v.Lines, formula.Line{ID: fmt.Sprint(i), Ingredient: lines[i].(string),
			Grams: amount.G(lines[i+1].(float64))})
	}
	return v
}

func TestGarlicUnderOilIsNamedAndNeverAmbient(t *testing.T) {
	v := sheet("garlic", 200.0, "olive oil", 600.0, "salt", 5.0)
	v.Keeping.Asked = "ambient"
	p, err := Version(v, inputs())
	require.NoError(t, err)
	require.NotEmpty(t, p.Cautions)
	assert.Equal(t, Caution{"danger", "Plants under oil.", p.Cautions[0].Text}, p.Cautions[0])
	assert.Equal(t, []int{2, 6}, p.Keeping[law.GB].AmbientRefusedBy)
	assert.Equal(t, 4, *p.Keeping[law.US].Days)
	assert.True(t, p.Keeping[law.US].Provisional)
	assert.Equal(t, []string{"olive oil"}, p.SetsInTheCold)
}

func TestADressingAddsUp(t *testing.T) {
	p, err := Version(sheet("oil", 300.0, "vinegar", 150.0, "yogurt", 540.0, "salt", 10.0), inputs())
	require.NoError(t, err)
	sum := amount.Percent{}
	for _, l := range p.Lines {
		sum = sum.Plus(l.Percent)
	}
	assert.True(t, sum == amount.Pct(100))
	assert.InDelta(t, 100, p.MakeUp.Total(), 1e-9)
	assert.Equal(t, []string{"milk"}, p.Allergens[law.US])
	assert.Equal(t, "Contains: Milk.", p.Declaration[law.US].Contains)
	assert.Contains(t, p.Declaration[law.GB].List, "**milk**")
	require.NotNil(t, p.OilToSour)
	assert.InDelta(t, (300/0.92)/(150/1.01), *p.OilToSour, 1e-9)
	assert.LessOrEqual(t, *p.PH.Low, *p.PH.Estimate)
	assert.GreaterOrEqual(t, *p.PH.High, *p.PH.Estimate)
	assert.Positive(t, p.TitratableInWater)
	assert.Empty(t, p.Cost.Missing)
	assert.Equal(t, []string{"packaging", "hands"}, p.Cost.Unsaid)
}

func TestRawEggIsRefusedInTheUS(t *testing.T) {
	p, err := Version(sheet("egg", 80.0, "vinegar", 60.0, "oil", 700.0), inputs())
	require.NoError(t, err)
	assert.True(t, p.Keeping[law.US].Refused)
}

func TestOnlyOilAndSaltHasNoPH(t *testing.T) {
	p, err := Version(sheet("oil", 300.0, "salt", 10.0), inputs())
	require.NoError(t, err)
	assert.True(t, p.PH.NoWater)
	assert.Nil(t, p.PH.Estimate)
	assert.Nil(t, p.PreservationIndex)
}

func TestAnEmptySheetIsNoError(t *testing.T) {
	p, err := Version(formula.Blank("x"), inputs())
	require.NoError(t, err)
	assert.Equal(t, 0, p.Jars)
	assert.Empty(t, p.Declaration[law.US].List)
	assert.True(t, p.Cost.Ingredients.Sign() == 0)
}

func TestTheEffectOfAnEditIsTold(t *testing.T) {
	in := inputs()
	before, err := Version(sheet("oil", 300.0, "vinegar", 150.0), in)
	require.NoError(t, err)
	after, err := Version(sheet("oil", 300.0, "vinegar", 150.0, "yogurt", 300.0), in)
	require.NoError(t, err)
	e := Compare(before, after, law.US)
	assert.Equal(t, []string{"milk"}, e.Gained)
	assert.Empty(t, e.Lost)
	assert.True(t, e.Declaration)
	require.NotNil(t, e.PH)
	assert.Positive(t, *e.PH)
}

func TestABatchIsJudgedOnWhatWasMeasured(t *testing.T) {
	gb, err := law.Of(law.GB)
	require.NoError(t, err)
	v := sheet("yogurt", 800.0, "vinegar", 60.0, "salt", 10.0)
	v.Keeping.Styles = []string{"dairy_based"}
	in := inputs()
	p, err := Version(v, in)
	require.NoError(t, err)
	assert.Nil(t, p.Keep(gb, v, Measured{}, in.Rules).Days, "no measurement, no life")
	value := 4.1
	verdict := p.Keep(gb, v, Measured{DecisionPH: &value}, in.Rules)
	assert.Equal(t, 21, *verdict.Days)
	assert.False(t, verdict.Provisional)
	left := 5
	assert.Equal(t, 5, *p.Keep(gb, v, Measured{DecisionPH: &value, PerishableDays: &left}, in.Rules).Days)
}

// threeLevels is a formula of 40 lines, four of them components that nest three levels deep.
func threeLevels() (formula.Version, Inputs) {
	in := inputs()
	kinds := []string{"oil", "vinegar", "yogurt", "salt", "garlic"}
	for i := range 40 {
		g := *in.Library.Ingredients[kinds[i%len(kinds)]]
		g.ID, g.Name = fmt.Sprintf("g%d", i), fmt.Sprintf("ingredient %d", i)
		in.Library.Ingredients[g.ID] = &g
	}
	make := func(id string, lines int, component string) formula.Version {
		v := formula.Blank(id)
		for i := range lines {
			v.Lines = append(v.Lines, formula.Line{ID: fmt.Sprint(i), Ingredient: fmt.Sprintf("g%d", i),
				Grams: amount.G(float64(20 + i))})
		}
		if component != "" {
			v.Lines = append(v.Lines, formula.Line{ID: "c", Component: &formula.Ref{Formula: component, Version: 1},
				Grams: amount.G(60)})
		}
		in.Library.Names[id] = id
		in.Library.Versions[formula.Ref{Formula: id, Version: 1}] = v
		return v
	}
	make("third", 5, "")
	make("second", 5, "third")
	make("first", 5, "second")
	return make("top", 39, "first"), in
}

func BenchmarkAssessFortyLinesThreeLevels(b *testing.B) {
	v, in := threeLevels()
	b.ReportAllocs()
	for b.Loop() {
		if _, err := Version(v, in); err != nil {
			b.Fatal(err)
		}
	}
}

func TestAnEstimateMovesBeyondItsMark(t *testing.T) {
	at := func(x float64) *float64 { return &x }
	was := PH{Estimate: at(4), Low: at(3.9), High: at(4.1)}
	assert.False(t, was.Moved(PH{Estimate: at(4.05), Low: at(3.85), High: at(4.15)}), "at the mark")
	assert.True(t, was.Moved(PH{Estimate: at(4.0501), Low: at(3.9), High: at(4.1)}))
	assert.True(t, was.Moved(PH{Estimate: at(4), Low: at(3.8499), High: at(4.1)}), "the low end")
	assert.True(t, was.Moved(PH{Estimate: at(4), Low: at(3.9), High: at(4.1501)}), "the high end")
	assert.True(t, was.Moved(PH{Low: at(3.9), High: at(4.1)}), "none where there was one")
	assert.True(t, PH{}.Moved(was))
	assert.False(t, PH{}.Moved(PH{}))
}

func TestOnlyOilsThatSetAreSaidToSet(t *testing.T) {
	leaf := func(name string, grams float64) formula.Leaf {
		return formula.Leaf{Ingredient: &pantry.Ingredient{Name: name, Role: "oil"}, Grams: grams}
	}
	for _, c := range []struct {
		leaves []formula.Leaf
		want   []string
	}{
		{[]formula.Leaf{leaf("Toasted sesame oil", 75), leaf("Sunflower oil", 300)}, []string{}},
		{[]formula.Leaf{leaf("Toasted sesame oil", 300)}, []string{}},
		{[]formula.Leaf{leaf("Extra virgin olive oil", 20), leaf("Sunflower oil", 300)}, []string{}},
		{[]formula.Leaf{leaf("Extra virgin olive oil", 100), leaf("Coconut oil (virgin)", 60),
			leaf("Sunflower oil", 300)}, []string{"Extra virgin olive oil", "Coconut oil (virgin)"}},
		{nil, []string{}},
	} {
		assert.Equal(t, c.want, setsInTheCold(c.leaves))
	}
}

// In GB a lock asks which words of the name need their quantity.
func TestALockNamesTheWordsThatNeedTheirQuantity(t *testing.T) {
	quid := func(name string, change func(v *formula.Version)) []string {
		v := sheet("yogurt", 500.0, "vinegar", 100.0, "oil", 200.0)
		change(&v)
		p, err := Version(v, inputs())
		require.NoError(t, err)
		var out []string
		for _, x := range BeforeLock(v, name, p, lawOf(t, law.GB)) {
			if x.Key == "quid" {
				out = append(out, x.Title)
			}
		}
		return out
	}
	same := func(*formula.Version) {}
	assert.Equal(t, []string{"The name features yogurt"}, quid("Yogurt dip", same))
	assert.Empty(t, quid("Yogurt dip", func(v *formula.Version) { v.Lines[0].Quid = true }))
	assert.Equal(t, []string{"The name features yogurt"},
		quid("Yogurt dip", func(v *formula.Version) { v.Lines[1].Quid = true }), "another line does not answer for it")
	assert.Equal(t, []string{"Does the name stress an ingredient?"}, quid("House dip", same))
	assert.Empty(t, quid("House dip", func(v *formula.Version) { v.Wording.StressesNothing = true }))
	assert.Equal(t, []string{"The name features yogurt"}, quid("House dip",
		func(v *formula.Version) { v.Wording.Names = law.Each[string]{law.GB: "yogurt dip"} }),
		"its name on a GB label")
}

// A claim names the ingredient that breaks it.
func TestClaimsNameWhatBreaksThem(t *testing.T) {
	of := func(g *pantry.Ingredient) Panel {
		return Panel{leaves: []formula.Leaf{{Ingredient: g, Grams: 10}, {Ingredient: &pantry.Ingredient{Name: "Water",
			Flags: []string{"water"}}, Grams: 90}}}
	}
	list := func(s string) law.Each[string] { return law.Each[string]{law.GB: s} }
	for _, c := range []struct {
		g      pantry.Ingredient
		breaks []string
	}{
		{pantry.Ingredient{Name: "Carrot"}, []string{Organic}},
		{pantry.Ingredient{Name: "Organic carrot"}, nil},
		{pantry.Ingredient{Name: "Hard cheese", SupplierLists: list("milk; salt; rennet")},
			[]string{Vegan, Vegetarian, DairyFree, Organic}},
		{pantry.Ingredient{Name: "Hard cheese", SupplierLists: list("milk; salt; microbial rennet")},
			[]string{Vegan, DairyFree, Organic}},
		{pantry.Ingredient{Name: "Organic honey", Flags: []string{"honey"}}, []string{Vegan, NoAddedSugar}},
		{pantry.Ingredient{Name: "Cane sugar", Flags: []string{"sugar"}}, []string{NoAddedSugar, Organic}},
		{pantry.Ingredient{Name: "Chilli sauce", SupplierLists: list("chillies; glucose syrup")},
			[]string{NoAddedSugar, Organic}},
		{pantry.Ingredient{Name: "Soy sauce", SupplierLists: list("water; soybeans; wheat; salt")},
			[]string{GlutenFree, Organic}},
		{pantry.Ingredient{Name: "Organic oats flour", MayContain: &pantry.Stated{
			Allergens: law.Each[[]string]{law.GB: {"gluten:wheat"}}}}, []string{GlutenFree}},
		{pantry.Ingredient{Name: "Anchovies"}, []string{Vegan, Vegetarian, Organic}},
		{pantry.Ingredient{Name: "Hen's egg"}, []string{Vegan, Organic}},
	} {
		var broken []string
		for _, rule := range ClaimRules() {
			for _, name := range of(&c.g).ClaimBreaks(rule) {
				assert.Equal(t, c.g.Name, name)
				broken = append(broken, rule.Key)
			}
		}
		assert.ElementsMatch(t, c.breaks, broken, "%s: %v", c.g.Name, c.g.SupplierLists)
	}
	sweet := Panel{Nutrients: declaration.Nutrition{Sugars: 4}}
	gb, us := lawOf(t, law.GB), lawOf(t, law.US)
	for _, rule := range ClaimRules() {
		if rule.Key == NoAddedSugar {
			assert.Equal(t, "No added sugar. Contains naturally occurring sugars", sweet.ClaimWords(rule, gb))
			assert.Equal(t, "No added sugar", sweet.ClaimWords(rule, us))
		}
	}
}
