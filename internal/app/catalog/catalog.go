// Package catalog holds the use cases of what is known before anything is made: pantry, prices, preparations, formulas,
// trials, the reader and what a jar costs. One file an area.
package catalog

import (
	"context"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/pantry"
)

// Room is the use cases of the catalog. Guard is set before it is used.
type Room struct {
	*kernel.Kernel
	Guard Guard
}

// Guard stands over acts that may change what food carries (handbook 08); the room of labels and allergens fulfils it.
type Guard interface {
	// Guarded does an act and keeps what it gains or loses of allergens. Errors: a Problem where an owner or a reason
	// is wanted.
	Guarded(ctx context.Context, st kernel.Store, act func() error) error
	// Renames wants a reason where what carries an allergen gets another name.
	Renames(ctx context.Context, st kernel.Store, was, becomes pantry.Ingredient) error
}
