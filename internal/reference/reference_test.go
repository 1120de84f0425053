package reference

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEveryReferenceIngredientIsSound(t *testing.T) {
	list, err := Ingredients()
	require.NoError(t, err)
	require.Greater(t, len(list), 200)
	seen := map[string]bool{}
	for _, g := range list {
		assert.Empty(t, g.Check(), g.ID)
		assert.False(t, seen[g.ID], g.ID)
		assert.True(t, g.Typical)
		seen[g.ID] = true
	}
}

func TestMeasuresAndPreparationsNameIngredientsThatAreThere(t *testing.T) {
	list, err := Ingredients()
	require.NoError(t, err)
	known := map[string]bool{"": true}
	for _, g := range list {
		known[g.ID] = true
	}
	measures, err := Measures()
	require.NoError(t, err)
	require.Greater(t, len(measures), 600)
	for _, m := range measures {
		assert.True(t, known[m.Ingredient], m.Ingredient)
		assert.Positive(t, m.Grams, "%s %s", m.Ingredient, m.Name)
	}
	steps, err := Preparations()
	require.NoError(t, err)
	require.Greater(t, len(steps), 60)
	seen := map[string]bool{}
	for _, p := range steps {
		assert.Empty(t, p.Check(), p.ID)
		assert.True(t, known[p.Input] && known[p.Output] && known[p.CoOutput], p.ID)
		assert.False(t, seen[p.ID], p.ID)
		seen[p.ID] = true
	}
	synonyms, err := Synonyms()
	require.NoError(t, err)
	for id := range synonyms {
		assert.True(t, known[id], id)
	}
}

func TestATableWithAWordForANumberNamesItsLine(t *testing.T) {
	err := eachRow("yields", []byte("a,b\nx,1\ny,much\n"), func(r *reader) { r.number("b") })
	assert.ErrorContains(t, err, "reference yields line 3")
	assert.ErrorContains(t, eachRow("yields", []byte("a,b\nx\n"), func(*reader) {}), "reference yields")
}
