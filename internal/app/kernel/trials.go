package kernel

import (
	"time"

	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
)

// Trial is a making of a formula as it is kept.
type Trial struct {
	ID        int64
	Rev       int
	FormulaID string
	MadeOn    time.Time
	Data      formula.Trial
	UpdatedAt time.Time
	UpdatedBy string
}

// Core returns the trial with its identity.
func (t Trial) Core() formula.Trial {
	c := t.Data
	c.ID, c.MadeOn = t.ID, day.Of(t.MadeOn)
	return c
}

// trialStore keeps trials.
type trialStore interface {
	Trials(formulaID string) ([]Trial, error)
	AddTrial(t *Trial) error
	SaveTrial(t Trial, rev int) error
	DropTrial(formulaID string, id int64, why string, by Stamp) error
}
