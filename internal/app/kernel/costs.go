package kernel

import (
	"time"
)

// costStore answers what costs ask of the record.
type costStore interface {
	JarsMade(formula string, since time.Time) (jars int, first time.Time, err error)
	BatchesFilled(formula string, most int) ([]Batch, error)
}
