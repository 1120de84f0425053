package match

import (
	"testing"

	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
)

// TestTheSameFoodIsFoundInAnotherWay: a carrot that is bought peeled is kin of a raw one; a boiled, a dried or a peeled
// one of ours, a jar of its name and itself are none.
func TestTheSameFoodIsFoundInAnotherWay(t *testing.T) {
	home := law.All()[0]
	carrot := func(id string, water float64, flags ...string) *pantry.Ingredient {
		return &pantry.Ingredient{ID: id, Name: id, Labels: law.Each[string]{home.Regime: "carrots"}, Flags: flags,
			Composition: pantry.Composition{Water: water}}
	}
	raw := carrot("raw", 88, "raw_vegetable")
	jar := carrot("jar", 88, "raw_vegetable")
	jar.Role = pantry.RolePackaging
	other := carrot("parsnip", 88, "raw_vegetable")
	other.Labels = law.Each[string]{home.Regime: "parsnips"}
	s := Shelf{Law: home.Regime, Names: NewNames(), Steps: []pantry.Preparation{{Input: "raw", Output: "peeled here"}},
		Items: []*pantry.Ingredient{raw, carrot("bought peeled", 90, "raw_vegetable"), carrot("boiled", 88),
			carrot("dried", 8, "raw_vegetable"), carrot("peeled here", 88, "raw_vegetable"), jar, other}}
	ids := func(list []*pantry.Ingredient) []string {
		var out []string
		for _, g := range list {
			out = append(out, g.ID)
		}
		return out
	}
	assert.Equal(t, []string{"bought peeled"}, ids(s.Kin(raw)))
	assert.Empty(t, s.Kin(other))
	edge := carrot("edge", 78, "raw_vegetable")
	s.Items = append(s.Items, edge)
	assert.Contains(t, ids(s.Kin(raw)), "edge", "ten grams wetter or drier at most")
	edge.Composition.Water = 77.9
	assert.NotContains(t, ids(s.Kin(raw)), "edge")

	jar.Synonyms, other.Synonyms = []string{"root paste"}, []string{"root paste"}
	s.Names.Add(jar, nil, false)
	s.Names.Add(other, nil, false)
	assert.Equal(t, []string{"parsnip"}, ids(s.Called("paste, root")), "a jar is not eaten")
}
