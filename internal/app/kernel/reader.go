package kernel

import (
	"time"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/reader"
)

// Recipe is a maker's words with what the maker answered; Made says what draft was made of it.
type Recipe struct {
	ID        int64
	Rev       int
	Name      string
	Words     string
	Answers   map[string]reader.Answer
	Made      *formula.Ref
	UpdatedAt time.Time
	UpdatedBy string
}

// RecipeKey is a place in the list of recipes.
type RecipeKey struct {
	UpdatedAt time.Time
	ID        int64
}

// readerStore keeps recipes in the maker's words.
type readerStore interface {
	Recipes(after *RecipeKey, most int) ([]Recipe, error)
	Recipe(id int64) (Recipe, error)
	AddRecipe(r *Recipe) error
	SaveRecipe(r Recipe, rev int) error
	DropRecipe(id int64, why string, by Stamp) error
}

// ShopWord is what the shop has told the reader once and for all, with who told it.
type ShopWord struct {
	reader.Learned
	By string    `json:"by"`
	At time.Time `json:"at"`
}

// wordStore keeps what the shop has told the reader.
type wordStore interface {
	ShopWords() ([]ShopWord, error)
	AddShopWord(w *ShopWord) error
	DropShopWord(id int64, why string, by Stamp) error
}
