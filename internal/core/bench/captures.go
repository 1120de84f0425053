package bench

import (
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
)

// Capture is one weight taken at the bench: so much more of a line went into the bowl of a load. Saw is the last entry
// of that line in that load that the person had seen; 0 for none.
type Capture struct {
	Load     int           `json:"load"`
	Line     string        `json:"line"`
	Grams    amount.Grams  `json:"grams"`
	Draws    []Draw        `json:"draws,omitempty"` // of lots, adding up to the grams
	Used     []formula.Use `json:"used,omitempty"`  // of an "any of" line
	Saw      int64         `json:"saw,omitempty"`
	Scale    string        `json:"scale,omitempty"`     // that it was read from
	Reading  *amount.Grams `json:"reading_g,omitempty"` // what that scale showed, with all that stood on it
	Manual   bool          `json:"manual,omitempty"`    // typed by hand
	Unstable bool          `json:"unstable,omitempty"`  // the scale never settled
	Stopped  *amount.Grams `json:"stopped_g,omitempty"` // the reading when the pour stopped
	Class    string        `json:"class,omitempty"`     // how it pours; the program's word
	Enough   bool          `json:"enough,omitempty"`    // no more of it goes in, though it is short
	Reason   string        `json:"reason,omitempty"`
}

// Tared is the reading of a scale, with everything that stood on it, from which the next weight of a load counts.
type Tared struct {
	Load    int           `json:"load"`
	Scale   string        `json:"scale"`
	Reading *amount.Grams `json:"reading_g"`
}

// Choices after an over-pour (handbook 04).
const (
	AcceptOver = "accept"
	Rebalances = "rebalance"
	Discards   = "discard"
)

// Choice answers an over-pour, or gives a load up. Portion is the mixed mass taken out of the bowl so that the
// rebalanced load fits. Seen is the last entry of the batch that its author had seen.
type Choice struct {
	Load    int          `json:"load"`
	How     string       `json:"how"`
	Portion amount.Grams `json:"portion_g"`
	Reason  string       `json:"reason,omitempty"`
	Factor  amount.Exact `json:"factor"`         // that it rests on; the program's
	Word    string       `json:"word,omitempty"` // what it does, as it was shown; the program's
}

// Tasted answers a hold-back: how much more of the line goes in.
type Tasted struct {
	Load int          `json:"load"`
	Line string       `json:"line"`
	More amount.Grams `json:"more_g"`
	Note string       `json:"note,omitempty"`
}

// LeftOut closes an optional line without it.
type LeftOut struct {
	Load   int    `json:"load"`
	Line   string `json:"line"`
	Reason string `json:"reason"`
}

// TakenOut is mixed mass that left the bowl: a spill, a dropped piece, a part taken out.
type TakenOut struct {
	Load   int          `json:"load"`
	What   string       `json:"what"` // spilled, dropped or removed
	Grams  amount.Grams `json:"grams"`
	Reason string       `json:"reason"`
}

// Added is what goes in after the last line, for taste or texture; or a leftover of the same product, with its own lot
// and date.
type Added struct {
	Load       int          `json:"load"`
	Ingredient string       `json:"ingredient,omitempty"` // none: a leftover of the product
	Name       string       `json:"name,omitempty"`       // the program's word
	Grams      amount.Grams `json:"grams"`
	Purpose    string       `json:"purpose"` // thicker, thinner, salt, acid, heat or leftover
	Draws      []Draw       `json:"draws,omitempty"`
	Note       string       `json:"note,omitempty"`
	PHBefore   *float64     `json:"ph_before,omitempty"` // the estimate's high end, as it was shown
	PHAfter    *float64     `json:"ph_after,omitempty"`
}

// Purposes of an addition (handbook 04).
var AddedFor = []string{"thicker", "thinner", "salt", "acid", "heat", Leftover}

// Leftover is the purpose of what comes back into the bowl.
const Leftover = "leftover"

// Ticked marks an errand as done; Off takes the tick back.
type Ticked struct {
	Load int    `json:"load"`
	Key  string `json:"key"`
	Off  bool   `json:"off,omitempty"`
	Note string `json:"note,omitempty"`
}

// Timed starts the timer of an errand, or stops it.
type Timed struct {
	Load    int       `json:"load"`
	Key     string    `json:"key"`
	Minutes float64   `json:"minutes"`
	From    time.Time `json:"from"`
	Stop    bool      `json:"stop,omitempty"`
}

// Closed closes a load: all of it is in the bowl.
type Closed struct {
	Load int    `json:"load"`
	Note string `json:"note,omitempty"`
}

// Cooled is one temperature of something that cools, with the time it was taken. Begun, with the first one, is when it
// came off the heat.
type Cooled struct {
	What    string    `json:"what"` // a line's id, or jars
	Celsius float64   `json:"celsius"`
	At      time.Time `json:"at"`
	Probe   string    `json:"probe,omitempty"` // that it was read from
}

// LoadAct is an act that belongs to one load of its batch, counted from 1.
type LoadAct interface{ InLoad() int }

func (x *Capture) InLoad() int { return x.Load }

func (x *Tared) InLoad() int { return x.Load }

func (x *Choice) InLoad() int { return x.Load }

func (x *Tasted) InLoad() int { return x.Load }

func (x *LeftOut) InLoad() int { return x.Load }

func (x *TakenOut) InLoad() int { return x.Load }

func (x *Added) InLoad() int { return x.Load }

func (x *Ticked) InLoad() int { return x.Load }

func (x *Timed) InLoad() int { return x.Load }

func (x *Closed) InLoad() int { return x.Load }
