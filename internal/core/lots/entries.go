package lots

import (
	"gallipot/internal/core/amount"
	"gallipot/internal/core/entry"
)

// CameIn begins the record of an incoming lot. Was is the list of ingredients that the lot before it, or the pantry,
// had.
type CameIn struct {
	Received
	Was string `json:"list_was"`
}

// Corrected puts what is known of a lot right; what was known before stays readable.
type Corrected struct {
	CameIn
	Reason string `json:"reason"`
}

// Accepted lets a lot into use.
type Accepted struct {
	Reason string `json:"reason,omitempty"`
}

// TurnedAway is a lot that was refused.
type TurnedAway struct {
	Reason string `json:"reason"`
}

// Held puts a lot on hold.
type Held struct {
	Reason string `json:"reason"`
}

// Freed takes a lot off hold.
type Freed struct {
	Reason string `json:"reason"`
}

// Compared is an owner's word that the list on the packet was held against the ingredient's allergens.
type Compared struct {
	Reason string `json:"reason"`
}

// Counted puts the stock of a lot right: more, or less, than the book says. Thrown: the difference was thrown away.
type Counted struct {
	Change amount.Grams `json:"change_g"`
	Thrown bool         `json:"thrown,omitempty"`
	Reason string       `json:"reason"`
}

// Stated is the supplier's statement of the kill step, found after the lot came in. It counts for all of the lot.
type Stated struct {
	Statement string `json:"statement"`
}

// Roasted is a roast of ours, of all that is left of the lot. It counts for what is taken from then on.
type Roasted struct {
	C       float64 `json:"celsius"`
	Minutes float64 `json:"minutes"`
}

// Parted is grams that left a lot as a lot of their own.
type Parted struct {
	Into  int64        `json:"into"`
	Code  string       `json:"code"`
	Grams amount.Grams `json:"grams"`
}

// Froze begins the record of a frozen part. Left are the days that its lot had left on the day of freezing, nil where
// it had no end; Days is how long it keeps frozen.
type Froze struct {
	From  int64        `json:"from"`
	Code  string       `json:"code"`
	Grams amount.Grams `json:"grams"`
	Day   string       `json:"day"`
	Left  *int         `json:"left_days"`
	Days  int          `json:"days"`
}

// Thawed is when a frozen part was taken out.
type Thawed struct {
	Day string `json:"day"`
}

// kinds is the registry of what may be written into a lot's record.
var kinds = entry.Kinds{
	"came_in":   func() any { return new(CameIn) },
	"corrected": func() any { return new(Corrected) },
	"accepted":  func() any { return new(Accepted) },
	"refused":   func() any { return new(TurnedAway) },
	"held":      func() any { return new(Held) },
	"freed":     func() any { return new(Freed) },
	"compared":  func() any { return new(Compared) },
	"counted":   func() any { return new(Counted) },
	"stated":    func() any { return new(Stated) },
	"roasted":   func() any { return new(Roasted) },
	"parted":    func() any { return new(Parted) },
	"froze":     func() any { return new(Froze) },
	"thawed":    func() any { return new(Thawed) },
}

// Kinds lists the kinds of entries by name.
func Kinds() []string { return kinds.Names() }

// ReadBody decodes the body of a kind. Errors: entry.KindError, and those of JSON.
func ReadBody(kind string, raw []byte) (any, error) { return kinds.Read(kind, raw) }

// Entry is one act in a lot's record. Body points to the type of one of the kinds.
type Entry struct {
	entry.Head
	Body any
}

// Kind names what the entry is; empty for what is in no registry.
func (e Entry) Kind() string { return kinds.Of(e.Body) }

// MarshalJSON writes the entry with its body under the name of its kind.
func (e Entry) MarshalJSON() ([]byte, error) { return kinds.Marshal(e.Head, e.Body) }

// UnmarshalJSON reads what MarshalJSON wrote. Errors: entry.KindError.
func (e *Entry) UnmarshalJSON(raw []byte) (err error) {
	e.Head, e.Body, err = kinds.Unmarshal(raw)
	return err
}
