package recall

import (
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/field"
	"gallipot/internal/core/people"
)

// here are the places in which hands count.
var here = []string{bench.Filled, bench.Untold, bench.ColdRoom, bench.Samples, bench.Returned}

// leastWords is how many letters a reason, or what was done, has.
const leastWords = 10

// mostJars is more than any batch has.
const mostJars = 100_000

// Line is a row and what was found of it. A line already taken out of sale need not be looked for.
type Line struct {
	Row
	Looked  bool       `json:"looked"`
	Written bool       `json:"written"` // withdrawn, broken or opened, by the book
	Found   int        `json:"found"`   // here, or set apart by who has them
	Sold    int        `json:"sold"`    // to people who eat it
	Missing int        `json:"missing"` // neither; of a closed recall also what nobody looked for
	Over    int        `json:"over"`    // more than the book had
	By      string     `json:"by"`
	At      *time.Time `json:"at"`
	Note    string     `json:"note"`
}

// Party is somebody who has jars, and when they were told.
type Party struct {
	ID   int64      `json:"id"`
	Name string     `json:"name"`
	Jars int        `json:"jars"`
	How  string     `json:"how"`
	By   string     `json:"by"`
	Told *time.Time `json:"told"`
}

// Account is where all jars are. Made and Over together are the sum of the others.
type Account struct {
	Made    int `json:"made"`
	Here    int `json:"here"`    // found in the shop
	Held    int `json:"held"`    // set apart by who has them
	Sold    int `json:"sold"`    // to people who eat them
	Gone    int `json:"gone"`    // withdrawn, broken or opened before
	Open    int `json:"open"`    // nobody looked yet
	Missing int `json:"missing"` // unaccounted for
	Over    int `json:"over"`    // found beyond the book
	Out     int `json:"out"`     // dispatched, by the book; they are in Held, Sold, Open and Missing
}

// State is a recall as its acts tell it.
type State struct {
	Started
	Began    time.Time  `json:"began"`
	By       string     `json:"by"`
	Lines    []Line     `json:"lines"`
	Parties  []Party    `json:"parties"`
	Account  Account    `json:"account"`
	ToldAll  *time.Time `json:"told_all"` // when the last of the parties was told; nil until then, or without any
	ClosedAt *time.Time `json:"closed_at"`
	ClosedBy string     `json:"closed_by"`
	Done     string     `json:"done"`
}

// Read tells a recall from its acts, the oldest first.
func Read(entries []Entry) State {
	s := State{Lines: []Line{}, Parties: []Party{}}
	for _, e := range entries {
		kinds.Fold(&s, e, e.Body)
	}
	s.count()
	return s
}

func (s *State) started(e Entry, x *Started) {
	s.Started, s.Began, s.By = *x, e.At, e.By
	s.add(x.Rows)
}

func (s *State) widened(_ Entry, x *Widened) { s.add(x.Rows) }

func (s *State) counted(e Entry, x *Counted) {
	if l := s.line(x.Batch, x.Place, 0); l != nil {
		l.look(e, x.Jars, 0, x.Note)
	}
}

func (s *State) answered(e Entry, x *Answered) {
	if l := s.line(x.Batch, bench.With, x.Party); l != nil {
		l.look(e, x.Held, x.Sold, x.Note)
	}
}

func (s *State) told(e Entry, x *Told) {
	if p := s.party(x.Party); p != nil && p.Told == nil {
		p.How, p.By, p.Told = x.How, e.By, &e.At
	}
}

func (s *State) closed(e Entry, x *Closed) { s.ClosedAt, s.ClosedBy, s.Done = &e.At, e.By, x.Done }

