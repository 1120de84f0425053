package trace

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/lots"
)

// Lot is what a trace shows of a lot, which may be a batch. Amounts are milligrams.
type Lot struct {
	ID         int64
	Code       string
	Kind       string // one of package lots
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
	Ends       day.Day
	Frozen     bool
}

// Node is a lot, a batch or a place of jars in the drawing.
type Node struct {
	Key      string       `json:"key"`
	Column   int          `json:"column"`
	Kind     string       `json:"kind"` // incoming, part, batch or place
	ID       int64        `json:"id"`   // of the lot, the batch or the party
	Code     string       `json:"code"`
	Name     string       `json:"name"`
	Day      day.Day      `json:"day"`
	Supplier string       `json:"supplier"`
	Said     string       `json:"said"` // by the supplier
	By       string       `json:"by"`   // who accepted or planned it
	State    string       `json:"state"`
	Bar      string       `json:"bar"`
	Ends     day.Day      `json:"ends"`
	Received amount.Grams `json:"received_g"`
	Used     amount.Grams `json:"used_g"`
	Jars     int          `json:"jars"`
	Value    *float64     `json:"value"` // the deciding pH of a batch
	Frozen   bool         `json:"frozen"`
	Asked    bool         `json:"asked"` // the trace was asked of it
}

// Band is a band of the drawing: grams between lots, or jars to a place.
type Band struct {
	From  string       `json:"from"`
	To    string       `json:"to"`
	Grams amount.Grams `json:"grams"`
	Jars  int          `json:"jars"`
}

// Drawing is where a lot went, or where what is in a jar came from.
type Drawing struct {
	Of      string   `json:"of"` // lot or batch
	Title   string   `json:"title"`
	Nodes   []Node   `json:"nodes"`
	Flows   []Band   `json:"flows"`
	Columns []string `json:"columns"`
	Account Account  `json:"account"` // of the jars of all batches that it reached
}

// ofPlaces is the kind of a node that is a place of jars.
const ofPlaces = "place"

// PlaceWords are the places of jars as a trace says them.
var PlaceWords = map[string]string{bench.Filled: "On the bench", bench.Untold: "Filled before places were kept",
	bench.ColdRoom: "Cold room", bench.Samples: "Kept as samples", bench.Returned: "Come back",
	bench.Withdrawn: "Taken out of sale", bench.Broken: "Broken", bench.Opened: "Opened here"}

// key names a lot in a drawn path.
func key(id int64) string { return fmt.Sprintf("lot-%d", id) }

// Found is what a trace read: the lots it started from, all lots in its flows, and the jars of batches.
type Found struct {
	Asked []int64
	Lots  map[int64]Lot
	Flows []Flow
	Ahead map[int64]bool // what was asked about, and all that it went into
	Jars  map[int64][]bench.JarsAt
}

// IDs are the lots of the trace in their order.
func (f Found) IDs() []int64 { return slices.Sorted(maps.Keys(f.Lots)) }

// Reached reports whether a lot is a batch the trace started from, or one that its lots went into.
func (f Found) Reached(id int64) bool { return f.Lots[id].Kind == lots.OfBatch && f.Ahead[id] }

// Batches are the batches that were reached, in the order of their lots.
func (f Found) Batches() []Lot {
	var out []Lot
	for _, id := range f.IDs() {
		if f.Reached(id) {
			out = append(out, f.Lots[id])
		}
	}
	return out
}

// Draw lays the trace out.
func (f Found) Draw() Drawing {
	out := Drawing{Of: "lot", Nodes: []Node{}, Flows: []Band{}}
	columns := Columns(f.Flows)
	last := 0
	for _, id := range f.IDs() {
		l := f.Lots[id]
		n := l.node(columns[id], slices.Contains(f.Asked, id))
		if n.Asked && n.Kind == lots.OfBatch {
			out.Of = lots.OfBatch
		}
		if n.Asked && out.Title == "" {
			out.Title = l.Name + ", " + l.Code
		}
		last = max(last, n.Column)
		out.Nodes = append(out.Nodes, n)
	}
	for _, x := range f.Flows {
		out.Flows = append(out.Flows, Band{From: key(x.From), To: key(x.To), Grams: x.Grams})
	}
	f.places(&out, last+1)
	out.Columns = columnWords(last, len(out.Nodes) > len(f.Lots))
	return out
}

// places adds where the jars are, one node for each place and party, in the order of a jar's way.
func (f Found) places(out *Drawing, column int) {
	at := map[string]*Node{}
	var order []*Node
	var all [][]bench.JarsAt
	for _, l := range f.Batches() {
		all = append(all, f.Jars[l.Batch])
		for _, j := range f.Jars[l.Batch] {
			if j.Jars == 0 {
				continue
			}
			place := fmt.Sprintf("place-%s-%d", j.Place, j.Party)
			n := at[place]
			if n == nil {
				n = &Node{Key: place, Column: column, Kind: ofPlaces, ID: j.Party, Code: j.Place,
					Name: cmp.Or(j.PartyName, PlaceWords[j.Place])}
				at[place] = n
				order = append(order, n)
			}
			n.Jars += j.Jars
			out.Flows = append(out.Flows, Band{From: key(l.ID), To: place, Jars: j.Jars})
		}
	}
	slices.SortStableFunc(order, func(x, y *Node) int {
		return slices.Index(bench.Places, x.Code) - slices.Index(bench.Places, y.Code)
	})
	for _, n := range order {
		out.Nodes = append(out.Nodes, *n)
	}
	out.Account = AccountOf(all...)
}

func (l Lot) node(column int, asked bool) Node {
	n := Node{Key: key(l.ID), Column: column, Kind: l.Kind, ID: l.ID, Code: l.Code, Name: l.Name,
		Day: day.Of(l.Day), Supplier: l.Supplier, Said: l.Said, By: l.By, State: l.State, Bar: l.Bar,
		Ends: l.Ends, Received: amount.Milligrams(l.ReceivedMg), Used: amount.Milligrams(l.UsedMg), Jars: l.Jars,
		Value: l.Value, Frozen: l.Frozen, Asked: asked}
	if l.Kind == lots.OfBatch {
		n.ID = l.Batch
	}
	return n
}

// columnWords head the columns of a drawing whose lots end in a column, and whose jars, if there are any, come after.
func columnWords(last int, jars bool) []string {
	words := []string{"came in"}
	for c := 1; c <= last; c++ {
		words = append(words, "became")
	}
	if last > 0 {
		words[last] = "went into"
	}
	if jars {
		words = append(words, "is now")
	}
	return words
}
