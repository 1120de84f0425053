package kernel

import (
	"fmt"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/trace"
)

// TraceStore reads across records.
type TraceStore interface {
	FlowsFrom(against bool, lots ...int64) ([]trace.Flow, error)
	TracedLots(ids ...int64) ([]TracedLot, error)
	LotsByText(texts ...string) ([]int64, error)
}

// TracedLot is what a trace shows of a lot, which may be a batch. Amounts are milligrams.
type TracedLot struct {
	ID         int64
	Code       string
	Kind       string
	Ingredient string
	Batch      int64
	Version    int
	Name       string
	Day        time.Time
	By         string
	Supplier   string
	Said       string
	State      string
	Bar        string
	ReceivedMg int64
	UsedMg     int64
	Jars       int
	Outcome    string
	Value      *float64
	Ends       string
	Frozen     bool
}

// TraceNode is a lot, a batch or a place of jars in the drawing.
type TraceNode struct {
	Key      string       `json:"key"`
	Column   int          `json:"column"`
	Kind     string       `json:"kind"` // incoming, part, batch or place
	ID       int64        `json:"id"`   // of the lot, the batch or the party
	Code     string       `json:"code"`
	Name     string       `json:"name"`
	Day      string       `json:"day"`
	Supplier string       `json:"supplier"`
	Said     string       `json:"said"` // by the supplier
	By       string       `json:"by"`   // who accepted or planned it
	State    string       `json:"state"`
	Bar      string       `json:"bar"`
	Ends     string       `json:"ends"`
	Received amount.Grams `json:"received_g"`
	Used     amount.Grams `json:"used_g"`
	Jars     int          `json:"jars"`
	Value    *float64     `json:"value"` // the deciding pH of a batch
	Frozen   bool         `json:"frozen"`
	Asked    bool         `json:"asked"` // the trace was asked of it
}

// PlaceWords are the places of jars as a trace says them.
var PlaceWords = map[string]string{bench.Filled: "On the bench", bench.Untold: "Filled before places were kept",
	bench.ColdRoom: "Cold room", bench.Samples: "Kept as samples", bench.Returned: "Come back",
	bench.Withdrawn: "Taken out of sale", bench.Broken: "Broken", bench.Opened: "Opened here"}

// LotKey names a lot in a drawn path.
func LotKey(id int64) string { return fmt.Sprintf("lot-%d", id) }
