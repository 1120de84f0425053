package kernel

import (
	"time"

	"gallipot/internal/core/pantry"
)

// pieces are what one of something is called among the measures, the likeliest first.
var pieces = []string{"piece", "piece_medium"}

// PieceOf is what one piece of an ingredient weighs in grams, by its measures; 0: nobody weighed one.
func PieceOf(m pantry.Measures, id string) float64 {
	for _, name := range pieces {
		if own, ok := m.House(id, name); ok {
			return own.Grams
		}
		if usual, ok := m.Reference(id, name); ok {
			return usual.Grams
		}
	}
	return 0
}

// Ingredient is an ingredient as it is kept, with its revision.
type Ingredient struct {
	ID        string
	Rev       int
	Name      string
	Retired   bool
	Data      pantry.Ingredient
	UpdatedAt time.Time
	UpdatedBy string
}

// pantryStore keeps ingredients and the maker's own measures. Methods say at package store which errors they return.
type pantryStore interface {
	Ingredients(ids ...string) ([]Ingredient, error)
	Ingredient(id string) (Ingredient, error)
	AddIngredient(g pantry.Ingredient, retired bool, by string) error
	SaveIngredient(g pantry.Ingredient, retired bool, rev int, by string) error
	HouseMeasures(ingredientID string) ([]HouseMeasure, error)
	PutHouseMeasure(m HouseMeasure) error
	DropHouseMeasure(ingredientID, measure, why string, by Stamp) error
}

// HouseMeasure is what the maker weighed of a measure of their own.
type HouseMeasure struct {
	IngredientID string
	Measure      string
	Weighings    []float64
	Note         string
	UpdatedAt    time.Time
	UpdatedBy    string
}

// Core returns the measure with its mean and deviation.
func (m HouseMeasure) Core() (pantry.Measure, error) {
	return pantry.HouseMeasure(m.IngredientID, m.Measure, m.Note, m.Weighings)
}
