package bench

import (
	"encoding/json"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/people"
)

// Weighing is what was actually weighed for a line; the latest counts. Correction marks a corrected typing mistake:
// nothing went into the bowl, so readings stand. Slip is an owner's confirmation that a large change was only such a
// mistake.
type Weighing struct {
	Line       string        `json:"line"`
	Grams      amount.Grams  `json:"grams"`
	Used       []formula.Use `json:"used,omitempty"`  // of an "any of" line: what was taken, adding up to the grams
	Draws      []Draw        `json:"draws,omitempty"` // of lots, adding up to the grams
	Lot        string        `json:"lot"`             // as it was typed before lots were kept, with the next two
	UseBy      day.Day       `json:"use_by,omitempty"`
	KillStep   bool          `json:"kill_step,omitempty"`
	Correction bool          `json:"correction,omitempty"`
	Slip       string        `json:"slip,omitempty"`
	Note       string        `json:"note,omitempty"`
	Over       int64         `json:"over,omitempty"` // the entry of this line that the hand saw; 0: none
}

// Fill is how many jars were filled, and when the last was closed. The latest of several times counts; an owner's entry
// with a reason replaces the earlier ones.
type Fill struct {
	Jars     int       `json:"jars"`
	Rejected int       `json:"rejected,omitempty"`
	At       time.Time `json:"at"`
	Reason   string    `json:"reason,omitempty"`
	Followed bool      `json:"followed,omitempty"` // where the jars are is written down from here on
	Weighed  bool      `json:"weighed,omitempty"`  // its jars are weighed, its seals looked at, its grams accounted for
}

// Worked is how many minutes of labour a batch took, all people together, from set-up to clean-down. It says nothing
// about the product and may be entered or corrected at any time.
type Worked struct {
	Minutes float64 `json:"minutes"`
	Note    string  `json:"note,omitempty"`
}

// Void strikes a reading with its cause.
type Void struct {
	Entry int64  `json:"entry"`
	Cause string `json:"cause"`
}

// Heat is the heat or hot-fill step as met on the coldest jar.
type Heat struct {
	ColdestC float64 `json:"coldest_c"`
	Minutes  float64 `json:"minutes"`
	Inverted bool    `json:"inverted,omitempty"`
}

// Strained confirms that an infused oil was strained clear: no pieces, and no watery layer under it after standing. Not
// clear takes it back.
type Strained struct {
	Clear bool   `json:"clear"`
	Note  string `json:"note,omitempty"`
}

// Laboratory is a laboratory's water activity for this batch.
type Laboratory struct {
	WaterActivity float64 `json:"water_activity"`
	Report        string  `json:"report"`
}

// Decided is a person's decision, with the sentence it rests on. Seen is the last entry that its author had seen.
type Decided struct {
	State    string          `json:"state"` // released, rejected, hold or called_back
	Reason   string          `json:"reason"`
	Seen     int64           `json:"seen,omitempty"`
	Sentence string          `json:"sentence,omitempty"`
	Way      string          `json:"way,omitempty"`
	Value    float64         `json:"value,omitempty"`
	Rested   json.RawMessage `json:"rested,omitempty"` // what it rested on, as it was
}

// JarsIn is an owner's confirmation that no jar of a released batch has left.
type JarsIn struct {
	Reason string `json:"reason"`
}

// Recall is written by the program when something that a release needed is taken away.
type Recall struct {
	Cause    string `json:"cause"`
	Document int64  `json:"document,omitempty"`
	Change   int64  `json:"change,omitempty"` // the act by which an allergen was gained that the jars' words lack
	Lacks    string `json:"lacks,omitempty"`  // that allergen, in words
}

// Ways in which jars whose words lack an allergen are dealt with, beside Withdrawn.
const (
	Relabelled = "relabelled"
	Gone       = "gone"       // eaten or sold on: who was told, and when
	Unaffected = "unaffected" // none of the lots that have it went in
)

// MadeGood is an owner's statement of what was done with jars whose label lacks an allergen that a change brought.
type MadeGood struct {
	Change    int64   `json:"change"`
	How       string  `json:"how"`
	Jars      int     `json:"jars,omitempty"`
	Told      string  `json:"told,omitempty"`      // customers, and how
	Authority string  `json:"authority,omitempty"` // who of the authority, or why nobody
	Day       day.Day `json:"day,omitempty"`       // when they were told
	Reason    string  `json:"reason"`
}

// Print is a print run of labels or HOLD stickers.
type Print struct {
	Label   int64           `json:"label"`
	What    string          `json:"what"` // label, hold, or spoilt: labels that came out and were thrown away
	Count   int             `json:"count"`
	Printer string          `json:"printer,omitempty"` // of the shop, that it was sent to
	Stock   string          `json:"stock,omitempty"`   // of the shop, that it was printed on
	From    int             `json:"from,omitempty"`    // the place on the first sheet
	Next    int             `json:"next,omitempty"`    // the place that is free next
	Part    string          `json:"part,omitempty"`    // date: on stock that was printed before
	Kept    json.RawMessage `json:"kept,omitempty"`    // what the label said
}

