package formula

import (
	"strings"
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func sheetOf(lines ...Line) Version {
	v := Blank("x")
	v.Lines = lines
	return v
}

func TestScalesLessKeepsTheTotalAndLeavesRoomToTheRest(t *testing.T) {
	v := sheetOf(line("a", "carrot", 900), line("b", "water", 80), line("c", "garlic", 20))
	v.Lines[2].ScaleExponent = 0.7
	big := v.AtSize(amount.Whole(10_000))
	assert.InDelta(t, 10_000, big.GramsIn().Float(), 1e-6)
	assert.Less(t, big.Lines[2].Grams.Float(), 200.0, "less than ten times")
	assert.InDelta(t, 20*6.01, big.Lines[2].Grams.Float(), 120.2*0.17, "more than 10^0.7 times by what the others take")
	assert.InDelta(t, 900.0/80, big.Lines[0].Grams.Float()/big.Lines[1].Grams.Float(), 1e-4,
		"linear lines keep their ratio")
	assert.Equal(t, "1000", v.AtSize(amount.Whole(1000)).GramsIn().Exact().Round(3).String())
	assert.InDelta(t, 20, v.AtSize(amount.Whole(1000)).Lines[2].Grams.Float(), 1e-3,
		"the reference size is the reference")

	linear := sheetOf(line("a", "carrot", 900), line("b", "water", 100))
	assert.Equal(t, "450", linear.AtSize(amount.Whole(500)).Lines[0].Grams.String())
	assert.Equal(t, "0", sheetOf().AtSize(amount.Whole(500)).GramsIn().String())
}

func TestScalesLessIsRefusedForWhatSoursOrPreserves(t *testing.T) {
	lib := library()
	for id, flag := range map[string]string{"vinegar": "acidulant", "salt": "salt", "sugar": "sugar",
		"sorbate": "additive:preservative", "garlic": "raw_allium"} {
		lib.Ingredients[id] = &pantry.Ingredient{ID: id, Name: id, Flags: []string{flag}}
	}
	v := sheetOf(line("a", "vinegar", 100), line("b", "salt", 10), line("c", "sugar", 100), line("d", "sorbate", 1),
		line("e", "garlic", 20), line("f", "carrot", 500))
	for i := range v.Lines {
		v.Lines[i].ScaleExponent = 0.8
	}
	var fields []string
	for _, e := range lib.CheckScaling(v) {
		fields = append(fields, e.Field)
	}
	assert.Equal(t, []string{"lines[0].scale_exponent", "lines[1].scale_exponent", "lines[2].scale_exponent",
		"lines[3].scale_exponent"}, fields, "garlic and carrot may")
	v.Lines[2].Grams = amount.G(10)
	assert.Len(t, lib.CheckScaling(v), 3, "a little sugar preserves nothing")
}

func TestGroupsResolveToWhatWasUsed(t *testing.T) {
	v := sheetOf(line("a", "oil", 200), Line{ID: "b", Ingredient: "kale",
		AnyOf: []string{"kale", "rocket", "watercress"}, Grams: amount.G(60)})
	assert.Equal(t, 3, v.Resolutions())
	all, err := Library{}.EachResolution(v)
	require.NoError(t, err)
	require.Len(t, all, 3)
	assert.Equal(t, "kale", all[0].Version.Lines[1].Ingredient, "the version itself first")

	r, err := v.Resolve(map[string][]Use{"b": {{"rocket", amount.G(40)}, {"kale", amount.G(80)}}})
	require.NoError(t, err)
	require.Len(t, r.Lines, 3)
	assert.Equal(t, "20", r.Lines[1].Grams.String(), "a third of the line's 60 g")
	assert.Equal(t, "kale", r.Lines[2].Ingredient)
	assert.Equal(t, "260", r.GramsIn().String())
	assert.Empty(t, r.Groups())
	assert.Empty(t, r.Check())

	_, err = v.Resolve(map[string][]Use{"b": {{"parsley", amount.G(40)}}})
	assert.ErrorContains(t, err, "none of the group")
	_, err = v.Resolve(map[string][]Use{"b": {{"kale", amount.G(0)}}})
	assert.ErrorContains(t, err, "above 0")
	counted := v.OfGroups(Trial{Lines: []TrialLine{{Ingredient: "watercress", Grams: amount.G(50), Instead: "kale"},
		{Ingredient: "oil", Grams: amount.G(1)}}})
	assert.Equal(t, "kale", counted.Lines[0].Ingredient, "a trial with watercress is a trial of the group")
	assert.Equal(t, "oil", counted.Lines[1].Ingredient)

	same, err := v.Resolve(nil)
	require.NoError(t, err)
	assert.Equal(t, v.Lines, same.Lines)
}

func TestCheckOfGroupsStepsAndPurposes(t *testing.T) {
	for field, change := range map[string]func(*Version){
		"lines[0].any_of":            func(v *Version) { v.Lines[0].AnyOf = []string{"kale", "rocket"} },
		"lines[0].scale_exponent":    func(v *Version) { v.Lines[0].ScaleExponent = 0.3 },
		"lines[0].hold_back_percent": func(v *Version) { v.Lines[0].HoldBackPercent = 101 },
		"lines[0].tolerance_percent": func(v *Version) { v.Lines[0].TolerancePercent = -1 },
		"lines[0].purpose":           func(v *Version) { v.Lines[0].Purpose = "dances" },
		"steps[0].text":              func(v *Version) { v.Steps = []Step{{}} },
		"steps[0].celsius":           func(v *Version) { v.Steps = []Step{{Text: "roast", Celsius: 400}} },
		"lines": func(v *Version) {
			for _, id := range []string{"p", "q", "r"} {
				v.Lines = append(v.Lines, Line{ID: id, Ingredient: "k", AnyOf: []string{"k", "l", "m", "n"},
					Grams: amount.G(1)})
			}
		},
	} {
		v := sheetOf(line("a", "carrot", 10))
		change(&v)
		var fields []string
		for _, e := range v.Check() {
			fields = append(fields, e.Field)
		}
		assert.Contains(t, fields, field)
	}
}

func TestSwapKeepsWhatIsAsked(t *testing.T) {
	lib := library()
	lib.Ingredients["fine"] = &pantry.Ingredient{ID: "fine", Name: "Fine salt",
		Composition: pantry.Composition{SodiumMg: 39_000}}
	lib.Ingredients["miso"] = &pantry.Ingredient{ID: "miso", Name: "Miso",
		Composition: pantry.Composition{SodiumMg: 4_000}}
	sour := map[string]float64{"fine": 0, "miso": 1, "carrot": 0.5}
	titratable := func(g pantry.Ingredient) float64 { return sour[g.ID] }
	v := sheetOf(line("a", "carrot", 500), line("b", "miso", 39))
	v.Lines[1].Words, v.Lines[1].Said = "a spoon of miso", &Said{Source: "reference", Grams: 39}

	kept, err := lib.Swap(v, "b", "fine", KeepGrams, titratable)
	require.NoError(t, err)
	assert.Equal(t, "39", kept.Lines[1].Grams.String())
	assert.Equal(t, "a spoon of miso", kept.Lines[1].Words)
	assert.Nil(t, kept.Lines[1].Said, "its grams no longer come from those words")
	assert.Equal(t, "miso", v.Lines[1].Ingredient, "the version itself stays")

	salt, err := lib.Swap(v, "b", "fine", KeepSalt, titratable)
	require.NoError(t, err)
	assert.Equal(t, "4", salt.Lines[1].Grams.String())
	acid, err := lib.Swap(v, "a", "miso", KeepAcid, titratable)
	require.NoError(t, err)
	assert.Equal(t, "250", acid.Lines[0].Grams.String())

	for want, try := range map[string][3]string{"is not there": {"zz", "fine", KeepGrams},
		"another ingredient": {"b", "miso", KeepGrams}, "brings no salt to keep": {"a", "fine", KeepSalt},
		"brings no titratable acid;": {"b", "fine", KeepAcid}, "keep the grams": {"b", "fine", "taste"}} {
		_, err := lib.Swap(v, try[0], try[1], try[2], titratable)
		assert.ErrorContains(t, err, want)
	}
}

func TestDifferencesAreStatedByLine(t *testing.T) {
	parent := sheetOf(line("a", "carrot", 500), line("b", "oil", 100), line("c", "water", 50))
	variant := sheetOf(line("a", "carrot", 500), line("b", "water", 120), line("d", "oil", 10))
	variant.FillGrams = amount.G(120)
	lines, fields := library().Differences(parent, variant)
	require.Len(t, lines, 3)
	assert.Equal(t, LineDifference{Line: "b", Kind: Changed, Name: "water", Parent: amount.G(100),
		Variant: amount.G(120), Swapped: "oil"}, lines[0])
	assert.Equal(t, Added, lines[1].Kind)
	assert.Equal(t, Removed, lines[2].Kind)
	require.Len(t, fields, 1)
	assert.Equal(t, "fill", fields[0].Field)
}

func TestRebaseFollowsTheParentAndKeepsTheVariantsOwn(t *testing.T) {
	base := sheetOf(line("a", "carrot", 500), line("b", "oil", 100), line("c", "water", 50), line("e", "oil", 7))
	parent := sheetOf(line("a", "carrot", 520), line("b", "oil", 90), line("c", "water", 50), line("f", "water", 5),
		line("e", "oil", 8))
	variant := sheetOf(line("a", "carrot", 500), line("b", "oil", 150), line("c", "water", 60))
	parent.LossPercent, parent.FillGrams, variant.FillGrams = amount.Pct(4), amount.G(200), amount.G(120)
	variant.Formula, variant.Wording.Names = "thick", law.Each[string]{law.GB: "Thick one"}

	out, conflicts := library().Rebase(base, parent, variant)
	grams := map[string]string{}
	for _, l := range out.Lines {
		grams[l.ID] = l.Grams.String()
	}
	assert.Equal(t, map[string]string{"a": "520", "b": "150", "c": "60", "f": "5"}, grams,
		"a follows, b and c are the variant's own, f is new, e was taken out")
	assert.Equal(t, "4", out.LossPercent.String(), "a setting it left alone follows")
	assert.Equal(t, "120", out.FillGrams.String())
	assert.Equal(t, "thick", out.Formula)
	assert.Equal(t, "Thick one", out.Wording.Names[law.GB], "its name is its own")
	var where []string
	for _, c := range conflicts {
		where = append(where, c.Where)
	}
	assert.Equal(t, []string{"b", "e", "fill_g"}, where)
}

func TestRebaseOnAnUnmovedParentChangesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		base := sheetOf(line("a", "carrot", 500), line("b", "oil", 100))
		variant := base
		variant.Lines = nil
		for _, l := range base.Lines {
			if rapid.Bool().Draw(t, "keeps "+l.ID) {
				l.Grams = amount.G(rapid.Float64Range(1, 900).Draw(t, l.ID))
				variant.Lines = append(variant.Lines, l)
			}
		}
		out, conflicts := library().Rebase(base, base, variant)
		assert.Empty(t, conflicts)
		assert.Equal(t, len(variant.Lines), len(out.Lines))
		for i := range out.Lines {
			assert.Equal(t, variant.Lines[i].Grams.String(), out.Lines[i].Grams.String())
		}
	})
}

