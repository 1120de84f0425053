package reader_test

import (
	"fmt"
	"sort"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What the app writes out, it must read back: grams and the pantry's own name, whatever stands in its parentheses.
func TestEveryNameOfThePantryIsReadBack(t *testing.T) {
	b := shippedBook(t)
	ids := make([]string, 0, len(b.Ingredients))
	for id := range b.Ingredients {
		ids = append(ids, id)
	}
	sort.Strings(ids)
	for _, id := range ids {
		for _, form := range []string{"120 g %s", "- 120 g of %s"} {
			words := fmt.Sprintf(form, b.Ingredients[id].Name)
			r := b.Read(words, nil)
			nothingLost(t, words, r)
			require.Len(t, r.Lines, 1, words)
			l := r.Lines[0]
			assert.Equal(t, id, l.Ingredient, words)
			assert.Equal(t, 120.0, *l.Grams, "%s: %s", words, l.How)
			assert.Zero(t, r.StillOpen, "%s: %v", words, asked(l))
		}
	}
}
