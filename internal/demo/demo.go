// Package demo is the made-up shop: its bundle, and three months of batches told relative to today.
package demo

import (
	"bytes"
	_ "embed"
	"fmt"

	"gallipot/internal/app/office"
	"gallipot/internal/interchange"
)

//go:embed hollin-lane.bundle.json
var bundle []byte

// Bundle returns the example bundle of the demo shop.
func Bundle() (office.Bundle, error) {
	b, err := interchange.ReadBundle(bytes.NewReader(bundle))
	if err != nil {
		return b, fmt.Errorf("demo bundle: %w", err)
	}
	return b, nil
}