func TestAlignPutsTheSameLinesSideBySide(t *testing.T) {
	parent := sheetOf(line("a", "carrot", 500), line("b", "oil", 100))
	thick := sheetOf(line("a", "carrot", 600), line("b", "oil", 100))
	other := sheetOf(line("a", "water", 500), line("z", "oil", 100))
	rows := library().Align([]Version{parent, thick, other})
	require.Len(t, rows, 2)
	assert.True(t, rows[0].Differs)
	assert.Equal(t, "water", rows[0].Cells[2].Name, "another ingredient in the same place")
	assert.False(t, rows[1].Differs, "the same thing under another line id is the same thing")
	assert.True(t, rows[1].Cells[2].There)
}

func TestWhatDiffersInSettingsIsNamed(t *testing.T) {
	a, b := sheetOf(line("a", "carrot", 10)), sheetOf(line("a", "carrot", 10))
	b.Toppings = []Topping{{ID: "t", Ingredient: "oil", Grams: amount.G(3)},
		{ID: "u", Ingredient: "water", Grams: amount.G(1)}}
	b.Consistency = "runs through the cup in 20 s"
	_, fields := library().Differences(a, b)
	var named []string
	for _, f := range fields {
		named = append(named, f.Field+": "+f.Before+" → "+f.After)
	}
	assert.Equal(t, []string{"consistency:  → runs through the cup in 20 s", "on top 1:  → oil, a jar 3 g",
		"on top 2:  → water, a jar 1 g"}, named)
}

