package match

import (
	"encoding/json"
	"os"
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestANameFindsTheSameAsInTheBrowser runs the file that the pickers of the web run too.
func TestANameFindsTheSameAsInTheBrowser(t *testing.T) {
	raw, err := os.ReadFile("testdata/names.json")
	require.NoError(t, err)
	var file struct {
		Words  []struct{ Name, Words string }
		Pantry []struct {
			ID     string
			Name   string
			Called []string
		}
		One []struct{ Name, ID string }
	}
	require.NoError(t, json.Unmarshal(raw, &file))
	require.NotEmpty(t, file.Words)
	for _, x := range file.Words {
		assert.Equal(t, x.Words, WordsIn(x.Name), x.Name)
	}
	n := NewNames()
	for _, x := range file.Pantry {
		n.Add(&pantry.Ingredient{ID: x.ID, Name: x.Name, Synonyms: x.Called}, nil, false)
	}
	require.NotEmpty(t, file.One)
	for _, x := range file.One {
		assert.Equal(t, x.ID, n.One(x.Name), x.Name)
	}
}

func TestWhatIsRetiredIsFoundOnlyWhereNothingInUseHasTheName(t *testing.T) {
	n := NewNames()
	n.Add(&pantry.Ingredient{ID: "old", Name: "White miso"}, []string{"shiro"}, true)
	assert.Equal(t, "old", n.One("white miso"))
	assert.Empty(t, n.All("white miso"), "but it is not offered")
	n.Add(&pantry.Ingredient{ID: "new", Name: "Miso, white"}, nil, false)
	assert.Equal(t, "new", n.One("white miso"))
	assert.Equal(t, "old", n.Typically("shiro"))
	assert.Empty(t, n.One("shiro"), "the shop did not call it so")
	n.Add(&pantry.Ingredient{ID: "third", Name: "White Miso"}, nil, false)
	assert.Empty(t, n.One("white miso"), "two go by it: nothing is taken")
	assert.Equal(t, []string{"new", "third"}, n.All("white miso"))
}

func TestWhatWordsCouldMeanTheLikeliestFirst(t *testing.T) {
	list := map[string]*pantry.Ingredient{"oil": {ID: "oil", Name: "Sunflower oil"},
		"seeds": {ID: "seeds", Name: "Sunflower seeds, roasted"}, "salt": {ID: "salt", Name: "Salt"}}
	n := NewNames()
	for _, id := range []string{"oil", "seeds", "salt"} {
		n.Add(list[id], nil, false)
	}
	book := &reader.Book{Ingredients: list, Index: reader.NewIndex(list, nil), Spoons: amount.USSpoons}
	assert.Equal(t, []string{"oil", "seeds"}, n.Near("cold pressed sunflower", book)[:2],
		"of two that share a word, the one with fewer others comes first")
	assert.NotContains(t, n.Near("cold pressed sunflower", book), "salt")
}
