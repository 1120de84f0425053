package lots

import (
	"fmt"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
)

// CameIn begins the record of an incoming lot. Was is the ingredient list of the lot before it, or the pantry's.
type CameIn struct {
	Received
	Was string `json:"list_was"`
}

// Corrected corrects what is known of a lot; what was known before stays readable.
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

// Compared is an owner's confirmation that the packet's list was compared with the ingredient's allergens.
type Compared struct {
	Reason string `json:"reason"`
}

// Counted corrects the stock of a lot to what was counted. Thrown says that the difference was thrown away.
type Counted struct {
	Change amount.Grams `json:"change_g"`
	Thrown bool         `json:"thrown,omitempty"`
	Reason string       `json:"reason"`
}

// Stated is the supplier's statement of the kill step, found after the lot came in. It counts for all of the lot.
type Stated struct {
	Statement string `json:"statement"`
}

// Roasted is our own roast of all that is left of the lot. It counts for what is taken afterwards.
type Roasted struct {
	C       float64 `json:"celsius"`
	Minutes float64 `json:"minutes"`
}

// Parted is grams that were split off as a lot of their own.
type Parted struct {
	Into  int64        `json:"into"`
	Code  string       `json:"code"`
	Grams amount.Grams `json:"grams"`
}

// Froze begins the record of a frozen part. Left is how many days its lot had left when it was frozen, nil if it had no
// end; Days is how long it keeps frozen.
type Froze struct {
	From  int64        `json:"from"`
	Code  string       `json:"code"`
	Grams amount.Grams `json:"grams"`
	Day   day.Day      `json:"day"`
	Left  *int         `json:"left_days"`
	Days  int          `json:"days"`
}

// Thawed is when a frozen part was taken out.
type Thawed struct {
	Day day.Day `json:"day"`
}

// kinds is the registry of what may be written into a lot's record: of each kind, how its body is read, what speaks
// against it, what it does to the record and its sentence.
var kinds entry.Kinds[*Fold, Act]

func init() { // the rows lead to what asks the registry
	kinds = entry.Register(map[string]entry.Kind[*Fold, Act]{
		"came_in":   entry.Row(nothing[CameIn], (*Fold).cameIn, (*CameIn).tell),
		"corrected": entry.Row((*Fold).refusesCorrection, (*Fold).corrected, (*Corrected).tell),
		"accepted":  entry.Row((*Fold).refusesAcceptance, (*Fold).accepted, (*Accepted).tell),
		"refused":   entry.Row((*Fold).refusesTurning, (*Fold).turnedAway, (*TurnedAway).tell),
		"held":      entry.Row((*Fold).refusesHolding, (*Fold).held, (*Held).tell),
		"freed":     entry.Row((*Fold).refusesFreeing, (*Fold).freed, (*Freed).tell),
		"compared":  entry.Row((*Fold).refusesComparing, (*Fold).compared, (*Compared).tell),
		"counted":   entry.Row((*Fold).refusesCount, (*Fold).counted, (*Counted).tell),
		"stated":    entry.Row((*Fold).refusesStatement, (*Fold).stated, (*Stated).tell),
		"roasted":   entry.Row((*Fold).refusesRoast, (*Fold).roasted, (*Roasted).tell),
		"parted":    entry.Row(nothing[Parted], (*Fold).parted, (*Parted).tell),
		"froze":     entry.Row((*Fold).refusesFreezing, (*Fold).froze, (*Froze).tell),
		"thawed":    entry.Row((*Fold).refusesThawing, (*Fold).thawed, (*Thawed).tell),
	})
}

// Act is an entry with the circumstances that it is checked against.
type Act struct {
	Entry
	Moment Moment
}

// nothing is the check of acts that need no more than a role.
func nothing[T any](*Fold, Act, *T) error { return nil }

// Kinds lists the kinds of entries by name.
func Kinds() []string { return kinds.Names() }

// ReadBody decodes the body of a kind. Errors: entry.KindError, and those of JSON.
func ReadBody(kind string, raw []byte) (any, error) { return kinds.Read(kind, raw) }

// Entry is one act in a lot's record. Body points to the type of one of the kinds.
type Entry struct {
	entry.Head
	Body any
}

// Kind returns the name of the entry's kind; empty if it is in no registry.
func (e Entry) Kind() string { return kinds.Of(e.Body) }

// MarshalJSON writes the entry with its body under the name of its kind.
func (e Entry) MarshalJSON() ([]byte, error) { return kinds.Marshal(e.Head, e.Body) }

// UnmarshalJSON reads what MarshalJSON wrote. Errors: entry.KindError.
func (e *Entry) UnmarshalJSON(raw []byte) (err error) {
	e.Head, e.Body, err = kinds.Unmarshal(raw)
	return err
}

// Tell returns the sentence of a stored act on a lot, without its author.
func Tell(kind string, raw []byte) string { return kinds.Tell(kind, raw) }

func (x *CameIn) tell() string {
	return fmt.Sprintf("took in %s (%s g) of %s", x.Pack, x.Grams, x.Supplier)
}

func (x *Corrected) tell() string { return "corrected what is known of it: " + x.Reason }

func (x *Accepted) tell() string { return entry.Because("accepted it", x.Reason) }

func (x *TurnedAway) tell() string { return entry.Because("refused it", x.Reason) }

func (x *Held) tell() string { return entry.Because("put it on hold", x.Reason) }

func (x *Freed) tell() string { return entry.Because("took it off hold", x.Reason) }

func (x *Compared) tell() string {
	return entry.Because("held its list against the allergens", x.Reason)
}

func (x *Counted) tell() string {
	if x.Thrown {
		return entry.Because(fmt.Sprintf("threw away %s g", x.Change.Abs()), x.Reason)
	}
	return entry.Because(fmt.Sprintf("counted %s g more or less", x.Change), x.Reason)
}

func (x *Stated) tell() string { return "found the supplier's statement: " + x.Statement }

func (x *Roasted) tell() string {
	return fmt.Sprintf("roasted it at %g °C for %g min", x.C, x.Minutes)
}

func (x *Parted) tell() string { return fmt.Sprintf("froze %s g of it as %s", x.Grams, x.Code) }

func (x *Froze) tell() string { return fmt.Sprintf("froze %s g of %s", x.Grams, x.Code) }

func (x *Thawed) tell() string { return "took it out to thaw on " + day.Mark(x.Day) }
