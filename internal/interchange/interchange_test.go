package interchange

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"testing"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

func example(t *testing.T) string {
	t.Helper()
	raw, err := os.ReadFile("../demo/hollin-lane.bundle.json")
	require.NoError(t, err)
	return string(raw)
}

func fields(t *testing.T, err error) string {
	t.Helper()
	var p kernel.Problem
	require.ErrorAs(t, err, &p)
	assert.Equal(t, kernel.Invalid, p.Kind)
	var out []string
	for _, f := range p.Fields {
		assert.NotEmpty(t, f.Message)
		out = append(out, f.Field)
	}
	return strings.Join(out, "\n")
}

func TestABundleReadsBackAsItWasWritten(t *testing.T) {
	b, err := ReadBundle(strings.NewReader(example(t)))
	require.NoError(t, err)
	var out bytes.Buffer
	require.NoError(t, WriteBundle(&out, b))
	again, err := ReadBundle(bytes.NewReader(out.Bytes()))
	require.NoError(t, err)
	assert.Equal(t, asJSON(t, b), asJSON(t, again))
}

func asJSON(t *testing.T, v any) string {
	t.Helper()
	raw, err := json.Marshal(v)
	require.NoError(t, err)
	return string(raw)
}

func TestABundleMayLeaveOutWhatHasADefault(t *testing.T) {
	b,
		err := ReadBundle(strings.NewReader(`{"format":"gallipot-bundle","format_version":1,"shop":{"name":"S","currency":"USD","regime":"US"},
		"ingredients":[{"id":"beet","name":"Beetroot","composition":{"water":88}}],
		"formulas":[{"id":"dip","name":"Dip","versions":[{"formula":"dip","version":1,"state":"draft","lines":[{"id":"a","ingredient":"beet","grams":12.5}]}]}]}`))
	require.NoError(t, err)
	assert.Empty(t, b.Check(context.Background()))
	assert.Equal(t, "en-US", b.Shop.Locale)
	v := b.Formulas[0].Versions[0]
	assert.Equal(t, 4.6, v.PHLimit)
	assert.Equal(t, "chilled", v.Keeping.Asked)
	assert.Equal(t, "12.5", v.Lines[0].Grams.String())
}

func TestABrokenBundleIsNamedWithItsPath(t *testing.T) {
	good := example(t)
	for name, c := range map[string]struct{ text, field string }{
		"no JSON":          {"{", "bundle"},
		"another encoding": {"\xff\xfe{}", "bundle"},
		"another format":   {strings.Replace(good, "gallipot-bundle", "recipes", 1), "bundle.format"},
		"a later version": {strings.Replace(good, `"format_version": 2`, `"format_version": 9`, 1),
			"bundle.format_version"},
		"an unknown field deep": {strings.Replace(good, `"grams": 660`, `"grams": 660, "cups": 3`, 1),
			"bundle.formulas.0.versions.1.lines.0"},
		"a missing field": {strings.Replace(good, `"currency": "GBP",`, ``, 1), "bundle.shop"},
		"a word for a number": {strings.Replace(good, `"grams": 660`, `"grams": "lots"`, 1),
			"bundle.formulas.0.versions.1.lines.0.grams"},
		"an unknown unit": {strings.Replace(good, `"pack_unit": "ml"`, `"pack_unit": "cup"`, 1), "pack_unit"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := ReadBundle(strings.NewReader(c.text))
			assert.Contains(t, fields(t, err), c.field)
		})
	}
}

func TestAByteOrderMarkIsNoMistake(t *testing.T) {
	_, err := ReadBundle(strings.NewReader("\xef\xbb\xbf" + example(t)))
	assert.NoError(t, err)
}

func TestRecipeFilesInTheShapesPeopleHave(t *testing.T) {
	for name, file := range map[string]string{
		"plain":    `{"@context":"https://schema.org","@type":"Recipe","name":"Leek dip","recipeYield":"2 cups","recipeIngredient":["2 leeks","1 tbsp tahini"],"recipeInstructions":"Slice.\nBlend."}`,
		"in graph": `{"@graph":[{"@type":"WebPage"},{"@type":["Recipe","Thing"],"name":"Leek dip","recipeYield":["2 cups","x"],"recipeIngredient":["2 leeks","1 tbsp tahini"],"recipeInstructions":[{"@type":"HowToStep","text":"Slice."},{"@type":"HowToStep","text":"Blend."}]}]}`,
		"sections": `[{"@type":"Recipe","name":"Leek dip","recipeYield":"2 cups","ingredients":["2 leeks","1 tbsp tahini"],"recipeInstructions":[{"@type":"HowToSection","name":"Do","itemListElement":[{"text":"Slice."},{"text":"Blend."}]}]}]`,
	} {
		t.Run(name, func(t *testing.T) {
			got, words, err := ReadRecipe(strings.NewReader(file))
			require.NoError(t, err)
			assert.Equal(t, "Leek dip", got)
			assert.Equal(t,
				"Leek dip\n\nMakes 2 cups\n\nIngredients\n2 leeks\n1 tbsp tahini\n\nMethod\nSlice.\nBlend.\n", words)
		})
	}
	for _, bad := range []string{"", "{", `{"@type":"Person"}`, `{"@type":"Recipe"}`, "\xff\xfe",
		strings.Repeat("[", 40) + strings.Repeat("]", 40)} {
		_, _, err := ReadRecipe(strings.NewReader(bad))
		assert.NotEmpty(t, fields(t, err), bad)
	}
	_, _, err := ReadRecipe(strings.NewReader(strings.Repeat(" ", MaxRecipeBytes+1)))
	assert.Equal(t, "recipe", fields(t, err))
}