// What a print run is of.
const (
	PrintedLabel  = "label"
	PrintedHold   = "hold"
	PrintedSpoilt = "spoilt"
)

// kinds is the registry of what may be written into a batch record: of each kind, how its body is read, what speaks
// against it, what it does to the record and its sentence. A new kind is a type with these and a row here.
var kinds entry.Kinds[*Fold, Entry]

func init() { // the rows lead to what asks the registry
	kinds = entry.Register(map[string]entry.Kind[*Fold, Entry]{
		"weighing":    entry.Row((*Fold).refusesWeighing, (*Fold).weigh, (*Weighing).tell),
		"fill":        entry.Row((*Fold).refusesFill, (*Fold).fill, (*Fill).tell),
		"reading":     entry.Row(refusesReading, (*Fold).read, tellReading),
		"void":        entry.Row((*Fold).refusesStrike, (*Fold).strike, (*Void).tell),
		"heat":        entry.Row((*Fold).refusesHeat, (*Fold).heat, (*Heat).tell),
		"laboratory":  entry.Row((*Fold).refusesLaboratory, (*Fold).laboratory, (*Laboratory).tell),
		"strained":    entry.Row((*Fold).refusesStrained, (*Fold).strained, (*Strained).tell),
		"decision":    entry.Row((*Fold).refusesDecision, (*Fold).decide, (*Decided).tell),
		"jars_in":     entry.Row((*Fold).refusesJarsIn, (*Fold).jarsIn, (*JarsIn).tell),
		"recall":      entry.ByProgram((*Fold).recall, (*Recall).tell),
		"made_good":   entry.Row((*Fold).refusesMadeGood, (*Fold).makeGood, (*MadeGood).tell),
		"print":       entry.ByProgram((*Fold).print, (*Print).tell),
		"moved":       entry.Row((*Fold).refusesMove, (*Fold).move, (*Moved).tell),
		"capture":     atBench((*Fold).refusesCapture, (*Fold).capture, (*Capture).tell),
		"tared":       atBench(nil, nil, (*Tared).tell),
		"choice":      atBench(nil, (*Fold).choice, (*Choice).tell),
		"tasted":      atBench(nil, nil, (*Tasted).tell),
		"left_out":    atBench(nil, nil, (*LeftOut).tell),
		"taken_out":   atBench(nil, nil, (*TakenOut).tell),
		"added":       atBench((*Fold).refusesAdded, (*Fold).add, (*Added).tell),
		"ticked":      atBench(nil, nil, (*Ticked).tell),
		"timed":       atBench(refusesTimed, nil, (*Timed).tell),
		"closed":      atBench(nil, nil, (*Closed).tell),
		"cooled":      entry.Row((*Fold).refusesCooled, (*Fold).cool, (*Cooled).tell),
		"net_weights": entry.Row((*Fold).refusesNet, (*Fold).netWeights, (*NetWeights).tell),
		"counted":     entry.Row((*Fold).refusesCounted, (*Fold).counted, (*Counted).tell),
		"aimed":       entry.Row((*Fold).refusesAimed, (*Fold).aimed, (*Aimed).tell),
		"split":       entry.ByProgram((*Fold).split, (*Split).tell),
		"from_bowl":   entry.ByProgram((*Fold).fromBowl, (*FromBowl).tell),
		"worked":      entry.Row(refusesWorked, (*Fold).worked, (*Worked).tell),
	})
}

// Kinds lists the kinds of entries by name.
func Kinds() []string { return kinds.Names() }

// WrittenByHand reports whether hands write acts of a kind; the others are the program's.
func WrittenByHand(kind string) bool { return kinds.ByHand(kind) }

// Entry is one entry of a batch record, which is append-only: a correction is a new entry. Body points to the type of
// one of the kinds. Seq counts within the batch from 1. At is the server's time, ClientAt the device's own if it sent
// one.
type Entry struct {
	ID       int64
	Seq      int
	At       time.Time
	ClientAt *time.Time
	By       string
	Role     people.Role // of its author at that time
	Body     any
}

// Kind returns the name of the entry's kind, such as "weighing"; empty if it is in no registry.
func (e Entry) Kind() string { return kinds.Of(e.Body) }

// Told returns the sentence of the entry without its author; lines are named by their ids.
func (e Entry) Told() string { return kinds.Told(e.Body) }

// ReadBody decodes the body of a kind. Errors: entry.KindError, and those of JSON.
func ReadBody(kind string, raw []byte) (any, error) { return kinds.Read(kind, raw) }

// MarshalJSON writes the entry with its body under the name of its kind.
func (e Entry) MarshalJSON() ([]byte, error) {
	return kinds.Marshal(entry.Head{ID: e.ID, Seq: e.Seq, At: e.At, ClientAt: e.ClientAt, By: e.By, Role: e.Role},
		e.Body)
}

// UnmarshalJSON reads what MarshalJSON wrote. Errors: entry.KindError.
func (e *Entry) UnmarshalJSON(raw []byte) error {
	h, body, err := kinds.Unmarshal(raw)
	*e = Entry{h.ID, h.Seq, h.At, h.ClientAt, h.By, h.Role, body}
	return err
}