func TestToppingsAreChecked(t *testing.T) {
	for field, change := range map[string]func(*Version){
		"toppings[0].id":            func(v *Version) { v.Toppings[0].ID = "a" },
		"toppings[0].ingredient":    func(v *Version) { v.Toppings[0].Ingredient = "" },
		"toppings[0].grams_per_jar": func(v *Version) { v.Toppings[0].Grams = amount.G(-1) },
		"toppings": func(v *Version) {
			for i := range 11 {
				v.Toppings = append(v.Toppings, Topping{ID: string(rune('m' + i)), Ingredient: "oil"})
			}
		},
	} {
		v := sheetOf(line("a", "carrot", 10))
		v.Toppings = []Topping{{ID: "t", Ingredient: "oil", Grams: amount.G(3)}}
		require.Empty(t, v.Check())
		change(&v)
		var fields []string
		for _, e := range v.Check() {
			fields = append(fields, e.Field)
		}
		assert.Contains(t, fields, field)
	}
}

func TestEveryResolutionKeepsTheGrams(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		v := sheetOf(line("a", "oil", rapid.Float64Range(1, 900).Draw(t, "oil")))
		want := 1
		for g := range rapid.IntRange(0, 2).Draw(t, "groups") {
			size := rapid.IntRange(2, 4).Draw(t, "size")
			var ids []string
			for k := range size {
				ids = append(ids, string(rune('p'+g*5+k)))
			}
			want *= size
			v.Lines = append(v.Lines, Line{ID: string(rune('b' + g)), Ingredient: ids[0], AnyOf: ids,
				Grams: amount.G(rapid.Float64Range(1, 90).Draw(t, "grams"))})
		}
		all, err := Library{}.EachResolution(v)
		require.NoError(t, err)
		require.Len(t, all, want)
		require.Equal(t, want, v.Resolutions())
		seen := map[string]bool{}
		for _, r := range all {
			key := ""
			for _, l := range r.Version.Lines {
				key += l.Ingredient + " "
			}
			assert.False(t, seen[key], "each way once")
			seen[key] = true
			assert.Equal(t, v.GramsIn().String(), r.Version.GramsIn().String())
		}
	})
}

