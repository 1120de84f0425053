package interchange

import (
	"bytes"
	"encoding/json"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/office"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pack"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// marram is a made-up country. Its list is that of GB but for its own word of milk and a line of allergens after it.
func marram(t *testing.T) *law.Law {
	t.Helper()
	home, err := law.Of("GB")
	require.NoError(t, err)
	l := *home
	l.Regime, l.Title, l.Locale, l.Currency, l.Country = "ZZ", "Marram", "en-ZZ", "EUR", "Marram"
	l.Gallon, l.MonthFirst, l.Best, l.LotPrefix = amount.USGallon, true, "best until", "Z"
	l.Cold = "Keep in the cold."
	l.ContainsLine = true
	l.Allergens = append([]law.Allergen{}, l.Allergens...)
	for i := range l.Allergens {
		l.Allergens[i].Contains = strings.ToUpper(l.Allergens[i].Code)
	}
	return &l
}

// abroad is the demo's bundle as a shop of that country would send it.
func abroad(t *testing.T) string {
	t.Helper()
	var b map[string]any
	require.NoError(t, json.Unmarshal([]byte(example(t)), &b))
	shop := b["shop"].(map[string]any)
	shop["regime"], shop["locale"], shop["currency"] = "ZZ", "en-ZZ", "EUR"
	for _, x := range b["ingredients"].([]any) {
		for _, field := range []string{"label_names", "allergens", "supplier_lists"} {
			if by, ok := x.(map[string]any)[field].(map[string]any); ok && by["gb"] != nil {
				by["zz"] = by["gb"]
			}
		}
	}
	for _, x := range b["labels"].([]any) {
		x.(map[string]any)["regime"] = "ZZ"
	}
	raw, err := json.Marshal(b)
	require.NoError(t, err)
	return string(raw)
}

// TestAnotherCountryIsAssessedLabelledAndBundled: a country is one law. What a bundle says under it is read, assessed,
// set on a label and written again; a program that does not know it says so where it stands.
func TestAnotherCountryIsAssessedLabelledAndBundled(t *testing.T) {
	sent := abroad(t)
	_, err := ReadBundle(strings.NewReader(sent))
	require.Error(t, err, "a country that nobody knows")

	under := marram(t)
	t.Cleanup(law.Register(under))
	b, err := ReadBundle(strings.NewReader(sent))
	require.NoError(t, err)
	got, err := office.AssessBundle(t.Context(), b, time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	seen := 0
	for _, f := range got.Formulas {
		d, has := f.Declaration["ZZ"]
		require.True(t, has, f.Name)
		assert.NotEmpty(t, d.List, f.Name)
		require.NotNil(t, d.Contains, f.Name)
		assert.Equal(t, f.Allergens["GB"], f.Allergens["ZZ"], f.Name)
		assert.Contains(t, f.Keeping, law.Regime("ZZ"), f.Name)
		if len(f.Allergens["ZZ"]) > 0 {
			seen++
			assert.Contains(t, *d.Contains, strings.ToUpper(strings.Split(f.Allergens["ZZ"][0], ":")[0][:3]), f.Name)
		}
		c := labelart.Content{Law: under, Shop: "Marram Larder", ProductName: f.Name, List: d.List,
			Contains:    *d.Contains,
			NetQuantity: under.NetQuantity(190, "g"), Nominal: 190, Storage: under.Storage(law.Chilled, 3),
			Lot: under.LotPrefix + "26-1", Business: "Marram Larder"}
		laid, err := labelart.Lay(c, labelart.Design{Form: labelart.Plain}, labelart.Size{WidthMM: 190, HeightMM: 90},
			pack.Usual()[1])
		require.NoError(t, err, f.Name)
		assert.NotEmpty(t, laid.Pieces, f.Name)
	}
	assert.Positive(t, seen, "some of them have an allergen")
	assert.Equal(t, "best until", b.Shop.Tongue().Best())
	assert.Equal(t, amount.USGallon, b.Shop.OwnGallon())

	var out bytes.Buffer
	require.NoError(t, WriteBundle(&out, b))
	again, err := ReadBundle(bytes.NewReader(out.Bytes()))
	require.NoError(t, err)
	assert.Equal(t, asJSON(t, b), asJSON(t, again))
}

// TestEverySettingOfAShopTravels: a shop that shows ounces, has left the guide and keeps a table of shortages sends a
// bundle that it can read back.
func TestEverySettingOfAShopTravels(t *testing.T) {
	b, err := ReadBundle(strings.NewReader(example(t)))
	require.NoError(t, err)
	b.Shop.Beside, b.Shop.LeadLeft, b.Shop.AllowableSource = true, true, "table 2-6"
	b.Shop.Allowable = []law.ShortStep{{To: 500, Percent: 4.5}, {To: 1000, Fixed: 15}}
	var out bytes.Buffer
	require.NoError(t, WriteBundle(&out, b))
	again, err := ReadBundle(bytes.NewReader(out.Bytes()))
	require.NoError(t, err)
	assert.Equal(t, asJSON(t, b.Shop), asJSON(t, again.Shop))
}

// TestALawThatNobodyKnowsIsNamedWhereItStands: a label of an unknown country is refused, never read as another's.
func TestALawThatNobodyKnowsIsNamedWhereItStands(t *testing.T) {
	sent := strings.Replace(example(t), `"formula": "beetroot_horseradish_dip",
   "regime": "GB"`, `"formula": "beetroot_horseradish_dip",
   "regime": "QQ"`, 1)
	require.NotEqual(t, example(t), sent)
	_, err := ReadBundle(strings.NewReader(sent))
	assert.Equal(t, "labels[1].regime", fields(t, err))
}
