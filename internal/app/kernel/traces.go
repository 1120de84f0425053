package kernel

import (
	"gallipot/internal/core/trace"
)

// traceStore reads across records.
type traceStore interface {
	FlowsFrom(against bool, lots ...int64) ([]trace.Flow, error)
	TracedLots(ids ...int64) ([]trace.Lot, error)
	LotsByText(texts ...string) ([]int64, error)
}
