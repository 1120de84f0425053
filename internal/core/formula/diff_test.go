package formula

import (
	"fmt"
	"reflect"
	"testing"
	"time"

	"gallipot/internal/core/amount"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// other sets a value to something else than it is, whatever its kind.
func other(t *testing.T, v reflect.Value) {
	t.Helper()
	switch x := v.Addr().Interface().(type) {
	case *amount.Grams:
		*x = x.Plus(amount.G(7))
		return
	case *amount.Money:
		*x = x.Plus(amount.MustMoney("7"))
		return
	case *amount.Percent:
		*x = amount.Pct(x.Float() + 7)
		return
	case *amount.Minutes:
		*x = amount.Min(x.Float() + 7)
		return
	case **time.Time:
		at := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
		*x = &at
		return
	}
	switch v.Kind() {
	case reflect.String:
		v.SetString(v.String() + "another")
	case reflect.Bool:
		v.SetBool(!v.Bool())
	case reflect.Int:
		v.SetInt(v.Int() + 7)
	case reflect.Float64:
		v.SetFloat(v.Float() + 7)
	case reflect.Pointer:
		v.Set(reflect.New(v.Type().Elem()))
		other(t, v.Elem())
	case reflect.Slice:
		element := reflect.New(v.Type().Elem()).Elem()
		other(t, element)
		v.Set(reflect.Append(v, element))
	case reflect.Map:
		m := reflect.MakeMap(v.Type())
		element := reflect.New(v.Type().Elem()).Elem()
		other(t, element)
		key := reflect.New(v.Type().Key()).Elem()
		other(t, key)
		m.SetMapIndex(key, element)
		v.Set(m)
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				other(t, v.Field(i))
			}
		}
	default:
		require.Fail(t, "no other value", "%s", v.Type())
	}
}

// What two versions differ in by being two versions, and by whose hand: no change of the recipe.
var identity = map[string]bool{"Formula": true, "Number": true, "From": true, "State": true, "LockedAt": true,
	"Lines": true}

// TestComparingCoversEveryFieldOfAVersion changes one field at a time, also those that are still to come.
func TestComparingCoversEveryFieldOfAVersion(t *testing.T) {
	kinds := reflect.TypeFor[Version]()
	for i := range kinds.NumField() {
		name := kinds.Field(i).Name
		t.Run(name, func(t *testing.T) {
			a, b := Blank("x"), Blank("x")
			other(t, reflect.ValueOf(&b).Elem().Field(i))
			c := library().Compare(a, b)
			if identity[name] {
				require.Empty(t, c.Fields)
				return
			}
			want := 1
			if part := kinds.Field(i).Type; part == reflect.TypeFor[Keeping]() || part == reflect.TypeFor[Wording]() {
				want = stored(part)
			}
			require.Len(t, c.Fields, want, "a change of %s shows", name)
			for _, f := range c.Fields {
				assert.NotEmpty(t, f.Field)
				assert.NotEqual(t, f.Before, f.After)
				assert.NotEqual(t, name, f.Field, "it has a name in words")
			}
		})
	}
}

// stored is how many fields of a struct are stored.
func stored(of reflect.Type) int {
	n := 0
	for i := range of.NumField() {
		if of.Field(i).Tag.Get("json") != unstored {
			n++
		}
	}
	return n
}

func TestComparingCoversEveryFieldOfALine(t *testing.T) {
	kinds := reflect.TypeFor[Line]()
	for i := range kinds.NumField() {
		name := kinds.Field(i).Name
		if name == "ID" {
			continue // where it stands is not what it is
		}
		t.Run(name, func(t *testing.T) {
			a, b := Blank("x"), Blank("x")
			a.Lines, b.Lines = []Line{line("1", "carrot", 300)}, []Line{line("1", "carrot", 300)}
			other(t, reflect.ValueOf(&b.Lines[0]).Elem().Field(i))
			changed := false
			for _, l := range library().Compare(a, b).Lines {
				changed = changed || l.Kind != Same
			}
			assert.True(t, changed, "a change of %s shows", name)
		})
	}
}

