package kernel

import (
	"time"

	"gallipot/internal/core/day"
)

// Task is one thing that needs a hand. Level is danger, needs_you or soon; Link is a place in the app.
type Task struct {
	Kind  string `json:"kind"`
	Level string `json:"level"`
	Title string `json:"title"`
	Text  string `json:"text"`
	Link  string `json:"link"`
	When  string `json:"when"`
}

// TodayView is the first screen: what needs a hand now, in order, and the batches that are out.
type TodayView struct {
	Tasks   []Task     `json:"tasks"`
	Batches []BatchRow `json:"batches"` // released, in date, the earliest first
	Lead    *Lead      `json:"lead"`    // what a new shop does next
}

// nearDays is how many days ahead a date counts as near; farDays is further than anything keeps.
const (
	NearDays = 7
	FarDays  = 10_000
)

// MostTasks is how many batches the first screen names one by one; the rest are counted.
const MostTasks = 100

// First is where a task stands: call-backs, then what is dangerous, then the rest.
func (t Task) First() int {
	switch {
	case t.Kind == "call_back", t.Kind == "recall" && t.Level == "danger":
		return 0
	case t.Level == "danger":
		return 1
	}
	return 2
}

// DaysUntil counts calendar days from the day of a time.
func DaysUntil(on day.Day, today time.Time) (int, bool) { return day.Between(day.Of(today), on) }

// Lead is what a new shop has done of what comes before its first label, and what comes next: one step at a time.
type Lead struct {
	Done []string `json:"done"` // in order: recipe, price, lock, batch, reading, label
	Next string   `json:"next"`
	Link string   `json:"link"` // where the next is done
	Name string   `json:"name"` // of the product it is about; empty before there is one
}

// Begun is how far a shop has come. Formula is the product that was worked on last that has lines.
type Begun struct {
	Formula  string
	Name     string
	Version  int    // its newest
	Priced   bool   // somebody noted a price
	Unpriced string // an ingredient of it without a price
	Locked   int    // its newest locked version; 0 for none
	Batch    int64  // its newest batch
	Released bool   // that was read and released
	Label    int64  // its newest label
	Printed  bool   // labels of any batch were printed
}

// LockTouched is a version in use that was locked with other words than its ingredients have today, with the lots of
// its batches in date.
type LockTouched struct {
	Formula, Name string
	Version       int
	Lots          string
}
