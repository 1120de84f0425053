// Package release holds the use cases of what leaves the house: labels, allergens, how long it keeps, traces and
// recalls. One file an area.
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