func (s *State) add(rows []Row) {
	for _, r := range rows {
		if s.line(r.Batch, r.Place, r.Party) != nil || r.Jars == 0 {
			continue
		}
		written := !slices.Contains(here, r.Place) && r.Place != bench.With
		s.Lines = append(s.Lines, Line{Row: r, Written: written, Looked: written})
		if r.Place != bench.With {
			continue
		}
		if s.party(r.Party) == nil {
			s.Parties = append(s.Parties, Party{ID: r.Party, Name: r.PartyName})
		}
		p := s.party(r.Party)
		p.Jars += r.Jars
		// who was told of other jars is told again of these
		p.Told, p.How, p.By = nil, "", ""
	}
}

// Complete writes into an act the names of what it is about, for who reads it later.
func (s *State) Complete(body any) {
	switch x := body.(type) {
	case *Counted:
		x.Code = s.codeOf(x.Batch)
	case *Answered:
		x.Code, x.Name = s.codeOf(x.Batch), s.nameOf(x.Party)
	case *Told:
		x.Name = s.nameOf(x.Party)
	}
}

func (s *State) codeOf(batch int64) string {
	for _, l := range s.Lines {
		if l.Batch == batch {
			return l.Code
		}
	}
	return ""
}

func (s *State) nameOf(party int64) string {
	if p := s.party(party); p != nil {
		return p.Name
	}
	return ""
}

func (s *State) line(batch int64, place string, party int64) *Line {
	for i := range s.Lines {
		if l := &s.Lines[i]; l.Batch == batch && l.Place == place && l.Party == party {
			return l
		}
	}
	return nil
}

func (s *State) party(id int64) *Party {
	for i := range s.Parties {
		if s.Parties[i].ID == id {
			return &s.Parties[i]
		}
	}
	return nil
}

func (l *Line) look(e Entry, found, sold int, note string) {
	at := e.At
	l.Looked, l.Found, l.Sold, l.By, l.At, l.Note = true, found, sold, e.By, &at, note
}

// count adds up where every jar is.
func (s *State) count() {
	for i := range s.Lines {
		l := &s.Lines[i]
		a := &s.Account
		a.Made += l.Jars
		if l.Place == bench.With {
			a.Out += l.Jars
		}
		switch {
		case l.Written:
			a.Gone += l.Jars
			continue
		case !l.Looked && s.ClosedAt == nil:
			a.Open += l.Jars
			continue
		}
		l.Missing = max(0, l.Jars-l.Found-l.Sold)
		l.Over = max(0, l.Found+l.Sold-l.Jars)
		a.Missing += l.Missing
		a.Over += l.Over
		a.Sold += l.Sold
		if l.Place == bench.With {
			a.Held += l.Found
		} else {
			a.Here += l.Found
		}
	}
	for _, p := range s.Parties {
		if p.Told == nil {
			s.ToldAll = nil
			return
		}
		if s.ToldAll == nil || p.Told.After(*s.ToldAll) {
			s.ToldAll = p.Told
		}
	}
}

// Untold names who has jars and was not told.
func (s State) Untold() []string {
	var out []string
	for _, p := range s.Parties {
		if p.Told == nil {
			out = append(out, p.Name)
		}
	}
	return out
}

// Refuses says why an act may not be written down now; nil where it may. Errors: entry.Refusal.
func (s State) Refuses(e Entry) error {
	if s.ClosedAt != nil {
		return entry.Refuse(entry.Closed, "", "It was closed by %s; nothing is added to it.", s.ClosedBy)
	}
	return kinds.Check(&s, e, e.Body)
}

func (s *State) refusesTelling(_ Entry, x *Told) error {
	if s.party(x.Party) == nil {
		return entry.Refuse(entry.Wrong, "told.party", "nobody of this number has jars of it")
	}
	if n := field.Letters(x.How); n < 3 || len([]rune(x.How)) > 300 {
		return entry.Refuse(entry.Wrong, "told.how", "say how, and whom you reached: “by phone, Maud”")
	}
	return nil
}

func refusesWidening(_ *State, _ Entry, x *Widened) error {
	if len(x.Rows) == 0 {
		return entry.Refuse(entry.Closed, "", "Every jar of it is in the list already.")
	}
	return nil
}