func TestSheetCellsAreNoSpreadsheetFormulas(t *testing.T) {
	for _, opening := range []string{"=", "+", "-", "@", "\t", "\r"} {
		assert.Equal(t, "'"+opening+"1", plainCell(opening+"1"), "%q", opening)
	}
	assert.Equal(t, "carrot", plainCell("carrot"))
}

func TestTheCostFilesAddUpAndTellTheSame(t *testing.T) {
	part := func(name, money string) costing.Part {
		return costing.Part{Name: name, PerJar: amount.MustMoney(money).Exact(), How: "=of something"}
	}
	v := catalog.CostView{Name: "Leek dip", Version: 2, Jars: 24, Fill: amount.G(190)}
	v.Stack = costing.Stack{Lines: []costing.Part{part("Leek", "0.25"), {Name: "=Tahini", Missing: true}},
		Toppings: []costing.Part{part("Oil", "0.05")}, Items: []costing.Part{part("jar", "0.5"), part("lid", "0.1")},
		Hands: []costing.Part{part("fill", "1")}, AtLeast: true, Missing: []string{"=Tahini"},
		Unsaid: []string{"kitchen"}}
	v.Curve.Points = []costing.Point{{Jars: 20, PerJar: amount.MustMoney("2.4").Exact(), Loads: 1, Shifts: 1}}
	v.Moves = []costing.Move{{Kind: "price", Name: "=Leek", Less: amount.MustMoney("-0.025").Exact(),
		More: amount.MustMoney("0.025").Exact()}}
	v.Ladder = costing.UsualPricing().Ladder(amount.MustMoney("1.9").Exact())
	var b, table bytes.Buffer
	require.NoError(t, WriteCost(&b, v, "GBP"))
	require.NoError(t, WriteCostCSV(&table, v, "GBP"))
	f, err := excelize.OpenReader(&b)
	require.NoError(t, err)
	defer f.Close()
	assert.Equal(t, []string{"Cost", "Sizes", "What moves it", "What to ask"}, f.GetSheetList())
	rows, err := f.GetRows("Cost")
	require.NoError(t, err)
	assert.Equal(t, []string{"ingredients", "Leek", "0.25", "'=of something"}, rows[4])
	assert.Equal(t, []string{"ingredients", "'=Tahini"}, rows[5], "no price, no figure, and no spreadsheet formula")
	last := 4 + 2 + 1 + 2 + 3 + 2
	assert.Equal(t, []string{"a jar, at least", "", "1.9"}, rows[last])
	formula, err := f.GetCellFormula("Cost", fmt.Sprintf("C%d", last+1))
	require.NoError(t, err)
	assert.Equal(t, "SUM(C7,C9,C12,C14)", formula, "the sums of the groups")
	worked, err := f.CalcCellValue("Cost", fmt.Sprintf("C%d", last+1))
	require.NoError(t, err)
	assert.Equal(t, "1.9", worked)
	assert.Contains(t, table.String(), "\n\"a jar, at least\",,1.900000,\n")
	assert.Contains(t, table.String(), "ingredients,'=Tahini,,\n")
}

// TestABundleOfFormatOneIsReadAsTheSame holds the golden file of format 1 against the one of the same shop in the
// present format.
func TestABundleOfFormatOneIsReadAsTheSame(t *testing.T) {
	old, err := os.ReadFile("../../testdata/formats/bundle-1.json")
	require.NoError(t, err)
	first, err := ReadBundle(bytes.NewReader(old))
	require.NoError(t, err)
	present, err := os.ReadFile("../../testdata/formats/bundle-2.json")
	require.NoError(t, err)
	now, err := ReadBundle(bytes.NewReader(present))
	require.NoError(t, err)
	assert.Equal(t, 2, first.FormatVersion)
	assert.JSONEq(t, asJSON(t, now), asJSON(t, first))
	assert.Empty(t, first.Check(context.Background()))
}
