package kernel

import (
	"gallipot/internal/core/amount"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pantry"
)

// priceStore keeps the offers of ingredients.
type priceStore interface {
	LockPrices() error
	LotCosts() (map[string]LotCost, error)
	TouchIngredient(id, by string) error
	PriceWay(signature string) (way match.PriceWay, known bool, err error)
	PutPriceWay(signature string, way match.PriceWay, by string) error
	RetiredOffers() (map[string][]pantry.PriceOffer, error)
	ReplaceOffers(id string, offers []pantry.PriceOffer, by Stamp) error
}

// LotCost is what the lots of an ingredient that are on hand cost a gram as bought, where they tell.
type LotCost struct {
	Grams   amount.Grams
	PerGram amount.Exact
}
