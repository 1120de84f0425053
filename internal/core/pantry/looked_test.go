package pantry

import (
	"testing"

	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// looking is an ingredient whose packet leaves lecithin open and states walnuts.
func looking() *Ingredient {
	return &Ingredient{Name: "Base", SupplierLists: law.Each[string]{law.GB: "water; lecithin. May contain walnuts"}}
}

func TestWhatAnAnswerOrAStatementNamesIsTicked(t *testing.T) {
	g := looking()
	says := func(answer string) Looked {
		return Looked{From: "the packet", Answers: []Answer{{Ask: "soy or egg", Says: answer},
			{Ask: "may contain", Says: "yes"}}}
	}
	errs := g.Look(says("soya"))
	require.Len(t, errs, 2)
	assert.Equal(t, "answers[1]", errs[0].Field)
	assert.Contains(t, errs[0].Message, "names soy")
	assert.Equal(t, FieldError{Field: "may_contain",
		Message: "the list says that it may contain walnuts: tick it there"}, errs[1])

	g.MayContain = &Stated{Allergens: law.Each[[]string]{law.GB: {"nut:walnut"}, law.US: {"tree_nut:walnut"}}}
	assert.Empty(t, g.Look(says("sunflower, no more")))
	assert.Len(t, g.Look(says("egg")), 1)
	g.Allergens = law.Each[[]string]{law.GB: {"egg"}}
	assert.Empty(t, g.Look(says("egg")), "ticked for one law holds for both")
	assert.Empty(t, g.Look(says("soya-free, from sunflower")), "what is denied is not named")
	assert.Len(t, g.Look(says(" ")), 1)
	assert.Equal(t, "from", g.Look(Looked{Answers: says("none").Answers})[0].Field)

	fish := &Ingredient{Name: "Fish paste", Allergens: law.Each[[]string]{law.GB: {"fish"}, law.US: {"fish:cod"}}}
	assert.Empty(t, fish.untold(law.Each[[]string]{law.US: {"fish:species not named"}}, nil), "any kind tells of fish")
}
