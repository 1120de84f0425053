package formula

import (
	"fmt"
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func ingredient(id string, water, fat float64) *pantry.Ingredient {
	return &pantry.Ingredient{ID: id, Name: id, Composition: pantry.Composition{Water: water, Fat: fat}}
}

func line(id, ingredient string, g float64) Line {
	return Line{ID: id, Ingredient: ingredient, Grams: amount.G(g)}
}

func library() Library {
	return Library{
		Ingredients: map[string]*pantry.Ingredient{"oil": ingredient("oil", 0, 100),
			"carrot": ingredient("carrot", 88, 0), "water": ingredient("water", 100, 0)},
		Versions: map[Ref]Version{}, Names: map[string]string{"base": "The base", "top": "The top"},
	}
}

func TestFinishedGramsAndJars(t *testing.T) {
	v := Blank("x")
	v.Lines = []Line{line("a", "carrot", 1008)}
	v.LossPercent, v.OverfillPercent, v.FillGrams = amount.Pct(2), amount.Pct(1), amount.G(190)
	assert.Equal(t, "987.84", v.FinishedGrams().String())
	assert.Equal(t, 5, v.Jars())
	v.WaterDrivenOff = amount.G(108)
	assert.Equal(t, "900", v.MixedGrams().String())
	assert.Equal(t, 0, Version{}.Jars())
}

func TestExpandScalesAComponentToItsLine(t *testing.T) {
	lib := library()
	lib.Versions[Ref{"base", 1}] = Version{Formula: "base", Number: 1, WaterDrivenOff: amount.G(100),
		Lines: []Line{line("a", "carrot", 400), line("b", "water", 200)}}
	top := Version{Formula: "top", Number: 1,
		Lines: []Line{{ID: "c", Component: &Ref{"base", 1}, Grams: amount.G(250)}, line("d", "oil", 50)}}
	nodes, err := lib.Expand(top)
	require.NoError(t, err)
	leaves, off := Leaves(nodes)
	require.Len(t, leaves, 3)
	assert.InDelta(t, 200, leaves[0].Grams, 1e-9) // 400 x 250 / 500
	assert.InDelta(t, 100, leaves[1].Grams, 1e-9)
	assert.InDelta(t, 50, off, 1e-9)
	m := MakeUpOf(leaves, off)
	assert.InDelta(t, 300, m.Total(), 1e-9)
	assert.InDelta(t, 50, m.Fat, 1e-9)
	assert.InDelta(t, 200*0.88+100-50, m.Water, 1e-9)
}

func TestExpandNamesTheCycle(t *testing.T) {
	lib := library()
	lib.Versions[Ref{"base", 1}] = Version{Formula: "base", Number: 1,
		Lines: []Line{{ID: "a", Component: &Ref{"top", 1}, Grams: amount.G(1)}}}
	top := Version{Formula: "top", Number: 1,
		Lines: []Line{line("x", "oil", 1), {ID: "b", Component: &Ref{"base", 1}, Grams: amount.G(1)}}}
	lib.Versions[Ref{"top", 1}] = top
	_, err := lib.Expand(top)
	var at LineError
	require.ErrorAs(t, err, &at)
	assert.Equal(t, 1, at.Line)
	var cycle CycleError
	require.ErrorAs(t, err, &cycle)
	assert.Equal(t, []string{"The top", "The base", "The top"}, cycle.Path)
}

func TestExpandRefusesMoreThanSixLevels(t *testing.T) {
	lib := library()
	lib.Versions[Ref{"c0", 1}] = Version{Formula: "c0", Number: 1, Lines: []Line{line("a", "oil", 1)}}
	for i := 1; i <= 7; i++ {
		lib.Versions[Ref{fmt.Sprintf("c%d", i), 1}] = Version{Formula: fmt.Sprintf("c%d", i), Number: 1,
			Lines: []Line{{ID: "a", Component: &Ref{fmt.Sprintf("c%d", i-1), 1}, Grams: amount.G(1)}}}
	}
	_, err := lib.Expand(lib.Versions[Ref{"c6", 1}])
	assert.NoError(t, err, "six components deep is allowed")
	_, err = lib.Expand(lib.Versions[Ref{"c7", 1}])
	var depth DepthError
	assert.ErrorAs(t, err, &depth)
}

func TestExpandNamesTheLineOfWhatIsMissing(t *testing.T) {
	_, err := library().Expand(Version{Formula: "top", Lines: []Line{line("a", "oil", 1), line("b", "unobtainium", 1)}})
	var missing MissingError
	require.ErrorAs(t, err, &missing)
	assert.Equal(t, 1, missing.Line)
	assert.Contains(t, err.Error(), "unobtainium")
}

func TestCheckNamesEachMistake(t *testing.T) {
	v := Blank("x")
	v.Lines = []Line{line("a", "oil", -1), {ID: "a", Grams: amount.G(1)},
		{ID: "c", Ingredient: "oil", Component: &Ref{"y", 1}, Grams: amount.G(20_000_000)}}
	v.LossPercent, v.PHTarget, v.PHLimit = amount.Pct(99), 4.8, 4.7
	v.Packaging = []PackagingItem{{Name: "", Price: amount.MustMoney("-1")}}
	v.Keeping.Asked = "ambient"
	v.MinutesPerJar = amount.Min(-2)
	v.Wording.TailPercent = 3
	at := map[string]bool{}
	for _, e := range v.Check() {
		at[e.Field] = true
	}
	for _, want := range []string{"lines[0].grams", "lines[1]", "lines[1].id", "lines[2]", "lines[2].grams",
		"loss_percent", "ph_target", "ph_limit", "packaging[0].name",
		"packaging[0].price", "minutes_per_jar", "wording.tail_percent"} {
		assert.True(t, at[want], want)
	}
	assert.Empty(t, Blank("fine").Check())
}

func TestCompareSaysWhatChanged(t *testing.T) {
	lib := library()
	a, b := Blank("x"), Blank("x")
	a.Lines = []Line{line("1", "carrot", 300), line("2", "oil", 100), line("3", "water", 50)}
	b.Lines = []Line{line("9", "carrot", 320), line("8", "oil", 100),
		{ID: "7", Component: &Ref{"base", 2}, Grams: amount.G(20)}}
	b.FillGrams, b.PHTarget = amount.G(165), 4.0
	c := lib.Compare(a, b)
	kinds := map[string]string{}
	for _, l := range c.Lines {
		kinds[l.Name] = l.Kind
	}
	assert.Equal(t, map[string]string{"carrot": Changed, "oil": Same, "The base, version 2": Added, "water": Removed},
		kinds)
	var fields []string
	for _, f := range c.Fields {
		fields = append(fields, f.Field)
	}
	assert.Equal(t, []string{"fill", "pH target"}, fields)
}

func TestMakeUpNeverExceedsTheMass(t *testing.T) {
	salt := pantry.Ingredient{ID: "s", Composition: pantry.Composition{Water: 0.5, SodiumMg: 39500}}
	m := MakeUpOf([]Leaf{{&salt, 100}}, 0)
	assert.InDelta(t, 100, m.Total(), 1e-9)
}
