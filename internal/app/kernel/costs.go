package kernel

import (
	"time"
)

// CostStore answers what costs ask of the record.
type CostStore interface {
	JarsMade(formula string, since time.Time) (jars int, first time.Time, err error)
	BatchesFilled(formula string, most int) ([]Batch, error)
}
