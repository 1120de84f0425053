package kernel

import (
	"slices"
	"time"

	"gallipot/internal/core/pantry"
)

// Preparation is a kitchen step as it is kept: the shop's own, or a typical one that it touched.
type Preparation struct {
	ID        string
	Rev       int
	Data      pantry.Preparation
	UpdatedAt time.Time
	UpdatedBy string
}

// preparationStore keeps kitchen steps.
type preparationStore interface {
	Preparations() ([]Preparation, error)
	AddPreparation(p Preparation) error
	SavePreparation(p Preparation, rev int) error
}

// StepsAmong puts the shop's own steps among the typical ones, with the revisions of its own.
func (a *Kernel) StepsAmong(rows []Preparation) ([]pantry.Preparation, map[string]int) {
	revs := make(map[string]int, len(rows))
	out := slices.Grow(slices.Clone(a.Typical.Preparations), len(rows))
	for _, r := range rows {
		p := r.Data
		p.ID, revs[r.ID] = r.ID, r.Rev
		at := slices.IndexFunc(a.Typical.Preparations, func(t pantry.Preparation) bool { return t.ID == r.ID })
		if at >= 0 {
			out[at] = p
		} else {
			out = append(out, p)
		}
	}
	return out, revs
}
