package formula

import (
	"fmt"
	"time"

	"gallipot/internal/core/amount"
)

// Logged is one thing that happened in a making, in the maker's order: something went in, it was tasted, something was
// added for a reason.
type Logged struct {
	At         time.Time    `json:"at"`
	Kind       string       `json:"kind"`
	Ingredient string       `json:"ingredient,omitempty"`
	Component  *Ref         `json:"component,omitempty"`
	Grams      amount.Grams `json:"grams"`
	Instead    string       `json:"instead_of,omitempty"`
	Words      string       `json:"words,omitempty"` // what it tasted like, or what was seen
	Reason     string       `json:"reason,omitempty"`
}

// What may happen in a making.
const (
	WentIn    = "in"
	WasTasted = "tasted"
	WasAdded  = "added"
)

// maxLogged is how much a log holds.
const maxLogged = 500

// OfLog is the trial with the lines that follow from its log: what went in and what was added to taste, by what it is
// and what it stood in for, in the order in which it first came.
func (t Trial) OfLog() Trial {
	t.Lines = []TrialLine{}
	for _, e := range t.Log {
		if e.Kind == WasTasted {
			continue
		}
		at := -1
		for i, l := range t.Lines {
			if l.Key() == keyOf(e.Ingredient, e.Component) && l.Instead == e.Instead {
				at = i
			}
		}
		if at < 0 {
			at = len(t.Lines)
			t.Lines = append(t.Lines, TrialLine{Ingredient: e.Ingredient, Component: e.Component, Instead: e.Instead})
		}
		l := &t.Lines[at]
		l.Grams = l.Grams.Plus(e.Grams)
		if e.Kind == WasAdded {
			l.Added = l.Added.Plus(e.Grams)
			if l.Reason != "" && e.Reason != "" {
				l.Reason += "; "
			}
			l.Reason += e.Reason
		}
	}
	return t
}

func (c *checker) log(list []Logged) {
	if len(list) > maxLogged {
		c.bad("log", "at most %d entries", maxLogged)
	}
	for i, e := range list {
		at := fmt.Sprintf("log[%d]", i)
		c.text(at+".words", e.Words, maxText)
		c.text(at+".reason", e.Reason, maxText)
		switch e.Kind {
		case WentIn, WasAdded:
			if (e.Ingredient == "") == (e.Component == nil) {
				c.bad(at, "name either an ingredient or a component")
			}
			c.grams(at+".grams", e.Grams, amount.MaxGrams)
			if !e.Grams.IsPositive() {
				c.bad(at+".grams", "grams above 0")
			}
			if e.Kind == WasAdded && e.Reason == "" {
				c.bad(at+".reason", "say why it was added")
			}
		case WasTasted:
			if e.Words == "" {
				c.bad(at+".words", "say what it tasted like")
			}
		default:
			c.bad(at+".kind", "went in, tasted or added")
		}
	}
}
