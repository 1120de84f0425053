// Package recall accounts for jars that are looked for: where the book had them, what hands found, who was told and
// when. A drill and a real recall go the same way; a drill touches no batch.
package recall

import (
	"fmt"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/trace"
)

// What a recall is asked of.
const (
	OfLots     = "lots"
	OfBatches  = "batches"
	OfAllergen = "allergen" // that jars have and their words lack
)

// Row is jars of a batch in one place, as the book had them. Place is one of bench.Places.
type Row struct {
	Batch     int64   `json:"batch"`
	Code      string  `json:"code"`
	Name      string  `json:"name"`
	Ends      day.Day `json:"ends"` // last day; empty for what was never released
	Place     string  `json:"place"`
	Party     int64   `json:"party,omitempty"`
	PartyName string  `json:"party_name,omitempty"`
	Jars      int     `json:"jars"`
	Since     string  `json:"since"` // when the last came there
}

// RowsOf are where the book has the jars of every batch that a trace reached.
func RowsOf(f trace.Found) []Row {
	rows := []Row{}
	for _, l := range f.Batches() {
		for _, j := range f.Jars[l.Batch] {
			if j.Jars > 0 {
				rows = append(rows, Row{Batch: l.Batch, Code: l.Code, Name: l.Name, Ends: l.Ends, Place: j.Place,
					Party: j.Party, PartyName: j.PartyName, Jars: j.Jars, Since: j.Since})
			}
		}
	}
	return rows
}

// Started begins a recall: why, what it is asked of, and where the book has every jar. FoundMS is how long the book
// took to say so.
type Started struct {
	Mock     bool    `json:"mock"`
	Why      string  `json:"why"`
	Of       string  `json:"of"`
	IDs      []int64 `json:"ids"` // of lots, a batch's own among them; of the change by which an allergen was gained
	Title    string  `json:"title"`
	Allergen string  `json:"allergen,omitempty"` // in words
	Rows     []Row   `json:"rows"`
	FoundMS  float64 `json:"found_ms"`
}

// Counted is how many jars hands found in a place here. Code is the batch's, for who reads it later.
type Counted struct {
	Batch int64  `json:"batch"`
	Code  string `json:"code,omitempty"`
	Place string `json:"place"`
	Jars  int    `json:"jars"`
	Note  string `json:"note,omitempty"`
}

// Told is that somebody who has jars was told, and how.
type Told struct {
	Party int64  `json:"party"`
	Name  string `json:"name,omitempty"`
	How   string `json:"how"`
}

// Answered is what somebody who was told has of a batch still, set apart, and what went on to people who eat it.
type Answered struct {
	Party int64  `json:"party"`
	Name  string `json:"name,omitempty"`
	Batch int64  `json:"batch"`
	Code  string `json:"code,omitempty"`
	Held  int    `json:"held"`
	Sold  int    `json:"sold"`
	Note  string `json:"note,omitempty"`
}

// Widened is jars that turned out to be of it after it began.
type Widened struct {
	Rows []Row `json:"rows"`
}

// Closed ends a recall with what was done.
type Closed struct {
	Done string `json:"done"`
}

// kinds registers what may be written into a recall: for each kind, how its body is read, what refuses it, what it does
// to the recall, and its sentence.
var kinds entry.Kinds[*State, Entry]

func init() { // the rows lead to what asks the registry
	kinds = entry.Register(map[string]entry.Kind[*State, Entry]{
		"started":  entry.Row(refusesStart, (*State).started, (*Started).tell),
		"counted":  entry.Row((*State).refusesCount, (*State).counted, (*Counted).tell),
		"told":     entry.Row((*State).refusesTelling, (*State).told, (*Told).tell),
		"answered": entry.Row((*State).refusesAnswer, (*State).answered, (*Answered).tell),
		"widened":  entry.Row(refusesWidening, (*State).widened, (*Widened).tell),
		"closed":   entry.Row((*State).refusesClosing, (*State).closed, (*Closed).tell),
	})
}

// Kinds lists the kinds of entries by name.
func Kinds() []string { return kinds.Names() }

// ReadBody decodes the body of a kind. Errors: entry.KindError, and those of JSON.
func ReadBody(kind string, raw []byte) (any, error) { return kinds.Read(kind, raw) }

// Entry is one act in a recall. Body points to the type of one of the kinds.
type Entry struct {
	entry.Head
	Body any
}

// Kind names what the entry is; empty for what is in no registry.
func (e Entry) Kind() string { return kinds.Of(e.Body) }

// Tell is the sentence of an act in a recall from its stored body, without its author.
func Tell(kind string, raw []byte) string { return kinds.Tell(kind, raw) }

func (x *Started) tell() string {
	kind := "a recall"
	if x.Mock {
		kind = "a drill"
	}
	return fmt.Sprintf("began %s of %s. %s", kind, x.Title, x.Why)
}

func (x *Counted) tell() string {
	return entry.Noted(fmt.Sprintf("counted %d jars: %s, batch %s", x.Jars, bench.PlaceWords[x.Place], x.Code), x.Note)
}

func (x *Told) tell() string { return fmt.Sprintf("told %s: %s", x.Name, x.How) }

func (x *Answered) tell() string {
	return entry.Noted(fmt.Sprintf("heard from %s of batch %s: %d jars set apart, %d sold or used", x.Name, x.Code,
		x.Held, x.Sold), x.Note)
}

func (x *Widened) tell() string { return "took in more jars of it that turned up" }

func (x *Closed) tell() string { return "closed it: " + x.Done }
