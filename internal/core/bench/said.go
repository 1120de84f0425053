package bench

import (
	"strings"

	"gallipot/internal/core/entry"
)

// said is what a hand wrote with an act: the field that it stands in, and how many characters it has at most.
type said struct {
	field string
	text  *string
	most  int
}

// mostSaid is how many characters a reason or a note has at most, mostTold those of a decision that is read again.
const (
	mostSaid = 300
	mostTold = 500
)

// Tidy trims what a hand wrote with an act. Errors: entry.Refusal where it is too long.
func Tidy(e Entry) error {
	act, says := e.Body.(interface{ said() []said })
	if !says {
		return nil
	}
	for _, s := range act.said() {
		*s.text = strings.TrimSpace(*s.text)
		if len([]rune(*s.text)) > s.most {
			return entry.Refuse(entry.Wrong, e.Kind()+"."+s.field, "at most %d characters", s.most)
		}
	}
	return nil
}

func (x *Fill) said() []said { return []said{{"reason", &x.Reason, mostSaid}} }

func (x *Void) said() []said { return []said{{"cause", &x.Cause, mostSaid}} }

func (x *Laboratory) said() []said { return []said{{"report", &x.Report, 200}} }

func (x *Strained) said() []said { return []said{{"note", &x.Note, mostSaid}} }

func (x *Decided) said() []said { return []said{{"reason", &x.Reason, mostTold}} }

func (x *JarsIn) said() []said { return []said{{"reason", &x.Reason, mostTold}} }

func (x *MadeGood) said() []said {
	return []said{{"reason", &x.Reason, mostTold}, {"told", &x.Told, mostTold}, {"authority", &x.Authority, mostTold}}
}

func (x *Moved) said() []said { return []said{{"reason", &x.Reason, mostSaid}} }

func (x *Capture) said() []said { return []said{{"reason", &x.Reason, mostSaid}} }

func (x *Choice) said() []said { return []said{{"reason", &x.Reason, mostSaid}} }

func (x *Tasted) said() []said { return []said{{"note", &x.Note, mostSaid}} }

func (x *LeftOut) said() []said { return []said{{"reason", &x.Reason, mostSaid}} }

func (x *TakenOut) said() []said { return []said{{"reason", &x.Reason, mostSaid}} }

func (x *Added) said() []said { return []said{{"note", &x.Note, mostSaid}} }

func (x *Ticked) said() []said { return []said{{"note", &x.Note, mostSaid}} }

func (x *Closed) said() []said { return []said{{"note", &x.Note, mostSaid}} }

func (x *Cooled) said() []said { return []said{{"probe", &x.Probe, mostSaid}} }

func (x *NetWeights) said() []said { return []said{{"scale", &x.Scale, 100}} }

func (x *Counted) said() []said { return []said{{"reason", &x.Reason, mostTold}} }

func (x *Aimed) said() []said { return []said{{"reason", &x.Reason, mostSaid}} }

func (x *Worked) said() []said { return []said{{"note", &x.Note, mostSaid}} }
