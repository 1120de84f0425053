package reader

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"gallipot/internal/cases"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
)

// TestMeasureCases runs every worked case with the reference that the file brings.
func TestMeasureCases(t *testing.T) {
	var file struct {
		Reference map[string]map[string]json.RawMessage `json:"reference"`
		Cases     []struct {
			Text       string `json:"text"`
			Ingredient string `json:"ingredient"`
			Want       struct {
				Grams *float64 `json:"grams"`
			} `json:"want"`
		} `json:"cases"`
	}
	cases.Load(t, "measures.json", &file)
	require.NotEmpty(t, file.Cases)

	ingredients := map[string]*pantry.Ingredient{}
	var measures []pantry.Measure
	for id, entries := range file.Reference {
		ingredients[id] = &pantry.Ingredient{ID: id, Name: id}
		for name, raw := range entries {
			if name == "density" {
				require.NoError(t, json.Unmarshal(raw, &ingredients[id].DensityGPerML))
				continue
			}
			var pair [2]float64
			require.NoError(t, json.Unmarshal(raw, &pair))
			measures = append(measures, pantry.Measure{Ingredient: id, Name: name, Grams: pair[0], Spread: pair[1],
				Source: pantry.ReferenceSource})
		}
	}
	b := Book{Index: NewIndex(ingredients, nil), Ingredients: ingredients, Measures: pantry.NewMeasures(measures),
		Spoons: amount.USSpoons}
	for _, c := range file.Cases {
		t.Run(c.Text, func(t *testing.T) {
			w, ok := b.Weigh(c.Text, c.Ingredient)
			if c.Want.Grams == nil {
				assert.False(t, ok, "nobody can know it without a scale, but it said %v g", w.Grams)
				return
			}
			require.True(t, ok)
			assert.InDelta(t, *c.Want.Grams, w.Grams, 0.1, w.How)
		})
	}
}