func TestGroupsInsideComponentsAreResolvedToo(t *testing.T) {
	crumb, base := Ref{"crumb", 1}, Ref{"base", 1}
	group := func(id string, of ...string) Line {
		return Line{ID: id, Ingredient: of[0], AnyOf: of, Grams: amount.G(50)}
	}
	lib := Library{Versions: map[Ref]Version{
		crumb: {Formula: "crumb", Number: 1, Lines: []Line{group("1", "walnut", "peanut")}},
		base: {Formula: "base", Number: 1, Lines: []Line{{ID: "1", Component: &crumb, Grams: amount.G(20)},
			group("2", "kale", "rocket", "watercress")}}}}
	v := sheetOf(line("a", "oil", 200), group("b", "lemon", "lime"))
	v.Lines = append(v.Lines, Line{ID: "c", Component: &base, Grams: amount.G(100)},
		Line{ID: "d", Component: &crumb, Grams: amount.G(10)})
	all, err := lib.EachResolution(v)
	require.NoError(t, err)
	require.Len(t, all, 2*3*2, "the crumb is made up one way, however often it is used")
	assert.Equal(t, []string{"lemon", "kale", "walnut"}, all[0].Used, "as it stands first")
	seen := map[string]bool{}
	for _, r := range all {
		key := r.Version.Lines[1].Ingredient + r.Library.Versions[base].Lines[1].Ingredient +
			r.Library.Versions[crumb].Lines[0].Ingredient
		assert.Equal(t, strings.Join(r.Used, ""), key)
		seen[key] = true
	}
	assert.Len(t, seen, 12)
	assert.Equal(t, "walnut", lib.Versions[crumb].Lines[0].Ingredient, "the library itself is not touched")

	v.Lines = append(v.Lines, group("e", "p", "q", "r"))
	_, err = lib.EachResolution(v)
	assert.ErrorContains(t, err, "36 ways")
}

func TestAtAnySizeTheGramsAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		v := sheetOf(line("a", "carrot", rapid.Float64Range(100, 900).Draw(t, "carrot")),
			line("b", "oil", rapid.Float64Range(1, 400).Draw(t, "oil")),
			line("c", "garlic", rapid.Float64Range(0.1, 60).Draw(t, "garlic")))
		v.Lines[2].ScaleExponent = rapid.Float64Range(0.5, 1).Draw(t, "exponent")
		size := rapid.Float64Range(10, 500_000).Draw(t, "size")
		wanted := amount.ExactFloat(size)
		assert.Equal(t, wanted.Grams(), v.AtSize(wanted).GramsIn())
		sum := amount.Exact{}
		for _, g := range v.Sized(wanted) {
			sum = sum.Plus(g)
		}
		assert.Zero(t, sum.Cmp(wanted), "before rounding they add up exactly")
		before, after := v.Lines[2].Grams.Float()/v.GramsIn().Float(), v.Sized(wanted)[2].Float()/size
		if size > v.GramsIn().Float() {
			assert.LessOrEqual(t, after, before*(1+1e-4), "a larger batch takes less of it")
		} else {
			assert.GreaterOrEqual(t, after, before*(1-1e-4))
		}
	})
}

func TestWhatGoesOnTopIsResolved(t *testing.T) {
	lib := library()
	v := Blank("x")
	v.Toppings = []Topping{{ID: "t1", Ingredient: "carrot", Grams: amount.G(3)}}
	nodes, err := lib.OnTop(v)
	require.NoError(t, err)
	require.Len(t, nodes, 1)
	n := nodes[0]
	assert.Equal(t, &Line{ID: "t1", Ingredient: "carrot", Grams: amount.G(3)}, n.Line)
	assert.Equal(t, lib.Ingredients["carrot"].Name, n.Name)
	assert.Equal(t, 3.0, n.Grams)
	assert.Same(t, lib.Ingredients["carrot"], n.Ingredient)
	v.Toppings[0].Ingredient = "nothing"
	_, err = lib.OnTop(v)
	var missing MissingError
	require.ErrorAs(t, err, &missing)
	assert.Contains(t, missing.What, "nothing")
}
