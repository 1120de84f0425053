package bench

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/field"
	"gallipot/internal/core/people"
)

// Places of jars. Every jar of a batch is in exactly one.
const (
	Filled    = "filled"    // on the bench, closed
	Untold    = "untold"    // filled before jars were followed
	ColdRoom  = "cold_room" // or wherever the shop keeps what it sells
	Samples   = "samples"   // kept back for studies
	With      = "with"      // a customer, or a market day
	Returned  = "returned"  // came back, and nobody has decided on them
	Withdrawn = "withdrawn" // taken out of sale, never to come back into it
	Broken    = "broken"
	Opened    = "opened" // here: tasted, read, or for the bowl
)

// Places lists them in the order in which a jar travels.
var Places = []string{Filled, Untold, ColdRoom, Samples, With, Returned, Withdrawn, Broken, Opened}

// here lists the places from which jars leave.
var here = []string{Untold, ColdRoom, Filled}

// gone lists the places from which jars come back only with an owner's reason.
var gone = []string{Withdrawn, Broken, Opened}

// Moved is jars that went from one place to another. Party is who has them if a place is With. Group identifies what
// was sent together.
type Moved struct {
	From      string `json:"from"`
	To        string `json:"to"`
	Jars      int    `json:"jars"`
	Party     int64  `json:"party,omitempty"`
	PartyName string `json:"party_name,omitempty"`
	Reason    string `json:"reason,omitempty"`
	Group     string `json:"group,omitempty"`
}

// JarsAt is how many jars are in a place. Since is when the last of them came.
type JarsAt struct {
	Place     string `json:"place"`
	Party     int64  `json:"party,omitempty"`
	PartyName string `json:"party_name,omitempty"`
	Jars      int    `json:"jars"`
	Since     string `json:"since"`
}

type spot struct {
	place string
	party int64
}

// shelf holds where the jars of a batch are.
type shelf struct {
	at   map[spot]*JarsAt
	last *Entry // the newest move
}

func (s *shelf) put(place string, party int64, name string, jars int, e Entry) {
	if s.at == nil {
		s.at = map[spot]*JarsAt{}
	}
	key := spot{place, party}
	if s.at[key] == nil {
		s.at[key] = &JarsAt{Place: place, Party: party, PartyName: name}
	}
	x := s.at[key]
	x.Jars += jars
	if name != "" {
		x.PartyName = name
	}
	if jars > 0 {
		x.Since = e.At.UTC().Format(time.RFC3339)
	}
}

func (s *shelf) jars(place string, party int64) int {
	if x := s.at[spot{place, party}]; x != nil {
		return x.Jars
	}
	return 0
}

// total returns how many jars there are in all places.
func (s *shelf) total() int {
	n := 0
	for _, x := range s.at {
		n += x.Jars
	}
	return n
}

// list returns the places with jars, in the order in which a jar travels; among customers, the one with the most comes
// first.
func (s *shelf) list() []JarsAt {
	out := []JarsAt{}
	for _, x := range s.at {
		if x.Jars != 0 {
			out = append(out, *x)
		}
	}
	SortJars(out)
	return out
}

// SortJars sorts places in the order in which a jar travels; among customers, the one with the most comes first.
func SortJars(list []JarsAt) {
	slices.SortFunc(list, func(a, b JarsAt) int {
		if c := cmp.Compare(slices.Index(Places, a.Place), slices.Index(Places, b.Place)); c != 0 {
			return c
		}
		if c := cmp.Compare(b.Jars, a.Jars); c != 0 {
			return c
		}
		return cmp.Compare(a.Party, b.Party)
	})
}

// JarsIn counts the record's jars in the given places.
func (r *Record) JarsIn(places ...string) int {
	n := 0
	for _, x := range r.Jars {
		if slices.Contains(places, x.Place) {
			n += x.Jars
		}
	}
	return n
}

// Here counts the jars that are still in the shop and could leave it.
func (r *Record) Here() int { return r.JarsIn(here...) }

// filledJars puts the jars of a filling on the bench; a later count corrects the number.
func (f *Fold) filledJars(e Entry, x *Fill) {
	place := Filled
	if !x.Followed {
		place = Untold
	}
	if more := x.Jars - f.shelf.total(); more != 0 {
		f.shelf.put(place, 0, "", more, e)
	}
}

// refusesFewer refuses a count below the jars that are already elsewhere.
func (f *Fold) refusesFewer(x *Fill) error {
	place := Filled
	if !x.Followed {
		place = Untold
	}
	if away := f.shelf.total() - f.shelf.jars(place, 0); x.Jars < away {
		return entry.Refuse(entry.Wrong, "fill.jars", "%d jars were moved from the bench already: %s", away,
			whereabouts(f.shelf.list(), place))
	}
	return nil
}

// whereabouts words where jars are, leaving out one place.
func whereabouts(list []JarsAt, but string) string {
	var out []string
	for _, x := range list {
		if x.Place == but {
			continue
		}
		words := PlaceWords[x.Place]
		if x.Place == With {
			words += " " + x.PartyName
		}
		out = append(out, fmt.Sprintf("%d %s", x.Jars, words))
	}
	return strings.Join(out, ", ")
}

// PlaceWords maps places to the words for them.
var PlaceWords = map[string]string{Filled: "filled, on the bench", Untold: "from before jars were followed",
	ColdRoom: "in the cold room", Samples: "kept as samples", With: "with", Returned: "returned",
	Withdrawn: "withdrawn", Broken: "broken", Opened: "opened here"}

