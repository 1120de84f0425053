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
