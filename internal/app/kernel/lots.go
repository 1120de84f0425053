package kernel

import (
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/lots"
)

// Lot is what came in, a batch of ours, or a frozen part, as it is kept.
type Lot struct {
	ID         int64
	Code       string
	Kind       string
	Ingredient string // of an incoming one, and of its parts
	Batch      int64  // of ours, and of its parts
	Parent     int64  // of a part
	Delivery   int64
	CreatedAt  time.Time
	CreatedBy  string
}

// Delivery is what a supplier brought at once, under one note.
type Delivery struct {
	ID       int64     `json:"id"`
	Supplier string    `json:"supplier"`
	Note     string    `json:"note"`
	Day      day.Day   `json:"day"`
	At       time.Time `json:"at"`
	By       string    `json:"by"`
}

// LotStanding is what is known of a lot, and what is left of it.
type LotStanding struct {
	lots.Facts
	lots.Book
	Used    amount.Grams `json:"used_g"`
	Left    amount.Grams `json:"on_hand_g"`
	Differs bool         `json:"list_differs"`
}

// DrawnIn is what a batch took of a lot.
type DrawnIn struct {
	Batch int64
	Grams amount.Grams
}

// StockQuery says which lots a list shows. Show: there (what is left, or waits), ends (past their end by a day), hold,
// waiting.
type StockQuery struct {
	Show       string
	Ingredient string
	Find       string
	Until      day.Day // of Show ends: the last day that counts
}

// StockSum is what is there of one ingredient, or of one component's version.
type StockSum struct {
	Ingredient string        `json:"ingredient"`
	Formula    string        `json:"formula"`
	Name       string        `json:"name"`
	Lots       int           `json:"lots"`
	Held       int           `json:"held"` // of them on hold, refused or waiting
	Usable     amount.Grams  `json:"usable_g"`
	There      amount.Grams  `json:"there_g"` // held and past ones too
	Past       amount.Grams  `json:"past_g"`  // past its end
	Ends       day.Day       `json:"ends"`    // the first usable one
	Worth      *amount.Exact `json:"worth"`   // of what is there, where the cost of all of it is known
}

// lotStore keeps lots, their records and where they stand.
type lotStore interface {
	AddDelivery(d *Delivery) error
	Delivery(id int64) (*Delivery, error)
	DeliveriesUnder(supplier, note string) ([]Delivery, error)
	AddLot(l *Lot) error
	NextLotCode() (string, error)
	Lots(ids ...int64) ([]Lot, error)
	LotIDs(ofBatches bool) ([]int64, error)
	LotsOfBatches(batches ...int64) ([]Lot, error)
	LotsCalled(texts ...string) ([]LotStanding, error)
	PartsOf(parents ...int64) ([]int64, error)
	LotEntries(ids ...int64) (map[int64][]lots.Entry, error)
	AddLotEntry(lot int64, e lots.Entry, key string, digest []byte) error
	LotEntryKey(lot int64, key string) (digest []byte, err error)
	LastList(ingredient string) (list string, known bool, err error)

	PutLotStandings(list ...LotStanding) error
	LotStandings(ids ...int64) ([]LotStanding, error)
	LotsThere(ingredients []string, components []formula.Ref) ([]LotStanding, error)
	ListLots(q StockQuery, most int) ([]LotStanding, int, error)
	Stock(today day.Day) ([]StockSum, error)
	KeptInLots(ingredients []string) ([]string, error)

	PutDraws(batch int64, was, took []bench.Took) error
	Recount(ids ...int64) error
	DrawsOf(batches ...int64) (map[int64][]bench.Took, error)
	UsedOf(ids ...int64) (map[int64]amount.Grams, error)
	DrawnBy(ids ...int64) (map[int64][]DrawnIn, error)
}
