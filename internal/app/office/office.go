// Package office holds the use cases of the shop as a whole: its settings, its people, today, what was done, and files
// of all of it. One file an area.
package office

import (
	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/app/release"
)

// Room is the use cases of the office.
type Room struct {
	*kernel.Kernel
	Catalog    *catalog.Room
	Production *production.Room
	Release    *release.Room
}
