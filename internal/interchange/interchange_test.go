package interchange

import (
	"bytes"
	"context"
	"encoding/json"
	"os"
	"strings"
	"testing"

	"gallipot/internal/app"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/assess"
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
	var p app.Problem
	require.ErrorAs(t, err, &p)
	assert.Equal(t, app.Invalid, p.Kind)
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

func TestTheCostSheetAddsUp(t *testing.T) {
	v := app.SheetView{Name: "Leek dip"}
	v.Version.Number, v.Version.FillGrams, v.Version.CostingJars = 2, amount.G(190), 24
	v.Panel.Lines = []assess.Line{{Name: "Leek", Grams: amount.G(300), PerJar: amount.M("0.25").Exact()},
		{Name: "=Tahini", Grams: amount.G(30), NoPrice: true}}
	v.Panel.Cost = costing.Stack{Ingredients: amount.M("0.25").Exact(), Packaging: amount.M("0.5").Exact(),
		Labour: amount.M("1").Exact(), Overhead: amount.M("0.25").Exact(), PerJar: amount.M("2").Exact(), AtLeast: true,
		Missing: []string{"=Tahini"}}
	var b bytes.Buffer
	require.NoError(t, WriteCost(&b, v, "GBP"))
	f, err := excelize.OpenReader(&b)
	require.NoError(t, err)
	defer f.Close()
	rows, err := f.GetRows("Cost")
	require.NoError(t, err)
	assert.Equal(t, []string{"Leek", "300", "0", "0.25"}, rows[4])
	assert.Equal(t, []string{"'=Tahini", "30", "0"}, rows[5], "no price, no figure, and no spreadsheet formula")
	assert.Equal(t, []string{"a jar, at least", "", "", "2"}, rows[11])
	assert.Equal(t, "no price for =Tahini", rows[13][0])
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
