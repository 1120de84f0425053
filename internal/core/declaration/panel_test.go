package declaration

import (
	"strings"
	"testing"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
)

// row is the row of a panel by its name.
func row(t *testing.T, p *NutritionPanel, name string) NutritionRow {
	t.Helper()
	for _, r := range p.Rows {
		if r.Name == name {
			return r
		}
	}
	t.Fatalf("no row %q", name)
	return NutritionRow{}
}

func TestTheGBPanelIsOfAHundredGramsOrMillilitres(t *testing.T) {
	n := Nutrition{EnergyKJ: 1000, EnergyKcal: 240, Fat: 20, Saturates: 2, AvailableCarbohydrate: 8, Sugars: 6,
		Salt: 1.2}
	p := n.Panel(of(t, GB), PanelAsk{NetGrams: 190})
	assert.Equal(t, []string{"per 100 g"}, p.Columns)
	assert.Equal(t, []string{"1000 kJ / 240 kcal"}, row(t, p, "Energy").Values, "both on a line")
	assert.Equal(t, 1, row(t, p, "of which sugars").Indent)
	var names []string
	for _, r := range p.Rows {
		names = append(names, r.Name)
	}
	assert.Equal(t, "Energy, Fat, of which saturates, Carbohydrate, of which sugars, Fibre, Protein, Salt",
		strings.Join(names, ", "))
	ml := n.Panel(of(t, GB), PanelAsk{NetGrams: 190, ByVolume: true, DensityGPerML: 1.1})
	assert.Equal(t, []string{"per 100 ml"}, ml.Columns)
	assert.Equal(t, []string{"1100 kJ / 264 kcal"}, row(t, ml, "Energy").Values)
	assert.Equal(t, []string{"1.3 g"}, row(t, ml, "Salt").Values, "1.32 g in 100 ml")
	assert.Contains(t, p.Words(), "1.2 g")
}

func TestServingsOfAUSPanel(t *testing.T) {
	for _, c := range []struct {
		ask     PanelAsk
		serving [2]string
		columns int
	}{
		{PanelAsk{Style: "dip", DensityGPerML: 1.05, NetGrams: 190},
			[2]string{"about 6 servings per container", "Serving size 2 tbsp (32 g)"}, 2},
		{PanelAsk{Style: "pesto", DensityGPerML: 1, NetGrams: 240},
			[2]string{"4 servings per container", "Serving size 1/4 cup (60 g)"}, 2},
		{PanelAsk{Style: "marinade", NetGrams: 300},
			[2]string{"20 servings per container", "Serving size 1 tbsp (15 g)"}, 2},
		{PanelAsk{Style: "pourable dressing", NetGrams: 105},
			[2]string{"3.5 servings per container", "Serving size 2 tbsp (30 g)"}, 2},
		{PanelAsk{Style: "pourable dressing", NetGrams: 75},
			[2]string{"2.5 servings per container", "Serving size 2 tbsp (30 g)"}, 4},
		{PanelAsk{Style: "pourable dressing", NetGrams: 50},
			[2]string{"1 serving per container", "Serving size 1 container (50 g)"}, 2},
		{PanelAsk{Style: "dip", NetGrams: 190, ServingGrams: 20},
			[2]string{"about 10 servings per container", "Serving size 20 g"}, 2},
	} {
		p := Nutrition{}.Panel(of(t, US), c.ask)
		assert.Equal(t, c.serving[:], p.Serving, "%+v", c.ask)
		assert.Len(t, p.Columns, c.columns, "%+v", c.ask)
		for _, r := range p.Rows {
			assert.Len(t, r.Values, c.columns, r.Name)
		}
	}
}

func TestDailyValuesOfAUSPanel(t *testing.T) {
	n := Nutrition{CaloriesUS: 700, Fat: 60, Saturates: 10, SodiumMg: 1500, Carbohydrate: 20, Sugars: 12,
		AddedSugars: 10, CalciumMg: 217, IronMg: 0.9, PotassiumMg: 4000, VDg: 3.4}
	p := n.Panel(of(t, US), PanelAsk{NetGrams: 300}) // 30 g of it
	for name, want := range map[string][2]string{
		"Calories": {"210", ""}, "Total Fat": {"18 g", "23%"}, "Saturated Fat": {"3 g", "15%"}, "Trans Fat": {"0 g",
			""},
		"Sodium": {"450 mg", "20%"}, "Total Sugars": {"4 g", ""}, "Added Sugars": {"3 g", "6%"},
		"Calcium": {"70 mg", "6%"}, "Iron": {"0.3 mg", "0%"}, "Potassium": {"1200 mg", "25%"},
		"Vitamin D": {"1 mcg", "6%"},
	} {
		assert.Equal(t, want[:], row(t, p, name).Values, name)
	}
	assert.Equal(t, "Calories", p.Rows[0].Name)
	assert.Equal(t, "Potassium", p.Rows[len(p.Rows)-1].Name, "the order of the law")
	assert.Equal(t, 2, row(t, p, "Added Sugars").Indent)
	little := Nutrition{Saturates: 1.5, Sugars: 1.6, AddedSugars: 1.6}.Panel(of(t, US), PanelAsk{NetGrams: 300})
	assert.Equal(t, []string{"0 g", "0%"}, row(t, little, "Saturated Fat").Values, "0.45 g is told as nothing")
	two := n.Panel(of(t, US), PanelAsk{NetGrams: 60})
	assert.Equal(t, []string{"18 g", "23%", "36 g", "46%"}, row(t, two, "Total Fat").Values,
		"of a serving, of the container")
}

// Sugars of what sweetens are added; of a compound with sugar in its list nobody can tell.
func TestAddedSugarsAreKnownOrSaidToBeUnknown(t *testing.T) {
	leaf := func(g pantry.Ingredient, grams float64) formula.Leaf {
		return formula.Leaf{Ingredient: &g, Grams: grams}
	}
	n := NutritionOf([]formula.Leaf{
		leaf(pantry.Ingredient{Name: "Honey", Role: "sweetener", Composition: pantry.Composition{Sugars: 80}}, 10),
		leaf(pantry.Ingredient{Name: "Sugar", Flags: []string{"sugar"},
			Composition: pantry.Composition{Sugars: 100}}, 5),
		leaf(pantry.Ingredient{Name: "Carrot", Composition: pantry.Composition{Sugars: 5}}, 80),
		leaf(pantry.Ingredient{Name: "Chilli sauce", Composition: pantry.Composition{Sugars: 20},
			SupplierLists: law.Each[string]{GB: "chillies; sugar; vinegar"}}, 5),
	}, 0)
	assert.InDelta(t, 13, n.AddedSugars, 1e-9)
	assert.Equal(t, []string{"Chilli sauce"}, n.Unknown)
}
