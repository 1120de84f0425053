// Package production holds the use cases of making: plan, bench, fill and decide, the lots that go in and come out, the
// meters and devices that measure, and where the jars go. One file an area.
package production

import (
	"context"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
)

// Room is the use cases of production. Recalls is set before it is used.
type Room struct {
	*kernel.Kernel
	Catalog     *catalog.Room
	Recalls     Recalls
	Instruments Instruments
	StandIns    bool      // readings of stand-ins may be written down: nothing real is made here
	Desk        *KeptDesk // nil: whoever writes an entry lays a desk of their own
}

// Recalls calls batches back; the room of recalls fulfils it.
type Recalls interface {
	CallBackBatches(ctx context.Context, st kernel.Store, ids []int64, code, why string) error
}
