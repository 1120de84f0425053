package bench

import (
	"fmt"
	"testing"
	"time"

	"gallipot/internal/cases"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// latchCase is what becomes of a batch: events in order, each by a person with a role.
type latchCase struct {
	Name string
	Shop struct {
		Early  bool                   `json:"early_release"`
		People map[string]people.Role `json:"people"`
	}
	Version struct {
		Limit, Target float64
		Chilled       bool
		Piece         float64 `json:"largest_piece_mm"`
	}
	Events []latchEvent
	Want   struct {
		State   string
		Refused []int
	}
}

type latchEvent struct {
	At, By, Do string
	Jars       int
	FilledAt   string `json:"filled_at"`
	ReadAt     string `json:"read_at"`
	CheckedAt  string `json:"checked_at"`
	Good       bool
	Name, Jar  string
	Moment     string
	PH         []float64
	Sample     int
	State      string
	Reason     string
	Seen       *int
	Reading    string
	Cause      string
}

func clock(t *testing.T, s string) time.Time {
	t.Helper()
	at, err := time.Parse("2006-01-02 15:04", s)
	require.NoError(t, err)
	return at
}

// latchRun plays the events of a case, one meter, one load.
type latchRun struct {
	t     *testing.T
	c     latchCase
	fold  *Fold
	turn  int64
	turns map[int]int64    // newest entry after each accepted event
	named map[string]int64 // readings by name
	check int64
}

func (r *latchRun) claimed(e latchEvent, said string) time.Time {
	if said == "" {
		return clock(r.t, e.At)
	}
	return clock(r.t, said)
}

// bodies are the entries that an event makes.
func (r *latchRun) bodies(e latchEvent) []any {
	switch e.Do {
	case "filled":
		return []any{&Fill{Jars: e.Jars, At: r.claimed(e, e.FilledAt), Reason: e.Reason}}
	case "meter_check", "closing_look":
		look := e.Do == "closing_look"
		return []any{&acidity.MeterEvent{Turn: r.turn + 1, Check: r.turn + 1, Meter: "m", Look: look, Good: e.Good,
			At: r.claimed(e, e.CheckedAt)}}
	case "read":
		var out []any
		for _, ph := range e.PH {
			out = append(out, &acidity.Reading{Load: 1, Jar: e.Jar, Moment: e.Moment, Sample: max(1, e.Sample),
				Preparation: "semi_solid", Fraction: "paste", PH: ph, Celsius: 22, MeterCheck: r.check,
				At: r.claimed(e, e.ReadAt)})
		}
		return out
	case "strike":
		return []any{&Void{Entry: r.named[e.Reading], Cause: e.Cause}}
	case "add":
		return []any{&Weighing{Line: fmt.Sprintf("more %d", r.turn), Grams: amount.G(10)}}
	case "jars_in":
		return []any{&JarsIn{Reason: e.Reason}}
	case "decide":
		d := &Decided{State: e.State, Reason: e.Reason}
		if e.Seen != nil {
			for i := *e.Seen; i >= 0 && d.Seen == 0; i-- {
				d.Seen = r.turns[i]
			}
		}
		if e.State == Released {
			d.Way = r.fold.acidity().Way
		}
		return []any{d}
	case "look":
		return nil
	}
	r.t.Fatalf("what is %q?", e.Do)
	return nil
}

// play runs one event and tells whether it was accepted.
func (r *latchRun) play(i int, e latchEvent) bool {
	at := clock(r.t, e.At)
	r.fold.Record(at)
	for _, body := range r.bodies(e) {
		entry := Entry{ID: r.turn + 1, At: at, By: e.By, Role: r.c.Shop.People[e.By], Body: body}
		if err := r.fold.Refuses(entry); err != nil {
			assert.NotEmpty(r.t, err.Error())
			return false
		}
		r.turn++
		r.fold.Add(entry)
		switch x := body.(type) {
		case *acidity.Reading:
			r.named[e.Name] = entry.ID
		case *acidity.MeterEvent:
			if !x.Look {
				r.check = x.Check
			}
		}
	}
	r.turns[i] = r.turn
	return true
}

func TestTheLatchReproducesWorkedCases(t *testing.T) {
	var file struct{ Cases []latchCase }
	cases.Load(t, "decisions.json", &file)
	require.NotEmpty(t, file.Cases)
	for _, c := range file.Cases {
		t.Run(c.Name, func(t *testing.T) {
			fold := NewFold(Needs{Bounds: acidity.Bounds{Limit: c.Version.Limit, Target: c.Version.Target, Loads: 1,
				Chilled: c.Version.Chilled, LargestPieceMM: c.Version.Piece, EarlyRelease: c.Shop.Early}})
			r := &latchRun{t: t, c: c, fold: fold, turns: map[int]int64{}, named: map[string]int64{}}
			refused := []int{}
			for i, e := range c.Events {
				if !r.play(i, e) {
					refused = append(refused, i)
				}
			}
			last := c.Events[len(c.Events)-1]
			got := fold.Record(clock(t, last.At))
			assert.Equal(t, c.Want.State, got.State, got.Acidity.Sentence)
			assert.Equal(t, fmt.Sprint(c.Want.Refused), fmt.Sprint(refused), "refused events")
		})
	}
}
