package bench

import (
	"fmt"
	"slices"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/law"
)

// HotJars names the hot-filled jars as the subject of a cooling log.
const HotJars = "jars"

// cooled is a temperature with who took it.
type cooled struct {
	Cooled
	by string
	id int64
}

// CooledAt is one temperature of a cooling log.
type CooledAt struct {
	Celsius float64   `json:"celsius"`
	At      time.Time `json:"at"`
	By      string    `json:"by"`
	Probe   string    `json:"probe,omitempty"`
	Entry   int64     `json:"entry"`
}

// States of a cooling log.
const (
	CoolingNone   = "none"   // nothing was taken yet
	CoolingRuns   = "runs"   // it is on the way down
	CoolingMet    = "met"    // it came down in time
	CoolingMissed = "missed" // too late, or begun when it was cold already
)

// Cooling is the log of one hot thing, judged against the law's steps. Due is when the current step must be reached.
type Cooling struct {
	What  string     `json:"what"`
	Name  string     `json:"name"`
	State string     `json:"state"`
	Word  string     `json:"word"`
	ToC   float64    `json:"to_c"`
	Due   *time.Time `json:"due"`
	Taken []CooledAt `json:"taken"`
}

// JudgeCooling judges temperatures, in order of time, against the law's steps. The first step counts from the last
// temperature above it, which is the strictest reading; each later step counts from when the one before is known to be
// met; all steps together never take longer than their sum (handbook 06).
func JudgeCooling(taken []CooledAt, steps []law.CoolStep, now time.Time) Cooling {
	c := Cooling{State: CoolingNone, Taken: taken,
		Word: "Take its temperature as it comes off the heat, and go on until it is cold."}
	if len(steps) > 0 {
		c.ToC = steps[0].ToC
	}
	if len(taken) == 0 || len(steps) == 0 {
		return c
	}
	if first := taken[0]; first.Celsius < coolingBegins {
		c.State = CoolingMissed
		c.Word = fmt.Sprintf("Begun at %s °C: nobody knows how long it took to come down to that.",
			degrees(first.Celsius))
		return c
	}
	began, whole := taken[0].At, 0
	var first time.Time
	for _, step := range steps {
		began = hottest(taken, step, began)
		if whole == 0 {
			first = began
		}
		whole += step.Minutes
		due := began.Add(time.Duration(step.Minutes) * time.Minute)
		if all := first.Add(time.Duration(whole) * time.Minute); all.Before(due) {
			due = all // the steps together, from when the first began
		}
		met, goesOn := c.judge(step, due, now)
		if !goesOn {
			return c
		}
		began = met
	}
	c.State, c.Due = CoolingMet, nil
	c.Word = fmt.Sprintf("Down to %s °C in time.", degrees(c.ToC))
	return c
}

// hottest returns the last time, before a step was met, at which the step had not begun; without one it returns since.
func hottest(taken []CooledAt, step law.CoolStep, since time.Time) time.Time {
	for _, t := range taken {
		if step.FromC > 0 && t.Celsius >= step.FromC {
			since = t.At
		}
		if t.Celsius <= step.ToC {
			break
		}
	}
	return since
}

// judge judges one step that is due; goesOn if it was met, at that time.
func (c *Cooling) judge(step law.CoolStep, due, now time.Time) (met time.Time, goesOn bool) {
	c.ToC, c.Due = step.ToC, &due
	i := slices.IndexFunc(c.Taken, func(t CooledAt) bool { return t.Celsius <= step.ToC })
	switch {
	case i >= 0 && slices.ContainsFunc(c.Taken[i:], func(t CooledAt) bool { return t.Celsius > step.ToC }):
		c.State, c.Due = CoolingMissed, nil
		c.Word = fmt.Sprintf("It was down to %s °C and warmer again after that.", degrees(step.ToC))
	case i >= 0 && !c.Taken[i].At.After(due):
		return c.Taken[i].At, true
	case i >= 0 || now.After(due):
		c.State = CoolingMissed
		c.Word = fmt.Sprintf("Not at %s °C within %d min: it had to be there by %s.", degrees(step.ToC), step.Minutes,
			"%s")
	default:
		c.State, c.Word = CoolingRuns, fmt.Sprintf("At %s °C by %s.", degrees(step.ToC), "%s")
	}
	return time.Time{}, false
}

// coolingBegins is the temperature from which a cooling log begins: 135 °F, FDA Food Code 3-501.14(A); below it what
// grows has begun to.
const coolingBegins = 57.0

func degrees(c float64) string { return amount.Shown(c, 1) }

// hot returns what needs a cooling log: lines that come hot from a preparation made for this batch, and hot-filled jars
// that are then chilled.
func (f *Fold) hot(lines []LineState) []Cooling {
	var out []Cooling
	for _, l := range lines {
		fresh := len(l.Draws) == 0 || slices.ContainsFunc(l.Draws, func(d Draw) bool { return d.Step != "" })
		if l.Hot != "" && fresh && !l.LeftOut {
			out = append(out, Cooling{What: l.Line, Name: l.Name})
		}
	}
	if f.n.Planned.HotFilled {
		out = append(out, Cooling{What: HotJars, Name: "the hot-filled jars"})
	}
	return out
}

// coolingLogs returns the batch's cooling logs as they stand at a time.
func (f *Fold) coolingLogs(lines []LineState, now time.Time) []Cooling {
	out := f.hot(lines)
	for i := range out {
		taken := []CooledAt{}
		for _, c := range f.cooling {
			if c.What == out[i].What {
				taken = append(taken, CooledAt{c.Celsius, c.At, c.by, c.Probe, c.id})
			}
		}
		slices.SortStableFunc(taken, func(a, b CooledAt) int { return a.At.Compare(b.At) })
		j := JudgeCooling(taken, f.n.Cooling, now)
		j.What, j.Name = out[i].What, out[i].Name
		if j.Due != nil {
			j.Word = fmt.Sprintf(j.Word, f.n.Bounds.Tongue.Moment(j.Due.In(f.zone())))
		}
		out[i] = j
	}
	if out == nil {
		out = []Cooling{}
	}
	return out
}

func (f *Fold) cool(e Entry, x *Cooled) {
	f.hand(e)
	f.late(e, x.At)
	f.cooling = append(f.cooling, cooled{*x, e.By, e.ID})
}

func (f *Fold) refusesCooled(e Entry, x *Cooled) error {
	if err := f.closed("the cooling log"); err != nil {
		return err
	}
	known := x.What == HotJars || slices.ContainsFunc(f.n.Targets, func(t Target) bool { return t.Line == x.What })
	switch {
	case !known:
		return entry.Refuse(entry.Wrong, "cooled.what", "this is not in the batch")
	case !(x.Celsius >= -30 && x.Celsius <= 250):
		return entry.Refuse(entry.Wrong, "cooled.celsius", "a temperature between −30 and 250 °C")
	}
	return claimed("cooled.at", x.At, e.At)
}

// coolingLacks returns what the cooling logs still lack for a release, and what only an owner may decide.
func coolingLacks(logs []Cooling) (missing, owner []string) {
	for _, c := range logs {
		switch c.State {
		case CoolingNone:
			missing = append(missing, "the cooling log of "+c.Name)
		case CoolingRuns:
			missing = append(missing, fmt.Sprintf("%s at %s °C", c.Name, degrees(c.ToC)))
		case CoolingMissed:
			owner = append(owner, "the cooling of "+c.Name+" was missed")
		}
	}
	return missing, owner
}
