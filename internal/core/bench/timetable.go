package bench

import (
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/law"
)

// Kinds of what stands on the timetable of a day.
const (
	ByHand  = "hands"
	Waits   = "wait" // soaks, strains, drains
	Heats   = "heat"
	Cools   = "cool"
	AtBench = "bench"
)

// Task is one bar of the day: hands are on it first, then it goes on by itself.
type Task struct {
	Key   string    `json:"key"`
	Text  string    `json:"text"`
	Kind  string    `json:"kind"`
	Hands float64   `json:"hands_min"`
	From  time.Time `json:"from"`
	To    time.Time `json:"to"`
	Look  string    `json:"look_for"`
}

// Timetable is the day of a batch, planned back from when its first weight is taken.
type Timetable struct {
	Start time.Time `json:"start"`
	From  time.Time `json:"from"` // the first thing to do
	To    time.Time `json:"to"`
	Tasks []Task    `json:"tasks"`
	Word  string    `json:"word"`
}

// The shop's night, in hours of its clock: nobody has a hand free.
const (
	nightFalls = 22
	nightEnds  = 5
)

// readingMinutes is how long the first readings of a batch take: a meter check, two jars twice.
const readingMinutes = 25

// Day is what the timetable is made for. Start is in the shop's zone.
type Day struct {
	Start    time.Time
	Cooling  []law.CoolStep
	Loads    int
	PerBatch float64 // minutes of hands at the bench
	PerJar   float64
	Steps    float64 // minutes that steps of a load wait
	Jars     int
	Reads    bool
}

// leastWeighing is how long a load takes at least to weigh in, in minutes.
const leastWeighing = 12

// Plan puts preparations back from the start, each as late as it can be: what is needed later begins later; one pair of
// hands does one thing at a time, and nothing by night.
func (d Day) Plan(prepare []Prepare) Timetable {
	t := Timetable{Start: d.Start, Tasks: []Task{}}
	p := &planner{day: d, due: map[string]time.Time{}}
	for _, x := range p.inOrder(prepare) {
		p.place(x)
	}
	t.Tasks = append(t.Tasks, p.tasks...)
	slices.SortStableFunc(t.Tasks, func(a, b Task) int { return a.From.Compare(b.From) })
	at := d.Start
	add := func(key, text string, minutes float64) {
		to := at.Add(minutesOf(minutes))
		t.Tasks = append(t.Tasks, Task{Key: key, Text: text, Kind: AtBench, Hands: minutes, From: at, To: to})
		at = to
	}
	loads := "weigh one load"
	if d.Loads > 1 {
		loads = fmt.Sprintf("weigh %d loads", d.Loads)
	}
	add("weigh", loads, float64(d.Loads)*(max(leastWeighing, d.PerBatch)+d.Steps))
	add("fill", fmt.Sprintf("fill %d jars", d.Jars), max(5, d.PerJar*float64(d.Jars)))
	if d.Reads {
		add("read", "first readings", readingMinutes)
	}
	t.From, t.To = t.Tasks[0].From, at
	t.Word = d.word(t)
	return t
}

func minutesOf(m float64) time.Duration {
	return time.Duration(m * float64(time.Minute)).Round(time.Minute)
}

func (d Day) word(t Timetable) string {
	clock := d.Start.Format("15:04")
	days := int(d.Start.Truncate(24*time.Hour).Sub(t.From.Truncate(24*time.Hour)).Hours() / 24)
	begin := t.From.Format("15:04")
	switch {
	case !t.From.Before(d.Start):
		return fmt.Sprintf("Nothing is prepared before %s.", clock)
	case days == 0:
		return fmt.Sprintf("Back from %s: begin at %s.", clock, begin)
	case days == 1:
		return fmt.Sprintf("Back from %s: begin the day before, at %s.", clock, begin)
	}
	return fmt.Sprintf("Back from %s: begin %d days before, at %s.", clock, days, begin)
}

