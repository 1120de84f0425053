package store_test

import (
	"testing"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
	"gallipot/internal/testdb"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestRecipesKeepWordsAndAnswers(t *testing.T) {
	s := testdb.Signed(t)
	grams := 7.5
	r := kernel.Recipe{Name: "Dip", Words: "2 tbsp tahini\n½ kále",
		Answers: map[string]reader.Answer{"salt#1": {Grams: &grams, As: reader.AsBowl}}, UpdatedBy: "Ines"}
	require.NoError(t, s.AddRecipe(&r))
	got, err := s.Recipe(r.ID)
	require.NoError(t, err)
	assert.Equal(t, r.Words, got.Words)
	assert.Equal(t, 7.5, *got.Answers["salt#1"].Grams)
	assert.Nil(t, got.Made)
	got.Words = "3 tbsp tahini"
	require.NoError(t, s.SaveRecipe(got, 1))
	assert.ErrorIs(t, s.SaveRecipe(got, 1), kernel.ErrConflict, "a second writer over the same revision")
	second := kernel.Recipe{Name: "Other", Answers: map[string]reader.Answer{}, UpdatedBy: "Bram"}
	require.NoError(t, s.AddRecipe(&second))
	list, err := s.Recipes(nil, 0)
	require.NoError(t, err)
	require.Len(t, list, 2)
	require.NoError(t, s.DropRecipe(r.ID, "said twice", stamp))
	assert.ErrorIs(t, s.DropRecipe(r.ID, "said twice", stamp), kernel.ErrConflict)
	_, err = s.Recipe(r.ID)
	assert.ErrorIs(t, err, kernel.ErrNotFound)
}

func TestAHouseMeasureReplacesTheOneOfItsName(t *testing.T) {
	s := testdb.Signed(t)
	require.NoError(t, s.AddIngredient(beet(), false, "Ines"))
	m := kernel.HouseMeasure{IngredientID: "beet", Measure: "handful", Weighings: []float64{80, 85, 90},
		UpdatedBy: "Ines"}
	require.NoError(t, s.PutHouseMeasure(m))
	m.Weighings = []float64{70, 71, 72, 73}
	require.NoError(t, s.PutHouseMeasure(m))
	list, err := s.HouseMeasures("beet")
	require.NoError(t, err)
	require.Len(t, list, 1)
	core, err := list[0].Core()
	require.NoError(t, err)
	assert.Equal(t, 71.5, core.Grams)
	assert.ErrorIs(t, s.PutHouseMeasure(kernel.HouseMeasure{IngredientID: "nothing", Measure: "cup",
		Weighings: []float64{1}, UpdatedBy: "Ines"}), kernel.ErrInUse, "of an ingredient that is there")
	require.NoError(t, s.DropHouseMeasure("beet", "handful", "another spoon", stamp))
	assert.ErrorIs(t, s.DropHouseMeasure("beet", "handful", "another spoon", stamp), kernel.ErrConflict)
}

func TestPreparationsComeBackWithTheirMakings(t *testing.T) {
	s := testdb.Signed(t)
	p := kernel.Preparation{ID: "beet.roast", Rev: 1, UpdatedBy: "Ines",
		Data: pantry.Preparation{ID: "beet.roast", Name: "roast", Input: "beet", Output: "roasted", YieldPercent: 71.5,
			Records: []pantry.YieldTrial{{Day: "2026-11-01", In: 1000, Out: 705.5}},
			Extras:  []pantry.ExtraInput{{Ingredient: "oil", PerHundred: 4, UptakePercent: 50}}}}
	require.NoError(t, s.AddPreparation(p))
	assert.ErrorIs(t, s.AddPreparation(p), kernel.ErrTaken)
	p.Data.Preferred = true
	require.NoError(t, s.SavePreparation(p, 1))
	assert.ErrorIs(t, s.SavePreparation(p, 1), kernel.ErrConflict)
	list, err := s.Preparations()
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, 2, list[0].Rev)
	assert.Equal(t, p.Data, list[0].Data)
}

func TestTrialsBelongToTheirFormula(t *testing.T) {
	s := testdb.Signed(t)
	day := time.Date(2026, 10, 6, 0, 0, 0, 0, time.UTC)
	trial := kernel.Trial{Rev: 1, FormulaID: "dip", MadeOn: day, UpdatedBy: "Ines",
		Data: formula.Trial{Score: 8, Lines: []formula.TrialLine{{Ingredient: "beet", Grams: amount.MustGrams("612.25"),
			Reason: "dry"}}}}
	assert.ErrorIs(t, s.AddTrial(&trial), kernel.ErrInUse)
	require.NoError(t, s.AddFormula(kernel.Formula{ID: "dip", Name: "Dip", CreatedBy: "Ines"}))
	trial.ID = 0
	require.NoError(t, s.AddTrial(&trial))
	earlier := trial
	earlier.ID, earlier.MadeOn = 0, day.AddDate(0, 0, -3)
	require.NoError(t, s.AddTrial(&earlier))
	list, err := s.Trials("dip")
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "2026-10-03", string(list[0].Core().MadeOn), "oldest first")
	assert.Equal(t, "612.25", list[1].Core().Lines[0].Grams.String(), "grams stay exact")
	trial.Data.Score = 9
	require.NoError(t, s.SaveTrial(trial, 1))
	assert.ErrorIs(t, s.SaveTrial(trial, 1), kernel.ErrConflict)
	assert.ErrorIs(t, s.DropTrial("other", trial.ID, "wrong scale", stamp), kernel.ErrConflict,
		"not by another formula's address")
	require.NoError(t, s.DropTrial("dip", trial.ID, "wrong scale", stamp))
	none, err := s.Trials("other")
	require.NoError(t, err)
	assert.Empty(t, none)
}

func TestAParentIsAVersionOfAnotherFormula(t *testing.T) {
	s := testdb.Signed(t)
	require.NoError(t, s.AddFormula(kernel.Formula{ID: "dip", Name: "Dip", CreatedBy: "Ines"}))
	require.NoError(t, s.AddFormula(kernel.Formula{ID: "thick", Name: "Thick", CreatedBy: "Ines"}))
	v := formula.Blank("dip")
	require.NoError(t, s.AddVersion(v, nil, "Ines"))
	dip, thick, one, nine := "dip", "thick", 1, 9
	assert.ErrorIs(t, s.SetParent("thick", formula.Ref{Formula: dip, Version: nine}), kernel.ErrInUse,
		"there is no version 9")
	require.NoError(t, s.SetParent("thick", formula.Ref{Formula: dip, Version: one}))
	f, err := s.Formula("thick")
	require.NoError(t, err)
	assert.Equal(t, formula.Ref{Formula: "dip", Version: 1}, *f.Parent)
	assert.Error(t, s.SetParent("thick", formula.Ref{Formula: thick, Version: one}), "nobody is their own parent")
}
