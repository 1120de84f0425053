// Package office holds the use cases of the shop as a whole: settings, people, today, records, and its files. One file
// per area.
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
	Keeper     BackupKeeper // nil where no backups are kept
}
