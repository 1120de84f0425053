package kernel

import (
	"gallipot/internal/core/trace"
)

// TraceStore reads across records.
type TraceStore interface {
	FlowsFrom(against bool, lots ...int64) ([]trace.Flow, error)
	TracedLots(ids ...int64) ([]trace.Lot, error)
	LotsByText(texts ...string) ([]int64, error)
}
