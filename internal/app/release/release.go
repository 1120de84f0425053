// Package release holds the use cases around what leaves the shop: labels, allergens, keeping, traces and recalls. One
// file per area.
package release

import (
	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
)

// Room is the use cases of release.
type Room struct {
	*kernel.Kernel
	Catalog    *catalog.Room
	Production *production.Room
}