func refusesStart(_ *State, e Entry, x *Started) error {
	switch {
	case !x.Mock && !e.Role.May(people.Owner):
		return entry.Refuse(entry.NotYours, "", "Only an owner calls jars back. Start a drill, or ask an owner now.")
	case !e.Role.May(people.Maker):
		return entry.Refuse(entry.NotYours, "", "A maker or an owner starts a drill.")
	case field.Letters(x.Why) < leastWords || len([]rune(x.Why)) > 500:
		return entry.Refuse(entry.Wrong, "why", "say why, in at least %d letters and at most 500", leastWords)
	case len(x.Rows) == 0 && x.Mock:
		return entry.Refuse(entry.Closed, "", "No jar was filled of it: there is nothing to look for.")
	}
	return nil
}

func (s *State) refusesCount(_ Entry, x *Counted) error {
	l := s.line(x.Batch, x.Place, 0)
	switch {
	case l == nil || l.Written || l.Place == bench.With:
		return entry.Refuse(entry.Wrong, "counted.place", "the book has no jars of it there")
	case x.Jars < 0 || x.Jars > mostJars:
		return entry.Refuse(entry.Wrong, "counted.jars", "between 0 and 100 000 jars")
	case len([]rune(x.Note)) > 300:
		return entry.Refuse(entry.Wrong, "counted.note", "at most 300 characters")
	}
	return nil
}

func (s *State) refusesAnswer(_ Entry, x *Answered) error {
	p := s.party(x.Party)
	switch {
	case p == nil || s.line(x.Batch, bench.With, x.Party) == nil:
		return entry.Refuse(entry.Wrong, "answered.party", "the book has no jars of this batch with them")
	case p.Told == nil:
		return entry.Refuse(entry.Closed, "answered.party", "tell %s first", p.Name)
	case x.Held < 0 || x.Held > mostJars:
		return entry.Refuse(entry.Wrong, "answered.held", "between 0 and 100 000 jars")
	case x.Sold < 0 || x.Sold > mostJars:
		return entry.Refuse(entry.Wrong, "answered.sold", "between 0 and 100 000 jars")
	case len([]rune(x.Note)) > 300:
		return entry.Refuse(entry.Wrong, "answered.note", "at most 300 characters")
	}
	return nil
}

func (s *State) refusesClosing(e Entry, x *Closed) error {
	untold := s.Untold()
	switch {
	case !s.Mock && !e.Role.May(people.Owner):
		return entry.Refuse(entry.NotYours, "", "Only an owner closes a recall.")
	case !e.Role.May(people.Maker):
		return entry.Refuse(entry.NotYours, "", "A maker or an owner closes a drill.")
	case field.Letters(x.Done) < leastWords || len([]rune(x.Done)) > 1000:
		return entry.Refuse(entry.Wrong, "closed.done", "say what was done, in at least %d letters and at most 1000",
			leastWords)
	case !s.Mock && len(untold) > 0:
		return entry.Refuse(entry.NotReady, "", "Not everybody who has jars was told: %s.", strings.Join(untold, ", "))
	case !s.Mock && s.Account.Open > 0:
		return entry.Refuse(entry.NotReady, "", "%d jars were not looked for yet.", s.Account.Open)
	}
	return nil
}

// DrillEvery is after how many months a drill is due again (handbook 04: yearly).
const DrillEvery = 12

// DrillDue is since when a drill is due, empty where none is, and when the next is, empty where none was done. last is
// the day on which the last was closed, empty where there was none; out, whether jars ever left the shop. Days as
// 2006-01-02.
func DrillDue(last day.Day, out bool, today day.Day) (due, next day.Day) {
	if !out {
		return "", ""
	}
	at, err := day.Parse(last)
	if err != nil {
		return today, ""
	}
	next = day.Of(at.AddDate(0, DrillEvery, 0))
	if next <= today {
		due = next
	}
	return due, next
}