type planner struct {
	day   Day
	tasks []Task
	due   map[string]time.Time // when what a preparation makes is wanted, where that is before the start
}

// inOrder puts each preparation after those that use what it makes; longer ones first among equals.
func (p *planner) inOrder(list []Prepare) []Prepare {
	var out []Prepare
	placed := map[string]bool{}
	for len(out) < len(list) {
		n := len(out)
		for _, x := range list {
			waits := slices.ContainsFunc(list, func(user Prepare) bool {
				return slices.Contains(user.After, x.Key) && user.Key != x.Key && !placed[user.Key]
			})
			if !placed[x.Key] && !waits {
				placed[x.Key] = true
				out = append(out, x)
			}
		}
		if len(out) == n {
			break // they lead in a circle; what is left has no place in a day
		}
	}
	return out
}

// place puts one preparation as late as it can be.
func (p *planner) place(x Prepare) {
	end := p.day.Start
	if due, ok := p.due[x.Key]; ok && due.Before(end) {
		end = due
	}
	if x.Cools {
		minutes := 0
		to := 0.0
		for _, s := range p.day.Cooling {
			minutes, to = minutes+s.Minutes, s.ToC
		}
		from := end.Add(-time.Duration(minutes) * time.Minute)
		p.tasks = append(p.tasks, Task{Key: "cool " + x.Key, Text: fmt.Sprintf("cool %s to %s °C", lowerFirst(x.Output),
			amount.Shown(to, 0)), Kind: Cools, From: from, To: end})
		end = from
	}
	hands := max(1, x.Hands)
	from := p.free(end.Add(-minutesOf(x.Wait)-minutesOf(hands)), minutesOf(hands))
	kind := ByHand
	switch {
	case x.Step.Heats():
		kind = Heats
	case x.Wait > 0:
		kind = Waits
	}
	p.tasks = append(p.tasks, Task{Key: x.Key,
		Text: fmt.Sprintf("%s %s", strings.ReplaceAll(x.Name, "_", " "), lowerFirst(x.Input)), Kind: kind,
		Hands: hands, From: from, To: from.Add(minutesOf(hands) + minutesOf(x.Wait)), Look: x.Look})
	for _, key := range x.After {
		if due, ok := p.due[key]; !ok || from.Before(due) {
			p.due[key] = from
		}
	}
}

// free is the latest time up to at from which hands are free for so long: not at another task, and not by night, unless
// the batch itself is made by night.
func (p *planner) free(at time.Time, hands time.Duration) time.Time {
	for moved := true; moved; {
		moved = false
		for _, t := range p.tasks {
			if t.Hands <= 0 {
				continue
			}
			busy := t.From.Add(minutesOf(t.Hands))
			if at.Before(busy) && at.Add(hands).After(t.From) {
				at, moved = t.From.Add(-hands), true
			}
		}
		if evening, night := p.night(at, hands); night {
			at, moved = evening.Add(-hands), true
		}
	}
	return at
}

// night reports whether hands would be on something by night, and since when it is.
func (p *planner) night(at time.Time, hands time.Duration) (time.Time, bool) {
	if h := p.day.Start.Hour(); h >= nightFalls || h < nightEnds {
		return at, false
	}
	day := time.Date(at.Year(), at.Month(), at.Day(), 0, 0, 0, 0, at.Location())
	for _, d := range []int{-1, 0} {
		falls := day.AddDate(0, 0, d).Add(nightFalls * time.Hour)
		ends := day.AddDate(0, 0, d+1).Add(nightEnds * time.Hour)
		if at.Before(ends) && at.Add(hands).After(falls) {
			return falls, true
		}
	}
	return at, false
}

func lowerFirst(s string) string {
	r := []rune(s)
	if len(r) > 1 && r[1] >= 'a' {
		return string(unicode.ToLower(r[0])) + string(r[1:])
	}
	return s
}