// TestAComparisonReadsAsWords pins how each field is told, with its unit.
func TestAComparisonReadsAsWords(t *testing.T) {
	var a, b Version
	a.Lines, b.Lines = []Line{line("1", "carrot", 300)}, []Line{line("1", "carrot", 300)}
	change := func(v reflect.Value, but map[string]bool) {
		for i := range v.NumField() {
			if !but[v.Type().Field(i).Name] {
				other(t, v.Field(i))
			}
		}
	}
	change(reflect.ValueOf(&b).Elem(), identity)
	change(reflect.ValueOf(&b.Lines[0]).Elem(),
		map[string]bool{"ID": true, "Ingredient": true, "Grams": true, "Component": true})
	c := library().Compare(a, b)
	require.Len(t, c.Lines, 1)
	var told []string
	for _, f := range append(c.Fields, c.Lines[0].Fields...) {
		told = append(told, f.Field+": "+f.Before+" → "+f.After)
	}
	assert.Equal(t, []string{
		"note:  → another",
		"product style:  → another",
		"holds together:  → another",
		"density:  → 7 g/mL",
		"density measured by:  → another",
		"density measured on:  → another",
		"water driven off:  → 7 g",
		"process loss:  → 7 %",
		"fill:  → 7 g",
		"fill by volume:  → 7 mL",
		"jar:  → another",
		"overfill:  → 7 %",
		"jars costed:  → 7",
		"packaging 1:  → another, price 7, spoilt 7 %, another, jars a piece 7",
		"minutes a batch:  → 7",
		"minutes a jar:  → 7",
		"hands an hour:  → 7",
		"overhead a batch:  → 7",
		"minutes a load:  → 7",
		"oven a load:  → 7 min",
		"overhead a jar:  → 7",
		"jars rejected:  → 7 %",
		"pH limit:  → 7",
		"pH target:  → 7",
		"largest piece:  → 7 mm",
		"kept:  → another",
		"keeping styles:  → another",
		"topped with oil:  → yes",
		"heat step:  → 7 °C",
		"heat step held:  → 7 min",
		"life after opening:  → 7 days",
		"styles follow the lines:  → yes",
		"name on labels:  → another: another",
		"legal name:  → another",
		"small amounts named last, from:  → 7 %",
		"spices grouped:  → yes",
		"the name stresses nothing:  → yes",
		"as it was said:  → another",
		"said to keep:  → 7 days",
		"steps 1:  → another, another, for 7 min, at 7 °C, another",
		"consistency:  → another",
		"on top 1:  → another, a jar 7 g",
		"phase:  → another",
		"note:  → another",
		"quantity printed:  → yes",
		"listed among the rest:  → yes",
		"as it was said:  → another",
		"how its grams were found:  → another, another, another, times 7, grams 7 g, give or take 7 %, another",
		"preparation:  → another",
		"any of:  → another",
		"grows with the batch to the power of:  → 7",
		"held back:  → 7 %",
		"tolerance:  → 7 %",
		"purpose:  → another", "may be left out:  → yes",
	}, told)
	b.Toppings[0].Ingredient = "carrot"
	lib := library()
	lib.Ingredients["carrot"].Name = "Carrot, raw"
	assert.Contains(t, lib.Compare(a, b).Fields, FieldChange{"on top 1", "", "Carrot, raw, a jar 7 g"})
}

func TestComparingAVersionWithItselfShowsNothing(t *testing.T) {
	v := Blank("x")
	v.Lines = []Line{line("1", "carrot", 300), line("2", "carrot", 20)}
	c := library().Compare(v, v)
	assert.Empty(t, c.Fields)
	for _, l := range c.Lines {
		assert.Equal(t, Same, l.Kind)
		assert.Empty(t, l.Fields)
	}
}

// ladder is a library in which each level's lines are all the next level.
func ladder(levels, lines int) (Library, Version) {
	lib := library()
	for i := range levels {
		v := Blank(fmt.Sprintf("f%d", i))
		v.Number, v.State = 1, Locked
		for n := range lines {
			l := line(fmt.Sprint(n), "water", 10)
			if i < levels-1 {
				l.Ingredient, l.Component = "", &Ref{fmt.Sprintf("f%d", i+1), 1}
			}
			v.Lines = append(v.Lines, l)
		}
		lib.Versions[Ref{v.Formula, 1}] = v
	}
	return lib, lib.Versions[Ref{"f0", 1}]
}

func TestExpandRefusesWhatIsLongerThanAnythingCooked(t *testing.T) {
	lib, v := ladder(6, 20)
	_, err := lib.Expand(v)
	var many TooManyError
	require.ErrorAs(t, err, &many)
	assert.Contains(t, err.Error(), "more than 5000 ingredients")

	lib, v = ladder(3, 17) // 4913 of them
	nodes, err := lib.Expand(v)
	require.NoError(t, err)
	assert.Len(t, nodes, 17)
	lib, v = ladder(1, 5000)
	_, err = lib.Expand(v)
	require.NoError(t, err)
	lib, v = ladder(1, 5001)
	_, err = lib.Expand(v)
	require.ErrorAs(t, err, &many)
}

func TestARepeatedComponentIsResolvedOnce(t *testing.T) {
	lib, v := ladder(3, 4)
	nodes, err := lib.Expand(v)
	require.NoError(t, err)
	for _, n := range nodes {
		assert.Same(t, nodes[0].Component, n.Component)
	}
}

// TestChangedTellsWhatDiffersOnly types a gram, takes a line out and puts one in.
func TestChangedTellsWhatDiffersOnly(t *testing.T) {
	lib := Library{}
	line := func(id, what string, grams float64) Line {
		return Line{ID: id, Ingredient: what, Grams: amount.G(grams)}
	}
	before := Version{Lines: []Line{line("1", "beet", 600), line("2", "salt", 10), line("3", "oil", 90)}, Note: "a"}
	typed := before
	typed.Lines = []Line{line("1", "beet", 600), line("2", "salt", 12), line("3", "oil", 90)}
	typed.Note = "b"
	got := lib.Changed(before, typed)
	require.Len(t, got.Lines, 1)
	assert.Equal(t, "salt 10 12", fmt.Sprint(got.Lines[0].Name, " ", got.Lines[0].GramsBefore, " ",
		got.Lines[0].GramsAfter))
	require.Len(t, got.Fields, 1)
	assert.Equal(t, FieldChange{"note", "a", "b"}, got.Fields[0])
	assert.Len(t, before.Lines, 3, "what is compared is not touched")

	fewer := before
	fewer.Lines = before.Lines[:2]
	got = lib.Changed(before, fewer)
	require.Len(t, got.Lines, 1)
	assert.Equal(t, Removed, got.Lines[0].Kind)
	moved := before
	moved.Lines = []Line{before.Lines[1], before.Lines[0], before.Lines[2]}
	assert.Empty(t, lib.Changed(before, moved).Lines, "another order is no other line")
	assert.Empty(t, lib.Changed(before, before).Lines)
}
