package kernel

import (
	"slices"
	"time"

	"gallipot/internal/core/recall"
)

// RecallRow is a recall in a list.
type RecallRow struct {
	ID      int64          `json:"id"`
	Code    string         `json:"code"`
	Mock    bool           `json:"mock"`
	Title   string         `json:"title"`
	Began   time.Time      `json:"began"`
	Told    *time.Time     `json:"told_all"`
	Closed  *time.Time     `json:"closed_at"`
	Account recall.Account `json:"account"`
	Batches []int64        `json:"-"`
}

// recallStore keeps drills and real recalls.
type recallStore interface {
	AddRecall(r *RecallRow) error
	PutRecall(r RecallRow) error
	AddRecallEntry(id int64, e recall.Entry, key string, digest []byte) error
	RecallEntryKey(id int64, key string) ([]byte, error)
	Recall(id int64) (RecallRow, []recall.Entry, error)
	Recalls(most int) ([]RecallRow, error)
	RecallOf(batch int64) (string, error)
	LastDrill() (closed *time.Time, out bool, err error)
	LotsOfIngredient(id string) ([]int64, error)
}

// Follow writes into a row what follows from a recall's acts.
func (r *RecallRow) Follow(s recall.State) {
	r.Account, r.Told, r.Closed, r.Batches = s.Account, s.ToldAll, s.ClosedAt, nil
	for _, l := range s.Lines {
		if !slices.Contains(r.Batches, l.Batch) {
			r.Batches = append(r.Batches, l.Batch)
		}
	}
}
