package upcast

import (
	"bytes"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func doc(t *testing.T, text string) Doc {
	t.Helper()
	d := json.NewDecoder(bytes.NewReader([]byte(text)))
	d.UseNumber()
	var out Doc
	require.NoError(t, d.Decode(&out))
	return out
}

func text(t *testing.T, d Doc) string {
	t.Helper()
	raw, err := json.Marshal(d)
	require.NoError(t, err)
	return string(raw)
}

func TestAnIngredientsPairedFieldsStandUnderTheirLaw(t *testing.T) {
	d := doc(t,
		`{"id":"x","label_name_us":"beets","label_name_gb":"beetroot","allergens_us":["milk"],"allergens_gb":[],"sub_ingredients":"a, b","sub_ingredients_us":"",
		"offers":[{"pack_amount":1000.12345,"price":4.12345678901}]}`)
	Ingredient(d)
	assert.JSONEq(t,
		`{"id":"x","label_names":{"us":"beets","gb":"beetroot"},"allergens":{"us":["milk"],"gb":[]},"supplier_lists":{"gb":"a, b"},
		"offers":[{"pack_amount":1000.123,"price":4.123457}]}`, text(t, d))
	again := text(t, d)
	Ingredient(d)
	assert.Equal(t, again, text(t, d), "the present format stays as it is")
}

func TestAVersionsAmountsAreWholeUnits(t *testing.T) {
	d := doc(t,
		`{"lines":[{"grams":12.3456789},{"grams":1e-7},{"grams":30}],"wording":{"name_us":"Dip"},"costing_jars":0,"loss_percent":2.5,"ph_limit":4.123456}`)
	Version(d)
	assert.JSONEq(t,
		`{"lines":[{"grams":12.346},{"grams":0.000},{"grams":30}],"wording":{"names":{"us":"Dip"}},"costing_jars":48,"loss_percent":2.5,"ph_limit":4.123456}`, text(t, d))
}