func (f *Fold) move(e Entry, x *Moved) {
	party := func(place string) (int64, string) {
		if place == With {
			return x.Party, x.PartyName
		}
		return 0, ""
	}
	id, name := party(x.From)
	f.shelf.put(x.From, id, name, -x.Jars, e)
	id, name = party(x.To)
	f.shelf.put(x.To, id, name, x.Jars, e)
	f.shelf.last = &e
}

// refusesMove makes sure that every jar is in one place: no jar moves from where it is not, and none leaves the shop
// unless its batch is released. Whether the batch is in date is checked by MayLeave.
func (f *Fold) refusesMove(e Entry, x *Moved) error {
	known := func(place string) bool { return slices.Contains(Places, place) }
	switch {
	case !known(x.From):
		return entry.Refuse(entry.Wrong, "moved.from", "there is no such place")
	case !known(x.To) || x.To == Untold || x.To == x.From:
		return entry.Refuse(entry.Wrong, "moved.to", "choose where they go")
	case x.Jars < 1:
		return entry.Refuse(entry.Wrong, "moved.jars", "at least one jar")
	case (x.From == With || x.To == With) && x.Party == 0:
		return entry.Refuse(entry.Wrong, "moved.party", "with whom?")
	}
	party := int64(0)
	if x.From == With {
		party = x.Party
	}
	if there := f.shelf.jars(x.From, party); x.Jars > there {
		return entry.Refuse(entry.Wrong, "moved.jars", "%s", f.notThere(there, x))
	}
	if x.To == With && f.r.State != Released {
		return entry.Refuse(entry.Closed, "", "This batch is %s: no jar leaves the shop.", StateWords[f.r.State])
	}
	return f.refusesComingBack(e, x)
}

// notThere is the refusal of moving jars that are not there; it names who moved the last.
func (f *Fold) notThere(there int, x *Moved) string {
	said := fmt.Sprintf("only %d jars are %s", there, PlaceWords[x.From])
	if x.From == With {
		said += " " + x.PartyName
	}
	if f.shelf.last != nil {
		m := f.shelf.last.Body.(*Moved)
		said += fmt.Sprintf("; %s moved %d to %s before", f.shelf.last.By, m.Jars,
			strings.TrimSpace(strings.TrimPrefix(PlaceWords[m.To], "with")+" "+m.PartyName))
	}
	return said
}

// refusesComingBack stops jars that were out, withdrawn, broken or opened from being sold again as if nothing had
// happened.
func (f *Fold) refusesComingBack(e Entry, x *Moved) error {
	back := slices.Contains(here, x.To) || x.To == With || x.To == Samples
	switch {
	case !back || slices.Contains(here, x.From) || x.From == Samples && x.To != With:
		return nil
	case x.From == Returned && slices.Contains(here, x.To) && f.r.State != Released:
		return entry.Refuse(entry.Closed, "",
			"This batch is %s: what came back is withdrawn or broken, never put back.",
			StateWords[f.r.State])
	case !e.Role.May(people.Owner):
		return entry.Refuse(entry.NotYours, "", "Only an owner puts back jars that were %s, with a reason.",
			PlaceWords[x.From])
	case field.Letters(x.Reason) < leastCause:
		return entry.Refuse(entry.Wrong, "moved.reason",
			"say in at least %d letters why they are as good as the others", leastCause)
	}
	return nil
}

// MayLeave returns why no jar of a batch may leave the shop on a day; nil if it may. Doubt is what was found since the
// release; empty if nothing was.
func MayLeave(state string, lastDay, today day.Day, doubt string) error {
	switch {
	case state != Released:
		return entry.Refuse(entry.Closed, "", "It is %s: no jar leaves the shop.", StateWords[state])
	case lastDay == "":
		return entry.Refuse(entry.Closed, "", "It has no date: no jar leaves the shop.")
	case lastDay < today:
		return entry.Refuse(entry.Closed, "", "It is past its date, %s: no jar leaves the shop.", lastDay)
	case doubt != "":
		return entry.Refuse(entry.Closed, "", "An owner decides on it first: %s.", doubt)
	}
	return nil
}

// JarsOpened returns how many of the jars were opened for the grams taken from them as a lot, in whole jars.
func JarsOpened(here int, hold, taken amount.Grams) int {
	if here < 1 || !hold.IsPositive() || !taken.IsPositive() {
		return 0
	}
	return min(here, int(math.Ceil(taken.Float()*float64(here)/hold.Float()-1e-9)))
}

// Ready is a batch whose jars may leave.
type Ready struct {
	Batch   int64   `json:"batch"`
	Code    string  `json:"code"`
	LastDay day.Day `json:"last_day"`
	Jars    int     `json:"jars"`
}

// FirstExpired takes jars from batches, the earliest end first, and returns how many are missing.
func FirstExpired(list []Ready, jars int) (parts []Ready, missing int) {
	list = slices.Clone(list)
	slices.SortFunc(list, func(a, b Ready) int {
		if c := cmp.Compare(a.LastDay, b.LastDay); c != 0 {
			return c
		}
		return cmp.Compare(a.Batch, b.Batch)
	})
	for _, r := range list {
		if jars == 0 {
			break
		}
		if r.Jars = min(r.Jars, jars); r.Jars > 0 {
			parts, jars = append(parts, r), jars-r.Jars
		}
	}
	return parts, jars
}
