package kernel

import (
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
)

// Batch is one stored production run with the targets it was planned with.
type Batch struct {
	ID        int64
	Code      string
	FormulaID string
	Version   int
	Jars      int
	MadeOn    time.Time
	Targets   []bench.Target
	Planned   *bench.Planned // nil: from before loads were kept
	CreatedAt time.Time
	CreatedBy string
}

// BatchKey is a place in the list of batches.
type BatchKey struct {
	MadeOn string
	ID     int64
}

// batchStore stores batches, their records and their standings.
type batchStore interface {
	Batch(id int64) (Batch, error)
	BatchesBy(ids []int64) ([]Batch, error)
	BatchIDs(of ...formula.Ref) ([]int64, error)
	BatchRefs() ([]formula.Ref, error)
	BatchesOnMeter(meter string, since time.Time) ([]int64, error)
	RanOut(now time.Time) ([]int64, error)
	UnjudgedBatches() ([]int64, error)
	AddBatch(b *Batch) error
	CountBatches() error
	CodesOn(day time.Time) ([]string, error)
	LastVessel(formula string) (int64, error)
	MadeIn(formulas ...string) (map[string]bench.Vessel, error)
	LastAim(of formula.Ref) (aim AimedAt, ok bool, err error)
	Pours(class string, most int) ([]bench.Pour, error)
	LockBatches(ids ...int64) error
	OpenBatch(id int64, ask Opening) (BatchRecord, error)
	Entries(ids ...int64) (map[int64][]bench.Entry, error)
	AddEntry(batch int64, e bench.Entry, key string, digest []byte) (bench.Entry, error)
	EntryKey(batch int64, key string) (digest []byte, err error)

	PutStandings(list ...Standing) error
	AddSplit(batch, bowl int64) error
	Sisters(batch int64) ([]Sister, error)
	ListBatches(q BatchQuery, after *BatchKey, most int) ([]Listed, error)
	AllBatches() (int, error)
	BatchesWaiting(most int) ([]Listed, int, error)
	BatchesEnding(from, to day.Day, most int) ([]Listed, error)
	ListedBatches(ids []int64) ([]Listed, error)
	BatchesSooner(most int) ([]Listed, error)
	PlannedBatches(most int) ([]Listed, error)
	PutJars(batch int64, jars []bench.JarsAt) error
	JarsOf(ids ...int64) (map[int64][]bench.JarsAt, error)
	BatchesWithJars(most int) ([]Listed, error)
	ReadyBatches(formula string, today day.Day, most int) ([]Listed, error)
}

// BatchRow is a batch in the list.
type BatchRow struct {
	ID          int64    `json:"id"`
	Code        string   `json:"code"`
	Formula     string   `json:"formula"`
	FormulaName string   `json:"formula_name"`
	Version     int      `json:"version"`
	MadeOn      day.Day  `json:"made_on"`
	Jars        int      `json:"jars"` // filled, or planned before filling
	Here        int      `json:"here"` // that may still leave the shop
	State       string   `json:"state"`
	Value       *float64 `json:"decision_ph"`
	Target      float64  `json:"ph_target"`
	Limit       float64  `json:"ph_limit"`
	LastDay     day.Day  `json:"last_day"`
	DateKind    string   `json:"date_kind"`
	Waits       string   `json:"waits"` // the first thing in the way of a release
	By          string   `json:"by"`    // who decided last; who planned it before that
}

// BatchQuery says which batches a list shows: of a formula, in a state, with a text in their lot or product.
type BatchQuery struct {
	Formula string
	State   string
	Find    string
}

// AimedAt is what jars of a version are filled to since a batch, and why.
type AimedAt struct {
	Grams  amount.Grams `json:"grams"`
	Reason string       `json:"reason"`
	Batch  int64        `json:"batch"`
	Code   string       `json:"code"`
	By     string       `json:"by"`
}

// Loads is how many loads a batch is made in.
func (b Batch) Loads() int {
	if b.Planned == nil {
		return 1
	}
	return len(b.Planned.Loads)
}

// Over is the overfill with which the batch is made.
func (b Batch) Over(v formula.Version) amount.Percent {
	if b.Planned == nil {
		return v.OverfillPercent
	}
	return b.Planned.Over
}

// Mark is a position in the journal of changes: the last change noted.
type Mark struct {
	Seq int64
	At  time.Time
}

// Opening is what the writer of a batch's next entry asks for.
type Opening struct {
	Key    string       // of the entry
	Texts  []string     // that lots may be called by
	Since  Mark         // of what was read before
	Beside []string     // kinds of changes that do not touch that
	Had    *BatchRecord // as it was then; the same batch is not read again where it is still so
}

// BatchRecord is the record of a batch as the writer of its next entry reads it.
type BatchRecord struct {
	Batch   Batch
	Entries []bench.Entry
	Digest  []byte        // of the entry under the writer's key; nil where there is none
	Next    int64         // the id of the next entry
	Lot     int64         // that the batch is itself
	Lots    []LotStanding // that the record names, and that the texts call
	Vessels []VesselTurns
	Turned  int  // turns of vessels that were written down since it was read
	Mark    Mark // when it was read; zero while somebody else writes, whose change would be noted before it is seen
	Still   bool // nothing was noted since the mark that was asked about
}

// RuleKept is a rule in force with its figures.
type RuleKept struct {
	ID     int                `json:"id"`
	Title  string             `json:"title"`
	Params map[string]float64 `json:"params"`
	Text   string             `json:"text"`
}

// Doubt is a reason against released jars: none of them leaves and no label is printed until an owner has decided.
func (s Standing) Doubt() string {
	switch {
	case s.Barred != "":
		return "lot " + s.Barred
	case s.Sooner != "":
		return s.Sooner
	}
	return ""
}

// Sister is a batch that was filled from the same bowl as another.
type Sister struct {
	ID    int64
	Code  string
	State string
}

// Standing is the state of a batch as lists show it. It is written in the same transaction as the entry it follows
// from, so that no list has to judge history again.
type Standing struct {
	Batch           int64
	State           string
	Jars            int // filled, or planned before filling
	Value           *float64
	Target, Limit   float64
	Outcome         string   // of the readings
	Sentence        string   // what the readings say
	Waits           []string // what stands in the way of a release, in the order of work
	Due             *time.Time
	EquilibriumOpen bool // released on the first day, and the deciding reading is still to come
	Weighed         bool
	Here            int        // jars that may still leave the shop
	Sooner          string     // why jars that are out keep less long than was decided, by their lots
	Barred          string     // which lot in jars that were released may not be used, and why
	RunsOut         *time.Time // when an early release is on hold again without it
	Printed         int        // labels
	Words           string     // allergens that the words of jars that are out lack
	JarsOut         bool       // released once, and nobody said since that no jar is out
	Recalled        string     // why it was called back, where it is
	By              string     // who decided last; who planned it before that
	LastDay         day.Day
	DateKind        string
}

// Listed is a batch with its standing.
type Listed struct {
	Code        string
	Formula     string
	FormulaName string
	Version     int
	MadeOn      day.Day
	Standing
}
